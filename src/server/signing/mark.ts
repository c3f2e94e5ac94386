import type { HanLanguage } from '@/core/text/hanLanguage';
import { unsettable } from '../letters/itemise';
import { oneLineOf, outlineOf } from '../letters/layOut';
import { letterName } from '../letters/spelled';
import { refuse } from '../refused';

/** Refuses a text with a letter that no font has: what is signed must be what the file shows. */
export function needSettable(text: string, field: string | null = null): void {
  const letter = unsettable(text);
  const name = letter === null ? '' : letterName(letter);
  if (letter !== null) refuse('letter-unset', { field, letter: `“${letter}”${name ? ` (${name})` : ''}` });
}

const size = 100;

/**
 * A typed hand mark as it is going to stand in the file: the outline of its letters as an SVG path with the baseline at 0,
 * and how long it is, both for an em of 100.
 */
export function markOf(text: string, language: HanLanguage): { readonly path: string; readonly width: number } {
  needSettable(text);
  const line = oneLineOf(text, { style: 'hand', size, language });
  return { path: outlineOf(line, size), width: line.width };
}
