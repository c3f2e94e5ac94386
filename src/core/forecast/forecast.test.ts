import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { absences, contextOf, crew, drawsFrom, hour, randomRoute, start } from '../../../test/properties/arbitrary';
import { decide, fork, put, route, stage } from '../../../test/properties/scene';
import { sentWorld, worldContext } from '../../../test/properties/world';
import { runsOf } from '../../../test/setting';
import type { Circulation } from '../circulation/run/state';
import { clockOf } from '../circulation/run/times';
import type { Condition } from '../route/condition';
import { type Series, stagesOf } from '../route/route';
import { axisOf, day } from '../time/calendar';
import { addPresent, presenceOf } from '../time/presence';
import { courseOf, workingTimes } from './compile';
import { atShare, forecastOf, type Tracking, tracked, untracked } from './forecast';
import { type Model, tableFor, tableOf, tailOf } from './model';
import { simulate } from './simulate';
import { horizon, instantOfTick, startAt, tick, workedOff } from './ticks';
import { foreseen, savingOf } from './variants';

const spread = (hours: number, sigma = 0.8) => ({ mu: Math.log(hours * 60), sigma, n: 500, tail: tailOf([]) });
const model: Model = {
  fitted: start,
  n: 500,
  verbs: { contribute: spread(9), review: spread(12), approve: spread(6), sign: spread(5), read: spread(3) },
  people: { 'noor/review': { mu: Math.log(90 * 60), sigma: 0.4, n: 40 } },
  load: { slope: 0.3, usual: Math.log(3) },
  returns: { review: 100, approve: 100 },
  kept: 500,
  withComments: 250,
  rework: spread(8),
  release: spread(2),
};
const around = (now = start, more: Partial<Model> = {}) => ({
  context: worldContext(now, 'ines'),
  model: { ...model, ...more },
  open: new Map<string, number>(),
});
const runs = 1000;
const forecast = (state: Circulation, given = around(), tracking: Tracking = untracked, due: number | null = null) => {
  const { course, home } = courseOf(state, given);
  return forecastOf(course, { now: given.context.now, due, tracking, home, runs });
};
const never = { review: 0, approve: 0 };

describe('working time in quarter hours', () => {
  it('is what calendars, absences and clocks say, quarter hour by quarter hour', () => {
    const people = [...crew, 'ines', 'rufus'];
    fc.assert(
      fc.property(fc.nat(people.length - 1), fc.nat(20_000), fc.nat(3000), fc.nat(400), (i, begin, work, later) => {
        const person = people[i] as string;
        const now = start + later * day;
        const context = { ...contextOf(now, 'ines'), absences: absences.map((one) => ({ ...one, covers: [] })) };
        const ticks = workingTimes(context)(person, null);
        const { own, zone } = clockOf(context, person);
        const presence = presenceOf(
          axisOf(own, zone),
          context.absences.filter((one) => one.person === person),
        );
        const first = instantOfTick(startAt(now), begin);
        const exact = addPresent(presence, first, work * tick) as number;
        const found = workedOff(ticks, begin, work);
        expect(found === horizon ? Math.min(exact, instantOfTick(startAt(now), horizon)) : exact).toBe(
          instantOfTick(startAt(now), found),
        );
      }),
      { numRuns: runsOf(60) },
    );
  });

  it('goes on with whoever covers, for the work that they cover', () => {
    const now = start + 2 * day;
    const context = { ...contextOf(now, 'ines'), people: new Map(), calendars: new Map() };
    const of = (covers: (typeof absences)[number]['covers']) =>
      workedOff(
        workingTimes({
          ...context,
          absences: [{ id: 'a', person: 'oskar', from: now, to: now + 30 * day, covers }],
        })('oskar', { verb: 'approve', type: 'AGR' }),
        0,
        20,
      );
    const alone = workedOff(workingTimes({ ...context, absences: [] })('oskar', null), 0, 20);
    expect(of([{ by: 'caspian', verbs: 'all', types: 'all' }])).toBe(alone);
    expect(of([{ by: 'caspian', verbs: ['review'], types: 'all' }])).toBeGreaterThan(29 * 96);
    expect(of([])).toBeGreaterThan(29 * 96);
  });
});

describe('a forecast', () => {
  it('is the same for the same circulation, and draws the same for seats that are the same', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const plan = randomRoute(drawsFrom(seed), 12, 1);
        const state = { ...sentWorld(route(stage('x', 'review', ['petra']))), plan } as Circulation;
        const given = around();
        expect(JSON.stringify(forecast(state, given))).toBe(JSON.stringify(forecast(state, given)));
      }),
      { numRuns: runsOf(20) },
    );
    const short = sentWorld(route(stage('a', 'review', ['petra', 'yuki'])));
    const long = sentWorld(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    const more = sentWorld(route(stage('a', 'review', ['petra', 'yuki', 'dalia'])));
    const ends = (state: Circulation) => simulate(courseOf(state, around(start, { returns: never })).course, runs).ends;
    const [base, after, beside] = [ends(short), ends(long), ends(more)];
    // Run by run, not only on the whole: that is what makes differences mean something.
    for (let run = 0; run < runs; run += 1) {
      expect(after[run]).toBeGreaterThanOrEqual(base[run] as number);
      expect(beside[run]).toBeGreaterThanOrEqual(base[run] as number);
    }
  });

  it('says how likely its due is met, as it says its dates, and stretches both by experience', () => {
    const state = sentWorld(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    for (const tracking of [untracked, [0.4, 0.9, 1.4] as const]) {
      const { dates } = forecast(state, around(), tracking);
      expect([...dates].sort((a, b) => a - b)).toEqual([...dates]);
      for (const [i, percent] of [50, 80, 95].entries())
        expect(forecast(state, around(), tracking, dates[i] as number).chance).toBeGreaterThanOrEqual(percent);
      expect(forecast(state, around(), tracking, start).chance).toBe(0);
    }
    const plain = forecast(state);
    expect(forecast(state, around(), [0.4, 0.9, 1.4]).dates[1]).toBeGreaterThan(plain.dates[1]);
    expect(plain.chance).toBeNull();
  });

  it('says who decides it: the slow one of two, the last of a series, nobody who has responded', () => {
    const two = forecast(sentWorld(route(stage('a', 'review', ['petra', 'noor']))), around(start, { returns: never }));
    expect(two.decides[0]).toMatchObject({ seat: 'a-noor' });
    const even = forecast(
      sentWorld(route(stage('a', 'review', ['petra', 'dalia']))),
      around(start, { returns: never }),
    );
    expect(even.decides.reduce((sum, { percent }) => sum + percent, 0)).toBe(100);
    const line = forecast(
      sentWorld(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar']))),
      around(start, { returns: never }),
    );
    expect(line.decides).toEqual([
      { seat: 'a-petra', percent: 100 },
      { seat: 'b-oskar', percent: 100 },
    ]);
    expect(line.stages.map(({ stage: id }) => id)).toEqual(['a', 'b']);
    expect(line.stages[1]?.from).toBe(line.stages[0]?.to);
  });

  it('waits for an earliest time, counts what has gone by, and asks again what a return undoes', () => {
    const at = start + 20 * day;
    const plan = route(stage('a', 'approve', ['oskar'], { earliest: { kind: 'date', at } }));
    expect(forecast(sentWorld(plan)).dates[0]).toBeGreaterThanOrEqual(at);
    const wait = { kind: 'wait', from: 'asked', amount: 15, unit: 'workingDays', again: false } as const;
    const slack = route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'], { earliest: wait }));
    expect(forecast(sentWorld(slack)).dates[0]).toBeGreaterThan(start + 20 * day);
    const sent = sentWorld(route(stage('a', 'review', ['petra'])));
    // Somebody who has been silent for a week will hardly respond in the hour in which others do.
    const fresh = forecast(sent).dates[0] - start;
    const later = start + 14 * day;
    expect(forecast(sent, around(later)).dates[0] - later).toBeGreaterThan(fresh);
    const returning = forecast(sent, around(start, { returns: { review: 600 } }));
    expect(returning.dates[1]).toBeGreaterThan(forecast(sent, around(start, { returns: never })).dates[1]);
  });

  it('takes part in what conditions leave open as often as that happens', () => {
    const commented: Condition = { kind: 'outcome', stage: 'a', outcome: 'approvedWithComments' };
    const plan = (condition: Condition | null): Series =>
      route(stage('a', 'approve', ['oskar']), stage('b', 'review', ['noor'], { condition }));
    const given = around(start, { returns: never });
    const middle = (condition: Condition | null) => forecast(sentWorld(plan(condition)), given).dates;
    const alone = forecast(sentWorld(route(stage('a', 'approve', ['oskar']))), given).dates;
    expect(middle(commented)[0]).toBeLessThan(middle(null)[0]);
    expect(middle(commented)[2]).toBeGreaterThan(alone[2]);
    expect(middle({ kind: 'not', of: commented })[0]).toBeGreaterThan(middle(commented)[0]);
    const large = { kind: 'amount', thousandths: 200_000_000, currency: 'NOK' } as const;
    const amount: Condition = { kind: 'fact', fact: 'amount', is: 'over', value: large };
    expect(middle(amount)).toEqual(alone);
    const odd = sentWorld(
      route(
        fork({ kind: 'any' }, [stage('a', 'review', ['noor'])], [stage('b', 'approve', ['oskar'])]),
        stage('c', 'read', ['yuki']),
      ),
    );
    expect(forecast(odd, given).decides.find(({ seat }) => seat === 'b-oskar')?.percent).toBeGreaterThan(90);
  });

  it('is none that one may rely on where the dates lie too far apart', () => {
    const state = sentWorld(route(stage('a', 'review', ['petra'])));
    expect(forecast(state).unreliable).toBeNull();
    const wild = { verbs: { ...model.verbs, review: spread(30, 2.4) } };
    expect(forecast(state, around(start, wild)).unreliable).toBe('wide');
    const endless = { verbs: { ...model.verbs, review: spread(9000, 0.3) } };
    expect(forecast(state, around(start, endless)).unreliable).toBe('far');
  });

  it('goes on from where it is: gathered returns, rework, the release', () => {
    const plan = route(
      stage('a', 'review', ['petra', 'yuki'], { onReturn: 'gather' }),
      stage('b', 'approve', ['oskar']),
    );
    const run = { now: start, files: 1, state: sentWorld(plan) as Circulation | null, events: [] };
    decide(run, 'a-petra', 'petra', 'returned');
    const gathering = forecast(run.state as Circulation, around(run.now));
    expect(gathering.dates[0]).toBeGreaterThan(start + hour);
    decide(run, 'a-yuki', 'yuki', 'done');
    expect(run.state?.phase).toBe('rework');
    const reworking = forecast(run.state as Circulation, around(run.now, { returns: never }));
    expect(reworking.dates[0]).toBeGreaterThan(run.now + 8 * hour);
    const last = {
      now: start,
      files: 1,
      state: sentWorld(route(stage('a', 'read', ['petra']))) as Circulation | null,
      events: [],
    };
    decide(last, 'a-petra', 'petra', 'confirmed');
    expect(last.state?.phase).toBe('finishing');
    expect(forecast(last.state as Circulation, around(last.now)).decides).toEqual([]);
    expect(put(last, { type: 'pause', note: null })).not.toBe('ok');
  });
});

describe('experience', () => {
  it('moves each certainty by whether it was late, once that is known', () => {
    const dates = [start + day, start + 2 * day, start + 3 * day] as const;
    expect(tracked(untracked, dates, null, start + 2.5 * day)).toBeNull();
    const round = (values: readonly number[] | null) => values?.map((value) => Math.round(value * 1000) / 1000);
    expect(round(tracked(untracked, dates, start + 1.5 * day, start + 9 * day))).toEqual([0.04, -0.016, -0.004]);
    expect(round(tracked(untracked, dates, null, start + 3.5 * day))).toEqual([0.04, 0.064, 0.076]);
    expect(round(tracked([4, 4, -4], dates, start, start))).toEqual([3.96, 3.984, -4]);
    expect(round(tracked([4, 4, 4], dates, null, start + 9 * day))).toEqual([4, 4, 4]);
  });
});

describe('tables', () => {
  it('give the middle of a spread in the middle, are drawn from a person, their verb or what is usual, and follow the load', () => {
    const table = tableOf({ mu: Math.log(12 * 60), sigma: 0.8 });
    expect(atShare(table, 0.5)).toBe(48);
    expect([...table].sort((a, b) => a - b)).toEqual([...table]);
    expect(atShare(tableFor(model, 'noor', 'review', 2), 0.5)).toBeGreaterThan(300);
    expect(atShare(tableFor(model, 'somebody new', 'review', 2), 0.5)).toBe(48);
    expect(atShare(tableFor(model, null, 'review', null), 0.5)).toBe(48);
    expect(atShare(tableFor(model, 'petra', 'review', 9), 0.5)).toBeGreaterThan(60);
    expect(atShare(tableFor({ ...model, verbs: {} }, null, 'read', null), 0.5)).toBe(68);
  });
});

describe('variants of a route that is planned', () => {
  const sentBy = { facts: {}, due: null, author: 'rufus', controller: 'ines' };
  const known = (given = around()) => ({ ...given, open: null });
  const variant = (...parts: Parameters<typeof route>) =>
    foreseen({ plan: route(...parts), ...sentBy }, known(), untracked, runs);

  it('is foreseen as the circulation is forecast once it is sent', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const plan = randomRoute(drawsFrom(seed), 12);
        // What becomes of a group, a role or a condition is settled only when it is sent.
        const plain = stagesOf(plan).every(
          ({ seats, condition }) => condition === null && seats.every(({ assignment }) => assignment.kind === 'person'),
        );
        const sent = sentWorld(plan);
        if (!plain || [...sent.blocks.values()].some(({ gone }) => gone)) return;
        const { course, home } = courseOf({ ...sent, facts: {} }, known());
        const told = forecastOf(course, { now: start, due: null, tracking: untracked, home, runs });
        const planned = { plan, facts: {}, due: null, author: sent.author, controller: sent.controller };
        expect(foreseen(planned, known(), untracked, runs).forecast).toEqual(told);
      }),
      { numRuns: runsOf(40) },
    );
  });

  it('saves what it saves in every case in which it does, and a sure saving is sure', () => {
    const review = stage('a', 'review', ['petra', 'noor']);
    const short = variant(review);
    const long = variant(review, stage('b', 'approve', ['oskar']));
    const { home } = short;
    expect(savingOf(short.course, short.course, home, runs)).toEqual({
      median: 0,
      low: 0,
      high: 0,
      gains: 0,
      loses: 0,
    });
    const saving = savingOf(long.course, short.course, home, runs);
    expect(saving.loses).toBe(0);
    expect(saving.gains).toBeGreaterThan(90);
    expect(saving.low).toBeGreaterThan(0);
    expect(saving.low).toBeLessThanOrEqual(saving.median);
    expect(saving.median).toBeLessThanOrEqual(saving.high);
    const loss = savingOf(short.course, long.course, home, runs);
    expect(loss).toMatchObject({ gains: 0, loses: saving.gains });
    expect(loss.high).toBeLessThan(0);
  });

  it('knows nothing of how long one person takes', () => {
    const datesOf = (person: string, open: ReadonlyMap<string, number> | null) => {
      const only = stage('a', 'review', [person]);
      const plan = route({ ...only, seats: only.seats.map((seat) => ({ ...seat, id: 'seat' })) });
      return foreseen({ plan, ...sentBy }, { ...around(), open }, untracked, runs).forecast.dates;
    };
    expect(datesOf('noor', null)).toEqual(datesOf('petra', null));
    expect(datesOf('noor', new Map())).not.toEqual(datesOf('petra', new Map()));
  });
});
