import type { Spot } from '@/core/circulation/run/shapes';
import type { Tx } from '../db/connect';
import { noteIn, type Payloads, putPayloadIfAny } from '../events/payloads';
import type { SpotGiven } from '../operations/pieces';

/** A spot as it is recorded: the words that were selected are kept beside the event. */
export function keptSpot(tx: Tx, given: SpotGiven | null): Spot | null {
  if (!given) return null;
  const { quote, ...spot } = given;
  const kept = putPayloadIfAny(tx, quote);
  return kept ? { ...spot, quote: kept } : spot;
}

/** A spot as it is shown, with its words. */
export function shownSpot(found: Payloads, spot: Spot | null): SpotGiven | null {
  if (!spot) return null;
  const { quote, ...where } = spot;
  const words = noteIn(found, quote);
  return words === null ? where : { ...where, quote: words };
}
