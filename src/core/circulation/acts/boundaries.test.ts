import { describe, expect, it } from 'vitest';
import {
  author,
  contextOf,
  controller,
  hash,
  hour,
  type Run,
  sentRun,
  start,
  step,
} from '../../../../test/properties/arbitrary';
import {
  attach,
  decide,
  fork,
  freeze,
  linesOf,
  nextRound,
  put,
  reassign,
  route,
  seatOf,
  stage,
  stageOf,
  state,
  statuses,
} from '../../../../test/properties/scene';
import { atInstant, type Stage } from '../../route/route';
import { proposedTimes } from '../rounds/round';
import { bareContext } from '../run/context';
import { isDeserted, otherSeatInStage } from '../run/holders';
import type { SeatRun } from '../run/shapes';
import {
  baseHolder,
  type Circulation,
  filesToFreeze,
  scopeOf,
  seatsWithoutField,
  secondHolders,
  standing,
  stopsOf,
  tallyOf,
} from '../run/state';
import { fieldsWanted, tasksOf } from '../telling/tasks';
import type { Needs } from './act';
import type { Act } from './commands';
import { decide as decideOn } from './decide';
import { offers } from './offers';

// Exceptions and boundaries that random runs seldom meet, each by its plainest example.

const needsFor = (run: Run, act: Act, on: string | null, actor = controller): Needs | null => {
  const offer = offers(state(run), contextOf(run.now, actor)).find((one) => one.act === act && one.on === on);
  return offer && !offer.refusal ? offer.needs : null;
};

describe('times at their very instant', () => {
  it('are past when they have come: a closing or due time that is now is refused or asked anew', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    const at = run.now + 1000;
    const extend = (due: number | null, closes: number | null) =>
      put(run, { type: 'extend', seat: 'a-petra', due, closes }, controller, 0);
    run.now = at;
    expect(extend(at, null)).toBe('time-past');
    expect(extend(null, at)).toBe('time-past');
    expect(extend(at + 1, at + 1)).toBe('ok');
    expect(extend(at + 1, at + 1)).toBe('no-effect');
    expect(extend(at + 1, at + 2)).toBe('ok');
    expect(extend(at + 2, at + 2)).toBe('ok');
    expect(extend(null, null)).toBe('ok');
    expect(extend(null, null)).toBe('no-effect');
  });

  it('of a seat that was missed can be given anew as they were never: the same times ask it again', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { closes: start + 2 * hour })));
    run.now = start + 2 * hour;
    put(run, { type: 'wake' }, 'system', 0);
    expect(statuses(run)['a-petra']).toBe('missed');
    expect(needsFor(run, 'extend', 'a-petra')).toMatchObject({ closes: start + 2 * hour, timeNeeded: true });
    expect(put(run, { type: 'extend', seat: 'a-petra', due: null, closes: null })).toBe('ok');
    expect(statuses(run)['a-petra']).toBe('asked');
  });

  it('need a new one exactly from the instant of the old', () => {
    const closes = start + 5 * hour;
    const asked = (now: number) => {
      const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'], { closes })));
      decide(run, 'a-petra', 'petra', 'declined');
      run.now = now;
      return run;
    };
    expect(needsFor(asked(closes - 1), 'askAgain', 'a-petra')).toMatchObject({ closes, timeNeeded: false });
    expect(needsFor(asked(closes), 'askAgain', 'a-petra')).toMatchObject({ closes, timeNeeded: true });
    const again = (now: number, due: number | null) => {
      const run = asked(now);
      const code = put(run, { type: 'askAgain', seat: 'a-petra', due, closes: null }, controller, 0);
      return [code, seatOf(run, 'a-petra').closes];
    };
    expect(again(closes - 1, null)).toEqual(['ok', closes]);
    expect(again(closes, null)).toEqual(['time-needed', closes]);
    // The old closing is not taken over once it has come, nor an old due time.
    expect(again(closes, closes + hour)).toEqual(['ok', null]);
  });

  it('are kept in the order in which they came, when several have come at once', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'])));
    for (const [person, hours] of [
      ['petra', 9],
      ['oskar', 3],
      ['yuki', 6],
    ] as const)
      put(run, { type: 'extend', seat: `a-${person}`, due: null, closes: start + hours * hour });
    run.now = start + 20 * hour;
    put(run, { type: 'wake' }, 'system');
    const missed = run.events.flatMap((event) => (event.type === 'seat.missed' ? [event.data.seat] : []));
    expect(missed).toEqual(['a-oskar', 'a-yuki', 'a-petra']);
  });

  it('of a round are refused with the stage they belong to, also when they close at that very instant', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['yuki'])));
    decide(run, 'a-petra', 'petra', 'returned');
    attach(run, 2);
    run.now += hour;
    const confirm = (closes: number) =>
      step(
        run,
        {
          type: 'confirmRound',
          basis: needsFor(run, 'confirmRound', null)?.basis ?? '',
          keep: [],
          leave: [],
          times: [{ stage: 'b', due: null, closes: atInstant(closes) }],
        },
        controller,
        0,
      );
    expect(confirm(run.now)).toMatchObject({ refusal: { code: 'time-past', facts: { stage: 'b' } } });
    expect(confirm(run.now + 1).ok).toBe(true);
  });

  it('of stages that a round needs must lie ahead; those of stages it does not need may have passed', () => {
    const closes = start + 4 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra'], { closes }), stage('b', 'approve', ['yuki'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'b-yuki', 'yuki', 'returned');
    run.now = closes - 2000;
    expect(nextRound(structuredRun(run), { ask: ['a-petra'] })).toBe('ok');
    run.now = closes;
    expect(nextRound(structuredRun(run), { ask: ['a-petra'] })).toBe('times-needed');
    expect(nextRound(structuredRun(run))).toBe('ok');
  });
});

/** The same run, to go on in two ways. */
const structuredRun = (run: Run): Run => ({ ...run, events: run.events.slice() });

describe('a seat that changes hands', () => {
  it('bars who held it until they are named again, each once', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    const barred = () => seatOf(run, 'a-petra').barred;
    reassign(run, 'a-petra', 'noor');
    expect(barred()).toEqual(['petra']);
    reassign(run, 'a-petra', 'petra');
    expect(barred()).toEqual(['noor']);
    reassign(run, 'a-petra', 'yuki');
    expect(barred()).toEqual(['noor', 'petra']);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    expect(barred()).toEqual(['petra']);
    expect(put(run, { type: 'delegate', seat: 'a-petra', epoch: 4, to: 'petra', note: null }, 'yuki')).toBe('barred');
  });

  it('goes to a second holder as the only one of that name, and keeps the others', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    for (const person of ['noor', 'yuki']) put(run, { type: 'addSecondHolder', seat: 'a-petra', person });
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(seatOf(run, 'a-petra').holders.map(({ person, via }) => [person, via])).toEqual([
      ['noor', 'reassigned'],
      ['yuki', 'second'],
    ]);
    expect(put(run, { type: 'delegate', seat: 'a-petra', epoch: 2, to: 'oskar', note: null }, 'noor')).toBe('ok');
    expect(seatOf(run, 'a-petra').holders.map(({ person, via }) => [person, via])).toEqual([
      ['oskar', 'delegated'],
      ['yuki', 'second'],
    ]);
  });

  it('is held by an outside person when it is given to one, who has a link then', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])));
    expect(put(run, { type: 'copyLink', seat: 'a-petra' })).toBe('not-outside');
    reassign(run, 'a-petra', 'lotte');
    expect(baseHolder(seatOf(run, 'a-petra'))).toMatchObject({ person: 'lotte', outside: true });
    const offered = offers(state(run), contextOf(run.now, controller)).find(({ act }) => act === 'copyLink');
    expect(offered).toMatchObject({ on: 'a-petra', refusal: null, needs: {} });
    expect(put(run, { type: 'copyLink', seat: 'a-petra' })).toBe('ok');
    reassign(run, 'a-petra', 'noor');
    expect(baseHolder(seatOf(run, 'a-petra'))?.outside).toBe(false);
  });

  it('stays unasked while it is not its turn', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne' })));
    expect(reassign(run, 'a-oskar', 'noor', { due: start + 9 * hour })).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'asked', 'a-oskar': 'idle' });
    decide(run, 'a-petra', 'petra', 'done');
    expect(seatOf(run, 'a-oskar')).toMatchObject({ status: 'asked', due: start + 9 * hour });
  });

  it('is offered to everybody but who holds it, a second holder only where they may take it', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    const not = needsFor(run, 'reassign', 'a-petra')?.not;
    expect(not).toContain('petra');
    expect(not).toContain('oskar');
    expect(not).toContain(author);
    expect(not).not.toContain('noor');
    expect(needsFor(run, 'addSecondHolder', 'a-petra')?.not).toContain('noor');
    expect(needsFor(run, 'delegate', 'a-petra', 'petra')?.not).toEqual(
      expect.arrayContaining(['petra', 'noor', 'oskar', author]),
    );
  });

  it('has waited for whoever was added since they were added', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    run.now += 30 * hour;
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    const since = Object.fromEntries(tasksOf(state(run)).map((task) => [task.person, task.since]));
    expect(since.noor).toBe(run.now);
    expect(since.petra).toBe(seatOf(run, 'a-petra').since);
    run.now += hour;
    put(run, { type: 'delegate', seat: 'a-petra', epoch: 1, to: 'oskar', note: null }, 'petra');
    expect(tasksOf(state(run)).find((task) => task.person === 'oskar')?.since).toBe(run.now);
  });
});

describe('what an offer says it needs', () => {
  it('names the outcomes, and which of them want a reason', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra']), stage('b', 'review', ['yuki'])));
    const needs = needsFor(run, 'decide', 'a-petra', 'petra');
    expect(needs?.outcomes).toEqual(['approved', 'approvedWithComments', 'returned', 'declined']);
    expect(needs?.reasonFor).toEqual(['returned', 'declined']);
    expect(needsFor(run, 'decide', 'b-yuki', 'yuki')).toBeNull();
  });

  it('says which declines a round could leave as they are, and which decisions it could keep', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'oskar', 'yuki', 'noor'], { rule: { kind: 'atLeast', k: 2 } })),
    );
    decide(run, 'a-noor', 'noor', 'done');
    decide(run, 'a-yuki', 'yuki', 'declined');
    decide(run, 'a-oskar', 'oskar', 'returned');
    const needs = needsFor(run, 'confirmRound', null);
    expect(needs?.leavable).toEqual(['a-yuki']);
    expect(needs?.keepable).toEqual(['a-noor']);
    expect(needs?.lines).toEqual(linesOf(state(run)));
    const all = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(all, 'a-petra', 'petra', 'declined');
    attach(all, 2);
    expect(needsFor(all, 'confirmRound', null)?.leavable).toEqual([]);
  });

  it('tells the times a seat has, for extending and asking again', () => {
    const due = start + 5 * hour;
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'], { due })));
    expect(needsFor(run, 'extend', 'a-petra')).toEqual({ due, closes: null, timeNeeded: false });
    expect(needsFor(run, 'remind', 'a-petra')).toEqual({});
    expect(needsFor(run, 'setTimes', 'a')).toBeNull();
    decide(run, 'a-petra', 'petra', 'declined');
    expect(needsFor(run, 'askAgain', 'a-petra')).toEqual({ due, closes: null, timeNeeded: false });
  });
});

describe('a stage', () => {
  it('that was stuck and is done is stuck no more', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { onDecline: 'count' })));
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stageOf(run, 'a').stuck).toBe(true);
    reassign(run, 'a-petra', 'noor');
    expect(stageOf(run, 'a').stuck).toBe(false);
    decide(run, 'a-petra', 'noor', 'done');
    decide(run, 'a-oskar', 'oskar', 'done');
    expect(stageOf(run, 'a')).toMatchObject({ status: 'done', stuck: false, held: null });
  });

  it('that is over takes no extension, whether it was done or no longer needed', () => {
    const run = sentRun(
      route(
        fork(
          { kind: 'any' },
          [stage('a', 'review', ['petra', 'oskar'], { closes: start + 2 * hour, rule: { kind: 'any' } })],
          [stage('b', 'review', ['yuki'])],
        ),
        stage('c', 'approve', ['benedikt']),
      ),
    );
    run.now = start + 3 * hour;
    decide(run, 'b-yuki', 'yuki', 'done');
    expect(stageOf(run, 'a').status).toBe('released');
    expect(put(run, { type: 'extend', seat: 'a-petra', due: null, closes: null })).toBe('stage-over');
    expect(reassign(run, 'a-petra', 'noor', { due: start + 9 * hour })).toBe('stage-over');
  });

  it('whose closing time had passed is held once for the controller, and says so until a time is given', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'approve', ['yuki'], { closes: start + 2 * hour })),
    );
    run.now = start + 2 * hour;
    decide(run, 'a-petra', 'petra', 'done');
    expect(stageOf(run, 'b')).toMatchObject({ status: 'idle', held: 'time' });
    expect(stopsOf(state(run))).toEqual([{ kind: 'time', stage: 'b', since: start + 2 * hour }]);
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'resolveStop', stage: 'b', seat: null, about: author }]);
    put(run, { type: 'wake' }, 'system');
    expect(run.events.filter((event) => event.type === 'stage.held').length).toBe(1);
    expect(needsFor(run, 'setTimes', 'b')).toEqual({ due: null, closes: start + 2 * hour, timeNeeded: true });
    put(run, { type: 'setTimes', stage: 'b', due: null, closes: null });
    expect(stopsOf(state(run))).toEqual([]);
    expect(statuses(run)['b-yuki']).toBe('asked');
  });

  it('one by one is held when the next would be asked too late, and goes on with a time', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', closes: start + 9 * hour })),
    );
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: start + 40 * hour });
    run.now = start + 10 * hour;
    decide(run, 'a-petra', 'petra', 'done');
    expect(stageOf(run, 'a')).toMatchObject({ status: 'open', held: 'time' });
    expect(stopsOf(state(run))).toEqual([{ kind: 'time', stage: 'a', since: start + 9 * hour }]);
    put(run, { type: 'wake' }, 'system');
    expect(run.events.filter((event) => event.type === 'stage.held').length).toBe(1);
    put(run, { type: 'setTimes', stage: 'a', due: null, closes: atInstant(start + 60 * hour) });
    expect(statuses(run)['a-oskar']).toBe('asked');
  });
});

describe('an end', () => {
  it('gives each record of the circulation its revision and no other', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    decide(run, 'a-petra', 'petra', 'done');
    put(run, { type: 'keepFinals', files: [], identifier: 'x' }, 'system');
    const release = (...records: string[]) =>
      put(run, {
        type: 'complete',
        revisions: records.map((record) => ({ record, revision: 'A' })),
        effective: run.now,
        evidence: hash(6),
      });
    expect(release('other')).toBe('revisions-unfit');
    expect(release()).toBe('revisions-unfit');
    expect(release('rec', 'other')).toBe('revisions-unfit');
    expect(release('rec')).toBe('ok');
  });

  it('by withdrawing is kept from nobody by a signature while others still have to respond', () => {
    const signed = (...more: ReturnType<typeof stage>[]) => {
      const run = sentRun(route(stage('s', 'sign', ['benedikt']), ...more));
      freeze(run);
      expect(decide(run, 's-benedikt', 'benedikt', 'signed')).toBe('ok');
      return run;
    };
    expect(put(signed(), { type: 'withdraw', note: 'w' })).toBe('signed-already');
    expect(put(signed(stage('r', 'read', ['noor'])), { type: 'withdraw', note: 'w' })).toBe('ok');
    const unsigned = sentRun(route(stage('a', 'review', ['petra'])));
    decide(unsigned, 'a-petra', 'petra', 'done');
    expect(put(unsigned, { type: 'withdraw', note: 'w' })).toBe('ok');
  });
});

describe('rework', () => {
  it('waits for the author after a return, and for the controller once a newer version is in', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'returned');
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'rework', person: author, about: 'petra', seat: 'a-petra' }]);
    reassign(run, 'a-petra', 'noor');
    // Who returned it stays who returned it.
    expect(tasksOf(state(run))[0]?.about).toBe('petra');
    attach(run, 2);
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'confirmRound', person: controller }]);
    const attached = sentRun(route(stage('a', 'review', ['petra'])));
    attach(attached, 2);
    expect(tasksOf(state(attached))).toMatchObject([{ doing: 'confirmRound', person: controller }]);
  });

  it('delegates nothing', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'returned');
    expect(put(run, { type: 'delegate', seat: 'a-oskar', epoch: 1, to: 'noor', note: null }, 'oskar')).not.toBe('ok');
  });
});

describe('what is out of the route', () => {
  // Conditions and amending will take seats, stages and blocks out; what counts them already knows how.
  const without = (given: Circulation, of: { seat?: string; stage?: string; block?: string }): Circulation => {
    const out = <T extends { gone: unknown }>(map: ReadonlyMap<string, T>, id: string | undefined) =>
      new Map([...map].map(([key, entry]) => [key, key === id ? { ...entry, gone: 'removed' as const } : entry]));
    return {
      ...given,
      seats: out(given.seats, of.seat) as Circulation['seats'],
      stages: out(given.stages, of.stage) as Circulation['stages'],
      blocks: out(given.blocks, of.block) as Circulation['blocks'],
    };
  };
  const on = (run: Run, changed: Circulation): Run => ({ ...run, state: changed });

  it('a seat neither counts, nor is offered, listed, nor keeps its holder from another', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar']), stage('b', 'approve', ['yuki'])));
    const changed = without(state(run), { seat: 'a-oskar' });
    expect(tallyOf(changed, changed.stages.get('a') as never)).toMatchObject({ n: 1, needed: 1 });
    expect(offers(changed, contextOf(run.now, controller)).some((offer) => offer.on === 'a-oskar')).toBe(false);
    expect(linesOf(changed).map((line) => line.seat)).toEqual(['a-petra', 'b-yuki']);
    const petra = changed.seats.get('a-petra') as SeatRun;
    expect(otherSeatInStage(state(run), petra, 'oskar', bareContext(0, controller))?.id).toBe('a-oskar');
    expect(otherSeatInStage(changed, petra, 'oskar', bareContext(0, controller))).toBeNull();
    expect(otherSeatInStage(changed, petra, 'petra', bareContext(0, controller))).toBeNull();
    expect(tasksOf(changed).map((task) => task.person)).toEqual(['petra']);
    const after = on(run, changed);
    expect(decide(after, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(stageOf(after, 'a').status).toBe('done');
    expect(statuses(after)['b-yuki']).toBe('asked');
  });

  it('a seat is not asked by a round, and its decision is not among those that can be kept', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'])));
    decide(run, 'a-oskar', 'oskar', 'done');
    decide(run, 'a-petra', 'petra', 'returned');
    const after = on(run, without(state(run), { seat: 'a-oskar' }));
    expect(needsFor(after, 'confirmRound', null)?.keepable).toEqual([]);
    const alone = on(run, without(without(state(run), { seat: 'a-petra' }), { seat: 'a-yuki' }));
    expect(nextRound(alone, { keep: [] })).toBe('ok');
  });

  it('a stage or a block is passed over, and offers no times', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra']),
        fork({ kind: 'all' }, [stage('b', 'review', ['yuki'])], [stage('c', 'review', ['oskar'])]),
        stage('d', 'approve', ['benedikt']),
      ),
    );
    const one = on(run, without(state(run), { stage: 'b' }));
    expect(
      offers(state(one), contextOf(run.now, controller)).some(({ act, on: of }) => act === 'setTimes' && of === 'b'),
    ).toBe(false);
    expect(decide(one, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(statuses(one)).toMatchObject({ 'b-yuki': 'idle', 'c-oskar': 'asked', 'd-benedikt': 'idle' });
    expect(decide(one, 'c-oskar', 'oskar', 'done')).toBe('ok');
    expect(statuses(one)['d-benedikt']).toBe('asked');
    const whole = on(run, without(state(run), { block: 'fork' }));
    expect(decide(whole, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(statuses(whole)).toMatchObject({ 'b-yuki': 'idle', 'c-oskar': 'idle', 'd-benedikt': 'asked' });
  });

  it('a stage needs no new time in a round, whatever its closing', () => {
    const closes = start + 4 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['yuki'], { closes })));
    decide(run, 'a-petra', 'petra', 'returned');
    run.now = closes + hour;
    expect(nextRound(structuredRun(run))).toBe('times-needed');
    expect(nextRound(on(structuredRun(run), without(state(run), { stage: 'b' })))).toBe('ok');
  });

  it('a signing stage freezes nothing', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('s', 'sign', ['benedikt'])));
    const after = on(run, without(state(run), { stage: 's' }));
    expect(decide(after, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(state(after).phase).toBe('finishing');
  });
});

describe('a series', () => {
  it('all of which is out of the route is itself out of it, and one of which something is left is not', () => {
    const branches = [[stage('b', 'review', ['yuki'])], [stage('c', 'review', ['oskar'])]] as const;
    const run = sentRun(route(fork({ kind: 'all' }, [...branches[0]], [...branches[1]]), stage('d', 'read', ['noor'])));
    const gone = (...ids: string[]): Run => ({
      ...run,
      events: run.events.slice(),
      state: {
        ...state(run),
        stages: new Map(
          [...state(run).stages].map(([id, one]) => [
            id,
            ids.includes(id) ? { ...one, gone: 'skipped' as const } : one,
          ]),
        ),
      },
    });
    const both = gone('b', 'c');
    put(both, {
      type: 'comment',
      comment: 'x',
      thread: null,
      file: state(run).versions[0]?.files[0]?.file ?? '',
      spot: null,
      note: 'w',
    });
    expect(statuses(both)['d-noor']).toBe('asked');
    const one = gone('b');
    expect(decide(one, 'c-oskar', 'oskar', 'done')).toBe('ok');
    expect(statuses(one)['d-noor']).toBe('asked');
  });
});

describe('a second holder', () => {
  it('is told apart from who holds the seat, and decides on their behalf', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])));
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    expect(secondHolders(seatOf(run, 'a-petra'))).toEqual(['noor']);
    expect(baseHolder(seatOf(run, 'a-petra'))?.person).toBe('petra');
    expect(put(run, { type: 'dropSecondHolder', seat: 'a-petra', person: 'petra' })).toBe('not-second-holder');
    const seen = decideOn(
      state(run),
      {
        type: 'see',
        seat: 'a-petra',
        epoch: 1,
        scope: needsFor(run, 'decide', 'a-petra', 'noor')?.scope ?? '',
      },
      contextOf(run.now, 'noor'),
    );
    expect(seen.ok).toBe(true);
  });
});

describe('a deserted seat', () => {
  it('waits, or will wait, for somebody, and nobody is left who could act on it', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'read', ['yuki'])));
    const away = (...people: string[]) => ({
      people: new Map(people.map((person) => [person, { outside: false, active: false }])),
      rules: { authorApproves: false, questionsWait: false },
    });
    const deserted = (given: Circulation, seat: string, ...people: string[]) =>
      isDeserted(given, given.seats.get(seat) as SeatRun, { ...contextOf(run.now, controller), ...away(...people) });
    expect(deserted(state(run), 'a-petra', 'petra')).toBe(true);
    expect(deserted(state(run), 'a-petra', 'oskar')).toBe(false);
    expect(deserted(state(run), 'b-yuki', 'yuki'), 'not yet asked').toBe(true);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    expect(deserted(state(run), 'a-petra', 'petra')).toBe(false);
    expect(deserted(state(run), 'a-petra', 'petra', 'noor')).toBe(true);
    decide(run, 'a-oskar', 'oskar', 'returned');
    expect(seatOf(run, 'a-petra').status).toBe('suspended');
    expect(deserted(state(run), 'a-petra', 'petra', 'noor'), 'suspended').toBe(true);
    expect(deserted(state(run), 'a-oskar', 'oskar'), 'answered').toBe(false);
    const seats = new Map(state(run).seats);
    seats.set('a-petra', { ...seatOf(run, 'a-petra'), gone: 'removed' });
    expect(deserted({ ...state(run), seats }, 'a-petra', 'petra', 'noor'), 'gone').toBe(false);
    put(run, { type: 'withdraw', note: 'w' });
    expect(deserted(state(run), 'a-petra', 'petra', 'noor'), 'ended').toBe(false);
  });
});

describe('a response', () => {
  it('is given once, whatever it was, and the next one is told by whom and what', () => {
    const run = sentRun(
      route(
        stage('a', 'approve', ['petra', 'oskar', 'yuki'], { onDecline: 'count', rule: { kind: 'any' } }),
        stage('b', 'read', ['noor']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'declined');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('already-decided');
    decide(run, 'a-oskar', 'oskar', 'returned');
    const again = step(
      run,
      {
        type: 'decide',
        seat: 'a-oskar',
        epoch: 1,
        scope: needsFor(run, 'decide', 'a-oskar', 'oskar')?.scope ?? '',
        outcome: 'approved',
        note: null,
        filled: [],
        evidence: null,
      },
      'oskar',
    );
    expect(again).toMatchObject({ refusal: { code: 'already-decided', facts: { by: 'oskar', outcome: 'returned' } } });
    expect(decide(run, 'a-yuki', 'yuki', 'approved')).toBe('phase-rework');
    // Standing is what was said yes to, by those whose yes counts.
    expect(standing(state(run))).toEqual([]);
    nextRound(run);
    decide(run, 'a-yuki', 'yuki', 'approved');
    expect(standing(state(run)).map(({ by, outcome }) => [by, outcome])).toEqual([['yuki', 'approved']]);
    expect(seatOf(run, 'a-yuki')).toMatchObject({ status: 'decided', kept: false, passed: false });
  });

  it('of the author is wanted in a review and never in an approval', () => {
    const run = sentRun(route(stage('a', 'review', [author]), stage('b', 'approve', ['yuki'])));
    expect(decide(run, 'a-rufus', author, 'done')).toBe('ok');
    expect(reassign(run, 'b-yuki', author)).toBe('author-decides');
    const reviewing = sentRun(route(stage('a', 'review', ['petra'])));
    expect(reassign(reviewing, 'a-petra', author)).toBe('ok');
  });

  it('cannot be handed to somebody who has left', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const context = contextOf(run.now, 'petra');
    const hand = (active: boolean) =>
      decideOn(
        state(run),
        { type: 'delegate', seat: 'a-petra', epoch: 1, to: 'noor', note: null },
        { ...context, people: new Map([...context.people, ['noor', { outside: false, active }]]) },
      );
    expect(hand(false)).toMatchObject({ refusal: { code: 'person-left' } });
    expect(hand(true).ok).toBe(true);
  });
});

describe('what a state keeps', () => {
  it('is the newest fifty reminders of a seat', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    for (let i = 0; i < 60; i += 1) put(run, { type: 'remind', seat: 'a-petra' }, controller, 2 * hour);
    const { reminded } = seatOf(run, 'a-petra');
    expect(reminded.length).toBe(50);
    const all = run.events.flatMap((event) => (event.type === 'seat.reminded' ? [event.at] : []));
    expect(all.length).toBe(60);
    expect(reminded).toEqual(all.slice(10));
  });

  it('is each second holder until that one is dropped', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    for (const person of ['noor', 'yuki']) put(run, { type: 'addSecondHolder', seat: 'a-petra', person });
    put(run, { type: 'dropSecondHolder', seat: 'a-petra', person: 'noor' });
    expect(seatOf(run, 'a-petra').holders.map((holder) => holder.person)).toEqual(['petra', 'yuki']);
    expect(baseHolder({ ...seatOf(run, 'a-petra'), holders: seatOf(run, 'a-petra').holders.slice(1) })).toBeNull();
  });

  it('is the version a comment was made on, and why it was withdrawn', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const comment = (id: string) =>
      put(
        run,
        {
          type: 'comment',
          comment: id,
          thread: null,
          file: state(run).versions.at(-1)?.files[0]?.file ?? '',
          spot: null,
          note: 'w',
        },
        'petra',
      );
    comment('one');
    attach(run, 2);
    comment('two');
    expect([...state(run).comments.values()].map(({ version }) => version)).toEqual([1, 2]);
    put(run, { type: 'withdraw', note: 'because' });
    expect(run.events.at(-1)).toMatchObject({ type: 'circulation.withdrawn', data: { note: 'because' } });
  });

  it('is the scope of a signature: the bytes that were frozen, and others once those are others', () => {
    const run = sentRun(route(stage('s', 'sign', ['benedikt']), stage('r', 'review', ['yuki'])));
    const [seat, reader] = [seatOf(run, 's-benedikt'), seatOf(run, 'r-yuki')];
    const before = [scopeOf(state(run), seat), scopeOf(state(run), reader)];
    freeze(run);
    const after = [scopeOf(state(run), seat), scopeOf(state(run), reader)];
    expect(after[0]).not.toBe(before[0]);
    expect(after[1]).toBe(before[1]);
    const frozen = new Map([...state(run).frozen].map(([id, one]) => [id, { ...one, content: hash(999) }]));
    expect(scopeOf({ ...state(run), frozen }, seat)).toBe(before[0]);
  });

  it('is who still has to sign and has no field: nobody who has signed, nobody out of the route', () => {
    const run = sentRun(route(stage('s', 'sign', ['benedikt', 'oskar']), stage('r', 'read', ['noor'])));
    expect(seatsWithoutField(state(run))).toEqual(['s-benedikt', 's-oskar']);
    expect(fieldsWanted(state(run))).toBe(true);
    const seats = new Map(state(run).seats);
    seats.set('s-oskar', { ...seatOf(run, 's-oskar'), gone: 'removed' });
    expect(seatsWithoutField({ ...state(run), seats })).toEqual(['s-benedikt']);
    freeze(run);
    expect(fieldsWanted(state(run))).toBe(false);
    decide(run, 's-benedikt', 'benedikt', 'signed');
    const bare = { ...state(run), fields: [] };
    expect(seatsWithoutField(bare)).toEqual(['s-oskar']);
    // Pages that are frozen take no field any more, whoever lacks one.
    expect(fieldsWanted(bare)).toBe(false);
    const unsent = { ...state(run), versions: [] };
    expect(fieldsWanted(unsent)).toBe(false);
    expect(filesToFreeze(state(sentRun(route(stage('a', 'review', ['petra'])))))).toEqual([]);
  });
});

describe('the next round', () => {
  it('proposes a time that has passed anew, after as many working days as its stage had at first, and at least one', () => {
    const due = start + 50 * hour;
    const run = sentRun(
      route(
        stage('a', 'review', ['petra'], { due, closes: due + hour }),
        stage('b', 'approve', ['yuki'], { due: start + 400 * hour }),
      ),
    );
    decide(run, 'a-petra', 'petra', 'returned');
    run.now = start + 100 * hour;
    const [a, b] = proposedTimes(state(run), contextOf(run.now, controller));
    // From Friday two working days, over the weekend, to the end of work.
    const tuesday = atInstant(Date.UTC(2026, 10, 10, 15));
    expect(a).toEqual({ stage: 'a', due: tuesday, closes: tuesday });
    expect(b?.due).toEqual(atInstant(start + 400 * hour));
    const soon = sentRun(route(stage('a', 'review', ['petra'], { due: start + 2 * hour })));
    decide(soon, 'a-petra', 'petra', 'returned');
    soon.now = start + 10 * hour;
    expect(proposedTimes(state(soon), contextOf(soon.now, controller))[0]?.due).toEqual(
      atInstant(Date.UTC(2026, 10, 3, 15)),
    );
  });

  it('calls a seat given when its decision was somebody else’s, and not asked before when there was none', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar']), stage('b', 'approve', ['yuki'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'returned');
    reassign(run, 'a-petra', 'noor');
    expect(Object.fromEntries(linesOf(state(run)).map((line) => [line.seat, line.reason]))).toEqual({
      'a-petra': 'given',
      'a-oskar': 'returned',
      'b-yuki': 'notAskedBefore',
    });
  });

  it('counts an accepted content for the seat it was accepted for and for no other', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'done');
    decide(run, 'a-yuki', 'yuki', 'returned');
    attach(run, 2);
    nextRound(run, { keep: ['a-petra'] });
    decide(run, 'a-yuki', 'yuki', 'returned');
    const kept = Object.fromEntries(linesOf(state(run)).map((line) => [line.seat, line.keep]));
    expect(kept).toEqual({ 'a-petra': true, 'a-oskar': false, 'a-yuki': false });
    // What was accepted is an entry of one decision of one seat.
    const moved = {
      ...state(run),
      acceptances: state(run).acceptances.map((entry) => ({ ...entry, seat: 'a-oskar' })),
    };
    expect(linesOf(moved).find((line) => line.seat === 'a-petra')?.keep).toBe(false);
  });

  it('asks for a new time in a seat that is given away only while it runs and the old one has passed', () => {
    const closes = start + 4 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { closes })));
    expect(needsFor(run, 'reassign', 'a-petra')).toMatchObject({ closes, timeNeeded: false });
    run.now = closes;
    put(run, { type: 'wake' }, 'system', 0);
    expect(needsFor(run, 'reassign', 'a-petra')).toMatchObject({ closes, timeNeeded: true });
    attach(run, 2);
    expect(state(run).phase).toBe('rework');
    expect(needsFor(run, 'reassign', 'a-petra')).toMatchObject({ timeNeeded: false });
  });

  it('needs a time for a stage that closes at this very instant', () => {
    const closes = start + 4 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra'], { closes }), stage('b', 'read', ['yuki'])));
    decide(run, 'a-petra', 'petra', 'returned');
    const confirm = (now: number) => {
      const own = { ...structuredRun(run), now };
      const basis = needsFor(own, 'confirmRound', null)?.basis ?? '';
      return put(own, { type: 'confirmRound', basis, keep: [], leave: [], times: [] }, controller, 0);
    };
    expect(confirm(closes)).toBe('times-needed');
    expect(confirm(closes - 1)).toBe('ok');
  });

  it('that would ask nobody, because nobody is left in the route, is refused', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    decide(run, 'a-petra', 'petra', 'returned');
    const seats = new Map(state(run).seats);
    seats.set('a-petra', { ...seatOf(run, 'a-petra'), gone: 'removed' });
    expect(nextRound({ ...structuredRun(run), state: { ...state(run), seats } })).toBe('nobody-asked');
  });
});

describe('what a command leaves alone', () => {
  it('is the state that it was given: decisions, too, stand only in the one it gives', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    const before = state(run);
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect([before.decisions.length, state(run).decisions.length]).toEqual([0, 1]);
  });
});

describe('a seat that missed its time', () => {
  const missed = (rule: Stage['rule'], people: string[]) => {
    const run = sentRun(route(stage('a', 'review', people, { rule, due: start + hour, closes: start + 2 * hour })));
    put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: start + 30 * hour });
    put(run, { type: 'wake' }, 'system', 4 * hour);
    expect(seatOf(run, 'a-petra').status).toBe('missed');
    return stopsOf(state(run)).map((stop) => stop.kind);
  };

  it('stops what cannot do without it, and nothing that can', () => {
    expect(missed({ kind: 'all' }, ['petra', 'oskar'])).toEqual(['missed']);
    expect(missed({ kind: 'atLeast', k: 2 }, ['petra', 'oskar'])).toEqual(['missed']);
    expect(missed({ kind: 'any' }, ['petra', 'oskar'])).toEqual([]);
  });
});
