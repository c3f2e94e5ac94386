import fc from 'fast-check';
import type { Command, CommandOf, Create } from '@/core/circulation/acts/commands';
import { type Decided, decide } from '@/core/circulation/acts/decide';
import { offers } from '@/core/circulation/acts/offers';
import { amendBasis } from '@/core/circulation/plan/amending';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { bareContext, type Context } from '@/core/circulation/run/context';
import { type CirculationEvent, system } from '@/core/circulation/run/events';
import {
  holders,
  isAuthorApproving,
  mayAct,
  otherSeatInStage,
  respondedElsewhere,
} from '@/core/circulation/run/holders';
import { namedBy, unnamedBy } from '@/core/circulation/run/naming';
import type { SeatRun, Version, Whole } from '@/core/circulation/run/shapes';
import {
  type Circulation,
  documentsOf,
  newest,
  openQuestions,
  plannedStages,
  presentFields,
  reachableOf,
  scopeIn,
  scopeOf,
  seatsWithoutField,
  stagePlanOf,
} from '@/core/circulation/run/state';
import { clockOf, waitsUntil } from '@/core/circulation/run/times';
import {
  finalsWanted,
  freezeWanted,
  releaseWanted,
  type Task,
  tasksOf,
  timersOf,
} from '@/core/circulation/telling/tasks';
import { type Field, fieldIdsOf } from '@/core/page/fields';
import type { Absence, Cover } from '@/core/people/cover';
import { type Condition, stageOutcomes } from '@/core/route/condition';
import { edited, type RouteEdit } from '@/core/route/edit';
import { type Facts, type FactType, standardFacts } from '@/core/route/facts';
import { mended, mendingOf, type PreflightSubject, preflight } from '@/core/route/preflight';
import {
  type Assignment,
  atInstant,
  availabilities,
  type Copies,
  type Earliest,
  freshSeat,
  freshStage,
  type Parallel,
  partsOf,
  type Route,
  type Series,
  type Stage,
  seatsOf,
  stagesOf,
  type Time,
  units,
  usualAllows,
} from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import { outcomesFor, type Verb, verbFacts, verbs } from '@/core/route/verbs';
import { type Calendar, usualCalendar } from '@/core/time/calendar';
import { usualReminders } from '@/core/time/reminders';
import { drawsFrom } from '@/demo/draws';

export { drawsFrom };
export type Draws = ReturnType<typeof drawsFrom>;

export const controller = 'ines';
export const author = 'rufus';
export const crew = ['petra', 'oskar', 'yuki', 'noor', 'dalia', 'benedikt', 'caspian', 'fenna'];
export const outsiders = ['lotte', 'jarek'];
export const start = Date.UTC(2026, 10, 2, 8);
export const hour = 3_600_000;
const day = 24 * hour;

const zones = ['Europe/Oslo', 'America/St_Johns', 'Asia/Kathmandu'];
/** Saturdays too, and a holiday. */
const summit: Calendar = {
  id: 'summit',
  name: 'Summit crew',
  week: usualCalendar.week.map((hours, i) => (i === 5 ? [{ from: 480, to: 720 }] : hours)),
  holidays: [{ day: '2026-11-10', name: 'Fog day' }],
};
export const factTypes: readonly FactType[] = [
  {
    id: 'amount',
    name: 'amount',
    kind: 'amount',
    needed: false,
    choices: [],
    currency: 'NOK',
    least: 0,
    most: null,
    standard: { kind: 'amount', thousandths: 184_000_000, currency: 'NOK' },
  },
  {
    id: 'urgent',
    name: 'urgent',
    kind: 'yesNo',
    needed: false,
    choices: [],
    currency: '',
    least: null,
    most: null,
    standard: null,
  },
];
export const factNames = Object.fromEntries(factTypes.map(({ id, name }) => [id, name]));

const away = (
  person: string,
  from: number,
  to: number,
  by: string | null,
  of: Partial<Pick<Cover, 'verbs' | 'types'>> = {},
): Absence => ({
  id: `${person} away`,
  person,
  from: start + from * day,
  to: start + to * day,
  covers: by === null ? [] : [{ by, verbs: 'all', types: 'all', ...of }],
});
/** A chain (Noor, Oskar, Caspian), a circle (Dalia, Benedikt), one through the author, one for some work, one for nobody. */
export const absences: readonly Absence[] = [
  away('oskar', 2, 12, 'caspian'),
  away('noor', 3, 9, 'oskar'),
  away('petra', 1, 6, author, { verbs: ['approve', 'review'] }),
  away('dalia', 4, 8, 'benedikt'),
  away('benedikt', 4, 8, 'dalia'),
  away('fenna', 5, 20, null),
  away('yuki', 7, 20, 'petra', { types: ['AGR'] }),
];

/** What everybody knows at a moment; Fenna leaves the rescue group after five days. */
export function contextOf(now: number, actor: string): Context {
  const rescue = ['yuki', 'noor', 'dalia', ...(now < start + 5 * day ? ['fenna'] : [])];
  return {
    ...bareContext(now, actor),
    people: new Map(
      [controller, author, ...crew, ...outsiders].map((id, i) => [
        id,
        {
          outside: outsiders.includes(id),
          active: true,
          zone: zones[i % 3] as string,
          calendar: i % 4 === 0 ? 'summit' : null,
        },
      ]),
    ),
    groups: new Map([
      ['rescue', { name: 'Rescue group', members: rescue }],
      ['board', { name: 'Board', members: ['benedikt', 'oskar'] }],
      ['writers', { name: 'Writers', members: [author, 'caspian'] }],
      ['unit:wards', { name: 'Wards', members: ['oskar', 'petra'] }],
    ]),
    roles: new Map([
      ['safety', { name: 'safety manager', person: 'petra' }],
      ['owner', { name: 'owner', person: author }],
      ['witness', { name: 'outside witness', person: outsiders[0] as string }],
      ['lead:wards', { name: 'lead of Wards', person: 'petra' }],
    ]),
    factTypes,
    record: {
      documentType: { id: 'AGR', called: 'Agreement' },
      owner: { id: author, called: null },
      unit: { id: 'contracts', called: 'Contracts' },
    },
    calendars: new Map([['summit', summit]]),
    home: { zone: 'Europe/Oslo', calendar: null },
    absences,
    rules: { authorApproves: false, questionsWait: true },
  };
}

function randomRule(draws: Draws, n: number): Rule {
  const kind = draws.below(5);
  if (kind === 0) return { kind: 'any' };
  if (kind === 1 && n > 1) return { kind: 'atLeast', k: 1 + draws.below(n) };
  return { kind: 'all' };
}

const assignment = (person: string) =>
  outsiders.includes(person) ? { kind: 'outside' as const, person } : { kind: 'person' as const, person };

/** Somebody by name, or a group, a role, a unit or its lead, somebody to be named by an earlier seat. */
function randomAssignment(draws: Draws, person: string, verb: Verb, namers: readonly string[]): Assignment {
  if (draws.chance(0.72)) return assignment(person);
  const kind = draws.below(5);
  if (kind === 0 && namers.length > 0) return { kind: 'named', by: draws.pick(namers) };
  if (kind === 1) return { kind: 'role', role: draws.pick(['safety', 'owner', 'witness']) };
  if (kind === 2 && draws.chance(0.4)) return { kind: 'unit', unit: 'wards', members: 'lead' };
  const members = verb === 'sign' || draws.chance(0.5) ? 'any' : 'every';
  if (kind === 2) return { kind: 'unit', unit: 'wards', members };
  return { kind: 'group', group: draws.pick(['rescue', 'board', 'writers']), members };
}

function randomCondition(draws: Draws, ended: readonly string[], depth = 0): Condition {
  const kind = draws.below(depth < 2 ? 8 : 5);
  if (kind === 5) return { kind: 'not', of: randomCondition(draws, ended, depth + 1) };
  if (kind > 5)
    return {
      kind: kind === 6 ? 'all' : 'any',
      of: Array.from({ length: 1 + draws.below(2) }, () => randomCondition(draws, ended, depth + 1)),
    };
  if (kind === 4 && ended.length > 0)
    return { kind: 'outcome', stage: draws.pick(ended), outcome: draws.pick(stageOutcomes) };
  if (kind === 3)
    return { kind: 'record', field: 'documentType', is: draws.chance(0.7) ? 'is' : 'isNot', value: 'AGR' };
  return {
    kind: 'fact',
    fact: 'amount',
    is: draws.pick(['over', 'atMost', 'under'] as const),
    value: { kind: 'amount', thousandths: draws.below(3) * 92_000_000, currency: 'NOK' },
  };
}

function randomTime(draws: Draws, least: number, spread: number): Time | null {
  const kind = draws.below(5);
  if (kind === 0) return null;
  if (kind < 3) return atInstant(least + draws.below(spread) * hour);
  const unit = draws.pick(units);
  return { kind: 'after', unit, amount: 1 + draws.below(unit === 'workingHours' ? 60 : 9) };
}

function randomEarliest(draws: Draws, ended: readonly string[]): Earliest {
  const kind = draws.below(5);
  if (kind === 0) return { kind: 'date', at: start + (1 + draws.below(120)) * hour };
  const unit = draws.pick(units);
  const from =
    kind === 1 && ended.length > 0
      ? { stage: draws.pick(ended) }
      : kind === 2
        ? ('asked' as const)
        : ('opened' as const);
  return { kind: 'wait', from, again: draws.chance(0.5), unit, amount: 1 + draws.below(3) };
}

export function randomRoute(draws: Draws, seats: number, files = 1): Series {
  let ids = 0;
  const id = (prefix: string) => `${prefix}${++ids}`;
  let left = seats;
  const stages: string[] = [];
  // What has certainly ended before the part that is being made, and who could name somebody for it.
  const stage = (signs: boolean, ended: readonly Stage[], sure = false): Stage => {
    const n = Math.max(1, Math.min(left, 1 + draws.below(4)));
    left -= n;
    const verb: Verb = draws.pick(signs ? verbs : verbs.filter((candidate) => candidate !== 'sign'));
    const pool = draws.chance(0.3) ? [...outsiders, ...crew] : crew;
    const first = draws.below(pool.length);
    const due = draws.chance(0.5) ? randomTime(draws, start + day, 300) : null;
    const least = due?.kind === 'instant' ? due.at + hour : start + day;
    const closes = draws.chance(0.3) ? randomTime(draws, least, 100) : null;
    const earlier = ended.map((own) => own.id);
    const namers = ended.flatMap((own) => own.seats.map((seat) => seat.id));
    const who = (person: string) => (sure ? assignment(person) : randomAssignment(draws, person, verb, namers));
    const own = id('g');
    const made = stages.slice();
    stages.push(own);
    return {
      ...freshStage(own, verb),
      seats: Array.from({ length: n }, (_, i) => ({
        ...freshSeat(id('s'), who(pool[(first + i) % pool.length] as string)),
        files: files > 1 && draws.chance(0.4) ? [`f${1 + draws.below(files)}`] : ('all' as const),
        pages: draws.chance(0.3) ? [{ file: 'f1', from: 1 + draws.below(3), to: 3 }] : [],
        facts: draws.chance(0.2) ? ['amount'] : [],
        due: draws.chance(0.1) ? randomTime(draws, start + day, 200) : null,
      })),
      order: draws.chance(0.5) ? 'together' : 'oneByOne',
      rule: randomRule(draws, n),
      due,
      closes: due?.kind === 'after' && closes?.kind === 'after' ? null : closes,
      earliest: draws.chance(0.15) ? randomEarliest(draws, earlier) : null,
      condition: !sure && draws.chance(0.2) ? randomCondition(draws, earlier) : null,
      onReturn: draws.chance(0.6) ? 'atOnce' : 'gather',
      onDecline: draws.chance(0.5) ? 'stop' : 'count',
      independentOf: !sure && made.length > 0 && draws.chance(0.15) ? [draws.pick(made)] : [],
      allows: {
        comment: draws.chance(0.9),
        delegate: draws.pick(['no', 'freely', 'freely', 'agreed'] as const),
        print: draws.pick(availabilities),
        download: draws.pick(availabilities),
        changes: draws.chance(0.5),
      },
    };
  };
  const board = (): Copies => ({
    kind: 'copies',
    id: id('c'),
    to: [
      { id: id('t'), assignment: assignment(draws.pick([...crew, ...outsiders])) },
      ...(draws.chance(0.4)
        ? [{ id: id('t'), assignment: { kind: 'group', group: 'board', members: 'every' } as const }]
        : []),
    ],
    hidden: draws.chance(0.5),
  });
  const series = (depth: number, signs: boolean, before: readonly Stage[]): Series => {
    const parts: Route[] = [];
    const ended = before.slice();
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
            condition: draws.chance(0.15)
              ? randomCondition(
                  draws,
                  ended.map((own) => own.id),
                )
              : null,
            route: series(depth + 1, signs && whole, ended),
          })),
        };
        parts.push(parallel);
        ended.push(...stagesOf(parallel));
      } else {
        const own = stage(signs, ended);
        parts.push(own);
        ended.push(own);
      }
      if (draws.chance(0.12)) parts.push(board());
    }
    return { kind: 'series', id: id('r'), parts };
  };
  const route = series(0, true, []);
  const last = () => stagesOf(route).filter((own) => route.parts.includes(own));
  while (left > 0 && route.parts.length < 8) (route.parts as Route[]).push(stage(true, last()));
  // One stage that takes part whatever the facts are.
  (route.parts as Route[]).push(stage(true, last(), true));
  return sendable(route);
}

/** Any change that a person could make to a route, and some that name what is not there. */
export function randomEdit(draws: Draws, plan: Series, fresh: () => string): RouteEdit {
  const parts = partsOf(plan).filter((part) => part !== plan);
  const part = draws.chance(0.95) ? (draws.pick(parts)?.id ?? 'gone') : 'gone';
  const series = draws.pick(partsOf(plan).filter((one) => one.kind === 'series'));
  const slot = { series: series.id, at: draws.below(series.parts.length + 1) };
  const seats = seatsOf(plan);
  const seat = draws.pick(seats)?.seat.id ?? 'gone';
  const home = draws.pick(stagesOf(plan))?.id ?? 'gone';
  const one = freshStage(fresh(), 'review', [freshSeat(fresh(), { kind: 'person', person: 'petra' })]);
  switch (draws.below(14)) {
    case 8:
      return { do: 'moveBranch', branch: series.id, to: slot };
    case 0:
      return { do: 'add', part: one, at: slot };
    case 1:
      return { do: 'move', part, to: slot };
    case 2:
      return { do: 'remove', part };
    case 3:
      return { do: 'split', part, ids: { parallel: fresh(), first: fresh(), second: fresh() }, stage: one };
    case 4:
      return { do: 'moveSeat', seat, to: { stage: home, at: draws.below(4) } };
    case 5:
      return { do: 'removeSeat', seat };
    case 6:
      return { do: 'change', stage: home, with: { rule: { kind: 'atLeast', k: 1 + draws.below(5) } } };
    case 7:
      return { do: 'addSeat', stage: home, seat: freshSeat(fresh(), { kind: 'person', person: 'oskar' }) };
    case 9: {
      const times = { due: randomTime(draws, start + 20 * day, 300), closes: null };
      return draws.chance(0.5) ? { do: 'change', stage: home, with: times } : { do: 'changeSeat', seat, with: times };
    }
    case 10:
      return { do: 'change', stage: home, with: { allows: { ...usualAllows, print: draws.pick(availabilities) } } };
    case 11:
      return {
        do: 'changeSeat',
        seat,
        with: { assignment: randomAssignment(draws, draws.pick(crew), 'review', [seat]) },
      };
    case 12:
      return { do: 'change', stage: home, with: { verb: draws.pick(verbs) } };
    case 13:
      return {
        do: 'changeSeat',
        seat,
        with: draws.pick([
          { files: draws.chance(0.5) ? ('all' as const) : ['f1'] },
          { pages: draws.chance(0.5) ? [] : [{ file: 'f1', from: 2, to: 2 }] },
          { facts: draws.chance(0.5) ? [] : ['amount'] },
        ]),
      };
    default: {
      const branch = { name: 'x', condition: null, route: { kind: 'series', id: fresh(), parts: [one] } as Series };
      return { do: 'addBranch', parallel: part, branch };
    }
  }
}

/** What the check before sending looks at for a route of these tests; a version of these files is there. */
export function subjectFor(route: Series, more: Partial<PreflightSubject> = {}, now = start): PreflightSubject {
  const context = contextOf(now, controller);
  return {
    route,
    whole: { due: null, closes: null },
    author,
    hasVersion: true,
    fields: [],
    files: [],
    facts: standardFacts(factTypes),
    factTypes,
    record: context.record,
    groups: context.groups,
    roles: context.roles,
    now,
    person: (id) => (context.people.has(id) ? { name: id, active: true, outside: outsiders.includes(id) } : null),
    clock: (person) => clockOf(context, person),
    same: (a, b) => a === b,
    authorApproves: false,
    absences: context.absences,
    standIn: (person) => (person === 'oskar' ? 'caspian' : null),
    ...more,
  };
}

/** The route with everything mended that the check before sending would stop at. */
function sendable(route: Series): Series {
  let subject = subjectFor(route);
  for (let i = 0; i < 200; i += 1) {
    const stop = preflight(subject).find((finding) => finding.severity === 'stops');
    if (!stop) return subject.route;
    const mending = mendingOf(subject, stop);
    if (!mending) throw new Error(`nothing mends ${stop.code} ${JSON.stringify(stop)}`);
    subject = mended(subject, mending);
  }
  throw new Error('the mendings do not come to an end');
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
    // Some pages stay the same from one content to the next.
    prints: [`${id}-${file}`, `${id}-${file % 2}`, `${id}-last`],
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

/** An amendment of a few changes, which may or may not be possible. */
function randomAmendment(draws: Draws, state: Circulation, files: number): CommandOf<'amend'> {
  let plan = state.plan;
  let n = 0;
  const fresh = () => `x${state.amendments}-${state.last % 1e9}-${++n}`;
  for (let i = draws.below(3); i >= 0; i -= 1) plan = edited(plan, randomEdit(draws, plan, fresh));
  const number = (newest(state)?.number ?? 0) + 1;
  const at = () => (draws.chance(0.7) ? state.last + (30 + draws.below(200)) * day : null);
  return {
    type: 'amend',
    basis: draws.chance(0.95) ? amendBasis(state) : hash(draws.below(9)),
    plan,
    note: draws.chance(0.2) ? `words ${draws.below(9)}` : state.note,
    whole: draws.chance(0.15) ? { due: null, closes: at() } : null,
    version: draws.chance(0.15) ? versionOf(number, number, files, draws.chance(0.5) ? 70 + draws.below(9) : 0) : null,
    reason: null,
  };
}

/** A command that may or may not make sense: right and wrong actors, old epochs and old versions among them. */
export function randomCommand(
  draws: Draws,
  state: Circulation,
  files = 1,
): { command: Command; actor: string; page?: Version | null } {
  const seat = draws.pick([...state.seats.values()]);
  const stage = stagePlanOf(state, seat);
  const someone = draws.pick([...crew, ...outsiders, controller, author]);
  const acting = holders(state, seat, contextOf(state.last, ''));
  const holder = draws.chance(0.85) ? (draws.pick(acting)?.person ?? someone) : someone;
  const chief = draws.chance(0.95) ? state.controller : someone;
  const epoch = draws.chance(0.9) ? seat.epoch : seat.epoch - 1;
  const version = draws.chance(0.9) || state.versions.length === 0 ? newest(state) : draws.pick(state.versions);
  const scope = version ? scopeIn(state, seat, version) : hash(999);
  const time = () => (draws.chance(0.7) ? state.last + (1 + draws.below(200)) * hour : null);
  const stageTime = () => ({ due: atInstant(time()), closes: atInstant(draws.chance(0.3) ? time() : null) });
  const person = () => (draws.chance(0.8) ? assignment(someone) : ({ kind: 'person', person: someone } as const));
  const on = draws.pick(newest(state)?.files ?? versionOf(0).files);
  const seated = { seat: seat.id };
  if (draws.chance(0.2)) {
    const members = seat.group === null ? [] : (contextOf(state.last, '').groups.get(seat.group)?.members ?? []);
    const own = draws.chance(0.8)
      ? (draws.pick([...members, ...seat.holders.map(({ person: one }) => one)]) ?? someone)
      : someone;
    switch (draws.below(18)) {
      case 0:
        return { command: { type: 'take', ...seated, epoch }, actor: own };
      case 1:
        return { command: { type: 'giveBack', ...seated, epoch }, actor: draws.chance(0.5) ? own : chief };
      case 2:
      case 3: {
        const named = namedBy(state, seat);
        const names = draws.pick(named)?.id ?? seat.id;
        return { command: { type: 'name', ...seated, epoch, names, to: someone }, actor: own };
      }
      case 4:
        return { command: { type: 'agree', ...seated, epoch, agreed: draws.chance(0.7), note: null }, actor: chief };
      case 5:
        return { command: { type: 'endGathering', stage: stage.id }, actor: chief };
      case 6: {
        const closes = draws.chance(0.5) ? state.last + (1 + draws.below(300)) * hour : null;
        return { command: { type: 'extendWhole', due: null, closes }, actor: chief };
      }
      case 8:
        return { command: { type: 'pause', note: null }, actor: chief };
      case 9:
      case 10:
        return { command: { type: 'goOn' }, actor: chief };
      case 12:
      case 13: {
        const question = `q${draws.below(1e6)}`;
        return { command: { type: 'askQuestion', question, ...seated, epoch, note: 'w' }, actor: own };
      }
      case 14: {
        const question = draws.pick([...state.questions.keys()]) ?? 'none';
        return {
          command: { type: 'answerQuestion', question, note: 'w' },
          actor: draws.chance(0.4) ? author : chief,
        };
      }
      case 15:
        if (draws.chance(0.3))
          return {
            command: { type: 'setReminders', plan: { ...usualReminders, left: [10 + draws.below(80)] } },
            actor: chief,
          };
        return { command: randomAmendment(draws, state, files), actor: chief };
      case 16:
      case 17:
        return { command: randomAmendment(draws, state, files), actor: chief };
      case 11:
        return { command: { type: 'handControl', to: someone, note: null }, actor: chief };
      default: {
        const thousandths = draws.below(4) * 60_000_000;
        const facts: Facts = draws.chance(0.1) ? {} : { amount: { kind: 'amount', thousandths, currency: 'NOK' } };
        return { command: { type: 'giveFacts', facts, names: factNames }, actor: draws.chance(0.5) ? author : chief };
      }
    }
  }
  const kind = draws.below(120);
  if (kind < 42) {
    const outcome = draws.chance(0.85)
      ? draws.pick(outcomesFor(stage))
      : draws.pick(['approved', 'signed', 'done', 'declined'] as const);
    const own = filledFor(state, seat.id);
    const filled = outcome !== 'signed' ? [] : draws.chance(0.9) ? own : own.slice(1);
    const note = draws.chance(0.9) ? 'w' : null;
    return {
      command: { type: 'decide', ...seated, epoch, scope, outcome, note, filled, evidence: null },
      actor: holder,
      page: version,
    };
  }
  if (kind < 50) return { command: { type: 'see', ...seated, epoch, scope }, actor: holder, page: version };
  if (kind < 56) {
    const number = (newest(state)?.number ?? 0) + (draws.chance(0.9) ? 1 : 0);
    const made = versionOf(number, draws.chance(0.3) ? 1 : number, files, draws.chance(0.3) ? 50 : 0);
    return { command: { type: 'attach', version: made }, actor: draws.chance(0.9) ? author : someone };
  }
  if (kind < 70) {
    const lines = proposedLines(state, contextOf(0, controller));
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
        basis: draws.chance(0.9) ? roundBasis(state, contextOf(0, controller)) : hash(draws.below(9)),
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
  if (kind < 104) {
    const to = draws.pick(['holder', 'controller', 'third'] as const);
    const point = state.last + (draws.below(3) - 1) * day;
    return {
      command: { type: 'giveNotice', ...seated, epoch, to, person: chief, point },
      actor: draws.chance(0.9) ? system : someone,
    };
  }
  if (kind < 105) return { command: { type: 'wake' }, actor: draws.chance(0.9) ? system : someone };
  if (kind < 108) return { command: { type: 'pass', ...seated, note: null }, actor: chief };
  if (kind < 111) return { command: { type: 'askAgain', ...seated, due: time(), closes: null }, actor: chief };
  if (kind < 112) return { command: { type: 'setEnough', stage: stage.id, k: 1 + draws.below(4) }, actor: chief };
  if (kind < 113) return { command: { type: 'setTimes', stage: stage.id, ...stageTime() }, actor: chief };
  if (kind < 115) {
    const [wanted] = freezeWanted(state);
    const made = wanted ?? { file: on.id, content: on.file, fields: hash(3) };
    return { command: { type: 'keepFrozen', ...made, frozen: hash(90_000 + draws.below(9)) }, actor: system };
  }
  if (kind < 116 && draws.chance(0.5))
    return { command: { type: 'correctAddress', ...seated, to: someone, note: 'w' }, actor: chief };
  if (kind < 116) return { command: { type: 'copyLink', ...seated }, actor: chief };
  if (kind < 117) return { command: { type: 'plan', plan: state.plan, note: 'w', whole: state.whole }, actor: chief };
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

const nothing: Whole = { due: null, closes: null };

/** A circulation created, its first version submitted, sent. */
export function sentRun(plan: Series, files = 1, releasesItself = false, whole = nothing): Run {
  const run = created(plan, files);
  must(step(run, { type: 'attach', version: versionOf(1, 1, files) }, author));
  must(step(run, { type: 'giveFacts', facts: standardFacts(factTypes), names: factNames }, author));
  if (whole !== nothing) must(step(run, { type: 'plan', plan, note: null, whole }, controller));
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
  const closes = seed % 7 === 0 ? atInstant(start + (10 + (seed % 200)) * hour) : null;
  const whole = closes ? { due: null, closes } : nothing;
  const run = sentRun(randomRoute(drawsFrom(seed), seats, files), files, seed % 2 === 1, whole);
  const put = (asked: ReturnType<typeof randomCommand>, forward: number) => {
    const before = run.state as Circulation;
    watch(before, run, asked, step(run, asked.command, asked.actor, forward));
  };
  for (const own of steps) {
    const draws = drawsFrom(own);
    put(randomCommand(draws, run.state as Circulation, files), draws.chance(0.3) ? draws.below(20) * hour : 1000);
    // In some of them people mostly do what is asked of them, and come further along the route.
    const move = seed % 3 === 0 && run.state?.ended === null ? sensible(run.state, run) : null;
    if (move) put(move, move.forward ?? 60_000);
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
    const result = step(run, move.command, move.actor, move.forward ?? 60_000);
    if (!result.ok)
      throw new Error(
        `a sensible ${move.command.type} was refused: ${result.refusal.code} ${JSON.stringify(result.refusal.facts)}\n${lastEvents(run)}`,
      );
  }
  throw new Error(`not finished after ${bound} steps\n${lastEvents(run)}`);
}

/** The first thing a sensible person would do about the circulation, or null when nobody has anything to do. */
interface Move {
  readonly command: Command;
  readonly actor: string;
  /** How long they wait before it. */
  readonly forward?: number;
}

export function sensible(state: Circulation, { now, files }: Run): Move | null {
  if (timersOf(state).some((entry) => entry.at <= now + 60_000)) return { command: { type: 'wake' }, actor: system };
  const [freeze] = freezeWanted(state);
  if (freeze) return { command: { type: 'keepFrozen', ...freeze, frozen: hash(90_001) }, actor: system };
  if (finalsWanted(state)) return { command: { type: 'keepFinals', files: [], identifier: 'final' }, actor: system };
  if (releaseWanted(state)) return { command: released(now), actor: system };
  const waiting: Move[] = [];
  for (const task of tasksOf(state, contextOf(now, controller))) {
    const move = answerTo(task, state, now, files);
    if (move.forward === undefined) return move;
    waiting.push(move);
  }
  // Nobody can do anything but wait: until the first of them may.
  waiting.sort((a, b) => (a.forward ?? 0) - (b.forward ?? 0));
  if (waiting[0]) return waiting[0];
  return null;
}

const released = (effective: number): Command => ({
  type: 'complete',
  revisions: [{ record: 'rec', revision: 'B' }],
  effective,
  evidence: hash(6),
});

function answerTo(task: Task, state: Circulation, now: number, files: number): Move {
  const command = commandFor(task, state, now, files);
  return 'command' in command ? command : { command, actor: task.person };
}

function commandFor(task: Task, state: Circulation, now: number, files: number): Command | Move {
  const seat = task.seat ? state.seats.get(task.seat) : undefined;
  switch (task.doing) {
    case 'write':
    case 'rework': {
      const number = (newest(state)?.number ?? 0) + 1;
      return { type: 'attach', version: versionOf(number, number, files) };
    }
    case 'confirmRound': {
      // Whatever was skipped is asked by other facts.
      if (state.rework?.cause === 'nobody')
        return { type: 'attach', version: versionOf((newest(state)?.number ?? 0) + 1, 0, files) };
      const command = {
        type: 'confirmRound',
        basis: roundBasis(state, contextOf(0, controller)),
        keep: proposedLines(state, contextOf(0, controller)).flatMap((line) => (line.keep ? [line.seat] : [])),
        leave: [],
        times: [...state.stages.keys()].map((stage) => ({ stage, due: null, closes: null })),
      } as const;
      const tried = decide(state, command, contextOf(now, state.controller));
      // Where an amendment has left only stages that the values skip, somebody is asked who certainly is.
      return tried.ok || !tried.refusal.code.startsWith('nobody-') ? command : withSomebody(state);
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
    case 'agree':
      return { type: 'agree', seat: seat?.id ?? '', epoch: seat?.epoch ?? 0, agreed: true, note: null };
    case 'goOn':
      return { type: 'goOn' };
    case 'answer': {
      const question = openQuestions(state).find((one) => one.seat === task.seat);
      return { type: 'answerQuestion', question: question?.id ?? 'none', note: 'w' };
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
      const context = contextOf(now, task.person);
      const [unnamed] = unnamedBy(state, seat);
      if (unnamed) {
        const needs = offers(state, context).find((one) => one.act === 'name' && one.on === seat.id)?.needs;
        const barred = needs?.names?.find((one) => one.seat === unnamed.id)?.not ?? [];
        const to = (needs?.outside ? outsiders : crew).find((person) => !barred.includes(person));
        // Whoever can name nobody leaves it to the controller.
        if (!to) return { command: resolved(task, unnamed, state, now), actor: state.controller };
        return { type: 'name', seat: seat.id, epoch: seat.epoch, names: unnamed.id, to };
      }
      const until = waitsUntil(state, seat, task.person, { ...context, now: now + 60_000 });
      if (until === 'opened')
        return { type: 'see', seat: seat.id, epoch: seat.epoch, scope: scopeOf(state, seat) ?? '' };
      if (until !== null) return { command: { type: 'wake' }, actor: system, forward: Math.max(1, until - now) };
      const verb = stagePlanOf(state, seat).verb;
      return {
        type: 'decide',
        seat: seat.id,
        epoch: seat.epoch,
        scope: scopeOf(state, seat) ?? '',
        outcome: verbFacts[verb].yes,
        note: null,
        filled: verb === 'sign' ? filledFor(state, seat.id) : [],
        evidence: null,
      };
    }
  }
}

/** An amendment by which somebody is asked whatever the values are. */
function withSomebody(state: Circulation): Command {
  const id = `sure-${state.amendments}-${state.last % 1e9}`;
  const sure = freshStage(id, 'read', [freshSeat(`${id}-seat`, assignment('caspian'))]);
  return {
    type: 'amend',
    basis: amendBasis(state),
    plan: { ...state.plan, parts: [...state.plan.parts, sure] },
    note: state.note,
    whole: null,
    version: null,
    reason: null,
  };
}

function resolved(task: Task, named: SeatRun | undefined, state: Circulation, now: number): Command {
  if (state.closed !== null) return { type: 'extendWhole', due: null, closes: null };
  if (!named && state.stages.get(task.stage ?? '')?.held === 'time')
    return { type: 'setTimes', stage: task.stage as string, due: null, closes: null };
  const seat =
    named ??
    [...state.seats.values()].find(
      (own) => own.stage === task.stage && (own.status === 'declined' || own.status === 'missed'),
    );
  // Too few are left for the rule: whoever can still respond has to be enough.
  const stuck = state.stages.get(task.stage ?? '');
  if (!seat && stuck?.stuck) return { type: 'setEnough', stage: stuck.id, k: reachableOf(state, stuck) };
  if (!seat) throw new Error('a stop with nothing to decide about');
  if (seat.status === 'missed') return { type: 'extend', seat: seat.id, due: null, closes: null };
  // Where everybody of the house has a seat there already, somebody from outside is asked.
  const to = [...crew, ...outsiders, controller, author].find(
    (person) =>
      !isAuthorApproving(state, seat, person, contextOf(0, controller)) &&
      !seat.holders.some((holder) => holder.person === person) &&
      !respondedElsewhere(state, seat, person, contextOf(0, controller)) &&
      otherSeatInStage(state, seat, person, contextOf(0, controller)) === null,
  );
  const passed = seat.closes !== null && seat.closes <= now + day;
  const times = { due: passed ? now + day : null, closes: passed ? now + 2 * day : null };
  if (!to) return { type: 'askAgain', seat: seat.id, ...times };
  return { type: 'reassign', seat: seat.id, to: assignment(to), ...times, note: null };
}

/** Whether the actor may act on the seat, by the rules alone. */
export function acts(state: Circulation, seat: SeatRun, person: string, now = state.last): boolean {
  return mayAct(state, seat, person, contextOf(now, person));
}

export function lastEvents(run: Run): string {
  return run.events
    .slice(-14)
    .map((event) => `${event.type} ${JSON.stringify(event.data).slice(0, 160)} by ${event.actor}`)
    .join('\n');
}
