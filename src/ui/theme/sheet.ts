import createCache from '@emotion/cache';
import { css } from '@emotion/react';
import { rules } from './rules';
import { system } from './system';

/** The theme's style sheet as text: its layers, resets, tokens in light and dark, and the rules of `look`. */
export function themeSheet(): string {
  const cache = createCache({ key: 'theme' });
  const looks = Object.entries(rules).map(([name, rule]) => [`.look-${name}`, system.css(rule)]);
  // What is styled in its place comes later and outranks the rules.
  const own = { '@layer looks': Object.fromEntries(looks) };
  const layers = '@layer reset, base, tokens, recipes, looks;';
  const whole = css([layers, system._global, own] as Parameters<typeof css>[0]);
  return String(cache.insert('', whole, cache.sheet, false));
}
