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
