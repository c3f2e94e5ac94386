import type { Rule } from './rules';

/** The classes of rules of the theme's sheet. What does not hold is left out. */
export function look(...names: readonly (Rule | false | null | undefined)[]): string {
  return names.flatMap((name) => (name ? [`look-${name}`] : [])).join(' ');
}
