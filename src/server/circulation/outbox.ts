import type { Context } from '@/core/circulation/commands';
import { system } from '@/core/circulation/events';
import { holders } from '@/core/circulation/holders';
import { baseHolder, type Circulation } from '@/core/circulation/state';
import { finalsWanted, freezeWanted, releaseWanted } from '@/core/circulation/tasks';
import type { Tx } from '../db/connect';
import { enqueue, type JobData, type MailTemplate } from '../jobs/queue';
import type { Acted } from './act';

/** What follows from events: messages to people and files to make, each left to a job in the same transaction. */
export function sendOut(
  tx: Tx,
  circulation: string,
  before: Circulation | null,
  { state, events }: Acted,
  context: Context,
): void {
  const mail = (template: MailTemplate, person: string, more: Partial<JobData['mail']> = {}) =>
    enqueue(tx, 'mail', { template, person, circulation, ...more });
  const toController = (template: MailTemplate, actor: string, more: Partial<JobData['mail']> = {}) => {
    if (actor !== state.controller) mail(template, state.controller, more);
  };
  const toHolders = (template: MailTemplate, seat: string, more: Partial<JobData['mail']> = {}) => {
    const run = state.seats.get(seat);
    // A group's task that nobody has taken is told to all of its members.
    const people = run ? holders(state, run, context) : [];
    for (const { person } of people) mail(template, person, { seat, epoch: run?.epoch ?? 0, ...more });
  };

  for (const event of events) {
    switch (event.type) {
      case 'seat.asked':
      case 'seat.askedAgain':
        toHolders('asked', event.data.seat);
        break;
      case 'seat.delegated': {
        const { seat, to, from, epoch, note } = event.data;
        mail('asked', to, { seat, epoch, note });
        toController('delegated', event.actor, { seat, by: from });
        break;
      }
      case 'seat.reassigned': {
        const { seat, from, to, epoch, note, status } = event.data;
        const had = before?.seats.get(seat)?.status !== 'idle';
        if (had && from) mail('seatMoved', from, { seat });
        if (status === 'asked') mail('asked', to.person, { seat, epoch, note });
        break;
      }
      case 'seat.readdressed': {
        const { seat, to, epoch } = event.data;
        if (state.seats.get(seat)?.status === 'asked') mail('asked', to, { seat, epoch });
        break;
      }
      case 'secondHolder.added': {
        const { seat, person } = event.data;
        const run = state.seats.get(seat);
        if (run?.status === 'asked') mail('asked', person, { seat, epoch: run.epoch });
        break;
      }
      case 'seat.freed':
        mail('mayRespond', event.data.person, {
          seat: event.data.seat,
          epoch: state.seats.get(event.data.seat)?.epoch ?? 0,
        });
        break;
      case 'delegation.asked':
        mail('delegationAsked', state.controller, { seat: event.data.seat, note: event.data.note, by: event.actor });
        break;
      case 'delegation.refused': {
        const asked = before?.seats.get(event.data.seat)?.proposal?.by;
        if (asked) mail('delegationRefused', asked, { seat: event.data.seat, note: event.data.note });
        break;
      }
      case 'copies.reached':
      case 'copies.sent': {
        const run = state.copies.get(event.data.copies);
        const goes = event.type === 'copies.sent' || !event.data.waits;
        for (const { person, outside } of goes ? (run?.to ?? []) : []) if (!outside) mail('copy', person);
        break;
      }
      case 'circulation.paused':
        for (const seat of state.seats.values())
          if (seat.status === 'asked') toHolders('paused', seat.id, { note: event.data.note, by: event.actor });
        if (event.actor !== state.author) mail('paused', state.author, { note: event.data.note, by: event.actor });
        toController('paused', event.actor, { note: event.data.note, by: event.actor });
        break;
      case 'circulation.wentOn':
        // Whoever was asked before it went on; others are asked by their own message.
        for (const seat of state.seats.values())
          if (seat.status === 'asked' && before?.seats.get(seat.id)?.status === 'asked') toHolders('wentOn', seat.id);
        break;
      case 'question.asked': {
        const { seat, note } = event.data;
        for (const person of new Set([state.controller, state.author]))
          if (person !== event.actor) mail('question', person, { seat, note, by: event.actor });
        break;
      }
      case 'question.answered': {
        const { question, seat, note } = event.data;
        const by = state.questions.get(question)?.by;
        if (by !== undefined && by !== event.actor)
          mail('answered', by, { seat, epoch: state.seats.get(seat)?.epoch ?? 0, note, by: event.actor });
        break;
      }
      case 'control.handed':
        if (event.actor !== event.data.to)
          mail('controlHanded', event.data.to, { note: event.data.note, by: event.actor });
        break;
      case 'circulation.closed':
        toController('closedWhole', system);
        break;
      case 'circulation.extended':
        for (const seat of state.seats.values()) if (seat.status === 'asked') toHolders('extended', seat.id);
        break;
      case 'rework.began':
        if (event.data.cause === 'nobody') toController('nobodyAsked', system);
        break;
      case 'seat.reminded':
        toHolders('reminded', event.data.seat);
        break;
      case 'seat.extended':
        toHolders('extended', event.data.seat);
        break;
      case 'seat.decided': {
        const { seat, note, outcome } = event.data;
        const by = event.actor;
        if (outcome === 'declined') toController('declined', by, { seat, note, by });
        if (outcome === 'returned') {
          if (event.actor !== state.author) mail('returned', state.author, { seat, note, by });
          if (state.author !== state.controller) toController('returned', by, { seat, note, by });
        }
        break;
      }
      case 'seat.missed':
        toController('missed', system, { seat: event.data.seat, by: holderOf(before ?? state, event.data.seat) });
        break;
      case 'stage.held':
        if (event.data.for === 'fields') toController('fieldsWanted', system);
        if (event.data.for === 'time') toController('timeWanted', system);
        if (event.data.for === 'crowd') toController('crowd', system);
        break;
      case 'version.attached':
        if (before && before.phase !== 'new') toController('versionIn', event.actor, { by: event.actor });
        break;
      case 'finals.kept':
        if (!releaseWanted(state)) toController('readyForRelease', system);
        break;
      case 'circulation.withdrawn':
        for (const person of askedEver(state))
          if (person !== event.actor) mail('withdrawn', person, { note: event.data.note });
        break;
      case 'circulation.completed':
        // The notice leaves only now, when the final files have been stored and the revision is current.
        for (const [person, seat] of concerned(state)) mail('released', person, seat ? { seat } : {});
        break;
    }
  }
  const frozenBefore = before ? freezeWanted(before).map((wanted) => JSON.stringify(wanted)) : [];
  for (const wanted of freezeWanted(state))
    if (!frozenBefore.includes(JSON.stringify(wanted))) enqueue(tx, 'freeze', { circulation, ...wanted });
  if (finalsWanted(state) && !(before && finalsWanted(before))) enqueue(tx, 'derive', { circulation });
  if (releaseWanted(state) && !(before && releaseWanted(before))) enqueue(tx, 'release', { circulation });
}

function holderOf(state: Circulation, id: string): string {
  const seat = state.seats.get(id);
  return (seat && baseHolder(seat)?.person) ?? state.controller;
}

/** Everybody who was asked in this circulation and still holds a seat, decided, or wrote it. */
function askedEver(state: Circulation): string[] {
  const people = new Set<string>();
  for (const seat of state.seats.values())
    if (seat.since !== null || seat.decision !== null) for (const { person } of seat.holders) people.add(person);
  if (state.author !== state.controller) people.add(state.author);
  return [...people];
}

/** Whom a release concerns, each with their seat: the controller, the author and everybody whose decision counts in it. */
function concerned(state: Circulation): Map<string, string | null> {
  const people = new Map<string, string | null>([
    [state.controller, null],
    [state.author, null],
  ]);
  for (const seat of state.seats.values())
    if (seat.status === 'decided') {
      const person = state.decisions[seat.decision ?? -1]?.by ?? baseHolder(seat)?.person;
      if (person) people.set(person, seat.id);
    }
  return people;
}
