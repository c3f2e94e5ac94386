/** How many positive outcomes end a stage, or how many finished branches end a parallel. */
export type Rule =
  | { readonly kind: 'all' }
  | { readonly kind: 'any' }
  | { readonly kind: 'atLeast'; readonly k: number };

/** How one member of a stage or of a join stands: it said yes, may still act, said no or missed, or is out of it. */
export type Standing = 'yes' | 'open' | 'no' | 'gone';

export interface Tally {
  /** How many take part; whoever is gone does not. */
  readonly n: number;
  /** How many have to say yes. */
  readonly needed: number;
  readonly yes: number;
  readonly met: boolean;
  /** Whether those who may still act can bring it about. */
  readonly reachable: boolean;
}

/**
 * Counts the seats of a stage or the branches of a join against their rule; nothing else counts them. With those who
 * are gone "all" asks for fewer. A quorum of seats stays what it is; one of branches shrinks with them.
 */
export function tally(rule: Rule, members: Iterable<Standing>, of: 'seats' | 'branches'): Tally {
  let n = 0;
  let yes = 0;
  let open = 0;
  for (const member of members) {
    if (member === 'gone') continue;
    n += 1;
    if (member === 'yes') yes += 1;
    else if (member === 'open') open += 1;
  }
  const needed =
    rule.kind === 'all' ? n : rule.kind === 'any' ? Math.min(1, n) : of === 'branches' ? Math.min(rule.k, n) : rule.k;
  return { n, needed, yes, met: n > 0 && yes >= needed, reachable: yes + open >= needed };
}

/** The count as planned, while all of `n` can still act. */
export function planned(rule: Rule, n: number): Tally {
  return tally(
    rule,
    Array.from({ length: n }, () => 'open' as const),
    'seats',
  );
}
