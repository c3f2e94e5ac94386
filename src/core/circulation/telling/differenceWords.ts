import type { RouteDifference, StagePart } from '../../route/changes';
import { type Assignment, groupAsked, personOf, roleAsked, type Time, type Unit } from '../../route/route';
import type { Rule } from '../../route/tally';
import type { Instant } from '../../time/instant';
import { unreachable } from '../../unreachable';
import { list, stageNouns } from './nouns';

/** How a reader sees what an amendment names. */
interface Naming {
  readonly name: (person: string) => string;
  readonly moment: (at: Instant) => string;
  /** What a group or a role is called. */
  readonly called: (id: string) => string;
}

const parts: { readonly [P in StagePart]: string } = {
  verb: 'what is asked',
  order: 'the order of its people',
  earliest: 'from when one can respond',
  condition: 'the condition',
  onReturn: 'what a return does',
  onDecline: 'what a decline does',
  independentOf: 'the stages that need different people',
  allows: 'what is allowed',
};

const units: { readonly [U in Unit]: readonly [string, string] } = {
  workingDays: ['working day', 'working days'],
  workingHours: ['working hour', 'working hours'],
  days: ['day', 'days'],
};

/** One difference that an amendment makes to the route, as half a sentence. */
export function differenceWords(difference: RouteDifference, naming: Naming): string {
  const stage =
    difference.verb === null ? '' : `${stageNouns[difference.verb].toLowerCase()} (stage ${difference.place})`;
  const people = (who: readonly Assignment[]) => list(who.map((one) => whoWords(one, naming)));
  switch (difference.what) {
    case 'stageAdded':
      return `${stage} by ${people(difference.who)} added`;
    case 'stageRemoved':
      return `${stage} by ${people(difference.who)} removed`;
    case 'stageMoved':
      return stage ? `${stage} moved` : 'the order of the route changed';
    case 'seatAdded':
      return `${people(difference.who)} added to ${stage}`;
    case 'seatRemoved':
      return `${people(difference.who)} removed from ${stage}`;
    case 'seatMoved':
      return difference.who.length > 0
        ? `${people(difference.who)} moved to ${stage}`
        : `the order in ${stage} changed`;
    case 'seatFiles':
      return `what ${people(difference.who)} decides on in ${stage} changed`;
    case 'seatGiven':
      return `${people(difference.who)} instead of ${people([difference.before])} in ${stage}`;
    case 'rule':
      return `${stage} complete when ${ruleText(difference.to)} instead of ${ruleText(difference.from)}`;
    case 'due':
    case 'closes': {
      const of = difference.who.length > 0 ? `${people(difference.who)} in ${stage}` : stage;
      const verb = difference.what === 'due' ? 'due' : 'closes';
      const was = difference.from === null ? '' : `, before: ${timeText(difference.from, naming)}`;
      return difference.to === null
        ? `${of}: no ${difference.what === 'due' ? 'due' : 'closing'} time any more${was}`
        : `${of} ${verb} ${timeText(difference.to, naming)}${was}`;
    }
    case 'part':
      return `${parts[difference.part]} changed in ${stage}`;
    case 'branchAdded':
      return `a branch added${difference.name ? `: ${difference.name}` : ''}`;
    case 'branchRemoved':
      return `a branch removed${difference.name ? `: ${difference.name}` : ''}`;
    case 'branchChanged':
      return `a branch changed${difference.name ? `: ${difference.name}` : ''}`;
    case 'join':
      return 'how many branches are needed changed';
    case 'copiesAdded':
      return `a copy for ${people(difference.who)} added`;
    case 'copiesRemoved':
      return `the copy for ${people(difference.who)} removed`;
    case 'copiesChanged':
      return `a copy is for ${people(difference.who)} now`;
    default:
      return unreachable(difference, 'difference');
  }
}

function whoWords(assignment: Assignment, { name, called }: Naming): string {
  const person = personOf(assignment);
  if (person !== null) return name(person);
  const id = groupAsked(assignment)?.group ?? roleAsked(assignment);
  return id === null ? 'somebody to be named' : called(id);
}

const ruleText = (rule: Rule) =>
  rule.kind === 'all' ? 'everyone has' : rule.kind === 'any' ? 'any one has' : `at least ${rule.k} have`;

function timeText(time: Time, { moment }: Naming): string {
  if (time.kind === 'instant') return moment(time.at);
  const [one, many] = units[time.unit];
  return `${time.amount === 1 ? `one ${one}` : `${time.amount} ${many}`} after being asked`;
}

/** The people that a difference names. */
export function peopleInDifference(difference: RouteDifference): string[] {
  const who = 'who' in difference ? difference.who : [];
  const before = difference.what === 'seatGiven' ? [difference.before] : [];
  return [...who, ...before].flatMap((assignment) => personOf(assignment) ?? []);
}
