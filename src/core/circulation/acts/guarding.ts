import { type Refusal, type RefusalCode, refusal } from '../../refusals';
import type { Context } from '../run/context';
import { system } from '../run/events';
import { actingAs, isAuthorApproving, mayAct, respondedElsewhere } from '../run/holders';
import type { SeatRun } from '../run/shapes';
import { type Circulation, decisionOf, hasResponded, isOver } from '../run/state';

// What guards of acts have in common: who steers, in which phase, whether a seat can be acted on.

/** What a command meets that does not belong to the present phase. */
export const wrongPhase: { readonly [P in Circulation['phase']]: RefusalCode } = {
  new: 'phase-new',
  running: 'phase-sent',
  rework: 'phase-rework',
  finishing: 'phase-finishing',
  completed: 'phase-ended',
  withdrawn: 'phase-ended',
};

type Phases = readonly Circulation['phase'][];
export const beforeFinishing: Phases = ['new', 'running', 'rework'];
export const underWay: Phases = ['running', 'rework'];

export function within(state: Circulation, phases: Phases): Refusal | null {
  if (state.closed !== null) return refusal('closed');
  if (phases.includes(state.phase)) return null;
  // What has ended was refused before anybody asked who may do what.
  return refusal(phases.length === 1 && phases[0] === 'rework' ? 'phase-not-rework' : wrongPhase[state.phase]);
}

/** Whether somebody steers it: its controller, or whom a rule lets do the same. */
export function steers(state: Circulation, context: Context): boolean {
  return context.actor === state.controller || context.leads.includes(context.actor);
}

export function controlled(state: Circulation, context: Context, phases: Phases): Refusal | null {
  return steers(state, context) ? within(state, phases) : refusal('not-controller');
}

export function bySystem(context: Context): Refusal | null {
  return context.actor === system ? null : refusal('not-system');
}

/** While it is paused nobody is asked, and holders only look. */
export function whilePaused(state: Circulation): Refusal | null {
  return state.paused === null ? null : refusal('paused');
}

/** Whether somebody wrote it or steers it. */
export function writesOrSteers(state: Circulation, context: Context): boolean {
  return context.actor === state.author || steers(state, context);
}

/** Refuses a seat whose decision stands, naming by whom and with what; null when none stands. */
export function decidedAlready(state: Circulation, seat: SeatRun): Refusal | null {
  const decision = decisionOf(state, seat);
  return decision && hasResponded(seat)
    ? refusal('already-decided', { by: decision.by, outcome: decision.outcome })
    : null;
}

export function stageOver(state: Circulation, seat: SeatRun): Refusal | null {
  return isOver(state.stages.get(seat.stage)) ? refusal('stage-over') : null;
}

/** Whether a seat can still change hands. In rework nothing is over: the next round walks the route anew. */
export function changesHands(state: Circulation, seat: SeatRun): Refusal | null {
  return state.phase === 'rework' ? null : stageOver(state, seat);
}

export function stageOpen(state: Circulation, seat: SeatRun): Refusal | null {
  return stageOver(state, seat) ?? (state.stages.get(seat.stage)?.status === 'open' ? null : refusal('seat-not-asked'));
}

/** Tells somebody who covered here lately that this is over, and for whom they did; null for anybody else. */
export function coverOver(state: Circulation, seat: SeatRun, context: Context): Refusal | null {
  for (const { to } of context.absences) {
    // What was asked since then never was theirs.
    if (to > context.now || seat.since === null || seat.since >= to) continue;
    const then = actingAs(state, seat, context.actor, { ...context, now: to - 1 });
    if (then && then.cover.length > 0) return refusal('cover-over', { for: then.cover[0]?.person ?? '', until: to });
  }
  return null;
}

/** Why somebody may not act on a seat: it is not theirs, or a rule keeps them from what would be. */
function whyNot(state: Circulation, seat: SeatRun, context: Context): RefusalCode {
  const { actor, groups } = context;
  const member = seat.group !== null && (groups.get(seat.group)?.members.includes(actor) ?? false);
  if (!member && !seat.holders.some(({ person }) => person === actor)) return 'not-holder';
  if (isAuthorApproving(state, seat, actor, context)) return 'author-decides';
  return respondedElsewhere(state, seat, actor, context) ? 'independent' : 'not-holder';
}

/** Whether the seat may be acted on by this actor at this moment. */
export function actable(state: Circulation, context: Context, seat: SeatRun): Refusal | null {
  if (!mayAct(state, seat, context.actor, context))
    return coverOver(state, seat, context) ?? refusal(whyNot(state, seat, context));
  const decided = decidedAlready(state, seat);
  if (decided) return decided;
  if (state.closed !== null) return refusal('closed');
  if (state.phase !== 'running') return refusal(wrongPhase[state.phase]);
  const paused = whilePaused(state);
  if (paused) return paused;
  if (seat.status === 'missed') return refusal('seat-closed');
  return seat.status === 'asked' ? null : refusal('seat-not-asked');
}
