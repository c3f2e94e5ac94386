import { isSeen } from '@/core/access/sight';
import { offers } from '@/core/circulation/acts/offers';
import { newest } from '@/core/circulation/run/state';
import { type DraftVersion, hasItsPages } from '@/core/record/record';
import { contextOf } from '../circulation/context';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import { sightInDraft } from '../files/access';
import { factsOf } from '../files/store';
import type { Member } from '../operations/operation';
import { asksForMarginLine, draftOf, storiesOf } from './draft';
import { unsetLetters } from './unset';

interface Render {
  readonly number: number;
  readonly submits: boolean;
  readonly failed: boolean;
}

/** Whether a version has its pages, waits for them, could not be given any, or needs none because its change has ended. */
function pagesOf(version: DraftVersion, renders: readonly Render[]): 'made' | 'waited for' | 'failed' | 'none' {
  if (hasItsPages(version)) return 'made';
  const render = renders.find((candidate) => candidate.number === version.number);
  return !render ? 'none' : render.failed ? 'failed' : 'waited for';
}

/** The draft's page: its documents with their texts and files, its versions, and what became of them. */
export async function draftView(tx: Tx, change: string, actor: Member) {
  const me = actor.person;
  const row = await draftOf(tx, change);
  const record = row && (await recordState(tx, row.record));
  const own = record?.changes.find((candidate) => candidate.id === change);
  if (!row || !record || !own) return null;
  const state = await circulationState(tx, row.circulation);
  const sight = sightInDraft(tx, row, own.versions, actor);
  const isShown = ({ file }: { readonly file: string }) => isSeen(sight, file);
  const stories = await storiesOf(tx, change);
  const lined = new Set<string>();
  for (const of of own.records) if (await asksForMarginLine(tx, of)) lined.add(of);
  const facts = await factsOf(
    tx,
    row.documents.flatMap((document) => document.file?.file ?? []),
  );
  const returned = state?.decisions.findLast((decision) => decision.outcome === 'returned');
  const said = await payloads(tx, [own.reason, returned?.note, ...own.versions.map((version) => version.note)]);
  const renders = await tx.sql<Render[]>`
    select (data ->> 'number')::int as number, (data ->> 'submit')::boolean as submits, state = 'failed' as failed
    from job where organization = ${tx.organization} and kind = 'render' and state <> 'done'
      and data ->> 'change' = ${change}`;
  const records = [];
  for (const id of own.records) {
    const one = await recordState(tx, id);
    records.push({ id, number: one?.number ?? '', title: one?.title ?? '' });
  }
  const writes = row.author === me;
  return {
    change,
    circulation: row.circulation,
    record: { id: row.record, number: record.number, title: record.title },
    records,
    revision: own.revision,
    reason: noteIn(said, own.reason),
    author: row.author,
    controller: row.controller,
    phase: state?.phase ?? 'new',
    writes,
    /** Whether a version can be submitted now. */
    maySubmit:
      writes &&
      state !== null &&
      offers(state, await contextOf(tx, state, me)).some((offer) => offer.act === 'attach' && !offer.refusal),
    submitted: (state && newest(state)?.number) ?? null,
    returned:
      state?.phase === 'rework' && returned
        ? { by: returned.by, note: noteIn(said, returned.note), at: returned.at }
        : null,
    documents: row.documents.map((document) => ({
      ...document,
      story: stories.get(document.id) ?? null,
      /** Whether its PDF gets a margin line when it is submitted. */
      marginLine: lined.has(document.record),
      /** Letters of its text that cannot be set on a page yet. */
      unset: document.source === 'text' ? unsetLetters(stories.get(document.id)) : [],
      file:
        document.file && isShown(document.file)
          ? {
              ...document.file,
              pages: facts.get(document.file.file)?.pages ?? [],
              notices: facts.get(document.file.file)?.notices ?? [],
              noFields: facts.get(document.file.file)?.noFields ?? null,
            }
          : null,
    })),
    attachments: row.attachments.filter(isShown),
    edit: row.edit,
    saved: row.saved,
    versions: own.versions.map((version) => ({
      number: version.number,
      at: version.at,
      by: version.by,
      note: noteIn(said, version.note),
      pages: pagesOf(version, renders),
      submits: renders.some((render) => render.number === version.number && render.submits),
      file: version.files.find((file) => file.role === 'document' && isShown(file))?.file ?? null,
    })),
  };
}

export type DraftView = NonNullable<Awaited<ReturnType<typeof draftView>>>;
