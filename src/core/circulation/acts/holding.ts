import { type Refusal, refusal } from '../../refusals';
import type { Draft } from '../run/evolve';
import type { SeatRun, SeatStatus } from '../run/shapes';
import { baseHolder, heldBy, scopeOf, seenOf } from '../run/state';
import { dueMoved, waitsWhenAsked } from '../run/times';
import type { ActOn } from './act';
import type { CommandOf } from './commands';
import { asAsked, notFor, unfit } from './giving';
import { changesHands, controlled, decidedAlready, underWay } from './guarding';
import { badTimes, type Times, timesAfter, timesToGive } from './times';

// What the controller does with who holds a seat.

/** Gives a seat to another: its epoch rises, so that old pages and links die; who held it is barred. */
export const reassign: ActOn<'seat', 'reassign'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) => {
    const bad = controlled(state, context, underWay);
    if (bad) return bad;
    // Whoever decided or missed may be replaced in rework, and the next round asks the new holder.
    if (state.phase === 'rework') return null;
    return changesHands(state, seat) ?? (seat.status === 'decided' ? decidedAlready(state, seat) : null);
  },
  needs: (state, context, seat) => {
    const base = baseHolder(seat)?.person;
    const seconds = seat.holders.filter((holder) => holder.via === 'second').map((holder) => holder.person);
    const times = timesToGive(seat, context.now);
    return {
      ...times,
      timeNeeded: times.timeNeeded && state.phase === 'running',
      not: notFor(state, seat, context).filter((person) => person === base || !seconds.includes(person)),
    };
  },
  effect: ({ draft, context, emit }, command, seat) => {
    const base = baseHolder(seat);
    const { to, note } = command;
    if (to.person === base?.person) return refusal('same-person');
    const second = seat.holders.some((holder) => holder.person === to.person);
    const bad = second ? null : unfit(draft, seat, to.person, context);
    if (bad) return bad;
    const facts = context.people.get(to.person);
    if (facts && facts.outside !== (to.kind === 'outside')) return refusal('unknown-person');
    const status = statusWhenGiven(draft, seat);
    const times = timesWhenGiven(draft, seat, status, command, context.now);
    if ('code' in times) return times;
    const others = seat.barred.filter((person) => person !== to.person);
    const barred = base ? [...others, base.person] : others;
    const waits = status === 'asked' ? waitsWhenAsked(draft, seat, [to.person], context) : [];
    const outside = to.kind === 'outside';
    const holder = { person: to.person, via: 'reassigned', outside, since: context.now } as const;
    const given = { ...seat, ...times, since: context.now, barred, group: null, holders: heldBy(seat, holder) };
    const due = status === 'asked' ? dueMoved(draft, asAsked(given, waits, context), context) : times.due;
    const from = base?.person ?? null;
    const scope = scopeOf(draft, seat);
    emit({
      type: 'seat.reassigned',
      data: { seat: seat.id, from, to, epoch: seat.epoch + 1, barred, status, ...times, due, scope, note, waits },
    });
    return null;
  },
};

/** What a seat is once it is given to somebody else: asked at once, idle until its turn, or a return that still stands. */
function statusWhenGiven(draft: Draft, seat: SeatRun): SeatStatus {
  if (draft.phase !== 'running' || seat.status === 'idle') return 'idle';
  if (seat.status === 'returned') return 'returned';
  return draft.paused === null && draft.stages.get(seat.stage)?.status === 'open' ? 'asked' : 'idle';
}

/** The times of a seat that is given to somebody else. Those of one that is not asked yet are its own only where given. */
function timesWhenGiven(
  draft: Draft,
  seat: SeatRun,
  status: SeatStatus,
  { due, closes }: CommandOf<'reassign'>,
  now: number,
): Refusal | Times {
  if (status === 'returned') return { due: seat.due, closes: seat.closes };
  const before = { due: seat.given?.due ?? null, closes: seat.given?.closes ?? null };
  if (draft.phase === 'rework') return before;
  if (seat.status !== 'idle') return timesAfter(seat, { due, closes }, now);
  return badTimes(due, closes, now) ?? { due: due ?? before.due, closes: closes ?? before.closes };
}

/** Corrects where somebody outside is reached: the old link dies, nobody is barred, their time begins anew. */
export const correctAddress: ActOn<'seat', 'correctAddress'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) => {
    const bad = controlled(state, context, underWay);
    if (bad) return bad;
    return baseHolder(seat)?.outside
      ? (changesHands(state, seat) ?? decidedAlready(state, seat))
      : refusal('not-outside');
  },
  needs: (state, context, seat) => ({ not: notFor(state, seat, context) }),
  effect: ({ draft, context, emit }, { to, note }, seat) => {
    const from = baseHolder(seat)?.person ?? '';
    if (!context.people.get(to)?.outside) return refusal('unknown-person');
    const bad = unfit(draft, seat, to, context);
    if (bad) return bad;
    const asked = seat.status === 'asked';
    const waits = asked ? waitsWhenAsked(draft, seat, [to], context) : [];
    const opened = seenOf(draft, seat)?.at ?? null;
    const holder = { person: to, via: 'reassigned', outside: true, since: context.now } as const;
    const then = asAsked({ ...seat, holders: heldBy(seat, holder) }, waits, context);
    const due = asked ? dueMoved(draft, then, context) : seat.due;
    const scope = scopeOf(draft, seat);
    emit({
      type: 'seat.readdressed',
      data: { seat: seat.id, from, to, epoch: seat.epoch + 1, opened, due, scope, note, waits },
    });
    return null;
  },
};

export const addSecondHolder: ActOn<'seat', 'addSecondHolder'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) =>
    controlled(state, context, underWay) ??
    changesHands(state, seat) ??
    (state.phase === 'rework' || seat.status === 'asked' || seat.status === 'idle' ? null : refusal('seat-not-asked')),
  needs: (state, context, seat) => ({ not: notFor(state, seat, context) }),
  effect: ({ draft, context, emit }, { person }, seat) => {
    const bad = unfit(draft, seat, person, context);
    if (bad) return bad;
    if (context.people.get(person)?.outside) return refusal('outside-not-second');
    const waits = seat.status === 'asked' ? waitsWhenAsked(draft, seat, [person], context) : [];
    emit({ type: 'secondHolder.added', data: { seat: seat.id, person, scope: scopeOf(draft, seat), waits } });
    return null;
  },
};

export const dropSecondHolder: ActOn<'seat', 'dropSecondHolder'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) =>
    controlled(state, context, underWay) ??
    changesHands(state, seat) ??
    (seat.holders.some((holder) => holder.via === 'second') ? null : refusal('not-second-holder')),
  effect: ({ emit }, { person }, seat) => {
    if (!seat.holders.some((holder) => holder.via === 'second' && holder.person === person))
      return refusal('not-second-holder');
    emit({ type: 'secondHolder.dropped', data: { seat: seat.id, person } });
    return null;
  },
};

export const copyLink: ActOn<'seat', 'copyLink'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) => {
    const bad = controlled(state, context, underWay);
    if (bad) return bad;
    if (!baseHolder(seat)?.outside) return refusal('not-outside');
    if (seat.status === 'idle') return refusal('seat-not-asked');
    return seat.linkCopied === seat.epoch ? refusal('no-effect') : null;
  },
  effect: ({ emit }, _command, { id, epoch }) => {
    emit({ type: 'link.copied', data: { seat: id, epoch } });
    return null;
  },
};
