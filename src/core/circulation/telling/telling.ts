import type { MessageKind } from './messages';
import { always, type Happening, type Level, type Preferences, type Way, ways } from './preferences';

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
