import { describe, expect, it } from 'vitest';
import type { Absence, Cover } from '../people/cover';
import { uncoveredAt } from './away';
import { freshStage } from './route';

const away = (person: string, from: number, to: number, covers: readonly Cover[] = []): Absence => ({
  id: `${person} away`,
  person,
  from,
  to,
  covers,
});
const all = (by: string): Cover => ({ by, verbs: 'all', types: 'all' });
const found = (absences: readonly Absence[], at: number, cut: readonly string[] = []) =>
  uncoveredAt(absences, 'oskar', freshStage('s', 'approve'), null, at, (person) => cut.includes(person))?.id ?? null;

describe('an absence that nobody covers', () => {
  it('is one in which something is due, from its first instant up to its last', () => {
    const alone = [away('oskar', 10, 20)];
    expect([9, 10, 19, 20].map((at) => found(alone, at))).toEqual([null, 'oskar away', 'oskar away', null]);
  });

  it('is none where somebody is there who covers for this kind of work, and who is not cut', () => {
    expect(found([away('oskar', 10, 20, [all('yuki')])], 15)).toBeNull();
    expect(found([away('oskar', 10, 20, [all('yuki')])], 15, ['yuki'])).toBe('oskar away');
    expect(found([away('oskar', 10, 20, [{ by: 'yuki', verbs: ['review'], types: 'all' }])], 15)).toBe('oskar away');
  });

  it('is one also where whoever covers is away themselves and nobody covers for them', () => {
    const both = [away('oskar', 10, 20, [all('yuki')]), away('yuki', 14, 16)];
    expect([13, 14, 15, 16].map((at) => found(both, at))).toEqual([null, 'oskar away', 'oskar away', null]);
    expect(found([...both.slice(0, 1), away('yuki', 14, 16, [all('petra')])], 15)).toBeNull();
  });
});
