import { refusal } from '../../refusals';
import { atInstant, instantOf, type Time } from '../../route/route';
import { shifted } from '../../time/due';
import type { Instant } from '../../time/instant';
import { isReminderPlan } from '../../time/reminders';
import { alike } from '../../trail/canonical';
import type { Context } from '../run/context';
import type { Draft } from '../run/evolve';
import type { SeatRun, SeatTimes, StageTimes } from '../run/shapes';
import { baseHolder, earlier, isOver, seatPlan, standing } from '../run/state';
import { clockOf, targetsOf } from '../run/times';
import type { ActOn } from './act';
import { beforeFinishing, controlled, steers, underWay } from './guarding';
import { badTimes } from './times';

// What its controller does to a circulation as a whole.

export const pause: ActOn<'whole', 'pause'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) =>
    controlled(state, context, underWay) ?? (state.paused === null ? null : refusal('paused-already')),
  effect: ({ emit }, { note }) => {
    emit({ type: 'circulation.paused', data: { note } });
    return null;
  },
};

/** Lets a paused circulation go on. */
export const goOn: ActOn<'whole', 'goOn'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) =>
    controlled(state, context, underWay) ?? (state.paused === null ? refusal('not-paused') : null),
  effect: ({ draft, context, emit }) => {
    emit({ type: 'circulation.wentOn', data: putOff(draft, draft.closed !== null, context) });
    return null;
  },
};

/** Gives the whole new times. Where it had closed, it goes on, unless it is paused as well. */
export const extendWhole: ActOn<'whole', 'extendWhole'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => {
    if (!steers(state, context)) return refusal('not-controller');
    return underWay.includes(state.phase) ? null : refusal('not-extendable');
  },
  needs: ({ due, closes, closed }) => ({ due, closes, timeNeeded: closed !== null }),
  effect: ({ draft, context, emit }, { due, closes }) => {
    const bad = badTimes(due, closes, context.now);
    if (bad) return bad;
    if (draft.closed === null && due === draft.due && closes === draft.closes) return refusal('no-effect');
    emit({ type: 'circulation.extended', data: { due, closes, ...putOff(draft, draft.paused !== null, context) } });
    return null;
  },
};

/**
 * Seats and stages put off by how long the clocks stood still: what is open or has not been reached yet; plain time for
 * instants, working time for working times, nothing for the time in rework. None while something else still holds them.
 */
function putOff(draft: Draft, held: boolean, context: Context): { seats: SeatTimes[]; stages: StageTimes[] } {
  if (draft.still === null || held || draft.phase !== 'running') return { seats: [], stages: [] };
  const still = { from: draft.still, to: context.now };
  const off = (at: Instant | null, kind: Time | null, person: string | null) =>
    at === null ? at : shifted(at, kind, still, clockOf(context, person));
  const instant = (time: Time | null): Time | null =>
    time?.kind === 'instant' ? { kind: 'instant', at: off(time.at, time, null) as Instant } : time;
  return {
    seats: [...draft.seats.values()].flatMap((seat) => {
      if (seat.gone || isOver(draft.stages.get(seat.stage))) return [];
      const given = seat.status === 'idle' ? ownInstants(draft, seat) : null;
      const times = seat.status === 'asked' ? seat : given;
      if (!times || (times.due === null && times.closes === null)) return [];
      const kinds = given ? { due: atInstant(given.due), closes: atInstant(given.closes) } : targetsOf(draft, seat);
      const person = baseHolder(seat)?.person ?? null;
      const closes = off(times.closes, kinds.closes, person);
      // A due that waits for an answer is put off when the answer comes.
      const due = seat.asking === null ? off(times.due, kinds.due, person) : times.due;
      return [{ seat: seat.id, due: due === null || given ? due : earlier(due, closes), closes }];
    }),
    stages: [...draft.stages.values()]
      .filter((stage) => !isOver(stage))
      .filter((stage) => stage.due?.kind === 'instant' || stage.closes?.kind === 'instant')
      .map((stage) => ({ stage: stage.id, due: instant(stage.due), closes: instant(stage.closes) })),
  };
}

/** The instants that were given to a seat before it is asked, or planned for it alone; null is what its stage says. */
function ownInstants(draft: Draft, seat: SeatRun): { due: Instant | null; closes: Instant | null } {
  const planned = draft.stages.get(seat.stage)?.retimed ? null : seatPlan(draft, seat.id);
  return {
    due: seat.given?.due ?? instantOf(planned?.due ?? null),
    closes: seat.given?.closes ?? instantOf(planned?.closes ?? null),
  };
}

/** Makes another member its controller. */
export const handControl: ActOn<'whole', 'handControl'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => (steers(state, context) ? null : refusal('not-controller')),
  needs: ({ controller }) => ({ not: [controller] }),
  effect: ({ draft, context, emit }, { to, note }) => {
    const facts = context.people.get(to);
    if (to === draft.controller) return refusal('same-person');
    if (!facts || facts.outside) return refusal('unknown-person');
    if (!facts.active) return refusal('person-left');
    emit({ type: 'control.handed', data: { to, note } });
    return null;
  },
};

/** Changes how those who are asked are reminded, from now on. */
export const setReminders: ActOn<'whole', 'setReminders'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => controlled(state, context, beforeFinishing),
  effect: ({ draft, emit }, { plan }) => {
    if (!isReminderPlan(plan)) return refusal('reminders-unfit');
    if (draft.reminders && alike(plan, draft.reminders)) return refusal('no-effect');
    emit({ type: 'reminders.set', data: { plan } });
    return null;
  },
};

export const withdraw: ActOn<'whole', 'withdraw'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => {
    if (!steers(state, context)) return refusal('not-controller');
    // A signature that counts, in a circulation where nothing else is waited for, is as good as released.
    return state.phase === 'finishing' && standing(state).some((decision) => decision.outcome === 'signed')
      ? refusal('signed-already')
      : null;
  },
  effect: ({ emit }, { note }) => {
    if (!note) return refusal('reason-missing');
    emit({ type: 'circulation.withdrawn', data: { note } });
    return null;
  },
};
