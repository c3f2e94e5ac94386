import { baseHolder } from '@/core/circulation/run/state';
import { keptLink, linkAddress, linkFor } from '../auth/links';
import type { Tx } from '../db/connect';
import { refuse } from '../refused';
import { act } from './act';
import { circulationState } from './load';

/** Says that the controller copies the link of a seat, and sees to it that there is one: what asks for it only reads. */
export async function copyLink(tx: Tx, circulation: string, seat: string, actor: string): Promise<void> {
  await act(tx, circulation, { type: 'copyLink', seat }, actor);
  const run = (await circulationState(tx, circulation))?.seats.get(seat);
  if (run) await linkFor(tx, circulation, seat, run.epoch);
}

/**
 * The address of an outside person's link, for its controller to hand on: only after an event has said that the
 * controller copied it, so that trail and evidence know that they had it too. It is derived here and stands nowhere,
 * not even in the answer to a command, which would be kept.
 */
export async function copiedLink(tx: Tx, circulation: string, seat: string): Promise<{ address: string; to: string }> {
  const run = (await circulationState(tx, circulation))?.seats.get(seat);
  const holder = run && baseHolder(run);
  if (!run || !holder || run.linkCopied !== run.epoch) refuse('not-found');
  const link = (await keptLink(tx, circulation, seat, run.epoch)) ?? refuse('not-found');
  return { address: linkAddress(tx.organization, link), to: holder.person };
}
