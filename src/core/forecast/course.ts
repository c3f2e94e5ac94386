import type { Rule } from '../route/tally';
import type { Ticks } from './ticks';

/**
 * What is left of a circulation, as a forecast sees it: who is still to respond in which order, with how long each may take.
 * Made of values alone, without anybody's name, so that it can be sent to where it is computed.
 */
export interface Course {
  readonly legs: Leg;
  /** What rework takes the author; and what is left of it where it is under way. */
  readonly rework: Chance;
  readonly reworking: Chance | null;
  /** In how many rounds from now on somebody may send it back; after them nobody does, so that every run ends. */
  readonly rounds: number;
  /** What the release takes the controller; nothing where it releases itself. */
  readonly release: Chance | null;
  /** How often, in a thousand, an earlier decision is kept in a next round. */
  readonly kept: number;
}

/** How long something may still take somebody: quantiles in quarter hours of their own working time. */
export interface Chance {
  readonly key: number;
  readonly table: Int32Array;
  readonly ticks: Ticks;
}

export type Leg = SpanLeg | SeriesLeg | ParallelLeg;

/** A part that takes part only so often, in a thousand: its condition hangs on what is not known yet. */
interface Perhaps {
  readonly key: number;
  readonly odds: number;
}

export interface SeriesLeg {
  readonly kind: 'series';
  readonly parts: readonly (Leg & { readonly perhaps?: Perhaps })[];
}

export interface ParallelLeg {
  readonly kind: 'parallel';
  readonly join: Rule;
  readonly branches: readonly (SeriesLeg & { readonly perhaps?: Perhaps })[];
}

/** One stage. */
export interface SpanLeg {
  readonly kind: 'stage';
  readonly id: string;
  /** How many have to respond; those who have count. */
  readonly needed: number;
  readonly oneByOne: boolean;
  readonly gathers: boolean;
  readonly chairs: readonly Chair[];
}

/** One seat. */
export interface Chair extends Chance {
  readonly id: string;
  /** What they take when they are asked anew, where that is more than what is left of this time. */
  readonly anew: Int32Array;
  /** Responded, with nothing left to do in this round; or asked already. */
  readonly state: 'done' | 'asked' | 'idle';
  /** Not before this tick, or so long after being asked. */
  readonly from: number;
  readonly wait: { readonly plain: number; readonly work: number };
  /** How often, in a thousand, they send it back. */
  readonly returns: number;
}
