import type { Instant, Verb } from '../route/route';
import {
  type Circulation,
  holdersOf,
  mainFile,
  newest,
  seatAt,
  seatsWithoutField,
  stageNodes,
  stageOf,
  stopsOf,
} from './state';

/** What a task asks for: a verb of a stage, or what the author or the controller does round it. */
export type Doing =
  | Verb
  | 'write'
  | 'rework'
  | 'plan'
  | 'send'
  | 'putFields'
  | 'resolveStop'
  | 'confirmRound'
  | 'release';

export interface Task {
  readonly person: string;
  readonly doing: Doing;
  readonly seat: string | null;
  /** Whom it has to do with: who asks for it, or whose act or absence it answers. */
  readonly about: string;
  readonly since: Instant;
  readonly due: Instant | null;
  readonly closes: Instant | null;
}

/** Everything the circulation waits for a person to do, by person. */
export function tasksOf(state: Circulation): Task[] {
  const tasks: Task[] = [];
  const add = (person: string, doing: Doing, about: string | undefined, since: Instant, more: Partial<Task> = {}) =>
    tasks.push({ person, doing, seat: null, about: about ?? state.author, since, due: null, closes: null, ...more });
  const holder = (seat: string | null | undefined) => (seat ? seatAt(state, seat)?.holder : undefined);
  const version = newest(state);

  if (state.phase === 'new') {
    if (!version) add(state.author, 'write', state.controller, state.created);
    if (stageNodes(state).length === 0 || stageNodes(state).some((stage) => stage.seats.length === 0))
      add(state.controller, 'plan', state.author, state.created);
    else if (version) add(state.controller, 'send', state.author, state.attached ?? state.created);
  }

  if (state.phase === 'running') {
    for (const seat of state.seats)
      if (seat.status === 'asked')
        for (const person of holdersOf(seat))
          add(person, stageOf(state, seat).plan.verb, state.controller, seat.since ?? state.last, {
            seat: seat.id,
            due: seat.due,
            closes: seat.closes,
          });
    for (const stop of stopsOf(state))
      if (stop.kind === 'stuck') add(state.controller, 'resolveStop', state.author, stop.since);
      else add(state.controller, 'resolveStop', holder(stop.seat), stop.since, { seat: stop.seat });
  }

  if (state.phase === 'rework' && state.rework) {
    if (state.rework.cause === 'version' || (version && version.number > state.rework.version))
      add(state.controller, 'confirmRound', state.author, state.attached ?? state.last);
    else add(state.author, 'rework', returner(state), state.rework.at, { seat: state.rework.seat });
  }

  if (fieldsWanted(state))
    add(state.controller, 'putFields', holder(seatsWithoutField(state)[0]), state.sent ?? state.created);
  if (state.phase === 'sealing' && state.final) add(state.controller, 'release', state.author, state.last);
  return tasks;
}

/** Who returned what is being reworked. The seat may have been given to another since. */
function returner(state: Circulation): string | undefined {
  return state.decisions.findLast(({ seat, outcome }) => seat === state.rework?.seat && outcome === 'returned')?.by;
}

/** Whether somebody must still put places before signing can be asked for. */
export function fieldsWanted(state: Circulation): boolean {
  const signs = stageNodes(state).some(
    (stage) => stage.plan.verb === 'sign' && stage.status !== 'done' && stage.status !== 'released',
  );
  return (
    state.phase === 'running' && signs && !state.frozen && newest(state) !== null && seatsWithoutField(state).length > 0
  );
}

export interface Timer {
  readonly at: Instant;
  readonly what: 'closes';
  readonly seat: string;
}

/** The instants at which the circulation changes by itself. A timer only wakes; catching up does the rest. */
export function timersOf(state: Circulation): Timer[] {
  if (state.phase !== 'running') return [];
  const timers: Timer[] = [];
  for (const seat of state.seats)
    if (seat.status === 'asked' && seat.closes !== null)
      timers.push({ at: seat.closes, what: 'closes', seat: seat.id });
  return timers;
}

/** The file whose final form is to be derived, while that is what the circulation waits for. */
export function derivationWanted(state: Circulation): string | null {
  const version = newest(state);
  return state.phase === 'sealing' && !state.final && version ? mainFile(version) : null;
}
