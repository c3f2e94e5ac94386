import { tableIn } from '@/core/formats/csv';
import { type CheckedLine, checkedTable, type Known, type TableKind, tableColumns } from '@/core/people/table';
import { canonical } from '@/core/trail/canonical';
import { hashOf } from '@/core/trail/sha256';
import { describePerson } from '../admin/describePerson';
import { addMember } from '../admin/members';
import { personNamed } from '../admin/people';
import { profileOf } from '../admin/profile';
import { sendAccess } from '../auth/access';
import { notify, type Tx } from '../db/connect';
import { newId } from '../random';
import { refuse } from '../refused';
import { calendarsOf } from './calendars';
import { groupsOf, saveGroup } from './groups';
import { placePerson } from './place';
import { saveUnit, unitsOf } from './units';

/** A table as it was checked: its lines, how many of them cannot be taken, and a sign of exactly this. */
interface TableRead {
  readonly lines: readonly CheckedLine[];
  readonly faults: number;
  readonly sign: string;
}

/** Checks a table line by line against what is there now; writes nothing. */
export async function readTable(tx: Tx, kind: TableKind, content: string): Promise<TableRead> {
  const table = tableIn(content);
  if (typeof table === 'string') refuse(`table-${table}`);
  const found = checkedTable(kind, table, await knownTo(tx));
  if ('missing' in found) refuse('table-columns', { columns: found.missing.join(', ') });
  const { lines } = found;
  if (lines.length === 0) refuse('table-empty');
  const faults = lines.filter((line) => line.faults.length > 0).length;
  return { lines, faults, sign: hashOf(canonical(JSON.parse(JSON.stringify([kind, lines])))) };
}

/** What there is now as a table of the same columns: its heads first, then a row for each person, unit or member. */
export async function presentTable(tx: Tx, kind: TableKind): Promise<string[][]> {
  const { people, units, groups } = await knownTo(tx);
  const rows: Readonly<Record<string, string>>[] =
    kind === 'people'
      ? [...people.values()].filter((person) => person.kind === 'member')
      : kind === 'units'
        ? [...units.values()]
        : [...groups.values()].flatMap(({ name, members }) => members.map((member) => ({ name, member })));
  const columns = tableColumns[kind];
  return [
    columns.map(({ heads }) => heads[0] as string),
    ...rows.map((row) => columns.map(({ key }) => row[key] ?? '')),
  ];
}

async function knownTo(tx: Tx): Promise<Known> {
  const { sql, organization } = tx;
  const people = await sql<
    {
      id: string;
      email: string;
      name: string;
      work: string;
      unit: string;
      zone: string;
      calendar: string;
      kind: 'member' | 'outside';
    }[]
  >`
    select p.id, p.email, p.name, p.work, p.zone, p.kind, coalesce(u.name, '') as unit, coalesce(c.name, '') as calendar
    from person p
    left join unit u on u.organization = p.organization and u.id = p.unit
    left join calendar c on c.organization = p.organization and c.id = p.calendar
    where p.organization = ${organization} and p.state <> 'left' order by p.kind desc`;
  const byId = new Map(people.map((person) => [person.id, person.email.toLowerCase()]));
  const emailOf = (id: string | null) => (id === null ? '' : (byId.get(id) ?? ''));
  const named = <T extends { readonly name: string }>(rows: readonly T[]) =>
    new Map(rows.map((row) => [row.name.toLowerCase(), row]));
  return {
    people: new Map(people.map((person) => [person.email.toLowerCase(), person])),
    units: named(
      (await unitsOf(tx)).map(({ id, name, lead, deputy }) => ({
        id,
        name,
        lead: emailOf(lead),
        deputy: emailOf(deputy),
      })),
    ),
    calendars: named(await calendarsOf(tx)),
    groups: named((await groupsOf(tx)).map((group) => ({ ...group, members: group.members.map(emailOf) }))),
  };
}

/** Writes what a checked table says: all of it or nothing. Gives how many lines added or changed something. */
export async function importTable(
  tx: Tx,
  kind: TableKind,
  { lines }: TableRead,
  invite: boolean,
  actor: string,
): Promise<{ added: number; changed: number }> {
  const known = await knownTo(tx);
  const wanted = lines.filter((line) => line.does !== 'nothing');
  if (kind === 'people') for (const line of wanted) await importPerson(tx, line, known, invite, actor);
  if (kind === 'units') for (const line of wanted) await importUnit(tx, line, known, actor);
  if (kind === 'groups') await importGroups(tx, wanted, known, actor);
  notify(tx, 'people');
  notify(tx, 'settings');
  const count = (does: CheckedLine['does']) => lines.filter((line) => line.does === does).length;
  return { added: count('add'), changed: count('change') };
}

async function importPerson(tx: Tx, { values, does }: CheckedLine, known: Known, invite: boolean, actor: string) {
  const { name = '', work = '', unit = '', calendar = '', zone = '' } = values;
  const email = (values.email ?? '').toLowerCase();
  const there = known.people.get(email);
  let person = there?.id;
  if (does === 'add') {
    const home = zone || (await profileOf(tx)).zone;
    person = await addMember(tx, { name, email, work, zone: home, roles: [], state: 'invited' }, actor);
    if (invite) sendAccess(tx, person, 'invitation');
  } else if (person) {
    const found = (await personNamed(tx, person)) ?? refuse('unknown-person');
    await describePerson(tx, found, { name, ...(work ? { work } : {}), ...(zone ? { zone } : {}) }, actor);
  }
  if (!person || (!unit && !calendar)) return;
  const idOf = (map: ReadonlyMap<string, { readonly id: string }>, given: string, before: string) =>
    map.get((given || before).toLowerCase())?.id ?? null;
  await placePerson(
    tx,
    {
      person,
      unit: idOf(known.units, unit, there?.unit ?? ''),
      calendar: idOf(known.calendars, calendar, there?.calendar ?? ''),
    },
    actor,
  );
}

async function importUnit(tx: Tx, { values }: CheckedLine, known: Known, actor: string) {
  const { name = '', lead = '', deputy = '' } = values;
  const there = known.units.get(name.toLowerCase());
  const person = (given: string, before: string) => known.people.get((given || before).toLowerCase())?.id ?? null;
  await saveUnit(
    tx,
    {
      id: there?.id ?? newId(),
      name: there?.name ?? name,
      lead: person(lead, there?.lead ?? ''),
      deputy: person(deputy, there?.deputy ?? ''),
    },
    actor,
  );
}

async function importGroups(tx: Tx, lines: readonly CheckedLine[], known: Known, actor: string) {
  const groups = new Map<string, { name: string; members: string[] }>();
  for (const { values } of lines) {
    const { name = '', member = '' } = values;
    const key = name.toLowerCase();
    const there = known.groups.get(key);
    const group = groups.get(key) ?? { name: there?.name ?? name, members: [...(there?.members ?? [])] };
    group.members.push(member.toLowerCase());
    groups.set(key, group);
  }
  for (const [key, { name, members }] of groups) {
    const ids = members.flatMap((email) => known.people.get(email)?.id ?? []);
    await saveGroup(tx, { id: known.groups.get(key)?.id ?? newId(), name, members: ids }, actor);
  }
}
