import fc from 'fast-check';
import type { Command } from '@/core/circulation/commands';
import { type Decided, decide } from '@/core/circulation/decide';
import { type CirculationEvent, isPositive, outcomesOf, system } from '@/core/circulation/events';
import {
  type Circulation,
  currentScope,
  holdersOf,
  mainFile,
  newest,
  seatsWithoutField,
  stageNodes,
  stageOf,
} from '@/core/circulation/state';
import { derivationWanted, tasksOf, timersOf } from '@/core/circulation/tasks';
import type { Field } from '@/core/page/fields';
import type { Parallel, Route, Rule, Series, Stage, Verb } from '@/core/route/route';
import { verbs } from '@/core/route/route';

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
export const start = Date.UTC(2026, 10, 2, 8);
export const hour = 3_600_000;

function randomRule(draws: Draws, n: number): Rule {
  const kind = draws.below(4);
  if (kind === 0) return { kind: 'any' };
  if (kind === 1 && n > 1) return { kind: 'atLeast', k: 1 + draws.below(n) };
  return { kind: 'all' };
}

export function randomRoute(draws: Draws, seats: number): Series {
  let ids = 0;
  const id = (prefix: string) => `${prefix}${++ids}`;
  let left = seats;
  const stage = (signs: boolean): Stage => {
    const n = Math.max(1, Math.min(left, 1 + draws.below(4)));
    left -= n;
    const verb: Verb = draws.pick(signs ? verbs : verbs.filter((candidate) => candidate !== 'sign'));
    const first = draws.below(crew.length);
    const due = draws.chance(0.5) ? start + draws.below(300) * hour : null;
    return {
      kind: 'stage',
      id: id('g'),
      verb,
      seats: Array.from({ length: n }, (_, i) => ({
        id: id('s'),
        who: { kind: 'person' as const, person: crew[(first + i) % crew.length] as string },
      })),
      order: draws.chance(0.5) ? 'together' : 'oneByOne',
      rule: randomRule(draws, n),
      due,
      closes: draws.chance(0.3) ? Math.max(due ?? start, start) + (1 + draws.below(100)) * hour : null,
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

/** One route and one seed for the commands. */
export const scenario = fc.record({
  seed: fc.integer({ min: 0, max: 2 ** 31 }),
  seats: fc.integer({ min: 1, max: 40 }),
});

export function file(n: number): string {
  return n.toString(16).padStart(64, '0');
}

export function versionOf(n: number, content = n) {
  return {
    number: n,
    files: [
      { file: file(content), name: 'draft.pdf', role: 'main' as const, mediaType: 'application/pdf', bytes: 1000 },
    ],
  };
}

function fieldsFor(state: Circulation): Field[] {
  return stageNodes(state)
    .filter((stage) => stage.plan.verb === 'sign')
    .flatMap((stage) => stage.plan.seats)
    .map((seat, i) => ({
      id: `place-${seat.id}`,
      seat: seat.id,
      kind: 'signature',
      page: i,
      x: 0,
      y: 0,
      width: 100,
      height: 40,
      needed: true,
      label: '',
    }));
}

/** A command that may or may not make sense: right and wrong actors, old epochs and old versions among them. */
export function randomCommand(draws: Draws, state: Circulation): { command: Command; actor: string } {
  const seat = draws.pick(state.seats);
  const stage = stageOf(state, seat).plan;
  const someone = draws.pick([...crew, controller, author]);
  const holder = draws.chance(0.85) ? draws.pick(holdersOf(seat)) : someone;
  const chief = draws.chance(0.95) ? controller : someone;
  const epoch = draws.chance(0.9) ? seat.epoch : seat.epoch - 1;
  const versions = state.versions;
  const scopeVersion = draws.chance(0.9) ? newest(state) : draws.pick(versions.length ? versions : [null]);
  const scope = (scopeVersion && currentScope({ ...state, versions: [scopeVersion] })) ?? file(999);
  const time = () => (draws.chance(0.7) ? state.last + (1 + draws.below(200)) * hour : null);
  const kind = draws.below(100);
  if (kind < 42) {
    const outcome = draws.chance(0.85)
      ? draws.pick(outcomesOf[stage.verb])
      : draws.pick(['approved', 'signed', 'done', 'declined'] as const);
    const filled =
      outcome === 'signed'
        ? state.fields.filter((p) => p.seat === seat.id).map((p) => ({ field: p.id, value: file(7) }))
        : [];
    return {
      command: {
        type: 'decide',
        seat: seat.id,
        epoch,
        scope,
        outcome,
        note: draws.chance(0.9) ? 'w' : null,
        filled,
        evidence: null,
      },
      actor: holder,
    };
  }
  if (kind < 50) return { command: { type: 'see', seat: seat.id, epoch, scope }, actor: holder };
  if (kind < 56) {
    const number = (newest(state)?.number ?? 0) + (draws.chance(0.9) ? 1 : 0);
    return {
      command: { type: 'attach', version: versionOf(number, draws.chance(0.2) ? 1 : number) },
      actor: draws.chance(0.9) ? author : someone,
    };
  }
  if (kind < 62) return { command: { type: 'proposeRound' }, actor: chief };
  if (kind < 70) {
    const keep = state.plan
      ? state.plan.lines.filter((line) => (draws.chance(0.9) ? line.keep : !line.keep)).map((line) => line.seat)
      : [];
    return {
      command: {
        type: 'confirmRound',
        revision: state.plan?.revision ?? 0,
        version: newest(state)?.number ?? 0,
        decisions: state.decisions.length,
        keep,
        times: stageNodes(state).map((node) => ({
          stage: node.plan.id,
          due: null,
          closes: draws.chance(0.2) ? state.last + 50 * hour : null,
        })),
      },
      actor: chief,
    };
  }
  if (kind < 76) return { command: { type: 'extend', seat: seat.id, due: null, closes: time() }, actor: chief };
  if (kind < 79) return { command: { type: 'remind', seat: seat.id }, actor: chief };
  if (kind < 83) return { command: { type: 'delegate', seat: seat.id, epoch, to: someone, note: null }, actor: holder };
  if (kind < 88)
    return {
      command: {
        type: 'reassign',
        seat: seat.id,
        to: { kind: 'person', person: someone },
        due: time(),
        closes: null,
        note: null,
      },
      actor: chief,
    };
  if (kind < 91) return { command: { type: 'addSecondHolder', seat: seat.id, person: someone }, actor: chief };
  if (kind < 93) return { command: { type: 'dropSecondHolder', seat: seat.id, person: someone }, actor: chief };
  if (kind < 96) {
    const version = newest(state);
    return {
      command: { type: 'putFields', file: version ? mainFile(version) : file(0), fields: fieldsFor(state) },
      actor: chief,
    };
  }
  if (kind < 97) return { command: { type: 'keepFinal', file: file(5), identifier: 'x' }, actor: system };
  if (kind < 98) {
    const version = newest(state);
    const on = version ? mainFile(version) : file(0);
    return {
      command: { type: 'comment', comment: `r${draws.below(1e6)}`, thread: null, file: on, spot: null, note: 'w' },
      actor: someone,
    };
  }
  if (kind < 99) return { command: { type: 'wake' }, actor: system };
  return { command: { type: 'complete', revision: 'B', effective: state.last }, actor: chief };
}

/** Runs a command and gives what came of it; a refusal changes nothing. */
export function step(run: Run, command: Command, actor: string, forward = 0): Decided {
  run.now += forward;
  const result = decide(run.state, command, { now: run.now, actor });
  if (result.ok) {
    run.state = result.state;
    run.events.push(...result.events);
  }
  return result;
}

export interface Run {
  now: number;
  state: Circulation | null;
  events: CirculationEvent[];
}

/** A circulation created, its first version handed in, its places put, sent. */
export function sentRun(route: Series): Run {
  const run: Run = { now: start, state: null, events: [] };
  const must = (result: Decided) => {
    if (!result.ok) throw new Error(`${result.refusal.code}: ${result.refusal.sentence}`);
  };
  must(
    step(run, { type: 'create', number: 'C-1', record: 'rec', change: 'chg', controller, author, route }, controller),
  );
  must(step(run, { type: 'attach', version: versionOf(1) }, author));
  must(step(run, { type: 'send' }, controller));
  return run;
}

/**
 * Sensible people finishing what random ones began: everybody does what their tasks say, the controller puts
 * right what stopped. Gives how many steps it took; throws when it does not end within `bound`.
 */
export function finish(run: Run, bound = 2000): number {
  for (let steps = 0; steps < bound; steps += 1) {
    const state = run.state as Circulation;
    if (state.phase === 'completed' || state.phase === 'withdrawn') return steps;
    const move = sensible(state, run.now);
    if (!move) throw new Error(`nobody can move a circulation that is ${state.phase}\n${lastEvents(run)}`);
    const result = step(run, move.command, move.actor, 60_000);
    if (!result.ok)
      throw new Error(`a sensible ${move.command.type} was refused: ${result.refusal.code}\n${lastEvents(run)}`);
  }
  throw new Error(`not finished after ${bound} steps\n${lastEvents(run)}`);
}

/** The first thing a sensible person would do about the circulation, or null when nobody has anything to do. */
export function sensible(state: Circulation, now: number): { command: Command; actor: string } | null {
  const timer = timersOf(state).find((entry) => entry.at <= now);
  if (timer) return { command: { type: 'wake' }, actor: system };
  if (derivationWanted(state))
    return { command: { type: 'keepFinal', file: file(4242), identifier: 'final' }, actor: system };
  for (const task of tasksOf(state)) {
    const { person: actor, seat: id } = task;
    switch (task.doing) {
      case 'rework':
        return { command: { type: 'attach', version: versionOf((newest(state)?.number ?? 0) + 1) }, actor };
      case 'confirmRound':
        if (
          !state.plan ||
          state.plan.version !== newest(state)?.number ||
          state.plan.decisions !== state.decisions.length
        )
          return { command: { type: 'proposeRound' }, actor };
        return {
          command: {
            type: 'confirmRound',
            revision: state.plan.revision,
            version: state.plan.version,
            decisions: state.plan.decisions,
            keep: state.plan.lines.filter((line) => line.keep).map((line) => line.seat),
            times: stageNodes(state).map((node) => ({ stage: node.plan.id, due: null, closes: null })),
          },
          actor,
        };
      case 'putFields':
        if (seatsWithoutField(state).length === 0) break;
        return {
          command: { type: 'putFields', file: mainFile(newest(state) as never), fields: fieldsFor(state) },
          actor,
        };
      case 'resolveStop': {
        const seat = state.seats.find(
          (candidate) =>
            (id === null ? candidate.status === 'declined' || candidate.status === 'missed' : candidate.id === id) &&
            stageOf(state, candidate).status === 'open',
        );
        if (!seat) throw new Error('a stop with nothing to put right');
        if (seat.status === 'missed')
          return { command: { type: 'extend', seat: seat.id, due: null, closes: null }, actor };
        const to = crew.find((person) => person !== seat.holder) as string;
        return {
          command: {
            type: 'reassign',
            seat: seat.id,
            to: { kind: 'person', person: to },
            due: null,
            closes: null,
            note: null,
          },
          actor,
        };
      }
      case 'release':
        return { command: { type: 'complete', revision: 'B', effective: now }, actor };
      default: {
        const seat = state.seats.find((candidate) => candidate.id === id);
        if (!seat) throw new Error(`a task to ${task.doing} without a seat`);
        const verb = stageOf(state, seat).plan.verb;
        const outcome = outcomesOf[verb].find(isPositive);
        if (!outcome) throw new Error(`no way to say yes to ${verb}`);
        const filled =
          verb === 'sign'
            ? state.fields.filter((p) => p.seat === seat.id).map((p) => ({ field: p.id, value: file(7) }))
            : [];
        return {
          command: {
            type: 'decide',
            seat: seat.id,
            epoch: seat.epoch,
            scope: currentScope(state) ?? '',
            outcome,
            note: null,
            filled,
            evidence: null,
          },
          actor,
        };
      }
    }
  }
  return null;
}

export function lastEvents(run: Run): string {
  return run.events
    .slice(-14)
    .map((event) => `${event.type} ${JSON.stringify(event.data).slice(0, 160)} by ${event.actor}`)
    .join('\n');
}
