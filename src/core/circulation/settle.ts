import { instantOf, type Parallel, type Route, type Stage } from '../route/route';
import { type Standing, tally } from '../route/tally';
import { type CirculationBody, type HeldFor, type SeatStatus, system } from './events';
import type { Draft } from './evolve';
import {
  filesToFreeze,
  isSatisfied,
  isUnansweredStop,
  type SeatRun,
  type StageRun,
  seatsOfStage,
  seatsWithoutField,
  tallyOf,
} from './state';

export type Emit = (body: CirculationBody) => void;
export type EmitAs = (actor: string, onBehalfOf: string | null) => Emit;

/**
 * Marks as missed every asked seat whose closing time has come, in the order in which the times came, until no
 * seat that this opened has closed as well.
 */
export function catchUp(draft: Draft, now: number, emit: Emit): void {
  while (draft.phase === 'running') {
    const over = [...draft.seats.values()]
      .filter((seat) => seat.status === 'asked' && seat.closes !== null && seat.closes <= now)
      .sort((a, b) => (a.closes as number) - (b.closes as number));
    if (over.length === 0) return;
    for (const seat of over) emit({ type: 'seat.missed', data: { seat: seat.id, instant: seat.closes as number } });
    settle(draft, now, emit);
  }
}

/** Begins rework: whoever is still asked may look and no longer decide. */
export function beginRework(draft: Draft, cause: 'returned' | 'version', seat: string | null, emitAs: EmitAs): void {
  const suspends = [...draft.seats.values()].filter((own) => own.status === 'asked').map((own) => own.id);
  emitAs(system, null)({ type: 'rework.began', data: { cause, seat, suspends } });
}

/** Walks the route once from its root: closes what is done, releases what is not needed, and asks what has been reached. */
export function settle(draft: Draft, now: number, emit: Emit): void {
  if (draft.phase !== 'running') return;
  if (walk(draft, draft.plan, now, emit) === 'yes') emit({ type: 'sealing.began', data: {} });
}

/** Walks a part and says how it stands: done, not yet, or out of the route. */
function walk(draft: Draft, part: Route, now: number, emit: Emit): Standing {
  if (part.kind === 'stage') return walkStage(draft, part, now, emit);
  if (draft.blocks.get(part.id)?.gone) return 'gone';
  if (part.kind === 'series') {
    let any = false;
    for (const inner of part.parts) {
      const standing = walk(draft, inner, now, emit);
      if (standing === 'open') return 'open';
      any ||= standing === 'yes';
    }
    return any ? 'yes' : 'gone';
  }
  // A join looks before it asks: what kept decisions already satisfy is counted first, so that nobody is asked only to
  // be released in the same walk.
  const look = part.branches.map((branch) => satisfied(draft, branch.route));
  const enough = tally(part.join, look, 'branches').met;
  const standings = part.branches.map((branch, i) =>
    enough && look[i] !== 'yes' ? (look[i] as Standing) : walk(draft, branch.route, now, emit),
  );
  return join(draft, part, standings, emit);
}

function join(draft: Draft, part: Parallel, standings: readonly Standing[], emit: Emit): Standing {
  const { n, met } = tally(part.join, standings, 'branches');
  if (n === 0) return 'gone';
  if (!met) return 'open';
  part.branches.forEach((branch, i) => {
    if (standings[i] === 'open') release(draft, branch.route, emit);
  });
  return 'yes';
}

/** How a part would stand if it were walked now, without asking anybody. */
function satisfied(draft: Draft, part: Route): Standing {
  if (part.kind === 'stage') {
    const run = draft.stages.get(part.id);
    if (!run || run.gone) return 'gone';
    return run.status === 'done' || run.status === 'released' || isSatisfied(draft, run) ? 'yes' : 'open';
  }
  if (draft.blocks.get(part.id)?.gone) return 'gone';
  if (part.kind === 'series') {
    const standings = part.parts.map((inner) => satisfied(draft, inner));
    if (standings.includes('open')) return 'open';
    return standings.includes('yes') ? 'yes' : 'gone';
  }
  const { n, met } = tally(
    part.join,
    part.branches.map((branch) => satisfied(draft, branch.route)),
    'branches',
  );
  return n === 0 ? 'gone' : met ? 'yes' : 'open';
}

function walkStage(draft: Draft, plan: Stage, now: number, emit: Emit): Standing {
  const run = draft.stages.get(plan.id);
  if (!run || run.gone) return 'gone';
  if (run.status === 'done' || run.status === 'released') return 'yes';
  if (isSatisfied(draft, run)) {
    for (const seat of seatsWith(draft, run, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
    emit({ type: 'stage.closed', data: { stage: plan.id } });
    return 'yes';
  }
  if (run.status === 'idle') {
    const held = heldFor(draft, plan, run, now);
    if (held) {
      if (run.held !== held) emit({ type: 'stage.held', data: { stage: plan.id, for: held } });
      return 'open';
    }
    emit({ type: 'stage.opened', data: { stage: plan.id } });
  }
  ask(draft, plan, now, emit);
  const { reachable } = tallyOf(draft, run);
  if (reachable === run.stuck) emit({ type: reachable ? 'stage.healed' : 'stage.stuck', data: { stage: plan.id } });
  return 'open';
}

/** Why a stage that has been reached cannot ask yet. */
function heldFor(draft: Draft, plan: Stage, run: StageRun, now: number): HeldFor | null {
  if (plan.verb === 'sign' && filesToFreeze(draft).length > 0)
    return seatsWithoutField(draft).length > 0 ? 'fields' : 'freezing';
  return isPast(instantOf(run.closes), now) ? 'time' : null;
}

function isPast(closes: number | null, now: number): boolean {
  return closes !== null && closes <= now;
}

function seatsWith(draft: Draft, run: StageRun, status: SeatStatus): SeatRun[] {
  return seatsOfStage(draft, run).filter((seat) => !seat.gone && seat.status === status);
}

/** Asks every idle seat, or one by one the first idle one when nobody is asked and no decline waits. */
function ask(draft: Draft, plan: Stage, now: number, emit: Emit): void {
  const run = draft.stages.get(plan.id) as StageRun;
  const idle = seatsWith(draft, run, 'idle');
  if (idle.length === 0) return;
  const oneByOne = plan.order === 'oneByOne';
  const waits =
    seatsWith(draft, run, 'asked').length > 0 ||
    seatsWith(draft, run, 'declined').some((seat) => isUnansweredStop(draft, seat));
  if (oneByOne && waits) return;
  for (const seat of oneByOne ? idle.slice(0, 1) : idle) {
    const target = seat.given?.due ?? instantOf(run.due);
    const closes = seat.given?.closes ?? instantOf(run.closes);
    const due = target !== null && closes !== null ? Math.min(target, closes) : target;
    // Nobody is asked and missed in one step: the controller is asked for a new time instead.
    if (isPast(closes, now)) {
      if (run.held !== 'time') emit({ type: 'stage.held', data: { stage: plan.id, for: 'time' } });
      return;
    }
    emit({ type: 'seat.asked', data: { seat: seat.id, holders: seat.holders, due, closes, epoch: seat.epoch } });
  }
}

/** Releases everything unfinished in a branch that its join no longer needs. */
function release(draft: Draft, part: Route, emit: Emit): void {
  if (part.kind !== 'stage') {
    for (const inner of part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route))
      release(draft, inner, emit);
    return;
  }
  const run = draft.stages.get(part.id);
  if (!run || run.gone || run.status === 'done' || run.status === 'released') return;
  for (const seat of seatsWith(draft, run, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
  emit({ type: 'stage.released', data: { stage: part.id } });
}
