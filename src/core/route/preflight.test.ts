import { describe, expect, it } from 'vitest';
import { fork, route, stage } from '../../../test/properties/scene';
import type { Field } from '../page/fields';
import { preflight } from './preflight';
import type { Route } from './route';

const check = (parts: Route[], more: Partial<Parameters<typeof preflight>[0]> = {}) =>
  preflight({ route: route(...parts), author: 'rufus', hasVersion: true, fields: [], now: 1000, ...more });
const codes = (...given: Parameters<typeof check>) => check(...given).map(({ code, severity }) => [code, severity]);

describe('the check before sending', () => {
  it('stops what would go wrong', () => {
    expect(codes([])).toEqual([['no-stage', 'stops']]);
    expect(codes([stage('a', 'review', [])])).toEqual([['nobody', 'stops']]);
    expect(codes([stage('a', 'approve', ['rufus'])])).toEqual([['author-decides', 'stops']]);
    expect(codes([stage('a', 'review', ['rufus', 'yuki'])])).toEqual([]);
    expect(codes([stage('a', 'review', ['yuki'])], { hasVersion: false })).toEqual([['no-version', 'stops']]);
    expect(codes([stage('a', 'review', ['yuki'], { due: 1000 })])).toEqual([['due-past', 'stops']]);
    expect(codes([stage('a', 'review', ['yuki'], { due: 1001 })])).toEqual([]);
    expect(codes([stage('a', 'review', ['yuki'], { closes: 1000 })])).toEqual([['closes-past', 'stops']]);
    expect(codes([stage('a', 'review', ['yuki'], { closes: 1001 })])).toEqual([]);
    expect(codes([fork({ kind: 'all' }, [stage('a', 'review', ['yuki'])], [])])).toEqual([['empty-branch', 'stops']]);
  });

  it('names the seat of somebody who stands twice in a stage', () => {
    const twice = stage('a', 'review', ['yuki', 'petra']);
    const seats = twice.seats.map((seat) => ({ ...seat, assignment: { kind: 'person' as const, person: 'yuki' } }));
    expect(check([{ ...twice, seats }])).toEqual([
      { code: 'twice-in-stage', severity: 'stops', stage: 'a', seat: 'a-petra' },
    ]);
  });

  it('warns of a signer without a field, after what stops', () => {
    const field = { id: 'f', seat: 's-benedikt', kind: 'signature', needed: true } as Field;
    const signed = [stage('s', 'sign', ['benedikt'])];
    expect(check(signed)).toEqual([{ code: 'field-missing', severity: 'warns', stage: 's', seat: 's-benedikt' }]);
    expect(check(signed, { fields: [field] })).toEqual([]);
    expect(codes([...signed, stage('a', 'review', [])])).toEqual([
      ['nobody', 'stops'],
      ['field-missing', 'warns'],
    ]);
  });
});
