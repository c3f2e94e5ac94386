import { type Actor, involvedIn, may } from '@/core/access/may';
import { isPositive } from '@/core/circulation/events';
import { decisionOf, newest, seatAt } from '@/core/circulation/state';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { type DraftFile, draftOf } from '../drafting/draft';
import { receiptDays } from '../signing/sign';
import { findFile, type StoredFile } from './store';

export interface ServedFile {
  readonly file: StoredFile;
  readonly name: string;
}

/** A file as part of a circulation, for those whom the circulation concerns. */
export async function fileOfCirculation(
  tx: Tx,
  actor: Actor,
  circulation: string,
  hash: string,
): Promise<ServedFile | null> {
  const state = await circulationState(tx, circulation);
  if (!state) return null;
  const { controller, author } = state;
  if (
    !may(actor, 'circulation.read', {
      kind: 'circulation',
      id: circulation,
      controller,
      author,
      involved: involvedIn(state),
    })
  )
    return null;
  const record = await recordState(tx, state.record);
  if (state.final?.file === hash) return served(tx, hash, `${record?.number ?? ''} ${record?.title ?? ''}, final.pdf`);
  const found = state.versions.flatMap((version) => version.files).find((file) => file.file === hash);
  return found ? served(tx, hash, found.name) : null;
}

/** A released revision, for every member. */
export async function fileOfRevision(
  tx: Tx,
  actor: Actor,
  record: string,
  revision: string,
): Promise<ServedFile | null> {
  if (!may(actor, 'record.read', { kind: 'organization' })) return null;
  const state = await recordState(tx, record);
  const found = state?.revisions.find((candidate) => candidate.revision === revision);
  return state && found ? served(tx, found.file, `${state.number} ${found.revision} ${state.title}.pdf`) : null;
}

/** A file of a working copy, for its author and controller. */
export async function fileOfDraft(tx: Tx, actor: Actor, change: string, hash: string): Promise<ServedFile | null> {
  const row = await draftOf(tx, change);
  if (!row || !may(actor, 'draft.read', { kind: 'draft', author: row.author, controller: row.controller })) return null;
  const main = row.main ? (JSON.parse(row.main) as DraftFile) : null;
  const found = [...(main ? [main] : []), ...row.attachments].find((file) => file.file === hash);
  if (found) return served(tx, hash, found.name);
  const record = await recordState(tx, row.record);
  const made = record?.changes
    .find((candidate) => candidate.id === change)
    ?.versions.flatMap((version) => version.files)
    .find((file) => file.file === hash);
  return made ? served(tx, hash, made.name) : null;
}

/** A file through a link: the version while its seat is asked, the copy for a time after release, else nothing. */
export async function fileOfLink(
  tx: Tx,
  link: { circulation: string; seat: string; epoch: number },
  hash: string,
): Promise<ServedFile | null> {
  const state = await circulationState(tx, link.circulation);
  const seat = state && seatAt(state, link.seat);
  if (!state || !seat || seat.epoch !== link.epoch || !seat.outside) return null;
  const version = newest(state);
  if (state.phase === 'running' && seat.status === 'asked') {
    const found = version?.files.find((file) => file.file === hash);
    return found ? served(tx, hash, found.name) : null;
  }
  const decision = decisionOf(state, seat);
  const within = state.ended !== null && tx.now <= state.ended + receiptDays * 86_400_000;
  if (
    state.phase !== 'completed' ||
    state.final?.file !== hash ||
    !decision ||
    !isPositive(decision.outcome) ||
    !within
  )
    return null;
  const record = await recordState(tx, state.record);
  return served(tx, hash, `${record?.number ?? ''} ${record?.title ?? ''}.pdf`);
}

async function served(tx: Tx, hash: string, name: string): Promise<ServedFile | null> {
  const file = await findFile(tx, hash);
  return file && { file, name };
}
