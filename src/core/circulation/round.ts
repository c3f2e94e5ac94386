import { atInstant, instantOf } from '../route/route';
import { canonical } from '../trail/canonical';
import { hashOf } from '../trail/sha256';
import { isPositive, type RoundLine, type RoundReason, type StageTimes } from './events';
import { baseHolder, type Circulation, type DecisionRecord, newest, type SeatRun, scopeOf, stagePlanOf } from './state';

/**
 * Who would be kept and who asked again if a next round began now: every seat that it could ask, each with its reason.
 * A decision is compared with what its seat saw when it decided, never with the version before this one, so a change
 * and its undoing keeps it, in whatever round it was made.
 */
export function proposedLines(state: Circulation): RoundLine[] {
  const lines: RoundLine[] = [];
  for (const seat of state.seats.values()) {
    if (seat.gone) continue;
    const kept = sameContent(state, seat);
    lines.push(
      kept === null
        ? { seat: seat.id, decision: candidate(state, seat), keep: false, reason: reasonFor(state, seat) }
        : { seat: seat.id, decision: kept, keep: true, reason: 'unchanged' },
    );
  }
  return lines;
}

/** The decisions that the present holder of a seat made in it, latest first, as indexes. */
function own(state: Circulation, seat: SeatRun): number[] {
  const person = baseHolder(seat)?.person;
  const found: number[] = [];
  for (let i = state.decisions.length - 1; i >= 0; i -= 1) {
    const decision = state.decisions[i] as DecisionRecord;
    // A group's task is the group's, whoever of it responded.
    if (decision.seat === seat.id && (seat.group !== null || decision.holder === person)) found.push(i);
  }
  return found;
}

/** The present holder's latest decision on exactly the present content, when it was a yes; else null. */
function sameContent(state: Circulation, seat: SeatRun): number | null {
  const scope = scopeOf(state, seat);
  const matches = (i: number) =>
    state.decisions[i]?.scope === scope ||
    state.acceptances.some((entry) => entry.decision === i && entry.seat === seat.id && entry.accepted === scope);
  const latest = own(state, seat).find(matches);
  if (latest === undefined) return null;
  return isPositive((state.decisions[latest] as DecisionRecord).outcome) ? latest : null;
}

/** The decision that a controller could keep by choice: the present holder's latest, when it was a yes. */
function candidate(state: Circulation, seat: SeatRun): number | null {
  const latest = own(state, seat)[0];
  return latest !== undefined && isPositive((state.decisions[latest] as DecisionRecord).outcome) ? latest : null;
}

function reasonFor(state: Circulation, seat: SeatRun): RoundReason {
  const latest = own(state, seat)[0];
  switch (seat.status) {
    case 'returned':
    case 'declined':
    case 'missed':
    case 'released':
      return seat.status;
    case 'asked':
    case 'suspended':
      return 'open';
    case 'decided':
      return 'changed';
    case 'idle': {
      if (latest !== undefined) {
        const { outcome } = state.decisions[latest] as DecisionRecord;
        return isPositive(outcome) ? 'changed' : outcome === 'declined' ? 'declined' : 'returned';
      }
      return state.decisions.some((decision) => decision.seat === seat.id) ? 'given' : 'notAskedBefore';
    }
  }
}

/** Names the list of a next round as it is now: the same exactly while version, decisions and every line stay as they are. */
export function roundBasis(state: Circulation): string {
  return hashOf(
    canonical([
      newest(state)?.number ?? 0,
      state.decisions.length,
      proposedLines(state).map((line) => [line.seat, line.decision, line.keep, line.reason]),
    ]),
  );
}

/** Which decision of a seat the controller may keep, and if none, why. */
export function keepable(
  state: Circulation,
  seat: SeatRun,
): { readonly decision: number } | 'no-decision' | 'signature-changed' {
  const decision = sameContent(state, seat);
  if (decision !== null) return { decision };
  const other = candidate(state, seat);
  if (other === null) return 'no-decision';
  // A signature covers every byte, so no override can make it one of other bytes.
  return stagePlanOf(state, seat).verb === 'sign' ? 'signature-changed' : { decision: other };
}

const day = 86_400_000;

/**
 * Times to propose for the stages of a next round: those that still lie ahead stay; one that has passed is put off by as
 * long as its stage had at first, at least a day.
 */
export function proposedTimes(state: Circulation, now: number): StageTimes[] {
  const from = state.sent ?? state.created;
  return [...state.stages.values()]
    .filter((stage) => stage.gone !== 'removed')
    .map((stage) => {
      const later = (at: number | null) =>
        at === null || at > now ? at : now + Math.max(day, Math.ceil((at - from) / day) * day);
      const due = later(instantOf(stage.due));
      const closes = later(instantOf(stage.closes));
      // What counts from being asked counts anew.
      return {
        stage: stage.id,
        due: due === null ? stage.due : atInstant(due),
        closes: closes === null ? stage.closes : atInstant(due === null ? closes : Math.max(closes, due)),
      };
    });
}
