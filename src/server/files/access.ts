import { type Actor, may } from '@/core/access/may';
import { fileUse } from '@/core/circulation/run/fileUse';
import { baseHolder, type Circulation, decisionOf, filesOf, newest, stagePlanOf } from '@/core/circulation/run/state';
import type { RecordState, Revision, RevisionFile } from '@/core/record/record';
import { isPositive, verbFacts } from '@/core/route/verbs';
import { dayIn } from '@/core/time/zone';
import { profileOf } from '../admin/profile';
import { circulationSubject } from '../circulation/claims';
import { contextOf } from '../circulation/context';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { draftOf } from '../drafting/draft';
import { refuse } from '../refused';
import { receiptDays } from '../signing/receipt';
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

/** Refuses what the stages do not allow in which a person is asked: to print a file, or to have it. */
async function needUse(tx: Tx, state: Circulation, person: string, wanted: Wanted): Promise<void> {
  if (wanted === 'show') return;
  const from = fileUse(state, person, await contextOf(tx, state, person))[wanted];
  if (from !== null) refuse(`file-${from}`);
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
  if (!state || !may(actor, 'circulation.read', await circulationSubject(tx, circulation, state, actor))) return null;
  if (actor.kind === 'member') await needUse(tx, state, actor.person, wanted);
  const names = new Map(state.versions.flatMap((version) => version.files.map((file) => [file.id, file.name])));
  const final = state.finals?.files.find((file) => file.file === hash);
  const released = { standing: `${state.number} · ${state.phase === 'completed' ? 'released' : 'not released yet'}` };
  if (final) return served(tx, hash, names.get(final.id) ?? 'final.pdf', released);
  if (state.evidence === hash) return served(tx, hash, `${state.number} evidence sheet.pdf`, released);
  const frozen = [...state.frozen].find(([, entry]) => entry.file === hash);
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

/** A file of a released revision, for every member. */
export async function fileOfRevision(
  tx: Tx,
  actor: Actor,
  record: string,
  revision: string,
  id: string | null,
): Promise<ServedFile | null> {
  if (!may(actor, 'record.read', { kind: 'organization' })) return null;
  const state = await recordState(tx, record);
  const found = state?.revisions.find((candidate) => candidate.revision === revision);
  if (!state || !found) return null;
  if (id === 'evidence')
    return found.evidence
      ? served(tx, found.evidence, `${state.number} ${found.revision} evidence sheet.pdf`, {
          standing: `${state.number} · evidence of revision ${found.revision}`,
        })
      : null;
  const file = id === null ? found.files[0] : found.files.find((candidate) => candidate.id === id);
  if (!file) return null;
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

/** A file of a working copy, for its author and controller. */
export async function fileOfDraft(tx: Tx, actor: Actor, change: string, hash: string): Promise<ServedFile | null> {
  const row = await draftOf(tx, change);
  if (!row || !may(actor, 'draft.read', { kind: 'draft', author: row.author, controller: row.controller })) return null;
  const own = [...row.documents.flatMap((document) => document.file ?? []), ...row.attachments];
  const found = own.find((file) => file.file === hash);
  const standing = { standing: 'draft · not submitted' };
  if (found) return served(tx, hash, found.name, standing);
  const record = await recordState(tx, row.record);
  const made = record?.changes
    .find((candidate) => candidate.id === change)
    ?.versions.flatMap((version) => version.files)
    .find((file) => file.file === hash);
  return made ? served(tx, hash, made.name, standing) : null;
}

/** A file through a link: what its seat is asked about while it is, the copy for a time after release, else nothing. */
export async function fileOfLink(
  tx: Tx,
  link: { circulation: string; seat: string; epoch: number },
  hash: string,
  wanted: Wanted,
): Promise<ServedFile | null> {
  const state = await circulationState(tx, link.circulation);
  const seat = state?.seats.get(link.seat);
  const holder = seat && baseHolder(seat);
  if (!state || !seat || !holder?.outside || seat.epoch !== link.epoch) return null;
  await needUse(tx, state, holder.person, wanted);
  const version = newest(state);
  if (state.phase === 'running' && seat.status === 'asked') {
    const files = version ? filesOf(state, seat.id, version) : [];
    const signs = verbFacts[stagePlanOf(state, seat).verb].signs;
    const found = files.find((file) => file.file === hash || (signs && state.frozen.get(file.id)?.file === hash));
    return found ? served(tx, hash, found.name, draft(state.number, version, state)) : null;
  }
  const decision = decisionOf(state, seat);
  const within = state.ended !== null && tx.now <= state.ended + receiptDays * 86_400_000;
  if (state.phase !== 'completed' || !version || !decision || !isPositive(decision.outcome) || !within) return null;
  const own = filesOf(state, seat.id, version);
  const final = state.finals?.files.find(
    (file) => file.file === hash && own.some((candidate) => candidate.id === file.id),
  );
  if (!final) return null;
  const record = await recordState(tx, own.find((file) => file.id === final.id)?.record ?? '');
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
