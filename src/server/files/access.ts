import type { Actor } from '@/core/access/may';
import { type FileSight, sightOf } from '@/core/access/sight';
import { bareContext, type Context } from '@/core/circulation/run/context';
import { type Circulation, newest } from '@/core/circulation/run/state';
import type { DraftVersion, RecordState, Revision, RevisionFile } from '@/core/record/record';
import { dayIn } from '@/core/time/zone';
import { profileOf } from '../admin/profile';
import { circulationSubject } from '../circulation/claims';
import { contextOf } from '../circulation/context';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { type DraftRow, draftOf } from '../drafting/draft';
import { refuse } from '../refused';
import { findFile, type StoredFile } from './store';

export interface ServedFile {
  readonly file: StoredFile;
  readonly name: string;
  /** How it stood when it was asked for, as a copy made for printing says it. */
  readonly standing: string;
  /** Whether a revision took its place: nobody gets it without having been told. */
  readonly superseded: boolean;
}

interface Standing {
  readonly standing: string;
  readonly superseded?: boolean;
}

/** What is wanted of a file: to be shown on one of our pages, printed, or had as a file. */
export type Wanted = 'show' | 'print' | 'download';

/**
 * Whether somebody gets a file in the wanted way. Refuses what the stages keep from whoever sees it: to print it, or to have
 * it. False where it is not there for them.
 */
function isHad(sight: FileSight | undefined, wanted: Wanted): boolean {
  if (!sight || sight.see !== null) return false;
  const bar = wanted === 'show' ? null : sight[wanted];
  if (bar === 'apart' || bar === 'over') return false;
  if (bar !== null) refuse(`file-${bar}`);
  return true;
}

/** What somebody sees of the files of a circulation, whose context is read unless it is there. */
export async function sightInCirculation(
  tx: Tx,
  id: string,
  state: Circulation,
  actor: Actor,
  context: Context | null = null,
): Promise<ReadonlyMap<string, FileSight>> {
  const person = actor.kind === 'member' || actor.kind === 'link' ? actor.person : '';
  const rights = await circulationSubject(tx, id, state, actor);
  return sightOf({ kind: 'circulation', state, rights }, actor, context ?? (await contextOf(tx, state, person)));
}

/** A file as part of a circulation, for those whom the circulation concerns. */
export async function fileOfCirculation(
  tx: Tx,
  actor: Actor,
  circulation: string,
  hash: string,
  wanted: Wanted,
): Promise<ServedFile | null> {
  const state = await circulationState(tx, circulation);
  if (!state || !isHad((await sightInCirculation(tx, circulation, state, actor)).get(hash), wanted)) return null;
  const names = new Map(state.versions.flatMap((version) => version.files.map((file) => [file.id, file.name])));
  const final = state.finals?.files.find((file) => file.file === hash);
  const released = { standing: `${state.number} · ${state.phase === 'completed' ? 'released' : 'not released yet'}` };
  if (final) return served(tx, hash, names.get(final.id) ?? 'final.pdf', released);
  if (state.evidence === hash) return served(tx, hash, `${state.number} evidence sheet.pdf`, released);
  const frozen = [...state.frozen].find(([, { chain }]) => chain.includes(hash));
  if (frozen)
    return served(tx, hash, names.get(frozen[0]) ?? 'document.pdf', draft(state.number, newest(state), state));
  const version = state.versions.findLast((one) => one.files.some((file) => file.file === hash));
  const found = version?.files.find((file) => file.file === hash);
  return found ? served(tx, hash, found.name, draft(state.number, version ?? null, state)) : null;
}

/** What a copy of a draft says: which version of which, and that it is nothing to work by. */
function draft(number: string, version: { readonly number: number } | null, state: Circulation): Standing {
  const last = newest(state)?.number ?? 0;
  const older = version && version.number < last ? `, replaced by version ${last}` : '';
  return { standing: `${number} · draft, version ${version?.number ?? last}${older} · not released` };
}

/** A file of a released revision, for whoever sees it. */
export async function fileOfRevision(
  tx: Tx,
  actor: Actor,
  record: string,
  revision: string,
  id: string | null,
  wanted: Wanted,
): Promise<ServedFile | null> {
  const state = await recordState(tx, record);
  const found = state?.revisions.find((candidate) => candidate.revision === revision);
  if (!state || !found) return null;
  const sight = sightOf({ kind: 'record', record: state }, actor, bareContext(tx.now, ''));
  if (id === 'evidence')
    return found.evidence && isHad(sight.get(found.evidence), wanted)
      ? served(tx, found.evidence, `${state.number} ${found.revision} evidence sheet.pdf`, {
          standing: `${state.number} · evidence of revision ${found.revision}`,
        })
      : null;
  const file = id === null ? found.files[0] : found.files.find((candidate) => candidate.id === id);
  if (!file || !isHad(sight.get(file.file), wanted)) return null;
  const next = state.revisions[state.revisions.indexOf(found) + 1];
  const { zone } = await profileOf(tx);
  const standing = next
    ? `${state.number} · revision ${found.revision} · SUPERSEDED by revision ${next.revision} on ${dayIn(zone, next.effective, 0)}`
    : `${state.number} · revision ${found.revision} · current on ${dayIn(zone, tx.now, 0)}`;
  return served(tx, file.file, releasedName(state, found, file), {
    standing,
    superseded: next !== undefined,
  });
}

/** What a released file is called where it is kept: by its document, and by its own name where there are several. */
function releasedName(record: RecordState, revision: Revision, file: RevisionFile): string {
  const own = revision.files.length === 1 ? `${revision.title}.pdf` : file.name;
  return `${record.number} ${revision.revision} ${own}`;
}

/** The files of a working copy and of the versions that were made of it. */
function filesOfDraft(row: DraftRow, made: readonly DraftVersion[]) {
  return [
    ...row.documents.flatMap((document) => document.file ?? []),
    ...row.attachments,
    ...made.flatMap((version) => version.files),
  ];
}

/** What somebody sees of these files. */
export function sightInDraft(
  tx: Tx,
  row: DraftRow,
  made: readonly DraftVersion[],
  actor: Actor,
): ReadonlyMap<string, FileSight> {
  const { author, controller } = row;
  const files = filesOfDraft(row, made).map(({ file }) => file);
  return sightOf({ kind: 'draft', author, controller, files }, actor, bareContext(tx.now, ''));
}

/** A file of a working copy or of a version that was made of it, for its author and controller. */
export async function fileOfDraft(
  tx: Tx,
  actor: Actor,
  change: string,
  hash: string,
  wanted: Wanted,
): Promise<ServedFile | null> {
  const row = await draftOf(tx, change);
  if (!row) return null;
  const made =
    (await recordState(tx, row.record))?.changes.find((candidate) => candidate.id === change)?.versions ?? [];
  if (!isHad(sightInDraft(tx, row, made, actor).get(hash), wanted)) return null;
  const found = filesOfDraft(row, made).find(({ file }) => file === hash);
  return found ? served(tx, hash, found.name, { standing: 'draft · not submitted' }) : null;
}

/** A file through a link: what its seat is asked about while it is, the copy for a time after release, else nothing. */
export async function fileOfLink(
  tx: Tx,
  link: Extract<Actor, { kind: 'link' }>,
  hash: string,
  wanted: Wanted,
): Promise<ServedFile | null> {
  const state = await circulationState(tx, link.circulation);
  const version = state && newest(state);
  if (!state || !version) return null;
  if (!isHad((await sightInCirculation(tx, link.circulation, state, link)).get(hash), wanted)) return null;
  const final = state.finals?.files.find((file) => file.file === hash);
  if (!final) {
    const found = version.files.find(
      ({ id, file }) => file === hash || state.frozen.get(id)?.chain.includes(hash) === true,
    );
    return found ? served(tx, hash, found.name, draft(state.number, version, state)) : null;
  }
  const record = await recordState(tx, version.files.find((file) => file.id === final.id)?.record ?? '');
  const revision = record?.revisions.find((one) => one.files.some((file) => file.file === hash));
  const file = revision?.files.find((one) => one.file === hash);
  return record && revision && file
    ? served(tx, hash, releasedName(record, revision, file), {
        standing: `${record.number} · revision ${revision.revision} · released`,
      })
    : null;
}

async function served(tx: Tx, hash: string, name: string, how: Standing): Promise<ServedFile | null> {
  const file = await findFile(tx, hash);
  return file && { file, name, standing: how.standing, superseded: how.superseded ?? false };
}
