import type { CommandOf } from '@/core/circulation/acts/commands';
import type { Version } from '@/core/circulation/run/shapes';
import {
  emptySeries,
  type Parallel,
  type Route,
  routeFaults,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
} from '@/core/route/route';
import { fillRole, fitTimes, stops } from './acts';
import { elsewhereInStage, targets, timesFrom } from './people';
import { twice } from './round';
import {
  blocksOf,
  boardsOf,
  content,
  contentIn,
  documents,
  endSignatures,
  freshBlock,
  freshSeat,
  freshStage,
  holdersOf,
  instant,
  isSigned,
  type Known,
  type Model,
  type ModelSeat,
  need,
  needFitVersion,
  newest,
  note,
  refuse,
  responded,
  same,
  seatsIn,
  isOver as stageIsOver,
  stageOf,
} from './state';
import { gathering } from './walk';

// What the controller changes while a circulation is under way. What has been reached stays as it was walked.

export function amend(m: Model, command: CommandOf<'amend'>, known: Known): void {
  const { version } = command;
  const plan = version ? keeping(m, command.plan, version) : command.plan;
  const whole = command.whole;
  const timed = whole !== null && (whole.due !== m.due || whole.closes !== m.closes);
  need(!same(plan, m.plan) || command.note !== m.note || timed || version !== null, 'no effect');
  fits(m, plan);
  if (timed && whole) fitTimes(whole.due, whole.closes, known.now);
  signers(m, plan);
  const before = stops(m, known);
  need(
    stops({ ...m, plan }, known).every((stop) => before.includes(stop)),
    'the check stops it',
  );
  if (m.phase === 'running') {
    const counts = (seat: ModelSeat) => responded(seat) && !seat.gone && !stageOf(m, seat.stage).gone;
    const standing = new Map([...m.seats.values()].filter(counts).map((seat) => [seat.id, seat.decision ?? -1]));
    const had = twice(m, m.plan, standing);
    need(
      twice(m, plan, standing).every((seat) => had.includes(seat)),
      'one person has responded in both',
    );
  }
  const old = structuredClone(m);
  take(m, plan, known);
  for (const seat of m.seats.values())
    if (!seat.gone && old.seats.get(seat.id)?.epoch !== seat.epoch)
      for (const person of holdersOf(seat)) need(!elsewhereInStage(m, seat, person), 'counts in the stage already');
  m.note = command.note;
  if (timed && whole) Object.assign(m, { due: whole.due, closes: whole.closes });
  if (version) files(old, m, version);
  // Who is asked and of whom something else is planned now has the times that follow, from when they were asked.
  for (const seat of m.seats.values()) {
    const was = old.seats.get(seat.id);
    if (!was || seat.gone || seat.status !== 'asked' || seat.since === null) continue;
    if (same(targets(old, was), targets(m, seat))) continue;
    const times = timesFrom(m, { ...seat, given: null }, seat.since, known);
    fitTimes(times.due, times.closes, known.now);
    Object.assign(seat, times, { asking: null });
  }
  if (version) endSignatures(m, version);
  if (version) m.versions.push(version);
}

/** Whoever has responded keeps being asked about what they were: what is added concerns the others. */
function keeping(m: Model, plan: Series, version: Version): Series {
  const before = newest(m);
  const known = before ? documents(before).map(({ id }) => id) : [];
  if (!before || documents(version).every(({ id }) => known.includes(id))) return plan;
  const stays = (seat: Seat) =>
    seat.files === 'all' && [...m.seats.values()].some((run) => run.planned === seat.id && responded(run));
  const inner = (part: Route): Route => {
    if (part.kind === 'stage')
      return { ...part, seats: part.seats.map((seat) => (stays(seat) ? { ...seat, files: known } : seat)) };
    if (part.kind === 'series') return { ...part, parts: part.parts.map(inner) };
    if (part.kind === 'copies') return part;
    return { ...part, branches: part.branches.map((one) => ({ ...one, route: inner(one.route) as Series })) };
  };
  return inner(plan) as Series;
}

function files(old: Model, m: Model, version: Version): void {
  needFitVersion(old, version);
  for (const [id, frozen] of old.frozen)
    need(version.files.find((file) => file.id === id)?.file === frozen.content, 'frozen');
  for (const seat of old.seats.values()) {
    if (seat.gone || !responded(seat)) continue;
    const run = m.seats.get(seat.id);
    need(run !== undefined && contentIn(m, run, version) === content(old, seat), 'somebody has responded to it');
  }
}

/** No signer comes to pages that are frozen, nor to a file that is signed. */
function signers(m: Model, plan: Series): void {
  const version = newest(m);
  if (!version) return;
  const signed = new Set(
    stagesOf(m.plan).flatMap(({ verb, seats }) => (verb === 'sign' ? seats.map(({ id }) => id) : [])),
  );
  for (const { verb, seats } of stagesOf(plan)) {
    if (verb !== 'sign') continue;
    for (const seat of seats.filter(({ id }) => !signed.has(id))) {
      const asked = documents(version).filter(({ id }) => seat.files === 'all' || seat.files.includes(id));
      need(!asked.some(({ id }) => isSigned(m, id)), 'somebody has signed');
      const frozen = asked.some(({ id, file }) => m.frozen.get(id)?.content === file);
      need(m.phase !== 'running' || !frozen, 'frozen');
    }
  }
}

function fits(m: Model, plan: Series): void {
  need(routeFaults(plan).length === 0, 'unfit');
  need(emptySeries(plan).length === 0 && stagesOf(plan).every(({ seats }) => seats.length > 0), 'something is empty');
  const known = stagesOf(m.plan).flatMap(({ id, seats }) => [id, ...seats.map((seat) => seat.id)]);
  for (const stage of stagesOf(plan)) {
    need(known.includes(stage.id) || !m.stages.has(stage.id), 'called like what was removed');
    for (const { id } of stage.seats) need(known.includes(id) || !m.seats.has(id), 'called like what was removed');
  }
  const next = new Map(
    stagesOf(plan).flatMap((stage) => stage.seats.map((seat) => [seat.id, { stage, seat }] as const)),
  );
  for (const seat of m.seats.values())
    if (seat.gone === 'expanded')
      need((next.get(seat.planned)?.stage.id ?? seat.stage) === seat.stage, 'its members stand there');
  if (m.phase === 'rework') {
    inRework(m, plan);
    return;
  }
  needSameSeries(m, plan);
  seriesFits(m, m.plan, plan);
  for (const seat of m.seats.values()) {
    if (seat.gone || !responded(seat)) continue;
    const there = next.get(seat.planned);
    const was = m.seatPlans.get(seat.planned) as Seat;
    const old = m.stagePlans.get(seat.stage) as Stage;
    need(there?.stage.id === seat.stage && there.stage.verb === old.verb, 'somebody has responded there');
    need(same(there?.seat.assignment, was.assignment), 'somebody has responded there');
    need(!there || sameScope(m, was, there.seat), 'somebody has responded to it');
  }
}

function sameScope(m: Model, one: Seat, other: Seat): boolean {
  const version = newest(m);
  const files = (seat: Seat) =>
    (version?.files ?? [])
      .filter(({ id, role }) => seat.files === 'all' || role === 'attachment' || seat.files.includes(id))
      .map(({ id }) => id);
  return !version || same([files(one), one.pages, one.facts], [files(other), other.pages, other.facts]);
}

/** In rework nothing is under way: only what somebody once decided keeps its place and its question. */
function inRework(m: Model, plan: Series): void {
  for (const stage of stagesOf(plan))
    for (const seat of stage.seats) {
      const runs = [...m.seats.values()].filter((run) => run.planned === seat.id);
      const verb = stagesOf(m.plan).find(({ seats }) => seats.some(({ id }) => id === seat.id))?.verb;
      if (runs.some((run) => m.decisions.some((decision) => decision.seat === run.id)))
        need(runs[0]?.stage === stage.id && verb === stage.verb, 'somebody has decided there');
      sameHolder(m, seat);
    }
}

/** Whoever is asked already is replaced by reassigning. */
function sameHolder(m: Model, seat: Seat): void {
  const run = m.seats.get(seat.id);
  const old = stagesOf(m.plan).flatMap(({ seats }) => seats.filter(({ id }) => id === seat.id))[0];
  if (!run || !old || same(old.assignment, seat.assignment)) return;
  need(run.gone !== 'expanded' && run.status === 'idle', 'is asked already');
}

function needSameSeries(m: Model, plan: Series): void {
  const homes = (route: Series) =>
    new Map(
      blocksOf(route).flatMap((part) => (part.kind === 'series' ? part.parts.map((one) => [one.id, part.id]) : [])),
    );
  const [before, after] = [homes(m.plan), homes(plan)];
  for (const stage of stagesOf(m.plan))
    if (after.has(stage.id) && after.get(stage.id) !== before.get(stage.id)) need(!isReached(m, stage), 'has begun');
}

const inside = (part: Series | Parallel): readonly Route[] =>
  part.kind === 'series' ? part.parts : part.branches.map(({ route }) => route);

function isReached(m: Model, part: Route): boolean {
  if (part.kind === 'copies') return (m.boards.get(part.id) ?? null) !== null;
  if (part.kind !== 'stage')
    return (m.blocks.get(part.id)?.decided ?? false) || inside(part).some((one) => isReached(m, one));
  const stage = m.stages.get(part.id);
  return !!stage && (stage.gone !== null || stage.held !== null || stage.status !== 'idle');
}

function isOver(m: Model, part: Route): boolean {
  if (part.kind === 'copies') return (m.boards.get(part.id) ?? null) !== null;
  if (part.kind === 'stage') return m.stages.has(part.id) && stageIsOver(stageOf(m, part.id));
  if (m.blocks.get(part.id)?.gone) return true;
  return inside(part).length > 0 && inside(part).every((one) => isOver(m, one));
}

function seriesFits(m: Model, old: Series, next: Series): void {
  const over = isOver(m, old);
  need(!over || next.parts.length === old.parts.length, 'is over');
  const last = old.parts.findLastIndex((part) => isReached(m, part));
  old.parts.forEach((part, i) => {
    if (!over && i > last) return;
    const there = next.parts[i];
    if (there?.id !== part.id) refuse('has begun');
    else if (part.kind === 'stage' && there.kind === 'stage') stageFits(m, part, there);
    else if (part.kind === 'series' && there.kind === 'series') seriesFits(m, part, there);
    else if (part.kind === 'parallel' && there.kind === 'parallel') parallelFits(m, part, there);
    else need(same(part, there), 'has begun');
  });
}

function parallelFits(m: Model, old: Parallel, next: Parallel): void {
  if (isOver(m, old)) need(same(old.join, next.join) && next.branches.length === old.branches.length, 'is over');
  for (const branch of old.branches) {
    const there = next.branches.find(({ route }) => route.id === branch.route.id);
    const block = m.blocks.get(branch.route.id);
    if (!there) {
      const decided = stagesOf(branch.route).some(({ id }) => seatsIn(m, stageOf(m, id)).some(responded));
      need(!isOver(m, branch.route) && !decided, 'somebody has responded there');
      continue;
    }
    need(same(branch.condition, there.condition) || !block?.decided, 'has been decided');
    if (block?.gone) need(same(branch, there), 'is out of the route');
    else seriesFits(m, branch.route, there.route);
  }
}

function stageFits(m: Model, old: Stage, next: Stage): void {
  const stage = stageOf(m, old.id);
  const bare = ({ seats, ...rest }: Stage) => [rest, seats.map(({ files: _, pages: __, facts: ___, ...seat }) => seat)];
  if (stage.gone !== null || stage.status === 'done' || stage.status === 'released')
    need(same(bare(old), bare(next)), 'is over');
  const { seats: _, due: __, closes: ___, rule: ____, allows: _____, ...fixed } = old;
  for (const key of Object.keys(fixed) as (keyof typeof fixed)[]) need(same(old[key], next[key]), 'has begun');
  const runs = stage.seats.flatMap((id) => m.seats.get(id) ?? []).filter((seat) => seat.gone !== 'removed');
  const stays = (id: string) => next.seats.some((seat) => seat.id === id);
  for (const run of runs) need(stays(run.planned) || !responded(run), 'somebody has responded');
  need(
    runs.some((run) => stays(run.planned)),
    'nobody would be left',
  );
  for (const seat of next.seats) {
    const before = old.seats.find(({ id }) => id === seat.id);
    if (!before) {
      need(!gathering(m, stage), 'a return is gathered');
      continue;
    }
    sameHolder(m, seat);
    if (!runs.some((run) => run.planned === seat.id && responded(run))) continue;
    need(
      sameScope(m, before, seat) && same([before.due, before.closes], [seat.due, seat.closes]),
      'somebody has responded',
    );
  }
}

/** The amended plan becomes the plan: what is new begins, what is no longer there is marked, the rest goes on. */
function take(m: Model, plan: Series, known: Known): void {
  const old = new Map(stagesOf(m.plan).map((stage) => [stage.id, stage]));
  const oldSeats = new Map([...old.values()].flatMap(({ seats }) => seats.map((seat) => [seat.id, seat] as const)));
  const stages = stagesOf(plan);
  const seats = new Map(stages.flatMap((stage) => stage.seats.map((seat) => [seat.id, { seat, stage }] as const)));
  const blocks = blocksOf(plan).map(({ id }) => id);
  for (const [id, block] of m.blocks) if (!blocks.includes(id)) block.gone = 'removed';
  for (const id of blocks) if (!m.blocks.has(id)) m.blocks.set(id, freshBlock());
  for (const { id } of boardsOf(plan)) if (!m.boards.has(id)) m.boards.set(id, null);
  for (const id of old.keys())
    if (!stages.some((stage) => stage.id === id))
      Object.assign(stageOf(m, id), { gone: 'removed', status: 'released', held: null });
  for (const seat of m.seats.values()) {
    if (seats.has(seat.planned)) continue;
    seat.gone = 'removed';
    if (['asked', 'idle', 'suspended'].includes(seat.status)) seat.status = 'released';
    seat.proposal = null;
    seat.asking = null;
  }
  m.plan = plan;
  note(m, plan);
  for (const stage of stages) if (!m.stages.has(stage.id)) m.stages.set(stage.id, freshStage(stage));
  for (const { seat, stage } of seats.values()) {
    const there = m.seats.get(seat.id);
    const was = oldSeats.get(seat.id);
    if (!there || !was || there.stage !== stage.id || !same(was.assignment, seat.assignment)) {
      const fresh = freshSeat(stage.id, seat);
      fresh.epoch = there ? there.epoch + 1 : 1;
      fresh.seconds = there?.seconds ?? [];
      m.seats.set(seat.id, fresh);
      fillRole(m, seat.id, known);
    } else if (!same([was.due, was.closes], [seat.due, seat.closes])) {
      // Newer than the times that its stage was given since.
      if (there.status === 'idle' && stageOf(m, stage.id).retimed)
        there.given = { due: instant(seat.due), closes: instant(seat.closes) };
    }
  }
  for (const stage of stages) {
    const run = stageOf(m, stage.id);
    const members = (id: string) => [...m.seats.values()].filter((seat) => seat.planned === id && seat.id !== id);
    const there = stage.seats.flatMap(({ id }) => [id, ...members(id).map((seat) => seat.id)]);
    const gone = run.seats.filter((id) => !there.includes(id) && m.seats.get(id)?.stage === stage.id);
    run.seats = [...there, ...gone];
    const was = old.get(stage.id);
    if (!was || same([was.due, was.closes], [stage.due, stage.closes])) continue;
    Object.assign(run, { due: stage.due, closes: stage.closes });
    if (run.held === 'time') run.held = null;
  }
  m.fields = m.fields.filter((field) => m.frozen.has(field.file) || seats.has(field.seat));
}
