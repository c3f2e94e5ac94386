import { expect, it } from 'vitest';
import { isPositive, keepsAuthorOut, outcomesFor, verbFacts, verbs } from './verbs';

it('each verb offers what it is done by, then what else may be said', () => {
  const offered = (changes: boolean) =>
    Object.fromEntries(verbs.map((verb) => [verb, outcomesFor({ verb, allows: { changes } }).join(' ')]));
  expect(offered(false)).toEqual({
    contribute: 'done declined',
    review: 'done returned declined',
    approve: 'approved approvedWithComments returned declined',
    sign: 'signed declined',
    read: 'confirmed declined',
  });
  expect(offered(true)).toEqual({ ...offered(false), sign: 'signed returned declined' });
});

it('only approving keeps the author out, and not where a rule lets them', () => {
  expect(verbs.filter((verb) => keepsAuthorOut(verb, false))).toEqual(['approve']);
  expect(verbs.filter((verb) => keepsAuthorOut(verb, true))).toEqual([]);
});

it('what is said for a stage counts for it, but for returns and declines', () => {
  const outcomes = ['done', 'approved', 'approvedWithComments', 'returned', 'declined', 'signed', 'confirmed'] as const;
  expect(outcomes.filter((outcome) => !isPositive(outcome))).toEqual(['returned', 'declined']);
});

it('only signing signs, only approving speaks, and each has what usually comes behind it', () => {
  expect(verbs.filter((verb) => verbFacts[verb].signs)).toEqual(['sign']);
  expect(verbs.filter((verb) => verbFacts[verb].speaks)).toEqual(['approve']);
  expect(verbs.map((verb) => `${verb}: ${verbFacts[verb].next.inBranch}, ${verbFacts[verb].next.onLine}`)).toEqual([
    'contribute: review, review',
    'review: approve, approve',
    'approve: approve, sign',
    'sign: sign, read',
    'read: read, read',
  ]);
});
