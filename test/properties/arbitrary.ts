import fc from 'fast-check';
import { bareContext, type Command, type Context, type Create } from '@/core/circulation/commands';
import { type Decided, decide } from '@/core/circulation/decide';
import { type CirculationEvent, isPositive, outcomesOf, system, type Version } from '@/core/circulation/events';
import { mayAct, otherSeatInStage } from '@/core/circulation/holders';
import { proposedLines, roundBasis } from '@/core/circulation/round';
import {
  type Circulation,
  documentsOf,
  newest,
  plannedStages,
  presentFields,
  type SeatRun,
  scopeIn,
  scopeOf,
  seatsWithoutField,
  stagePlanOf,
} from '@/core/circulation/state';
import { finalsWanted, freezeWanted, releaseWanted, type Task, tasksOf, timersOf } from '@/core/circulation/tasks';
import { type Field, fieldIdsOf } from '@/core/page/fields';
import {
  atInstant,
  type Parallel,
  type Route,
  type Rule,
  type Series,
  type Stage,
  type Verb,
  verbs,
} from '@/core/route/route';

/** A seeded generator (mulberry32): the engine's tests need many cheap draws inside one property run. */
export function drawsFrom(seed: number) {
  let a = seed >>> 0;
  const next = () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = a;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    chance: (p: number) => next() < p,
    below: (n: number) => Math.floor(next() * n),
    pick: <T>(items: readonly T[]): T => items[Math.floor(next() * items.length)] as T,
  };
}
export type Draws = ReturnType<typeof drawsFrom>;

export const controller = 'ines';
export const author = 'rufus';
export const crew = ['petra', 'oskar', 'yuki', 'noor', 'dalia', 'benedikt', 'caspian', 'fenna'];
export const outsiders = ['lotte', 'jarek'];
export const start = Date.UTC(2026, 10, 2, 8);
export const hour = 3_600_000;
const day = 24 * hour;

export function contextOf(now: number, actor: string): Context {
  return {
    ...bareContext(now, actor),
    people: new Map(
      [controller, author, ...crew, ...outsiders].map((id) => [id, { outside: outsiders.includes(id), active: true }]),
    ),
  };
}

function randomRule(draws: Draws, n: number): Rule {
  const kind = draws.below(4);
  if (kind === 0) return { kind: 'any' };
  if (kind === 1 && n > 1) return { kind: 'atLeast', k: 1 + draws.below(n) };
  return { kind: 'all' };
}

const assignment = (person: string) =>
  outsiders.includes(person) ? { kind: 'outside' as const, person } : { kind: 'person' as const, person };

export function randomRoute(draws: Draws, seats: number, files = 1): Series {
  let ids = 0;
  const id = (prefix: string) => `${prefix}${++ids}`;
  let left = seats;
  const stage = (signs: boolean): Stage => {
    const n = Math.max(1, Math.min(left, 1 + draws.below(4)));
    left -= n;
    const verb: Verb = draws.pick(signs ? verbs : verbs.filter((candidate) => candidate !== 'sign'));
    const pool = draws.chance(0.3) ? [...outsiders, ...crew] : crew;
    const first = draws.below(pool.length);
    const due = draws.chance(0.5) ? start + day + draws.below(300) * hour : null;
    const closes = draws.chance(0.3) ? Math.max(due ?? 0, start + day) + (1 + draws.below(100)) * hour : null;
    return {
      kind: 'stage',
      id: id('g'),
      verb,
      seats: Array.from({ length: n }, (_, i) => ({
        id: id('s'),
        assignment: assignment(pool[(first + i) % pool.length] as string),
        files: files > 1 && draws.chance(0.4) ? [`f${1 + draws.below(files)}`] : ('all' as const),
      })),
      order: draws.chance(0.5) ? 'together' : 'oneByOne',
      rule: randomRule(draws, n),
      due: atInstant(due),
      closes: atInstant(closes),
      onDecline: draws.chance(0.5) ? 'stop' : 'count',
      delegate: draws.chance(0.7),
    };
  };
  const series = (depth: number, signs: boolean): Series => {
    const parts: Route[] = [];
    const n = 1 + draws.below(3);
    for (let i = 0; i < n && (left > 0 || parts.length === 0); i += 1) {
      if (depth < 3 && left > 3 && draws.chance(0.35)) {
        const branches = 2 + draws.below(2);
        const join = randomRule(draws, branches);
        const whole = join.kind === 'all' || (join.kind === 'atLeast' && join.k === branches);
        const parallel: Parallel = {
          kind: 'parallel',
          id: id('p'),
          name: '',
          join,
          branches: Array.from({ length: branches }, (_, b) => ({
            name: `branch ${b}`,
            route: series(depth + 1, signs && whole),
          })),
        };
        parts.push(parallel);
      } else parts.push(stage(signs));
    }
    return { kind: 'series', id: id('r'), parts };
  };
  const route = series(0, true);
  while (left > 0 && route.parts.length < 8) (route.parts as Route[]).push(stage(true));
  return route;
}

/** One route and the seeds of its commands; shrinking leaves commands out and makes the route smaller. */
export const scenario = fc.record({
  seed: fc.integer({ min: 0, max: 2 ** 31 }),
  seats: fc.integer({ min: 1, max: 40 }),
  files: fc.constantFrom(1, 1, 3),
  steps: fc.array(fc.integer({ min: 0, max: 2 ** 31 }), { maxLength: 200, size: 'max' }),
});
export type Scenario = typeof scenario extends fc.Arbitrary<infer T> ? T : never;

export function hash(n: number): string {
  return n.toString(16).padStart(64, '0');
}

/** A version of so many documents and one attachment; each file's content is `content` unless `same` keeps it. */
export function versionOf(number: number, content = number, files = 1, attachment = 0): Version {
  const of = (id: string, role: 'document' | 'attachment', file: number) => ({
    id,
    file: hash(file),
    name: `${id}.pdf`,
    role,
    record: 'rec',
    mediaType: 'application/pdf',
    bytes: 1000,
  });
  return {
    number,
    files: [
      ...Array.from({ length: files }, (_, i) =>
        of(`f${i + 1}`, 'document', i === 0 ? content : 1000 * i + (content % 2)),
      ),
      ...(attachment ? [of('extra', 'attachment', attachment)] : []),
    ],
  };
}

/** A needed signature field for every signing seat on each of its files, and sometimes one that may stay empty. */
export function fieldsFor(state: Circulation, file: string): Field[] {
  const of = (seat: string, i: number, more: Partial<Field>): Field => ({
    id: `p-${file}-${seat}`,
    seat,
    file,
    kind: 'signature',
    page: i,
    x: 0,
    y: 0,
    width: 100,
    height: 40,
    needed: true,
    label: '',
    ...more,
  });
  return plannedStages(state)
    .filter((stage) => stage.verb === 'sign')
    .flatMap((stage) => stage.seats)
    .filter((seat) => seat.files === 'all' || seat.files.includes(file))
    .flatMap((seat, i) => [
      of(seat.id, i, {}),
      ...(i % 3 === 0 ? [of(seat.id, i, { id: `n-${file}-${seat.id}`, kind: 'text', y: 100, needed: false })] : []),
    ]);
}

const filledFor = (state: Circulation, seat: string) =>
  fieldIdsOf(presentFields(state), seat).map((field) => ({ field, value: hash(7) }));

/** A command that may or may not make sense: right and wrong actors, old epochs and old versions among them. */
export function randomCommand(draws: Draws, state: Circulation, files = 1): { command: Command; actor: string } {
  const seat = draws.pick([...state.seats.values()]);
  const stage = stagePlanOf(state, seat);
  const someone = draws.pick([...crew, ...outsiders, controller, author]);
  const holder = draws.chance(0.85) ? (draws.pick(seat.holders)?.person ?? someone) : someone;
  const chief = draws.chance(0.95) ? controller : someone;
  const epoch = draws.chance(0.9) ? seat.epoch : seat.epoch - 1;
  const version = draws.chance(0.9) || state.versions.length === 0 ? newest(state) : draws.pick(state.versions);
  const scope = version ? scopeIn(state, seat, version) : hash(999);
  const time = () => (draws.chance(0.7) ? state.last + (1 + draws.below(200)) * hour : null);
  const stageTime = () => ({ due: atInstant(time()), closes: atInstant(draws.chance(0.3) ? time() : null) });
  const person = () => (draws.chance(0.8) ? assignment(someone) : ({ kind: 'person', person: someone } as const));
  const on = draws.pick(newest(state)?.files ?? versionOf(0).files);
  const kind = draws.below(120);
  const seated = { seat: seat.id };
  if (kind < 42) {
    const outcome = draws.chance(0.85)
      ? draws.pick(outcomesOf[stage.verb])
      : draws.pick(['approved', 'signed', 'done', 'declined'] as const);
    const own = filledFor(state, seat.id);
    const filled = outcome !== 'signed' ? [] : draws.chance(0.9) ? own : own.slice(1);
    const note = draws.chance(0.9) ? 'w' : null;
    return {
      command: { type: 'decide', ...seated, epoch, scope, outcome, note, filled, evidence: null },
      actor: holder,
    };
  }
  if (kind < 50) return { command: { type: 'see', ...seated, epoch, scope }, actor: holder };
  if (kind < 56) {
    const number = (newest(state)?.number ?? 0) + (draws.chance(0.9) ? 1 : 0);
    const made = versionOf(number, draws.chance(0.3) ? 1 : number, files, draws.chance(0.3) ? 50 : 0);
    return { command: { type: 'attach', version: made }, actor: draws.chance(0.9) ? author : someone };
  }
  if (kind < 70) {
    const lines = proposedLines(state);
    const keep = lines.filter((line) => (draws.chance(0.95) ? line.keep : !line.keep)).map((line) => line.seat);
    const leave = draws.chance(0.3)
      ? lines.filter((line) => line.reason === 'declined' && !keep.includes(line.seat)).map((line) => line.seat)
      : [];
    const times = draws.chance(0.8)
      ? [...state.stages.keys()].map((id) => ({ stage: id, ...(draws.chance(0.5) ? stageTime() : none) }))
      : [];
    return {
      command: {
        type: 'confirmRound',
        basis: draws.chance(0.9) ? roundBasis(state) : hash(draws.below(9)),
        keep,
        leave,
        times,
      },
      actor: chief,
    };
  }
  if (kind < 76) return { command: { type: 'extend', ...seated, due: null, closes: time() }, actor: chief };
  if (kind < 79) return { command: { type: 'remind', ...seated }, actor: chief };
  if (kind < 83) return { command: { type: 'delegate', ...seated, epoch, to: someone, note: null }, actor: holder };
  if (kind < 88)
    return {
      command: { type: 'reassign', ...seated, to: person(), due: time(), closes: null, note: null },
      actor: chief,
    };
  if (kind < 91) return { command: { type: 'addSecondHolder', ...seated, person: someone }, actor: chief };
  if (kind < 93) return { command: { type: 'dropSecondHolder', ...seated, person: someone }, actor: chief };
  if (kind < 97) {
    const fields = draws.chance(0.8) ? fieldsFor(state, on.id) : fieldsFor(state, on.id).slice(1);
    return { command: { type: 'putFields', file: on.id, content: on.file, fields }, actor: chief };
  }
  if (kind < 98)
    return {
      command: { type: 'keepFinals', files: [], identifier: 'x' },
      actor: draws.chance(0.9) ? system : chief,
    };
  if (kind < 101) {
    const thread = draws.chance(0.3) ? (draws.pick([...state.comments.values()])?.id ?? 'none') : null;
    return {
      command: {
        type: 'comment',
        comment: `r${draws.below(1e6)}`,
        thread,
        file: draws.chance(0.9) ? on.file : hash(4711),
        spot: null,
        note: 'w',
      },
      actor: someone,
    };
  }
  if (kind < 103)
    return {
      command: {
        type: draws.chance(0.7) ? 'resolveComment' : 'reopenComment',
        comment: draws.pick([...state.comments.values()])?.id ?? 'none',
      },
      actor: someone,
    };
  if (kind < 105) return { command: { type: 'wake' }, actor: draws.chance(0.9) ? system : someone };
  if (kind < 108) return { command: { type: 'pass', ...seated, note: null }, actor: chief };
  if (kind < 111) return { command: { type: 'askAgain', ...seated, due: time(), closes: null }, actor: chief };
  if (kind < 113) return { command: { type: 'setTimes', stage: stage.id, ...stageTime() }, actor: chief };
  if (kind < 115) {
    const [wanted] = freezeWanted(state);
    const made = wanted ?? { file: on.id, content: on.file, fields: hash(3) };
    return { command: { type: 'keepFrozen', ...made, frozen: hash(90_000 + draws.below(9)) }, actor: system };
  }
  if (kind < 116) return { command: { type: 'copyLink', ...seated }, actor: chief };
  if (kind < 117) return { command: { type: 'plan', plan: state.plan, note: 'w' }, actor: chief };
  if (kind < 118 && draws.chance(0.2)) return { command: { type: 'withdraw', note: 'w' }, actor: chief };
  if (kind < 119) return { command: { type: 'send', releasesItself: draws.chance(0.5) }, actor: chief };
  return {
    command: released(state.last),
    actor: draws.chance(0.7) ? chief : system,
  };
}

const none = { due: null, closes: null };

/** Runs a command and gives what came of it; a refusal changes nothing. */
export function step(run: Run, command: Command | Create, actor: string, forward = 0): Decided {
  run.now += forward;
  const result = decide(run.state, command, contextOf(run.now, actor));
  if (result.ok) {
    run.state = result.state;
    run.events.push(...result.events);
  }
  return result;
}

export interface Run {
  now: number;
  readonly files: number;
  state: Circulation | null;
  events: CirculationEvent[];
}

export function created(plan: Series, files = 1): Run {
  const run: Run = { now: start, files, state: null, events: [] };
  const create: Create = {
    type: 'create',
    number: 'C-1',
    records: ['rec'],
    change: 'chg',
    controller,
    author,
    plan,
    batch: null,
    begunBy: null,
  };
  must(step(run, create, controller));
  return run;
}

/** A circulation created, its first version submitted, sent. */
export function sentRun(plan: Series, files = 1, releasesItself = false): Run {
  const run = created(plan, files);
  must(step(run, { type: 'attach', version: versionOf(1, 1, files) }, author));
  must(step(run, { type: 'send', releasesItself }, controller));
  return run;
}

function must(result: Decided): void {
  if (!result.ok)
    throw new Error(`the scene could not be set: ${result.refusal.code} ${JSON.stringify(result.refusal.facts)}`);
}

/** Plays a scenario and shows every command with what came of it to `watch`. */
export function play(
  { seed, seats, files, steps }: Scenario,
  watch: (before: Circulation, run: Run, asked: ReturnType<typeof randomCommand>, result: Decided) => void = () => {},
): Run {
  const run = sentRun(randomRoute(drawsFrom(seed), seats, files), files, seed % 2 === 1);
  for (const own of steps) {
    const draws = drawsFrom(own);
    const before = run.state as Circulation;
    const asked = randomCommand(draws, before, files);
    const result = step(run, asked.command, asked.actor, draws.chance(0.3) ? draws.below(20) * hour : 1000);
    watch(before, run, asked, result);
  }
  return run;
}

/**
 * Sensible people finishing what random ones began: everybody does what their tasks say, the controller decides how it
 * goes on where it stopped. Gives how many steps it took; throws when it does not end within `bound`.
 */
export function finish(run: Run, bound = 2000): number {
  for (let steps = 0; steps < bound; steps += 1) {
    const state = run.state as Circulation;
    if (state.ended !== null) return steps;
    const move = sensible(state, run);
    if (!move) throw new Error(`nobody can move a circulation that is ${state.phase}\n${lastEvents(run)}`);
    const result = step(run, move.command, move.actor, 60_000);
    if (!result.ok)
      throw new Error(
        `a sensible ${move.command.type} was refused: ${result.refusal.code} ${JSON.stringify(result.refusal.facts)}\n${lastEvents(run)}`,
      );
  }
  throw new Error(`not finished after ${bound} steps\n${lastEvents(run)}`);
}

/** The first thing a sensible person would do about the circulation, or null when nobody has anything to do. */
export function sensible(state: Circulation, { now, files }: Run): { command: Command; actor: string } | null {
  if (timersOf(state).some((entry) => entry.at <= now)) return { command: { type: 'wake' }, actor: system };
  const [freeze] = freezeWanted(state);
  if (freeze) return { command: { type: 'keepFrozen', ...freeze, frozen: hash(90_001) }, actor: system };
  if (finalsWanted(state)) return { command: { type: 'keepFinals', files: [], identifier: 'final' }, actor: system };
  if (releaseWanted(state)) return { command: released(now), actor: system };
  for (const task of tasksOf(state)) {
    const command = answerTo(task, state, now, files);
    if (command) return { command, actor: task.person };
  }
  return null;
}

const released = (effective: number): Command => ({
  type: 'complete',
  revisions: [{ record: 'rec', revision: 'B' }],
  effective,
  evidence: hash(6),
});

function answerTo(task: Task, state: Circulation, now: number, files: number): Command | null {
  const seat = task.seat ? state.seats.get(task.seat) : undefined;
  switch (task.doing) {
    case 'write':
    case 'rework': {
      const number = (newest(state)?.number ?? 0) + 1;
      return { type: 'attach', version: versionOf(number, number, files) };
    }
    case 'confirmRound': {
      return {
        type: 'confirmRound',
        basis: roundBasis(state),
        keep: proposedLines(state).flatMap((line) => (line.keep ? [line.seat] : [])),
        leave: [],
        times: [...state.stages.keys()].map((stage) => ({ stage, due: null, closes: null })),
      };
    }
    case 'putFields': {
      const version = newest(state);
      const without = seatsWithoutField(state);
      const fields = presentFields(state);
      for (const file of version ? documentsOf(version) : []) {
        const wanted = fieldsFor(state, file.id);
        if (wanted.some((field) => without.includes(field.seat) && !fields.some((own) => own.id === field.id)))
          return { type: 'putFields', file: file.id, content: file.file, fields: wanted };
      }
      throw new Error('a task to put fields where none can be put');
    }
    case 'resolveStop':
      return resolved(task, seat, state, now);
    case 'release':
      return released(now);
    case 'plan':
    case 'send':
      return { type: 'send', releasesItself: false };
    default: {
      if (!seat) throw new Error(`a task to ${task.doing} without a seat`);
      const verb = stagePlanOf(state, seat).verb;
      const outcome = outcomesOf[verb].find(isPositive);
      if (!outcome) throw new Error(`no way to say yes to ${verb}`);
      return {
        type: 'decide',
        seat: seat.id,
        epoch: seat.epoch,
        scope: scopeOf(state, seat) ?? '',
        outcome,
        note: null,
        filled: verb === 'sign' ? filledFor(state, seat.id) : [],
        evidence: null,
      };
    }
  }
}

function resolved(task: Task, named: SeatRun | undefined, state: Circulation, now: number): Command {
  if (!named && state.stages.get(task.stage ?? '')?.held === 'time')
    return { type: 'setTimes', stage: task.stage as string, due: null, closes: null };
  const seat =
    named ??
    [...state.seats.values()].find(
      (own) => own.stage === task.stage && (own.status === 'declined' || own.status === 'missed'),
    );
  if (!seat) throw new Error('a stop with nothing to decide about');
  if (seat.status === 'missed') return { type: 'extend', seat: seat.id, due: null, closes: null };
  const to = crew.find(
    (person) =>
      !seat.holders.some((holder) => holder.person === person) &&
      otherSeatInStage(state, seat, person, contextOf(0, controller)) === null,
  );
  const passed = seat.closes !== null && seat.closes <= now + day;
  const times = { due: passed ? now + day : null, closes: passed ? now + 2 * day : null };
  if (!to) return { type: 'askAgain', seat: seat.id, ...times };
  return { type: 'reassign', seat: seat.id, to: { kind: 'person', person: to }, ...times, note: null };
}

/** Whether the actor may act on the seat, by the rules alone. */
export function acts(state: Circulation, seat: SeatRun, person: string): boolean {
  return mayAct(state, seat, person, contextOf(state.last, person));
}

export function lastEvents(run: Run): string {
  return run.events
    .slice(-14)
    .map((event) => `${event.type} ${JSON.stringify(event.data).slice(0, 160)} by ${event.actor}`)
    .join('\n');
}
