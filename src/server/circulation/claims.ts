import { type Action, type Actor, involvedIn, may, type Subject } from '@/core/access/may';
import { acts } from '@/core/circulation/acts/acts';
import type { Act } from '@/core/circulation/acts/commands';
import { coverOver } from '@/core/circulation/acts/guarding';
import type { CirculationEvent } from '@/core/circulation/run/events';
import { everAsked } from '@/core/circulation/run/everAsked';
import { mayAct } from '@/core/circulation/run/holders';
import type { Circulation } from '@/core/circulation/run/state';
import type { Tx } from '../db/connect';
import { circulationStream, eventsOf } from '../events/streams';
import type { Claim } from '../operations/operation';
import { coveredNow } from '../organization/absences';
import { membersAmong } from '../organization/groups';
import { leadsOf } from '../organization/units';
import { Refused, refuse } from '../refused';
import { contextOf } from './context';
import { circulationState } from './load';

/** A circulation as the table of rights sees it. */
export async function circulationSubject(
  tx: Tx,
  id: string,
  state: Circulation,
  actor: Actor | null = null,
): Promise<Extract<Subject, { kind: 'circulation' }>> {
  const { controller, author } = state;
  // Whoever belongs to a group that is asked is asked.
  const involved = await membersAmong(tx, involvedIn(state));
  // So is whoever covers; hardly anybody does, so only for somebody whom it does not concern otherwise.
  if (actor?.kind === 'member' && !involved.includes(actor.person) && (await covers(tx, state, actor.person)))
    involved.push(actor.person);
  return { kind: 'circulation', id, controller, author, involved, leads: await leadsOf(tx, state.records[0] ?? '') };
}

/** Whether somebody covers for a person who is asked in a circulation now. */
async function covers(tx: Tx, state: Circulation, person: string): Promise<boolean> {
  const running = await coveredNow(tx);
  if (!running.some((absence) => absence.covers.some(({ by }) => by === person))) return false;
  const context = await contextOf(tx, state, person);
  return [...state.seats.values()].some(
    (seat) =>
      !seat.gone && (seat.status === 'asked' || seat.status === 'suspended') && mayAct(state, seat, person, context),
  );
}

/** A circulation that somebody steers; for anybody else it is not there. */
export async function steeredBy(tx: Tx, circulation: string, actor: Actor): Promise<Circulation> {
  const state = await circulationState(tx, circulation);
  const steers = state && may(actor, 'circulation.steer', await circulationSubject(tx, circulation, state));
  if (!state || !steers) refuse('not-found');
  return state;
}

/** The claim of an operation on one circulation. */
export function onCirculation(action: Action) {
  return (tx: Tx, input: { readonly circulation: string }, actor: Actor): Promise<Claim | null> =>
    claimOn(tx, input.circulation, action, actor);
}

/** The claim of an operation by which members put an act. */
export function onAct(act: Act) {
  const { right } = acts[act];
  if (right === null) throw new Error(`No member puts ${act}.`);
  return onCirculation(right);
}

export async function claimOn(tx: Tx, circulation: string, action: Action, actor: Actor): Promise<Claim | null> {
  const state = await circulationState(tx, circulation);
  if (!state) return null;
  const subject = await circulationSubject(tx, circulation, state, actor);
  const refuseFormer = () =>
    actor.kind === 'member' ? former(tx, circulation, state, actor.person) : Promise.resolve();
  return { action, subject, refuseFormer };
}

/** Tells somebody who was asked here once, or covered here lately, that this is over. */
async function former(tx: Tx, circulation: string, state: Circulation, person: string): Promise<void> {
  const context = await contextOf(tx, state, person);
  for (const seat of state.seats.values()) {
    const over = coverOver(state, seat, context);
    if (over) throw new Refused(over);
  }
  if (everAsked(await eventsOf<CirculationEvent>(tx, circulationStream(circulation)), person))
    refuse('no-longer-yours');
}
