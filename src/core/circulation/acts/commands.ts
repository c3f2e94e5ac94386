import type { Field } from '../../page/fields';
import type { Facts } from '../../route/facts';
import type { Assignee, Series } from '../../route/route';
import type { Outcome } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { Notice, ReminderPlan } from '../../time/reminders';
import type { Filled, PayloadHash, Spot, StageTimes, Version, Whole } from '../run/shapes';

/**
 * What can be asked of a circulation. Commands on a seat carry the epoch and the content hash they were made on,
 * so that a command from an old page or an old link dies instead of deciding on something else.
 */
interface Inputs {
  plan: { plan: Series; note: PayloadHash | null; whole: Whole };
  /** Gives every fact its value; one that is not there has none. */
  giveFacts: { facts: Facts; names: Readonly<Record<string, string>> };
  putFields: { file: string; content: string; fields: readonly Field[] };
  attach: { version: Version };
  send: { releasesItself: boolean };
  see: { seat: string; epoch: number; scope: string };
  decide: {
    seat: string;
    epoch: number;
    scope: string;
    outcome: Outcome;
    note: PayloadHash | null;
    filled: readonly Filled[];
    evidence: PayloadHash | null;
  };
  comment: { comment: string; thread: string | null; file: string; spot: Spot | null; note: PayloadHash };
  resolveComment: { comment: string };
  reopenComment: { comment: string };
  confirmRound: {
    /** Names the list that was looked at (`roundBasis`). */
    basis: string;
    /** Seats whose decisions are kept, and seats whose decline is left as it is; every other seat is asked. */
    keep: readonly string[];
    leave: readonly string[];
    times: readonly StageTimes[];
  };
  extend: { seat: string; due: Instant | null; closes: Instant | null };
  /** Gives a stage that is held because its time has passed a new one, or none. */
  setTimes: StageTimes;
  askAgain: { seat: string; due: Instant | null; closes: Instant | null };
  /** Goes on without a seat that declined. */
  pass: { seat: string; note: PayloadHash | null };
  remind: { seat: string };
  /** The system's: reminds for a point of the plan, or notes that somebody was told of the silence. */
  giveNotice: { seat: string; epoch: number; to: Notice['to']; person: string; point: Instant };
  /** Changes how those who are asked are reminded. */
  setReminders: { plan: ReminderPlan };
  /** Takes a group's task for oneself; gives it back to the group. */
  take: { seat: string; epoch: number };
  giveBack: { seat: string; epoch: number };
  /** Names who holds a later seat; `seat` is one's own. */
  name: { seat: string; epoch: number; names: string; to: string };
  /** Agrees that a holder passes their task on, or does not. */
  agree: { seat: string; epoch: number; agreed: boolean; note: PayloadHash | null };
  /** Says how many are enough in a stage whose rule can no longer be met. */
  setEnough: { stage: string; k: number };
  /** Ends waiting for the others of a stage in which somebody has returned. */
  endGathering: { stage: string };
  /** Asks the controller and the author something before responding; and answers it. */
  askQuestion: { question: string; seat: string; epoch: number; note: PayloadHash };
  answerQuestion: { question: string; note: PayloadHash };
  /** Stops everybody from responding, and lets them go on. */
  pause: { note: PayloadHash | null };
  goOn: Record<never, never>;
  /**
   * Amends what is under way: the route as it shall be, the words to all, times of the whole and files, all at once.
   * `basis` names what it was drafted on (`amendBasis`).
   */
  amend: {
    basis: string;
    plan: Series;
    note: PayloadHash | null;
    whole: { readonly due: Instant | null; readonly closes: Instant | null } | null;
    version: Version | null;
    reason: PayloadHash | null;
  };
  /** Makes somebody else its controller. */
  handControl: { to: string; note: PayloadHash | null };
  /** Gives the whole a new due and closing time. */
  extendWhole: { due: Instant | null; closes: Instant | null };
  delegate: { seat: string; epoch: number; to: string; note: PayloadHash | null };
  reassign: {
    seat: string;
    to: Assignee;
    due: Instant | null;
    closes: Instant | null;
    note: PayloadHash | null;
  };
  /** Corrects the address of somebody outside: `to` is they at the right one, `note` says both. */
  correctAddress: { seat: string; to: string; note: PayloadHash };
  addSecondHolder: { seat: string; person: string };
  dropSecondHolder: { seat: string; person: string };
  copyLink: { seat: string };
  withdraw: { note: PayloadHash };
  keepFrozen: { file: string; content: string; frozen: string; fields: string };
  keepFinals: {
    files: readonly { readonly id: string; readonly file: string }[];
    identifier: string;
  };
  complete: {
    revisions: readonly { readonly record: string; readonly revision: string }[];
    effective: Instant;
    evidence: string;
  };
  /** A timer's: only catches up with what is due. */
  wake: Record<never, never>;
}

export type Act = keyof Inputs;

/** A command on a circulation that is there. */
export type Command = { readonly [A in Act]: { readonly type: A } & Readonly<Inputs[A]> }[Act];

/** The command that begins a circulation. */
export interface Create {
  readonly type: 'create';
  /** What the circulation is called by, unique in its organization. */
  readonly number: string;
  readonly records: readonly string[];
  readonly change: string;
  readonly controller: string;
  readonly author: string;
  readonly plan: Series;
  readonly batch: string | null;
  readonly begunBy: string | null;
}

export type CommandOf<A extends Act> = Extract<Command, { type: A }>;
