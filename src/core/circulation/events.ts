import type { Field } from '../page/fields';
import type { Instant, Series, Verb, Who } from '../route/route';

/** What a person wrote, an address or a device: kept aside under this salted hash, so that it can be erased. */
export type PayloadHash = string;

export interface VersionFile {
  /** SHA-256 of the bytes. */
  readonly file: string;
  readonly name: string;
  readonly role: 'main' | 'attachment';
  readonly mediaType: string;
  readonly bytes: number;
}

/** One saved state of a draft as it was handed in: whole and immutable. */
export interface Version {
  readonly number: number;
  readonly files: readonly VersionFile[];
}

export type Outcome = 'done' | 'approved' | 'approvedWithComments' | 'returned' | 'declined' | 'signed' | 'confirmed';

/** A place filled by a signer; the value itself stands aside. */
export interface Filled {
  readonly field: string;
  readonly value: PayloadHash;
}

/** A point on a page, in displayed points from its top left corner. */
export interface Spot {
  readonly page: number;
  readonly x: number;
  readonly y: number;
}

export interface Times {
  readonly stage: string;
  readonly due: Instant | null;
  readonly closes: Instant | null;
}

export type RoundReason = 'unchanged' | 'changed' | 'returned' | 'declined' | 'open' | 'missed';

/** One line of a proposed round: whether what the seat decided still stands. */
export interface RoundLine {
  readonly seat: string;
  readonly decision: number | null;
  readonly keep: boolean;
  readonly why: RoundReason;
}

interface Bodies {
  'circulation.created': {
    number: string;
    record: string;
    change: string;
    controller: string;
    author: string;
    route: Series;
  };
  'route.planned': { route: Series; note: PayloadHash | null };
  'fields.put': { file: string; fields: readonly Field[] };
  'version.attached': { version: Version };
  'circulation.sent': { version: number };
  'stage.opened': { stage: string };
  'stage.held': { stage: string };
  'pages.frozen': { file: string; fields: string };
  'seat.asked': { seat: string; holder: string; due: Instant | null; closes: Instant | null; epoch: number };
  'seat.seen': { seat: string; epoch: number; scope: string };
  'seat.decided': {
    seat: string;
    epoch: number;
    outcome: Outcome;
    scope: string;
    note: PayloadHash | null;
    filled: readonly Filled[];
    evidence: PayloadHash | null;
  };
  'seat.missed': { seat: string; instant: Instant };
  'seat.released': { seat: string };
  'stage.stuck': { stage: string };
  'stage.closed': { stage: string };
  'stage.released': { stage: string };
  'rework.began': { cause: 'returned' | 'version'; seat: string | null };
  'round.proposed': { revision: number; version: number; decisions: number; lines: readonly RoundLine[] };
  'round.begun': {
    round: number;
    keep: readonly { readonly seat: string; readonly decision: number; readonly accepted: string }[];
    times: readonly Times[];
  };
  'seat.extended': { seat: string; due: Instant | null; closes: Instant | null };
  'seat.reminded': { seat: string };
  'seat.delegated': { seat: string; from: string; to: string; epoch: number; note: PayloadHash | null };
  'seat.reassigned': {
    seat: string;
    from: string;
    to: Who;
    epoch: number;
    due: Instant | null;
    closes: Instant | null;
    note: PayloadHash | null;
  };
  'secondHolder.added': { seat: string; person: string };
  'secondHolder.dropped': { seat: string; person: string };
  'comment.made': { comment: string; thread: string | null; file: string; spot: Spot | null; note: PayloadHash };
  'comment.resolved': { comment: string };
  'sealing.began': Record<string, never>;
  'final.kept': { file: string; identifier: string };
  'circulation.withdrawn': { note: PayloadHash };
  'circulation.completed': { revision: string; effective: Instant };
}

export type CirculationEventType = keyof Bodies;

/** An event of a circulation: what happened, when (by whose act), with all that replaying needs. */
export type CirculationEvent = {
  readonly [T in CirculationEventType]: {
    readonly type: T;
    readonly at: Instant;
    readonly actor: string;
    readonly onBehalfOf: string | null;
    readonly data: Readonly<Bodies[T]>;
  };
}[CirculationEventType];

export type CirculationBody = {
  readonly [T in CirculationEventType]: { readonly type: T; readonly data: Readonly<Bodies[T]> };
}[CirculationEventType];

/** The actor of what the system does by itself: timers and derived files. */
export const system = 'system';

/** The present version of each event type; a reader lifts what is older. */
export const circulationEventVersions: { readonly [T in CirculationEventType]: number } = {
  'circulation.created': 1,
  'route.planned': 1,
  'fields.put': 1,
  'version.attached': 1,
  'circulation.sent': 1,
  'stage.opened': 1,
  'stage.held': 1,
  'pages.frozen': 1,
  'seat.asked': 1,
  'seat.seen': 1,
  'seat.decided': 1,
  'seat.missed': 1,
  'seat.released': 1,
  'stage.stuck': 1,
  'stage.closed': 1,
  'stage.released': 1,
  'rework.began': 1,
  'round.proposed': 1,
  'round.begun': 1,
  'seat.extended': 1,
  'seat.reminded': 1,
  'seat.delegated': 1,
  'seat.reassigned': 1,
  'secondHolder.added': 1,
  'secondHolder.dropped': 1,
  'comment.made': 1,
  'comment.resolved': 1,
  'sealing.began': 1,
  'final.kept': 1,
  'circulation.withdrawn': 1,
  'circulation.completed': 1,
};

/** The outcomes each verb offers. */
export const outcomesOf: { readonly [V in Verb]: readonly Outcome[] } = {
  contribute: ['done'],
  review: ['done', 'returned'],
  approve: ['approved', 'approvedWithComments', 'returned', 'declined'],
  sign: ['signed', 'declined'],
  read: ['confirmed'],
};

/** Whether an outcome counts towards the rule of its stage. */
export function isPositive(outcome: Outcome): boolean {
  return outcome !== 'returned' && outcome !== 'declined';
}
