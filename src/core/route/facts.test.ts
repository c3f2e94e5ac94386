import { describe, expect, it } from 'vitest';
import { type FactType, type FactValue, factFault, factsWith } from './facts';

const type = (more: Partial<FactType>): FactType => ({
  id: 'f',
  name: 'F',
  kind: 'number',
  needed: false,
  choices: [],
  currency: 'NOK',
  least: null,
  most: null,
  standard: null,
  ...more,
});
const number = (thousandths: number): FactValue => ({ kind: 'number', thousandths });

describe('a value', () => {
  it('is of its kind, and a number lies between its bounds, where it has any', () => {
    const faults = (more: Partial<FactType>, ...of: number[]) => of.map((one) => factFault(type(more), number(one)));
    expect(faults({}, -5000, 0, 5000, 0.5, 2 ** 53)).toEqual([null, null, null, 'range', 'range']);
    expect(faults({ least: 1000 }, 999, 1000, 9e9)).toEqual(['range', null, null]);
    expect(faults({ most: -1000 }, -9e9, -1000, -999)).toEqual([null, null, 'range']);
    expect(factFault(type({ kind: 'amount' }), number(1))).toBe('kind');
    const amount = (currency: string): FactValue => ({ kind: 'amount', thousandths: 1, currency });
    expect(['NOK', 'nok', 'NOKK', ''].map((one) => factFault(type({ kind: 'amount' }), amount(one)))).toEqual([
      null,
      'currency',
      'currency',
      'currency',
    ]);
  });

  it('is one of the choices, a date of the calendar, somebody, or said at all', () => {
    const fault = (value: FactValue, choices: readonly string[] = []) =>
      factFault(type({ kind: value.kind, choices }), value);
    expect(fault({ kind: 'choice', text: 'rope' }, ['rope', 'cabin'])).toBeNull();
    expect(fault({ kind: 'choice', text: 'Rope' }, ['rope', 'cabin'])).toBe('choice');
    expect(fault({ kind: 'date', day: '2028-02-29' })).toBeNull();
    expect(fault({ kind: 'date', day: '2027-02-29' })).toBe('day');
    expect(fault({ kind: 'party', text: '  ' })).toBe('empty');
    expect(fault({ kind: 'party', text: 'Skarn Survey' })).toBeNull();
    expect(fault({ kind: 'person', person: '' })).toBe('empty');
    expect(fault({ kind: 'person', person: 'yuki' })).toBeNull();
    expect(fault({ kind: 'yesNo', yes: false })).toBeNull();
  });

  it('that is given comes before the standard, and one that is taken away leaves none', () => {
    const types = [type({ id: 'a', standard: number(1) }), type({ id: 'b', standard: number(2) }), type({ id: 'c' })];
    expect(factsWith(types, { a: number(9), b: null })).toEqual({ a: number(9) });
  });
});
