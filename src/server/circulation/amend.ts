import type { CommandOf } from '@/core/circulation/acts/commands';
import { type Preview, previewOf } from '@/core/circulation/plan/preview';
import type { PayloadHash, VersionFile } from '@/core/circulation/run/shapes';
import { type Circulation, newest } from '@/core/circulation/run/state';
import type { Refusal } from '@/core/refusals';
import { assigneesIn, type Series } from '@/core/route/route';
import type { Instant } from '@/core/time/instant';
import { needPeople } from '../admin/people';
import type { Tx } from '../db/connect';
import { asksForMarginLine, type DraftRow, draftFile, draftOf, saveDraft, withPrints } from '../drafting/draft';
import { noteIn, payloads, putPayloadIfAny } from '../events/payloads';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';
import { act } from './act';
import { contextOf } from './context';
import { circulationState, recordState } from './load';

/** A file as an amended version shall hold it: one that is there, by its id, or one that was just sent. */
export interface AmendedFile {
  readonly id: string | null;
  readonly file: string;
  readonly name: string;
  readonly role: 'document' | 'attachment';
}

export interface Amendment {
  readonly basis: string;
  readonly route: Series;
  /** The words to everybody; the reason is told to whoever notices the amendment. */
  readonly note: string | null;
  readonly reason: string | null;
  readonly whole: { readonly due: Instant | null; readonly closes: Instant | null } | null;
  /** Every file of the next version; null leaves the files. */
  readonly files: readonly AmendedFile[] | null;
}

/** Makes an amendment: all of it, or nothing. */
export async function amendCirculation(tx: Tx, circulation: string, given: Amendment, actor: string): Promise<void> {
  const state = (await circulationState(tx, circulation)) ?? refuse('not-found');
  await needRouted(tx, given.route);
  const version = given.files && (await nextVersion(tx, state, given.files, actor));
  if (version) await recordVersion(tx, state, version, actor);
  await act(tx, circulation, await commandFor(tx, state, given, version, putPayloadIfAny), actor);
}

/** What an amendment would change for whom, or why it cannot be made; nothing is written. */
export async function previewAmendment(
  tx: Tx,
  circulation: string,
  given: Amendment,
  actor: string,
): Promise<{ readonly ok: true; readonly preview: Preview } | { readonly ok: false; readonly refusal: Refusal }> {
  const state = (await circulationState(tx, circulation)) ?? refuse('not-found');
  await needRouted(tx, given.route);
  const version = given.files && (await nextVersion(tx, state, given.files, actor));
  // Words are not kept while somebody only looks; that they are others is all that counts.
  const command = await commandFor(tx, state, given, version, (_, text) => (text ? `said ${text}` : null));
  return previewOf(state, command, await contextOf(tx, state, actor, { amended: given.route, circulation }));
}

async function needRouted(tx: Tx, route: Series): Promise<void> {
  await needPeople(tx, assigneesIn(route), { left: true });
}

interface NextVersion {
  readonly number: number;
  readonly files: readonly VersionFile[];
}

async function commandFor(
  tx: Tx,
  state: Circulation,
  { basis, route, note, reason, whole }: Amendment,
  version: NextVersion | null,
  keep: (tx: Tx, text: string | null) => PayloadHash | null,
): Promise<CommandOf<'amend'>> {
  const said = noteIn(await payloads(tx, [state.note]), state.note);
  const words = note?.trim() || null;
  return {
    type: 'amend',
    basis,
    plan: route,
    note: words === said ? state.note : keep(tx, words),
    whole,
    version,
    reason: keep(tx, reason?.trim() || null),
  };
}

/** The version that these files make: known ones as they are, and those that the actor has sent. */
async function nextVersion(
  tx: Tx,
  state: Circulation,
  files: readonly AmendedFile[],
  actor: string,
): Promise<NextVersion> {
  const before = newest(state);
  const record = await recordState(tx, state.records[0] ?? '');
  const change = record?.changes.find(({ id }) => id === state.change);
  const draft = await draftOf(tx, state.change);
  if (!before || !change || !draft) refuse('not-found');
  const made: VersionFile[] = [];
  for (const { id, file, name, role } of files) {
    const known = before.files.find((one) => one.id === id);
    if (known?.file === file && known.role === role) {
      made.push(known);
      continue;
    }
    const { mediaType, bytes } = await draftFile(tx, { file, name }, actor, draft);
    const of = known?.record ?? draft.record;
    if (role === 'document' && mediaType !== 'application/pdf') refuse('file-not-pdf');
    if (role === 'document' && (await asksForMarginLine(tx, of))) refuse('amend-margin');
    made.push({ id: known?.id ?? newId(), file, name, role, record: of, mediaType, bytes });
  }
  const number = Math.max(before.number, ...change.versions.map((version) => version.number)) + 1;
  return { number, files: await withPrints(tx, made) };
}

/** Records the version with the change, and brings the author's working copy to it, so that the next one goes on from there. */
async function recordVersion(tx: Tx, state: Circulation, { number, files }: NextVersion, actor: string): Promise<void> {
  const draft = (await draftOf(tx, state.change)) as DraftRow;
  const documents = files.filter(({ role }) => role === 'document');
  await actOnRecord(
    tx,
    draft.record,
    {
      type: 'version.made',
      data: {
        change: state.change,
        number,
        order: documents.map(({ id }) => id),
        sources: [],
        files: [...files],
        note: null,
      },
    },
    actor,
  );
  const before = newest(state);
  const copy = documents.map(({ id, record, file, name, mediaType, bytes }) => {
    const own = draft.documents.find((one) => one.id === id);
    const same = before?.files.some((one) => one.id === id && one.file === file);
    if (own && same) return own;
    return { id, record, name: own?.name ?? name, source: 'file' as const, file: { file, name, mediaType, bytes } };
  });
  const attachments = files
    .filter(({ role }) => role === 'attachment')
    .map(({ id, file, name, mediaType, bytes }) => ({ id, file, name, mediaType, bytes }));
  await saveDraft(tx, state.change, draft.edit, { documents: copy, attachments });
}
