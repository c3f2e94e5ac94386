import type { Absence } from '../../people/cover';
import type { RecordFact, RecordValue } from '../../route/condition';
import type { FactType } from '../../route/facts';
import type { Calendar } from '../../time/calendar';
import { type ReminderPlan, usualReminders } from '../../time/reminders';
import type { Level, Preferences } from '../telling/preferences';
import type { RoleFilled } from './shapes';

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

/** Who fills a role of the route for a seat or a copy, from now on. */
export function roleFilled(of: string, role: string, { roles, people }: Context): RoleFilled {
  const { name = '', person = null } = roles.get(role) ?? {};
  return { of, role, name, person, outside: people.get(person ?? '')?.outside ?? false };
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
