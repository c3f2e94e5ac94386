import type { Whole } from '../circulation/run/shapes';
import { type Field, fieldsMissing } from '../page/fields';
import type { Absence } from '../people/cover';
import { axisOf, localDay, worksOn } from '../time/calendar';
import { after, type Clock } from '../time/due';
import type { Instant } from '../time/instant';
import { expectedDues, uncoveredAt } from './away';
import { type Condition, comparisonsIn, factsIn, holds, type RecordFact, type RecordValue } from './condition';
import { editedBy, firstAsked, type RouteEdit } from './edit';
import { type Facts, type FactType, factFault } from './facts';
import { leadsToCircle, namedThrough, referencesOf } from './references';
import {
  type Assignment,
  type Copies,
  conditionsOf,
  copiesOf,
  emptySeries,
  groupAsked,
  independentStages,
  instantOf,
  knownSeats,
  partsOf,
  personOf,
  type Route,
  type RouteFault,
  roleAsked,
  routeFaults,
  routeLimits,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
} from './route';
import { keepsAuthorOut, verbFacts } from './verbs';

export type FindingCode =
  | RouteFault['code']
  | 'no-stage'
  | 'no-version'
  | 'nobody'
  | 'nobody-asked'
  | 'author-decides'
  | 'twice-in-stage'
  | 'twice-apart'
  | 'alike'
  | 'person-left'
  | 'away'
  | 'role-unknown'
  | 'role-unfilled'
  | 'group-unknown'
  | 'group-empty'
  | 'group-crowd'
  | 'group-short'
  | 'every-signs'
  | 'naming-nobody'
  | 'naming-late'
  | 'naming-circle'
  | 'fact-unknown'
  | 'fact-missing'
  | 'fact-unfit'
  | 'outcome-late'
  | 'earliest-late'
  | 'due-past'
  | 'closes-past'
  | 'whole-past'
  | 'due-before-earliest'
  | 'closes-before-earliest'
  | 'day-off'
  | 'due-after-whole'
  | 'closes-after-whole'
  | 'field-missing'
  | 'field-nobody'
  | 'file-unasked'
  | 'file-no-fields'
  | 'copies-nobody'
  | 'copies-lost';

/** One thing the check before sending found. What `stops` is required; what `warns` may be sent all the same. */
export interface Finding {
  readonly code: FindingCode;
  readonly severity: 'stops' | 'warns';
  /** Where: a stage, one of its seats, and what else it is about (a branch, a board, a fact, a file, the other person). */
  readonly stage: string | null;
  readonly seat: string | null;
  readonly about: string | null;
}

export interface PreflightSubject {
  readonly route: Series;
  readonly whole: Whole;
  readonly author: string;
  readonly hasVersion: boolean;
  /** Fields on the newest version. */
  readonly fields: readonly Field[];
  /** The documents of the newest version, and whether fields can be put on them. */
  readonly files: readonly { readonly id: string; readonly takesFields: boolean }[];
  readonly facts: Facts;
  readonly factTypes: readonly FactType[];
  readonly record: Readonly<Partial<Record<RecordFact, RecordValue>>>;
  readonly groups: ReadonlyMap<string, { readonly members: readonly string[] }>;
  readonly roles: ReadonlyMap<string, { readonly person: string | null }>;
  readonly now: Instant;
  readonly person: (
    id: string,
  ) => { readonly name: string; readonly active: boolean; readonly outside: boolean } | null;
  /** Whose clock a time counts on. */
  readonly clock: (person: string | null) => Clock;
  /** Whether two entries are one person; by their ids where nothing more is known. */
  readonly same: (a: string, b: string) => boolean;
  readonly authorApproves: boolean;
  /** Who is away and who covers; and who could be asked instead of somebody: whoever leads their unit, or the deputy. */
  readonly absences: readonly Absence[];
  readonly standIn: (person: string) => string | null;
}

/** Everything that would go wrong, or probably is not meant, if the route were sent now; what stops comes first. */
export function preflight(subject: PreflightSubject): Finding[] {
  const stops: Finding[] = [];
  const warns: Finding[] = [];
  const add: Add = (code, severity, { stage = null, seat = null, about = null } = {}) =>
    (severity === 'stops' ? stops : warns).push({ code, severity, stage, seat, about });

  ofShape(subject, add);
  const order = orderOf(subject.route);
  for (const stage of stagesOf(subject.route)) {
    ofPeople(subject, stage, order, add);
    ofTimes(subject, stage, order, add);
  }
  ofIndependence(subject, add);
  ofConditions(subject, order, add);
  ofWhole(subject, add);
  ofCopies(subject, add);
  ofFiles(subject, add);
  ofLikeness(subject, add);
  ofAbsences(subject, add);
  if (stops.length === 0 && asksNobody(subject)) add('nobody-asked', 'stops');
  return [...stops, ...warns];
}

type Add = (
  code: FindingCode,
  severity: Finding['severity'],
  place?: { readonly stage?: string | null; readonly seat?: string | null; readonly about?: string | null },
) => void;

function ofShape({ route, hasVersion }: PreflightSubject, add: Add): void {
  const seats = new Map(stagesOf(route).flatMap((stage) => stage.seats.map((seat) => [seat.id, stage.id] as const)));
  for (const fault of routeFaults(route)) {
    const id = 'id' in fault ? fault.id : null;
    const stage = id === null ? null : (seats.get(id) ?? id);
    add(fault.code, 'stops', { stage, seat: id !== null && seats.has(id) ? id : null });
  }
  if (stagesOf(route).length === 0) add('no-stage', 'stops');
  for (const id of emptySeries(route)) add('empty-branch', 'stops', { about: id });
  if (!hasVersion) add('no-version', 'stops');
}

/** Whether somebody is there to get a copy. */
function reaches(subject: PreflightSubject, { assignment }: Copies['to'][number]): boolean {
  return peopleOf(subject, assignment).some((person) => {
    const { active = true, outside = false } = subject.person(person) ?? {};
    return active && (!outside || assignment.kind === 'outside');
  });
}

function ofCopies(subject: PreflightSubject, add: Add): void {
  for (const board of copiesOf(subject.route)) {
    if (board.to.length === 0) add('copies-nobody', 'warns', { about: board.id });
    else if (!board.to.every((one) => reaches(subject, one))) add('copies-lost', 'warns', { about: board.id });
  }
}

/** Which stages are certain to have ended when another begins, as positions that can be compared. */
type Order = (before: string, than: string) => boolean;

function orderOf(route: Series): Order {
  // Paths through the tree: for each stage, at which place of each series it stands.
  const paths = new Map<string, ReadonlyMap<string, number>>();
  const visit = (part: Route, path: ReadonlyMap<string, number>): void => {
    if (part.kind === 'stage') paths.set(part.id, path);
    else if (part.kind === 'parallel') for (const branch of part.branches) visit(branch.route, path);
    else if (part.kind === 'series')
      part.parts.forEach((inner, i) => {
        visit(inner, new Map(path).set(part.id, i));
      });
  };
  visit(route, new Map());
  return (before, than) => {
    const later = paths.get(than);
    if (!later) return false;
    for (const [series, at] of paths.get(before) ?? []) {
      const other = later.get(series);
      if (other !== undefined && other !== at) return at < other;
    }
    return false;
  };
}

/** Everybody a seat may come to; nobody while somebody has to be named. */
function peopleOf({ groups, roles }: PreflightSubject, assignment: Assignment): readonly string[] {
  const group = groupAsked(assignment);
  if (group) return groups.get(group.group)?.members ?? [];
  const role = roleAsked(assignment);
  const person = role === null ? personOf(assignment) : (roles.get(role)?.person ?? null);
  return person === null ? [] : [person];
}

function ofPeople(subject: PreflightSubject, stage: Stage, order: Order, add: Add): void {
  const { same, author, groups, roles } = subject;
  if (stage.seats.length === 0) add('nobody', 'stops', { stage: stage.id });
  // With every member of a group a seat, only now is it known how many there are.
  const n = stage.seats.reduce((sum, { assignment }) => {
    const group = groupAsked(assignment);
    return sum + (group?.members === 'every' ? (groups.get(group.group)?.members.length ?? 0) : 1);
  }, 0);
  const tooMany = stage.rule.kind === 'atLeast' && n > 0 && stage.rule.k > n && knownSeats(stage) === null;
  if (tooMany) add('rule-out-of-reach', 'stops', { stage: stage.id });
  const met: string[] = [];
  for (const seat of stage.seats) {
    const { assignment } = seat;
    const place = { stage: stage.id, seat: seat.id };
    const people = peopleOf(subject, assignment);
    const group = groupAsked(assignment);
    const asks = roleAsked(assignment);
    const alone = group === null && assignment.kind !== 'named';
    if (asks !== null) {
      const role = roles.get(asks);
      if (!role) add('role-unknown', 'stops', place);
      else if (role.person === null) add('role-unfilled', 'stops', place);
    }
    if (group) {
      const members = groups.get(group.group)?.members;
      if (!members) add('group-unknown', 'stops', place);
      else if (members.length === 0) add('group-empty', 'stops', place);
      else if (group.members === 'every' && members.length > routeLimits.seats) add('group-crowd', 'stops', place);
      if (group.members === 'every' && verbFacts[stage.verb].signs) add('every-signs', 'stops', place);
    }
    if (assignment.kind === 'named') ofNaming(subject.route, stage, seat, order, add);
    if (alone && people.some((person) => subject.person(person)?.active === false)) add('person-left', 'stops', place);
    const [person] = people;
    if (alone && person !== undefined) {
      if (met.some((other) => same(other, person))) add('twice-in-stage', 'stops', place);
      met.push(person);
    }
    const decides = keepsAuthorOut(stage.verb, subject.authorApproves);
    if (decides && people.length > 0 && people.every((one) => same(one, author))) add('author-decides', 'stops', place);
  }
  ofCounting(subject, stage, add);
}

/**
 * Groups whose members are not enough, because a person counts once in a stage: those of which every member is asked and is
 * in the stage already, and those of which any may respond and nobody is left for. Seats and people are matched (Kuhn 1955).
 */
function ofCounting(subject: PreflightSubject, stage: Stage, add: Add): void {
  const { same, author } = subject;
  const known: string[] = [];
  // Two entries of one person are one.
  const once = (person: string) => {
    const found = known.find((one) => same(one, person));
    if (found === undefined) known.push(person);
    return found ?? person;
  };
  const mayNot = keepsAuthorOut(stage.verb, subject.authorApproves);
  const membersOf = (assignment: Assignment) =>
    [...new Set(peopleOf(subject, assignment).map(once))].filter((person) => !mayNot || !same(person, author));
  const taken = new Set(
    stage.seats
      .filter(({ assignment }) => groupAsked(assignment) === null)
      .flatMap((seat) => membersOf(seat.assignment)),
  );
  const severity = stage.rule.kind === 'all' ? 'stops' : 'warns';
  const short = (seat: Seat) => add('group-short', severity, { stage: stage.id, seat: seat.id });
  const groups = stage.seats.filter(
    ({ assignment }) => groupAsked(assignment) !== null && membersOf(assignment).length > 0,
  );
  const asksEvery = ({ assignment }: Seat) => groupAsked(assignment)?.members === 'every';
  for (const seat of groups.filter(asksEvery)) {
    const fresh = membersOf(seat.assignment).filter((person) => !taken.has(person));
    if (fresh.length === 0) short(seat);
    for (const person of fresh) taken.add(person);
  }
  const matched = new Map<string, Seat>();
  const match = (seat: Seat, tried: Set<string>): boolean =>
    membersOf(seat.assignment).some((person) => {
      if (taken.has(person) || tried.has(person)) return false;
      tried.add(person);
      const other = matched.get(person);
      if (other && !match(other, tried)) return false;
      matched.set(person, seat);
      return true;
    });
  for (const seat of groups.filter((one) => !asksEvery(one))) if (!match(seat, new Set())) short(seat);
}

/** People of two stages that need different ones: whichever they respond in, nobody would be left for the other. */
function ofIndependence(subject: PreflightSubject, add: Add): void {
  const apart = independentStages(subject.route);
  const met: { readonly stage: string; readonly person: string }[] = [];
  for (const stage of stagesOf(subject.route))
    for (const seat of stage.seats) {
      const [person] = groupAsked(seat.assignment) ? [] : peopleOf(subject, seat.assignment);
      if (person === undefined) continue;
      const other = met.find((one) => apart.get(stage.id)?.includes(one.stage) && subject.same(one.person, person));
      if (other) add('twice-apart', 'stops', { stage: stage.id, seat: seat.id, about: other.stage });
      met.push({ stage: stage.id, person });
    }
}

/** Whoever names somebody must have responded before that seat is asked. */
function ofNaming(route: Series, stage: Stage, seat: Seat, order: Order, add: Add): void {
  const place = { stage: stage.id, seat: seat.id };
  const stages = stagesOf(route);
  if (seat.assignment.kind !== 'named') return;
  const namer = seat.assignment.by;
  const home = stages.find((inner) => inner.seats.some((candidate) => candidate.id === namer));
  if (!home) {
    add('naming-nobody', 'stops', place);
    return;
  }
  if (leadsToCircle(route, seat.id)) {
    add('naming-circle', 'stops', place);
    return;
  }
  const positions = stage.seats.map((candidate) => candidate.id);
  const inTurn =
    home.id === stage.id && stage.order === 'oneByOne' && positions.indexOf(namer) < positions.indexOf(seat.id);
  // Where fewer than all are enough, the stage may be over before its namer has responded.
  if (!inTurn && !order(home.id, stage.id)) add('naming-late', 'stops', place);
}

function ofTimes(subject: PreflightSubject, stage: Stage, order: Order, add: Add): void {
  const { now, clock, whole } = subject;
  const place = { stage: stage.id };
  const { earliest } = stage;
  if (earliest?.kind === 'wait' && typeof earliest.from === 'object' && !order(earliest.from.stage, stage.id))
    add('earliest-late', 'stops', place);
  const from = earliest?.kind === 'date' ? earliest.at : null;
  const [wholeDue, wholeCloses] = [instantOf(whole.due), instantOf(whole.closes)];
  const check = (of: Pick<Stage, 'due' | 'closes'>, at: typeof place & { seat?: string }, person: string | null) => {
    const [due, closes] = [instantOf(of.due), instantOf(of.closes)];
    if (closes !== null && closes <= now) add('closes-past', 'stops', at);
    else if (closes !== null && from !== null && closes <= from) add('closes-before-earliest', 'stops', at);
    if (due !== null && due <= now) add('due-past', 'stops', at);
    else if (due !== null && from !== null && due < from) add('due-before-earliest', 'warns', at);
    if (due !== null && wholeDue !== null && due > wholeDue) add('due-after-whole', 'warns', at);
    if (closes !== null && wholeCloses !== null && closes > wholeCloses) add('closes-after-whole', 'warns', at);
    const off = (time: Instant | null) => time !== null && time > now && isDayOff(time, clock(person));
    if (off(due) || off(closes)) add('day-off', 'warns', at);
  };
  check(stage, place, null);
  for (const seat of stage.seats)
    if (seat.due || seat.closes) check(seat, { ...place, seat: seat.id }, personOf(seat.assignment));
}

/** Whether nobody works by a calendar on the date of an instant. */
function isDayOff(at: Instant, { zone, own }: Clock): boolean {
  return !worksOn(own, localDay(axisOf(own, zone), at - 1));
}

function ofConditions(subject: PreflightSubject, order: Order, add: Add): void {
  const { route, facts, factTypes } = subject;
  const stageIds = new Set(stagesOf(route).map((stage) => stage.id));
  const tested = new Map<string, string>();
  for (const { part, condition } of conditionsOf(route)) {
    const place = stageIds.has(part) ? { stage: part } : { about: part };
    for (const fact of factsIn(condition)) {
      if (!factTypes.some((type) => type.id === fact)) add('fact-unknown', 'stops', place);
      else if (!tested.has(fact)) tested.set(fact, part);
    }
    // What an outcome is asked of has to have ended before: for a branch, before its first stage.
    const [first] = stageIds.has(part)
      ? [part]
      : partsOf(route)
          .filter((inner) => inner.id === part)
          .flatMap((inner) => stagesOf(inner).map((stage) => stage.id));
    for (const compared of comparisonsIn(condition))
      if (compared.kind === 'outcome' && first !== undefined && !order(compared.stage, first))
        add('outcome-late', 'stops', place);
  }
  for (const type of factTypes) {
    const value = facts[type.id];
    if (value ? factFault(type, value) !== null : false) add('fact-unfit', 'stops', { about: type.id });
    if (!value && (type.needed || tested.has(type.id))) add('fact-missing', 'stops', { about: type.id });
  }
}

function ofWhole({ whole, now }: PreflightSubject, add: Add): void {
  const [due, closes] = [instantOf(whole.due), instantOf(whole.closes)];
  if ((due !== null && due <= now) || (closes !== null && closes <= now)) add('whole-past', 'stops');
}

function ofFiles({ route, fields, files }: PreflightSubject, add: Add): void {
  const stages = stagesOf(route);
  const signing = stages
    .filter((stage) => verbFacts[stage.verb].signs)
    .flatMap((stage) => stage.seats.map((seat) => ({ seat, stage })));
  const missing = fieldsMissing(
    signing.map(({ seat: { id } }) => id),
    fields,
  );
  for (const seat of missing)
    add('field-missing', 'warns', { seat, stage: signing.find((entry) => entry.seat.id === seat)?.stage.id ?? null });
  const nobody = fields.find((field) => !signing.some(({ seat }) => seat.id === field.seat));
  if (nobody) add('field-nobody', 'warns', { about: nobody.file });
  const concerns = (seat: Seat, file: string) => seat.files === 'all' || seat.files.includes(file);
  for (const file of files) {
    if (
      !stages.some((stage) => stage.seats.some((seat) => concerns(seat, file.id))) &&
      stages.some((s) => s.seats.length > 0)
    )
      add('file-unasked', 'warns', { about: file.id });
    const signer = signing.find(({ seat }) => concerns(seat, file.id));
    // Whoever signs a bundle needs one field in it, not one in every file of it.
    const elsewhere = signer && files.some((other) => other.takesFields && concerns(signer.seat, other.id));
    if (!file.takesFields && signer && !elsewhere)
      add('file-no-fields', 'stops', { stage: signer.stage.id, seat: signer.seat.id, about: file.id });
  }
}

/** People whose names are so alike that one may have been meant for the other. */
function ofLikeness(subject: PreflightSubject, add: Add): void {
  const people = new Map<string, { stage: string; seat: string }>();
  for (const stage of stagesOf(subject.route))
    for (const seat of stage.seats) {
      const person = personOf(seat.assignment);
      if (person !== null && !people.has(person)) people.set(person, { stage: stage.id, seat: seat.id });
    }
  const named = [...people].map(([id, place]) => ({ id, place, key: nameKey(subject.person(id)?.name ?? '') }));
  named.forEach((one, i) => {
    const other = named.slice(0, i).find(({ id, key }) => key !== '' && key === one.key && !subject.same(id, one.id));
    if (other) add('alike', 'warns', { ...one.place, about: other.id });
  });
}

/** People who would have to respond while they are away and nobody covers for them. */
function ofAbsences(subject: PreflightSubject, add: Add): void {
  const { route, now, clock, absences, author, record, authorApproves, same } = subject;
  if (absences.length === 0) return;
  const dues = expectedDues(route, now, clock);
  for (const stage of stagesOf(route)) {
    const isCut = (person: string) =>
      subject.person(person)?.active === false || (keepsAuthorOut(stage.verb, authorApproves) && same(person, author));
    for (const seat of stage.seats) {
      const at = dues.get(seat.id) ?? now;
      const away = peopleOf(subject, seat.assignment).map((person) =>
        uncoveredAt(absences, person, stage, record.documentType?.id ?? null, at, isCut),
      );
      const every = groupAsked(seat.assignment)?.members === 'every';
      const hit = away.find((absence) => absence !== null);
      if (hit && (every || away.every((absence) => absence !== null)))
        add('away', 'warns', { stage: stage.id, seat: seat.id, about: hit.id });
    }
  }
}

/** The first letter and the last name, without accents and case: whoever shares both is easily taken for the other. */
export function nameKey(name: string): string {
  const words = name.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().split(/\s+/).filter(Boolean);
  return words.length < 2 ? (words[0] ?? '') : `${words[0]?.[0]} ${words[words.length - 1]}`;
}

/** Whether every stage would be skipped by the values as they are: nothing has ended then that another could depend on. */
export function asksNobody({ route, facts, record }: Pick<PreflightSubject, 'route' | 'facts' | 'record'>): boolean {
  const now = (condition: Condition) => holds(condition, { facts, record, names: {}, outcomes: () => null }).holds;
  return stagesOf(route).length > 0 && firstAsked(route, now).length === 0;
}

/** What would mend a finding, as a change of what is planned. */
export type Mending =
  | { readonly kind: 'route'; readonly edits: readonly RouteEdit[] }
  | { readonly kind: 'whole'; readonly whole: Whole }
  /** Removes the fields of one file that belong to nobody who signs. */
  | { readonly kind: 'fields'; readonly file: string };

/** The subject with a mending made. */
export function mended(subject: PreflightSubject, mending: Mending): PreflightSubject {
  if (mending.kind === 'whole') return { ...subject, whole: mending.whole };
  if (mending.kind === 'fields') {
    const signing = new Set(
      stagesOf(subject.route).flatMap((stage) =>
        verbFacts[stage.verb].signs ? stage.seats.map((seat) => seat.id) : [],
      ),
    );
    return {
      ...subject,
      fields: subject.fields.filter((field) => field.file !== mending.file || signing.has(field.seat)),
    };
  }
  return { ...subject, route: editedBy(subject.route, mending.edits) };
}

const keyOf = ({ code, stage, seat, about }: Finding) => [code, stage, seat, about].join(' ');

/**
 * The first change that removes a finding and adds none, or null where only a person can say what is meant. Tried on a
 * copy, so that what is offered holds what it promises. Who is away may change with it, because its dates do.
 */
export function mendingOf(subject: PreflightSubject, finding: Finding): Mending | null {
  const before = new Set(preflight(subject).map(keyOf));
  for (const mending of candidates(subject, finding)) {
    const after = preflight(mended(subject, mending)).map(keyOf);
    if (!after.includes(keyOf(finding)) && after.every((key) => before.has(key) || key.startsWith('away ')))
      return mending;
  }
  return null;
}

/** A finding that somebody would like to have mended, with where it is. */
interface Wanted {
  readonly subject: PreflightSubject;
  readonly finding: Finding;
  readonly plan: Stage | undefined;
  readonly own: Seat | undefined;
}

type Mend = (wanted: Wanted) => Mending[];

function candidates(subject: PreflightSubject, finding: Finding): Mending[] {
  const plan = stagesOf(subject.route).find((candidate) => candidate.id === finding.stage);
  const own = plan?.seats.find((candidate) => candidate.id === finding.seat);
  return mendings[finding.code]({ subject, finding, plan, own });
}

const route = (...edits: RouteEdit[]): Mending => ({ kind: 'route', edits });

/** Only a person can say what is meant. */
const asksPerson: Mend = () => [];

const removal: Mend = ({ subject, finding: { stage, seat } }) => [
  ...(seat ? [route(...withoutSeats(subject.route, [seat]))] : []),
  ...(stage ? [route(...withoutStages(subject.route, [stage]))] : []),
];

const removalOfAbout: Mend = ({ finding: { about } }) => (about ? [route({ do: 'remove', part: about })] : []);

/** Other times of the seat that it is about, or of the stage. */
const times = (
  { finding: { stage, seat } }: Wanted,
  with_: { readonly due?: Stage['due']; readonly closes?: Stage['closes'] },
): Mending => route(seat ? { do: 'changeSeat', seat, with: with_ } : { do: 'change', stage: stage ?? '', with: with_ });

/** The end of the next working day of whoever it is about. */
function nextEnd({ subject, own }: Wanted, from: Instant) {
  const at = after(from, { amount: 1, unit: 'workingDays' }, subject.clock(own ? personOf(own.assignment) : null));
  return at === null ? null : ({ kind: 'instant', at } as const);
}

const withoutClosing: Mend = (wanted) => [times(wanted, { closes: null })];
const withoutDue: Mend = (wanted) => [times(wanted, { due: null })];

const anyMember: Mend = (wanted) => {
  const { own, finding } = wanted;
  if (!finding.seat || !own || !groupAsked(own.assignment)) return [];
  const assignment = { ...own.assignment, members: 'any' } as const;
  return [route({ do: 'changeSeat', seat: finding.seat, with: { assignment } }), ...removal(wanted)];
};

const withoutEarliest: Mend = ({ finding: { stage } }) =>
  stage ? [route({ do: 'change', stage, with: { earliest: null } })] : [];

const withoutCondition: Mend = ({ finding: { stage, about } }) => {
  const branch = about ?? stage;
  return [
    ...(stage ? [route({ do: 'change', stage, with: { condition: null } })] : []),
    ...(branch ? [route({ do: 'changeBranch', branch, with: { condition: null } })] : []),
  ];
};

/** What could mend each kind of finding; the first that holds when it is tried is offered. */
const mendings: { readonly [C in FindingCode]: Mend } = {
  'duplicate-id': asksPerson,
  'too-few-branches': asksPerson,
  'too-large': asksPerson,
  'no-stage': asksPerson,
  'no-version': asksPerson,
  'nobody-asked': asksPerson,
  alike: asksPerson,
  'fact-missing': asksPerson,
  'fact-unfit': asksPerson,
  'field-missing': asksPerson,
  'file-no-fields': asksPerson,
  nobody: removal,
  'author-decides': removal,
  'twice-in-stage': removal,
  // Either of the two stages can do without them, or one without the other.
  'twice-apart': (wanted) => {
    const { about } = wanted.finding;
    return [...removal(wanted), ...(about ? [route(...withoutStages(wanted.subject.route, [about]))] : [])];
  },
  'person-left': removal,
  'role-unknown': removal,
  'role-unfilled': removal,
  'group-unknown': removal,
  'group-empty': removal,
  'group-short': removal,
  'naming-nobody': removal,
  'naming-late': removal,
  'naming-circle': removal,
  'group-crowd': anyMember,
  'every-signs': anyMember,
  away: ({ subject, finding: { seat }, own }) => {
    const person = own && personOf(own.assignment);
    const instead = person ? subject.standIn(person) : null;
    if (!seat || !instead) return [];
    return [route({ do: 'changeSeat', seat, with: { assignment: { kind: 'person', person: instead } } })];
  },
  'empty-branch': removalOfAbout,
  'copies-nobody': removalOfAbout,
  'copies-lost': ({ subject, finding: { about } }) => {
    const board = copiesOf(subject.route).find(({ id }) => id === about);
    const to = board?.to.filter((one) => reaches(subject, one)) ?? [];
    if (!board) return [];
    return [
      route(to.length > 0 ? { do: 'changeCopies', copies: board.id, with: { to } } : { do: 'remove', part: board.id }),
    ];
  },
  'rule-out-of-reach': ({ finding: { stage } }) =>
    stage
      ? [
          route({ do: 'change', stage, with: { rule: { kind: 'all' } } }),
          route({ do: 'changeParallel', parallel: stage, with: { join: { kind: 'all' } } }),
        ]
      : [],
  'sign-under-partial-join': ({ subject, finding: { stage } }) => [
    route(
      ...partsOf(subject.route)
        .filter((part) => part.kind === 'parallel' && stagesOf(part).some(({ id }) => id === stage))
        .map(({ id }): RouteEdit => ({ do: 'changeParallel', parallel: id, with: { join: { kind: 'all' } } })),
    ),
  ],
  'closes-before-due': (wanted) => [times(wanted, { closes: null }), times(wanted, { due: null })],
  'closes-past': withoutClosing,
  'closes-before-earliest': withoutClosing,
  'closes-after-whole': withoutClosing,
  'due-after-whole': withoutDue,
  'time-unfit': (wanted) => [times(wanted, { due: null, closes: null }), ...withoutEarliest(wanted)],
  'due-past': (wanted) => [times(wanted, { due: nextEnd(wanted, wanted.subject.now) }), ...withoutDue(wanted)],
  'due-before-earliest': (wanted) => {
    const { earliest } = wanted.plan ?? {};
    const later = earliest?.kind === 'date' ? [times(wanted, { due: nextEnd(wanted, earliest.at) })] : [];
    return [...later, ...withoutDue(wanted)];
  },
  'day-off': (wanted) => {
    const { own, plan } = wanted;
    const of = own && (own.due || own.closes) ? own : plan;
    const moved = (at: Instant | null) => (at === null ? null : nextEnd(wanted, at));
    const [due, closes] = [moved(instantOf(of?.due ?? null)), moved(instantOf(of?.closes ?? null))];
    return [
      ...(due ? [times(wanted, { due })] : []),
      ...(closes ? [times(wanted, { closes })] : []),
      ...(due && closes ? [times(wanted, { due, closes })] : []),
    ];
  },
  'whole-past': (wanted) => [{ kind: 'whole', whole: { due: nextEnd(wanted, wanted.subject.now), closes: null } }],
  'condition-unfit': withoutCondition,
  'fact-unknown': withoutCondition,
  'outcome-late': withoutCondition,
  'earliest-late': withoutEarliest,
  'independence-unfit': ({ subject, finding: { stage }, plan }) => {
    const there = stagesOf(subject.route).map(({ id }) => id);
    const independentOf = plan?.independentOf.filter((id) => id !== stage && there.includes(id)) ?? [];
    return stage ? [route({ do: 'change', stage, with: { independentOf } })] : [];
  },
  'field-nobody': ({ finding: { about } }) => (about ? [{ kind: 'fields', file: about }] : []),
  'file-unasked': ({ subject }) => {
    const [first] = stagesOf(subject.route).flatMap((candidate) => candidate.seats);
    return first ? [route({ do: 'changeSeat', seat: first.id, with: { files: 'all' } })] : [];
  },
};

/** Removes seats with everything that would point to nobody: seats they name, stages that this leaves empty. */
function withoutSeats(route: Series, ids: readonly string[]): RouteEdit[] {
  const gone = namedThrough(route, ids);
  const empty = stagesOf(route).filter(
    (stage) => stage.seats.length > 0 && stage.seats.every(({ id }) => gone.has(id)),
  );
  return [
    ...[...gone].map((seat): RouteEdit => ({ do: 'removeSeat', seat })),
    ...removals(
      route,
      empty.map(({ id }) => id),
    ),
  ];
}

/** Removes stages with the seats that theirs name. */
function withoutStages(route: Series, ids: readonly string[]): RouteEdit[] {
  const seats = stagesOf(route).flatMap((stage) => (ids.includes(stage.id) ? stage.seats.map((seat) => seat.id) : []));
  return seats.length > 0 ? withoutSeats(route, seats) : removals(route, ids);
}

/** Removes stages, and what asks how or when they ended. */
function removals(route: Series, ids: readonly string[]): RouteEdit[] {
  const stages = new Set(stagesOf(route).map(({ id }) => id));
  const edits = referencesOf(route).flatMap(({ kind, from, to }): RouteEdit[] => {
    if (!ids.includes(to)) return [];
    if (kind === 'earliestAfter') return [{ do: 'change', stage: from, with: { earliest: null } }];
    if (kind !== 'outcomeOf') return [];
    return stages.has(from)
      ? [{ do: 'change', stage: from, with: { condition: null } }]
      : [{ do: 'changeBranch', branch: from, with: { condition: null } }];
  });
  return [...edits, ...ids.map((part): RouteEdit => ({ do: 'remove', part }))];
}
