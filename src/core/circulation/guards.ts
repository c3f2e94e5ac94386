import type { Context } from './commands';
import type { Draft } from './evolve';
import { type Refusal, type RefusalCode, refusal } from './refusal';
import { type Circulation, decisionOf, holdersOf, newest, type SeatState, scopeOf, seatAt, stageOf } from './state';

// What commands have in common in refusing: who may put them, in which phase, on which seat and version.

/** What a command meets that does not belong to the present phase. */
export const wrongPhase: { readonly [P in Circulation['phase']]: RefusalCode } = {
  new: 'phase-new',
  running: 'phase-sent',
  rework: 'phase-rework',
  sealing: 'phase-sealing',
  completed: 'phase-ended',
  withdrawn: 'phase-ended',
};

/** Refuses everybody but the controller, and every phase but the one the command belongs to. */
export function steering(draft: Draft, context: Context, phase: Circulation['phase']): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  if (draft.phase === phase) return null;
  return refusal(
    phase === 'rework' && draft.phase !== 'completed' && draft.phase !== 'withdrawn'
      ? 'phase-not-rework'
      : wrongPhase[draft.phase],
  );
}

/** Refuses everybody but the controller of a circulation that is under way or being reworked. */
export function open(draft: Draft, context: Context): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  return draft.phase === 'running' || draft.phase === 'rework' ? null : refusal(wrongPhase[draft.phase]);
}

/** Whether the seat may still get a decision in this round. */
export function undecided(seat: SeatState): boolean {
  return seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended';
}

/** Whether the person would approve their own text from this seat. */
export function isAuthorApproving(draft: Draft, seat: SeatState, person: string): boolean {
  return person === draft.author && stageOf(draft, seat).plan.verb === 'approve';
}

/** Refuses a seat whose decision stands, naming by whom and with what; null when none stands. */
export function alreadyDecided(draft: Draft, seat: SeatState): Refusal | null {
  const decision = decisionOf(draft, seat);
  return decision && seat.status !== 'idle' && seat.status !== 'asked' && seat.status !== 'suspended'
    ? refusal('already-decided', { by: decision.by, outcome: decision.outcome })
    : null;
}

/** Whether the seat may be acted on by this actor at this moment, from a page that knew this epoch. */
export function actable(draft: Draft, id: string, epoch: number, context: Context): Refusal | SeatState {
  const seat = seatAt(draft, id);
  if (!seat) return refusal('no-such-seat');
  if (!holdersOf(seat).includes(context.actor)) return refusal(seat.epoch === epoch ? 'not-holder' : 'stale-seat');
  if (seat.epoch !== epoch) return refusal('stale-seat');
  if (draft.phase !== 'running') return alreadyDecided(draft, seat) ?? refusal(wrongPhase[draft.phase]);
  const decided = alreadyDecided(draft, seat);
  if (decided) return decided;
  if (seat.status === 'missed') return refusal('seat-closed');
  if (seat.status !== 'asked') return refusal('seat-not-asked');
  return seat;
}

/** Tells what `actable` gave apart. */
export function isRefusal(value: Refusal | SeatState): value is Refusal {
  return 'code' in value;
}

/** Refuses content that is not the newest version's, naming the version seen and the newest; null when it is. */
export function staleVersion(draft: Draft, scope: string): Refusal | null {
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (scopeOf(version) === scope) return null;
  const seen = draft.versions.find((candidate) => scopeOf(candidate) === scope);
  return refusal('stale-version', { seen: seen?.number ?? 0, newest: version.number });
}
