import { unicodeName } from 'unicode-name';
import { codeOf, unsettable } from './itemise';

/** The name of a letter in the standard, in small letters: "aerial tramway". */
export function letterName(letter: string): string {
  return (unicodeName(letter.codePointAt(0) ?? 0) ?? '').toLowerCase();
}

/**
 * A text that can be set: each letter that no font has stands as its code and name in brackets, so that a reader learns
 * what was there: "[U+1F6A1 aerial tramway]".
 */
export function spelled(text: string): string {
  let given = text.normalize('NFC');
  for (let letter = unsettable(given); letter !== null; letter = unsettable(given)) {
    const name = letterName(letter);
    given = given.replaceAll(letter, `[${codeOf(letter)}${name ? ` ${name}` : ''}]`);
  }
  return given;
}
