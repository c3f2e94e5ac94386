import Joi from 'joi';
import { newest } from '@/core/circulation/state';
import type { DraftVersion } from '@/core/record/record';
import { readStory, type Story, storyLimits } from '@/core/text/story';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { payloads } from '../events/streams';
import { findFile } from '../files/store';
import { type Claim, operation, personOf } from '../operations/operation';
import { hash, id, note } from '../operations/schemas';
import { refuse } from '../refused';
import { type DraftRow, draftFile, draftOf, makeVersion, saveDraft, submitVersion } from './draft';

const change = { change: id.required() };
const seen = { revision: Joi.number().integer().min(0).required() };
const fileName = Joi.string().trim().min(1).max(200);

async function claim(tx: Tx, given: string, action: 'draft.read' | 'draft.write'): Promise<Claim | null> {
  const row = await draftOf(tx, given);
  return row && { action, subject: { kind: 'draft', author: row.author, controller: row.controller } };
}

const write = (tx: Tx, _actor: unknown, input: { change: string }) => claim(tx, input.change, 'draft.write');

async function needDraft(tx: Tx, given: string): Promise<DraftRow> {
  return (await draftOf(tx, given)) ?? refuse('not-found');
}

/** Whether a version has its pages, waits for them, could not be given any, or needs none because its change has ended. */
function pagesOf(
  version: DraftVersion,
  renders: readonly { readonly number: number; readonly failed: boolean }[],
): 'made' | 'waited for' | 'failed' | 'none' {
  if (version.files.some((file) => file.role === 'main')) return 'made';
  const render = renders.find((candidate) => candidate.number === version.number);
  return !render ? 'none' : render.failed ? 'failed' : 'waited for';
}

export const draftingOperations = [
  operation<{ change: string }, unknown>({
    name: 'draft.view',
    kind: 'query',
    where: 'member',
    input: Joi.object(change),
    access: (tx, _actor, input) => claim(tx, input.change, 'draft.read'),
    run: async (tx, input) => {
      const row = await needDraft(tx, input.change);
      const record = await recordState(tx, row.record);
      const own = record?.changes.find((candidate) => candidate.id === input.change);
      if (!record || !own) refuse('not-found');
      const state = await circulationState(tx, row.circulation);
      const main = row.main ? (JSON.parse(row.main) as { file: string }) : null;
      const stored = main ? await findFile(tx, main.file) : null;
      const said = await payloads(tx, [own.reason, ...own.versions.map((version) => version.note)]);
      const renders = await tx.sql<{ number: number; submits: boolean; failed: boolean }[]>`
        select (data ->> 'number')::int as number, (data ->> 'submit')::boolean as submits, state = 'failed' as failed
        from job where organization = ${tx.organization} and kind = 'render' and state <> 'done'
          and data ->> 'change' = ${input.change}`;
      const returned = state?.decisions.findLast((decision) => decision.outcome === 'returned');
      const why = returned?.note ? (await payloads(tx, [returned.note])).get(returned.note) : null;
      return {
        change: row.change,
        circulation: row.circulation,
        record: { id: row.record, number: record.number, title: record.title },
        revision: own.revision,
        reason: said.get(own.reason) ?? null,
        author: row.author,
        controller: row.controller,
        phase: state?.phase ?? 'new',
        submitted: (state && newest(state)?.number) ?? null,
        returned:
          state?.phase === 'rework' && returned ? { by: returned.by, note: why ?? null, at: returned.at } : null,
        source: row.source,
        story: row.story ? (JSON.parse(row.story) as Story) : null,
        main: main && { ...main, pages: stored?.facts.pages ?? [] },
        attachments: row.attachments,
        draftRevision: row.revision,
        saved: row.saved,
        versions: own.versions.map((version) => ({
          number: version.number,
          source: version.source,
          at: version.at,
          by: version.by,
          note: version.note ? (said.get(version.note) ?? null) : null,
          pages: pagesOf(version, renders),
          submits: renders.some((render) => render.number === version.number && render.submits),
          file: version.files.find((file) => file.role === 'main')?.file ?? null,
        })),
      };
    },
  }),

  operation<{ change: string; revision: number; story: Story }, { revision: number }>({
    name: 'draft.saveText',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      ...change,
      ...seen,
      story: Joi.object({ blocks: Joi.array().max(storyLimits.blocks).required() })
        .unknown(false)
        .required(),
    }),
    access: write,
    run: async (tx, input) => {
      const story = readStory(input.story);
      if (typeof story === 'string') refuse(story === 'too-large' ? 'too-large' : 'bad-input', { fault: story });
      return { revision: await saveDraft(tx, input.change, input.revision, { story: JSON.stringify(story) }) };
    },
  }),

  operation<{ change: string; revision: number; source: 'text' | 'file' }, { revision: number }>({
    name: 'draft.choose',
    kind: 'command',
    where: 'member',
    input: Joi.object({ ...change, ...seen, source: Joi.valid('text', 'file').required() }),
    access: write,
    run: async (tx, input) => ({
      revision: await saveDraft(tx, input.change, input.revision, { source: input.source }),
    }),
  }),

  operation<{ change: string; revision: number; file: string; name: string }, { revision: number }>({
    name: 'draft.setFile',
    kind: 'command',
    where: 'member',
    input: Joi.object({ ...change, ...seen, file: hash.required(), name: fileName.required() }),
    access: write,
    run: async (tx, input) => {
      const file = await draftFile(tx, input);
      if (file.mediaType !== 'application/pdf') refuse('file-not-pdf');
      return {
        revision: await saveDraft(tx, input.change, input.revision, { source: 'file', main: JSON.stringify(file) }),
      };
    },
  }),

  operation<{ change: string; revision: number; files: { file: string; name: string }[] }, { revision: number }>({
    name: 'draft.setAttachments',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      ...change,
      ...seen,
      files: Joi.array()
        .max(50)
        .items(Joi.object({ file: hash.required(), name: fileName.required() }))
        .required(),
    }),
    access: write,
    run: async (tx, input) => {
      const attachments = [];
      for (const file of input.files) attachments.push(await draftFile(tx, file));
      return { revision: await saveDraft(tx, input.change, input.revision, { attachments }) };
    },
  }),

  operation<{ change: string; note: string | null }, { version: number }>({
    name: 'draft.makeVersion',
    kind: 'command',
    where: 'member',
    input: Joi.object({ ...change, note }),
    access: write,
    run: async (tx, input, actor) => ({
      version: (await makeVersion(tx, await needDraft(tx, input.change), input.note, personOf(actor), false)).number,
    }),
  }),

  operation<{ change: string; note: string | null }, { version: number; rendering: boolean }>({
    name: 'draft.submit',
    kind: 'command',
    where: 'member',
    input: Joi.object({ ...change, note }),
    access: write,
    run: async (tx, input, actor) => {
      const row = await needDraft(tx, input.change);
      const version = await makeVersion(tx, row, input.note, personOf(actor), true);
      // A text is handed in by the job that renders it; a file at once.
      if (version.source === 'file') await submitVersion(tx, row.circulation, version, personOf(actor));
      return { version: version.number, rendering: version.source === 'text' };
    },
  }),
];
