import { type Series, seatsOf } from '@/core/route/route';
import { needPeople } from '../admin/people';
import type { Tx } from '../db/connect';
import { noteIn, payloads, putPayloadIfAny } from '../events/payloads';
import { act } from './act';
import { circulationState } from './load';

/** Plans the route of a circulation and the sender's note to everybody asked. */
export async function planRoute(
  tx: Tx,
  circulation: string,
  input: { readonly route: Series; readonly note: string | null },
  person: string,
): Promise<void> {
  await needPeople(
    tx,
    seatsOf(input.route).map(({ seat }) => seat.assignment),
  );
  // The same note again is not kept a second time.
  const state = await circulationState(tx, circulation);
  const before = state?.note ? noteIn(await payloads(tx, [state.note]), state.note) : null;
  const note = state?.note && before === input.note?.trim() ? state.note : putPayloadIfAny(tx, input.note);
  await act(tx, circulation, { type: 'plan', plan: input.route, note }, person);
}
