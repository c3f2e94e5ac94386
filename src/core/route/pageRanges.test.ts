import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pageRangesIn, pageRangesText } from './pageRanges';

describe('pages as people write them', () => {
  it('are those pages, in order, none twice, and written back they are read as the same', () => {
    const piece = fc.tuple(fc.integer({ min: 1, max: 30 }), fc.nat(4), fc.constantFrom('-', ' – '));
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 6 }), (pieces) => {
        const text = pieces
          .map(([from, more, dash]) => (more === 0 ? `${from}` : `${from}${dash}${from + more}`))
          .join(', ');
        const meant = new Set(pieces.flatMap(([from, more]) => Array.from({ length: more + 1 }, (_, i) => from + i)));
        const read = pageRangesIn(text, 'f', 40) ?? [];
        const pages = read.flatMap(({ from, to }) => Array.from({ length: to - from + 1 }, (_, i) => from + i));
        expect(pages).toEqual([...meant].sort((a, b) => a - b));
        expect(pageRangesIn(pageRangesText(read), 'f', 40)).toEqual(read);
      }),
    );
  });

  it.each(['0', '3-2', '41', '2-41', 'two', '1-2-3', '-3', '1 2', '1.5'])('are none where it says %s', (text) => {
    expect(pageRangesIn(text, 'f', 40)).toBeNull();
  });
});
