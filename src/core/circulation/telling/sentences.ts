import type { RecordFact, StageOutcome } from '../../route/condition';
import { type FactValue, numberText } from '../../route/facts';
import type { Outcome, Verb } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import { unreachable } from '../../unreachable';
import { system } from '../run/events';
import type { HeldFor } from '../run/shapes';
import { differenceWords, peopleInDifference } from './differenceWords';
import type { HistoryLine, UsedThen } from './history';
import { list, stageNouns } from './nouns';

/** What people are asked to do. */
export const asks: { readonly [V in Verb]: string } = {
  contribute: 'contribute',
  review: 'review',
  approve: 'approve',
  sign: 'sign',
  read: 'read and confirm',
};

/** What somebody did when they responded. */
export const responses: { readonly [O in Outcome]: string } = {
  done: 'completed the review',
  approved: 'approved',
  approvedWithComments: 'approved with comments',
  returned: 'returned it for rework',
  declined: 'declined',
  signed: 'signed',
  confirmed: 'confirmed having read it',
};

/** The same, for a verb whose completion is called otherwise. */
export function responseOf(outcome: Outcome, verb: Verb | null): string {
  return outcome === 'done' && verb === 'contribute' ? 'completed the contribution' : responses[outcome];
}

const waits: { readonly [H in HeldFor]: string } = {
  fields: 'waiting for signature fields',
  freezing: 'waiting for the pages to be frozen',
  time: 'its closing time has passed',
  crowd: 'its group has more members than a route can carry',
};

/** How a reader sees people and instants. */
export interface Telling {
  /** What a person was called at a moment. */
  readonly name: (person: string, at: Instant) => string;
  readonly moment: (at: Instant) => string;
  /** A value of a fact, and what a comparison was made with. */
  readonly value: (value: FactValue, at: Instant) => string;
}

/** A line of a history as a sentence without its full stop, in the words of that moment. */
export function sentence(line: HistoryLine, telling: Telling): string {
  const { name: called, moment } = telling;
  const name = (person: string) => called(person, line.at);
  const who = name(line.actor);
  const holder = line.holder === null ? 'Nobody' : name(line.holder);
  const to = line.to === null ? '' : name(line.to);
  const stage = line.verb === null ? '' : stageNouns[line.verb];
  const verb = line.verb === null ? 'respond' : asks[line.verb];
  const times = `${line.due === null ? '' : `, due ${moment(line.due)}`}${line.closes === null ? '' : `, closes ${moment(line.closes)}`}`;
  const behalf = line.onBehalfOf === null ? '' : ` for ${name(line.onBehalfOf)}`;
  switch (line.type) {
    case 'circulation.created':
      return `${who} started this circulation`;
    case 'route.planned':
      return `${who} planned the route`;
    case 'facts.given':
      return `${who} gave ${list(line.facts.map((fact) => `${fact.name} ${telling.value(fact.value, line.at)}`)) || 'no values'}`;
    case 'fields.put':
      return `${who} put the fields on the pages`;
    case 'version.attached':
      return `${who} submitted version ${line.version}`;
    case 'circulation.sent':
      return `${who} sent version ${line.version}${line.roles.map((role) => `; ${role.name}: ${role.person === null ? 'nobody' : name(role.person)}`).join('')}`;
    case 'circulation.amended': {
      const naming = { name, moment, called: (id: string) => line.names[id] ?? '' };
      const changes = [
        ...line.differences.map((difference) => differenceWords(difference, naming)),
        ...(line.noteChanged ? ['the message to all changed'] : []),
        ...(times ? [`as a whole${times}`] : []),
      ];
      return `${who} amended the circulation${changes.length > 0 ? `: ${changes.join('; ')}` : ''}`;
    }
    case 'circulation.paused':
      return `${who} paused the circulation; nobody can respond until it goes on`;
    case 'circulation.wentOn':
      return `${who} let the circulation go on`;
    case 'control.handed':
      return `${who} handed control to ${to}`;
    case 'circulation.closed':
      return 'The circulation closed as a whole; nobody can respond until it is extended';
    case 'circulation.extended':
      return `${who} extended the circulation${times}`;
    case 'part.decided': {
      const part = stage || (line.called ? `The branch “${line.called}”` : 'A branch');
      const used = line.condition?.used.map((one) => usedWords(one, line.at, telling)) ?? [];
      return `${part} ${line.condition?.holds ? 'takes part' : 'was skipped'}${used.length > 0 ? `: ${list(used)}` : ''}`;
    }
    case 'group.resolved':
      return `${line.called} was resolved to ${list(line.people.map(name))}${line.leftOut.length === 0 ? '' : `, without ${list(line.leftOut.map(name))}`}`;
    case 'copies.reached':
      return line.people.length === 0 ? 'Nobody gets a copy here' : `Copies for ${list(line.people.map(name))}`;
    case 'copies.sent':
      return `Copies of the final file for ${list(line.people.map(name))}`;
    case 'stage.opened':
      return `${stage} started`;
    case 'stage.held':
      return `${stage} could not start yet${line.held === null ? '' : `: ${waits[line.held]}`}`;
    case 'stage.timed':
      return `${who} set a new time for ${stage.toLowerCase()}${times}`;
    case 'stage.ruled':
      return `${who} set that ${line.enough === 1 ? 'one response is' : `${line.enough} responses are`} enough for ${stage.toLowerCase()}`;
    case 'stage.stuck':
      return `${stage} can no longer be completed`;
    case 'stage.healed':
      return `${stage} can be completed again`;
    case 'stage.freed':
      return `${stage} goes on`;
    case 'stage.closed':
      return `${stage} completed`;
    case 'stage.released':
      return `${stage} was no longer needed`;
    case 'file.frozen':
      return 'The pages were frozen for signing';
    case 'seat.asked':
      if (line.nobody) return `Nobody could be asked to ${verb}; somebody has to be assigned`;
      return `${line.called ?? holder} was asked to ${verb}${times}${line.people.length === 0 ? '' : `; covered by ${list(line.people.map(name))}`}`;
    case 'seat.seen':
      return `${who} opened version ${line.version}`;
    case 'seat.freed':
      return `The time to wait is over for ${to}, who ${line.nobody ? 'does not respond here any more' : 'can respond now'}`;
    case 'seat.taken':
      return `${who} took the task`;
    case 'seat.givenBack':
      return line.actor === system
        ? `The task that ${holder} had taken went back to the group`
        : `${who} gave the task back to the group`;
    case 'seat.named':
      return `${who} named ${to}`;
    case 'delegation.asked':
      return `${who} asks to delegate to ${to}`;
    case 'delegation.refused':
      return `${who} did not agree to delegating to ${to}`;
    case 'seat.decided':
      return `${who} ${line.outcome === null ? 'responded' : responseOf(line.outcome, line.verb)}${behalf}${line.coverUntil === null ? '' : `, covering until ${moment(line.coverUntil)}`}`;
    case 'seat.missed':
      return `${holder} did not respond before the closing time`;
    case 'seat.released':
      return `The response of ${holder} was no longer needed`;
    case 'seat.passed':
      return `${who} went on without ${holder}`;
    case 'seat.extended':
      return `${who} extended the time of ${holder}${times}`;
    case 'seat.askedAgain':
      return `${who} asked ${holder} again to ${verb}${times}`;
    case 'seat.reminded':
      return line.actor === system ? `${holder} was reminded` : `${who} reminded ${holder}`;
    case 'seat.lateTold':
      return `${to} was told that ${holder} has not responded`;
    case 'reminders.set':
      return `${who} changed how people are reminded`;
    case 'seat.delegated':
      return `${who} delegated to ${to}`;
    case 'seat.reassigned':
      return line.holder === null
        ? `${who} assigned ${to} to ${verb}${times}`
        : `${who} reassigned it from ${holder} to ${to}${times}`;
    case 'seat.readdressed':
      return `${who} corrected the address of ${holder}${line.opened === null ? '' : `; it had been opened at the former one, ${moment(line.opened)}`}`;
    case 'secondHolder.added':
      return `${who} added ${to} as a second holder beside ${holder}`;
    case 'secondHolder.dropped':
      return `${who} removed ${to} as a second holder beside ${holder}`;
    case 'link.copied':
      return `${who} copied the link of ${holder}`;
    case 'comment.made':
      return `${who} commented on version ${line.version}`;
    case 'comment.resolved':
      return `${who} resolved a comment`;
    case 'comment.reopened':
      return `${who} reopened a comment`;
    case 'question.asked':
      return `${who} asked a question`;
    case 'question.answered':
      return `${who} answered a question of ${holder}`;
    case 'rework.began':
      if (line.cause === 'nobody') return 'Every stage was skipped, so nobody was asked; it is back in rework';
      return line.cause === 'version'
        ? `Rework began with version ${line.version}; nobody responds before the next round`
        : 'Rework began; nobody responds before the next round';
    case 'round.begun':
      return `${who} began round ${line.round}`;
    case 'finishing.began':
      return 'All responses are in; the final file is being made';
    case 'finals.kept':
      return 'The final file is ready';
    case 'circulation.withdrawn':
      return `${who} withdrew the circulation`;
    case 'circulation.completed':
      return `${who} released it${line.revision === null ? '' : ` as revision ${line.revision}`}${line.onBehalfOf === null ? '' : `, as ${name(line.onBehalfOf)} had set it`}`;
  }
}

/** What a condition may ask of a record. */
export const recordNouns: { readonly [F in RecordFact]: string } = {
  documentType: 'document type',
  unit: 'unit',
  owner: 'owner',
};

/** How a stage can have ended, for whoever asks later. */
export const stageOutcomeWords: { readonly [O in StageOutcome]: string } = {
  approvedWithComments: 'somebody approved with comments',
  declined: 'somebody declined',
  missed: 'somebody missed the time',
};

/** What a comparison was made with. */
function usedWords(used: UsedThen, at: Instant, telling: Telling): string {
  switch (used.kind) {
    case 'fact':
      return `${used.name ?? 'a value'} ${used.value === null ? 'not given' : telling.value(used.value, at)}`;
    case 'record':
      return `${recordNouns[used.field]} ${used.value === null ? 'not given' : (used.value.called ?? telling.name(used.value.id, at))}`;
    case 'outcome': {
      const stage = used.verb === null ? 'a stage' : `${stageNouns[used.verb].toLowerCase()} (stage ${used.place})`;
      if (used.outcomes === null) return `${stage} not ended`;
      return `in ${stage} ${list(used.outcomes.map((outcome) => stageOutcomeWords[outcome])) || 'nobody declined, missed the time or commented'}`;
    }
    default:
      return unreachable(used, 'comparison');
  }
}

/** A value of a fact in words; `person` and `day` say who and when. */
export function valueInWords(
  value: FactValue,
  words: { readonly person: (id: string) => string; readonly day: (iso: string) => string },
): string {
  switch (value.kind) {
    case 'amount':
      return `${numberText(value.thousandths)} ${value.currency}`;
    case 'number':
      return numberText(value.thousandths);
    case 'choice':
    case 'party':
      return value.text;
    case 'yesNo':
      return value.yes ? 'yes' : 'no';
    case 'date':
      return words.day(value.day);
    case 'person':
      return words.person(value.person);
    default:
      return unreachable(value, 'value');
  }
}

/** Everybody that a line names. */
export function peopleIn(line: HistoryLine): string[] {
  const acting = [line.actor, line.onBehalfOf, line.holder, line.to].filter((person) => person !== null);
  return [...acting, ...peopleBesides(line)];
}

/** The people that a line names beside its actor and its holder: as members, in roles, as values. */
export function peopleBesides({ people, leftOut, roles, facts, condition, differences }: HistoryLine): string[] {
  const used = condition?.used ?? [];
  const values = [...facts.map((fact) => fact.value), ...used.map((one) => (one.kind === 'fact' ? one.value : null))];
  return [
    ...people,
    ...leftOut,
    ...differences.flatMap(peopleInDifference),
    ...roles.flatMap(({ person }) => person ?? []),
    ...values.flatMap((value) => (value?.kind === 'person' ? value.person : [])),
    ...used.flatMap((one) => (one.kind === 'record' && one.value?.called === null ? one.value.id : [])),
  ];
}
