import Joi from 'joi';
import { type FieldValue, fieldLimits } from '@/core/page/fields';
import { type Condition, conditionLimits } from '@/core/route/condition';
import { freshStage, routeLimits, type Series, type Time } from '@/core/route/route';
import { type Story, storyLimits } from '@/core/text/story';

/** What Joi says of a schema (`describe`), as far as a largest value needs it. */
interface Description {
  readonly type: string;
  readonly flags?: { readonly only?: boolean; readonly unit?: string };
  readonly allow?: readonly unknown[];
  readonly rules?: readonly { readonly name: string; readonly args?: Readonly<Record<string, never>> }[];
  readonly items?: readonly Description[];
  readonly keys?: Readonly<Record<string, Description>>;
  readonly matches?: readonly { readonly schema: Description }[];
  readonly patterns?: readonly { readonly schema?: Description; readonly rule: Description }[];
}

const id = (n: number) => `${n}`.padStart(64, 'i');
/** The letter that takes the most bytes for its length, and what stands where it may not. */
const texts = (length: number, n: number): string[] => [
  `${n}${'縄'.repeat(length)}`.slice(0, length),
  id(n).slice(-length),
  `${n}`.padStart(64, '0'),
  `${'a'.repeat(64)}@${'b'.repeat(60)}.${'c'.repeat(60)}.example`,
  `${n}`.padStart(6, 'A'),
  'EUR',
  '2026-12-24',
  '2f1b1c52-9a53-4d0c-8a3e-3f6a1f0f5b11',
  'Europe/Oslo',
];

const size = (value: unknown) => Buffer.byteLength(JSON.stringify(value) ?? '');

/** The largest input that an operation takes, as long as its JSON is. */
export function largestInput(schema: Joi.Schema): Record<string, unknown> {
  const given = schema.describe() as Description;
  const value = Object.fromEntries(
    Object.entries(given.keys ?? {}).map(([key, inner]) => [key, bounded[key]?.() ?? largestOf(inner, 0)]),
  );
  const { error } = schema.validate(value);
  if (error) throw new Error(`no largest value is known: ${error.message} ${JSON.stringify(given).slice(0, 400)}`);
  return value;
}

function largestOf(given: Description, n: number): unknown {
  const rule = (name: string) => given.rules?.find((one) => one.name === name)?.args as { limit?: number } | undefined;
  const allowed = (given.allow ?? []).filter((value) => value !== null && value !== '');
  if (given.flags?.only || given.type === 'any') return [...allowed].sort((a, b) => size(b) - size(a))[0] ?? null;
  switch (given.type) {
    case 'boolean':
      return false;
    case 'number': {
      const most = rule('max')?.limit ?? 8_640_000_000_000_000;
      return most;
    }
    case 'string':
      return textOf(given, rule('max')?.limit ?? 254, n);
    case 'array': {
      const [only] = given.items ?? [];
      // Each of what may be chosen, once.
      if (only?.flags?.only) return only.allow?.slice(0, rule('max')?.limit);
      const most = rule('max')?.limit ?? rule('length')?.limit;
      if (most === undefined) throw new Error(`a list without a bound: ${JSON.stringify(given).slice(0, 400)}`);
      return Array.from({ length: most }, (_, i) => biggest(given.items ?? [], i + 1));
    }
    case 'object': {
      const own = Object.entries(given.keys ?? {}).map(([key, inner]) => [key, largestOf(inner, n)]);
      const [pattern] = given.patterns ?? [];
      const most = rule('max')?.limit;
      if (pattern && most === undefined) throw new Error('a table of names without a bound');
      const named = pattern
        ? Array.from({ length: most as number }, (_, i) => [id(i), largestOf(pattern.rule, i)])
        : [];
      return Object.fromEntries([...own, ...named]);
    }
    case 'alternatives':
      return biggest(
        (given.matches ?? []).map((match) => match.schema),
        n,
      );
    default:
      throw new Error(`a schema of another type: ${given.type}`);
  }
}

function biggest(among: readonly Description[], n: number): unknown {
  return among.map((one) => largestOf(one, n)).sort((a, b) => size(b) - size(a))[0] ?? null;
}

function textOf(given: Description, most: number, n: number): string {
  const schema = Joi.build(given as never);
  const fits = texts(most, n).filter((text) => schema.validate(text).error === undefined);
  const [longest] = fits.sort((a, b) => size(b) - size(a));
  if (longest === undefined) throw new Error(`no text is known for ${JSON.stringify(given).slice(0, 400)}`);
  return longest;
}

/** What is bounded as a whole, more than each of its parts. */
const bounded: Readonly<Record<string, () => unknown>> = {
  route: largestRoute,
  story: largestStory,
  values: largestMark,
};

const time: Time = { kind: 'instant', at: 8_640_000_000_000_000 };

/** As many stages, seats, files, pages, facts and parts of conditions as a route may have. */
function largestRoute(): Series {
  const compared: Condition = {
    kind: 'fact',
    fact: id(0),
    is: 'atLeast',
    value: { kind: 'party', text: '縄'.repeat(200) },
  };
  const condition: Condition = { kind: 'all', of: Array.from({ length: conditionLimits.parts - 1 }, () => compared) };
  const { seats, stages, files, pages, facts } = routeLimits;
  return {
    kind: 'series',
    id: id(1),
    parts: Array.from({ length: stages }, (_, s) => ({
      ...freshStage(id(1000 + s), 'contribute'),
      seats: Array.from(
        { length: Math.ceil((seats * (s + 1)) / stages) - Math.ceil((seats * s) / stages) },
        (_, i) => ({
          id: id(10_000 + 100 * s + i),
          assignment: { kind: 'outside' as const, person: id(0) },
          files: Array.from({ length: files }, (_, n) => id(n)),
          pages: Array.from({ length: pages }, (_, n) => ({ file: id(n), from: 100_000, to: 100_000 })),
          facts: Array.from({ length: facts }, (_, n) => id(n)),
          due: time,
          closes: time,
        }),
      ),
      rule: { kind: 'atLeast' as const, k: 1 },
      due: time,
      closes: time,
      earliest: {
        kind: 'wait' as const,
        from: { stage: id(1000) },
        again: false,
        unit: 'workingHours' as const,
        amount: 1,
      },
      condition,
      independentOf: Array.from({ length: stages - 1 }, (_, n) => id(1000 + n)),
    })),
  };
}

/** As many letters, each of three bytes, in as many blocks as a text may have. */
function largestStory(): Story {
  const text = '縄'.repeat(storyLimits.characters / storyLimits.blocks);
  return {
    format: 1,
    blocks: Array.from({ length: storyLimits.blocks }, (_, n) => ({
      id: `b${n}`,
      kind: 'paragraph',
      level: 0,
      runs: [{ text, marks: {} }],
    })),
  };
}

/** Every field filled, the first with a mark of as many strokes and points as one may have. */
function largestMark(): Readonly<Record<string, FieldValue>> {
  const points = Array.from({ length: fieldLimits.points / fieldLimits.strokes }, () => 99_999.99);
  const strokes = Array.from({ length: fieldLimits.strokes }, () => points);
  return Object.fromEntries(
    Array.from({ length: fieldLimits.count }, (_, n) => [
      id(n),
      n === 0
        ? { kind: 'drawn' as const, strokes, width: 10_000, height: 10_000 }
        : { kind: 'text' as const, text: '縄'.repeat(fieldLimits.text) },
    ]),
  );
}
