import { refusal } from '../../refusals';
import { system } from '../run/events';
import { claimOn } from '../run/holders';
import { nameable } from '../run/naming';
import { baseHolder, heldBy, stagePlanOf } from '../run/state';
import { dueMoved } from '../run/times';
import type { ActOn } from './act';
import { notFor, passOn, undelegable, unfit } from './giving';
import { actable, controlled, decidedAlready, steers, whilePaused, within } from './guarding';

// What holders do with whose task it is: take and give back a group's, pass theirs on, name who comes later.

/** Takes a group's task: from then on the others leave it to the one who took it. */
export const take: ActOn<'seat', 'take'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: (state, context, seat) => {
    if (seat.group === null) return refusal('not-a-group');
    const bad = actable(state, context, seat);
    const member = context.groups.get(seat.group)?.members.includes(context.actor) ?? false;
    if (bad) return bad.code === 'not-holder' && member && baseHolder(seat) ? refusal('taken-already') : bad;
    // Whoever covers responds without taking: a claim is a member's.
    if (!member) return refusal('not-a-member');
    return claimOn(seat, context) ? refusal('no-effect') : null;
  },
  needs: (_state, _context, { epoch }) => ({ epoch }),
  effect: ({ draft, context, emit }, _command, seat) => {
    const holder = { person: context.actor, via: 'taken', outside: false, since: context.now } as const;
    const due = dueMoved(draft, { ...seat, holders: heldBy(seat, holder) }, context);
    emit({ type: 'seat.taken', data: { seat: seat.id, person: context.actor, due } });
    return null;
  },
};

/** Gives a task back to its group, by whoever took it or the controller. */
export const giveBack: ActOn<'seat', 'giveBack'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: (state, context, seat) => {
    if (seat.group === null) return refusal('not-a-group');
    const taker = baseHolder(seat)?.person;
    if (taker === undefined) return refusal('not-taken');
    // Who leaves the group, or the house, has what they took given back for them.
    if (context.actor !== taker && context.actor !== system && !steers(state, context)) return refusal('not-holder');
    return (
      within(state, ['running']) ??
      whilePaused(state) ??
      decidedAlready(state, seat) ??
      (seat.status === 'asked' ? null : refusal('seat-not-asked'))
    );
  },
  needs: (_state, _context, { epoch }) => ({ epoch }),
  effect: ({ emit }, _command, seat) => {
    const person = baseHolder(seat)?.person;
    if (person === undefined) return refusal('not-taken');
    emit({ type: 'seat.givenBack', data: { seat: seat.id, person } });
    return null;
  },
};

/** Passes the seat on to somebody whom no rule keeps from it. */
export const delegate: ActOn<'seat', 'delegate'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: (state, context, seat) => {
    const bad = actable(state, context, seat);
    if (bad) return bad;
    if (stagePlanOf(state, seat).allows.delegate === 'no') return refusal('delegate-not-allowed');
    const base = baseHolder(seat);
    if (base?.person === context.actor) return null;
    return refusal(seat.group !== null && !base ? 'take-first' : 'delegate-not-allowed');
  },
  needs: (state, context, seat) => ({
    epoch: seat.epoch,
    not: [...notFor(state, seat, context), ...seat.barred, ...(seat.proposal ? [seat.proposal.to] : [])],
    agreed: stagePlanOf(state, seat).allows.delegate === 'agreed' && context.actor !== state.controller,
    outside: baseHolder(seat)?.outside ?? false,
  }),
  effect: ({ draft, context, emit }, { to, note }, seat) => {
    const bad = undelegable(draft, seat, to, context);
    if (bad) return bad;
    if (stagePlanOf(draft, seat).allows.delegate !== 'agreed' || context.actor === draft.controller)
      return passOn(draft, seat, { to, note, from: context.actor }, context, emit);
    if (seat.proposal?.to === to) return refusal('no-effect');
    emit({ type: 'delegation.asked', data: { seat: seat.id, to, note } });
    return null;
  },
};

/** Agrees that a holder passes their task on, which then happens, or does not. */
export const agree: ActOn<'seat', 'agree'> = {
  on: 'seat',
  right: 'circulation.steer',
  guard: (state, context, seat) =>
    controlled(state, context, ['running']) ?? whilePaused(state) ?? (seat.proposal ? null : refusal('no-proposal')),
  needs: (_state, _context, { epoch }) => ({ epoch }),
  effect: ({ draft, context, emit }, { agreed, note }, seat) => {
    const { proposal } = seat;
    if (!proposal) return refusal('no-proposal');
    if (agreed) return passOn(draft, seat, { to: proposal.to, note: proposal.note, from: proposal.by }, context, emit);
    emit({ type: 'delegation.refused', data: { seat: seat.id, to: proposal.to, note } });
    return null;
  },
};

/** Names who holds a later seat; can be changed until the namer has decided. */
export const name: ActOn<'seat', 'name'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: (state, context, seat) =>
    actable(state, context, seat) ?? (nameable(state, seat).length > 0 ? null : refusal('not-to-name')),
  needs: (state, context, seat) => ({
    epoch: seat.epoch,
    outside: baseHolder(seat)?.outside ?? false,
    names: nameable(state, seat).map((other) => ({
      seat: other.id,
      not: [...notFor(state, other, context), ...other.barred],
    })),
  }),
  effect: ({ draft, context, emit }, { names, to }, seat) => {
    const other = nameable(draft, seat).find((own) => own.id === names);
    if (!other) return refusal('not-to-name');
    const bad = unfit(draft, other, to, context);
    if (bad) return bad;
    const outside = context.people.get(to)?.outside ?? false;
    // Somebody outside knows nobody inside.
    if (baseHolder(seat)?.outside && !outside) return refusal('outside-not-here');
    if (other.barred.includes(to)) return refusal('barred');
    emit({ type: 'seat.named', data: { seat: names, by: seat.id, to, outside, epoch: other.epoch + 1 } });
    return null;
  },
};
