import { describe, expect, it } from 'vitest';
import {
  type Absence,
  absenceAt,
  absenceFault,
  type Cover,
  coverChain,
  coverCircle,
  isAway,
  isCovered,
  spanOf,
  workCoveredBy,
} from './cover';

const everything = (by: string): Cover => ({ by, verbs: 'all', types: 'all' });
const away = (person: string, from: number, to: number, ...covers: Cover[]): Absence => ({
  id: `${person}${from}`,
  person,
  from,
  to,
  covers,
});
const review = { verb: 'review', type: 'PRO' } as const;
const nobody = () => false;
const by = (chain: ReturnType<typeof coverChain>) => chain?.map((link) => link.by);

describe('an absence', () => {
  it('runs from its first instant up to, and no longer at, its last', () => {
    const absences = [away('petra', 100, 200)];
    expect([99, 100, 199, 200].map((at) => isAway(absences, 'petra', at))).toEqual([false, true, true, false]);
    expect(isAway(absences, 'oskar', 150)).toBe(false);
    expect(absenceAt(absences, 'petra', 150)).toBe(absences[0]);
    expect(absenceAt(absences, 'petra', 200)).toBeNull();
  });

  it('can be kept only where it lies ahead, is not too long, and neither overlaps nor is covered twice', () => {
    const fault = (absence: Absence, ...others: Absence[]) => absenceFault(absence, others, 50);
    expect(fault(away('petra', 100, 200, everything('oskar')))).toBeNull();
    expect(fault(away('petra', 10, 50))).toBe('absence-past');
    expect(fault(away('petra', 10, 51))).toBeNull();
    expect(fault(away('petra', 100, 100))).toBe('absence-past');
    const twoYears = 2 * 366 * 86_400_000;
    expect(fault(away('petra', 100, 100 + twoYears))).toBeNull();
    expect(fault(away('petra', 100, 101 + twoYears))).toBe('absence-long');
    expect(fault(away('petra', 100, 200), away('petra', 199, 300))).toBe('absence-overlaps');
    expect(fault(away('petra', 100, 200), away('petra', 60, 101))).toBe('absence-overlaps');
    expect(fault(away('petra', 100, 200), away('petra', 200, 300), away('petra', 60, 100))).toBeNull();
    expect(fault(away('petra', 100, 200), away('oskar', 100, 200))).toBeNull();
    expect(fault(away('petra', 100, 200), { ...away('petra', 150, 250), id: 'petra100' })).toBeNull();
    expect(fault(away('petra', 100, 200, everything('petra')))).toBe('cover-self');
  });

  it('has one cover for each kind of work', () => {
    const fault = (...covers: Cover[]) => absenceFault(away('petra', 100, 200, ...covers), [], 50);
    const of = (cover: Partial<Cover>): Cover => ({ ...everything('oskar'), ...cover });
    expect(fault(everything('oskar'), everything('yuki'))).toBe('cover-twice');
    expect(fault(of({ verbs: ['review'] }), of({ verbs: ['approve'] }))).toBeNull();
    expect(fault(of({ verbs: ['review'] }), of({ verbs: ['approve', 'review'] }))).toBe('cover-twice');
    expect(fault(of({ verbs: ['review'] }), everything('yuki'))).toBe('cover-twice');
    expect(fault(of({ types: ['PRO'] }), of({ types: ['AGR'] }))).toBeNull();
    expect(fault(of({ types: ['PRO'] }), of({ types: ['PRO'], verbs: ['sign'] }))).toBe('cover-twice');
    expect(fault(of({ verbs: ['sign'], types: ['PRO'] }), of({ verbs: ['review'], types: ['PRO'] }))).toBeNull();
  });
});

describe('cover', () => {
  it('is for some kinds of work or for all', () => {
    const covers = (cover: Partial<Cover>, work: Parameters<typeof isCovered>[1] = review) =>
      isCovered(away('petra', 0, 9, { ...everything('oskar'), ...cover }), work);
    expect(covers({})).toBe(true);
    expect(covers({ verbs: ['approve'] })).toBe(false);
    expect(covers({ verbs: ['approve', 'review'] })).toBe(true);
    expect(covers({ types: ['AGR'] })).toBe(false);
    expect(covers({ types: ['PRO'] })).toBe(true);
    expect(covers({ types: ['PRO'] }, { verb: 'review', type: null })).toBe(false);
    expect(covers({}, { verb: 'review', type: null })).toBe(true);
    expect(isCovered(away('petra', 0, 9), review)).toBe(false);
  });

  it('leads to whoever is there at the end of a chain', () => {
    const absences = [
      away('petra', 0, 100, everything('oskar')),
      away('oskar', 10, 50, { ...everything('yuki'), verbs: ['review'] }, { ...everything('noor'), verbs: ['sign'] }),
    ];
    const chain = (at: number, verb: 'review' | 'sign' | 'read') =>
      by(coverChain(absences, 'petra', { verb, type: 'PRO' }, at, nobody));
    expect(chain(5, 'review')).toEqual(['oskar']);
    expect(chain(10, 'review')).toEqual(['oskar', 'yuki']);
    expect(chain(10, 'sign')).toEqual(['oskar', 'noor']);
    expect(chain(50, 'review')).toEqual(['oskar']);
    // Who covers is away themselves and nobody covers them for this: it stays with them.
    expect(chain(10, 'read')).toEqual(['oskar']);
    expect(chain(100, 'review')).toEqual([]);
    expect(coverChain(absences, 'petra', review, 20, nobody)?.[1]).toEqual({
      absence: 'oskar10',
      person: 'oskar',
      by: 'yuki',
      from: 10,
      to: 50,
    });
  });

  it('adds nobody where it runs in a circle or through somebody who is cut', () => {
    const circle = [
      away('petra', 0, 100, everything('oskar')),
      away('oskar', 0, 100, everything('yuki')),
      away('yuki', 0, 100, everything('oskar')),
    ];
    expect(coverChain(circle, 'petra', review, 5, nobody)).toBeNull();
    expect(coverCircle(circle, 'petra', review, 5)).toEqual(['oskar', 'yuki', 'oskar']);
    expect(coverCircle(circle, 'oskar', review, 5)).toEqual(['oskar', 'yuki', 'oskar']);
    expect(coverCircle(circle, 'noor', review, 5)).toBeNull();
    expect(coverCircle(circle.slice(0, 2), 'petra', review, 5)).toBeNull();
    // It is cut there and does not fall back to the one before.
    const line = circle.slice(0, 2);
    expect(coverChain(line, 'petra', review, 5, (person) => person === 'yuki')).toBeNull();
    expect(coverChain(line, 'petra', review, 5, (person) => person === 'oskar')).toBeNull();
    expect(by(coverChain(line, 'petra', review, 5, (person) => person === 'petra'))).toEqual(['oskar', 'yuki']);
  });

  it('gives somebody all work of which they are the end, for as long as every link holds', () => {
    const absences = [
      away('petra', 0, 100, everything('oskar')),
      away('oskar', 10, 50, { ...everything('yuki'), types: ['PRO'] }),
      away('noor', 0, 100),
    ];
    const work = (person: string, at = 20) => workCoveredBy(absences, person, ['review', 'sign'], ['PRO', 'AGR'], at);
    expect(work('yuki')).toEqual([
      { person: 'petra', verb: 'review', type: 'PRO', chain: ['oskar', 'yuki'], from: 10, to: 50 },
      { person: 'petra', verb: 'sign', type: 'PRO', chain: ['oskar', 'yuki'], from: 10, to: 50 },
      { person: 'oskar', verb: 'review', type: 'PRO', chain: ['yuki'], from: 10, to: 50 },
      { person: 'oskar', verb: 'sign', type: 'PRO', chain: ['yuki'], from: 10, to: 50 },
    ]);
    expect(work('oskar').map(({ person, type, chain }) => [person, type, chain])).toEqual([
      ['petra', 'AGR', ['oskar']],
      ['petra', 'AGR', ['oskar']],
    ]);
    expect(work('oskar', 5)).toHaveLength(4);
    expect(work('noor')).toEqual([]);
    expect(work('yuki', 50)).toEqual([]);
    expect(spanOf([])).toEqual({ from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY });
  });
});
