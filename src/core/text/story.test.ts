import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fromEditor, toEditor } from './codec';
import {
  type Block,
  blockKinds,
  itemNumbers,
  normal,
  outline,
  readStory,
  type Story,
  sameStory,
  storyText,
} from './story';

const marks = fc.record(
  {
    bold: fc.constant(true as const),
    italic: fc.constant(true as const),
    link: fc.constantFrom('https://a.example/x', 'mailto:a@b.example'),
  },
  { requiredKeys: [] },
);
const block: fc.Arbitrary<Omit<Block, 'id'>> = fc.record({
  kind: fc.constantFrom(...blockKinds),
  level: fc.integer({ min: -3, max: 9 }),
  runs: fc.array(fc.record({ text: fc.string({ maxLength: 8 }), marks }), { maxLength: 6 }),
});
const story: fc.Arbitrary<Story> = fc
  .array(block, { maxLength: 12 })
  .map((blocks) => ({ format: 1, blocks: blocks.map((b, i) => ({ ...b, id: `b${i}` })) }));

describe('a story', () => {
  it('goes to the editor and back unchanged', () => {
    fc.assert(
      fc.property(story, (given) => {
        const back = fromEditor(toEditor(given), () => 'fresh');
        expect(back).toEqual(normal(given));
        expect(storyText(back)).toBe(storyText(normal(given)));
      }),
    );
  });

  it('is the same as another exactly when their normal forms are', () => {
    fc.assert(
      fc.property(story, story, (one, other) => {
        expect(sameStory(one, normal(one))).toBe(true);
        expect(sameStory(one, other)).toBe(JSON.stringify(normal(one)) === JSON.stringify(normal(other)));
        const longer = {
          format: 1 as const,
          blocks: [...normal(one).blocks, { id: 'z', kind: 'paragraph' as const, level: 0, runs: [] }],
        };
        expect(sameStory(one, longer)).toBe(false);
      }),
    );
  });

  it('has one normal form, which reading gives as well', () => {
    fc.assert(
      fc.property(story, (given) => {
        const once = normal(given);
        expect(normal(once)).toEqual(once);
        const read = readStory(JSON.parse(JSON.stringify(once)));
        if (typeof read === 'string') throw new Error(read);
        expect(normal(read).blocks.length).toBe(once.blocks.length);
        for (const { runs } of once.blocks) for (const run of runs) expect(run.text).not.toBe('');
      }),
    );
  });

  it('renews copied and missing block ids and keeps the first', () => {
    let n = 0;
    const copied = fromEditor(
      {
        type: 'doc',
        content: ['a', 'a', ''].map((id) => ({ type: 'block', attrs: { id, kind: 'paragraph', level: 0 } })),
      },
      () => `new${++n}`,
    );
    expect(copied.blocks.map((b) => b.id)).toEqual(['a', 'new1', 'new2']);
  });

  it('refuses what is no story and drops links that a reader would run', () => {
    const cases: [unknown, string][] = [
      [null, 'not-a-story'],
      [{ blocks: [{ id: 'x y', kind: 'paragraph', level: 0, runs: [] }] }, 'not-a-story'],
      [{ blocks: [{ id: 'x', kind: 'table', level: 0, runs: [] }] }, 'not-a-story'],
      [{ blocks: ['x', 'x'].map((id) => ({ id, kind: 'paragraph', level: 0, runs: [] })) }, 'duplicate-id'],
      [{ blocks: Array.from({ length: 20_001 }, () => null) }, 'too-large'],
    ];
    for (const [value, why] of cases) {
      expect(readStory(value && { format: 1, ...(value as object) })).toBe(why);
      expect(readStory(value && { format: 2, ...(value as object) })).toBe('not-a-story');
    }
    const read = readStory({
      format: 1,
      blocks: [
        { id: 'x', kind: 'paragraph', level: 0, runs: [{ text: 'go', marks: { link: 'javascript:alert(1)' } }] },
      ],
    });
    expect(read).toEqual({
      format: 1,
      blocks: [{ id: 'x', kind: 'paragraph', level: 0, runs: [{ text: 'go', marks: {} }] }],
    });
  });

  it('numbers sections and list items', () => {
    const head = (id: string, level: number): Block => ({
      id,
      kind: 'heading',
      level,
      runs: [{ text: id, marks: {} }],
    });
    expect(
      outline({ format: 1, blocks: [head('a', 1), head('b', 2), head('c', 2), head('d', 1), head('e', 3)] }).map(
        (e) => e.number,
      ),
    ).toEqual(['1', '1.1', '1.2', '2', '2.1.1']);
    const item = (id: string, kind: Block['kind'], level: number): Block => ({ id, kind, level, runs: [] });
    const numbers = itemNumbers({
      format: 1,
      blocks: [
        item('a', 'number', 0),
        item('b', 'number', 1),
        item('c', 'number', 1),
        item('d', 'number', 0),
        item('p', 'paragraph', 0),
        item('e', 'number', 0),
      ],
    });
    expect([...numbers.values()]).toEqual([1, 1, 2, 2, 1]);
  });
});
