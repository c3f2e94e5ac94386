import { allowed, offers } from '@/core/circulation/acts/offers';
import { dueOf } from '@/core/circulation/run/state';
import type { Tx } from '../db/connect';
import { refuse } from '../refused';
import { act } from './act';
import { contextOf } from './context';
import { circulationState } from './load';

/** Reminds everybody who is late and has not been reminded just now. Gives whom it reminded. */
export async function remindLate(tx: Tx, circulation: string, person: string): Promise<{ reminded: string[] }> {
  const state = await circulationState(tx, circulation);
  if (!state) refuse('not-found');
  const late = allowed(offers(state, await contextOf(tx, state, person))).flatMap(({ act: offered, on }) => {
    const seat = offered === 'remind' ? state.seats.get(on ?? '') : undefined;
    const due = seat ? dueOf(state, seat) : null;
    return seat && due !== null && due < tx.now ? [seat] : [];
  });
  if (late.length === 0) refuse('nobody-late');
  for (const seat of late) await act(tx, circulation, { type: 'remind', seat: seat.id }, person);
  return { reminded: late.map((seat) => seat.holders[0]?.person ?? '') };
}
