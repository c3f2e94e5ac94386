import { bareContext, type Context, type PersonFacts } from '@/core/circulation/run/context';
import { system } from '@/core/circulation/run/events';
import { type Circulation, documentsOf, newest } from '@/core/circulation/run/state';
import type { Level } from '@/core/circulation/telling/preferences';
import type { Absence } from '@/core/people/cover';
import type { FactType } from '@/core/route/facts';
import {
  assignedIn,
  conditionsOf,
  copiesOf,
  groupAsked,
  personOf,
  type Route,
  roleAsked,
  type Series,
  stagesOf,
  type Time,
} from '@/core/route/route';
import type { Calendar } from '@/core/time/calendar';
import { type ReminderPlan, usualReminders } from '@/core/time/reminders';
import type { Tx } from '../db/connect';
import { factsOf } from '../files/store';
import { absenceMatters } from '../organization/absences';
import { calendarsOf } from '../organization/calendars';
import { groupsNamed } from '../organization/groups';
import { rolesFor } from '../organization/roles';
import type { Rule } from '../organization/rules';
import { leadsOf } from '../organization/units';

/** What a plan makes the context know beyond its people. */
interface Wanted {
  readonly groups: readonly string[];
  readonly roles: boolean;
  readonly conditions: boolean;
  readonly calendars: boolean;
}
const wanted = new WeakMap<Route, Wanted>();

function wantedBy(plan: Series): Wanted {
  const found = wanted.get(plan);
  if (found) return found;
  const stages = stagesOf(plan);
  const seats = stages.flatMap((stage) => stage.seats);
  const assignments = assignedIn(plan).map(({ assignment }) => assignment);
  const counts = (time: Time | null) => time?.kind === 'after';
  const made: Wanted = {
    groups: [...new Set(assignments.flatMap((one) => groupAsked(one)?.group ?? []))],
    roles: assignments.some((one) => roleAsked(one) !== null),
    conditions: conditionsOf(plan).length > 0,
    calendars:
      stages.some((stage) => counts(stage.due) || counts(stage.closes) || stage.earliest?.kind === 'wait') ||
      seats.some((seat) => counts(seat.due) || counts(seat.closes)),
  };
  wanted.set(plan, made);
  return made;
}

/** What a context takes in besides what the state names. */
interface Further {
  /** The people that a command names. */
  readonly named?: readonly string[];
  /** Another route that the state may get. */
  readonly amended?: Series | null;
  /** The circulation's id, where somebody may be told of what happens. */
  readonly circulation?: string | null;
}

/** The context of a command or a question: who acts and when, and what the state, its plan and the command name. */
export async function contextOf(
  tx: Tx,
  state: Circulation | null,
  actor: string,
  { named = [], amended = null, circulation = null }: Further = {},
): Promise<Context> {
  const bare = bareContext(tx.now, actor);
  const needs = state && wantedBy(amended ? both(state.plan, amended) : state.plan);
  const groups = await groupsNamed(tx, needs?.groups ?? []);
  const people = new Set(state ? [...named, state.author, state.controller, actor] : [...named, actor]);
  for (const decision of state?.decisions ?? []) people.add(decision.by);
  for (const seat of state?.seats.values() ?? []) {
    for (const holder of seat.holders) people.add(holder.person);
    for (const wait of seat.waits) people.add(wait.person);
  }
  const copied = [
    ...(state ? copiesOf(state.plan).flatMap(({ to }) => to.map(({ assignment }) => personOf(assignment))) : []),
    ...[...(state?.copies.values() ?? [])].flatMap(({ filled }) => Object.values(filled)),
  ];
  for (const { assignment } of amended ? assignedIn(amended) : []) copied.push(personOf(assignment));
  for (const person of copied) if (person !== null) people.add(person);
  for (const { members } of groups.values()) for (const member of members) people.add(member);
  const planning = state !== null && (state.phase === 'new' || amended !== null);
  const counts = needs?.calendars || planning || state?.whole.due?.kind === 'after';
  const roles = needs?.roles || planning ? await rolesFor(tx, state as Circulation) : bare.roles;
  for (const { person } of roles.values()) if (person !== null) people.add(person);
  const { facts, rules, home, absences, following } = await factsOfPeople(tx, [...people], circulation);
  const typed = absences.some(({ covers }) => covers.some(({ types }) => types !== 'all'));
  const times = counts ? await calendarFacts(tx) : { calendars: bare.calendars, usual: null };
  return {
    ...bare,
    people: facts,
    groups,
    roles,
    rules,
    absences,
    record: state && (needs?.conditions || planning || typed) ? await recordFactsOf(tx, state as Circulation) : {},
    following: new Map(following),
    // What happens by itself is nobody's to steer.
    leads: state && actor !== system ? await leadsOf(tx, state.records[0] ?? '') : [],
    calendars: times.calendars,
    home: { zone: home, calendar: times.usual },
    factTypes: planning ? await factTypesOf(tx, state) : [],
    reminders: planning ? await remindersOf(tx, state) : bare.reminders,
    withoutFields: planning ? await withoutFields(tx, state) : bare.withoutFields,
  };
}

/** A context with the calendars of everybody, for whoever counts working time that nothing in the plan asks for. */
export async function withCalendars(tx: Tx, context: Context): Promise<Context> {
  const { calendars, usual } = await calendarFacts(tx);
  return { ...context, calendars, home: { ...context.home, calendar: usual } };
}

/** Two routes as one, for what they name. */
function both(one: Series, other: Series): Series {
  return { kind: 'series', id: 'both', parts: [one, other] };
}

async function factsOfPeople(
  tx: Tx,
  ids: readonly string[],
  circulation: string | null = null,
  known: ReadonlySet<string> = new Set(),
) {
  const rows = await tx.sql<
    (Omit<PersonFacts, 'identity'> & {
      id: string;
      identity: string;
      away: readonly (Omit<Absence, 'from' | 'to'> & { starts: number; ends: number })[] | null;
      rules: readonly Rule[];
      home: string;
      following: Readonly<Record<string, Level>> | null;
    })[]
  >`
    select p.id, p.name, p.kind = 'outside' as outside, p.state <> 'left' as active, p.email as identity, p.zone, p.calendar, p.tells, ${awayColumn(tx)} as away,
           f.rules, f.zone as home,
           w.following
    from profile f
    left join lateral (select jsonb_object_agg(o.person, o.level) as following from following o
      where o.organization = f.organization and o.circulation = ${circulation}) w on true
    left join person p on p.organization = f.organization
      and p.id = any(${ids as string[]} || array(select jsonb_object_keys(w.following)))
    where f.organization = ${tx.organization}`;
  const facts = new Map<string, PersonFacts>();
  const absences: Absence[] = [];
  for (const { id, rules: _, home: __, following: ___, away, ...person } of rows) {
    if (!id) continue;
    facts.set(id, person);
    for (const { starts, ends, ...absence } of away ?? []) absences.push({ ...absence, from: starts, to: ends });
  }
  const on = (rule: Rule) => rows[0]?.rules.includes(rule) ?? false;
  // Chains of cover lead to people whom nothing else names; two who cover for each other in turn lead back.
  const met = new Set([...known, ...facts.keys()]);
  const covering = absences.flatMap(({ covers }) => covers.map(({ by }) => by)).filter((by) => !met.has(by));
  if (covering.length > 0) {
    const more = await factsOfPeople(tx, [...new Set(covering)], null, met);
    for (const [id, person] of more.facts) facts.set(id, person);
    absences.push(...more.absences);
  }
  return {
    facts,
    absences,
    rules: { authorApproves: on('authorApproves'), questionsWait: on('questionsWait') },
    home: rows[0]?.home ?? 'UTC',
    following: Object.entries(rows[0]?.following ?? {}),
  };
}

/** The absences of a person (as `p`) that run, will run, or ended lately; null for almost everybody. */
function awayColumn({ sql, now }: Tx) {
  return sql`(
    select jsonb_agg(jsonb_build_object('id', a.id, 'person', a.person, 'starts', a.starts, 'ends', a.ends, 'covers', a.covers)
      order by a.starts)
    from absence a where a.organization = p.organization and a.person = p.id and a.ends > ${now - absenceMatters})`;
}

/** Every calendar by its id, and which of them is the usual one. */
async function calendarFacts(tx: Tx) {
  const all = await calendarsOf(tx);
  const calendars: ReadonlyMap<string, Calendar> = new Map(all.map((calendar) => [calendar.id, calendar]));
  return { calendars, usual: all.find((calendar) => calendar.usual)?.id ?? null };
}

/** What conditions may ask of the leading record. */
async function recordFactsOf(tx: Tx, state: Circulation): Promise<Context['record']> {
  const [row] = await tx.sql<
    { documentType: string; typeName: string; owner: string; unit: string | null; unitName: string | null }[]
  >`
    select r.document_type, t.name as type_name, r.owner, u.id as unit, u.name as unit_name
    from register r
    join document_type t on t.organization = r.organization and t.code = r.document_type
    left join record_unit u on u.organization = r.organization and u.record = r.record
    where r.organization = ${tx.organization} and r.record = ${state.records[0] ?? ''}`;
  if (!row) return {};
  const { documentType, typeName, owner, unit, unitName } = row;
  return {
    documentType: { id: documentType, called: typeName },
    owner: { id: owner, called: null },
    ...(unit === null ? {} : { unit: { id: unit, called: unitName } }),
  };
}

/** The facts that the type of the leading record declares; needed is none of them while its record is completed later. */
export async function factTypesOf(tx: Tx, state: Circulation): Promise<readonly FactType[]> {
  const [row] = await tx.sql<{ facts: FactType[]; complete: boolean }[]>`
    select t.facts, r.complete from register r
    join document_type t on t.organization = r.organization and t.code = r.document_type
    where r.organization = ${tx.organization} and r.record = ${state.records[0] ?? ''}`;
  if (!row) return [];
  return row.complete ? row.facts : row.facts.map((type) => ({ ...type, needed: false }));
}

/** How the type of the leading record wants people reminded. */
async function remindersOf(tx: Tx, state: Circulation): Promise<ReminderPlan> {
  const [row] = await tx.sql<{ reminders: ReminderPlan | null }[]>`
    select t.reminders from register r
    join document_type t on t.organization = r.organization and t.code = r.document_type
    where r.organization = ${tx.organization} and r.record = ${state.records[0] ?? ''}`;
  return row?.reminders ?? usualReminders;
}

/** The contents of the newest version on which no fields can be put. */
async function withoutFields(tx: Tx, state: Circulation): Promise<ReadonlySet<string>> {
  const version = newest(state);
  if (!version) return new Set();
  const files = documentsOf(version).map(({ file }) => file);
  const facts = await factsOf(tx, files);
  return new Set(files.filter((file) => facts.get(file)?.noFields));
}
