import type { Needs } from '@/core/circulation/acts/act';
import type { Act } from '@/core/circulation/acts/commands';

/** What a member may do with a circulation, as its view says it. */
interface Offered {
  readonly offers: readonly { readonly act: Act; readonly on?: string | null; readonly needs: Needs }[];
}

/** What an offered act needs, or null when it is not offered. `on` is the seat, stage, file or comment it is done to. */
export function needsOf({ offers }: Offered, act: Act, on: string | null = null): Needs | null {
  return offers.find((offer) => offer.act === act && (offer.on ?? null) === on)?.needs ?? null;
}

/** Whether an act is offered. */
export function may(view: Offered, act: Act, on: string | null = null): boolean {
  return needsOf(view, act, on) !== null;
}
