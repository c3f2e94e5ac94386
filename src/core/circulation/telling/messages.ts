import type { Outcome } from '../../route/verbs';
import { alike } from '../../trail/canonical';
import type { Context } from '../run/context';
import { type CirculationEvent, system } from '../run/events';
import { holders } from '../run/holders';
import type { PayloadHash, SeatRun } from '../run/shapes';
import { baseHolder, type Circulation, closesOf, dueOf, scopeOf, seenOf, stagePlanOf } from '../run/state';
import { releaseWanted } from './tasks';

/** What a message about a circulation tells. */
export type MessageKind =
  | 'asked'
  | 'reminded'
  | 'extended'
  | 'returned'
  | 'declined'
  | 'missed'
  | 'fieldsWanted'
  | 'timeWanted'
  | 'versionIn'
  | 'seatMoved'
  | 'withdrawn'
  | 'readyForRelease'
  | 'released'
  | 'mayRespond'
  | 'delegated'
  | 'delegationAsked'
  | 'delegationRefused'
  | 'copy'
  | 'crowd'
  | 'closedWhole'
  | 'paused'
  | 'wentOn'
  | 'controlHanded'
  | 'question'
  | 'answered'
  | 'nobodyAsked'
  | 'amended'
  | 'late'
  | 'opened'
  | 'responded'
  | 'stageDone';

/** One message to one person: about which of their seats, with what was said, and by whom. */
export interface Message {
  readonly template: MessageKind;
  readonly person: string;
  readonly seat?: string;
  readonly epoch?: number;
  readonly note?: PayloadHash | null;
  /** Who did what it tells, as it was then. */
  readonly by?: string;
  /** What they responded; which stage it is about. */
  readonly outcome?: Outcome;
  readonly stage?: string;
  /** Whether it goes out in one with others of its kind to the same person. */
  readonly gather?: boolean;
}

type About = Omit<Message, 'template' | 'person'>;

/** Whom events concern who are told of them, in order: what is previewed is what is sent. */
export function messagesOf(
  before: Circulation | null,
  { state, events }: { readonly state: Circulation; readonly events: readonly CirculationEvent[] },
  context: Context,
): Message[] {
  const messages: Message[] = [];
  const followers = [...context.following].flatMap(([person, level]) => (level === 'everything' ? [person] : []));
  const mail = (template: MessageKind, person: string, about: About = {}) =>
    messages.push({ template, person, ...about });
  const toController = (template: MessageKind, actor: string, about: About = {}) => {
    if (actor !== state.controller) mail(template, state.controller, about);
  };
  /** Whoever steers it and whoever follows it are told how it goes, each once, and nobody of what they did. */
  const toFollowers = (template: MessageKind, about: About, without: readonly string[] = []) => {
    for (const person of new Set([state.controller, ...followers]))
      if (person !== context.actor && !without.includes(person)) mail(template, person, about);
  };
  const toHolders = (template: MessageKind, seat: string, about: About = {}) => {
    const run = state.seats.get(seat);
    // A group's task that nobody has taken is told to all of its members.
    const people = run ? holders(state, run, context) : [];
    for (const { person } of people) mail(template, person, { seat, epoch: run?.epoch ?? 0, ...about });
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
      case 'secondHolder.dropped':
        if (state.seats.get(event.data.seat)?.status === 'asked')
          mail('seatMoved', event.data.person, { seat: event.data.seat });
        break;
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
        for (const person of new Set([state.author, state.controller, ...followers]))
          if (person !== event.actor && !messages.some((one) => one.template === 'paused' && one.person === person))
            mail('paused', person, { note: event.data.note, by: event.actor });
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
      case 'circulation.amended':
        for (const [person, seat] of noticing(before, state, event.data, context))
          if (person !== event.actor)
            mail(seat === null ? 'seatMoved' : 'amended', person, {
              ...(seat === null ? {} : { seat: seat.id, epoch: seat.epoch }),
              note: event.data.reason,
              by: event.actor,
            });
        break;
      case 'control.handed':
        if (event.actor !== event.data.to)
          mail('controlHanded', event.data.to, { note: event.data.note, by: event.actor });
        break;
      case 'circulation.closed':
        toController('closedWhole', system);
        break;
      case 'circulation.extended':
        // Where it was closed they are asked again; else only whose own time it moves is told.
        for (const seat of state.seats.values()) {
          const was = before?.seats.get(seat.id);
          const moved = !before || !was || before.closed !== null || !alike(timesOf(before, was), timesOf(state, seat));
          if (seat.status === 'asked' && moved) toHolders('extended', seat.id);
        }
        break;
      case 'rework.began':
        if (event.data.cause === 'nobody') toController('nobodyAsked', system);
        break;
      case 'seat.reminded':
        toHolders('reminded', event.data.seat, event.data.point === null ? {} : { gather: true });
        break;
      case 'seat.lateTold':
        mail('late', event.data.person, {
          seat: event.data.seat,
          by: holderOf(state, event.data.seat),
          gather: true,
        });
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
        const stops = outcome === 'declined' || outcome === 'returned';
        const told = stops ? [state.controller, ...(outcome === 'returned' ? [state.author] : [])] : [];
        toFollowers('responded', { seat, note, by, outcome }, told);
        break;
      }
      case 'seat.seen': {
        // Told once for each time they are asked.
        const { seat, epoch } = event.data;
        const was = before?.seats.get(seat);
        const first = before && was && seenOf(before, was) === null;
        if (first) toFollowers('opened', { seat, epoch, by: event.actor });
        break;
      }
      case 'stage.closed': {
        const { stage } = event.data;
        if (state.stages.get(stage)?.status === 'done') toFollowers('stageDone', { stage });
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
        if (before && before.phase !== 'new' && state.phase === 'rework')
          toController('versionIn', event.actor, { by: event.actor });
        break;
      case 'finals.kept':
        if (!releaseWanted(state)) toController('readyForRelease', system);
        break;
      case 'circulation.withdrawn':
        for (const person of new Set([...toldOfWithdrawal(state, context), ...followers]))
          if (person !== event.actor) mail('withdrawn', person, { note: event.data.note });
        break;
      case 'circulation.completed':
        // The notice leaves only now, when the final files have been stored and the revision is current.
        for (const [person, seat] of concerned(state, followers)) mail('released', person, seat ? { seat } : {});
        break;
    }
  }
  return messages;
}

/**
 * Whom an amendment concerns who have been asked before: whose seat is no longer needed (null), and for whom words, times,
 * files or what is allowed become other ones. Who is new is asked by their own message.
 */
function noticing(
  before: Circulation | null,
  after: Circulation,
  { note }: Extract<CirculationEvent, { type: 'circulation.amended' }>['data'],
  context: Context,
): Map<string, SeatRun | null> {
  const people = new Map<string, SeatRun | null>();
  const seats = [...(before?.seats.values() ?? [])].filter((was) => was.status === 'asked' && !was.gone);
  for (const was of seats) {
    const seat = after.seats.get(was.id);
    if (seat?.gone === 'removed')
      for (const { person } of holders(before as Circulation, was, context))
        if (!people.has(person)) people.set(person, null);
    if (!before || !seat || seat.status !== 'asked' || seat.gone) continue;
    const other =
      note !== before.note ||
      !alike(timesOf(before, was), timesOf(after, seat)) ||
      scopeOf(before, was) !== scopeOf(after, seat) ||
      !alike(stagePlanOf(before, was).allows, stagePlanOf(after, seat).allows);
    if (other) for (const { person } of holders(after, seat, context)) people.set(person, seat);
  }
  return people;
}

const timesOf = (state: Circulation, seat: SeatRun) => [dueOf(state, seat), closesOf(state, seat)];

function holderOf(state: Circulation, id: string): string {
  const seat = state.seats.get(id);
  return (seat && baseHolder(seat)?.person) ?? state.controller;
}

/** Everybody who was asked in this circulation and still holds a seat or could take one, decided, or wrote it. */
function toldOfWithdrawal(state: Circulation, context: Context): string[] {
  const people = new Set<string>();
  for (const seat of state.seats.values()) {
    const waits = seat.status === 'asked' || seat.status === 'suspended';
    if (waits && !seat.gone) for (const { person } of holders(state, seat, context)) people.add(person);
    if (seat.since !== null || seat.decision !== null) for (const { person } of seat.holders) people.add(person);
  }
  if (state.author !== state.controller) people.add(state.author);
  return [...people];
}

/** Whom a release concerns, each with their seat: controller, author, whose decision counts in it, and who follows it. */
function concerned(state: Circulation, followers: readonly string[]): Map<string, string | null> {
  const people = new Map<string, string | null>([
    [state.controller, null],
    [state.author, null],
  ]);
  for (const seat of state.seats.values())
    if (seat.status === 'decided') {
      const person = state.decisions[seat.decision ?? -1]?.by ?? baseHolder(seat)?.person;
      if (person) people.set(person, seat.id);
    }
  for (const person of followers) if (!people.has(person)) people.set(person, null);
  return people;
}
