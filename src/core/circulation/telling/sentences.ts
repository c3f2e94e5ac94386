import type { RecordFact, StageOutcome } from '../../route/condition';
import { type FactValue, numberText } from '../../route/facts';
import type { Outcome, Verb } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import { unreachable } from '../../unreachable';
import { type CirculationEventType, system } from '../run/events';
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
interface Telling {
  /** What a person was called at a moment. */
  readonly name: (person: string, at: Instant) => string;
  readonly moment: (at: Instant) => string;
  /** A value of a fact, and what a comparison was made with. */
  readonly value: (value: FactValue, at: Instant) => string;
}

/** What sentences of lines have in common: the line, and what it names in the words of its moment. */
interface Words {
  readonly line: HistoryLine;
  readonly telling: Telling;
  readonly moment: Telling['moment'];
  readonly who: string;
  readonly holder: string;
  /** The holder where a sentence begins with them. */
  readonly holderFirst: string;
  readonly to: string;
  readonly stage: string;
  readonly verb: string;
  readonly times: string;
  readonly behalf: string;
  readonly named: (person: string) => string;
}

/** Where a seat has no holder and no group: whoever names somebody has not done so. */
const unnamed = 'somebody still to be named';
const unnamedFirst = 'Somebody still to be named';

function wordsOf(line: HistoryLine, telling: Telling): Words {
  const { name, moment } = telling;
  const named = (person: string) => name(person, line.at);
  return {
    line,
    telling,
    moment,
    named,
    who: named(line.actor),
    holder: line.holder === null ? (line.called ?? unnamed) : named(line.holder),
    holderFirst: line.holder === null ? (line.called ?? unnamedFirst) : named(line.holder),
    to: line.to === null ? '' : named(line.to),
    stage: line.verb === null ? '' : stageNouns[line.verb],
    verb: line.verb === null ? 'respond' : asks[line.verb],
    times: `${line.due === null ? '' : `, due ${moment(line.due)}`}${line.closes === null ? '' : `, closes ${moment(line.closes)}`}`,
    behalf: line.onBehalfOf === null ? '' : ` for ${named(line.onBehalfOf)}`,
  };
}

/** A line of a history as a sentence without its full stop, in the words of that moment. */
export function sentence(line: HistoryLine, telling: Telling): string {
  return sentences[line.type](wordsOf(line, telling));
}

const sentences: { readonly [T in CirculationEventType]: (words: Words) => string } = {
  'circulation.created': ({ who }) => `${who} started this circulation`,
  'route.planned': ({ who }) => `${who} planned the route`,
  'facts.given': ({ who, line, telling }) =>
    `${who} gave ${list(line.facts.map((fact) => `${fact.name} ${telling.value(fact.value, line.at)}`)) || 'no values'}`,
  'fields.put': ({ who }) => `${who} put the fields on the pages`,
  'version.attached': ({ who, line }) => `${who} submitted version ${line.version}`,
  'circulation.sent': ({ who, line, named }) =>
    `${who} sent version ${line.version}${line.roles.map((role) => `; ${role.name}: ${role.person === null ? 'nobody' : named(role.person)}`).join('')}`,
  'circulation.amended': ({ named, moment, line, times, who }) => {
    const naming = { name: named, moment, called: (id: string) => line.names[id] ?? '' };
    const changes = [
      ...line.differences.map((difference) => differenceWords(difference, naming)),
      ...(line.noteChanged ? ['the message to all changed'] : []),
      ...(times ? [`as a whole${times}`] : []),
    ];
    return `${who} amended the circulation${changes.length > 0 ? `: ${changes.join('; ')}` : ''}`;
  },
  'circulation.paused': ({ who }) => `${who} paused the circulation; nobody can respond until it goes on`,
  'circulation.wentOn': ({ who }) => `${who} let the circulation go on`,
  'control.handed': ({ who, to }) => `${who} handed control to ${to}`,
  'circulation.closed': () => 'The circulation closed as a whole; nobody can respond until it is extended',
  'circulation.extended': ({ who, times }) => `${who} extended the circulation${times}`,
  'part.decided': ({ stage, line, telling }) => {
    const part = stage || (line.called ? `The branch “${line.called}”` : 'A branch');
    const used = line.condition?.used.map((one) => usedWords(one, line.at, telling)) ?? [];
    return `${part} ${line.condition?.holds ? 'takes part' : 'was skipped'}${used.length > 0 ? `: ${list(used)}` : ''}`;
  },
  'group.resolved': ({ line, named }) =>
    `${line.called} was resolved to ${list(line.people.map(named))}${line.leftOut.length === 0 ? '' : `, without ${list(line.leftOut.map(named))}`}`,
  'copies.reached': ({ line, named }) =>
    line.people.length === 0 ? 'Nobody gets a copy here' : `Copies for ${list(line.people.map(named))}`,
  'copies.sent': ({ line, named }) => `Copies of the final file for ${list(line.people.map(named))}`,
  'stage.opened': ({ stage }) => `${stage} started`,
  'stage.held': ({ stage, line }) => `${stage} could not start yet${line.held === null ? '' : `: ${waits[line.held]}`}`,
  'stage.timed': ({ who, stage, times }) => `${who} set a new time for ${stage.toLowerCase()}${times}`,
  'stage.ruled': ({ who, line, stage }) =>
    `${who} set that ${line.enough === 1 ? 'one response is' : `${line.enough} responses are`} enough for ${stage.toLowerCase()}`,
  'stage.stuck': ({ stage }) => `${stage} can no longer be completed`,
  'stage.healed': ({ stage }) => `${stage} can be completed again`,
  'stage.freed': ({ stage }) => `${stage} goes on`,
  'stage.closed': ({ stage }) => `${stage} completed`,
  'stage.released': ({ stage }) => `${stage} was no longer needed`,
  'file.frozen': () => 'The pages were frozen for signing',
  'seat.asked': ({ line, verb, holderFirst, times, named }) => {
    if (line.nobody) return `Nobody could be asked to ${verb}; somebody has to be assigned`;
    return `${line.called ?? holderFirst} was asked to ${verb}${times}${line.people.length === 0 ? '' : `; covered by ${list(line.people.map(named))}`}`;
  },
  'seat.seen': ({ who, line }) => `${who} opened version ${line.version}`,
  'seat.freed': ({ to, line }) =>
    `The time to wait is over for ${to}, who ${line.nobody ? 'does not respond here any more' : 'can respond now'}`,
  'seat.taken': ({ who }) => `${who} took the task`,
  'seat.givenBack': ({ line, holder, who }) =>
    line.actor === system
      ? `The task that ${holder} had taken went back to the group`
      : `${who} gave the task back to the group`,
  'seat.named': ({ who, to }) => `${who} named ${to}`,
  'delegation.asked': ({ who, to }) => `${who} asks to delegate to ${to}`,
  'delegation.refused': ({ who, to }) => `${who} did not agree to delegating to ${to}`,
  'seat.decided': ({ who, line, behalf, moment }) =>
    `${who} ${line.outcome === null ? 'responded' : responseOf(line.outcome, line.verb)}${behalf}${line.coverUntil === null ? '' : `, covering until ${moment(line.coverUntil)}`}`,
  'seat.missed': ({ holderFirst }) => `${holderFirst} did not respond before the closing time`,
  'seat.released': ({ holder }) => `The response of ${holder} was no longer needed`,
  'seat.passed': ({ who, holder }) => `${who} went on without ${holder}`,
  'seat.extended': ({ who, holder, times }) => `${who} extended the time of ${holder}${times}`,
  'seat.askedAgain': ({ who, holder, verb, times }) => `${who} asked ${holder} again to ${verb}${times}`,
  'seat.reminded': ({ line, holder, holderFirst, who }) =>
    line.actor === system ? `${holderFirst} was reminded` : `${who} reminded ${holder}`,
  'seat.lateTold': ({ to, holder }) => `${to} was told that ${holder} has not responded`,
  'reminders.set': ({ who }) => `${who} changed how people are reminded`,
  'seat.delegated': ({ who, to }) => `${who} delegated to ${to}`,
  'seat.reassigned': ({ line, who, to, verb, times, holder }) =>
    line.holder === null
      ? `${who} assigned ${to} to ${verb}${times}`
      : `${who} reassigned it from ${holder} to ${to}${times}`,
  'seat.readdressed': ({ who, holder, line, moment }) =>
    `${who} corrected the address of ${holder}${line.opened === null ? '' : `; it had been opened at the former one, ${moment(line.opened)}`}`,
  'secondHolder.added': ({ who, to, holder }) => `${who} added ${to} as a second holder beside ${holder}`,
  'secondHolder.dropped': ({ who, to, holder }) => `${who} removed ${to} as a second holder beside ${holder}`,
  'link.copied': ({ who, holder }) => `${who} copied the link of ${holder}`,
  'comment.made': ({ who, line }) => `${who} commented on version ${line.version}`,
  'comment.resolved': ({ who }) => `${who} resolved a comment`,
  'comment.reopened': ({ who }) => `${who} reopened a comment`,
  'question.asked': ({ who }) => `${who} asked a question`,
  'question.answered': ({ who, holder }) => `${who} answered a question of ${holder}`,
  'rework.began': ({ line }) => {
    if (line.cause === 'nobody') return 'Every stage was skipped, so nobody was asked; it is back in rework';
    return line.cause === 'version'
      ? `Rework began with version ${line.version}; nobody responds before the next round`
      : 'Rework began; nobody responds before the next round';
  },
  'round.begun': ({ who, line }) => `${who} began round ${line.round}`,
  'finishing.began': () => 'All responses are in; the final file is being made',
  'finals.kept': () => 'The final file is ready',
  'circulation.withdrawn': ({ who }) => `${who} withdrew the circulation`,
  'circulation.completed': ({ who, line, named }) =>
    `${who} released it${line.revision === null ? '' : ` as revision ${line.revision}`}${line.onBehalfOf === null ? '' : `, as ${named(line.onBehalfOf)} had set it`}`,
};

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
