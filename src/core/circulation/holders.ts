import type { Context } from './commands';
import type { Holder } from './events';
import { type Circulation, decisionOf, type SeatRun, stagePlanOf } from './state';

type Staged = Pick<Circulation, 'plan' | 'author' | 'stages' | 'seats' | 'decisions'>;

/**
 * Who may act on a seat now, possibly nobody: the only place that says so. Whoever has left may not, and nobody whom a
 * rule keeps from the seat. A group's task is open to every member until one has taken it.
 */
export function holders(state: Staged, seat: SeatRun, context: Context): Holder[] {
  return everybody(state, seat, context).filter(
    ({ person }) => context.people.get(person)?.active !== false && !isAuthorApproving(state, seat, person, context),
  );
}

function everybody(state: Staged, seat: SeatRun, context: Context): Holder[] {
  if (seat.group === null) return [...seat.holders];
  const members = context.groups.get(seat.group)?.members ?? [];
  const taker = seat.holders.find((holder) => holder.via === 'taken');
  const seconds = seat.holders.filter((holder) => holder.via === 'second');
  // A claim ends when its taker leaves, the house or the group.
  if (taker && members.includes(taker.person) && context.people.get(taker.person)?.active !== false)
    return [taker, ...seconds];
  const open = members.filter(
    (person) =>
      !seat.barred.includes(person) &&
      !seconds.some((second) => samePerson(context, second.person, person)) &&
      otherSeatInStage(state, seat, person, context) === null,
  );
  return [...open.map((person) => ({ person, via: 'member', outside: false, since: null }) as const), ...seconds];
}

/** Whether two entries are one person, who counts once and does not approve their own text under either of them. */
export function samePerson({ people }: Pick<Context, 'people'>, a: string, b: string): boolean {
  if (a === b) return true;
  const identity = people.get(a)?.identity;
  return identity !== undefined && identity === people.get(b)?.identity;
}

export function mayAct(state: Staged, seat: SeatRun, person: string, context: Context): boolean {
  return holders(state, seat, context).some((holder) => holder.person === person);
}

/** Whether a seat waits, or will wait, for somebody, and nobody is left who could act on it. */
export function isDeserted(state: Circulation, seat: SeatRun, context: Context): boolean {
  const waits = seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended';
  if (!waits || seat.gone || state.ended || holders(state, seat, context).length > 0) return false;
  // Somebody may still be named, and a role is filled when it is sent.
  return seat.status === 'asked' || !isToCome(state, seat);
}

/** Whether who holds the seat is still to be said: named by somebody, found by a role, or made of a group's members. */
function isToCome(state: Pick<Circulation, 'plan' | 'phase'>, seat: SeatRun): boolean {
  const { assignment } = stagePlanOf(state, seat).seats.find((own) => own.id === seat.planned) ?? {};
  if (assignment?.kind === 'named') return seat.holders.length === 0;
  if (assignment?.kind === 'role') return state.phase === 'new';
  return assignment?.kind === 'group' && assignment.members === 'every' && seat.group !== null;
}

/** Whether the person would approve their own text from this seat. */
export function isAuthorApproving(
  state: Pick<Circulation, 'plan' | 'author'>,
  seat: { readonly stage: string },
  person: string,
  context: Pick<Context, 'people' | 'rules'>,
): boolean {
  return (
    samePerson(context, person, state.author) &&
    !context.rules.authorApproves &&
    stagePlanOf(state, seat).verb === 'approve'
  );
}

/** Another seat of the same stage that this person holds or has decided: a person counts once in a stage. */
export function otherSeatInStage(
  state: Pick<Circulation, 'stages' | 'seats' | 'decisions'>,
  seat: SeatRun,
  person: string,
  context: Pick<Context, 'people'>,
): SeatRun | null {
  const same = (other: string) => samePerson(context, other, person);
  for (const id of state.stages.get(seat.stage)?.seats ?? []) {
    const other = state.seats.get(id);
    if (!other || other.gone || other.id === seat.id) continue;
    const decision = other.status === 'decided' || other.status === 'returned' ? decisionOf(state, other) : null;
    if (decision ? same(decision.by) : other.holders.some((holder) => same(holder.person))) return other;
  }
  return null;
}
