import { type Refusal, refusal } from '../../refusals';
import { asksNobody } from '../../route/preflight';
import { instantOf } from '../../route/route';
import { amendBasis, amend as amending } from '../plan/amending';
import {
  countedTwice,
  keepable,
  keepableSeats,
  leavable,
  leftAlone,
  proposedLines,
  proposedTimes,
  reachedByRound,
  roundBasis,
  standingDecisions,
} from '../rounds/round';
import { roundRuns } from '../rounds/roundRuns';
import type { Context } from '../run/context';
import type { Draft } from '../run/evolve';
import type { Kept, StageRun, StageTimes } from '../run/shapes';
import { scopeOf, seatsOfStage } from '../run/state';
import { targetsOf } from '../run/times';
import type { ActOn } from './act';
import { controlled, underWay } from './guarding';
import { badStageTimes } from './times';

// What changes the route of a circulation under way: its next round, and amending it.

/** Begins the next round as it was proposed and looked at: whose decisions are kept, and the times of its stages. */
export const confirmRound: ActOn<'whole', 'confirmRound'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) =>
    controlled(state, context, ['rework']) ??
    (asksNobody({ route: state.plan, facts: state.facts, record: context.record }) ? refusal('nobody-skipped') : null),
  needs: (state, context) => ({
    basis: roundBasis(state, context),
    lines: proposedLines(state, context),
    alone: leftAlone(state, context),
    keepable: keepableSeats(state),
    leavable: [...state.stages.values()].flatMap((stage) =>
      stage.seats.filter((id) => state.seats.get(id)?.status === 'declined' && leavable(state, stage, new Set([id]))),
    ),
    times: proposedTimes(state, context),
  }),
  effect: ({ draft, context, emit }, command) => {
    // What was looked at is the basis, not the sequence number: an event that changes nothing of it must not spoil it.
    if (command.basis !== roundBasis(draft, context)) return refusal('stale-plan');
    const kept = new Set(command.keep);
    const keep = keptDecisions(draft, kept);
    if ('code' in keep) return keep;
    const leave = new Set(command.leave);
    const bad = leaveFault(draft, kept, leave);
    if (bad) return bad;
    const stand = new Map(keep.map(({ seat, decision }) => [seat, decision]));
    for (const [seat, decision] of standingDecisions(draft)) if (leave.has(seat)) stand.set(seat, decision);
    const twice = countedTwice(draft, stand, context)[0];
    if (twice !== undefined) return refusal('keep-twice', { seat: twice });
    const asked = [...draft.seats.values()].some(({ id, gone }) => !gone && !kept.has(id) && !leave.has(id));
    if (!asked && keep.length === 0) return refusal('nobody-asked');
    const times = new Map(command.times.map((entry) => [entry.stage, entry]));
    const unfit = timesFault(draft, kept, leave, times, context);
    if (unfit) return unfit;
    const made = { keep, leave: [...leave], times: [...times.values()] };
    emit({ type: 'round.begun', data: { round: draft.round + 1, ...made, runs: roundRuns(draft, made) } });
    return null;
  },
};

/** The decisions that a round keeps, each with the content that it is kept for. */
function keptDecisions(draft: Draft, kept: ReadonlySet<string>): Kept[] | Refusal {
  const keep: Kept[] = [];
  for (const id of kept) {
    const seat = draft.seats.get(id);
    const accepted = seat && scopeOf(draft, seat);
    if (!seat || !accepted) return refusal('no-such-seat');
    const decision = keepable(draft, seat);
    if (decision === 'signature-changed') return refusal('signature-changed', { seat: id });
    if (decision === 'no-decision') return refusal('keep-impossible', { seat: id });
    keep.push({ seat: id, decision: decision.decision, accepted });
  }
  return keep;
}

/** Why a decline cannot be left as it is. */
function leaveFault(draft: Draft, kept: ReadonlySet<string>, leave: ReadonlySet<string>): Refusal | null {
  for (const id of leave) {
    const seat = draft.seats.get(id);
    if (!seat) return refusal('no-such-seat');
    const stage = draft.stages.get(seat.stage) as StageRun;
    if (seat.status !== 'declined' || kept.has(id) || !leavable(draft, stage, leave))
      return refusal('leave-impossible', { seat: id });
  }
  return null;
}

/** Times that are no good, or missing where the round asks somebody whose closing has passed. */
function timesFault(
  draft: Draft,
  kept: ReadonlySet<string>,
  leave: ReadonlySet<string>,
  times: ReadonlyMap<string, StageTimes>,
  context: Context,
): Refusal | null {
  for (const entry of times.values()) {
    if (!draft.stages.has(entry.stage)) return refusal('no-such-stage');
    const bad = badStageTimes(entry, context.now);
    if (bad) return { ...bad, facts: { stage: entry.stage } };
  }
  for (const stage of reachedByRound(draft, kept, leave, context)) {
    const given = times.get(stage.id);
    for (const seat of seatsOfStage(draft, stage)) {
      if (seat.gone || kept.has(seat.id) || leave.has(seat.id)) continue;
      const closes = given ? instantOf(given.closes) : (seat.given?.closes ?? instantOf(targetsOf(draft, seat).closes));
      if (closes !== null && closes <= context.now) return refusal('times-needed', { stage: stage.id });
    }
  }
  return null;
}

export const amend: ActOn<'whole', 'amend'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => controlled(state, context, underWay),
  needs: (state) => ({ basis: amendBasis(state) }),
  effect: ({ draft, context, emit }, command) => amending(draft, command, context, emit),
};
