import { type Condition, comparisonsIn, holds } from '../../route/condition';
import { atInstant, independentStages, instantOf, type Route } from '../../route/route';
import { type Standing, tally } from '../../route/tally';
import { isPositive, verbFacts } from '../../route/verbs';
import { after, workingDays } from '../../time/due';
import type { Instant } from '../../time/instant';
import { canonical } from '../../trail/canonical';
import { hashOf } from '../../trail/sha256';
import { unreachable } from '../../unreachable';
import type { Context } from '../run/context';
import { samePerson } from '../run/holders';
import type { RoundLine, RoundReason, SeatRun, StageRun, StageTimes, Version } from '../run/shapes';
import {
  baseHolder,
  type Circulation,
  type DecisionRecord,
  hasResponded,
  isSatisfied,
  newest,
  plannedStages,
  scopeIn,
  scopeOf,
  seatsOfStage,
  stagePlanOf,
  tallyOf,
} from '../run/state';
import { clockOf } from '../run/times';

/**
 * Who would be kept and who asked again if a next round began now: every seat that it could ask, each with its reason.
 * A decision is compared with what its seat saw when it decided, never with the version before this one, so a change
 * and its undoing keeps it, in whatever round it was made. Where that would make one person count twice, the later of the
 * two on the route is asked.
 */
export function proposedLines(state: Circulation, context: Pick<Context, 'people'>): RoundLine[] {
  const lines: RoundLine[] = [];
  const same = new Map<string, number>();
  for (const seat of state.seats.values()) {
    const kept = seat.gone ? null : sameContent(state, seat);
    if (kept !== null) same.set(seat.id, kept);
  }
  const twice = new Set(countedTwice(state, same, context));
  for (const seat of state.seats.values()) {
    if (seat.gone) continue;
    const kept = same.get(seat.id) ?? null;
    lines.push(
      kept !== null && twice.has(seat.id)
        ? { seat: seat.id, decision: kept, keep: false, reason: 'twice' }
        : kept === null
          ? { seat: seat.id, decision: candidate(state, seat), keep: false, reason: reasonFor(state, seat) }
          : { seat: seat.id, decision: kept, keep: true, reason: 'unchanged' },
    );
  }
  return lines;
}

/**
 * The seats, in the order of the route, whose decision among these would make one person count twice beside an earlier one:
 * in one stage, or in two that need different people. Decisions are indexes, by seat.
 */
export function countedTwice(
  state: Circulation,
  decisions: ReadonlyMap<string, number>,
  context: Pick<Context, 'people'>,
): string[] {
  const apart = independentStages(state.plan);
  const counted: { readonly stage: string; readonly by: string }[] = [];
  const twice: string[] = [];
  for (const { id: stage } of plannedStages(state))
    for (const seat of state.stages.get(stage)?.seats ?? []) {
      const by = state.decisions[decisions.get(seat) ?? -1]?.by;
      if (by === undefined) continue;
      const meets = (other: string) => other === stage || (apart.get(stage)?.includes(other) ?? false);
      if (counted.some((one) => meets(one.stage) && samePerson(context, one.by, by))) twice.push(seat);
      else counted.push({ stage, by });
    }
  return twice;
}

/** The signatures that a version ends, as indexes of decisions: those whose seat would see something else in it. */
export function signaturesEnded(state: Circulation, version: Version, ends: readonly string[]): number[] {
  const frozen = new Map([...state.frozen].filter(([file]) => !ends.includes(file)));
  return state.decisions.flatMap(({ outcome, seat: id, scope }, i) => {
    const seat = outcome === 'signed' && !state.unsigned.includes(i) ? state.seats.get(id) : undefined;
    return seat && scopeIn({ ...state, frozen }, seat, version) !== scope ? [i] : [];
  });
}

/**
 * The stages that a round can come to ask while these decisions are kept and these declines left as they are: not those
 * that they satisfy, nor those that conditions skip or a join passes by. What depends on how a stage ends can become either.
 */
export function reachedByRound(
  state: Circulation,
  keep: ReadonlySet<string>,
  leave: ReadonlySet<string>,
  context: Pick<Context, 'record'>,
): StageRun[] {
  const seats = new Map(
    [...state.seats.values()].map((seat) => {
      const status = keep.has(seat.id) ? 'decided' : leave.has(seat.id) ? 'declined' : 'idle';
      return [seat.id, { ...seat, status, passed: leave.has(seat.id) } satisfies SeatRun];
    }),
  );
  const then = { ...state, seats };
  const grounds = { facts: state.facts, names: {}, record: context.record, outcomes: () => null };
  const canHold = (condition: Condition | null) =>
    condition === null ||
    comparisonsIn(condition).some(({ kind }) => kind === 'outcome') ||
    holds(condition, grounds).holds;
  const reached: StageRun[] = [];
  /** How a part would stand before anybody is asked; collects on the way the stages that could be. */
  const visit = (part: Route): Standing => {
    if (part.kind === 'copies') return 'gone';
    if (part.kind === 'stage') {
      const run = state.stages.get(part.id);
      if (!run || run.gone === 'removed' || !canHold(part.condition)) return 'gone';
      if (isSatisfied(then, run)) return 'yes';
      reached.push(run);
      return 'open';
    }
    if (part.kind === 'series') {
      const standings = part.parts.map((inner) => visit(inner));
      return standings.includes('open') ? 'open' : standings.includes('yes') ? 'yes' : 'gone';
    }
    const before = reached.length;
    const stand = part.branches.map(({ route, condition }) => (canHold(condition) ? visit(route) : 'gone'));
    const { n, met } = tally(part.join, stand, 'branches');
    // What a join passes by is never asked.
    if (n === 0 || met) reached.length = before;
    return n === 0 ? 'gone' : met ? 'yes' : 'open';
  };
  visit(state.plan);
  return reached;
}

/** The decisions that stand in stages that take part, yes or no, as indexes by seat. */
export function standingDecisions(state: Circulation): Map<string, number> {
  return new Map(
    [...state.seats.values()].flatMap((seat) =>
      seat.decision !== null && hasResponded(seat) && !seat.gone && !state.stages.get(seat.stage)?.gone
        ? [[seat.id, seat.decision] as const]
        : [],
    ),
  );
}

/**
 * Seats that would be left with nobody if they are asked while another's decision is kept: theirs is the same person, and
 * their stages need different people.
 */
export function leftAlone(
  state: Circulation,
  context: Pick<Context, 'people'>,
): { readonly seat: string; readonly kept: string }[] {
  const apart = independentStages(state.plan);
  if (apart.size === 0) return [];
  const seats = [...state.seats.values()].filter((seat) => !seat.gone);
  return seats.flatMap((kept) => {
    const decision = keepable(state, kept);
    const by = typeof decision === 'object' ? state.decisions[decision.decision]?.by : undefined;
    if (by === undefined) return [];
    const others = seats.filter(({ stage }) => apart.get(kept.stage)?.includes(stage));
    return others
      .filter(
        ({ group, holders }) =>
          group === null && holders.length > 0 && holders.every(({ person }) => samePerson(context, person, by)),
      )
      .map(({ id }) => ({ seat: id, kept: kept.id }));
  });
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
    !state.unsigned.includes(i) &&
    (state.decisions[i]?.scope === scope ||
      state.acceptances.some((entry) => entry.decision === i && entry.seat === seat.id && entry.accepted === scope));
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
    default:
      return unreachable(seat.status, 'status');
  }
}

/** Names the list of a next round as it is now: the same exactly while version, decisions and every line stay as they are. */
export function roundBasis(state: Circulation, context: Pick<Context, 'people'>): string {
  return hashOf(
    canonical([
      newest(state)?.number ?? 0,
      state.decisions.length,
      proposedLines(state, context).map((line) => [line.seat, line.decision, line.keep, line.reason]),
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
  return verbFacts[stagePlanOf(state, seat).verb].signs ? 'signature-changed' : { decision: other };
}

/**
 * An instant of the plan that has passed, proposed anew: after as many working days as it lay ahead when it was sent, at
 * least one; an instant that lies ahead is itself.
 */
export function proposedAnew(
  state: Pick<Circulation, 'sent' | 'created' | 'controller'>,
  at: Instant,
  context: Context,
): Instant | null {
  if (at > context.now) return at;
  const clock = clockOf(context, state.controller);
  const amount = Math.max(1, workingDays(clock, state.sent ?? state.created, at));
  return after(context.now, { amount, unit: 'workingDays' }, clock);
}

/**
 * Times to propose for the stages of a next round: those that still lie ahead stay; one that has passed is put off by as many
 * working days of the organization as its stage had at first, at least one, and ends with the work of that day.
 */
export function proposedTimes(state: Circulation, context: Context): StageTimes[] {
  const later = (at: Instant | null) => (at === null ? null : proposedAnew(state, at, context));
  return [...state.stages.values()]
    .filter((stage) => stage.gone !== 'removed')
    .map((stage) => {
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

/** Seats of a proposed round whose decline may be left as it is: where the rule of the stage can be met without them. */
export function leavable(state: Circulation, stage: StageRun, leave: ReadonlySet<string>): boolean {
  const left = seatsOfStage(state, stage).map((seat) =>
    leave.has(seat.id) ? { ...seat, status: 'declined' as const } : { ...seat, status: 'idle' as const },
  );
  return tallyOf({ ...state, seats: new Map(left.map((seat) => [seat.id, seat])) }, stage).reachable;
}

/** Which decisions a controller could keep in the next round. */
export function keepableSeats(state: Circulation): string[] {
  return [...state.seats.values()]
    .filter((seat) => !seat.gone && typeof keepable(state, seat) === 'object')
    .map((seat) => seat.id);
}
