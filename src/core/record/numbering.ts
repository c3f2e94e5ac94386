/**
 * Document numbers by a scheme per document type. A scheme is a text with one run of zeros that stands for the counter:
 * "MR-PRO-000" gives MR-PRO-001, MR-PRO-002, ... and grows past its width rather than repeat.
 */
export function numberOf(scheme: string, counter: number): string {
  const { before, width, after } = parts(scheme);
  return `${before}${String(counter).padStart(width, '0')}${after}`;
}

/** The counter in a number of a scheme, or null when it is none of its numbers. */
export function numberIn(scheme: string, number: string): number | null {
  const { before, after } = parts(scheme);
  if (!number.startsWith(before) || !number.endsWith(after)) return null;
  const middle = number.slice(before.length, number.length - after.length);
  return /^\d{1,9}$/.test(middle) ? Number(middle) : null;
}

/** What every number of a scheme begins with, so that those taken can be looked for. */
export function numberPrefix(scheme: string): string {
  return parts(scheme).before;
}

/** Whether a scheme can number anything: exactly one run of zeros, 2 to 40 characters. */
export function schemeFits(scheme: string): boolean {
  return scheme.length >= 2 && scheme.length <= 40 && (scheme.match(/0+/g) ?? []).length === 1;
}

function parts(scheme: string): { before: string; width: number; after: string } {
  const zeros = /0+/.exec(scheme);
  if (!zeros) throw new Error(`the numbering scheme ${scheme} has no counter`);
  return {
    before: scheme.slice(0, zeros.index),
    width: zeros[0].length,
    after: scheme.slice(zeros.index + zeros[0].length),
  };
}

/** The revision after the given one: A, B, ... Z, AA, AB, ...; the first is A. */
export function nextRevision(after: string | null): string {
  if (after === null) return 'A';
  const letters = [...after];
  for (let i = letters.length - 1; i >= 0; i -= 1) {
    const letter = letters[i] as string;
    if (letter !== 'Z') {
      letters[i] = String.fromCharCode(letter.charCodeAt(0) + 1);
      return letters.join('');
    }
    letters[i] = 'A';
  }
  return `A${letters.join('')}`;
}
