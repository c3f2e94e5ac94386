import type { Field } from '../page/fields';
import type { Instant, Series, Who } from '../route/route';
import type { Filled, Outcome, PayloadHash, Spot, Times, Version } from './events';

/** Everything a decision depends on besides the state. */
export interface Context {
  /** Whole milliseconds; a stream never runs backwards, so an earlier instant counts as the stream's last. */
  readonly now: number;
  /** A person's id, or `system` for timers and derived files. */
  readonly actor: string;
}

/**
 * What can be asked of a circulation. Commands on a seat carry the epoch and the content hash they were made on,
 * so that a command from an old page or an old link dies instead of deciding on something else.
 */
export type Command =
  | {
      readonly type: 'create';
      /** What the circulation is called by, unique in its organization. */
      readonly number: string;
      readonly record: string;
      readonly change: string;
      readonly controller: string;
      readonly author: string;
      readonly route: Series;
    }
  | { readonly type: 'plan'; readonly route: Series; readonly note: PayloadHash | null }
  | { readonly type: 'putFields'; readonly file: string; readonly fields: readonly Field[] }
  | { readonly type: 'attach'; readonly version: Version }
  | { readonly type: 'send' }
  | { readonly type: 'see'; readonly seat: string; readonly epoch: number; readonly scope: string }
  | {
      readonly type: 'decide';
      readonly seat: string;
      readonly epoch: number;
      readonly scope: string;
      readonly outcome: Outcome;
      readonly note: PayloadHash | null;
      readonly filled: readonly Filled[];
      readonly evidence: PayloadHash | null;
    }
  | {
      readonly type: 'comment';
      readonly comment: string;
      readonly thread: string | null;
      readonly file: string;
      readonly spot: Spot | null;
      readonly note: PayloadHash;
    }
  | { readonly type: 'resolveComment'; readonly comment: string }
  | { readonly type: 'proposeRound' }
  | {
      readonly type: 'confirmRound';
      readonly revision: number;
      readonly version: number;
      readonly decisions: number;
      /** Seats whose decisions are kept; every other seat is asked. */
      readonly keep: readonly string[];
      readonly times: readonly Times[];
    }
  | { readonly type: 'extend'; readonly seat: string; readonly due: Instant | null; readonly closes: Instant | null }
  | { readonly type: 'remind'; readonly seat: string }
  | {
      readonly type: 'delegate';
      readonly seat: string;
      readonly epoch: number;
      readonly to: string;
      readonly note: PayloadHash | null;
    }
  | {
      readonly type: 'reassign';
      readonly seat: string;
      readonly to: Who;
      readonly due: Instant | null;
      readonly closes: Instant | null;
      readonly note: PayloadHash | null;
    }
  | { readonly type: 'addSecondHolder'; readonly seat: string; readonly person: string }
  | { readonly type: 'dropSecondHolder'; readonly seat: string; readonly person: string }
  | { readonly type: 'withdraw'; readonly note: PayloadHash }
  | { readonly type: 'keepFinal'; readonly file: string; readonly identifier: string }
  | { readonly type: 'complete'; readonly revision: string; readonly effective: Instant }
  /** A timer's: only catches up with what is due. */
  | { readonly type: 'wake' };
