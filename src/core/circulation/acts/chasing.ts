import { refusal } from '../../refusals';
import { instantOf } from '../../route/route';
import { beginRework } from '../run/settle';
import type { StageRun } from '../run/shapes';
import { isGathering, isStuck, isUnansweredStop, reachableOf, scopeOf, tallyOf } from '../run/state';
import { allWait, askedNow, dueMoved, waitsWhenAsked } from '../run/times';
import type { ActOn } from './act';
import { asAsked } from './giving';
import { bySystem, controlled, decidedAlready, stageOpen, stageOver, whilePaused, within } from './guarding';
import { badStageTimes, badTimes, timesAfter, timesToGive } from './times';

// What the controller does so that a seat or a stage goes on: remind, more time, ask again, go on without somebody.

const hour = 3_600_000;

/** Gives a seat that is asked or missed a new due and closing time. */
export const extend: ActOn<'seat', 'extend'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) =>
    controlled(state, context, ['running']) ??
    stageOver(state, seat) ??
    (seat.status === 'missed' ? whilePaused(state) : null) ??
    (seat.status === 'asked' || seat.status === 'missed'
      ? null
      : (decidedAlready(state, seat) ?? refusal('seat-not-asked'))),
  needs: (_state, { now }, seat) => timesToGive(seat, now),
  effect: ({ draft, context, emit }, { due, closes }, seat) => {
    const bad = badTimes(due, closes, context.now);
    if (bad) return bad;
    if (seat.status === 'asked' && seat.due === due && seat.closes === closes) return refusal('no-effect');
    if (draft.stages.get(seat.stage)?.status !== 'open') return refusal('seat-not-asked');
    const then = dueMoved(draft, { ...seat, due, closes, status: 'asked' }, context);
    emit({ type: 'seat.extended', data: { seat: seat.id, due: then, closes, status: 'asked' } });
    return null;
  },
};

/** Asks somebody again who declined; where closing has passed a time is needed. */
export const askAgain: ActOn<'seat', 'askAgain'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) =>
    controlled(state, context, ['running']) ??
    whilePaused(state) ??
    stageOpen(state, seat) ??
    (seat.status === 'declined' ? null : (decidedAlready(state, seat) ?? refusal('seat-not-asked'))),
  needs: (_state, { now }, seat) => timesToGive(seat, now),
  effect: ({ draft, context, emit }, command, seat) => {
    const times = timesAfter(seat, command, context.now);
    if ('code' in times) return times;
    // Whoever declined for a holder covers again: what they responded no longer counts.
    const to = askedNow(draft, { ...seat, status: 'asked', decision: null }, context);
    const waits = waitsWhenAsked(draft, seat, to, context);
    const due = dueMoved(draft, asAsked({ ...seat, ...times, since: context.now }, waits, context), context);
    emit({ type: 'seat.askedAgain', data: { seat: seat.id, ...times, due, to, scope: scopeOf(draft, seat), waits } });
    return null;
  },
};

/** Goes on without somebody who declined, where the rule of the stage can be met without them. */
export const pass: ActOn<'seat', 'pass'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) => {
    const bad = controlled(state, context, ['running']) ?? stageOpen(state, seat);
    if (bad) return bad;
    if (!isUnansweredStop(state, seat)) return refusal('no-stop');
    const stage = state.stages.get(seat.stage) as StageRun;
    return tallyOf(state, stage).reachable ? null : refusal('rule-needs-it');
  },
  effect: ({ emit }, { note }, { id }) => {
    emit({ type: 'seat.passed', data: { seat: id, note } });
    return null;
  },
};

export const remind: ActOn<'seat', 'remind'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) => {
    const bad = controlled(state, context, ['running']) ?? whilePaused(state);
    if (bad) return bad;
    if (seat.status !== 'asked') return refusal('seat-not-asked');
    if (allWait(state, seat, context)) return refusal('waits-still');
    const lately = seat.reminded[seat.reminded.length - 1];
    return lately !== undefined && context.now - lately < hour ? refusal('reminded-recently') : null;
  },
  effect: ({ emit }, _command, { id }) => {
    emit({ type: 'seat.reminded', data: { seat: id, point: null } });
    return null;
  },
};

/** Reminds for a point of the plan, or notes who was told of the silence; each point once. */
export const giveNotice: ActOn<'seat', 'giveNotice'> = {
  on: 'seat',
  right: null,
  guard: (state, context, seat) =>
    bySystem(context) ??
    within(state, ['running']) ??
    whilePaused(state) ??
    (seat.status === 'asked' ? null : refusal('seat-not-asked')),
  effect: ({ emit }, { to, person, point }, seat) => {
    if (to === 'holder') {
      if (seat.pointed !== null && seat.pointed >= point) return refusal('no-effect');
      emit({ type: 'seat.reminded', data: { seat: seat.id, point } });
      return null;
    }
    if (seat.told.includes(to)) return refusal('no-effect');
    emit({ type: 'seat.lateTold', data: { seat: seat.id, to, person, point } });
    return null;
  },
};

/** Gives a held stage new times, so that it asks. */
export const setTimes: ActOn<'stage', 'setTimes'> = {
  on: 'stage',
  right: 'circulation.steer',
  guard: (state, context, stage) =>
    controlled(state, context, ['running']) ?? (stage.held === 'time' ? null : refusal('not-held')),
  needs: (_state, _context, { due, closes }) => ({
    due: instantOf(due),
    closes: instantOf(closes),
    timeNeeded: true,
  }),
  effect: ({ context, emit }, command, { id }) => {
    const bad = badStageTimes(command, context.now);
    if (bad) return bad;
    emit({ type: 'stage.timed', data: { stage: id, due: command.due, closes: command.closes } });
    return null;
  },
};

/** Says how many are enough in a stage that is stuck: as many as have said yes or may still do so, at most. */
export const setEnough: ActOn<'stage', 'setEnough'> = {
  on: 'stage',
  right: 'circulation.steer',
  guard: (state, context, stage) => {
    const bad = controlled(state, context, ['running']);
    if (bad) return bad;
    if (!isStuck(state, stage)) return refusal('not-stuck');
    return reachableOf(state, stage) === 0 ? refusal('enough-unfit') : null;
  },
  needs: (state, _context, stage) => ({ most: reachableOf(state, stage) }),
  effect: ({ draft, emit }, { k }, stage) => {
    if (!Number.isInteger(k) || k < 1 || k > reachableOf(draft, stage)) return refusal('enough-unfit');
    emit({ type: 'stage.ruled', data: { stage: stage.id, k } });
    return null;
  },
};

/** Ends waiting for the others of a stage in which somebody has returned. */
export const endGathering: ActOn<'stage', 'endGathering'> = {
  on: 'stage',
  right: 'circulation.steer',
  guard: (state, context, stage) =>
    controlled(state, context, ['running']) ?? (isGathering(state, stage) ? null : refusal('not-gathering')),
  effect: ({ draft, emit }, _command, stage) => {
    const returned = stage.seats.find((id) => draft.seats.get(id)?.status === 'returned');
    beginRework(draft, 'returned', returned ?? null, emit);
    return null;
  },
};
