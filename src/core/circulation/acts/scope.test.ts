import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { created, factNames, factTypes, hash, type Run, sentRun } from '../../../../test/properties/arbitrary';
import { decide, linesOf, nextRound, put, route, stage, state, statuses } from '../../../../test/properties/scene';
import { type FactValue, standardFacts } from '../../route/facts';
import type { Seat } from '../../route/route';
import type { Version, VersionFile } from '../run/shapes';
import { decidesOn, scopeIn } from '../run/state';

// Everybody is asked again about exactly what they decide on: files, pages of them, values.

const amount = (thousandths: number): FactValue => ({ kind: 'amount', thousandths, currency: 'NOK' });
const pagesPerFile = 4;
type Part =
  | { readonly file: string; readonly page: number }
  | { readonly attachment: true }
  | { readonly fact: string };
const parts: readonly Part[] = [
  ...['f1', 'f2'].flatMap((file) => Array.from({ length: pagesPerFile }, (_, i) => ({ file, page: i + 1 }))),
  // A file whose pages cannot be told apart.
  { file: 'f3', page: 2 },
  { attachment: true },
  { fact: 'amount' },
  { fact: 'party' },
];

/** Version n of a bundle in which one part has become another. */
function version(number: number, changed: Part | null): Version {
  const of = (id: string, role: VersionFile['role'] = 'document'): VersionFile => {
    const touched =
      changed !== null && (role === 'attachment' ? 'attachment' in changed : 'file' in changed && changed.file === id);
    const prints = Array.from({ length: pagesPerFile }, (_, i) =>
      touched && changed !== null && 'page' in changed && changed.page === i + 1 ? `new ${number}` : `${id} ${i + 1}`,
    );
    return {
      id,
      file: hash(id.length * 1000 + id.charCodeAt(1) + (touched ? 50_000 + number : 0)),
      name: `${id}.pdf`,
      role,
      record: 'rec',
      mediaType: 'application/pdf',
      bytes: 1000,
      ...(id === 'f3' || role === 'attachment' ? {} : { prints }),
    };
  };
  return { number, files: [of('f1'), of('f2'), of('f3'), of('extra', 'attachment')] };
}

/** What a seat decides on, told by counting parts, in another way than the engine does it. */
function holdsPart(seat: Pick<Seat, 'files' | 'pages' | 'facts'>, part: Part): boolean {
  if ('attachment' in part) return true;
  if ('fact' in part) return seat.facts.includes(part.fact);
  if (seat.files !== 'all' && !seat.files.includes(part.file)) return false;
  const ranges = seat.pages.filter(({ file, from }) => file === part.file && from <= pagesPerFile);
  const beyond = seat.pages.some(({ file, from }) => file === part.file && from > pagesPerFile);
  if (part.file === 'f3' || beyond || ranges.length === 0) return true;
  return ranges.some(({ from, to }) => from <= part.page && part.page <= to);
}

const anySeat = fc.record({
  files: fc.oneof(fc.constant('all' as const), fc.subarray(['f1', 'f2', 'f3'], { minLength: 1 })),
  pages: fc.array(
    fc
      .record({ file: fc.constantFrom('f1', 'f2', 'f3'), from: fc.integer({ min: 1, max: 5 }), more: fc.nat(2) })
      .map(({ file, from, more }) => ({ file, from, to: from + more })),
    { maxLength: 3 },
  ),
  facts: fc.subarray(['amount', 'party']),
});
const people = ['petra', 'yuki', 'noor', 'oskar'] as const;

/** Everybody has reviewed the first version, and the author has it back. */
function returned(seats: readonly Pick<Seat, 'files' | 'pages' | 'facts'>[]): Run {
  const review = stage('a', 'review', people.slice(0, seats.length));
  const plan = route(
    { ...review, seats: review.seats.map((seat, i) => ({ ...seat, ...seats[i] })) },
    stage('b', 'approve', ['benedikt']),
  );
  const run = created(plan, 3);
  put(run, { type: 'attach', version: version(1, null) });
  put(run, { type: 'giveFacts', facts: standardFacts(factTypes), names: factNames });
  expect(put(run, { type: 'send', releasesItself: false })).toBe('ok');
  for (const [i] of seats.entries()) {
    const person = people[i] as string;
    expect(decide(run, `a-${person}`, person, 'done')).toBe('ok');
  }
  expect(decide(run, 'b-benedikt', 'benedikt', 'returned')).toBe('ok');
  return run;
}

describe('who is asked again', () => {
  it('is exactly whoever decides on what has changed, whichever part that is', () => {
    fc.assert(
      fc.property(fc.array(anySeat, { minLength: 1, maxLength: 4 }), fc.constantFrom(...parts), (seats, part) => {
        const run = returned(seats);
        if ('fact' in part) {
          const other: FactValue = part.fact === 'amount' ? amount(7) : { kind: 'party', text: 'Other' };
          const facts = { ...state(run).facts, [part.fact]: other };
          expect(put(run, { type: 'giveFacts', facts, names: factNames })).toBe('ok');
        }
        expect(put(run, { type: 'attach', version: version(2, 'fact' in part ? null : part) })).toBe('ok');
        const kept = new Map(linesOf(state(run)).map((line) => [line.seat, line.keep]));
        for (const [i, seat] of seats.entries()) {
          const why = JSON.stringify({ seat, part });
          expect(kept.get(`a-${people[i]}`), why).toBe(!holdsPart(seat, part));
        }
      }),
    );
  });

  it('is nobody who decided on it, once a change has been undone', () => {
    const pages = [{ file: 'f1', from: 2, to: 3 }];
    const run = returned([{ files: ['f1'], pages, facts: ['amount'] }]);
    put(run, { type: 'attach', version: version(2, { file: 'f1', page: 2 }) });
    expect(linesOf(state(run)).find(({ seat }) => seat === 'a-petra')?.keep).toBe(false);
    put(run, { type: 'attach', version: version(3, null) });
    expect(linesOf(state(run)).find(({ seat }) => seat === 'a-petra')?.keep).toBe(true);
  });

  it('is everybody who decides on pages where those are not there, or can no longer be told apart', () => {
    const run = returned([{ files: ['f1'], pages: [{ file: 'f1', from: 2, to: 9 }], facts: [] }]);
    const seat = state(run).seats.get('a-petra') as { id: string; stage: string };
    const whole = (prints: readonly string[] | undefined): Version => ({
      number: 2,
      files: version(1, null).files.map(({ prints: _, ...file }) =>
        file.id === 'f1' ? { ...file, file: hash(77), ...(prints ? { prints } : {}) } : file,
      ),
    });
    const scopes = [
      scopeIn(state(run), seat, version(1, null)),
      scopeIn(state(run), seat, whole(undefined)),
      scopeIn(state(run), seat, whole(['f1 1'])),
      scopeIn(state(run), seat, whole(['f1 1', 'f1 2'])),
    ];
    expect(new Set(scopes).size).toBe(3);
    // What is no longer there is the file's to tell, whichever its pages are.
    expect(scopes[1]).toBe(scopes[2]);
  });

  it('leaves a signature to the whole of what it signs', () => {
    const pages = [{ file: 'f1', from: 1, to: 1 }];
    const sign = stage('s', 'sign', ['petra']);
    const run = sentRun(route({ ...sign, seats: sign.seats.map((seat) => ({ ...seat, pages })) }), 1);
    const seat = state(run).seats.get('s-petra') as { id: string; stage: string };
    const [one, other] = [version(1, null), version(1, { file: 'f1', page: 4 })];
    expect(scopeIn(state(run), seat, one)).not.toBe(scopeIn(state(run), seat, other));
  });
});

describe('a value that somebody decides on', () => {
  it('stays once they have responded, until the next round asks them about another', () => {
    const approve = stage('a', 'approve', ['petra', 'oskar']);
    const run = sentRun(
      route({ ...approve, seats: approve.seats.map((seat, i) => ({ ...seat, facts: i === 0 ? ['amount'] : [] })) }),
      1,
    );
    const give = (thousandths: number) =>
      put(run, {
        type: 'giveFacts',
        facts: { ...standardFacts(factTypes), amount: amount(thousandths) },
        names: factNames,
      });
    expect(give(5_000)).toBe('ok');
    // Whoever is asked decides on what there is now, never on an old page.
    expect(decide(run, 'a-petra', 'petra', 'approved', { scope: hash(1) })).toBe('stale-content');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    expect(give(6_000)).toBe('fact-decided');
    expect(decide(run, 'a-oskar', 'oskar', 'returned')).toBe('ok');
    expect(give(6_000)).toBe('ok');
    expect(put(run, { type: 'attach', version: version(2, null) })).toBe('ok');
    nextRound(run);
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'a-oskar': 'asked' });
  });
});

describe('what somebody reads of what they decide on', () => {
  it('is the pages by the names of their files, and the values by theirs, as they are now; a signature is of everything', () => {
    const content = {
      pages: [{ file: 'f1', from: 1, to: 2 }],
      facts: ['amount', 'party', 'gone'],
    };
    const of = (verb: 'review' | 'sign', from = content) => {
      const own = stage('a', verb, ['petra']);
      const run = sentRun(route({ ...own, seats: own.seats.map((seat) => ({ ...seat, ...from })) }));
      const given = { ...state(run), facts: { amount: amount(5) }, factNames: { amount: 'Sum', party: 'Party' } };
      return decidesOn(given, { id: 'a-petra', stage: 'a' });
    };
    const name = state(sentRun(route(stage('a', 'review', ['petra'])))).versions[0]?.files[0]?.name ?? '';
    expect(name).not.toBe('');
    const values = [
      { name: 'Sum', value: amount(5) },
      { name: 'Party', value: null },
      { name: '', value: null },
    ];
    expect(of('review')).toEqual({ pages: [{ file: name, from: 1, to: 2 }], values });
    expect(of('review', { pages: [{ file: 'gone', from: 1, to: 1 }], facts: [] }).pages[0]?.file).toBe('');
    expect(of('sign').pages).toEqual([]);
  });
});
