import type { MessageKind } from './messages';

/** What somebody may be told of, as they choose it. */
export const happenings = ['asked', 'opened', 'response', 'stage', 'late', 'stopped', 'final'] as const;
export type Happening = (typeof happenings)[number];

/** How: by mail at once, in the application, or in one mail a day. */
export const ways = ['mail', 'here', 'digest'] as const;
export type Way = (typeof ways)[number];

export type Preferences = { readonly [H in Happening]: readonly Way[] };

/** What those are told who have chosen nothing: quiet, and nothing that matters left out. */
export const usualPreferences: Preferences = {
  asked: ['mail'],
  opened: [],
  response: ['here'],
  stage: ['here'],
  late: ['mail'],
  stopped: ['mail', 'here'],
  final: ['mail', 'here'],
};

/** What nobody can choose not to be told: what waits for them, and what stops. */
export const always: ReadonlySet<Happening> = new Set(['asked', 'stopped']);

/** How much of one circulation somebody wants to be told: as they chose for all, everything, or only what needs them. */
export const levels = ['usual', 'everything', 'needed'] as const;
export type Level = (typeof levels)[number];

/** Of what each message tells. */
export const happeningOf: { readonly [K in MessageKind]: Happening } = {
  asked: 'asked',
  reminded: 'asked',
  extended: 'asked',
  mayRespond: 'asked',
  wentOn: 'asked',
  amended: 'asked',
  question: 'asked',
  answered: 'asked',
  delegationAsked: 'asked',
  delegationRefused: 'asked',
  controlHanded: 'asked',
  versionIn: 'asked',
  readyForRelease: 'asked',
  copy: 'asked',
  seatMoved: 'asked',
  opened: 'opened',
  responded: 'response',
  delegated: 'response',
  stageDone: 'stage',
  late: 'late',
  returned: 'stopped',
  declined: 'stopped',
  missed: 'stopped',
  fieldsWanted: 'stopped',
  timeWanted: 'stopped',
  crowd: 'stopped',
  withdrawn: 'stopped',
  closedWhole: 'stopped',
  paused: 'stopped',
  nobodyAsked: 'stopped',
  released: 'final',
};

/**
 * In which ways a message reaches a member. What nobody can do without comes by mail where no way is chosen for it; whoever
 * wants to know everything of a circulation finds in the application what comes no other way.
 */
export function waysOf(kind: MessageKind, preferences: Preferences, level: Level): readonly Way[] {
  const happening = happeningOf[kind];
  const chosen = ways.filter((way) => preferences[happening].includes(way));
  if (always.has(happening)) return chosen.length > 0 ? chosen : ['mail'];
  // Silence is for whoever has to do something about it.
  if (level === 'needed') return happening === 'late' ? chosen : [];
  return level === 'everything' && chosen.length === 0 ? ['here'] : chosen;
}
