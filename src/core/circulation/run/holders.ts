import { type CoverLink, coverChain, isAway, spanOf } from '../../people/cover';
import { groupAsked, independentStages, roleAsked } from '../../route/route';
import { keepsAuthorOut } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { Context } from './context';
import type { Holder, SeatRun, Via } from './shapes';
import { type Circulation, decisionOf, hasResponded, seatsOfStage, stagePlanOf } from './state';

type Staged = Pick<Circulation, 'plan' | 'retired' | 'author' | 'stages' | 'seats' | 'decisions'>;

/** Somebody who may act on a seat now. Whoever covers does it for the first of their chain. */
export interface Acting extends Omit<Holder, 'via'> {
  readonly via: Via | 'cover';
  readonly cover: readonly CoverLink[];
}

/**
 * Who may act on a seat now, possibly nobody: the only place that says so. Whoever has left may not, and nobody whom a
 * rule keeps from the seat. A group's task is open to every member until one has taken it. Cover adds the end of its chain;
 * the person covered may still act.
 */
export function holders(state: Staged, seat: SeatRun, context: Context): Acting[] {
  const allowed = everybody(state, seat, context).filter((holder) => !isExcluded(state, seat, holder.person, context));
  if (!context.absences.some((absence) => absence.from <= context.now && context.now < absence.to))
    return allowed.map(unaided);
  // Whoever is kept from the seat lends no cover; for a group others step in when all of it is away.
  const open = isOpenToGroup(seat, context);
  const lend =
    open && allowed.some(({ via, person }) => via === 'member' && !isAway(context.absences, person, context.now))
      ? allowed.filter(({ via }) => via !== 'member')
      : allowed;
  const acting = allowed.map(unaided);
  for (const { person, outside } of lend) {
    const chain = outside ? null : chainFor(state, seat, person, context);
    const by = chain?.at(-1)?.by;
    if (!chain || by === undefined || acting.some((one) => samePerson(context, one.person, by))) continue;
    acting.push({ person: by, via: 'cover', outside: false, since: spanOf(chain).from, cover: chain });
  }
  return acting;
}

const unaided = (holder: Holder): Acting => ({ ...holder, cover: [] });

/**
 * Whether somebody may not act on a seat, whoever gives it to them: they have left, would approve their own text, or have
 * responded in a stage that this one is independent of.
 */
export function isExcluded(state: Staged, seat: SeatRun, person: string, context: Context): boolean {
  return (
    context.people.get(person)?.active === false ||
    isAuthorApproving(state, seat, person, context) ||
    respondedElsewhere(state, seat, person, context)
  );
}

/** The chain of cover that a holder lends to a seat; cut where it meets somebody who may not come to it that way. */
function chainFor(state: Staged, seat: SeatRun, person: string, context: Context): readonly CoverLink[] | null {
  const { absences, now, record } = context;
  const work = { verb: stagePlanOf(state, seat).verb, type: record.documentType?.id ?? null };
  const kept = keptFrom(state, seat);
  return coverChain(absences, person, work, now, (by) => {
    const facts = context.people.get(by);
    return (
      !facts ||
      facts.outside ||
      isExcluded(state, seat, by, context) ||
      kept.some((other) => samePerson(context, other, by))
    );
  });
}

/**
 * Whom neither cover nor a group brings to an open seat, whatever the rules of the organization: who was replaced there, everybody
 * who holds a seat of its stage or has responded in it, and whoever has responded in one it is independent of.
 */
export function keptFrom(state: Pick<Circulation, 'plan' | 'stages' | 'seats' | 'decisions'>, seat: SeatRun): string[] {
  const there = peopleInStage(state, seat).map(({ person }) => person);
  return [...new Set([...seat.barred, ...there, ...respondersElsewhere(state, seat)])];
}

/** Everybody who holds a seat of a seat's stage or has responded in one, with which. */
function peopleInStage(
  state: Pick<Circulation, 'stages' | 'seats' | 'decisions'>,
  seat: SeatRun,
): { readonly in: string; readonly person: string }[] {
  const stage = state.stages.get(seat.stage);
  return (stage ? seatsOfStage(state, stage) : []).flatMap((other) => {
    if (other.gone) return [];
    const decision = hasResponded(other) ? decisionOf(state, other) : null;
    const people = [...other.holders.map(({ person }) => person), ...(decision ? [decision.by] : [])];
    return people.map((person) => ({ in: other.id, person }));
  });
}

function isOpenToGroup(seat: SeatRun, context: Context): boolean {
  return seat.group !== null && claimOn(seat, context) === null;
}

/** Who has taken a group's task; null once that has ended, because they left the house or the group, or went away. */
export function claimOn(seat: SeatRun, { groups, people, absences, now }: Context): Holder | null {
  const taker = seat.holders.find((holder) => holder.via === 'taken');
  if (!taker || seat.group === null) return null;
  const { person } = taker;
  const left = !(groups.get(seat.group)?.members.includes(person) ?? false) || people.get(person)?.active === false;
  return left || leftAloneAt(seat, { absences, now }) !== null ? null : taker;
}

/** When whoever has taken a group's task went away after taking it; null where they have not. */
export function leftAloneAt(seat: SeatRun, { absences, now }: Pick<Context, 'absences' | 'now'>): Instant | null {
  const taker = seat.holders.find((holder) => holder.via === 'taken');
  // Whoever takes it while they are away means it.
  const absence = absences.find(
    ({ person, from }) => taker && person === taker.person && from <= now && from > (taker.since ?? 0),
  );
  return absence?.from ?? null;
}

function everybody(state: Staged, seat: SeatRun, context: Context): Holder[] {
  if (seat.group === null) return [...seat.holders];
  const members = context.groups.get(seat.group)?.members ?? [];
  const taker = claimOn(seat, context);
  const seconds = seat.holders.filter((holder) => holder.via === 'second');
  if (taker) return [taker, ...seconds];
  const beside = peopleInStage(state, seat).flatMap((one) => (one.in === seat.id ? [] : [one.person]));
  const not = [...seat.barred, ...beside, ...seconds.map((second) => second.person)];
  const open = members.filter((person) => !not.some((other) => samePerson(context, other, person)));
  return [...open.map((person) => ({ person, via: 'member', outside: false, since: null }) as const), ...seconds];
}

/** Whether two entries are one person, who counts once and does not approve their own text under either of them. */
export function samePerson({ people }: Pick<Context, 'people'>, a: string, b: string): boolean {
  if (a === b) return true;
  const identity = people.get(a)?.identity;
  return identity !== undefined && identity === people.get(b)?.identity;
}

export function mayAct(state: Staged, seat: SeatRun, person: string, context: Context): boolean {
  return actingAs(state, seat, person, context) !== null;
}

/** As what a person may act on a seat now: in their own right, or covering for somebody. Null when they may not. */
export function actingAs(state: Staged, seat: SeatRun, person: string, context: Context): Acting | null {
  return holders(state, seat, context).find((holder) => holder.person === person) ?? null;
}

/** Whether a seat waits, or will wait, for somebody, and nobody is left who could act on it. */
export function isDeserted(state: Circulation, seat: SeatRun, context: Context): boolean {
  const waits = seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended';
  if (!waits || seat.gone || state.ended || holders(state, seat, context).length > 0) return false;
  // Somebody may still be named, and a role is filled when it is sent.
  return seat.status === 'asked' || !isToCome(state, seat);
}

/** Whether who holds the seat is still to be said: named by somebody, found by a role, or made of a group's members. */
function isToCome(state: Pick<Circulation, 'plan' | 'retired' | 'phase'>, seat: SeatRun): boolean {
  const { assignment } = stagePlanOf(state, seat).seats.find((own) => own.id === seat.planned) ?? {};
  if (assignment?.kind === 'named') return seat.holders.length === 0;
  if (!assignment) return false;
  if (roleAsked(assignment) !== null) return state.phase === 'new';
  return groupAsked(assignment)?.members === 'every' && seat.group !== null;
}

/** Whether the person would approve their own text from this seat. */
export function isAuthorApproving(
  state: Pick<Circulation, 'plan' | 'retired' | 'author'>,
  seat: { readonly stage: string },
  person: string,
  context: Pick<Context, 'people' | 'rules'>,
): boolean {
  return (
    samePerson(context, person, state.author) &&
    keepsAuthorOut(stagePlanOf(state, seat).verb, context.rules.authorApproves)
  );
}

/** Whose responses stand, yes or no, in the stages that a seat's is independent of. */
function respondersElsewhere(
  state: Pick<Circulation, 'plan' | 'stages' | 'seats' | 'decisions'>,
  seat: SeatRun,
): string[] {
  return (independentStages(state.plan).get(seat.stage) ?? []).flatMap((id) => {
    const run = state.stages.get(id);
    return (run && !run.gone ? seatsOfStage(state, run) : []).flatMap((other) => {
      const decision = !other.gone && hasResponded(other) ? decisionOf(state, other) : null;
      return decision ? [decision.by] : [];
    });
  });
}

/** Whether this person has responded in a stage that must not be of the same people. */
export function respondedElsewhere(
  state: Pick<Circulation, 'plan' | 'stages' | 'seats' | 'decisions'>,
  seat: SeatRun,
  person: string,
  context: Pick<Context, 'people'>,
): boolean {
  return respondersElsewhere(state, seat).some((by) => samePerson(context, by, person));
}

/**
 * Another seat of the same stage that this person holds or has decided, whoever decided it for them: a person counts once
 * in a stage, later rounds included.
 */
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
    const decision = hasResponded(other) ? decisionOf(state, other) : null;
    if ((decision && same(decision.by)) || other.holders.some((holder) => same(holder.person))) return other;
  }
  return null;
}
