import type { Outcome } from '../../route/verbs';
import { alike } from '../../trail/canonical';
import type { Context } from '../run/context';
import { type CirculationEvent, type CirculationEventType, system } from '../run/events';
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

/** What telling of an event needs: how things stood before all of them and stand after, and ways to tell. */
interface Post {
  readonly before: Circulation | null;
  readonly state: Circulation;
  readonly context: Context;
  readonly followers: readonly string[];
  readonly mail: (template: MessageKind, person: string, about?: About) => void;
  readonly toController: (template: MessageKind, actor: string, about?: About) => void;
  /** Whoever steers it and whoever follows it are told how it goes, each once, and nobody of what they did. */
  readonly toFollowers: (template: MessageKind, about: About, without?: readonly string[]) => void;
  /** Whoever may act on a seat; a group's task that nobody has taken is told to all of its members. */
  readonly toHolders: (template: MessageKind, seat: string, about?: About) => void;
}

/** Whom events concern who are told of them, in order: what is previewed is what is sent. */
export function messagesOf(
  before: Circulation | null,
  { state, events }: { readonly state: Circulation; readonly events: readonly CirculationEvent[] },
  context: Context,
): Message[] {
  const messages: Message[] = [];
  const followers = [...context.following].flatMap(([person, level]) => (level === 'everything' ? [person] : []));
  const mail: Post['mail'] = (template, person, about = {}) => messages.push({ template, person, ...about });
  const post: Post = {
    before,
    state,
    context,
    followers,
    mail,
    toController: (template, actor, about) => {
      if (actor !== state.controller) mail(template, state.controller, about);
    },
    toFollowers: (template, about, without = []) => {
      for (const person of new Set([state.controller, ...followers]))
        if (person !== context.actor && !without.includes(person)) mail(template, person, about);
    },
    toHolders: (template, seat, about = {}) => {
      const run = state.seats.get(seat);
      for (const { person } of run ? holders(state, run, context) : [])
        mail(template, person, { seat, epoch: run?.epoch ?? 0, ...about });
    },
  };
  // Each row takes events of its own type, which the compiler cannot follow through the table.
  for (const event of events) (tells[event.type] as (own: CirculationEvent, post: Post) => void)(event, post);
  return messages;
}

type Tell<T extends CirculationEventType> = (event: Extract<CirculationEvent, { type: T }>, post: Post) => void;

/** It is in the trail; nobody is told. */
const nobody = () => {};

function copiesGo(copies: string, { state, mail }: Post): void {
  for (const { person, outside } of state.copies.get(copies)?.to ?? []) if (!outside) mail('copy', person);
}

/** Whom each event is told to. */
const tells: { readonly [T in CirculationEventType]: Tell<T> } = {
  'circulation.created': nobody,
  'route.planned': nobody,
  'facts.given': nobody,
  'fields.put': nobody,
  'version.attached': ({ actor }, { before, state, toController }) => {
    if (before && before.phase !== 'new' && state.phase === 'rework') toController('versionIn', actor, { by: actor });
  },
  'circulation.sent': nobody,
  'circulation.amended': ({ actor, data }, { before, state, context, mail }) => {
    for (const [person, seat] of noticing(before, state, data, context))
      if (person !== actor)
        mail(seat === null ? 'seatMoved' : 'amended', person, {
          ...(seat === null ? {} : { seat: seat.id, epoch: seat.epoch }),
          note: data.reason,
          by: actor,
        });
  },
  'circulation.paused': ({ actor, data: { note } }, { state, context, followers, mail }) => {
    const told = new Set([actor]);
    for (const seat of state.seats.values())
      for (const { person } of seat.status === 'asked' ? holders(state, seat, context) : []) {
        mail('paused', person, { seat: seat.id, epoch: seat.epoch, note, by: actor });
        told.add(person);
      }
    for (const person of new Set([state.author, state.controller, ...followers]))
      if (!told.has(person)) mail('paused', person, { note, by: actor });
  },
  'circulation.wentOn': (_event, { before, state, toHolders }) => {
    // Whoever was asked before it went on; others are asked by their own message.
    for (const seat of state.seats.values())
      if (seat.status === 'asked' && before?.seats.get(seat.id)?.status === 'asked') toHolders('wentOn', seat.id);
  },
  'control.handed': ({ actor, data: { to, note } }, { mail }) => {
    if (actor !== to) mail('controlHanded', to, { note, by: actor });
  },
  'circulation.closed': (_event, { toController }) => toController('closedWhole', system),
  'circulation.extended': (_event, { before, state, toHolders }) => {
    // Where it was closed they are asked again; else only whose own time it moves is told.
    for (const seat of state.seats.values()) {
      const was = before?.seats.get(seat.id);
      const moved = !before || !was || before.closed !== null || !alike(timesOf(before, was), timesOf(state, seat));
      if (seat.status === 'asked' && moved) toHolders('extended', seat.id);
    }
  },
  'part.decided': nobody,
  'group.resolved': nobody,
  'copies.reached': ({ data: { copies, waits } }, post) => {
    if (!waits) copiesGo(copies, post);
  },
  'copies.sent': ({ data }, post) => copiesGo(data.copies, post),
  'stage.opened': nobody,
  'stage.held': ({ data }, { toController }) => {
    const wanted = { fields: 'fieldsWanted', time: 'timeWanted', crowd: 'crowd', freezing: null } as const;
    const template = wanted[data.for];
    if (template) toController(template, system);
  },
  'stage.freed': nobody,
  'stage.ruled': nobody,
  'stage.timed': nobody,
  'stage.stuck': nobody,
  'stage.healed': nobody,
  'stage.closed': ({ data: { stage } }, { state, toFollowers }) => {
    if (state.stages.get(stage)?.status === 'done') toFollowers('stageDone', { stage });
  },
  'stage.released': nobody,
  'file.frozen': nobody,
  'seat.asked': ({ data }, { toHolders }) => toHolders('asked', data.seat),
  'seat.askedAgain': ({ data }, { toHolders }) => toHolders('asked', data.seat),
  'seat.seen': ({ actor, data: { seat, epoch } }, { before, toFollowers }) => {
    // Told once for each time they are asked.
    const was = before?.seats.get(seat);
    if (before && was && seenOf(before, was) === null) toFollowers('opened', { seat, epoch, by: actor });
  },
  'seat.freed': ({ data: { seat, person } }, { state, mail }) =>
    mail('mayRespond', person, { seat, epoch: state.seats.get(seat)?.epoch ?? 0 }),
  'seat.taken': nobody,
  'seat.givenBack': nobody,
  'seat.named': nobody,
  'seat.decided': ({ actor: by, data: { seat, note, outcome } }, { state, mail, toController, toFollowers }) => {
    if (outcome === 'declined') toController('declined', by, { seat, note, by });
    if (outcome === 'returned') {
      if (by !== state.author) mail('returned', state.author, { seat, note, by });
      if (state.author !== state.controller) toController('returned', by, { seat, note, by });
    }
    const stops = outcome === 'declined' || outcome === 'returned';
    const told = stops ? [state.controller, ...(outcome === 'returned' ? [state.author] : [])] : [];
    toFollowers('responded', { seat, note, by, outcome }, told);
  },
  'seat.missed': ({ data: { seat } }, { before, state, toController }) =>
    toController('missed', system, { seat, by: holderOf(before ?? state, seat) }),
  'seat.released': nobody,
  'seat.passed': nobody,
  'seat.extended': ({ data }, { toHolders }) => toHolders('extended', data.seat),
  'seat.reminded': ({ data: { seat, point } }, { toHolders }) =>
    toHolders('reminded', seat, point === null ? {} : { gather: true }),
  'seat.lateTold': ({ data: { seat, person } }, { state, mail }) =>
    mail('late', person, { seat, by: holderOf(state, seat), gather: true }),
  'reminders.set': nobody,
  'delegation.asked': ({ actor, data: { seat, note } }, { state, mail }) =>
    mail('delegationAsked', state.controller, { seat, note, by: actor }),
  'delegation.refused': ({ data: { seat, note } }, { before, mail }) => {
    const asked = before?.seats.get(seat)?.proposal?.by;
    if (asked) mail('delegationRefused', asked, { seat, note });
  },
  'seat.delegated': ({ actor, data: { seat, to, from, epoch, note } }, { mail, toController }) => {
    mail('asked', to, { seat, epoch, note });
    toController('delegated', actor, { seat, by: from });
  },
  'seat.reassigned': ({ data: { seat, from, to, epoch, note, status } }, { before, mail }) => {
    const had = before?.seats.get(seat)?.status !== 'idle';
    if (had && from) mail('seatMoved', from, { seat });
    if (status === 'asked') mail('asked', to.person, { seat, epoch, note });
  },
  'seat.readdressed': ({ data: { seat, to, epoch } }, { state, mail }) => {
    if (state.seats.get(seat)?.status === 'asked') mail('asked', to, { seat, epoch });
  },
  'secondHolder.added': ({ data: { seat, person } }, { state, mail }) => {
    const run = state.seats.get(seat);
    if (run?.status === 'asked') mail('asked', person, { seat, epoch: run.epoch });
  },
  'secondHolder.dropped': ({ data: { seat, person } }, { state, mail }) => {
    if (state.seats.get(seat)?.status === 'asked') mail('seatMoved', person, { seat });
  },
  'link.copied': nobody,
  'comment.made': nobody,
  'comment.resolved': nobody,
  'comment.reopened': nobody,
  'question.asked': ({ actor, data: { seat, note } }, { state, mail }) => {
    for (const person of new Set([state.controller, state.author]))
      if (person !== actor) mail('question', person, { seat, note, by: actor });
  },
  'question.answered': ({ actor, data: { question, seat, note } }, { state, mail }) => {
    const by = state.questions.get(question)?.by;
    if (by !== undefined && by !== actor)
      mail('answered', by, { seat, epoch: state.seats.get(seat)?.epoch ?? 0, note, by: actor });
  },
  'rework.began': ({ data }, { toController }) => {
    if (data.cause === 'nobody') toController('nobodyAsked', system);
  },
  'round.begun': nobody,
  'finishing.began': nobody,
  'finals.kept': (_event, { state, toController }) => {
    if (!releaseWanted(state)) toController('readyForRelease', system);
  },
  'circulation.withdrawn': ({ actor, data: { note } }, { state, context, followers, mail }) => {
    for (const person of new Set([...toldOfWithdrawal(state, context), ...followers]))
      if (person !== actor) mail('withdrawn', person, { note });
  },
  'circulation.completed': (_event, { state, followers, mail }) => {
    // The notice leaves only now, when the final files have been stored and the revision is current.
    for (const [person, seat] of concerned(state, followers)) mail('released', person, seat ? { seat } : {});
  },
};

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
