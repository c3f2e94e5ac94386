import { groupTasks } from '@/core/circulation/telling/tasks';
import { unitGroup } from '@/core/route/route';
import { needPeople, type Person, peopleNamed } from '../admin/people';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { recordChange } from './changes';

export interface Group {
  readonly id: string;
  readonly name: string;
  /** Members' ids, those who have left not among them. */
  readonly members: readonly string[];
}

/** Every group of an organization by name, each with the members who are still here. */
export async function groupsOf(tx: Tx): Promise<Group[]> {
  const { sql, organization } = tx;
  return sql<Group[]>`
    select id, name, members from asked_group
    where organization = ${organization} and not starts_with(id, ${unitGroup('')}) order by lower(name), id`;
}

/** The groups of these ids, those that are a unit's people too, by id. */
export async function groupsNamed(
  { sql, organization }: Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, Group>> {
  if (ids.length === 0) return new Map();
  const rows = await sql<Group[]>`
    select id, name, members from asked_group where organization = ${organization} and id = any(${ids as string[]})`;
  return new Map(rows.map((group) => [group.id, group]));
}

/** The keys under which a person's tasks stand: their own, and those of their groups and their unit. */
export async function taskKeysOf(tx: Tx, person: string): Promise<string[]> {
  const rows = await tx.sql<{ key: string }[]>`${keysOfGroups(tx, person)}`;
  return [person, ...rows.map(({ key }) => key)];
}

/** Those of their groups and their unit for which anything waits. */
export async function waitingKeysOf(tx: Tx, person: string): Promise<string[]> {
  const rows = await tx.sql<{ key: string }[]>`
    select asked.key from (${keysOfGroups(tx, person)}) asked
    where exists (select from task t where t.organization = ${tx.organization} and t.person = asked.key)`;
  return rows.map(({ key }) => key);
}

function keysOfGroups({ sql, organization }: Tx, person: string) {
  return sql`
    select ${groupTasks('')} || id as key from people_group
    where organization = ${organization} and members @> array[${person}]
    union all
    select ${groupTasks(unitGroup(''))} || unit from person
    where organization = ${organization} and id = ${person} and kind = 'member' and unit is not null`;
}

/** People and groups (`group:` and an id) as people: every member of each group. */
export async function membersAmong(tx: Tx, involved: readonly string[]): Promise<string[]> {
  const groups = involved.filter((one) => one.startsWith('group:'));
  if (groups.length === 0) return [...involved];
  const found = await groupsNamed(
    tx,
    groups.map((one) => one.slice('group:'.length)),
  );
  const members = [...found.values()].flatMap((group) => group.members);
  return [...new Set([...involved.filter((one) => !groups.includes(one)), ...members])];
}

/** Adds a group or changes its name and members; members only, each once. Gives who belonged to it and does no longer. */
export async function saveGroup(tx: Tx, group: Group, actor: string): Promise<{ left: string[] }> {
  const { sql, organization } = tx;
  const all = await groupsOf(tx);
  const before = all.find((one) => one.id === group.id) ?? null;
  if (all.some((one) => one.id !== group.id && one.name.toLowerCase() === group.name.toLowerCase()))
    refuse('name-taken');
  const members = [...new Set(group.members)];
  await needPeople(
    tx,
    members.map((person) => ({ person, kind: 'person' as const })),
  );
  sendWrite(sql`
    insert into people_group (organization, id, name, members)
    values (${organization}, ${group.id}, ${group.name}, ${members})
    on conflict (organization, id) do update set name = ${group.name}, members = ${members}`);
  await recordChange(tx, 'group', group.id, before, { ...group, members }, actor);
  notify(tx, 'settings');
  await tellOfTasks(tx, group.id, [...members, ...(before?.members ?? [])]);
  return { left: before?.members.filter((person) => !members.includes(person)) ?? [] };
}

/** Removes a group that nobody waits for. */
export async function removeGroup(tx: Tx, id: string, actor: string): Promise<void> {
  const { sql, organization } = tx;
  const before = (await groupsNamed(tx, [id])).get(id) ?? refuse('unknown-group');
  await needNoTasks(tx, id, 'group-in-use');
  sendWrite(sql`delete from people_group where organization = ${organization} and id = ${id}`);
  await recordChange(tx, 'group', id, before, null, actor);
  notify(tx, 'settings');
}

/** Refuses to go on while something waits for any one of a group. */
export async function needNoTasks(tx: Tx, group: string, code: 'group-in-use' | 'unit-in-use'): Promise<void> {
  const [open] = await tx.sql`
    select from task where organization = ${tx.organization} and person = ${groupTasks(group)} limit 1`;
  if (open) refuse(code);
}

/** The circulations in which something waits for a person or a group, by the key of their tasks. */
export async function circulationsWaiting(tx: Tx, key: string): Promise<string[]> {
  const rows = await tx.sql<{ id: string }[]>`
    select distinct c.id from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    where t.organization = ${tx.organization} and t.person = ${key}`;
  return rows.map(({ id }) => id);
}

/** Whoever joins a group finds its tasks, and whoever leaves it finds them gone. */
export async function tellOfTasks(tx: Tx, group: string, people: readonly string[]): Promise<void> {
  for (const circulation of await circulationsWaiting(tx, groupTasks(group)))
    notify(tx, 'circulation', circulation, people);
}

/** People by id who are members and still here: whoever else a group or a unit names is refused. */
export async function needMembers(tx: Tx, people: readonly (string | null)[]): Promise<void> {
  const found = await needHere(tx, people);
  if (found.some(({ kind }) => kind !== 'member')) refuse('unknown-person');
}

/** People by id who are still here, members or outside. */
export async function needHere(tx: Tx, people: readonly (string | null)[]): Promise<Person[]> {
  const wanted = people.filter((person) => person !== null);
  const found = await peopleNamed(tx, wanted);
  return wanted.map((person) => {
    const one = found.get(person) ?? refuse('unknown-person');
    return one.state === 'left' ? refuse('person-left') : one;
  });
}
