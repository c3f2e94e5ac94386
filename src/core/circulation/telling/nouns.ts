import type { Verb } from '../../route/verbs';

/** What people call the work of a stage, where it began, ended or waits. */
export const stageNouns: { readonly [V in Verb]: string } = {
  contribute: 'Contribution',
  review: 'Review',
  approve: 'Approval',
  sign: 'Signing',
  read: 'Reading',
};

/** Several things in one sentence: "a, b and c". */
export function list(things: readonly string[]): string {
  if (things.length < 2) return things.join('');
  return `${things.slice(0, -1).join(', ')} and ${things[things.length - 1]}`;
}
