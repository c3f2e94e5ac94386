import type { Instant } from '../../time/instant';
import { type ReminderPlan, type Silence, usualReminders } from '../../time/reminders';
import { bareContext, type Context } from '../run/context';
import { system } from '../run/events';
import { holders, keptFrom } from '../run/holders';
import type { SeatRun } from '../run/shapes';
import {
  baseHolder,
  type Circulation,
  clocksRun,
  closesOf,
  dueOf,
  fieldsHash,
  filesToFreeze,
  newest,
  openComments,
  openQuestions,
  pendingWaits,
  plannedStages,
  seatsWithoutField,
  stagePlanOf,
  stopsOf,
  waitOf,
} from '../run/state';

/**
 * What a task asks for: a verb of a stage, or what the author or the controller does round it; what presses most stands first.
 */
export const doings = [
  'resolveStop',
  'sign',
  'approve',
  'review',
  'contribute',
  'answer',
  'agree',
  'confirmRound',
  'release',
  'putFields',
  'rework',
  'goOn',
  'read',
  'send',
  'write',
  'plan',
] as const;
export type Doing = (typeof doings)[number];

export interface Task {
  /** A person, or `group:` and a group's id where any member of it may act. */
  readonly person: string;
  readonly doing: Doing;
  readonly seat: string | null;
  /** The stage that waits, where no seat of it is named. */
  readonly stage: string | null;
  /** Whom it has to do with: who asks for it, or whose act or absence it answers. */
  readonly about: string;
  readonly since: Instant;
  /** From when they may respond, where that is known to be later. */
  readonly notBefore: Instant | null;
  readonly due: Instant | null;
  readonly closes: Instant | null;
  /** Whom cover cannot bring to it. */
  readonly kept: readonly string[];
  /** What reminders are counted from; null where none are, and for all but the first who may act. */
  readonly silence: (Omit<Silence, 'due'> & { readonly due: Instant; readonly plan: ReminderPlan }) | null;
}

/** What a read table needs of the context: it holds what the stream knows, and cover is joined when it is read. */
const streamContext: Context = bareContext(0, system);

/** Whom a task of a group is for. */
export function groupTasks(group: string): string {
  return `group:${group}`;
}

/** Everything the circulation waits for a person to do, by person. */
export function tasksOf(state: Circulation, context: Context = streamContext): Task[] {
  const tasks: Task[] = [];
  const add = (person: string, doing: Doing, about: string | undefined, since: Instant, more: Partial<Task> = {}) =>
    tasks.push({
      person,
      doing,
      seat: null,
      stage: null,
      about: about ?? state.author,
      since,
      notBefore: null,
      due: null,
      closes: null,
      kept: [],
      silence: null,
      ...more,
    });
  const holder = (seat: string | null | undefined) => {
    const run = seat ? state.seats.get(seat) : undefined;
    return run && baseHolder(run)?.person;
  };
  const version = newest(state);

  if (state.phase === 'new') {
    if (!version) add(state.author, 'write', state.controller, state.created);
    const stages = plannedStages(state);
    if (stages.length === 0 || stages.some((stage) => stage.seats.length === 0))
      add(state.controller, 'plan', state.author, state.created);
    else if (version) add(state.controller, 'send', state.author, state.attached ?? state.created);
  }

  if (state.paused !== null && state.closed === null && state.ended === null)
    add(state.controller, 'goOn', state.author, state.paused);
  if (clocksRun(state) && state.closed === null) {
    for (const seat of state.seats.values()) {
      if (seat.status !== 'asked' || seat.gone) continue;
      // What the stream alone knows of a group is its name: its task is found by whoever is a member when they look, until
      // one of them has taken it.
      const unknown = seat.group !== null && !context.groups.has(seat.group) ? seat.group : null;
      const acting: readonly { person: string; since: Instant | null }[] =
        unknown === null
          ? holders(state, seat, context)
          : baseHolder(seat) === null
            ? [{ person: groupTasks(unknown), since: null }, ...seat.holders]
            : seat.holders;
      for (const { person, since } of acting)
        add(person, stagePlanOf(state, seat).verb, state.controller, Math.max(since ?? 0, seat.since ?? state.last), {
          seat: seat.id,
          notBefore: waitOf(seat, person)?.from ?? null,
          due: dueOf(state, seat),
          closes: closesOf(state, seat),
          kept: keptFrom(state, seat),
          silence: person === acting[0]?.person ? silenceOf(state, seat, person) : null,
        });
      // Nobody left who may act: the controller gives the seat to somebody.
      if (acting.length === 0 || (seat.nobody && seat.holders.length === 0))
        add(state.controller, 'resolveStop', holder(seat.id), seat.since ?? state.last, { seat: seat.id });
      if (seat.proposal) add(state.controller, 'agree', seat.proposal.by, seat.proposal.at, { seat: seat.id });
    }
  }
  // Whoever knows it answers: the controller or the author.
  const bySeat = new Map(openQuestions(state).map((question) => [question.seat, question]));
  for (const { by, at, seat } of bySeat.values())
    for (const person of new Set([state.controller, state.author])) add(person, 'answer', by, at, { seat });
  for (const stop of stopsOf(state))
    if ('seat' in stop)
      add(state.controller, 'resolveStop', holder(stop.seat), stop.since, { seat: stop.seat, stage: stop.stage });
    else add(state.controller, 'resolveStop', state.author, stop.since, { stage: stop.stage });

  if (state.phase === 'rework' && state.rework && state.closed === null) {
    if (state.rework.cause !== 'returned' || (version && version.number > state.rework.version))
      add(state.controller, 'confirmRound', state.author, state.attached ?? state.last);
    else add(state.author, 'rework', returner(state), state.rework.at, { seat: state.rework.seat });
  }

  if (fieldsWanted(state))
    add(state.controller, 'putFields', holder(seatsWithoutField(state)[0]), state.sent ?? state.created);
  if (state.phase === 'finishing' && state.finals && !releaseWanted(state))
    add(state.controller, 'release', state.author, state.last);
  return tasks;
}

/** What reminders of a seat are counted from, where it has a due time. */
function silenceOf(state: Circulation, seat: SeatRun, person: string): Task['silence'] {
  const due = dueOf(state, seat);
  if (due === null || seat.since === null) return null;
  return {
    // Nobody is reminded of what they cannot do yet.
    since: Math.max(seat.since, waitOf(seat, person)?.from ?? 0),
    due,
    reminded: [...seat.reminded.slice(-5), ...(seat.pointed === null ? [] : [seat.pointed])],
    controllerTold: seat.told.includes('controller'),
    thirdTold: seat.told.includes('third'),
    plan: state.reminders ?? usualReminders,
  };
}

/** The people it waits for, each once. */
export function waitsFor(state: Circulation): string[] {
  return [...new Set(tasksOf(state).map((task) => task.person))];
}

/** Who returned what is being reworked. The seat may have been given to another since. */
function returner(state: Circulation): string | undefined {
  return state.decisions.findLast(({ seat }) => seat === state.rework?.seat)?.by;
}

/** Whether somebody must still put fields before signing can be asked for. */
export function fieldsWanted(state: Circulation): boolean {
  return (
    state.phase === 'running' &&
    newest(state) !== null &&
    filesToFreeze(state).length > 0 &&
    seatsWithoutField(state).length > 0
  );
}

interface Timer {
  readonly at: Instant;
  readonly kind: 'closes' | 'freed' | 'whole';
  /** What it belongs to: a seat, a seat and a person, or nothing more. One timer of a kind and key at a time. */
  readonly key: string;
}

/** The instants at which the circulation changes by itself. A timer only wakes; catching up does the rest. */
export function timersOf(state: Circulation): Timer[] {
  const timers: Timer[] = [];
  if (state.closed !== null || (state.phase !== 'running' && state.phase !== 'rework')) return timers;
  if (state.closes !== null) timers.push({ at: state.closes, kind: 'whole', key: '' });
  if (clocksRun(state))
    for (const seat of state.seats.values()) {
      if (seat.status === 'asked' && seat.closes !== null)
        timers.push({ at: seat.closes, kind: 'closes', key: seat.id });
      for (const { person, from } of pendingWaits(seat))
        timers.push({ at: from, kind: 'freed', key: `${seat.id} ${person}` });
    }
  return timers;
}

/** A file whose fields are to be laid on it: its content and the hash of its fields. */
export interface FreezeWanted {
  readonly file: string;
  readonly content: string;
  readonly fields: string;
}

/** The files that must be frozen now, because a stage that has been reached waits for it. */
export function freezeWanted(state: Circulation): FreezeWanted[] {
  if (state.phase !== 'running' || ![...state.stages.values()].some((stage) => stage.held === 'freezing')) return [];
  return filesToFreeze(state).map(({ id, file }) => ({
    file: id,
    content: file,
    fields: fieldsHash(state.fields, id),
  }));
}

/** Whether it is to be released by itself now: nothing is open any more, and its final files are ready. */
export function releaseWanted(state: Circulation): boolean {
  return (
    state.phase === 'finishing' && state.finals !== null && state.releasesItself && openComments(state).length === 0
  );
}

/** Whether the circulation waits for its final files to be made. */
export function finalsWanted(state: Circulation): boolean {
  return state.phase === 'finishing' && !state.finals;
}
