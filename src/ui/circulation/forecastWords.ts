import type { CirculationEventType } from '@/core/circulation/run/events';
import type { Unreliable } from '@/core/forecast/forecast';

/** A number of working days in halves, in words. */
const workingDays = (days: number) => {
  const n = Math.abs(days);
  if (n === 0.5) return 'half a working day';
  return n === 1 ? 'one working day' : `${n} working days`;
};

/** A number of working days, and where it lies in eight of ten cases. */
const spanned = (median: number, low: number, high: number) =>
  low === high ? workingDays(median) : `${workingDays(median)} (mostly ${Math.abs(low)} to ${workingDays(high)})`;

export const forecastWords = {
  title: 'Forecast',
  /** The one line that stands for all of it. */
  mostBy: (day: string) => `released by ${day} in four of five cases`,
  by: ['Released in half of cases by', 'in four of five by', 'in 19 of 20 by'],
  released: (day: string) => `Release by ${day}`,
  expected: (day: string) => `about ${day}`,
  due: (day: string, percent: number) => `By its due, ${day}, in ${percent} of 100 cases.`,
  decides: 'What decides it',
  decidesNone: 'Only the release is left.',
  decidesOf: (who: string, percent: number) =>
    percent >= 99 ? `${who}, in every case` : `${who}, in ${percent} of 100 cases`,
  since: (day: string) => `Since ${day}`,
  shift: (days: number) => (days === 0 ? 'no change' : `${workingDays(days)} ${days > 0 ? 'later' : 'earlier'}`),
  plan: {
    by: (day: string) => `in four of five cases by ${day}`,
    change: 'Last change',
    same: 'makes no difference',
    saves: (median: number, low: number, high: number, percent: number) =>
      `${spanned(median, low, high)} earlier, in ${percent} of 100 cases`,
    costs: (median: number, low: number, high: number, percent: number) =>
      `${spanned(median, low, high)} later, in ${percent} of 100 cases`,
  },
  stale: 'Something has just happened; a new forecast follows.',
  missing: {
    history: 'No forecast yet: too few circulations have ended to learn from.',
    paused: 'No forecast while it is paused.',
    closed: 'No forecast: it is closed, and you decide how it goes on.',
  },
  missingFact: 'none',
  unreliable: {
    wide: 'No reliable forecast: what may happen lies too far apart.',
    far: 'No reliable forecast: it may take more than a year.',
  } satisfies Partial<Record<Unreliable, string>>,
  waited: (who: string) => `Time went by without a response from ${who}`,
  away: (who: string) => `When ${who} is away`,
  load: 'How much people have to do',
  history: 'What was learned from the past',
  happened: (what: CirculationEventType, who: string) => happened[what]?.(who) ?? 'Other events',
} as const;

const happened: Partial<Record<CirculationEventType, (who: string) => string>> = {
  'seat.decided': (who) => `${who} responded`,
  'seat.reassigned': (who) => `Reassigned to ${who}`,
  'seat.delegated': (who) => `Delegated to ${who}`,
  'seat.named': (who) => `${who} was named`,
  'seat.missed': (who) => `${who} missed it`,
  'seat.passed': (who) => `It went on without ${who}`,
  'circulation.amended': () => 'The amendment',
  'circulation.extended': () => 'The extension',
  'round.begun': () => 'The next round began',
  'rework.began': () => 'Sent back for rework',
};
