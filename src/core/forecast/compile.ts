import type { Context } from '../circulation/run/context';
import type { SeatRun } from '../circulation/run/shapes';
import { baseHolder, type Circulation, seatsOfStage, stageOutcomesOf, waitOf } from '../circulation/run/state';
import { clockOf } from '../circulation/run/times';
import { type CoverLink, coverChain, type Work } from '../people/cover';
import { type Condition, holds, type StageOutcome } from '../route/condition';
import {
  type Assignment,
  groupAsked,
  type Parallel,
  personOf,
  type Route,
  roleAsked,
  type Stage,
  stagesOf,
} from '../route/route';
import { type Standing, tally } from '../route/tally';
import { outcomesFor } from '../route/verbs';
import { axisOf, stretchesBetween } from '../time/calendar';
import type { Instant } from '../time/instant';
import { presenceOf, type Span } from '../time/presence';
import type { Chair, Course, Leg, SeriesLeg } from './course';
import { keyOf } from './draws';
import { type Model, tableFor, tableOf } from './model';
import { horizon, instantOfTick, startAt, type Ticks, tick, ticksADay, ticksOf, workday } from './ticks';

/** What a forecast is made from besides the circulation itself. */
export interface Surroundings {
  readonly context: Context;
  readonly model: Model;
  /** How many open tasks people have now; null where only what everybody takes may be used, and nobody's own figures. */
  readonly open: ReadonlyMap<string, number> | null;
}

/** How many rounds may be sent back. */
const rounds = 3;

/** Whose working time is whose, made once for each person and kind of work. */
export function workingTimes(context: Context) {
  const start = startAt(context.now);
  const end = instantOfTick(start, horizon);
  const known = new Map<string, Ticks>();
  const away = new Map<string, Span[]>();
  for (const { person, from, to } of context.absences) {
    const spans = away.get(person) ?? [];
    spans.push({ from, to });
    away.set(person, spans);
  }
  const stretches = (person: string | null, from: Instant, to: Instant) => {
    const { own, zone } = clockOf(context, person);
    return stretchesBetween(axisOf(own, zone), from, to);
  };
  const made = (person: string | null, work: Work | null): Ticks => {
    const spans =
      person === null ? [] : presenceOf(axisOf(clockOf(context, person).own, 'UTC'), away.get(person) ?? []).away;
    const found: Span[] = [];
    let at = start;
    for (const span of spans) {
      if (span.to <= at || span.from >= end) continue;
      found.push(...stretches(person, at, Math.max(at, span.from)));
      const begin = Math.max(at, span.from);
      const by = work && person !== null ? coveredBy(context, person, work, begin) : null;
      if (by !== null) found.push(...stretches(by, begin, Math.min(end, span.to)));
      at = Math.max(at, span.to);
    }
    found.push(...stretches(person, Math.min(at, end), end));
    return ticksOf(found, start);
  };
  return (person: string | null, work: Work | null): Ticks => {
    const absent = person !== null && away.has(person);
    const { own, zone } = clockOf(context, person);
    const key = absent ? `${person}/${work?.verb ?? ''}/${work?.type ?? ''}` : `${zone}/${calendarKey(context, own)}`;
    const found = known.get(key) ?? made(person, work);
    known.set(key, found);
    return found;
  };
}

function calendarKey({ calendars }: Context, own: unknown): string {
  for (const [id, calendar] of calendars) if (calendar === own) return id;
  return '';
}

/** Who works in somebody's place from an instant on, at the end of the chain of cover. */
function coveredBy({ absences, people }: Context, person: string, work: Work, at: Instant): string | null {
  const links: readonly CoverLink[] | null = coverChain(
    absences,
    person,
    work,
    at,
    (by) => people.get(by)?.active === false,
  );
  return links?.at(-1)?.by ?? null;
}

/** What of a circulation a forecast is made from. */
type Played = Pick<
  Circulation,
  | 'plan'
  | 'facts'
  | 'factNames'
  | 'author'
  | 'controller'
  | 'phase'
  | 'rework'
  | 'decisions'
  | 'last'
  | 'releasesItself'
  | 'blocks'
  | 'stages'
  | 'seats'
>;

/** Everything that a forecast needs of a circulation that is neither paused, closed nor ended. */
export function courseOf(state: Played, around: Surroundings): { readonly course: Course; readonly home: Ticks } {
  const { context, model } = around;
  const times = workingTimes(context);
  const making: Making = { state, around, times };
  const author = { key: keyOf('rework'), ticks: times(state.author, null) };
  const { rework } = state;
  const reworked = state.phase === 'rework' && rework ? workedSince(context, state.author, null, rework.at) : null;
  const responded = state.phase === 'finishing';
  const waited = responded ? workedSince(context, state.controller, null, state.last) : 0;
  const course: Course = {
    legs: responded ? { kind: 'series', parts: [] } : seriesOf(making, state.plan.parts),
    rework: { ...author, table: tableOf(model.rework) },
    reworking: reworked === null ? null : { ...author, table: tableOf(model.rework, reworked) },
    rounds,
    release: state.releasesItself
      ? null
      : { key: keyOf('release'), table: tableOf(model.release, waited), ticks: times(state.controller, null) },
    kept: model.kept,
  };
  return { course, home: times(null, null) };
}

/** What a course is made from. */
interface Making {
  readonly state: Played;
  readonly around: Surroundings;
  readonly times: ReturnType<typeof workingTimes>;
}

/** How long somebody has worked at something since an instant, in ticks; while somebody covers for them, it is worked on. */
function workedSince(context: Context, person: string | null, work: Work | null, since: Instant): number {
  const { own, zone } = clockOf(context, person);
  // What has gone by lies before the start, where the ticks do not reach.
  const axis = axisOf(own, zone);
  let ms = 0;
  const spans = context.absences.filter((absence) => absence.person === person);
  for (const { from, to } of stretchesBetween(axis, since, Math.max(since, context.now))) {
    const away = spans.reduce((sum, span) => sum + Math.max(0, Math.min(to, span.to) - Math.max(from, span.from)), 0);
    ms += Math.max(0, to - from - (work && person !== null && coveredBy(context, person, work, from) ? 0 : away));
  }
  return Math.round(ms / tick);
}

/** Whoever is asked in a seat of a stage, as far as is known: how long they take, from when, and how often they send it back. */
function chairOf(
  { state, around, times }: Making,
  stage: Stage,
  id: string,
  who: Assignment | null,
  run: SeatRun | null,
): Chair {
  const { context, model } = around;
  const start = startAt(context.now);
  const tickAt = (at: Instant) => Math.min(horizon, Math.max(0, Math.ceil((at - start) / tick)));
  const base = run ? (baseHolder(run)?.person ?? null) : null;
  const group = run?.group ?? (who ? (groupAsked(who)?.group ?? null) : null);
  const role = who && roleAsked(who);
  const planned = role ? (context.roles.get(role)?.person ?? null) : who ? personOf(who) : null;
  const person = base ?? (group === null ? planned : null);
  const known = around.open === null ? null : (person ?? (group === null ? null : `group:${group}`));
  const work = { verb: stage.verb, type: context.record.documentType?.id ?? null };
  const asked = run?.status === 'asked' && state.phase === 'running';
  const open = around.open === null ? null : (around.open.get(known ?? '') ?? 0) + (asked ? 0 : 1);
  const returns = outcomesFor(stage).includes('returned') ? (model.returns[stage.verb] ?? 50) : 0;
  const wait = waitTicks(stage);
  const fixed = stage.earliest?.kind === 'date' ? tickAt(stage.earliest.at) : 0;
  const anew = tableFor(model, known, stage.verb, open);
  const ticks = times(person, work);
  const idle: Chair = { id, key: keyOf(id), table: anew, anew, ticks, state: 'idle', from: fixed, wait, returns };
  const passed = state.stages.get(stage.id)?.status === 'released';
  if (run && (run.status === 'decided' || passed)) return { ...idle, state: 'done', from: 0 };
  // What was sent back is so for certain, once the others of its stage have responded.
  if (run?.status === 'returned') return { ...idle, table: Int32Array.of(1), from: 0, wait: none, returns: 1000 };
  if (!asked || run.since === null) return idle;
  const own = person === null ? null : waitOf(run, person);
  const from = own?.from != null ? tickAt(own.from) : stage.earliest?.kind === 'wait' ? wait.plain + wait.work : fixed;
  const worked = workedSince(context, person, work, run.since);
  return { ...idle, state: 'asked', table: tableFor(model, known, stage.verb, open, worked), from };
}

function stageOf(making: Making, stage: Stage): Leg {
  const { state, around } = making;
  const run = state.stages.get(stage.id);
  const seats = run ? seatsOfStage(state, run).filter((seat) => !seat.gone) : [];
  const chairs: Chair[] = [];
  const standings: Standing[] = [];
  for (const seat of seats) {
    // A no that the controller went on without takes no part; one that waits for them may be asked anew.
    const out = seat.passed || (seat.status === 'declined' && stage.onDecline === 'count');
    standings.push(out ? 'no' : 'open');
    if (out) continue;
    const plan = stage.seats.find((own) => own.id === seat.planned);
    const all = plan ? groupAsked(plan.assignment) : null;
    if (all?.members === 'every' && seat.group !== null)
      for (const person of around.context.groups.get(all.group)?.members ?? [])
        chairs.push(chairOf(making, stage, `${seat.id}/${person}`, { kind: 'person', person }, null));
    else chairs.push(chairOf(making, stage, seat.id, plan?.assignment ?? null, seat));
  }
  const { needed } = tally(stage.rule, standings, 'seats');
  return {
    kind: 'stage',
    id: stage.id,
    needed: Math.min(chairs.length, stage.rule.kind === 'all' ? chairs.length : needed),
    oneByOne: stage.order === 'oneByOne',
    gathers: stage.onReturn === 'gather',
    chairs,
  };
}

/** Whether a part takes part: surely, never, or so often in a thousand because that hangs on what is to come. */
function oddsOf({ state, around }: Making, condition: Condition | null, decided: boolean): number {
  if (condition === null || decided) return 1000;
  const { withComments } = around.model;
  const [without, withThem] = [false, true].map(
    (happens) =>
      holds(condition, {
        facts: state.facts,
        names: state.factNames,
        record: around.context.record,
        outcomes: (stage) => stageOutcomesOf(state, stage) ?? new Set<StageOutcome>(happens ? everything : []),
      }).holds,
  );
  if (without === withThem) return without ? 1000 : 0;
  return withThem ? withComments : 1000 - withComments;
}

const perhaps = (id: string, odds: number) => (odds < 1000 ? { perhaps: { key: keyOf(id), odds } } : {});

function seriesOf(making: Making, parts: readonly Route[]): SeriesLeg {
  const { state } = making;
  return {
    kind: 'series',
    parts: parts.flatMap((part): SeriesLeg['parts'][number][] => {
      if (part.kind === 'copies') return [];
      if (part.kind === 'series') return state.blocks.get(part.id)?.gone ? [] : [seriesOf(making, part.parts)];
      if (part.kind === 'parallel') return [parallelOf(making, part)];
      const run = state.stages.get(part.id);
      if (run?.gone) return [];
      const odds = oddsOf(making, part.condition, run?.decided === true || run?.status !== 'idle');
      return odds === 0 ? [] : [{ ...stageOf(making, part), ...perhaps(part.id, odds) }];
    }),
  };
}

function parallelOf(making: Making, part: Parallel): Leg {
  const { state } = making;
  return {
    kind: 'parallel',
    join: part.join,
    branches: part.branches.flatMap(({ route, condition }) => {
      const block = state.blocks.get(route.id);
      const gone = block?.gone || stagesOf(route).every((stage) => state.stages.get(stage.id)?.gone);
      const odds = gone ? 0 : oddsOf(making, condition, block?.decided ?? false);
      return odds === 0 ? [] : [{ ...seriesOf(making, route.parts), ...perhaps(route.id, odds) }];
    }),
  };
}

const none = { plain: 0, work: 0 };
const everything: readonly StageOutcome[] = ['approvedWithComments', 'declined', 'missed'];

/** How long a stage makes people wait after they are asked, in plain or in working quarter hours. */
function waitTicks({ earliest }: Stage): Chair['wait'] {
  if (earliest?.kind !== 'wait') return none;
  if (earliest.unit === 'days') return { plain: earliest.amount * ticksADay, work: 0 };
  return { plain: 0, work: earliest.amount * (earliest.unit === 'workingDays' ? workday : 4) };
}
