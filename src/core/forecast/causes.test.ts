import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hour, play, type Run, scenario, sentRun, start } from '../../../test/properties/arbitrary';
import { attach, decide, nextRound, put, reassign, route, stage } from '../../../test/properties/scene';
import { sentWorld, worldContext } from '../../../test/properties/world';
import { expectMet, runsOf } from '../../../test/setting';
import { fold } from '../circulation/run/evolve';
import type { Circulation } from '../circulation/run/state';
import { axisOf, day, usualCalendar, workingBetween } from '../time/calendar';
import { type Basis, inHalfDays, shiftsOf } from './causes';
import { type Model, tailOf } from './model';
import { countsOf, pastOf } from './past';

const spread = (hours: number) => ({ mu: Math.log(hours * 60), sigma: 0.8, n: 500, tail: tailOf([]) });
const model: Model = {
  fitted: start,
  n: 500,
  verbs: { contribute: spread(9), review: spread(12), approve: spread(6), sign: spread(5), read: spread(3) },
  people: {},
  load: { slope: 0.3, usual: Math.log(3) },
  returns: { review: 50, approve: 50 },
  kept: 500,
  withComments: 250,
  rework: spread(8),
  release: spread(2),
};
const basis = (state: Circulation, now: number, more: Partial<Basis> = {}): Basis => ({
  state,
  context: worldContext(now, 'ines'),
  model,
  open: new Map(),
  tracking: [0, 0, 0],
  ...more,
});
const home = axisOf(usualCalendar, 'Europe/Oslo');

describe('why a date is another than it was', () => {
  it('adds up to the whole shift, whatever happened', () => {
    let met = 0;
    fc.assert(
      fc.property(scenario, fc.nat(30), (given, cut) => {
        const run = play({ ...given, steps: given.steps.slice(0, 40) });
        const state = run.state as Circulation;
        if (state.ended !== null || state.closed !== null) return;
        const events = run.events.slice(Math.min(run.events.length - 1, 8 + cut));
        const before = run.events.slice(0, run.events.length - events.length);
        const old = fold(before) as Circulation;
        if (old.sent === null) return;
        const first = basis(old, before[before.length - 1]?.at ?? start);
        const last = basis(state, run.now + 5 * hour, { open: new Map([['petra', 6]]), tracking: [0.1, 0.3, 0.4] });
        const { from, to, shifts } = shiftsOf(first, events, last, 60);
        const whole = shifts.reduce((sum, { work }) => sum + work, 0);
        expect(whole).toBe(workingBetween(home, from, to));
        const days = inHalfDays(shifts, 8.5 * hour).reduce((sum, one) => sum + one.days, 0);
        expect(Math.abs(days - whole / (8.5 * hour))).toBeLessThanOrEqual(0.2501);
        if (shifts.length > 1) met += 1;
      }),
      { numRuns: runsOf(40) },
    );
    expectMet({ met }, 5);
  });

  it('is nothing where nothing changed, and names who was waited for, what happened, who is away', () => {
    const state = sentWorld(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    const first = basis(state, start);
    expect(shiftsOf(first, [], basis(state, start), 200).shifts).toEqual([]);
    const waited = shiftsOf(first, [], basis(state, start + 3 * day), 200).shifts;
    expect(waited).toEqual([{ cause: { kind: 'waited', seats: ['a-petra', 'a-yuki'] }, work: expect.any(Number) }]);
    expect(waited[0]?.work).toBeGreaterThan(0);
    const absences = [{ id: 'x', person: 'oskar', from: start, to: start + 40 * day, covers: [] }];
    const away = basis(state, start, { context: { ...worldContext(start, 'ines'), absences } });
    expect(shiftsOf(first, [], away, 200).shifts).toMatchObject([{ cause: { kind: 'away', person: 'oskar' } }]);
    const busy = basis(state, start, { open: new Map([['petra', 20]]) });
    expect(shiftsOf(first, [], busy, 200).shifts.map(({ cause }) => cause.kind)).toEqual(['load']);
    const learned = basis(state, start, { tracking: [0.5, 1, 1.5] });
    expect(shiftsOf(first, [], learned, 200).shifts.map(({ cause }) => cause.kind)).toEqual(['history']);
    const run: Run = { now: start, files: 1, state, events: [] };
    reassign(run, 'a-yuki', 'noor');
    decide(run, 'a-petra', 'petra', 'done');
    const kinds = shiftsOf(first, run.events, basis(run.state as Circulation, run.now + hour), 200).shifts;
    expect(kinds.map(({ cause }) => ('what' in cause ? cause.what : cause.kind))).toContain('seat.decided');
  });

  it('rounds to half days that still add up', () => {
    const of = (...work: number[]) =>
      inHalfDays(
        work.map((one, i) => ({ cause: { kind: 'away', person: `${i}` }, work: one }) as const),
        10,
      ).map(({ days }) => days);
    expect(of(6, 6, 6)).toEqual([0.5, 0.5, 1].sort().reverse());
    expect(of(5, -5)).toEqual([0.5, -0.5]);
    expect(of(1, 1)).toEqual([]);
    expect(of(-12)).toEqual([-1]);
  });
});

describe('what a circulation teaches', () => {
  it('is one turn for every time somebody was asked, ended by their response or without', () => {
    fc.assert(
      fc.property(scenario, (given) => {
        const { events } = play(given);
        const past = pastOf(events);
        for (const { from, to } of past.turns) expect(to ?? from).toBeGreaterThanOrEqual(Math.min(from, to ?? from));
        const decided = events.filter(
          ({ type, data }) => type === 'seat.decided' && 'outcome' in data && data.outcome !== 'declined',
        );
        expect(past.turns.filter(({ responded }) => responded)).toHaveLength(decided.length);
        expect(past.kept.of).toBeLessThanOrEqual(events.length);
      }),
      { numRuns: runsOf(60) },
    );
  });

  it('tells who took how long, how often it was sent back and kept, and how long rework and release took', () => {
    const plan = route(
      stage('a', 'review', ['petra', 'yuki', 'group:rescue'], { onReturn: 'gather', rule: { kind: 'atLeast', k: 2 } }),
      stage('b', 'approve', ['oskar', 'caspian']),
      stage('c', 'read', ['fenna']),
    );
    const run = sentRun(plan);
    decide(run, 'a-petra', 'petra', 'returned');
    decide(run, 'a-yuki', 'yuki', 'done');
    decide(run, 'a-group', 'noor', 'done');
    const back = run.now;
    attach(run, 2, 1);
    nextRound(run, { ask: ['a-petra', 'a-yuki'] });
    const began = run.now;
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'b-oskar', 'oskar', 'approvedWithComments');
    reassign(run, 'b-caspian', 'benedikt');
    decide(run, 'b-benedikt', 'benedikt', 'approved');
    expect(decide(run, 'b-caspian', 'benedikt', 'approved')).toBe('ok');
    put(run, { type: 'pause', note: null });
    const past = pastOf(run.events);
    expect(past.turns.map(({ who, responded }) => [who, responded])).toEqual([
      ['petra', true],
      ['yuki', true],
      ['group:rescue', true],
      ['petra', true],
      ['yuki', false],
      ['oskar', true],
      ['caspian', false],
      ['benedikt', true],
      ['fenna', false],
    ]);
    expect(past.returns).toEqual({ review: { of: 1, among: 4 }, approve: { of: 0, among: 2 } });
    expect([past.kept, past.withComments]).toEqual([
      { of: 1, among: 3 },
      { of: 1, among: 2 },
    ]);
    expect(past.reworks).toEqual([{ who: 'rufus', from: back, to: began }]);
    put(run, { type: 'goOn' });
    decide(run, 'c-fenna', 'fenna', 'confirmed');
    const counts = countsOf([pastOf(run.events), past]);
    expect(counts.returns.review).toEqual({ of: 2, among: 8 });
    expect(counts.kept).toEqual({ of: 2, among: 6 });
  });
});
