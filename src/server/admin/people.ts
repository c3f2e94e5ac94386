import type { Role } from '@/core/access/may';
import { emailKey } from '../auth/sessions';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { newId } from '../random';
import { refuse } from '../refused';

export interface Person {
  readonly id: string;
  readonly kind: 'member' | 'outside';
  readonly name: string;
  /** Two letters. */
  readonly tile: string;
  readonly email: string;
  readonly work: string;
  readonly company: string;
  readonly zone: string;
  /** The unit they belong to, and their own working calendar; null for none, and for the usual one. */
  readonly unit: string | null;
  readonly calendar: string | null;
  readonly roles: readonly Role[];
  readonly state: 'active' | 'invited' | 'left';
  /** For administrators: their invitation could not be delivered so far. */
  readonly unreached?: true;
}

/** People as they are read, with nothing of how they sign in. */
export const peopleRows = table<Omit<Person, 'unreached'>>('person', {
  id: 'value',
  kind: 'value',
  name: 'value',
  tile: 'value',
  email: 'value',
  work: 'value',
  company: 'value',
  zone: 'value',
  unit: 'value',
  calendar: 'value',
  roles: 'value',
  state: 'value',
});

export async function personNamed(tx: Tx, id: string): Promise<Person | null> {
  return (await peopleNamed(tx, [id])).get(id) ?? null;
}

/** The people of these ids, by id. */
export async function peopleNamed(tx: Tx, ids: Iterable<string>): Promise<ReadonlyMap<string, Person>> {
  const wanted = [...new Set(ids)];
  if (wanted.length === 0) return new Map();
  const rows = await tx.sql<Person[]>`
    select ${peopleRows.list(tx, 'p')} from person p
    where organization = ${tx.organization} and id = any(${wanted})`;
  return new Map(rows.map((row) => [row.id, row]));
}

/** Whoever stands under ids where people are named: people, and the groups that have a task, called by their names. */
export async function allNamed(tx: Tx, ids: readonly string[]): Promise<Person[]> {
  const groups = ids.filter((id) => id.startsWith('group:'));
  const found = await peopleNamed(tx, ids);
  if (groups.length === 0) return [...found.values()];
  const rows = await tx.sql<{ id: string; name: string }[]>`
    select 'group:' || id as id, name from asked_group
    where organization = ${tx.organization} and 'group:' || id = any(${groups})`;
  return [...found.values(), ...rows.map(groupAsPerson)];
}

function groupAsPerson({ id, name }: { readonly id: string; readonly name: string }): Person {
  const nothing = { email: '', work: '', company: '', zone: 'UTC', unit: null, calendar: null, roles: [] };
  return { id, kind: 'member', name, tile: tileOf(name), state: 'active', ...nothing };
}

/** Checks that people exist, are of the wanted kind and still here. */
export async function needPeople(
  tx: Tx,
  wanted: readonly { readonly person: string; readonly kind: 'person' | 'outside' }[],
  /** Whether somebody may have left: the engine says where that matters. */
  { left = false }: { readonly left?: boolean } = {},
): Promise<void> {
  const found = await peopleNamed(
    tx,
    wanted.map((who) => who.person),
  );
  for (const who of wanted) {
    const person = found.get(who.person);
    if (!person || (who.kind === 'outside') !== (person.kind === 'outside')) refuse('unknown-person');
    if (person.state === 'left' && !left) refuse('person-left');
  }
}

/** The two letters of a name's tile: its first and last word's initials. */
export function tileOf(name: string): string {
  const words = name.trim().split(/\s+/).filter(Boolean);
  const first = [...(words[0] ?? '?')][0] ?? '?';
  const last =
    words.length > 1 ? ([...(words[words.length - 1] as string)][0] ?? '') : ([...(words[0] ?? '')][1] ?? '');
  return `${first}${last}`.toUpperCase();
}

/**
 * Somebody outside by their address: the same address is the same person, and whoever sends to them first gives the name,
 * so that the sender sees which that is.
 */
export async function outsideByAddress(
  tx: Tx,
  given: { name: string; email: string; work: string; company: string; zone: string },
): Promise<{ person: string; name: string; known: boolean }> {
  const [known] = await tx.sql<{ id: string; name: string }[]>`
    select id, name from person where organization = ${tx.organization} and email = ${given.email} and kind = 'outside'`;
  if (known) return { person: known.id, name: known.name, known: true };
  const person = await addPerson(tx, { ...given, kind: 'outside', roles: [], state: 'active' });
  notify(tx, 'people');
  return { person, name: given.name, known: false };
}

/** Adds a person; a member's address also lets them sign in. */
export async function addPerson(
  tx: Tx,
  person: {
    id?: string;
    kind: 'member' | 'outside';
    name: string;
    email: string;
    work: string;
    company: string;
    zone: string;
    roles: readonly Role[];
    state: 'active' | 'invited';
    password?: string | null;
  },
): Promise<string> {
  const given = person.id ?? newId();
  const [added] = await tx.sql`
    insert into person (organization, id, kind, name, tile, email, work, company, zone, roles, password, state, created)
    values (${tx.organization}, ${given}, ${person.kind}, ${person.name}, ${tileOf(person.name)}, ${person.email}, ${person.work},
            ${person.company}, ${person.zone}, ${person.roles as string[]}, ${person.password ?? null}, ${person.state}, ${tx.now})
    on conflict (organization, email, kind) do nothing returning id`;
  if (!added) refuse('address-taken');
  if (person.kind === 'member')
    sendWrite(
      tx.sql`insert into sign_in_address (address, organization) values (${emailKey(person.email)}, ${tx.organization}) on conflict do nothing`,
    );
  return given;
}
