import type { Action, Actor } from '@/core/access/may';
import { involvedIn } from '@/core/access/may';
import type { Tx } from '../db/connect';
import type { Claim } from '../operations/operation';
import { circulationState } from './load';

/** The claim of an operation on one circulation. */
export function onCirculation<I extends { readonly circulation: string }>(action: Action) {
  return async (tx: Tx, _actor: Actor, input: I): Promise<Claim | null> => claimOn(tx, input.circulation, action);
}

export async function claimOn(tx: Tx, circulation: string, action: Action): Promise<Claim | null> {
  const state = await circulationState(tx, circulation);
  if (!state) return null;
  return {
    action,
    subject: {
      kind: 'circulation',
      id: circulation,
      controller: state.controller,
      author: state.author,
      involved: involvedIn(state),
    },
  };
}

/** The claim of an operation that looks at or changes what belongs to the whole organization. */
export function inGeneral(action: Action) {
  return (): Claim => ({ action, subject: { kind: 'organization' } });
}
