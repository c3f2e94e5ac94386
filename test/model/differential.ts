import type { Command } from '@/core/circulation/acts/commands';
import { type Decided, decide } from '@/core/circulation/acts/decide';
import { amendBasis } from '@/core/circulation/plan/amending';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { bareContext } from '@/core/circulation/run/context';
import { holders } from '@/core/circulation/run/holders';
import {
  baseHolder,
  type Circulation,
  fieldsHash,
  newest,
  scopeOf,
  secondHolders,
  stagePlanOf,
  stopsOf,
} from '@/core/circulation/run/state';
import { waitsUntil } from '@/core/circulation/run/times';
import { standardFacts } from '@/core/route/facts';
import { atInstant, type Parallel, partsOf, type Route, type Series, stagesOf } from '@/core/route/route';
import { outcomesFor } from '@/core/route/verbs';
import {
  author,
  contextOf,
  controller,
  crew,
  type Draws,
  drawsFrom,
  factNames,
  factTypes,
  hour,
  outsiders,
  randomCommand,
  randomRoute,
  type Scenario,
  sensible,
  start,
  versionOf,
} from '../properties/arbitrary';
import { drafted, fieldsOf, listed, type MadeOn, stopsOf as modelStops, obey, refusedFor } from './acts';
import { acting, mayFrom } from './people';
import { lines } from './round';
import { begun, contentIn, type Model, planned } from './state';

// The engine and the model, put the same commands, must agree: on what is refused, and on everything that can be seen.

type Asked = ReturnType<typeof randomCommand>;

/** One command as it was put, with the instant and by whom. */
interface Act {
  readonly command: Command;
  readonly actor: string;
  readonly at: number;
}

interface Difference {
  readonly route: Series;
  readonly script: readonly Act[];
  /** What the engine and the model hold of the same thing, by what it is. */
  readonly what: readonly string[];
}

/** A difference as a script that one can read: the route, each act with when and by whom, and what came out otherwise. */
export function told({ route, script, what }: Difference): string {
  const stages = stagesOf(route).map(
    ({ id, verb, order, rule, seats, kind: _, ...rest }) =>
      `  ${id} ${verb} ${order} ${JSON.stringify(rule)} ${seats.map((seat) => `${seat.id}=${Object.values(seat.assignment).join(':')}`).join(' ')} ${JSON.stringify(rest)}`,
  );
  const acts = script.map(({ command: { type, ...rest }, actor, at }) => {
    const said = Object.entries(rest).filter(([key]) => !['version', 'plan', 'fields', 'scope', 'basis'].includes(key));
    return `  ${new Date(at).toISOString().slice(5, 16)} ${actor} ${type} ${said.map(([key, value]) => `${key} ${JSON.stringify(value)}`).join(', ')}`;
  });
  return ['', ...stages, ...acts, ...what].join('\n');
}

/** What can be seen of a circulation, as lines that can be compared. */
function seenOf(state: Circulation, now: number): Map<string, unknown> {
  const known = contextOf(now, '');
  const seen = new Map<string, unknown>([
    ['phase', state.phase],
    ['round', state.round],
    ['whole', [state.due, state.closes, state.paused !== null, state.closed, state.controller]],
    [
      'stops',
      stopsOf(state)
        .map((stop) => (stop.kind === 'closed' ? 'closed' : `${stop.kind} ${'seat' in stop ? stop.seat : stop.stage}`))
        .sort(),
    ],
    ['frozen', [...state.frozen.keys()].sort()],
  ]);
  for (const stage of state.stages.values())
    seen.set(`stage ${stage.id}`, [stage.gone, stage.gone === 'removed' ? '' : stage.status, stage.held]);
  for (const seat of state.seats.values()) {
    if (seat.gone || state.stages.get(seat.stage)?.gone) continue;
    seen.set(`seat ${seat.id}`, [seat.status, seat.epoch, baseHolder(seat)?.person ?? null, secondHolders(seat)]);
    if (seat.status !== 'asked') continue;
    seen.set(`times of ${seat.id}`, [seat.due, seat.closes]);
    seen.set(
      `people of ${seat.id}`,
      holders(state, seat, known)
        .map(({ person }) => {
          const until = waitsUntil(state, seat, person, known);
          return `${person} ${until ?? 'now'}`;
        })
        .sort(),
    );
  }
  if (state.phase === 'rework')
    for (const { seat, keep, reason } of proposedLines(state, known)) seen.set(`round ${seat}`, [keep, reason]);
  return seen;
}

function modelSeen(m: Model, now: number): Map<string, unknown> {
  const known = contextOf(now, '');
  const seen = new Map<string, unknown>([
    ['phase', m.phase],
    ['round', m.round],
    ['whole', [m.due, m.closes, m.paused !== null, m.closed, m.controller]],
    ['stops', modelStops(m).sort()],
    ['frozen', [...m.frozen.keys()].sort()],
  ]);
  for (const stage of m.stages.values())
    seen.set(`stage ${stage.id}`, [stage.gone, stage.gone === 'removed' ? '' : stage.status, stage.held]);
  for (const seat of m.seats.values()) {
    if (seat.gone || m.stages.get(seat.stage)?.gone) continue;
    const seconds = seat.seconds.map(({ person }) => person);
    seen.set(`seat ${seat.id}`, [seat.status, seat.epoch, seat.base?.person ?? null, seconds]);
    if (seat.status !== 'asked') continue;
    seen.set(`times of ${seat.id}`, [seat.due, seat.closes]);
    seen.set(
      `people of ${seat.id}`,
      acting(m, seat, known)
        .map((one) => {
          const from = mayFrom(m, seat, one, known);
          return `${one.person} ${from === null ? 'opened' : from > now ? from : 'now'}`;
        })
        .sort(),
    );
  }
  if (m.phase === 'rework') for (const { seat, keep, reason } of lines(m)) seen.set(`round ${seat}`, [keep, reason]);
  return seen;
}

function differences(state: Circulation, m: Model, now: number): string[] {
  const [one, two] = [seenOf(state, now), modelSeen(m, now)];
  return [...new Set([...one.keys(), ...two.keys()])].flatMap((key) => {
    const [a, b] = [JSON.stringify(one.get(key)), JSON.stringify(two.get(key))];
    return a === b ? [] : [`${key}: engine ${a}, model ${b}`];
  });
}

/** What a command was made on, in the model’s words: the driver knows which page, list or plan it was made from. */
function madeOn(asked: Asked, state: Circulation, m: Model): MadeOn {
  const { command, page } = asked;
  const basis =
    command.type === 'confirmRound' && command.basis === roundBasis(state, bareContext(0, controller))
      ? listed(m)
      : command.type === 'amend' && command.basis === amendBasis(state)
        ? drafted(m)
        : null;
  const seat = 'seat' in command ? m.seats.get(command.seat) : undefined;
  const frozen = command.type === 'keepFrozen' && command.fields === fieldsHash(state.fields, command.file);
  return {
    content: seat && page ? contentIn(m, seat, page) : null,
    basis,
    fields: frozen ? fieldsOf(m, command.file) : null,
  };
}

/** Everything of a kind that hardly ever fits by chance, where it fits now. */
function fitting(draws: Draws, state: Circulation, now: number, files: number): Asked[] {
  const found: Asked[] = [];
  const chief = state.controller;
  const add = (command: Command, actor = chief) => found.push({ command, actor, page: newest(state) });
  const time = () => (draws.chance(0.6) ? now + (2 + draws.below(200)) * hour : null);
  const known = contextOf(now + 1000, chief);
  for (const { id: seat, ...run } of state.seats.values()) {
    if (run.gone) continue;
    const base = baseHolder(run);
    const { epoch } = run;
    const scope = scopeOf(state, { id: seat, ...run }) ?? '';
    const plan = stagePlanOf(state, run);
    if (run.proposal) add({ type: 'agree', seat, epoch, agreed: draws.chance(0.7), note: null });
    for (const person of secondHolders({ id: seat, ...run })) add({ type: 'dropSecondHolder', seat, person });
    if (run.status === 'declined') {
      add({ type: 'askAgain', seat, due: time(), closes: null });
      add({ type: 'pass', seat, note: null });
    }
    if (['declined', 'missed', 'returned', 'idle'].includes(run.status)) {
      const person = draws.pick(crew);
      add({ type: 'reassign', seat, to: { kind: 'person', person }, due: time(), closes: time(), note: null });
    }
    if (run.status === 'missed') add({ type: 'extend', seat, due: null, closes: time() });
    if (run.status !== 'asked') continue;
    add({ type: 'remind', seat });
    if (base?.outside) add({ type: 'correctAddress', seat, to: draws.pick(outsiders), note: 'w' });
    if (base)
      add({ type: 'delegate', seat, epoch, to: draws.pick(base.outside ? outsiders : crew), note: null }, base.person);
    if (base?.via === 'taken') add({ type: 'giveBack', seat, epoch }, draws.chance(0.5) ? chief : base.person);
    for (const { person } of holders(state, { id: seat, ...run }, known)) {
      if (run.group !== null) add({ type: 'take', seat, epoch }, person);
      add({ type: 'see', seat, epoch, scope }, person);
      const outcome = draws.pick(outcomesFor(plan));
      add({ type: 'decide', seat, epoch, scope, outcome, note: 'w', filled: [], evidence: null }, person);
    }
  }
  for (const { id: stage, held, status } of state.stages.values()) {
    if (status === 'open') add({ type: 'endGathering', stage });
    if (status === 'open') add({ type: 'setEnough', stage, k: 1 + draws.below(3) });
    if (held !== null) add({ type: 'setTimes', stage, due: null, closes: atInstant(time()) });
  }
  for (const question of state.questions.keys()) add({ type: 'answerQuestion', question, note: 'w' });
  for (const part of partsOf(state.plan))
    if (part.kind === 'parallel')
      for (const { route } of part.branches) {
        const without = mapParallels(state.plan, (one) => ({
          ...one,
          branches: one.branches.filter((branch) => branch.route.id !== route.id),
        }));
        const basis = amendBasis(state);
        add({ type: 'amend', basis, plan: without, note: state.note, whole: null, version: null, reason: null });
      }
  const number = (newest(state)?.number ?? 0) + 1;
  // The very first content again, and the fields that are there already.
  add({ type: 'attach', version: versionOf(number, 1, files) }, author);
  for (const { id: file, file: content } of newest(state)?.files ?? [])
    add({ type: 'putFields', file, content, fields: state.fields.filter((field) => field.file === file) });
  return found;
}

function mapParallels(series: Series, change: (parallel: Parallel) => Parallel): Series {
  const inner = (part: Route): Route => {
    if (part.kind === 'series') return mapParallels(part, change);
    if (part.kind !== 'parallel') return part;
    return change({
      ...part,
      branches: part.branches.map((one) => ({ ...one, route: mapParallels(one.route, change) })),
    });
  };
  return { ...series, parts: series.parts.map(inner) };
}

/** What happens next: something random; something of a kind that fits; or what a sensible person would do. */
export function nextOf(draws: Draws, state: Circulation, now: number, files: number): Asked {
  const kind = draws.below(10);
  const move = kind < 4 && state.ended === null ? sensible(state, { now, files, state, events: [] }) : null;
  if (move) return { ...move, page: newest(state) };
  return kind < 7 ? randomCommand(draws, state, files) : draws.pick(fitting(draws, state, now, files));
}

/** They change nothing of who may do what; whether it is released by itself depends on them. */
const leftOut = ['comment', 'resolveComment', 'reopenComment', 'setReminders', 'giveNotice', 'copyLink'];

/** Plays a scenario to both and gives the first difference, or null where there is none. */
export function differs(
  { seed, seats, files, steps }: Scenario,
  met: (type: string) => void = () => {},
): Difference | null {
  const route = randomRoute(drawsFrom(seed), seats, files);
  const script: Act[] = [];
  let now = start;
  let state: Circulation | null = null;
  let m: Model | null = null;
  const put = (asked: Asked): string[] => {
    const { command, actor } = asked;
    script.push({ command, actor, at: now });
    const before = state as Circulation;
    const on = madeOn(asked, before, m as Model);
    const known = contextOf(now, actor);
    const result: Decided = decide(before, command, known);
    const after = obey(m as Model, command as Parameters<typeof obey>[1], known, on);
    if (result.ok !== (after !== null))
      return [
        `${command.type}: engine ${result.ok ? 'accepts' : `refuses (${result.refusal.code})`}, model ${after ? 'accepts' : `refuses (${refusedFor.last})`}`,
      ];
    if (!result.ok || !after) return [];
    met(command.type);
    state = result.state;
    m = after;
    return differences(state, m, now);
  };
  const create = {
    type: 'create' as const,
    number: 'C-1',
    records: ['rec'],
    change: 'chg',
    controller,
    author,
    plan: route,
    batch: null,
    begunBy: null,
  };
  const made = decide(null, create, contextOf(now, controller));
  if (!made.ok) throw new Error('the scene could not be set');
  state = made.state;
  m = begun(create, now);
  planned(m, route);
  const closes = seed % 7 === 0 ? atInstant(start + (10 + (seed % 200)) * hour) : null;
  const scene: [Command, string][] = [
    [{ type: 'attach', version: versionOf(1, 1, files) }, author],
    [{ type: 'giveFacts', facts: standardFacts(factTypes), names: factNames }, author],
    ...(closes
      ? [[{ type: 'plan', plan: route, note: null, whole: { due: null, closes } }, controller] as [Command, string]]
      : []),
    [{ type: 'send', releasesItself: seed % 2 === 1 }, controller],
  ];
  for (const [command, actor] of scene) {
    const what = put({ command, actor });
    if (what.length > 0) return { route, script, what };
  }
  for (const step of steps) {
    const draws = drawsFrom(step);
    const asked = nextOf(draws, state, now, files);
    now += draws.chance(0.3) ? draws.below(20) * hour : 1000;
    if (leftOut.includes(asked.command.type) || (asked.command.type === 'complete' && asked.actor === 'system'))
      continue;
    const what = put(asked);
    if (what.length > 0) return { route, script, what };
  }
  return null;
}
