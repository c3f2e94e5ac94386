import type { Context } from '@/core/circulation/run/context';
import type { Circulation } from '@/core/circulation/run/state';
import { unitLead } from '@/core/route/route';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { recordChange } from './changes';
import { needHere } from './groups';
import type { Unit } from './units';

/** A role that an organization defines, and who fills it, a member or somebody outside. Called an office where it would be taken for a right. */
export interface Office {
  readonly id: string;
  readonly name: string;
  readonly person: string | null;
}

export async function officesOf({ sql, organization }: Tx): Promise<Office[]> {
  return sql<
    Office[]
  >`select id, name, person from office where organization = ${organization} order by lower(name), id`;
}

/** What roles that follow from the document are called. */
const documentRoleNames = {
  owner: 'owner of the document',
  author: 'author',
  unitLead: 'lead of the author’s unit',
  custodian: 'custodian of the document type',
} as const;

/**
 * Who fills each role for a circulation: those that follow from its document, and those that the organization defines. The
 * deputy leads a unit whose lead has left or wrote the document.
 */
export async function rolesFor(tx: Tx, { author, records }: Circulation): Promise<Context['roles']> {
  const { sql, organization } = tx;
  const [row] = await sql<{ owner: string | null; custodian: string | null; unit: string | null }[]>`
    select r.owner, t.custodian, a.unit from person a
    left join register r on r.organization = a.organization and r.record = ${records[0] ?? ''}
    left join document_type t on t.organization = a.organization and t.code = r.document_type
    where a.organization = ${organization} and a.id = ${author}`;
  const units = await leadsHere(tx);
  const own = units.find(({ id }) => id === row?.unit);
  const roles = new Map<string, { name: string; person: string | null }>([
    ['owner', { name: documentRoleNames.owner, person: row?.owner ?? null }],
    ['author', { name: documentRoleNames.author, person: author }],
    ['unitLead', { name: documentRoleNames.unitLead, person: own ? leading(own, author) : null }],
    ['custodian', { name: documentRoleNames.custodian, person: row?.custodian ?? null }],
  ]);
  for (const { id, name, person } of await officesOf(tx)) roles.set(id, { name, person });
  for (const unit of units)
    roles.set(unitLead(unit.id), { name: `lead of ${unit.name}`, person: leading(unit, author) });
  return roles;
}

/** Who leads a unit for a document: its deputy where its lead is not here or wrote it. */
function leading({ lead, deputy }: Pick<Unit, 'lead' | 'deputy'>, author: string): string | null {
  return lead && lead !== author ? lead : (deputy ?? lead);
}

/** The units by id, with leads and deputies who are here. */
async function leadsHere({ sql, organization }: Tx) {
  return sql<Unit[]>`
    select u.id, u.name, l.id as lead, d.id as deputy from unit u
    left join person l on l.organization = u.organization and l.id = u.lead and l.state <> 'left'
    left join person d on d.organization = u.organization and d.id = u.deputy and d.state <> 'left'
    where u.organization = ${organization}`;
}

export async function saveOffice(tx: Tx, office: Office, actor: string): Promise<void> {
  const { sql, organization } = tx;
  if (office.id in documentRoleNames) refuse('name-taken');
  const all = await officesOf(tx);
  const before = all.find((one) => one.id === office.id) ?? null;
  const others = [
    ...all.filter((one) => one.id !== office.id).map(({ name }) => name),
    ...Object.values(documentRoleNames),
  ];
  if (others.some((name) => name.toLowerCase() === office.name.toLowerCase())) refuse('name-taken');
  await needHere(tx, [office.person]);
  sendWrite(sql`
    insert into office (organization, id, name, person) values (${organization}, ${office.id}, ${office.name}, ${office.person})
    on conflict (organization, id) do update set name = ${office.name}, person = ${office.person}`);
  await recordChange(tx, 'role', office.id, before, office, actor);
  notify(tx, 'settings');
}

/** Removes a role. Routes that name it say so before they are sent; what was sent has its person. */
export async function removeOffice(tx: Tx, id: string, actor: string): Promise<void> {
  const before = (await officesOf(tx)).find((one) => one.id === id) ?? refuse('unknown-role');
  sendWrite(tx.sql`delete from office where organization = ${tx.organization} and id = ${id}`);
  await recordChange(tx, 'role', id, before, null, actor);
  notify(tx, 'settings');
}
