import type { Field } from '../page/fields';
import type { Absence } from '../people/cover';
import type { RecordFact, RecordValue } from '../route/condition';
import type { Facts, FactType } from '../route/facts';
import type { Assignee, Instant, Series } from '../route/route';
import type { Outcome } from '../route/verbs';
import type { Calendar } from '../time/calendar';
import { type Notice, type ReminderPlan, usualReminders } from '../time/reminders';
import type { Filled, PayloadHash, Spot, StageTimes, Version, Whole } from './events';
import type { Level, Preferences } from './telling';

/** What the core must know of a person. */
export interface PersonFacts {
  readonly outside: boolean;
  /** False once they have left. */
  readonly active: boolean;
  /** The same for two entries that are one person: a member who is also known as somebody outside, by the same address. */
  readonly identity?: string;
  readonly name?: string;
  /** Their clock and their working calendar; those of the organization where they have none of their own. */
  readonly zone?: string;
  readonly calendar?: string | null;
  /** What they chose to be told of, where not the usual. */
  readonly tells?: Partial<Preferences>;
}

/** Everything a decision depends on besides the state, as values. */
export interface Context {
  /** Whole milliseconds; a stream never runs backwards, so an earlier instant counts as the stream's last. */
  readonly now: number;
  /** A person's id, or `system` for timers and derived files. */
  readonly actor: string;
  /** The people that the state and the command name. */
  readonly people: ReadonlyMap<string, PersonFacts>;
  /** Name and members of each group that the route names. */
  readonly groups: ReadonlyMap<string, { readonly name: string; readonly members: readonly string[] }>;
  /** Name of each role, and who fills it for this document; null where nobody does. */
  readonly roles: ReadonlyMap<string, { readonly name: string; readonly person: string | null }>;
  /** The facts that the document's type declares. */
  readonly factTypes: readonly FactType[];
  /** Contents on which no fields can be put. */
  readonly withoutFields: ReadonlySet<string>;
  /** What conditions may ask of the record. */
  readonly record: Readonly<Partial<Record<RecordFact, RecordValue>>>;
  /** Who is away, was lately or will be, and who covers for them. */
  readonly absences: readonly Absence[];
  /** Working calendars by id, and whose clock and calendar the organization keeps. */
  readonly calendars: ReadonlyMap<string, Calendar>;
  readonly home: { readonly zone: string; readonly calendar: string | null };
  readonly rules: {
    /** Whether an author may approve their own text. */
    readonly authorApproves: boolean;
    /** Whether the due of a seat waits for the answer to a question. */
    readonly questionsWait: boolean;
  };
  /** How the document's type wants people reminded. */
  readonly reminders: ReminderPlan;
  /** Who steers it besides its controller: the lead of its document's unit, where a rule says so. */
  readonly leads: readonly string[];
  /** How much of it people want to be told, who do not want the usual. */
  readonly following: ReadonlyMap<string, Level>;
}

/** A context in which nothing is known but who acts and when. */
export function bareContext(now: number, actor: string): Context {
  return {
    now,
    actor,
    people: new Map(),
    groups: new Map(),
    roles: new Map(),
    factTypes: [],
    withoutFields: new Set(),
    record: {},
    absences: [],
    calendars: new Map(),
    home: { zone: 'UTC', calendar: null },
    rules: { authorApproves: false, questionsWait: false },
    leads: [],
    following: new Map(),
    reminders: usualReminders,
  };
}

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
