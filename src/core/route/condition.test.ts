import { describe, expect, it } from 'vitest';
import {
  type Comparison,
  type Condition,
  comparisonsIn,
  comparisonsOf,
  conditionInWords,
  factsIn,
  holds,
  type StageOutcome,
} from './condition';
import { type Facts, type FactValue, factKinds } from './facts';

const grounds = (value: FactValue | null, outcomes: readonly StageOutcome[] | null = null) => ({
  facts: (value === null ? {} : { a: value }) as Facts,
  names: { a: 'Amount' },
  record: { unit: { id: 'wards', called: 'Wards' } },
  outcomes: (stage: string) => (stage === 'ended' && outcomes ? new Set(outcomes) : null),
});
const fact = (is: Comparison, value: FactValue): Condition => ({ kind: 'fact', fact: 'a', is, value });
const yes: Condition = { kind: 'record', field: 'unit', is: 'is', value: 'wards' };
const no: Condition = { kind: 'record', field: 'unit', is: 'isNot', value: 'wards' };

/** By each comparison, in the order of its name: over, atLeast, under, atMost, is, isNot. */
const all = ['over', 'atLeast', 'under', 'atMost', 'is', 'isNot'] as const;
const against = (mine: FactValue | null, other: FactValue) =>
  all.map((is) => (holds(fact(is, other), grounds(mine)).holds ? is : '')).filter(Boolean);

describe('a comparison', () => {
  const amount = (thousandths: number, currency = 'NOK') => ({ kind: 'amount' as const, thousandths, currency });
  const number = (thousandths: number) => ({ kind: 'number' as const, thousandths });
  const date = (day: string) => ({ kind: 'date' as const, day });

  it.each([
    [amount(2000), amount(1000), ['over', 'atLeast', 'isNot']],
    [amount(1000), amount(1000), ['atLeast', 'atMost', 'is']],
    [amount(999), amount(1000), ['under', 'atMost', 'isNot']],
    [number(2000), number(1000), ['over', 'atLeast', 'isNot']],
    [number(1000), number(1000), ['atLeast', 'atMost', 'is']],
    [number(-1), number(0), ['under', 'atMost', 'isNot']],
    [date('2026-12-02'), date('2026-12-01'), ['over', 'atLeast', 'isNot']],
    [date('2026-12-01'), date('2026-12-01'), ['atLeast', 'atMost', 'is']],
    [date('2026-11-30'), date('2026-12-01'), ['under', 'atMost', 'isNot']],
    [{ kind: 'yesNo', yes: true }, { kind: 'yesNo', yes: true }, ['atLeast', 'atMost', 'is']],
    [{ kind: 'yesNo', yes: false }, { kind: 'yesNo', yes: true }, ['under', 'atMost', 'isNot']],
    [{ kind: 'choice', text: 'east' }, { kind: 'choice', text: 'east' }, ['atLeast', 'atMost', 'is']],
    [{ kind: 'choice', text: 'east' }, { kind: 'choice', text: 'west' }, ['over', 'atLeast', 'isNot']],
    [{ kind: 'person', person: 'yuki' }, { kind: 'person', person: 'yuki' }, ['atLeast', 'atMost', 'is']],
    [{ kind: 'person', person: 'yuki' }, { kind: 'person', person: 'noor' }, ['over', 'atLeast', 'isNot']],
  ] as const)('of %j with %j', (mine, other, expected) => {
    expect(against(mine, other)).toEqual(expected);
  });

  it('with what has no value, another currency or another kind is false, whatever is asked', () => {
    expect(against(null, amount(1))).toEqual([]);
    expect(against(amount(1000, 'EUR'), amount(1000))).toEqual([]);
    const kinds: FactValue[] = [
      amount(1),
      number(1),
      date('2026-12-01'),
      { kind: 'yesNo', yes: true },
      { kind: 'choice', text: 'x' },
      { kind: 'party', text: 'x' },
      { kind: 'person', person: 'x' },
    ];
    for (const one of kinds)
      for (const other of kinds) if (one.kind !== other.kind) expect(against(one, other)).toEqual([]);
  });

  it('of a record or of a stage is with what is known of them', () => {
    const of = (condition: Condition, outcomes: readonly StageOutcome[] | null = ['declined']) =>
      holds(condition, grounds(null, outcomes)).holds;
    expect([of(yes), of(no)]).toEqual([true, false]);
    expect(of({ kind: 'record', field: 'unit', is: 'isNot', value: 'other' })).toBe(true);
    expect(of({ kind: 'record', field: 'owner', is: 'isNot', value: 'x' })).toBe(false);
    const outcome = (stage: string, what: StageOutcome): Condition => ({ kind: 'outcome', stage, outcome: what });
    expect(of(outcome('ended', 'declined'))).toBe(true);
    expect(of(outcome('ended', 'missed'))).toBe(false);
    expect(of(outcome('ended', 'declined'), null)).toBe(false);
    expect(of(outcome('other', 'declined'))).toBe(false);
  });

  it('of each kind of value makes sense with some words only', () => {
    const ordered = ['over', 'atLeast', 'under', 'atMost', 'is'];
    const named = ['is', 'isNot'];
    expect(Object.fromEntries(factKinds.map((kind) => [kind, comparisonsOf(kind)]))).toEqual({
      amount: ordered,
      number: ordered,
      choice: named,
      yesNo: ['is'],
      date: ordered,
      party: named,
      person: named,
    });
  });
});

describe('a condition', () => {
  const amount: FactValue = { kind: 'amount', thousandths: 5000, currency: 'NOK' };
  const over = fact('over', { ...amount, thousandths: 1000 });

  it('holds by all, by any and by not', () => {
    const of = (condition: Condition) => holds(condition, grounds(amount)).holds;
    const table = [yes, no].flatMap((a) => [yes, no].map((b) => [a, b] as const));
    expect(table.map(([a, b]) => of({ kind: 'all', of: [a, b] }))).toEqual([true, false, false, false]);
    expect(table.map(([a, b]) => of({ kind: 'any', of: [a, b] }))).toEqual([true, true, true, false]);
    expect([of({ kind: 'not', of: yes }), of({ kind: 'not', of: no })]).toEqual([false, true]);
    expect(of({ kind: 'not', of: fact('is', { kind: 'number', thousandths: 1 }) })).toBe(true);
  });

  it('tells with what each thing was compared, once, whatever decided it', () => {
    const outcome: Condition = { kind: 'outcome', stage: 'ended', outcome: 'missed' };
    const condition: Condition = {
      kind: 'any',
      of: [yes, over, { kind: 'not', of: over }, outcome, { ...outcome, outcome: 'declined' }, no],
    };
    expect(holds(condition, grounds(amount, ['missed', 'declined'])).used).toEqual([
      { kind: 'record', field: 'unit', value: { id: 'wards', called: 'Wards' } },
      { kind: 'fact', fact: 'a', name: 'Amount', value: amount },
      { kind: 'outcome', stage: 'ended', outcomes: ['declined', 'missed'] },
    ]);
    const strange: Condition = {
      kind: 'all',
      of: [
        { kind: 'fact', fact: 'b', is: 'is', value: amount },
        { kind: 'record', field: 'owner', is: 'is', value: 'x' },
        { kind: 'outcome', stage: 'other', outcome: 'missed' },
      ],
    };
    expect(holds(strange, grounds(amount)).used).toEqual([
      { kind: 'fact', fact: 'b', name: null, value: null },
      { kind: 'record', field: 'owner', value: null },
      { kind: 'outcome', stage: 'other', outcomes: null },
    ]);
    expect(comparisonsIn(condition)).toHaveLength(6);
    expect(factsIn(condition)).toEqual(['a', 'a']);
  });

  it('is read back as a sentence', () => {
    const words = {
      fact: (id: string) => `the ${id}`,
      value: (value: FactValue) => JSON.stringify(Object.values(value)[1]),
      record: (field: string) => `its ${field}`,
      recordValue: (_field: string, value: string) => value,
      outcome: (stage: string, outcome: string) => `${outcome} in ${stage}`,
    };
    const say = (condition: Condition) => conditionInWords(condition, words);
    expect(say(over)).toBe('the a is over 1000');
    expect(all.map((is) => say(fact(is, { kind: 'choice', text: 'x' })))).toEqual([
      'the a is over "x"',
      'the a is at least "x"',
      'the a is under "x"',
      'the a is at most "x"',
      'the a is "x"',
      'the a is not "x"',
    ]);
    expect(say(fact('is', { kind: 'yesNo', yes: true }))).toBe('the a applies');
    expect(say(fact('is', { kind: 'yesNo', yes: false }))).toBe('the a does not apply');
    expect(say({ kind: 'all', of: [yes, over] })).toBe('its unit is wards and the a is over 1000');
    expect(say({ kind: 'any', of: [no, { kind: 'all', of: [yes, over] }] })).toBe(
      'its unit is not wards or (its unit is wards and the a is over 1000)',
    );
    expect(say({ kind: 'not', of: { kind: 'any', of: [yes, no] } })).toBe(
      'not (its unit is wards or its unit is not wards)',
    );
    expect(say({ kind: 'any', of: [{ kind: 'all', of: [yes] }, no] })).toBe(
      'its unit is wards or its unit is not wards',
    );
    expect(say({ kind: 'outcome', stage: 's', outcome: 'missed' })).toBe('missed in s');
  });
});
