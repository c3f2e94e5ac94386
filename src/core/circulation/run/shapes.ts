import type { Rect } from '../../page/geometry';
import type { Time } from '../../route/route';
import type { Instant } from '../../time/instant';

// What the events of a circulation and the state they make are put together from.

/** What a person wrote, an address or a device: kept beside the events under this salted hash, so that it can be erased. */
export type PayloadHash = string;

/** A file of a version. Its id stays over versions, its content does not: seats and fields name files by id. */
export interface VersionFile {
  readonly id: string;
  /** SHA-256 of the bytes. */
  readonly file: string;
  readonly name: string;
  /** A document is read, decided on, signed and released; an attachment travels with it. */
  readonly role: 'document' | 'attachment';
  /** The record whose revision it becomes part of. */
  readonly record: string;
  readonly mediaType: string;
  readonly bytes: number;
  /** What each of its pages is made of, as a hash, where that can be told of each: whose pages stay the same is kept. */
  readonly prints?: readonly string[];
  /** What its pages were made from, and the values they were made with; not there where it is kept as it came. */
  readonly made?: { readonly source: string; readonly values: PageValues };
}

/** What stands on pages that were made: which document in which revision, and of which version since when. */
export interface PageValues {
  readonly number: string;
  readonly revision: string;
  readonly title: string;
  readonly version: number;
  readonly at: Instant;
}

/** One saved state of a draft as it was submitted: whole and immutable. */
export interface Version {
  readonly number: number;
  readonly files: readonly VersionFile[];
}

/** A field filled by a signer; the value itself is a payload. */
export interface Filled {
  readonly field: string;
  readonly value: PayloadHash;
}

/** A point on a page, in displayed points from its top left corner. */
export interface Spot {
  readonly page: number;
  readonly x: number;
  readonly y: number;
  /** Where words were selected: the boxes of their lines, and the words themselves, beside the event like all words. */
  readonly marks?: readonly Rect[];
  readonly quote?: PayloadHash | null;
}

export interface StageTimes {
  readonly stage: string;
  readonly due: Time | null;
  readonly closes: Time | null;
}

export interface SeatTimes {
  readonly seat: string;
  readonly due: Instant | null;
  readonly closes: Instant | null;
}

/** Due and closing of the circulation as a whole. */
export interface Whole {
  readonly due: Time | null;
  readonly closes: Time | null;
}

/** How somebody came to hold a seat. */
export type Via = 'planned' | 'role' | 'member' | 'taken' | 'named' | 'reassigned' | 'delegated' | 'second';

export interface Holder {
  readonly person: string;
  readonly via: Via;
  readonly outside: boolean;
  /** When they came to the seat; null for whoever was planned. */
  readonly since: Instant | null;
}

/** From when somebody may respond who has to wait. */
export interface Wait {
  readonly person: string;
  /** The content it counts for. */
  readonly scope: string;
  /** What it counts from; null until they have opened the content. */
  readonly since: Instant | null;
  readonly from: Instant | null;
}

export type SeatStatus = 'idle' | 'asked' | 'suspended' | 'decided' | 'declined' | 'returned' | 'missed' | 'released';

/**
 * Why a stage that has been reached asks nobody: fields are missing, pages are being frozen, its time has passed, a group of
 * it has more members than a route can carry.
 */
export type HeldFor = 'fields' | 'freezing' | 'time' | 'crowd';

export type RoundReason =
  | 'unchanged'
  /** One person would count twice beside another response that is kept. */
  | 'twice'
  | 'changed'
  | 'returned'
  | 'declined'
  | 'open'
  | 'missed'
  | 'released'
  | 'given'
  | 'notAskedBefore';

/** One line of a proposed round: whether a decision of the seat still stands, and which. */
export interface RoundLine {
  readonly seat: string;
  /** The decision that would be kept; an index into the decisions. */
  readonly decision: number | null;
  readonly keep: boolean;
  readonly reason: RoundReason;
}

export interface Kept {
  readonly seat: string;
  readonly decision: number;
  /** The content that was accepted as what the seat decided on. */
  readonly accepted: string;
}

/** Why a circulation is being reworked. `nobody`: every part of the route was skipped, so nobody was asked. */
export type ReworkCause = 'returned' | 'version' | 'nobody';

/** Somebody who gets a copy. */
export interface CopyHolder {
  /** The copy's own id, by which a link of somebody outside is made. */
  readonly id: string;
  readonly person: string;
  readonly outside: boolean;
}

/** Who fills a role of the route, by seat or copy. */
export interface RoleFilled {
  readonly of: string;
  readonly role: string;
  readonly name: string;
  readonly person: string | null;
  /** Whether that is somebody outside. */
  readonly outside: boolean;
}

/**
 * Out of the route for this run: its condition did not hold, the controller removed it, or a seat for every member of a group
 * became the seats of its members. It is marked, never deleted.
 */
type Gone = null | 'skipped' | 'removed' | 'expanded';

/** Somebody met a content: they were sent it, or opened it. */
export interface Met {
  readonly person: string;
  readonly scope: string;
  readonly at: Instant;
}

/** What has become of one planned seat. */
export interface SeatRun {
  readonly id: string;
  readonly stage: string;
  readonly gone: Gone;
  /** The planned seat it is, or became of: a member's seat of a group is called after that of the group. */
  readonly planned: string;
  /** The group any member of which may act, until the task becomes a person's. */
  readonly group: string | null;
  /** What that group was called when it was asked. */
  readonly groupCalled: string | null;
  /** Whether nobody could act when it was asked. */
  readonly nobody: boolean;
  /** Who may act; nobody where the seat waits for a name, or for a member of its group. */
  readonly holders: readonly Holder[];
  /** Former holders whom the controller took the seat from; they come back only by being named again. */
  readonly barred: readonly string[];
  /** Raised whenever the holder changes, so that old links and commands die. */
  readonly epoch: number;
  readonly status: SeatStatus;
  /** A decline that the controller went on without. */
  readonly passed: boolean;
  readonly since: Instant | null;
  readonly due: Instant | null;
  readonly closes: Instant | null;
  /** Times that were given to this seat before it was asked; they come before its stage's. */
  readonly given: { readonly due: Instant | null; readonly closes: Instant | null } | null;
  /** Who was sent which content here, and who has opened which, each once. */
  readonly sent: readonly Met[];
  readonly opened: readonly Met[];
  /** From when those may respond who have to wait, the newest of each person last. */
  readonly waits: readonly (Wait & { readonly told: boolean })[];
  /** Whom its holder would like to pass it on to, where the controller has to agree. */
  readonly proposal: {
    readonly to: string;
    readonly by: string;
    readonly at: Instant;
    readonly note: PayloadHash | null;
  } | null;
  /** When they were reminded; the last point of the plan for which they were; and who was told that it is late. */
  readonly reminded: readonly Instant[];
  readonly pointed: Instant | null;
  readonly told: readonly ('controller' | 'third')[];
  /** Since when its due has waited for an answer; and whether it has waited before: it does so once. */
  readonly asking: Instant | null;
  readonly waited: boolean;
  /** The epoch whose link the controller has copied: from then on they had it too. */
  readonly linkCopied: number | null;
  /** Index into `decisions`. */
  readonly decision: number | null;
  readonly kept: boolean;
}

/** What has become of one planned stage. */
export interface StageRun {
  readonly id: string;
  readonly gone: Gone;
  /** Whether its condition has been decided in this round. */
  readonly decided: boolean;
  readonly seats: readonly string[];
  readonly status: 'idle' | 'open' | 'done' | 'released';
  readonly held: HeldFor | null;
  /** Its rule can no longer be met; said once, until something heals it. */
  readonly stuck: boolean;
  /** As planned, or as a later round or the controller set them. */
  readonly due: Time | null;
  readonly closes: Time | null;
  /** Whether its times were given anew since: instants planned for single seats hold no longer. */
  readonly retimed: boolean;
  readonly since: Instant | null;
  readonly ended: Instant | null;
}

/** What has become of one planned series or parallel: whether it takes part. How far it is follows from its stages. */
export interface BlockRun {
  readonly id: string;
  readonly kind: 'series' | 'parallel';
  readonly gone: Gone;
  /** Whether the condition of this branch has been decided in this round. */
  readonly decided: boolean;
}

/** What has become of one board: whom it reached, with which version, and whether the copies have gone. */
export interface CopyRun {
  readonly id: string;
  readonly status: 'idle' | 'reached' | 'sent';
  /** Who fills its roles since sending, by entry of the board. */
  readonly filled: Readonly<Record<string, string | null>>;
  readonly to: readonly CopyHolder[];
  readonly version: number | null;
}

/** What of one run is another than before, beside its id; everything of a run that is new. */
export type Change<R extends { readonly id: string }> = Pick<R, 'id'> & Partial<R>;

/** The changes of an event to the runs: results, so that a later change of a rule never changes what has happened. */
export interface RunChanges {
  readonly blocks: readonly Change<BlockRun>[];
  readonly stages: readonly Change<StageRun>[];
  readonly seats: readonly Change<SeatRun>[];
  readonly copies: readonly Change<CopyRun>[];
}
