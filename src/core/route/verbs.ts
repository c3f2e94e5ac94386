/** What a stage asks of its people. */
export const verbs = ['contribute', 'review', 'approve', 'sign', 'read'] as const;
export type Verb = (typeof verbs)[number];

/** How somebody responds. */
const outcomes = ['done', 'approved', 'approvedWithComments', 'returned', 'declined', 'signed', 'confirmed'] as const;
export type Outcome = (typeof outcomes)[number];

interface VerbFacts {
  /** How it is done without more, and what else counts for it. */
  readonly yes: Outcome;
  readonly more: readonly Outcome[];
  /** Whether its people may return it: always, only where their stage allows asking for changes, or never. */
  readonly returns: 'always' | 'allowed' | 'never';
  /** Whether it is done by signing: in fields, on frozen pages, over every byte of the files. */
  readonly signs: boolean;
  /** Whether an author is kept from it, unless a rule lets them. */
  readonly keepsAuthorOut: boolean;
  /** Whether a yes can carry words that are to be minded. */
  readonly speaks: boolean;
  /** What usually comes behind it, inside a branch and on the line itself. */
  readonly next: { readonly inBranch: Verb; readonly onLine: Verb };
}

/** Everything that hangs on a verb, in one table: another verb is another row. */
export const verbFacts: { readonly [V in Verb]: VerbFacts } = {
  contribute: {
    yes: 'done',
    more: [],
    returns: 'never',
    signs: false,
    keepsAuthorOut: false,
    speaks: false,
    next: { inBranch: 'review', onLine: 'review' },
  },
  review: {
    yes: 'done',
    more: [],
    returns: 'always',
    signs: false,
    keepsAuthorOut: false,
    speaks: false,
    next: { inBranch: 'approve', onLine: 'approve' },
  },
  approve: {
    yes: 'approved',
    more: ['approvedWithComments'],
    returns: 'always',
    signs: false,
    keepsAuthorOut: true,
    speaks: true,
    next: { inBranch: 'approve', onLine: 'sign' },
  },
  sign: {
    yes: 'signed',
    more: [],
    returns: 'allowed',
    signs: true,
    keepsAuthorOut: false,
    speaks: false,
    next: { inBranch: 'sign', onLine: 'read' },
  },
  read: {
    yes: 'confirmed',
    more: [],
    returns: 'never',
    signs: false,
    keepsAuthorOut: false,
    speaks: false,
    next: { inBranch: 'read', onLine: 'read' },
  },
};

/** Whether an outcome counts towards the rule of its stage. */
export function isPositive(outcome: Outcome): boolean {
  return outcome !== 'returned' && outcome !== 'declined';
}

/**
 * The outcomes that a stage offers, what counts for it first. Whoever is asked can always decline: "I cannot or will not act
 * on this"; asking for changes instead of signing is there where the stage allows it.
 */
export function outcomesFor({
  verb,
  allows,
}: {
  readonly verb: Verb;
  readonly allows: { readonly changes: boolean };
}): readonly Outcome[] {
  const { yes, more, returns } = verbFacts[verb];
  const returned = returns === 'always' || (returns === 'allowed' && allows.changes);
  return [yes, ...more, ...(returned ? (['returned'] as const) : []), 'declined'];
}

/** Whether an author is kept from what a verb asks, by the rule of their organization. */
export function keepsAuthorOut(verb: Verb, authorApproves: boolean): boolean {
  return verbFacts[verb].keepsAuthorOut && !authorApproves;
}
