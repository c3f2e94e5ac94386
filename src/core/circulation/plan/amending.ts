import { type Refusal, type RefusalCode, refusal } from '../../refusals';
import { type Finding, preflight } from '../../route/preflight';
import {
  assignedIn,
  copiesOf,
  emptySeries,
  groupAsked,
  type Parallel,
  partsOf,
  type Route,
  roleAsked,
  routeFaults,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
} from '../../route/route';
import { verbFacts } from '../../route/verbs';
import { alike, canonical, type Json } from '../../trail/canonical';
import { hashOf } from '../../trail/sha256';
import type { CommandOf } from '../acts/commands';
import { badTimes } from '../acts/times';
import { countedTwice, signaturesEnded, standingDecisions } from '../rounds/round';
import { type Context, roleFilled } from '../run/context';
import { apply, type Draft, draftOf } from '../run/evolve';
import { otherSeatInStage } from '../run/holders';
import type { Emit } from '../run/settle';
import type { SeatRun, SeatTimes, StageRun, Version } from '../run/shapes';
import {
  baseHolder,
  type Circulation,
  documentsOf,
  hasResponded,
  isGathering,
  isOver,
  isSigned,
  newest,
  plannedSeats,
  plannedStages,
  scopeIn,
  scopeOf,
  seatsOfStage,
} from '../run/state';
import { targetsOf, timesWhenAsked } from '../run/times';
import { amendedRuns } from './amendedRuns';
import { subjectOf, unfitVersion } from './readiness';

// What the controller changes while a circulation is under way. What has been reached stays as it was walked; what lies
// ahead can be anything that could have been planned.

/** Names what an amendment is drafted on: the same exactly while plan, words, times, version and decisions stay as they are. */
export function amendBasis(state: Circulation): string {
  const { plan, note, due, closes, phase, round, decisions } = state;
  return hashOf(
    canonical([plan, note, due, closes, phase, round, newest(state)?.number ?? 0, decisions.length] as unknown as Json),
  );
}

/** Makes an amendment, or says what of it cannot be made and why. */
export function amend(draft: Draft, command: CommandOf<'amend'>, context: Context, emit: Emit): Refusal | null {
  const { basis, note, whole, version, reason } = command;
  if (basis !== amendBasis(draft)) return refusal('stale-amendment');
  const plan = version ? keepingScopes(draft, command.plan, version) : command.plan;
  const timed = whole !== null && (whole.due !== draft.due || whole.closes !== draft.closes);
  if (alike(plan, draft.plan) && note === draft.note && !timed && !version) return refusal('no-effect');
  const bad =
    structureFault(draft, plan) ??
    (timed ? badTimes(whole.due, whole.closes, context.now) : null) ??
    signerFault(draft, plan) ??
    findingFault(draft, plan, context) ??
    independenceFault(draft, plan, context);
  if (bad) return bad;
  const data = {
    plan,
    note,
    whole: timed ? whole : null,
    roles: rolesFilled(draft, plan, context),
    called: namesIn(draft.plan, plan, context),
    reason,
  };
  const results = amendedRuns(draft, plan, data.roles);
  const after = amendedState(draft, { ...data, ...results, times: [] }, context);
  const twice = twiceInStage(draft, after, context);
  if (twice) return refusal('in-stage-already', { seat: twice });
  const stale = version && versionFault(draft, after, version);
  if (stale) return stale;
  const times = retimed(draft, after, context);
  for (const { seat, due, closes } of times) {
    const fault = badTimes(due, closes, context.now);
    if (fault) return { ...fault, facts: { seat } };
  }
  emit({ type: 'circulation.amended', data: { ...data, ...results, times } });
  // Nobody has acted on what this changes, so nothing has to be asked again.
  if (version)
    emit({
      type: 'version.attached',
      data: { version, ends: [], unsigned: signaturesEnded(draft, version, []) },
    });
  return null;
}

/** The times of seats that are asked and of which the amended plan says something else: counted from when they were asked. */
function retimed(draft: Draft, after: Circulation, context: Context): readonly SeatTimes[] {
  return [...after.seats.values()].flatMap((seat) => {
    const before = draft.seats.get(seat.id);
    if (!before || seat.gone || seat.status !== 'asked' || before.since === null) return [];
    if (alike(targetsOf(draft, before), targetsOf(after, seat))) return [];
    const times = timesWhenAsked(after, { ...seat, given: null }, [], context, before.since);
    return [{ seat: seat.id, ...times }];
  });
}

function amendedState(
  draft: Circulation,
  data: Extract<Parameters<typeof apply>[1], { type: 'circulation.amended' }>['data'],
  context: Context,
): Circulation {
  const after = draftOf(draft);
  apply(after, { type: 'circulation.amended', at: context.now, actor: context.actor, onBehalfOf: null, data });
  return after;
}

/** A seat that begins for somebody who holds another one of its stage, or has responded in one, whatever the plan says of that. */
function twiceInStage(before: Circulation, after: Circulation, context: Context): string | null {
  for (const seat of after.seats.values()) {
    if (seat.gone || before.seats.get(seat.id)?.epoch === seat.epoch) continue;
    if (seat.holders.some(({ person }) => otherSeatInStage(after, seat, person, context))) return seat.id;
  }
  return null;
}

/** Who fills the roles that come new with an amended plan, or stand elsewhere in it: what stands elsewhere begins anew. */
function rolesFilled(draft: Draft, plan: Series, context: Context) {
  const entriesOf = (route: Series) => [
    ...stagesOf(route).flatMap(({ id: stage, seats }) => seats.map((seat) => ({ ...seat, in: stage }))),
    ...copiesOf(route).flatMap(({ id: board, to }) => to.map((entry) => ({ ...entry, in: board }))),
  ];
  const before = new Map(entriesOf(draft.plan).map((entry) => [entry.id, entry]));
  return entriesOf(plan).flatMap(({ id, assignment, in: home }) => {
    const was = before.get(id);
    const role = roleAsked(assignment);
    return role === null || (was?.in === home && alike(was.assignment, assignment))
      ? []
      : [roleFilled(id, role, context)];
  });
}

/** What the groups and roles are called that the routes name. */
function namesIn(before: Series, plan: Series, { groups, roles }: Context): Readonly<Record<string, string>> {
  return Object.fromEntries(
    [before, plan].flatMap(assignedIn).flatMap(({ assignment }) => {
      const group = groupAsked(assignment)?.group ?? null;
      if (group !== null) return [[group, groups.get(group)?.name ?? '']];
      const role = roleAsked(assignment);
      return role === null ? [] : [[role, roles.get(role)?.name ?? '']];
    }),
  );
}

/** What the check before sending would stop at and has not stopped at before. */
function findingFault(draft: Draft, plan: Series, context: Context): Refusal | null {
  const stops = (of: Circulation) => preflight(subjectOf(of, context)).filter(({ severity }) => severity === 'stops');
  const known = new Set(stops(draft).map(keyOf));
  const fresh = stops({ ...draft, plan }).find((finding) => !known.has(keyOf(finding)));
  return fresh
    ? refusal('preflight', { finding: fresh.code, stage: fresh.stage, seat: fresh.seat, about: fresh.about })
    : null;
}

const keyOf = ({ code, stage, seat, about }: Finding) => [code, stage, seat, about].join(' ');

/** Seats that have responded keep being asked about exactly what they were: what is added concerns the others. */
function keepingScopes(draft: Circulation, plan: Series, version: Version): Series {
  const before = newest(draft);
  if (!before) return plan;
  const known = documentsOf(before).map(({ id }) => id);
  const added = documentsOf(version).some(({ id }) => !known.includes(id));
  if (!added) return plan;
  const stays = (seat: Seat) =>
    seat.files === 'all' && [...draft.seats.values()].some((run) => run.planned === seat.id && hasResponded(run));
  return withSeats(plan, (seat) => (stays(seat) ? { ...seat, files: known } : seat));
}

function withSeats(series: Series, change: (seat: Seat) => Seat): Series {
  const inner = (part: Route): Route => {
    if (part.kind === 'stage') return { ...part, seats: part.seats.map(change) };
    if (part.kind === 'series') return withSeats(part, change);
    if (part.kind === 'copies') return part;
    return { ...part, branches: part.branches.map((one) => ({ ...one, route: withSeats(one.route, change) })) };
  };
  return { ...series, parts: series.parts.map(inner) };
}

/** Why files cannot be changed like this: somebody has acted on them, or their pages are frozen for signing. */
function versionFault(draft: Draft, after: Circulation, version: Version): Refusal | null {
  const unfit = unfitVersion(draft, version);
  if (unfit) return unfit;
  const contents = new Map(version.files.map(({ id, file }) => [id, file]));
  if ([...draft.frozen].some(([id, frozen]) => contents.get(id) !== frozen.content)) return refusal('amend-frozen');
  for (const seat of draft.seats.values())
    if (!seat.gone && hasResponded(seat) && scopeIn(after, seat, version) !== scopeOf(draft, seat))
      return refusal('amend-acted', { seat: seat.id, by: baseHolder(seat)?.person ?? '' });
  return null;
}

/** Refuses another signer on pages that are frozen: their field would come too late, or end the signatures given. */
function signerFault(draft: Draft, plan: Series): Refusal | null {
  const version = newest(draft);
  if (!version) return null;
  const before = plannedSeats(draft);
  for (const stage of stagesOf(plan)) {
    if (!verbFacts[stage.verb].signs) continue;
    for (const seat of stage.seats) {
      const was = before.get(seat.id)?.stage;
      if (was && verbFacts[was.verb].signs) continue;
      const asked = documentsOf(version).filter(({ id }) => seat.files === 'all' || seat.files.includes(id));
      const frozen = asked.some(({ id, file }) => draft.frozen.get(id)?.content === file);
      if (asked.some(({ id }) => isSigned(draft, id))) return refusal('amend-signed', { stage: stage.id });
      if (draft.phase === 'running' && frozen) return refusal('amend-signers', { stage: stage.id });
    }
  }
  return null;
}

/** Refuses to make stages need different people in which one person has responded already. */
function independenceFault(draft: Draft, plan: Series, context: Context): Refusal | null {
  // In rework nothing stands yet: the next round keeps one of the two.
  if (draft.phase !== 'running') return null;
  const standing = standingDecisions(draft);
  const before = countedTwice(draft, standing, context);
  const twice = countedTwice({ ...draft, plan }, standing, context).find((seat) => !before.includes(seat));
  return twice === undefined ? null : refusal('amend-independent', { seat: twice });
}

const no = (code: RefusalCode, part: string) => refusal(code, { part });

/** Why the route cannot become this one: what has been reached stays, and stays where it is. */
function structureFault(state: Circulation, plan: Series): Refusal | null {
  if (routeFaults(plan).length > 0) return refusal('route-unfit');
  const empty = emptySeries(plan)[0] ?? stagesOf(plan).find((stage) => stage.seats.length === 0)?.id;
  if (empty !== undefined) return no('amend-empty', empty);
  return (
    reusedFault(state, plan) ??
    groupFault(state, plan) ??
    (state.phase === 'rework'
      ? reworkFault(state, plan)
      : (movedFault(state, plan) ?? seriesFault(state, state.plan, plan) ?? keptFault(state, plan)))
  );
}

/** Refuses names of what was removed: its history would become that of something else. */
function reusedFault(state: Circulation, plan: Series): Refusal | null {
  const known = new Set(plannedStages(state).flatMap((stage) => [stage.id, ...stage.seats.map(({ id }) => id)]));
  for (const stage of stagesOf(plan)) {
    if (!known.has(stage.id) && state.stages.has(stage.id)) return refusal('route-unfit');
    for (const { id } of stage.seats) if (!known.has(id) && state.seats.has(id)) return refusal('route-unfit');
  }
  return null;
}

/** Refuses a group in another stage whose members have become seats of their own: those stay where they were asked. */
function groupFault(state: Circulation, plan: Series): Refusal | null {
  const after = plannedSeats({ plan });
  const moved = [...state.seats.values()].find(
    ({ gone, planned, stage }) => gone === 'expanded' && (after.get(planned)?.stage.id ?? stage) !== stage,
  );
  return moved ? no('amend-reached', moved.planned) : null;
}

/** Refuses a stage that has been reached in another series than its own, also where its branch goes: it would begin anew. */
function movedFault(state: Circulation, plan: Series): Refusal | null {
  const [before, after] = [seriesOfStages(state.plan), seriesOfStages(plan)];
  const moved = stagesOf(state.plan).find(
    (stage) => after.has(stage.id) && after.get(stage.id) !== before.get(stage.id) && isReached(state, stage),
  );
  return moved ? no('amend-reached', moved.id) : null;
}

/** In which series each stage stands. */
function seriesOfStages(route: Series): ReadonlyMap<string, string> {
  return new Map(
    partsOf(route).flatMap((part) =>
      part.kind === 'series' ? part.parts.map((inner) => [inner.id, part.id] as const) : [],
    ),
  );
}

/** Refuses to take away or change what a response stands on, also where a round has kept it ahead of its turn. */
function keptFault(state: Circulation, plan: Series): Refusal | null {
  const version = newest(state);
  const [before, after] = [plannedSeats(state), plannedSeats({ plan })];
  for (const run of state.seats.values()) {
    if (run.gone || !hasResponded(run)) continue;
    const [old, next] = [before.get(run.planned), after.get(run.planned)];
    const stays =
      old &&
      next &&
      next.stage.id === old.stage.id &&
      next.stage.verb === old.stage.verb &&
      alike(next.seat.assignment, old.seat.assignment) &&
      (!version || sameContent(old.seat, next.seat, version));
    if (!stays) return no('amend-decided', run.id);
  }
  return null;
}

/** In rework nothing is under way: only what somebody once decided keeps its place and its question. */
function reworkFault(state: Circulation, plan: Series): Refusal | null {
  const before = plannedSeats(state);
  for (const { seat, stage } of plannedSeats({ plan }).values()) {
    const runs = [...state.seats.values()].filter((run) => run.planned === seat.id);
    const decided = runs.some((run) => state.decisions.some((decision) => decision.seat === run.id));
    if (decided && (runs[0]?.stage !== stage.id || before.get(seat.id)?.stage.verb !== stage.verb))
      return no('amend-decided', seat.id);
    const fault = assignmentFault(state, runs[0], seat);
    if (fault) return fault;
  }
  return null;
}

function assignmentFault(state: Circulation, run: SeatRun | undefined, seat: Seat): Refusal | null {
  const old = run && plannedSeats(state).get(seat.id)?.seat;
  if (!run || !old || alike(old.assignment, seat.assignment)) return null;
  return run.gone === 'expanded' || run.status !== 'idle' ? no('amend-reassign', seat.id) : null;
}

function seriesFault(state: Circulation, old: Series, next: Series): Refusal | null {
  const last = old.parts.findLastIndex((part) => isReached(state, part));
  const over = isPartOver(state, old);
  if (over && next.parts.length !== old.parts.length) return no('amend-over', old.id);
  for (const [i, part] of old.parts.entries()) {
    if (!over && i > last) break;
    const there = next.parts[i];
    if (there?.id !== part.id) return no('amend-reached', part.id);
    const fault = partFault(state, part, there);
    if (fault) return fault;
  }
  return null;
}

function partFault(state: Circulation, old: Route, next: Route): Refusal | null {
  if (old.kind === 'stage' && next.kind === 'stage') return stageFault(state, old, next);
  if (old.kind === 'series' && next.kind === 'series') return seriesFault(state, old, next);
  if (old.kind === 'parallel' && next.kind === 'parallel') return parallelFault(state, old, next);
  // A board that has been passed: the copies have gone.
  return alike(old, next) ? null : no('amend-reached', old.id);
}

function parallelFault(state: Circulation, old: Parallel, next: Parallel): Refusal | null {
  if (isPartOver(state, old))
    return alike(old.join, next.join) && next.branches.length === old.branches.length
      ? branchesFault(state, old, next)
      : no('amend-over', old.id);
  return branchesFault(state, old, next);
}

function branchesFault(state: Circulation, old: Parallel, next: Parallel): Refusal | null {
  for (const branch of old.branches) {
    const there = next.branches.find((one) => one.route.id === branch.route.id);
    if (!there) {
      // An undecided branch may go, though people in it have been asked.
      const stands =
        isPartOver(state, branch.route) || stagesOf(branch.route).some((stage) => hasDecisions(state, stage));
      if (stands) return no('amend-decided', branch.route.id);
      continue;
    }
    if (!alike(branch.condition, there.condition) && state.blocks.get(branch.route.id)?.decided)
      return no('amend-reached', branch.route.id);
    const fault = state.blocks.get(branch.route.id)?.gone
      ? alike(branch, there)
        ? null
        : no('amend-over', branch.route.id)
      : seriesFault(state, branch.route, there.route);
    if (fault) return fault;
  }
  return null;
}

function hasDecisions(state: Circulation, { id }: Stage): boolean {
  const run = state.stages.get(id);
  return run !== undefined && seatsOfStage(state, run).some((seat) => !seat.gone && hasResponded(seat));
}

/** What of a stage stays once it has been reached. */
const fixed = ['verb', 'order', 'condition', 'earliest', 'onReturn', 'onDecline', 'independentOf'] as const;

function stageFault(state: Circulation, old: Stage, next: Stage): Refusal | null {
  const run = state.stages.get(old.id) as StageRun;
  const over = isOver(run);
  if (over) {
    const bare = ({ seats, ...stage }: Stage) => [
      stage,
      seats.map(({ files: _, pages: __, facts: ___, ...seat }) => seat),
    ];
    if (!alike(bare(old), bare(next))) return no('amend-over', old.id);
  }
  if (fixed.some((key) => !alike(old[key], next[key]))) return no('amend-reached', old.id);
  const ids = new Set(next.seats.map(({ id }) => id));
  const runs = seatsOfStage(state, run).filter((seat) => !seat.gone || seat.gone === 'expanded');
  for (const seat of runs) {
    if (ids.has(seat.planned)) continue;
    if (hasResponded(seat)) return no('amend-decided', seat.id);
  }
  const stays = next.seats.some(({ id }) => runs.some((seat) => seat.planned === id));
  if (!stays) return no('amend-last', old.id);
  for (const seat of next.seats) {
    const before = old.seats.find(({ id }) => id === seat.id);
    if (!before) {
      if (isGathering(state, run)) return no('amend-gathering', old.id);
      continue;
    }
    const own = runs.filter((one) => one.planned === seat.id);
    const fault = assignmentFault(state, own[0], seat);
    if (fault) return fault;
    const version = newest(state);
    const decided = own.some(hasResponded);
    const narrowed = version && decided && !sameContent(before, seat, version);
    if (narrowed || (decided && (!alike(before.due, seat.due) || !alike(before.closes, seat.closes))))
      return no('amend-decided', seat.id);
  }
  return null;
}

/** Whether two plans of a seat mean the same of a version: its files, their pages, the values. */
function sameContent(one: Seat, other: Seat, version: Version): boolean {
  const content = ({ files, pages, facts }: Seat) => [
    version.files.filter(({ id, role }) => files === 'all' || role === 'attachment' || files.includes(id)),
    pages,
    facts,
  ];
  return alike(content(one), content(other));
}

/** Whether a part has been begun, skipped or passed: it stays, where it stands. */
function isReached(state: Circulation, part: Route): boolean {
  if (part.kind === 'copies') return state.copies.get(part.id)?.status !== 'idle';
  if (part.kind === 'stage') {
    const run = state.stages.get(part.id);
    return run !== undefined && (run.gone !== null || run.held !== null || run.status !== 'idle');
  }
  if (state.blocks.get(part.id)?.decided) return true;
  return part.kind === 'series'
    ? part.parts.some((inner) => isReached(state, inner))
    : part.branches.some(({ route }) => isReached(state, route));
}

/** Whether everything in a part is over: done, released or skipped. */
function isPartOver(state: Circulation, part: Route): boolean {
  if (part.kind === 'copies') return state.copies.get(part.id)?.status !== 'idle';
  if (part.kind === 'stage') {
    const run = state.stages.get(part.id);
    return run !== undefined && isOver(run);
  }
  if (state.blocks.get(part.id)?.gone) return true;
  return part.kind === 'series'
    ? part.parts.length > 0 && part.parts.every((inner) => isPartOver(state, inner))
    : part.branches.every(({ route }) => isPartOver(state, route));
}
