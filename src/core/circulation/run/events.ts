import type { Field } from '../../page/fields';
import type { Used } from '../../route/condition';
import type { Facts } from '../../route/facts';
import type { Assignee, Series, Stage, Time } from '../../route/route';
import type { Outcome } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { ReminderPlan } from '../../time/reminders';
import type {
  CopyHolder,
  Filled,
  HeldFor,
  Holder,
  Kept,
  PayloadHash,
  ReworkCause,
  RoleFilled,
  RunChanges,
  SeatStatus,
  SeatTimes,
  Spot,
  StageTimes,
  Version,
  Wait,
  Whole,
} from './shapes';

interface Bodies {
  'circulation.created': {
    number: string;
    records: readonly string[];
    change: string;
    controller: string;
    author: string;
    plan: Series;
    /** The batch of circulations it belongs to. */
    batch: string | null;
    /** The rule that began it, where no person did. */
    begunBy: string | null;
  };
  'route.planned': { plan: Series; note: PayloadHash | null; whole: Whole };
  /** The values, and what their facts were called then. */
  'facts.given': { facts: Facts; names: Readonly<Record<string, string>> };
  'fields.put': { file: string; content: string; fields: readonly Field[] };
  /** `ends`: the files whose frozen pages end with it; `unsigned`: the signatures it ends, as indexes of decisions. */
  'version.attached': { version: Version; ends: readonly string[]; unsigned: readonly number[] };
  'circulation.sent': {
    version: number;
    /** Whether it is released by itself once nothing is open any more. */
    releasesItself: boolean;
    /** How those who are asked are reminded. */
    reminders: ReminderPlan;
    /** Due and closing of the whole, computed once. */
    due: Instant | null;
    closes: Instant | null;
    roles: readonly RoleFilled[];
  };
  /**
   * The route as it stands from now on, the words to all, and where they are changed the times of the whole; with the times
   * of seats that are asked, computed once, and who fills the roles that are new.
   */
  'circulation.amended': {
    plan: Series;
    note: PayloadHash | null;
    whole: { readonly due: Instant | null; readonly closes: Instant | null } | null;
    times: readonly SeatTimes[];
    roles: readonly RoleFilled[];
    /** What the groups and roles were called that it names. */
    called: Readonly<Record<string, string>>;
    reason: PayloadHash | null;
    /** What follows for the runs, what is kept of parts that were removed, and the fields that go with them. */
    runs: RunChanges;
    retired: readonly Stage[];
    fieldsGone: readonly string[];
  };
  /** Nobody responds and nobody is asked until it goes on; clocks of seats stand still. */
  'circulation.paused': { note: PayloadHash | null };
  'circulation.wentOn': { seats: readonly SeatTimes[]; stages: readonly StageTimes[] };
  'control.handed': { to: string; note: PayloadHash | null };
  'circulation.closed': { instant: Instant };
  'circulation.extended': {
    due: Instant | null;
    closes: Instant | null;
    /** Times that were put off by how long it stood still. */
    seats: readonly SeatTimes[];
    stages: readonly StageTimes[];
  };
  'part.decided': { part: string; holds: boolean; used: readonly Used[] };
  'group.resolved': {
    seat: string;
    group: string;
    name: string;
    members: readonly { readonly seat: string; readonly person: string }[];
    /** Members who are not asked: already in the stage, the approving author. */
    leftOut: readonly string[];
  };
  'copies.reached': { copies: string; to: readonly CopyHolder[]; version: number; waits: boolean };
  'copies.sent': { copies: string };
  'stage.opened': { stage: string };
  'stage.held': { stage: string; for: HeldFor };
  /** What held a stage that has started holds it no longer. */
  'stage.freed': { stage: string };
  /** How many are enough, where as many as its rule asks for can no longer be had. */
  'stage.ruled': { stage: string; k: number };
  'stage.timed': { stage: string; due: Time | null; closes: Time | null };
  'file.frozen': { file: string; content: string; frozen: string; fields: string };
  'seat.asked': {
    seat: string;
    holders: readonly Holder[];
    due: Instant | null;
    closes: Instant | null;
    epoch: number;
    waits: readonly Wait[];
    /** What the group was called any member of which may act, and whether anybody could. */
    group: string | null;
    nobody: boolean;
    /** Everybody who may act, with what they are sent; and who of them covers for a holder. */
    to: readonly string[];
    scope: string | null;
    covers: readonly string[];
  };
  'seat.seen': {
    seat: string;
    epoch: number;
    scope: string;
    /** Where a time to think begins with opening it: how long, and the due time that follows. */
    wait: Wait | null;
    due: Instant | null;
  };
  /** `acts`: whether they may still act there, who had to wait; whoever covered may not any more. */
  'seat.freed': { seat: string; person: string; instant: Instant; acts: boolean };
  /** `due`: where whoever took it may respond only later. */
  'seat.taken': { seat: string; person: string; due: Instant | null };
  'seat.givenBack': { seat: string; person: string };
  'seat.named': { seat: string; by: string; to: string; outside: boolean; epoch: number };
  'delegation.asked': { seat: string; to: string; note: PayloadHash | null };
  'delegation.refused': { seat: string; to: string; note: PayloadHash | null };
  'seat.decided': {
    seat: string;
    epoch: number;
    holder: string;
    outcome: Outcome;
    scope: string;
    note: PayloadHash | null;
    filled: readonly Filled[];
    evidence: PayloadHash | null;
    /** By which absences somebody covered who responded on behalf of another, and until when; null else. */
    cover: { readonly absences: readonly string[]; readonly until: Instant } | null;
  };
  'seat.missed': { seat: string; instant: Instant };
  'seat.released': { seat: string };
  'seat.passed': { seat: string; note: PayloadHash | null };
  'stage.stuck': { stage: string };
  'stage.healed': { stage: string };
  'stage.closed': { stage: string };
  'stage.released': { stage: string };
  'rework.began': { cause: ReworkCause; seat: string | null; suspends: readonly string[] };
  'round.begun': {
    round: number;
    keep: readonly Kept[];
    leave: readonly string[];
    times: readonly StageTimes[];
    /** What follows for the runs: who is asked anew, whose response stands, which times hold. */
    runs: RunChanges;
  };
  /** `waits`: whether the due of the seat waits for the answer. */
  'question.asked': { question: string; seat: string; note: PayloadHash; waits: boolean };
  /** The due of the seat after it has waited; null where it did not. */
  'question.answered': { question: string; seat: string; note: PayloadHash; due: Instant | null };
  'seat.extended': { seat: string; due: Instant | null; closes: Instant | null; status: SeatStatus };
  'seat.askedAgain': {
    seat: string;
    due: Instant | null;
    closes: Instant | null;
    to: readonly string[];
    scope: string | null;
    waits: readonly Wait[];
  };
  /** `point` is the point of the plan it goes out for; null where somebody reminded by hand. */
  'seat.reminded': { seat: string; point: Instant | null };
  /** Somebody was told that nobody has responded: the controller, or whoever the plan names then. */
  'seat.lateTold': { seat: string; to: 'controller' | 'third'; person: string; point: Instant };
  /** How those who are asked are reminded from now on. */
  'reminders.set': { plan: ReminderPlan };
  'seat.delegated': {
    seat: string;
    from: string;
    to: string;
    outside: boolean;
    epoch: number;
    due: Instant | null;
    scope: string | null;
    note: PayloadHash | null;
    waits: readonly Wait[];
  };
  /** `status`: asked at once, idle until its turn, or as it is where a return that is being gathered stands. */
  'seat.reassigned': {
    seat: string;
    from: string | null;
    to: Assignee;
    epoch: number;
    barred: readonly string[];
    status: SeatStatus;
    due: Instant | null;
    closes: Instant | null;
    scope: string | null;
    note: PayloadHash | null;
    waits: readonly Wait[];
  };
  /** The same seat at another address. `note` holds both; `opened` is when the old link had been opened, if it was. */
  'seat.readdressed': {
    seat: string;
    from: string;
    to: string;
    epoch: number;
    opened: Instant | null;
    due: Instant | null;
    scope: string | null;
    note: PayloadHash;
    waits: readonly Wait[];
  };
  'secondHolder.added': { seat: string; person: string; scope: string | null; waits: readonly Wait[] };
  'secondHolder.dropped': { seat: string; person: string };
  'link.copied': { seat: string; epoch: number };
  'comment.made': { comment: string; thread: string | null; file: string; spot: Spot | null; note: PayloadHash };
  'comment.resolved': { comment: string };
  'comment.reopened': { comment: string };
  'finishing.began': Record<string, never>;
  'finals.kept': {
    files: readonly { readonly id: string; readonly file: string }[];
    identifier: string;
  };
  'circulation.withdrawn': { note: PayloadHash };
  'circulation.completed': {
    revisions: readonly { readonly record: string; readonly revision: string }[];
    effective: Instant;
    /** The evidence sheet, made for this release. */
    evidence: string;
  };
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
  'facts.given': 1,
  'fields.put': 1,
  'version.attached': 1,
  'circulation.sent': 1,
  'circulation.amended': 1,
  'circulation.paused': 1,
  'circulation.wentOn': 1,
  'control.handed': 1,
  'circulation.closed': 1,
  'circulation.extended': 1,
  'part.decided': 1,
  'group.resolved': 1,
  'copies.reached': 1,
  'copies.sent': 1,
  'stage.opened': 1,
  'stage.held': 1,
  'stage.freed': 1,
  'stage.ruled': 1,
  'stage.timed': 1,
  'file.frozen': 1,
  'seat.asked': 1,
  'seat.seen': 1,
  'seat.freed': 1,
  'seat.taken': 1,
  'seat.givenBack': 1,
  'seat.named': 1,
  'delegation.asked': 1,
  'delegation.refused': 1,
  'seat.decided': 1,
  'seat.missed': 1,
  'seat.released': 1,
  'seat.passed': 1,
  'stage.stuck': 1,
  'stage.healed': 1,
  'stage.closed': 1,
  'stage.released': 1,
  'rework.began': 1,
  'round.begun': 1,
  'question.asked': 1,
  'question.answered': 1,
  'seat.extended': 1,
  'seat.askedAgain': 1,
  'seat.reminded': 1,
  'seat.lateTold': 1,
  'reminders.set': 1,
  'seat.delegated': 1,
  'seat.reassigned': 1,
  'seat.readdressed': 1,
  'secondHolder.added': 1,
  'secondHolder.dropped': 1,
  'link.copied': 1,
  'comment.made': 1,
  'comment.resolved': 1,
  'comment.reopened': 1,
  'finishing.began': 1,
  'finals.kept': 1,
  'circulation.withdrawn': 1,
  'circulation.completed': 1,
};
