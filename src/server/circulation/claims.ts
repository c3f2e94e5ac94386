import { type Action, involvedIn, type Subject } from '@/core/access/may';
import type { Circulation } from '@/core/circulation/state';
import type { Tx } from '../db/connect';
import type { Claim } from '../operations/operation';
import { membersAmong } from '../organization/groups';
import { leadsOf } from '../organization/units';
import { circulationState } from './load';

/** A circulation as the table of rights sees it. */
export async function circulationSubject(
  tx: Tx,
  id: string,
  state: Circulation,
): Promise<Extract<Subject, { kind: 'circulation' }>> {
  const { controller, author } = state;
  // Whoever belongs to a group that is asked is asked.
  const involved = await membersAmong(tx, involvedIn(state));
  return { kind: 'circulation', id, controller, author, involved, leads: await leadsOf(tx, state.records[0] ?? '') };
}

/** The claim of an operation on one circulation. */
export function onCirculation(action: Action) {
  return (tx: Tx, input: { readonly circulation: string }): Promise<Claim | null> =>
    claimOn(tx, input.circulation, action);
}

export async function claimOn(tx: Tx, circulation: string, action: Action): Promise<Claim | null> {
  const state = await circulationState(tx, circulation);
  return state && { action, subject: await circulationSubject(tx, circulation, state) };
}
