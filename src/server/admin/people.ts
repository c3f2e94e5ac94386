import type { Role } from '@/core/access/may';
import type { Tx } from '../db/connect';
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
  readonly roles: readonly Role[];
  readonly state: 'active' | 'invited' | 'left';
  /** For administrators: their invitation could not be delivered so far. */
  readonly unreached?: true;
}

export async function everybody(tx: Tx): Promise<Person[]> {
  return tx.sql<Person[]>`
    select id, kind, name, tile, email, work, company, zone, roles, state from person
    where organization = ${tx.organization} order by kind, name`;
}

export async function personNamed(tx: Tx, id: string): Promise<Person | null> {
  const [row] = await tx.sql<Person[]>`
    select id, kind, name, tile, email, work, company, zone, roles, state from person
    where organization = ${tx.organization} and id = ${id}`;
  return row ?? null;
}

/** Checks that people exist, are of the wanted kind and still here. */
export async function needPeople(
  tx: Tx,
  wanted: readonly { readonly person: string; readonly kind: 'person' | 'outside' }[],
): Promise<void> {
  if (wanted.length === 0) return;
  const ids = [...new Set(wanted.map((who) => who.person))];
  const rows = await tx.sql<{ id: string; kind: Person['kind']; state: Person['state'] }[]>`
    select id, kind, state from person where organization = ${tx.organization} and id = any(${ids})`;
  const found = new Map(rows.map((row) => [row.id, row]));
  for (const who of wanted) {
    const person = found.get(who.person);
    if (!person || (who.kind === 'outside') !== (person.kind === 'outside')) refuse('unknown-person');
    if (person.state === 'left') refuse('person-left');
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
