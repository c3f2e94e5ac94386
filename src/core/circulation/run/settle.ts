import { type Condition, holds } from '../../route/condition';
import {
  type Branch,
  type Copies,
  groupAsked,
  instantOf,
  type Parallel,
  personOf,
  type Route,
  roleAsked,
  routeLimits,
  type Stage,
  stagesOf,
} from '../../route/route';
import { type Standing, tally } from '../../route/tally';
import { verbFacts } from '../../route/verbs';
import { timeFor } from '../../time/due';
import type { Context } from './context';
import type { CirculationBody } from './events';
import type { Draft } from './evolve';
import { claimOn, holders, isExcluded, leftAloneAt, mayAct, otherSeatInStage, samePerson } from './holders';
import type { CopyHolder, CopyRun, HeldFor, ReworkCause, SeatRun, SeatStatus, StageRun } from './shapes';
import {
  clocksRun,
  filesToFreeze,
  isGathering,
  isOver,
  isSatisfied,
  isStuck,
  isUnansweredStop,
  memberSeat,
  newest,
  pendingWaits,
  plannedCopies,
  plannedStages,
  scopeOf,
  seatsOfStage,
  seatsWithoutField,
  stageOutcomesOf,
} from './state';
import { clockOf, timesWhenAsked, waitsWhenAsked } from './times';

export type Emit = (body: CirculationBody) => void;
export type EmitAs = (actor: string, onBehalfOf: string | null) => Emit;

/** What happens by itself at an instant: the whole or a seat closes, whoever took a task goes away, a wait is over. */
type Due =
  | { readonly at: number; readonly kind: 'whole' }
  | { readonly at: number; readonly kind: 'closes'; readonly seat: string }
  | { readonly at: number; readonly kind: 'away'; readonly seat: string; readonly person: string }
  | { readonly at: number; readonly kind: 'freed'; readonly seat: string; readonly person: string };

/** What has come due by `now`, in the order in which it did; at the same instant the whole closes first, then seats. */
function dueBy(draft: Draft, context: Context): Due[] {
  const { now } = context;
  const due: Due[] = [];
  if (draft.closes !== null && draft.closes <= now && (draft.phase === 'running' || draft.phase === 'rework'))
    due.push({ at: draft.closes, kind: 'whole' });
  if (clocksRun(draft))
    for (const seat of draft.seats.values()) {
      if (seat.status !== 'asked') continue;
      for (const { person, from } of pendingWaits(seat))
        if (from <= now) due.push({ at: from, kind: 'freed', seat: seat.id, person });
      if (seat.closes !== null && seat.closes <= now) due.push({ at: seat.closes, kind: 'closes', seat: seat.id });
      // Whoever has taken a group's task gives it back by going away, and by leaving the group or the house.
      const taker = seat.holders.find((holder) => holder.via === 'taken')?.person;
      if (taker !== undefined && claimOn(seat, context) === null)
        due.push({ at: leftAloneAt(seat, context) ?? now, kind: 'away', seat: seat.id, person: taker });
    }
  const rank = { whole: 0, closes: 1, away: 2, freed: 3 } as const;
  return due.sort((a, b) => a.at - b.at || rank[a.kind] - rank[b.kind]);
}

/**
 * Applies what has come due: seats that have closed are missed, whoever has waited may respond, the whole closes. Goes on
 * until no seat that this opened has closed as well; once the whole is closed, nothing moves any more.
 */
export function catchUp(draft: Draft, context: Context, emit: Emit): void {
  while (draft.closed === null) {
    const due = dueBy(draft, context);
    if (due.length === 0) return;
    for (const each of due) {
      if (each.kind === 'whole') {
        emit({ type: 'circulation.closed', data: { instant: each.at } });
        return;
      }
      if (each.kind === 'closes') emit({ type: 'seat.missed', data: { seat: each.seat, instant: each.at } });
      const seat = 'seat' in each ? draft.seats.get(each.seat) : undefined;
      if (seat?.status !== 'asked') continue;
      if (each.kind === 'away') emit({ type: 'seat.givenBack', data: { seat: seat.id, person: each.person } });
      if (each.kind === 'freed') {
        const acts = mayAct(draft, seat, each.person, { ...context, now: each.at });
        emit({ type: 'seat.freed', data: { seat: seat.id, person: each.person, instant: each.at, acts } });
      }
    }
    settle(draft, context, emit);
  }
}

/** Begins rework: whoever is still asked may look and no longer decide. */
export function beginRework(draft: Draft, cause: ReworkCause, seat: string | null, emit: Emit): void {
  const suspends = [...draft.seats.values()].filter((own) => own.status === 'asked').map((own) => own.id);
  emit({ type: 'rework.began', data: { cause, seat, suspends } });
}

/** Walks the route once from its root: closes what is done, releases what is not needed, and asks what has been reached. */
export function settle(draft: Draft, context: Context, emit: Emit): void {
  if (!clocksRun(draft) || draft.closed !== null) return;
  const standing = walk(draft, draft.plan, context, emit);
  if (draft.phase !== 'running') return;
  if (standing === 'yes') emit({ type: 'finishing.began', data: {} });
  // Everything was skipped: never completed silently.
  else if (standing === 'gone') beginRework(draft, 'nobody', null, emit);
}

/** Walks a part and says how it stands: done, not yet, or out of the route. */
function walk(draft: Draft, part: Route, context: Context, emit: Emit): Standing {
  if (draft.phase !== 'running') return 'open';
  if (part.kind === 'stage') return walkStage(draft, part, context, emit);
  if (part.kind === 'copies') {
    reach(draft, part, context, emit);
    return 'gone';
  }
  if (draft.blocks.get(part.id)?.gone) return 'gone';
  if (part.kind === 'series') {
    let any = false;
    for (const inner of part.parts) {
      const standing = walk(draft, inner, context, emit);
      if (standing === 'open') return 'open';
      any ||= standing === 'yes';
    }
    return any ? 'yes' : 'gone';
  }
  for (const branch of part.branches) enterBranch(draft, branch, context, emit);
  // A join looks before it asks: what kept decisions already satisfy is counted first, so that nobody is asked only to
  // be released in the same walk. What has been passed by is not entered again: nothing is decided or sent in it.
  const passed = part.branches.map((branch) => isPassedBy(draft, branch.route));
  const look = part.branches.map((branch, i) => (passed[i] ? 'yes' : satisfied(draft, branch.route, context)));
  const enough = tally(part.join, look, 'branches').met;
  // A branch in which everything is skipped is entered all the same: that it is goes on record, and asks nobody.
  const counted = look.map((standing, i) => passed[i] || (enough && standing !== 'yes' && standing !== 'gone'));
  const standings = part.branches.map((branch, i) =>
    counted[i] ? (look[i] as Standing) : walk(draft, branch.route, context, emit),
  );
  return join(draft, part, standings, emit);
}

function join(draft: Draft, part: Parallel, standings: readonly Standing[], emit: Emit): Standing {
  if (draft.phase !== 'running') return 'open';
  const { n, met } = tally(part.join, standings, 'branches');
  if (n === 0) return 'gone';
  if (!met) return 'open';
  for (const [i, branch] of part.branches.entries()) {
    if (standings[i] !== 'open') continue;
    // Nobody approves a text that is known to change: a gathered return ends its gathering where its branch is passed by.
    const returned = returnedIn(draft, branch.route);
    if (returned === null) continue;
    beginRework(draft, 'returned', returned, emit);
    return 'open';
  }
  part.branches.forEach((branch, i) => {
    if (standings[i] === 'open') release(draft, branch.route, emit);
  });
  return 'yes';
}

/** A seat that has returned and whose stage still gathers, or null. */
function returnedIn(draft: Draft, part: Route): string | null {
  for (const stage of stagesOf(part)) {
    const run = draft.stages.get(stage.id);
    if (run && !run.gone && isGathering(draft, run))
      return seatsOfStage(draft, run).find((seat) => seat.status === 'returned')?.id ?? null;
  }
  return null;
}

function grounds(draft: Draft, context: Context) {
  return {
    facts: draft.facts,
    names: draft.factNames,
    record: context.record,
    outcomes: (stage: string) => stageOutcomesOf(draft, stage),
  };
}

/** Decides a condition when its part is reached, once in a round; says whether the part takes part. */
function enter(
  draft: Draft,
  part: string,
  condition: Condition | null,
  decided: boolean,
  context: Context,
  emit: Emit,
) {
  if (condition && !decided)
    emit({ type: 'part.decided', data: { part, ...holds(condition, grounds(draft, context)) } });
}

function enterBranch(draft: Draft, { route, condition }: Branch, context: Context, emit: Emit): void {
  enter(draft, route.id, condition, draft.blocks.get(route.id)?.decided ?? false, context, emit);
}

/** How a part would stand if it were walked now, without asking anybody. */
function satisfied(draft: Draft, part: Route, context: Context): Standing {
  if (part.kind === 'copies') return 'gone';
  if (part.kind === 'stage') {
    const run = draft.stages.get(part.id);
    if (!run || run.gone) return 'gone';
    if (run.status === 'done' || run.status === 'released') return 'yes';
    if (part.condition && !run.decided && !holds(part.condition, grounds(draft, context)).holds) return 'gone';
    return isSatisfied(draft, run) ? 'yes' : 'open';
  }
  if (draft.blocks.get(part.id)?.gone) return 'gone';
  if (part.kind === 'series') {
    const standings = part.parts.map((inner) => satisfied(draft, inner, context));
    if (standings.includes('open')) return 'open';
    return standings.includes('yes') ? 'yes' : 'gone';
  }
  const branches = part.branches.map(({ route, condition }) => {
    const known = draft.blocks.get(route.id)?.decided ?? false;
    if (condition && !known && !holds(condition, grounds(draft, context)).holds) return 'gone' as const;
    return satisfied(draft, route, context);
  });
  const { n, met } = tally(part.join, branches, 'branches');
  return n === 0 ? 'gone' : met ? 'yes' : 'open';
}

/** Whether a part was released with its branch, because a join around it had enough without it. */
function isPassedBy(draft: Draft, part: Route): boolean {
  if (part.kind === 'copies') return false;
  if (part.kind === 'stage') return isHere(draft, part) && draft.stages.get(part.id)?.status === 'released';
  // The parts of a series are only ever released together.
  if (part.kind === 'series') return part.parts.some((inner) => isPassedBy(draft, inner));
  const standings = part.branches.map(({ route }) => {
    if (!isHere(draft, route)) return 'gone';
    return isPassedBy(draft, route) ? 'open' : 'yes';
  });
  // A join that has enough has released its other branches itself.
  return standings.includes('open') && !tally(part.join, standings, 'branches').met;
}

/** Whether anything of a part has a say in the route. */
function isHere(draft: Draft, part: Route): boolean {
  return stagesOf(part).some((stage) => draft.stages.get(stage.id)?.gone === null);
}

function walkStage(draft: Draft, plan: Stage, context: Context, emit: Emit): Standing {
  const before = draft.stages.get(plan.id);
  if (!before || before.gone) return 'gone';
  if (before.status === 'done' || before.status === 'released') return 'yes';
  if (before.status === 'idle') enter(draft, plan.id, plan.condition, before.decided, context, emit);
  const run = draft.stages.get(plan.id) as StageRun;
  if (run.gone) return 'gone';
  if (isSatisfied(draft, run)) {
    for (const seat of seatsWith(draft, run, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
    emit({ type: 'stage.closed', data: { stage: plan.id } });
    return 'yes';
  }
  if (run.status === 'idle') {
    const held = heldFor(draft, plan, run, context);
    if (held) {
      if (run.held !== held) emit({ type: 'stage.held', data: { stage: plan.id, for: held } });
      return 'open';
    }
    emit({ type: 'stage.opened', data: { stage: plan.id } });
  }
  // Amending can add a group to a stage that has started.
  expand(draft, plan, context, emit);
  const gathers = isGathering(draft, draft.stages.get(plan.id) as StageRun);
  const held = !gathers && ask(draft, plan, context, emit) === 'time';
  const now = draft.stages.get(plan.id) as StageRun;
  if (!held && now.held !== null) emit({ type: 'stage.freed', data: { stage: plan.id } });
  if (isStuck(draft, now) !== now.stuck)
    emit({ type: now.stuck ? 'stage.healed' : 'stage.stuck', data: { stage: plan.id } });
  if (gathers) gather(draft, now, context, emit);
  return 'open';
}

/** Waits for the others of a stage in which somebody has returned; when nobody is left to wait for, rework begins. */
function gather(draft: Draft, run: StageRun, context: Context, emit: Emit): void {
  const waits = seatsWith(draft, run, 'asked').some((seat) => holders(draft, seat, context).length > 0);
  const returned = seatsWith(draft, run, 'returned')[0];
  if (!waits && returned) beginRework(draft, 'returned', returned.id, emit);
}

/** Why a stage that has been reached cannot ask yet. */
function heldFor(draft: Draft, plan: Stage, run: StageRun, context: Context): HeldFor | null {
  if (verbFacts[plan.verb].signs && filesToFreeze(draft).length > 0)
    return seatsWithoutField(draft).length > 0 ? 'fields' : 'freezing';
  if (isPast(instantOf(run.closes), context.now)) return 'time';
  return crowded(draft, plan, context) ? 'crowd' : null;
}

function isPast(closes: number | null, now: number): boolean {
  return closes !== null && closes <= now;
}

function seatsWith(draft: Draft, run: StageRun, status: SeatStatus): SeatRun[] {
  return seatsOfStage(draft, run).filter((seat) => !seat.gone && seat.status === status);
}

/** Seats for every member of a group that have not become the seats of its members yet. */
function wholeGroups(draft: Draft, plan: Stage): { readonly seat: SeatRun; readonly group: string }[] {
  return plan.seats.flatMap(({ id, assignment }) => {
    const seat = draft.seats.get(id);
    const asked = groupAsked(assignment);
    return asked?.members === 'every' && seat && !seat.gone && seat.group !== null
      ? [{ seat, group: asked.group }]
      : [];
  });
}

/** Whether the members of the stage's groups are more than a route can carry. */
function crowded(draft: Draft, plan: Stage, context: Context): boolean {
  const groups = wholeGroups(draft, plan);
  const more = groups.reduce((sum, { group }) => sum + (context.groups.get(group)?.members.length ?? 0), 0);
  const there = [...draft.seats.values()].filter((seat) => !seat.gone).length;
  // The seat of a group becomes those of its members.
  return more > 0 && there - groups.length + more > routeLimits.seats;
}

/** Makes a seat for every member of each such group, but for those who are in the stage already or wrote the text. */
function expand(draft: Draft, plan: Stage, context: Context, emit: Emit): void {
  for (const { seat, group } of wholeGroups(draft, plan)) {
    const members: { seat: string; person: string }[] = [];
    const leftOut: string[] = [];
    const { name = '', members: all = [] } = context.groups.get(group) ?? {};
    for (const person of all) {
      const there =
        members.some((member) => samePerson(context, member.person, person)) ||
        isExcluded(draft, seat, person, context) ||
        otherSeatInStage(draft, seat, person, context) !== null;
      if (there) leftOut.push(person);
      else members.push({ seat: memberSeat(seat.id, members.length + 1), person });
    }
    // With nobody left the seat stays as it is, open with nobody: the controller gives it to somebody.
    if (members.length > 0) emit({ type: 'group.resolved', data: { seat: seat.id, group, name, members, leftOut } });
  }
}

/**
 * Asks every idle seat, or one by one the first idle one when nobody is asked and no decline waits. Says where it could not,
 * because a closing time has passed.
 */
function ask(draft: Draft, plan: Stage, context: Context, emit: Emit): 'time' | null {
  const run = draft.stages.get(plan.id) as StageRun;
  const idle = seatsWith(draft, run, 'idle');
  if (idle.length === 0) return null;
  const oneByOne = plan.order === 'oneByOne';
  const waiting =
    seatsWith(draft, run, 'asked').length > 0 ||
    seatsWith(draft, run, 'declined').some((seat) => isUnansweredStop(draft, seat));
  if (oneByOne && waiting) return null;
  for (const { id } of oneByOne ? idle.slice(0, 1) : idle) {
    // What was emitted for the seat before stands in it now.
    const seat = draft.seats.get(id) as SeatRun;
    const acting = holders(draft, seat, context);
    const people = acting.map(({ person }) => person);
    const waits = waitsWhenAsked(draft, seat, people, context);
    const { due, closes } = timesWhenAsked(draft, seat, waits, context);
    // Nobody is asked and missed in one step: the controller is asked for a new time instead.
    if (isPast(closes, context.now)) {
      if (run.held !== 'time') emit({ type: 'stage.held', data: { stage: plan.id, for: 'time' } });
      return 'time';
    }
    emit({
      type: 'seat.asked',
      data: {
        seat: id,
        holders: seat.holders,
        due,
        closes,
        epoch: seat.epoch,
        waits,
        group: seat.group === null ? null : (context.groups.get(seat.group)?.name ?? ''),
        nobody: people.length === 0,
        to: people,
        scope: scopeOf(draft, seat),
        covers: acting.flatMap(({ person, cover }) => (cover.length > 0 ? [person] : [])),
      },
    });
  }
  return null;
}

/** Releases everything unfinished in a branch that its join no longer needs. */
function release(draft: Draft, part: Route, emit: Emit): void {
  if (part.kind === 'copies') return;
  if (part.kind !== 'stage') {
    for (const inner of part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route))
      release(draft, inner, emit);
    return;
  }
  const run = draft.stages.get(part.id);
  if (!run || isOver(run)) return;
  for (const seat of seatsWith(draft, run, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
  emit({ type: 'stage.released', data: { stage: part.id } });
}

/**
 * Gives copies at a board that was reached. What has signatures on it goes once the final file is stored, anything else at
 * once; nobody gets the same version twice.
 */
function reach(draft: Draft, board: Copies, context: Context, emit: Emit): void {
  const run = draft.copies.get(board.id);
  const version = newest(draft)?.number ?? 0;
  if (!run || run.version === version) return;
  const waits = plannedStages(draft).some(
    (stage) => verbFacts[stage.verb].signs && draft.stages.get(stage.id)?.status === 'done',
  );
  emit({ type: 'copies.reached', data: { copies: board.id, to: copyHolders(board, run, context), version, waits } });
}

/** Sends the copies that waited for the final files. */
export function sendWaitingCopies(draft: Draft, emit: Emit): void {
  for (const { id } of plannedCopies(draft))
    if (draft.copies.get(id)?.status === 'reached') emit({ type: 'copies.sent', data: { copies: id } });
}

function copyHolders(board: Copies, run: CopyRun, context: Context): CopyHolder[] {
  const found: CopyHolder[] = [];
  const add = (id: string, person: string, outside: boolean) => {
    const there = found.some((holder) => samePerson(context, holder.person, person));
    if (!there && context.people.get(person)?.active !== false) found.push({ id, person, outside });
  };
  for (const { id, assignment } of board.to) {
    const person = roleAsked(assignment) === null ? personOf(assignment) : (run.filled[id] ?? null);
    // A copy of a role is for members: somebody outside who fills it has no way to it.
    const lost = assignment.kind !== 'outside' && context.people.get(person ?? '')?.outside === true;
    if (person !== null && !lost) add(id, person, assignment.kind === 'outside');
    const group = groupAsked(assignment)?.group ?? '';
    context.groups.get(group)?.members.forEach((member, i) => {
      add(memberSeat(id, i + 1), member, false);
    });
  }
  return found;
}

/** The instants that the due and closing of the whole mean, counted from `context.now` on the controller's clock. */
export function wholeTimes(draft: Draft, context: Context) {
  const clock = clockOf(context, draft.controller);
  return { due: timeFor(draft.whole.due, context.now, clock), closes: timeFor(draft.whole.closes, context.now, clock) };
}
