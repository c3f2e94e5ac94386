import { baseHolder } from '@/core/circulation/run/state';
import { linkAddress, linkFor } from '../auth/links';
import type { Tx } from '../db/connect';
import { refuse } from '../refused';
import { circulationState } from './load';

/**
 * The address of an outside person's link, for its controller to hand on: only after an event has said that the
 * controller copied it, so that trail and evidence know that they had it too. It is derived here and stands nowhere,
 * not even in the answer to a command, which would be kept.
 */
export async function copiedLink(tx: Tx, circulation: string, seat: string): Promise<{ address: string; to: string }> {
  const run = (await circulationState(tx, circulation))?.seats.get(seat);
  const holder = run && baseHolder(run);
  if (!run || !holder || run.linkCopied !== run.epoch) refuse('not-found');
  const link = await linkFor(tx, circulation, seat, run.epoch);
  return { address: linkAddress(tx.organization, link), to: holder.person };
}
