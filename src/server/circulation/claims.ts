import { type Action, involvedIn, type Subject } from '@/core/access/may';
import type { Circulation } from '@/core/circulation/state';
import type { Tx } from '../db/connect';
import type { Claim } from '../operations/operation';
import { circulationState } from './load';

/** A circulation as the table of rights sees it. */
export function circulationSubject(id: string, state: Circulation): Extract<Subject, { kind: 'circulation' }> {
  const { controller, author } = state;
  return { kind: 'circulation', id, controller, author, involved: involvedIn(state) };
}

/** The claim of an operation on one circulation. */
export function onCirculation(action: Action) {
  return (tx: Tx, input: { readonly circulation: string }): Promise<Claim | null> =>
    claimOn(tx, input.circulation, action);
}

export async function claimOn(tx: Tx, circulation: string, action: Action): Promise<Claim | null> {
  const state = await circulationState(tx, circulation);
  return state && { action, subject: circulationSubject(circulation, state) };
}
