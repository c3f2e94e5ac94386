import { describe, expect, it } from 'vitest';
import { board, fork, over, route, stage } from '../../../test/properties/scene';
import { routeDifferences } from './changes';
import type { Copies, Route, Seat, Series, Stage } from './route';

const a = stage('a', 'review', ['petra', 'oskar']);
const b = stage('b', 'approve', ['noor']);
const of = (before: Series, after: Series) =>
  routeDifferences(before, after).map(({ verb, place, ...rest }) => [verb, place, rest]);
const person = (name: string) => ({ kind: 'person', person: name }) as const;
const changed = (change: Partial<Stage>, on: Stage = a) => of(route(on, b), route({ ...on, ...change }, b));
const seats = (change: (seats: readonly Seat[]) => readonly Seat[]) => changed({ seats: change(a.seats) });
const soon = { kind: 'after', unit: 'workingDays', amount: 2 } as const;

describe('the differences between two routes', () => {
  it('are none where they are the same', () => {
    expect(of(route(a, b), route(a, b))).toEqual([]);
    expect(of(route(), route())).toEqual([]);
  });

  it('name stages that come, go and move, by what they ask and where they stand', () => {
    const who = [person('petra'), person('oskar')];
    expect(of(route(a, b), route(b))).toEqual([['review', 1, { what: 'stageRemoved', who }]]);
    expect(of(route(b), route(b, a))).toEqual([['review', 2, { what: 'stageAdded', who }]]);
    expect(of(route(a, b), route(b, a)).map(([, , rest]) => rest)).toContainEqual({ what: 'stageMoved' });
    expect(of(route(a, fork({ kind: 'all' }, [b])), route(fork({ kind: 'all' }, [a, b])))).toEqual([
      ['review', 1, { what: 'stageMoved' }],
    ]);
  });

  it('name people who come, go, move and are replaced', () => {
    expect(seats((own) => own.slice(0, 1))).toEqual([['review', 1, { what: 'seatRemoved', who: [person('oskar')] }]]);
    expect(of(route({ ...a, seats: a.seats.slice(1) }, b), route(a, b))).toEqual([
      ['review', 1, { what: 'seatAdded', who: [person('petra')] }],
    ]);
    expect(seats((own) => own.map((seat, i) => (i === 0 ? { ...seat, assignment: person('yuki') } : seat)))).toEqual([
      ['review', 1, { what: 'seatGiven', who: [person('yuki')], before: person('petra') }],
    ]);
    expect(seats((own) => own.slice().reverse())).toEqual([['review', 1, { what: 'seatMoved', who: [] }]]);
    const [first, second] = a.seats as [Seat, Seat];
    expect(of(route(a, b), route({ ...a, seats: [first] }, { ...b, seats: [...b.seats, second] }))).toEqual([
      ['approve', 2, { what: 'seatMoved', who: [person('oskar')] }],
    ]);
  });

  it('name what of a stage or of a person has changed', () => {
    expect(changed({ rule: { kind: 'any' } })).toEqual([
      ['review', 1, { what: 'rule', from: a.rule, to: { kind: 'any' } }],
    ]);
    expect(changed({ due: soon })).toEqual([['review', 1, { what: 'due', who: [], from: null, to: soon }]]);
    expect(changed({ closes: soon })).toEqual([['review', 1, { what: 'closes', who: [], from: null, to: soon }]]);
    expect(seats((own) => own.map((seat, i) => (i === 1 ? { ...seat, due: soon } : seat)))).toEqual([
      ['review', 1, { what: 'due', who: [person('oskar')], from: null, to: soon }],
    ]);
    expect(seats((own) => own.map((seat, i) => (i === 1 ? { ...seat, files: ['f1'] } : seat)))).toEqual([
      ['review', 1, { what: 'seatFiles', who: [person('oskar')] }],
    ]);
    const parts: readonly (readonly [Partial<Stage>, string])[] = [
      [{ verb: 'contribute' }, 'verb'],
      [{ order: a.order === 'together' ? 'oneByOne' : 'together' }, 'order'],
      [{ condition: over(1) }, 'condition'],
      [{ onReturn: a.onReturn === 'gather' ? 'atOnce' : 'gather' }, 'onReturn'],
      [{ onDecline: a.onDecline === 'stop' ? 'count' : 'stop' }, 'onDecline'],
      [{ independentOf: ['b'] }, 'independentOf'],
      [{ earliest: { kind: 'date', at: 5 } }, 'earliest'],
      [{ allows: { ...a.allows, comment: !a.allows.comment } }, 'allows'],
    ];
    for (const [change, part] of parts)
      expect(changed(change), part).toEqual([[change.verb ?? 'review', 1, { what: 'part', part }]]);
  });

  it('name branches that come, go and change, and how they join', () => {
    const two = fork({ kind: 'all' }, [a], [b]);
    const [one, other] = two.branches as unknown as [(typeof two.branches)[number], (typeof two.branches)[number]];
    const whats = (before: Route, after: Route) => of(route(before), route(after)).map(([, , rest]) => rest);
    expect(whats(two, { ...two, join: { kind: 'any' } })).toEqual([{ what: 'join', name: two.name }]);
    expect(whats(two, { ...two, name: 'other' })).toEqual([{ what: 'join', name: 'other' }]);
    expect(whats(two, { ...two, branches: [{ ...one, name: 'renamed' }, other] })).toEqual([
      { what: 'branchChanged', name: 'renamed' },
    ]);
    expect(whats(two, { ...two, branches: [{ ...one, condition: over(1) }, other] })).toEqual([
      { what: 'branchChanged', name: one.name },
    ]);
    expect(whats(two, { ...two, branches: [one] })).toEqual([
      { what: 'stageRemoved', who: [person('noor')] },
      { what: 'branchRemoved', name: other.name },
    ]);
    expect(whats({ ...two, branches: [one] }, two)).toEqual([
      { what: 'stageAdded', who: [person('noor')] },
      { what: 'branchAdded', name: other.name },
    ]);
    expect(whats(two, { ...two, branches: [other, one] })).toEqual([{ what: 'stageMoved' }]);
  });

  it('name copies that come, go and change, and whether they are hidden', () => {
    const copies: Copies = board('c', 'yuki');
    const who = [person('yuki')];
    const { hidden } = copies;
    expect(of(route(a), route(a, copies))).toEqual([[null, 0, { what: 'copiesAdded', who, hidden }]]);
    expect(of(route(a, copies), route(a))).toEqual([[null, 0, { what: 'copiesRemoved', who, hidden }]]);
    expect(of(route(a, copies), route(a, { ...copies, hidden: !hidden })).map(([, , rest]) => rest)).toEqual([
      { what: 'copiesChanged', who, hidden: true },
    ]);
    expect(of(route(a, copies), route(copies, a))).toEqual([[null, 0, { what: 'stageMoved' }]]);
  });
});
