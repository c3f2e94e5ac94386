import type { LineSeat, LineStage } from '@/core/line/line';
import type { Rule } from '@/core/route/tally';
import type { Verb } from '@/core/route/verbs';

/** Words of the line and of everything that has to do with stages and seats. */
export const verbWords: { readonly [V in Verb]: string } = {
  contribute: 'Contribute',
  review: 'Review',
  approve: 'Approve',
  sign: 'Sign',
  read: 'Confirm read',
};

export const verbThird: { readonly [V in Verb]: string } = {
  contribute: 'contributes',
  review: 'reviews',
  approve: 'approves',
  sign: 'signs',
  read: 'confirms read',
};

export function ruleWords(rule: Rule, n: number): string {
  if (rule.kind === 'all') return n > 1 ? 'all needed' : '';
  if (rule.kind === 'any') return 'any one';
  return `${rule.k} of ${n}`;
}

export function seatWords(seat: LineSeat): string {
  if (seat.mark === 'tick') return 'has responded';
  if (seat.mark === 'return') return 'returned it';
  if (seat.mark === 'cross') return 'declined';
  if (seat.mark === 'missed') return 'missed the time';
  if (seat.mark === 'late') return 'is asked and late';
  if (seat.status === 'underWay') return 'is asked';
  if (seat.status === 'passedBy') return 'was not needed';
  return 'is not yet asked';
}

const manyWords = {
  tick: 'responded',
  return: 'returned it',
  cross: 'declined',
  missed: 'missed the time',
  late: 'asked and late',
} as const;

export function seatsWords(seat: LineSeat, count: number): string {
  const said =
    seat.mark !== 'none'
      ? manyWords[seat.mark]
      : { underWay: 'asked', passedBy: 'not needed', ahead: 'not yet asked', done: 'done' }[seat.status];
  return `${count} ${said}`;
}

export function orderWords(stage: LineStage): string {
  return stage.seats.length > 1 && stage.order === 'oneByOne' ? ', one by one' : '';
}

export const lineWords = {
  title: 'The route',
  release: 'Release',
  copies: (n: number) => (n === 1 ? 'copy to one person' : `copies to ${n}`),
  copiesTo: (who: string) => `copy to ${who}`,
  waits: 'waits',
  condition: 'only when …',
  branchUnnamed: 'branch',
  branchLabel: (name: string, only: string) => ['Branch', name, only].filter(Boolean).join(' '),
  moreBranches: (n: number) => (n === 1 ? 'one more branch' : `${n} more branches`),
  onlyInWords: ', only under a condition',
  waitsInWords: ', after a wait',
  branch: (name: string) => (name ? `branch ${name}:` : 'branch:'),
  more: (n: number) => `+${n}`,
  moreLabel: (n: number) => `${n} more people`,
  empty: 'No stage between here and release',
} as const;
