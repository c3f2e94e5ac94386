import type { AdministrationEvent } from '@/core/people/events';
import type { Tx } from '../db/connect';
import { append, readStream } from '../events/streams';

export const administrationStream = 'administration';

type Happening = {
  [T in AdministrationEvent['type']]: Pick<Extract<AdministrationEvent, { type: T }>, 'type' | 'data'>;
};

/** Records what was done to people or document types. Nothing is folded: who asks reads the tables beside it. */
export async function recordAdministration(
  tx: Tx,
  happening: Happening[keyof Happening],
  actor: string,
): Promise<void> {
  const stream = await readStream<{ last: number }, AdministrationEvent>(tx, administrationStream, (events, from) =>
    [...events].reduce((state, { at }) => ({ last: Math.max(state?.last ?? 0, at) }), from),
  );
  const at = Math.max(tx.now, stream.state?.last ?? 0);
  append(tx, stream, [{ ...happening, at, actor, onBehalfOf: null } as AdministrationEvent], { last: at });
}
