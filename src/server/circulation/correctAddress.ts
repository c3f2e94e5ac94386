import type { Command } from '@/core/circulation/acts/commands';
import { baseHolder } from '@/core/circulation/run/state';
import { outsideByAddress, personNamed } from '../admin/people';
import type { Tx } from '../db/connect';
import { putPayload } from '../events/payloads';
import { refuse } from '../refused';
import { circulationState } from './load';

/** The command that puts somebody outside at their right address; both addresses are kept as words that can be erased. */
export async function correctingAddress(
  tx: Tx,
  { circulation, seat, email }: { readonly circulation: string; readonly seat: string; readonly email: string },
): Promise<Command> {
  const run = (await circulationState(tx, circulation))?.seats.get(seat);
  const holder = run && baseHolder(run);
  const person = holder && (await personNamed(tx, holder.person));
  if (!person) refuse('unknown-person');
  const { name, work, company, zone } = person;
  const { person: to } = await outsideByAddress(tx, { name, email, work, company, zone });
  return { type: 'correctAddress', seat, to, note: putPayload(tx, `${person.email} → ${email}`) };
}
