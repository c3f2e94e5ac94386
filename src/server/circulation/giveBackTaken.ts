import { system } from '@/core/circulation/run/events';
import type { Tx } from '../db/connect';
import { act } from './act';
import { circulationState } from './load';

/**
 * Lets every circulation catch up in which a person has taken a task of a group, or of any group where none is named, to
 * which they belong no longer: the task goes back to its group, at once or when a pause ends.
 */
export async function giveBackTaken(tx: Tx, person: string, group: string | null): Promise<void> {
  const rows = await tx.sql<{ circulation: string; seat: string }[]>`
    select c.id as circulation, t.seat from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    where t.organization = ${tx.organization} and t.person = ${person} and t.seat <> '' order by c.id, t.seat`;
  for (const { circulation, seat: id } of rows) {
    const seat = (await circulationState(tx, circulation))?.seats.get(id);
    const taken = seat?.holders.some((holder) => holder.via === 'taken' && holder.person === person);
    if (seat && taken && seat.group !== null && (group === null || seat.group === group))
      await act(tx, circulation, { type: 'wake' }, system);
  }
}
