import { bareContext, type Context, type PersonFacts } from '@/core/circulation/commands';
import type { Circulation } from '@/core/circulation/state';
import type { Tx } from '../db/connect';

/** The context of a command or a question: who acts and when, and the people that the state or the command names. */
export async function contextOf(
  tx: Tx,
  state: Circulation | null,
  actor: string,
  named: readonly string[] = [],
): Promise<Context> {
  const people = new Set(state ? [...named, state.author] : named);
  for (const decision of state?.decisions ?? []) people.add(decision.by);
  for (const seat of state?.seats.values() ?? []) for (const holder of seat.holders) people.add(holder.person);
  return { ...bareContext(tx.now, actor), people: await factsOfPeople(tx, [...people]) };
}

async function factsOfPeople(tx: Tx, ids: readonly string[]): Promise<ReadonlyMap<string, PersonFacts>> {
  if (ids.length === 0) return new Map();
  const rows = await tx.sql<{ id: string; outside: boolean; active: boolean; identity: string }[]>`
    select id, kind = 'outside' as outside, state <> 'left' as active, email as identity from person
    where organization = ${tx.organization} and id = any(${ids as string[]})`;
  return new Map(rows.map(({ id, ...facts }) => [id, facts]));
}
