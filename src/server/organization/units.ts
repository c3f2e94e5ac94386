import { unitGroup } from '@/core/route/route';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { recordChange } from './changes';
import { groupsNamed, needMembers, needNoTasks } from './groups';

export interface Unit {
  readonly id: string;
  readonly name: string;
  readonly lead: string | null;
  readonly deputy: string | null;
}

/** The units of an organization by name, each with how many people belong to it. */
export async function unitsOf({ sql, organization }: Tx): Promise<(Unit & { people: number })[]> {
  return sql<(Unit & { people: number })[]>`
    select u.id, u.name, u.lead, u.deputy, count(p.id)::int as people
    from unit u left join person p on p.organization = u.organization and p.unit = u.id and p.state <> 'left'
    where u.organization = ${organization} group by u.organization, u.id order by lower(u.name), u.id`;
}

export async function unitNamed({ sql, organization }: Tx, id: string): Promise<Unit | null> {
  const [unit] = await sql<Unit[]>`
    select id, name, lead, deputy from unit where organization = ${organization} and id = ${id}`;
  return unit ?? null;
}

/** A unit that has to be there. */
export async function needUnit(tx: Tx, id: string): Promise<Unit> {
  return (await unitNamed(tx, id)) ?? refuse('unknown-unit');
}

/** Who belongs to each of some units, by name, those who have left not among them. */
export async function peopleOfUnits(
  tx: Tx,
  ids: readonly string[],
): Promise<Readonly<Record<string, readonly string[]>>> {
  const groups = await groupsNamed(tx, ids.map(unitGroup));
  return Object.fromEntries(ids.map((id) => [id, groups.get(unitGroup(id))?.members ?? []]));
}

/** Who sees and steers what concerns a record because they lead its unit: nobody unless the rule is on. */
export async function leadsOf({ sql, organization }: Tx, record: string): Promise<string[]> {
  const [row] = await sql<{ lead: string | null; deputy: string | null }[]>`
    select u.lead, u.deputy from profile f
    join record_unit u on u.organization = f.organization and u.record = ${record}
    where f.organization = ${organization} and f.rules @> array['leadsSteer']`;
  return [row?.lead, row?.deputy].filter((person) => person !== null && person !== undefined);
}

export async function saveUnit(tx: Tx, unit: Unit, actor: string): Promise<void> {
  const { sql, organization } = tx;
  const all = await unitsOf(tx);
  const found = all.find((one) => one.id === unit.id);
  const before = found ? { id: found.id, name: found.name, lead: found.lead, deputy: found.deputy } : null;
  if (all.some((one) => one.id !== unit.id && one.name.toLowerCase() === unit.name.toLowerCase())) refuse('name-taken');
  if (unit.lead !== null && unit.lead === unit.deputy) refuse('deputy-is-lead');
  await needMembers(tx, [unit.lead, unit.deputy]);
  const { name, lead, deputy } = unit;
  sendWrite(sql`
    insert into unit (organization, id, name, lead, deputy) values (${organization}, ${unit.id}, ${name}, ${lead}, ${deputy})
    on conflict (organization, id) do update set name = ${name}, lead = ${lead}, deputy = ${deputy}`);
  await recordChange(tx, 'unit', unit.id, before, unit, actor);
  notify(tx, 'settings');
}

/** Removes a unit; its people belong to none. */
export async function removeUnit(tx: Tx, id: string, actor: string): Promise<void> {
  const before = await needUnit(tx, id);
  await needNoTasks(tx, unitGroup(id), 'unit-in-use');
  const [theirs] = await tx.sql`
    select from register where organization = ${tx.organization} and unit = ${id} limit 1`;
  if (theirs) refuse('unit-has-documents');
  sendWrite(tx.sql`update person set unit = null where organization = ${tx.organization} and unit = ${id}`);
  sendWrite(tx.sql`delete from unit where organization = ${tx.organization} and id = ${id}`);
  await recordChange(tx, 'unit', id, before, null, actor);
  notify(tx, 'settings');
  notify(tx, 'people');
}
