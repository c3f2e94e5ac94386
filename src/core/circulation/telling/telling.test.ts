import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { contextOf, type Run, start } from '../../../../test/properties/arbitrary';
import { amend, decide, put, route, seatOf, stage, until } from '../../../../test/properties/scene';
import { sentWorld } from '../../../../test/properties/world';
import { decide as decided } from '../acts/decide';
import { holders } from '../run/holders';
import type { SeatRun } from '../run/shapes';
import { type Circulation, scopeOf } from '../run/state';
import { type MessageKind, messagesOf } from './messages';
import { always, happenings, type Level, levels, type Preferences, usualPreferences, ways } from './preferences';
import { happeningOf, waysOf } from './telling';

const kinds = Object.keys(happeningOf) as MessageKind[];
const anyPreferences: fc.Arbitrary<Preferences> = fc.record(
  Object.fromEntries(happenings.map((one) => [one, fc.subarray([...ways])])) as {
    [H in (typeof happenings)[number]]: fc.Arbitrary<(typeof ways)[number][]>;
  },
);

describe('how somebody is told', () => {
  it('is as they chose, never twice by one way, and what waits for them or stops reaches them whatever they chose', () => {
    fc.assert(
      fc.property(fc.constantFrom(...kinds), anyPreferences, fc.constantFrom(...levels), (kind, preferences, level) => {
        const told = waysOf(kind, preferences, level);
        const chosen = preferences[happeningOf[kind]];
        expect(new Set(told).size).toBe(told.length);
        if (always.has(happeningOf[kind])) expect(told.length).toBeGreaterThan(0);
        if (chosen.length > 0 && level !== 'needed') expect([...told].sort()).toEqual([...chosen].sort());
        if (level === 'everything') expect(told.length).toBeGreaterThan(0);
        if (level === 'usual' && chosen.length === 0)
          expect(told).toEqual(always.has(happeningOf[kind]) ? ['mail'] : []);
      }),
    );
  });

  it('leaves out what needs nobody where only that is wanted, and silence stays told', () => {
    const told = (kind: MessageKind, level: Level) => waysOf(kind, usualPreferences, level);
    for (const kind of ['opened', 'responded', 'stageDone', 'released'] as const)
      expect(told(kind, 'needed')).toEqual([]);
    expect(told('late', 'needed')).toEqual(['mail']);
    expect(told('declined', 'needed')).toEqual(['mail', 'here']);
    expect(told('opened', 'usual')).toEqual([]);
    expect(told('opened', 'everything')).toEqual(['here']);
  });
});

describe('how a circulation goes', () => {
  const sent = (): Run => ({
    now: 0,
    files: 1,
    state: sentWorld(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar']))),
    events: [],
  });
  const following = new Map<string, Level>([
    ['benedikt', 'everything'],
    ['noor', 'needed'],
  ]);
  /** What one command of somebody's makes known, to whom. */
  const told = (run: Run, act: () => unknown, actor: string): string[] => {
    const before = run.state as Circulation;
    const known = run.events.length;
    act();
    const context = { ...contextOf(run.now, actor), following };
    return messagesOf(before, { state: run.state as Circulation, events: run.events.slice(known) }, context).map(
      ({ template, person }) => `${template} ${person}`,
    );
  };

  it('is told to its controller and to whoever follows it: opened once, each response, the stage when it is complete', () => {
    const run = sent();
    run.now = (run.state as Circulation).last;
    const seat = (run.state as Circulation).seats.get('a-petra') as SeatRun;
    const scope = scopeOf(run.state as Circulation, seat) ?? '';
    const see = () => put(run, { type: 'see', seat: seat.id, epoch: seat.epoch, scope }, 'petra');
    expect(told(run, see, 'petra')).toEqual(['opened ines', 'opened benedikt']);
    expect(told(run, see, 'petra')).toEqual([]);
    expect(told(run, () => decide(run, 'a-petra', 'petra', 'done'), 'petra')).toEqual([
      'responded ines',
      'responded benedikt',
    ]);
    expect(told(run, () => decide(run, 'a-yuki', 'yuki', 'done'), 'yuki')).toEqual([
      'responded ines',
      'responded benedikt',
      'stageDone ines',
      'stageDone benedikt',
      'asked oskar',
    ]);
    // A return is told as such to whom it concerns, and as a response to the others.
    const returned = told(run, () => decide(run, 'b-oskar', 'oskar', 'returned'), 'oskar');
    expect(returned.filter((one) => one.startsWith('returned'))).toEqual(['returned rufus', 'returned ines']);
    expect(returned.filter((one) => one.startsWith('responded'))).toEqual(['responded benedikt']);
  });

  it('is told as withdrawn to everybody who is asked, also whoever could take it from a group', () => {
    const run: Run = { ...sent(), state: sentWorld(route(stage('a', 'review', ['group:rescue', 'petra']))) };
    const members = holders(run.state as Circulation, seatOf(run, 'a-group'), contextOf(0, '')).map(
      (one) => one.person,
    );
    expect(members.length).toBeGreaterThan(1);
    const withdraw = () => put(run, { type: 'withdraw', note: 'w' });
    expect(told(run, withdraw, 'ines')).toEqual(
      expect.arrayContaining([...members, 'petra'].map((person) => `withdrawn ${person}`)),
    );
  });

  it('is told to whoever had to wait as soon as they can respond, about the seat as it is now', () => {
    const earliest = { kind: 'wait', amount: 1, unit: 'days', from: 'asked', again: false } as const;
    const run: Run = { ...sent(), state: sentWorld(route(stage('a', 'review', ['petra'], { earliest }))) };
    run.now = (run.state as Circulation).last;
    const [known, before] = [run.events.length, run.state as Circulation];
    until(run, run.now + 2 * 86_400_000);
    const freed = messagesOf(
      before,
      { state: run.state as Circulation, events: run.events.slice(known) },
      contextOf(run.now, 'system'),
    );
    expect(freed).toMatchObject([
      { template: 'mayRespond', person: 'petra', seat: 'a-petra', epoch: seatOf(run, 'a-petra').epoch },
    ]);
  });

  it('is told as amended to those whose words, times, files or rights become others, and to nobody else', () => {
    const run: Run = {
      ...sent(),
      state: sentWorld(route(stage('a', 'review', ['petra']), stage('b', 'read', ['oskar']))),
    };
    run.now = (run.state as Circulation).last;
    const other = told(run, () => amend(run, [{ do: 'change', stage: 'b', with: { rule: { kind: 'any' } } }]), 'ines');
    expect(other).toEqual([]);
    expect(told(run, () => amend(run, [], { note: 'other words' }), 'ines')).toEqual(['amended petra']);
    expect(told(run, () => amend(run, [], { whole: { due: start + 9e9, closes: null } }), 'ines')).toEqual([
      'amended petra',
    ]);
    // Times of the whole that lie behind somebody's own change nothing for them.
    const timed = stage('a', 'review', ['petra'], { due: start + 9e7, closes: start + 9.5e7 });
    const own: Run = { ...sent(), state: sentWorld(route(timed)) };
    own.now = (own.state as Circulation).last;
    const whole = (at: number) => told(own, () => amend(own, [], { whole: { due: at, closes: at } }), 'ines');
    expect(whole(start + 9e9)).toEqual([]);
    expect(whole(start + 8e7)).toEqual(['amended petra']);
  });

  it('is told as a question to its controller and its author, but not to whoever of them asks', () => {
    const run = sent();
    const ask = (seat: string, person: string) => () =>
      put(
        run,
        { type: 'askQuestion', question: `q ${person}`, seat, epoch: seatOf(run, seat).epoch, note: 'w' },
        person,
      );
    expect(told(run, ask('a-petra', 'petra'), 'petra')).toEqual(['question ines', 'question rufus']);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'rufus' });
    expect(told(run, ask('a-petra', 'rufus'), 'rufus')).toEqual(['question ines']);
  });

  it('is told to a second holder who is asked no longer, and not to one who never was', () => {
    const run = sent();
    const second = (type: 'addSecondHolder' | 'dropSecondHolder', seat: string) => () =>
      put(run, { type, seat, person: 'noor' });
    expect(told(run, second('addSecondHolder', 'a-petra'), 'ines')).toEqual(['asked noor']);
    expect(told(run, second('dropSecondHolder', 'a-petra'), 'ines')).toEqual(['seatMoved noor']);
    expect(told(run, second('addSecondHolder', 'b-oskar'), 'ines')).toEqual([]);
    expect(told(run, second('dropSecondHolder', 'b-oskar'), 'ines')).toEqual([]);
  });

  it('tells of other times of the whole only whose own times they move, and everybody where it had closed', () => {
    const due = start + 90_000_000;
    const run: Run = { ...sent(), state: sentWorld(route(stage('a', 'review', ['petra'], { due }))) };
    run.now = (run.state as Circulation).last;
    const extend = (due: number | null, closes: number | null) => () => put(run, { type: 'extendWhole', due, closes });
    expect(told(run, extend(due + 9, null), 'ines')).toEqual([]);
    expect(told(run, extend(due - 9, null), 'ines')).toEqual(['extended petra']);
    expect(told(run, extend(due - 9, due + 20), 'ines')).toEqual(['extended petra']);
    until(run, due + 30);
    expect((run.state as Circulation).closed).not.toBeNull();
    // By then somebody covers for her.
    expect(told(run, extend(null, null), 'ines')).toEqual(['extended petra', 'extended rufus']);
  });

  it('is never told to whoever did it, and to nobody twice', () => {
    const run = sent();
    run.now = (run.state as Circulation).last;
    const before = run.state as Circulation;
    for (const type of ['pause', 'withdraw'] as const) {
      const command = { type, note: 'w' };
      const result = decided(before, command, { ...contextOf(run.now, 'ines'), following });
      if (!result.ok) throw new Error(result.refusal.code);
      const people = messagesOf(before, result, { ...contextOf(run.now, 'ines'), following }).map(
        ({ person }) => person,
      );
      expect(people).toContain('benedikt');
      expect(people).not.toContain('ines');
      expect(new Set(people).size).toBe(people.length);
    }
  });
});
