import type { Context } from '../circulation/run/context';
import { fileUse } from '../circulation/run/fileUse';
import {
  baseHolder,
  type Circulation,
  decisionOf,
  filesOf,
  grownFile,
  newest,
  stagePlanOf,
} from '../circulation/run/state';
import type { RecordState, ReleasedSight } from '../record/record';
import type { Availability } from '../route/route';
import { isPositive, verbFacts } from '../route/verbs';
import { unreachable } from '../unreachable';
import { type Actor, may, type Subject } from './may';

/**
 * What keeps a file from somebody, which says from when they have it: once they have responded or it is released, as the
 * stage says; never there; never because nothing of it is theirs; no more because what gave it to them is over.
 */
type Bar = Exclude<Availability, 'asked'> | 'apart' | 'over';

/** What somebody may do with a file now: null where they may, else what keeps it from them. */
export interface FileSight {
  readonly see: Bar | null;
  readonly print: Bar | null;
  readonly download: Bar | null;
}

/** What files belong to: a circulation, a record with its revisions, a working copy with the files in it. */
type SightSubject =
  | {
      readonly kind: 'circulation';
      readonly state: Circulation;
      readonly rights: Extract<Subject, { kind: 'circulation' }>;
    }
  | { readonly kind: 'record'; readonly record: RecordState }
  | {
      readonly kind: 'draft';
      readonly author: string;
      readonly controller: string;
      readonly files: readonly string[];
    };

/** How long after release the copy can still be fetched through the receipt, in days. */
export const receiptDays = 30;
const day = 86_400_000;

const free: FileSight = { see: null, print: null, download: null };
const shut = (why: Bar): FileSight => ({ see: why, print: why, download: why });

/**
 * What somebody sees of each file of a subject at `context.now`, by the SHA-256 of its bytes; whatever is not in it is not of
 * the subject. The one answer that every address which serves or names a file goes by.
 */
export function sightOf(subject: SightSubject, actor: Actor, context: Context): ReadonlyMap<string, FileSight> {
  switch (subject.kind) {
    case 'circulation':
      return actor.kind === 'link'
        ? ofLink(subject, actor, context)
        : every(filesOfCirculation(subject.state), ofMember(subject, actor, context));
    case 'record':
      return ofRecord(subject.record, actor);
    case 'draft': {
      const { author, controller, files } = subject;
      return every(files, may(actor, 'draft.read', { kind: 'draft', author, controller }) ? free : shut('apart'));
    }
    default:
      return unreachable(subject, 'subject');
  }
}

/** Whether somebody sees a file; one that is not of the subject nobody sees. */
export function isSeen(sight: ReadonlyMap<string, FileSight>, file: string): boolean {
  return sight.get(file)?.see === null;
}

function every(files: Iterable<string>, sight: FileSight): Map<string, FileSight> {
  return new Map(Array.from(files, (file) => [file, sight]));
}

/** Every file that a circulation has: of its versions, frozen, final, and the sheet of its evidence. */
export function filesOfCirculation({ versions, frozen, finals, evidence }: Circulation): Set<string> {
  return new Set([
    ...versions.flatMap((version) => version.files.map(({ file }) => file)),
    ...[...frozen.values()].flatMap(({ chain }) => chain),
    ...(finals?.files ?? []).map(({ file }) => file),
    ...(evidence === null ? [] : [evidence]),
  ]);
}

function ofMember(
  { state, rights }: Extract<SightSubject, { kind: 'circulation' }>,
  actor: Actor,
  context: Context,
): FileSight {
  if (actor.kind !== 'member' || !may(actor, 'circulation.read', rights)) return shut('apart');
  return { see: null, ...fileUse(state, actor.person, context) };
}

/** Through a link: what its seat is asked about while it is, and the final copies for a time after release. */
function ofLink(
  { state, rights }: Extract<SightSubject, { kind: 'circulation' }>,
  actor: Extract<Actor, { kind: 'link' }>,
  context: Context,
): ReadonlyMap<string, FileSight> {
  const sight = every(filesOfCirculation(state), shut('apart'));
  const seat = state.seats.get(actor.seat);
  const holder = seat && baseHolder(seat);
  const version = newest(state);
  if (!may(actor, 'seat.act', rights) || !holder?.outside || seat?.epoch !== actor.epoch || !version) return sight;
  const own = filesOf(state, seat.id, version);
  const use: FileSight = { see: null, ...fileUse(state, holder.person, context) };
  const asked = state.phase === 'running' && seat.status === 'asked';
  for (const { id, file } of own) {
    sight.set(file, asked ? use : shut('over'));
    const frozen = state.frozen.get(id);
    if (frozen && verbFacts[stagePlanOf(state, seat).verb].signs)
      sight.set(grownFile(frozen), asked ? use : shut('over'));
  }
  const decision = decisionOf(state, seat);
  const keeps = state.phase === 'completed' && decision !== null && isPositive(decision.outcome);
  const within = state.ended !== null && context.now <= state.ended + receiptDays * day;
  if (keeps)
    for (const { id, file } of state.finals?.files ?? [])
      if (own.some((one) => one.id === id)) sight.set(file, within ? use : shut('over'));
  return sight;
}

function ofRecord(record: RecordState, actor: Actor): ReadonlyMap<string, FileSight> {
  const reads = may(actor, 'record.read', { kind: 'record', ...record, controller: null });
  const sight = new Map<string, FileSight>();
  // The same file may be part of several revisions: whoever sees it in one sees it.
  for (const { files, evidence, sight: released } of record.revisions)
    for (const file of [...files.map((one) => one.file), ...(evidence === null ? [] : [evidence])])
      if (!isSeen(sight, file)) sight.set(file, reads && seesReleased(released) ? free : shut('apart'));
  return sight;
}

/** Whether a member sees a revision, as it was released. */
function seesReleased(released: ReleasedSight): boolean {
  switch (released) {
    case 'everybody':
      return true;
    default:
      return unreachable(released, 'sight of a revision');
  }
}
