import { describe, expect, it } from 'vitest';
import { contextOf, controller, factNames, sentRun, start, step } from '../../../../test/properties/arbitrary';
import {
  attach,
  board,
  count,
  decide,
  fork,
  freeze,
  nextRound,
  over,
  put,
  reassign,
  route,
  seatOf,
  stage,
  stageOf,
  state,
  statuses,
} from '../../../../test/properties/scene';
import { involvedIn } from '../../access/may';
import type { Condition } from '../../route/condition';
import { type Copies, type Earliest, type Parallel, routeLimits, type Unit } from '../../route/route';
import type { Context } from '../run/context';
import { system } from '../run/events';
import { scopeOf, seenOf, standing } from '../run/state';
import { tasksOf, timersOf } from '../telling/tasks';
import type { Command } from './commands';
import { decide as engine } from './decide';
import { offers } from './offers';

// What a route can ask for besides people by name, each with a plain example.

const hour = 3_600_000;
const day = 24 * hour;
const amount = (thousand: number): Command => ({
  type: 'giveFacts',
  facts: { amount: { kind: 'amount', thousandths: thousand * 1_000_000, currency: 'NOK' } },
  names: factNames,
});
const wait = (from: Extract<Earliest, { kind: 'wait' }>['from'], n: number, again = false, unit: Unit = 'days') =>
  ({ kind: 'wait', from, amount: n, unit, again }) satisfies Earliest;
const see = (run: Parameters<typeof put>[0], seat: string, person: string, forward = 1000) => {
  const own = offers(state(run), contextOf(run.now + forward, person)).find(
    (one) => one.act === 'see' && one.on === seat,
  );
  const { epoch = 0, scope = '' } = own?.needs ?? {};
  return put(run, { type: 'see', seat, epoch, scope }, person, forward);
};
const holdersOf = (run: Parameters<typeof put>[0], seat: string) => seatOf(run, seat).holders.map((one) => one.person);

describe('a group', () => {
  it('of which any member may act leaves the task to whoever takes it, until it is given back', () => {
    const run = sentRun(route(stage('a', 'review', ['group:rescue'])));
    const epoch = 1;
    const take = (person: string) => put(run, { type: 'take', seat: 'a-group', epoch }, person);
    const back = (person: string) => put(run, { type: 'giveBack', seat: 'a-group', epoch }, person);
    expect(tasksOf(state(run)).map((task) => task.person)).toEqual(['group:rescue']);
    expect(tasksOf(state(run), contextOf(run.now, '')).map((task) => task.person)).toEqual([
      'yuki',
      'noor',
      'dalia',
      'fenna',
    ]);
    expect(back('yuki')).toBe('not-taken');
    expect(take('oskar')).toBe('not-holder');
    expect(put(run, { type: 'delegate', seat: 'a-group', epoch, to: 'petra', note: null }, 'yuki')).toBe('take-first');
    expect(take('yuki')).toBe('ok');
    expect(take('yuki')).toBe('no-effect');
    expect(take('noor')).toBe('taken-already');
    expect(decide(run, 'a-group', 'noor', 'done')).toBe('not-holder');
    expect(back('noor')).toBe('not-holder');
    expect(back('yuki')).toBe('ok');
    expect(take('noor')).toBe('ok');
    // The controller gives it back for somebody who forgot.
    expect(back(controller)).toBe('ok');
    expect(decide(run, 'a-group', 'dalia', 'done')).toBe('ok');
    expect(state(run).decisions.map(({ by, holder, onBehalfOf }) => [by, holder, onBehalfOf])).toEqual([
      ['dalia', 'dalia', null],
    ]);
    expect(state(run).phase).toBe('finishing');
  });

  it('loses a claim when its taker leaves it, and delegating makes the task a person’s', () => {
    const run = sentRun(route(stage('a', 'review', ['group:rescue'])));
    put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'fenna');
    // Fenna leaves the group after five days.
    put(run, { type: 'wake' }, 'system', 6 * day);
    expect(decide(run, 'a-group', 'fenna', 'done')).toBe('not-holder');
    expect(put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'yuki')).toBe('ok');
    expect(put(run, { type: 'delegate', seat: 'a-group', epoch: 1, to: 'petra', note: null }, 'yuki')).toBe('ok');
    expect(put(run, { type: 'take', seat: 'a-group', epoch: 2 }, 'noor')).toBe('not-a-group');
    expect(decide(run, 'a-group', 'petra', 'done')).toBe('ok');
  });

  it('goes back to itself in the next round, and what a member decided is the group’s', () => {
    const run = sentRun(route(stage('a', 'review', ['group:rescue', 'petra'])));
    put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'yuki');
    decide(run, 'a-group', 'yuki', 'done');
    attach(run, 2, 1);
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-group': 'decided', 'a-petra': 'asked' });
    attach(run, 3, 7);
    nextRound(run);
    expect(holdersOf(run, 'a-group')).toEqual([]);
    expect(decide(run, 'a-group', 'noor', 'done')).toBe('ok');
  });

  it('of which every member is asked becomes their seats when it is reached, and leaves out who is there already', () => {
    const run = sentRun(
      route(
        stage('z', 'review', ['petra']),
        stage('a', 'approve', ['every:board', 'oskar']),
        stage('b', 'approve', ['every:writers']),
      ),
    );
    expect(statuses(run)).toMatchObject({ 'a-every': 'idle' });
    decide(run, 'z-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'approved');
    decide(run, 'a-every__1', 'benedikt', 'approved');
    const resolved = run.events.flatMap((event) => (event.type === 'group.resolved' ? [event.data] : []));
    expect(resolved).toMatchObject([
      { group: 'board', name: 'Board', leftOut: ['oskar'], members: [{ person: 'benedikt' }] },
      // The author does not approve their own text.
      { group: 'writers', leftOut: ['rufus'], members: [{ person: 'caspian' }] },
    ]);
  });

  it('counts each member of it, and a person once in a stage', () => {
    const run = sentRun(route(stage('a', 'review', ['every:rescue'], { rule: { kind: 'atLeast', k: 2 } })));
    expect(stageOf(run, 'a').seats).toEqual(['a-every', 'a-every__1', 'a-every__2', 'a-every__3', 'a-every__4']);
    expect(decide(run, 'a-every__1', 'yuki', 'done')).toBe('ok');
    expect(reassign(run, 'a-every__2', 'yuki')).toBe('in-stage-already');
    expect(decide(run, 'a-every__3', 'dalia', 'done')).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-every__2': 'released', 'a-every__4': 'released' });
  });

  it('with nobody in it waits for the controller, who gives the seat to somebody', () => {
    // Fenna has left the group when it is reached, and the others are in the stage already.
    const second = stage('b', 'approve', ['group:rescue', 'yuki', 'noor', 'dalia']);
    const run = sentRun(route(stage('a', 'review', ['petra']), second));
    run.now += 6 * day;
    decide(run, 'a-petra', 'petra', 'done');
    expect(tasksOf(state(run)).filter((task) => task.doing === 'resolveStop')).toMatchObject([
      { person: controller, seat: 'b-group' },
    ]);
    expect(reassign(run, 'b-group', 'oskar')).toBe('ok');
    expect(decide(run, 'b-group', 'oskar', 'approved')).toBe('ok');
  });
});

describe('a role', () => {
  it('is filled when it is sent, and stays with whom it was filled by then', () => {
    const run = sentRun(route(stage('a', 'review', ['role:safety'])));
    expect(holdersOf(run, 'a-role')).toEqual(['petra']);
    expect(run.events.find((event) => event.type === 'circulation.sent')?.data).toMatchObject({
      roles: [{ of: 'a-role', role: 'safety', name: 'safety manager', person: 'petra' }],
    });
    expect(decide(run, 'a-role', 'petra', 'done')).toBe('ok');
  });
});

describe('somebody to be named', () => {
  const plan = () => route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['named:a-petra']));
  const name = (run: Parameters<typeof put>[0], to: string, person = 'petra') =>
    put(run, { type: 'name', seat: 'a-petra', epoch: 1, names: 'b-named', to }, person);

  it('is named before a yes, by whoever may decide, and changed until then', () => {
    const run = sentRun(plan());
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('name-missing');
    expect(name(run, 'noor', 'yuki')).toBe('not-holder');
    expect(name(run, 'rufus')).toBe('author-decides');
    expect(name(run, 'noor')).toBe('ok');
    expect(name(run, 'oskar')).toBe('ok');
    expect(put(run, { type: 'name', seat: 'a-yuki', epoch: 1, names: 'b-named', to: 'noor' }, 'yuki')).toBe(
      'not-to-name',
    );
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(name(run, 'noor')).toBe('already-decided');
    decide(run, 'a-yuki', 'yuki', 'done');
    expect(holdersOf(run, 'b-named')).toEqual(['oskar']);
    expect(decide(run, 'b-named', 'oskar', 'approved')).toBe('ok');
  });

  it('need not be named for a no, nor once the controller gave the seat to somebody', () => {
    const run = sentRun(plan());
    expect(decide(run, 'a-petra', 'petra', 'declined')).toBe('ok');
    put(run, { type: 'askAgain', seat: 'a-petra', due: null, closes: null });
    expect(reassign(run, 'b-named', 'noor')).toBe('ok');
    expect(name(run, 'oskar')).toBe('not-to-name');
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
  });

  it('is left to the controller where the stage was over before its namer had responded', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'yuki'], { rule: { kind: 'any' } }),
        stage('b', 'approve', ['named:a-petra']),
      ),
    );
    decide(run, 'a-yuki', 'yuki', 'done');
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'resolveStop', seat: 'b-named', person: controller }]);
    expect(reassign(run, 'b-named', 'noor')).toBe('ok');
    // The name stands over rounds.
    attach(run, 2);
    nextRound(run);
    expect(holdersOf(run, 'b-named')).toEqual(['noor']);
  });
});

describe('a condition', () => {
  const last = stage('z', 'read', ['noor']);

  it('is decided when its stage is reached, recorded with the values it was decided from', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'], { condition: over(200) }), last),
    );
    expect(count(run, 'part.decided')).toBe(0);
    decide(run, 'a-petra', 'petra', 'done');
    expect(run.events.find((event) => event.type === 'part.decided')?.data).toEqual({
      part: 'b',
      holds: false,
      used: [
        {
          kind: 'fact',
          fact: 'amount',
          name: 'amount',
          value: { kind: 'amount', thousandths: 184_000_000, currency: 'NOK' },
        },
      ],
    });
    expect(stageOf(run, 'b')).toMatchObject({ gone: 'skipped', status: 'idle' });
    expect(statuses(run)).toMatchObject({ 'z-noor': 'asked' });
  });

  it('follows a value that changes only where its stage has not been reached, and is decided anew in each round', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'], { condition: over(200) }), last),
    );
    expect(put(run, amount(300))).toBe('ok');
    expect(put(run, amount(300))).toBe('no-effect');
    decide(run, 'a-petra', 'petra', 'done');
    expect(statuses(run)).toMatchObject({ 'b-oskar': 'asked' });
    expect(put(run, amount(100))).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'b-oskar': 'asked' });
    decide(run, 'b-oskar', 'oskar', 'approved');
    attach(run, 2, 1);
    nextRound(run);
    // What was kept in a stage that is skipped now stays in the trail and does not count.
    expect(stageOf(run, 'b').gone).toBe('skipped');
    expect(standing(state(run)).map(({ seat }) => seat)).toEqual(['a-petra']);
  });

  it('keeps the values that it will need', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'], { condition: over(200) }), last),
    );
    expect(put(run, { type: 'giveFacts', facts: {}, names: factNames })).toBe('fact-tested');
    expect(put(run, amount(1), 'petra')).toBe('not-author');
    decide(run, 'a-petra', 'petra', 'done');
    expect(put(run, { type: 'giveFacts', facts: {}, names: factNames })).toBe('ok');
  });

  it('of a branch takes it out of its join: all of the others are enough, and a skipped one never satisfies any', () => {
    const parallel = fork({ kind: 'any' }, [stage('a', 'review', ['petra'])], [stage('b', 'review', ['oskar'])]);
    const branches = parallel.branches.map((branch, i) => ({ ...branch, condition: i === 0 ? over(200) : null }));
    const run = sentRun(route({ ...parallel, branches }, last));
    expect(statuses(run)).toMatchObject({ 'a-petra': 'idle', 'b-oskar': 'asked', 'z-noor': 'idle' });
    decide(run, 'b-oskar', 'oskar', 'done');
    expect(statuses(run)).toMatchObject({ 'z-noor': 'asked' });
    const both = branches.map((branch) => ({ ...branch, condition: over(200) }));
    const none = sentRun(route({ ...parallel, branches: both }, last));
    expect(statuses(none)).toMatchObject({ 'z-noor': 'asked' });
  });

  it('of all that a branch holds is recorded again in the next round, though kept decisions satisfy its join', () => {
    const run = sentRun(
      route(
        fork(
          { kind: 'atLeast', k: 2 },
          [stage('a', 'approve', ['petra'], { condition: { kind: 'not', of: over(1) } })],
          [stage('b', 'approve', ['oskar'])],
        ),
        stage('c', 'read', ['noor']),
      ),
    );
    put(run, amount(5));
    expect(decide(run, 'b-oskar', 'oskar', 'approved')).toBe('ok');
    expect(statuses(run)['c-noor']).toBe('asked');
    expect(attach(run, 2, 1)).toBe('ok');
    nextRound(run);
    expect(stageOf(run, 'a').gone).toBe('skipped');
    expect(stageOf(run, 'b').status).toBe('done');
    expect(statuses(run)['c-noor']).toBe('asked');
    expect(
      run.events.filter(({ type, data }) => type === 'part.decided' && (data as { part: string }).part === 'a'),
    ).toHaveLength(2);
  });

  it('of anything in a branch that was passed by is never decided, and no copies go there', () => {
    const inside = (name: string, part: Parallel): Parallel => ({
      ...part,
      id: name,
      branches: part.branches.map((branch, i) => ({ ...branch, route: { ...branch.route, id: `${name}-${i}` } })),
    });
    const inner = inside(
      'inner',
      fork({ kind: 'all' }, [stage('b', 'review', ['oskar'])], [stage('c', 'review', ['yuki'])]),
    );
    const conditional = {
      ...inner,
      branches: inner.branches.map((branch, i) => ({ ...branch, condition: i === 0 ? null : over(200) })),
    };
    const deeper = inside('deeper', fork({ kind: 'any' }, [conditional], [stage('e', 'read', ['petra'])]));
    for (const own of [[conditional, board('k1', 'dalia')], [deeper]]) {
      const plan = fork({ kind: 'any' }, [stage('a', 'review', ['noor'])], [stage('f', 'read', ['fenna']), ...own]);
      const run = sentRun(route(plan, last));
      decide(run, 'a-noor', 'noor', 'done');
      expect(stageOf(run, 'b').status).toBe('released');
      const before = run.events.length;
      put(run, { type: 'wake' }, system, day);
      expect(run.events.slice(before)).toEqual([]);
    }
  });

  it('is asked of how an earlier stage ended, and false while that has not', () => {
    const commented: Condition = { kind: 'outcome', stage: 'a', outcome: 'approvedWithComments' };
    const plan = route(
      stage('a', 'approve', ['petra']),
      stage('b', 'approve', ['oskar'], { condition: commented }),
      stage('c', 'approve', ['yuki'], { condition: { kind: 'not', of: commented } }),
      last,
    );
    const run = sentRun(plan);
    decide(run, 'a-petra', 'petra', 'approvedWithComments');
    expect(statuses(run)).toMatchObject({ 'b-oskar': 'asked' });
    const other = sentRun(plan);
    decide(other, 'a-petra', 'petra', 'approved');
    expect(statuses(other)).toMatchObject({ 'b-oskar': 'idle', 'c-yuki': 'asked' });
  });

  it('that leaves nobody is refused in sending, and under way goes to rework', () => {
    const plan = route(
      stage('a', 'review', ['petra'], { condition: over(100) }),
      stage('b', 'read', ['noor'], { condition: over(100) }),
    );
    const run = sentRun(plan);
    put(run, amount(50));
    attach(run, 2);
    expect(nextRound(run)).toBe('nobody-skipped');
    put(run, amount(500));
    expect(nextRound(run)).toBe('ok');
    expect(
      step(
        { ...run, state: { ...state(run), facts: {}, phase: 'new' } },
        { type: 'send', releasesItself: false },
        controller,
      ),
    ).toMatchObject({
      refusal: { code: 'preflight', facts: { finding: 'fact-missing' } },
    });
  });
});

describe('an earliest time', () => {
  it('holds a response back until its date, tells of it then, and moves the due and never the closing', () => {
    const at = start + 3 * day;
    const run = sentRun(
      route(
        stage('a', 'review', ['petra'], { earliest: { kind: 'date', at }, due: start + day, closes: start + 4 * day }),
      ),
    );
    expect(seatOf(run, 'a-petra')).toMatchObject({ due: at, closes: start + 4 * day });
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('too-early');
    const offered = offers(state(run), contextOf(run.now, 'petra')).find(
      (one) => one.act === 'decide' && one.on === 'a-petra',
    );
    expect(offered?.needs).toMatchObject({ outcomes: ['declined'], notBefore: at });
    put(run, { type: 'wake' }, 'system', at - run.now);
    expect(run.events.at(-1)).toMatchObject({ type: 'seat.freed', data: { person: 'petra', instant: at } });
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
  });

  it('lets somebody decline all the same', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { earliest: { kind: 'date', at: start + day } })));
    expect(decide(run, 'a-petra', 'petra', 'returned')).toBe('too-early');
    expect(decide(run, 'a-petra', 'petra', 'declined')).toBe('ok');
  });

  it('may count from one’s own first opening, each for themselves', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'], { earliest: wait('opened', 2) })));
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'oskar' });
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('open-first');
    expect(see(run, 'a-petra', 'petra')).toBe('ok');
    expect(decide(run, 'a-petra', 'petra', 'approved', {})).toBe('too-early');
    put(run, { type: 'wake' }, 'system', day);
    expect(see(run, 'a-petra', 'oskar')).toBe('ok');
    // The tasks of both say from when, each their own.
    expect(tasksOf(state(run)).map(({ person, notBefore }) => [person, (notBefore ?? 0) > run.now])).toEqual([
      ['petra', true],
      ['oskar', true],
    ]);
    put(run, { type: 'wake' }, 'system', day);
    expect(tasksOf(state(run)).map(({ notBefore }) => (notBefore ?? 0) > run.now)).toEqual([false, true]);
    expect(decide(run, 'a-petra', 'oskar', 'approved')).toBe('too-early');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
  });

  it('is over for nobody whose time has closed at the same instant', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { earliest: wait('opened', 1) })));
    expect(see(run, 'a-petra', 'petra')).toBe('ok');
    const from = tasksOf(state(run)).find(({ person }) => person === 'petra')?.notBefore ?? 0;
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: from });
    put(run, { type: 'wake' }, 'system', from - run.now);
    expect(statuses(run)).toMatchObject({ 'a-petra': 'missed', 'a-oskar': 'asked' });
    expect(count(run, 'seat.freed')).toBe(0);
  });

  it('counts due from when it is over, where that is later', () => {
    const run = sentRun(
      route({
        ...stage('a', 'approve', ['petra'], { earliest: wait('opened', 2) }),
        due: { kind: 'after', amount: 3, unit: 'days' },
      }),
    );
    expect(seatOf(run, 'a-petra').due).toBe(run.now + 3 * day);
    see(run, 'a-petra', 'petra', day);
    expect(seatOf(run, 'a-petra').due).toBe(run.now + 5 * day);
  });

  it('goes on over rounds with the same content, and begins again with other content where it is set so', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra'], { earliest: wait('opened', 2, true) }), stage('b', 'approve', ['oskar'])),
    );
    see(run, 'a-petra', 'petra');
    put(run, { type: 'wake' }, 'system', day);
    attach(run, 2, 1);
    nextRound(run);
    put(run, { type: 'wake' }, 'system', day);
    expect(decide(run, 'a-petra', 'petra', 'returned')).toBe('ok');
    attach(run, 3, 9);
    nextRound(run);
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('open-first');
    see(run, 'a-petra', 'petra');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('too-early');
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
  });

  it('goes on with other content where it is not', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'], { earliest: wait('asked', 2) })));
    put(run, { type: 'wake' }, 'system', day);
    attach(run, 2, 9);
    nextRound(run);
    put(run, { type: 'wake' }, 'system', day);
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
  });

  it('may count from when another stage ended, or was skipped', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['yuki'], { condition: over(900) }),
        stage('b', 'approve', ['petra'], { earliest: wait({ stage: 'a' }, 1) }),
      ),
    );
    const [{ since = null, from = null } = {}] = seatOf(run, 'b-petra').waits;
    expect([since, from]).toEqual([run.now, run.now + day]);
  });
});

describe('times of the plan', () => {
  it('count from being asked on the clock and calendar of who is asked, once', () => {
    const due = { kind: 'after', amount: 5, unit: 'workingDays' } as const;
    const run = sentRun(route({ ...stage('a', 'review', ['petra', 'oskar', 'yuki']), due }));
    // Petra is in Kathmandu, Oskar in Oslo, Yuki with the Summit crew; dates are the organization's.
    const zone = (person: string) => contextOf(run.now, '').people.get(person)?.zone as string;
    const wall = (seat: string, person: string) =>
      new Intl.DateTimeFormat('sv', { timeZone: zone(person), dateStyle: 'short', timeStyle: 'short' }).format(
        seatOf(run, seat).due as number,
      );
    expect(wall('a-petra', 'petra')).toBe('2026-11-09 16:00');
    expect(wall('a-oskar', 'oskar')).toBe('2026-11-09 16:00');
  });

  it('may be given to one seat, before its stage’s', () => {
    const own = stage('a', 'review', ['petra', 'oskar'], { due: start + 9 * day });
    const seats = own.seats.map((seat, i) =>
      i === 0 ? { ...seat, due: { kind: 'instant', at: start + 4 * day } as const } : seat,
    );
    const run = sentRun(route({ ...own, seats }));
    expect([seatOf(run, 'a-petra').due, seatOf(run, 'a-oskar').due]).toEqual([start + 4 * day, start + 9 * day]);
  });

  it('of the whole cap the stages, and its closing stops everything until it is extended', () => {
    const whole = {
      due: { kind: 'instant', at: start + 2 * day },
      closes: { kind: 'instant', at: start + 3 * day },
    } as const;
    const run = sentRun(
      route(stage('a', 'review', ['petra'], { due: start + 9 * day, closes: start + 10 * day })),
      1,
      false,
      whole,
    );
    const [task] = tasksOf(state(run));
    expect([task?.due, task?.closes]).toEqual([start + 2 * day, start + 3 * day]);
    put(run, { type: 'wake' }, 'system', start + 4 * day - run.now);
    expect(state(run)).toMatchObject({ closed: start + 3 * day, phase: 'running' });
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('closed');
    expect(put(run, { type: 'remind', seat: 'a-petra' })).toBe('closed');
    expect(put(run, { type: 'comment', comment: 'c', thread: null, file: '', spot: null, note: 'w' }, 'petra')).toBe(
      'closed',
    );
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'resolveStop', seat: null, stage: null }]);
    expect(put(run, { type: 'extendWhole', due: null, closes: start })).toBe('time-past');
    expect(put(run, { type: 'extendWhole', due: null, closes: start + 20 * day }, 'petra')).toBe('not-controller');
    expect(put(run, { type: 'extendWhole', due: null, closes: start + 20 * day }, controller, 0)).toBe('ok');
    // What was open is put off by how long it stood still.
    const still = run.now - (start + 3 * day);
    expect(seatOf(run, 'a-petra')).toMatchObject({
      due: start + 9 * day + still,
      closes: start + 10 * day + still,
      status: 'asked',
    });
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
  });

  it('of the whole move nobody’s own while nothing stood still', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { due: start + 9 * day }), stage('b', 'read', ['noor'])));
    expect(put(run, { type: 'extendWhole', due: start + 12 * day, closes: null })).toBe('ok');
    expect(run.events.at(-1)).toMatchObject({ type: 'circulation.extended', data: { seats: [], stages: [] } });
  });

  it('of the whole are counted in working days from sending, on the controller’s clock', () => {
    const whole = { due: { kind: 'after', amount: 10, unit: 'workingDays' }, closes: null } as const;
    const run = sentRun(route(stage('a', 'review', ['petra'])), 1, false, whole);
    expect(new Date(state(run).due as number).toISOString().slice(0, 10)).toBe('2026-11-16');
  });
});

describe('a gathered return', () => {
  const gather = { onReturn: 'gather' } as const;

  it('waits for the others of its stage, asks nobody new, and then begins rework', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'noor'], gather)));
    expect(decide(run, 'a-petra', 'petra', 'returned')).toBe('ok');
    expect(state(run).phase).toBe('running');
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('ok');
    expect(decide(run, 'a-noor', 'noor', 'returned')).toBe('ok');
    expect(state(run)).toMatchObject({ phase: 'rework', rework: { cause: 'returned', seat: 'a-petra' } });
    const turn = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { ...gather, order: 'oneByOne' })));
    decide(turn, 'a-petra', 'petra', 'returned');
    expect(state(turn).phase).toBe('rework');
    expect(statuses(turn)).toMatchObject({ 'a-oskar': 'idle' });
  });

  it('keeps its stage open where the rule is met meanwhile, and can be ended by the controller', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'noor'], { ...gather, rule: { kind: 'any' } })));
    decide(run, 'a-petra', 'petra', 'returned');
    decide(run, 'a-oskar', 'oskar', 'done');
    expect(stageOf(run, 'a').status).toBe('open');
    expect(put(run, { type: 'endGathering', stage: 'a' }, 'petra')).toBe('not-controller');
    expect(put(run, { type: 'endGathering', stage: 'a' })).toBe('ok');
    expect(state(run).phase).toBe('rework');
    expect(statuses(run)).toMatchObject({ 'a-noor': 'suspended' });
    expect(put(sentRun(route(stage('a', 'review', ['petra'], gather))), { type: 'endGathering', stage: 'a' })).toBe(
      'not-gathering',
    );
  });

  it('does not wait for who declined or missed', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'noor'], { ...gather, closes: start + day })));
    decide(run, 'a-petra', 'petra', 'returned');
    decide(run, 'a-oskar', 'oskar', 'declined');
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(state(run).phase).toBe('rework');
  });

  it('in a branch that its join no longer needs begins rework at once', () => {
    const run = sentRun(
      route(
        fork({ kind: 'any' }, [stage('a', 'review', ['petra', 'oskar'], gather)], [stage('b', 'review', ['noor'])]),
      ),
    );
    decide(run, 'a-petra', 'petra', 'returned');
    expect(state(run).phase).toBe('running');
    decide(run, 'b-noor', 'noor', 'done');
    expect(state(run)).toMatchObject({ phase: 'rework', rework: { seat: 'a-petra' } });
  });
});

describe('a group of which every member is asked', () => {
  it('asks as many as a route can carry, and one more of them holds the stage for the controller', () => {
    const { seats } = routeLimits;
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'read', ['every:rescue'])));
    const seat = seatOf(run, 'a-petra');
    const reached = (members: number) => {
      const context = contextOf(run.now, 'petra');
      const all = Array.from({ length: members }, (_, i) => `member ${i}`);
      const result = engine(
        state(run),
        {
          type: 'decide',
          seat: seat.id,
          epoch: seat.epoch,
          scope: scopeOf(state(run), seat) ?? '',
          outcome: 'done',
          note: null,
          filled: [],
          evidence: null,
        },
        { ...context, groups: new Map([['rescue', { name: 'Rescue', members: all }]]) },
      );
      if (!result.ok) throw new Error(result.refusal.code);
      const asked = result.events.filter(({ type }) => type === 'seat.asked').length;
      return [asked, result.state.stages.get('b')?.held ?? null];
    };
    expect(reached(3)).toEqual([3, null]);
    expect(reached(seats - 1)).toEqual([seats - 1, null]);
    expect(reached(seats)).toEqual([0, 'crowd']);
  });
});

describe('copies', () => {
  const copies = (hidden = false): Copies => ({
    kind: 'copies',
    id: 'c',
    to: [
      { id: 't1', assignment: { kind: 'person', person: 'fenna' } },
      { id: 't2', assignment: { kind: 'group', group: 'board', members: 'every' } },
      { id: 't3', assignment: { kind: 'person', person: 'oskar' } },
    ],
    hidden,
  });
  const got = (run: Parameters<typeof put>[0]) => state(run).copies.get('c');

  it('go when their tower is reached, once for each person and version', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), copies(), stage('b', 'approve', ['noor'])));
    expect(got(run)?.status).toBe('idle');
    decide(run, 'a-petra', 'petra', 'done');
    expect(got(run)).toMatchObject({ status: 'sent', version: 1 });
    expect(got(run)?.to.map(({ person }) => person)).toEqual(['fenna', 'benedikt', 'oskar']);
    decide(run, 'b-noor', 'noor', 'returned');
    nextRound(run);
    expect(count(run, 'copies.reached')).toBe(1);
    attach(run, 2);
    nextRound(run);
    decide(run, 'a-petra', 'petra', 'done');
    expect(count(run, 'copies.reached')).toBe(2);
    expect(got(run)).toMatchObject({ status: 'sent', version: 2 });
  });

  it('go to whoever filled a role when it was sent, whoever fills it by then, and to nobody who has left', () => {
    const owner: Copies = { ...copies(), to: [{ id: 't', assignment: { kind: 'role', role: 'owner' } }] };
    const run = sentRun(route(stage('a', 'review', ['petra']), owner));
    const scope = scopeOf(state(run), seatOf(run, 'a-petra')) ?? '';
    const done = { outcome: 'done', note: null, filled: [], evidence: null } as const;
    const got = (more: Partial<Context>) => {
      const context = { ...contextOf(run.now, 'petra'), ...more };
      const told = engine(state(run), { type: 'decide', seat: 'a-petra', epoch: 1, scope, ...done }, context);
      if (!told.ok) return told.refusal.code;
      return told.events
        .flatMap((event) => (event.type === 'copies.reached' ? event.data.to : []))
        .map((to) => to.person);
    };
    const roles = new Map([['owner', { name: 'owner', person: 'yuki' }]]);
    const people = new Map([['rufus', { outside: false, active: false }]]);
    expect(got({ roles })).toEqual(['rufus']);
    expect(got({ roles, people })).toEqual([]);
  });

  it('of what has signatures on it wait until the final file is stored', () => {
    const run = sentRun(route(stage('s', 'sign', ['petra']), copies()));
    freeze(run);
    decide(run, 's-petra', 'petra', 'signed');
    expect(got(run)?.status).toBe('reached');
    put(run, { type: 'keepFinals', files: [], identifier: 'x' }, 'system');
    expect(run.events.at(-1)?.type).toBe('copies.sent');
    expect(got(run)?.status).toBe('sent');
  });
});

describe('permissions of a stage', () => {
  it('may ask the controller before a task is passed on', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { allows: { delegate: 'agreed' } })));
    const hand = (to: string) =>
      put(run, { type: 'delegate', seat: 'a-petra', epoch: seatOf(run, 'a-petra').epoch, to, note: null }, 'petra');
    const agree = (agreed: boolean, actor = controller) =>
      put(run, { type: 'agree', seat: 'a-petra', epoch: seatOf(run, 'a-petra').epoch, agreed, note: null }, actor);
    expect(agree(true)).toBe('no-proposal');
    expect(hand('oskar')).toBe('ok');
    expect(hand('oskar')).toBe('no-effect');
    expect(tasksOf(state(run))).toMatchObject([
      { person: 'petra', doing: 'review' },
      { person: controller, doing: 'agree', about: 'petra' },
    ]);
    expect(agree(true, 'petra')).toBe('not-controller');
    expect(agree(false)).toBe('ok');
    expect(holdersOf(run, 'a-petra')).toEqual(['petra']);
    expect(hand('noor')).toBe('ok');
    expect(agree(true)).toBe('ok');
    expect(holdersOf(run, 'a-petra')).toEqual(['noor']);
    expect(run.events.at(-1)).toMatchObject({
      type: 'seat.delegated',
      actor: controller,
      data: { from: 'petra', to: 'noor' },
    });
    // What was asked for is off the table once somebody has decided.
    const other = sentRun(route(stage('a', 'review', ['petra', 'yuki'], { allows: { delegate: 'agreed' } })));
    put(other, { type: 'delegate', seat: 'a-petra', epoch: 1, to: 'oskar', note: null }, 'petra');
    decide(other, 'a-petra', 'petra', 'done');
    expect(seatOf(other, 'a-petra').proposal).toBeNull();
  });

  it('let somebody outside pass their task on to somebody outside alone', () => {
    const run = sentRun(route(stage('a', 'review', ['lotte'])));
    const hand = (to: string) => put(run, { type: 'delegate', seat: 'a-lotte', epoch: 1, to, note: null }, 'lotte');
    expect(hand('oskar')).toBe('outside-not-here');
    expect(hand('jarek')).toBe('ok');
    expect(seatOf(run, 'a-lotte')).toMatchObject({ epoch: 2, holders: [{ person: 'jarek', outside: true }] });
  });

  it('let a signer ask for changes only where they do', () => {
    const signed = (changes: boolean) => {
      const run = sentRun(route(stage('s', 'sign', ['petra'], { allows: { changes } })));
      freeze(run);
      return run;
    };
    expect(decide(signed(false), 's-petra', 'petra', 'returned')).toBe('wrong-outcome');
    const run = signed(true);
    expect(decide(run, 's-petra', 'petra', 'returned')).toBe('ok');
    expect(state(run).phase).toBe('rework');
  });

  it('close comments for whoever is asked there alone', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra'], { allows: { comment: false } }), stage('b', 'review', ['oskar'])),
    );
    const say = (person: string) =>
      put(
        run,
        {
          type: 'comment',
          comment: person,
          thread: null,
          file: state(run).versions[0]?.files[0]?.file ?? '',
          spot: null,
          note: 'w',
        },
        person,
      );
    expect(say('petra')).toBe('comment-not-allowed');
    // Whoever is only going to be asked, or holds no seat, is not asked there; a second holder is.
    expect(say('yuki')).toBe('ok');
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'fenna' });
    expect(say('fenna')).toBe('comment-not-allowed');
    expect(say('rufus')).toBe('ok');
    expect(say(controller)).toBe('ok');
    expect(say('oskar')).toBe('ok');
    const later = sentRun(
      route(stage('b', 'review', ['oskar']), stage('a', 'review', ['petra'], { allows: { comment: false } })),
    );
    const file = state(later).versions[0]?.files[0]?.file ?? '';
    expect(put(later, { type: 'comment', comment: 'c', thread: null, file, spot: null, note: 'w' }, 'petra')).toBe(
      'ok',
    );
  });
});

describe('a time given to a seat before it is asked', () => {
  it('that has passed by then holds its stage, and falls when the stage is given another', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    reassign(run, 'b-oskar', 'yuki', { due: start + day, closes: start + day });
    put(run, { type: 'wake' }, 'system', 2 * day);
    decide(run, 'a-petra', 'petra', 'done');
    expect(stageOf(run, 'b').held).toBe('time');
    expect(put(run, { type: 'setTimes', stage: 'b', due: null, closes: null })).toBe('ok');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ status: 'asked', due: null, closes: null });
  });
});

describe('a rule that too few are left for', () => {
  it('is met by as many as the controller says, and by no more than can still respond', () => {
    const run = sentRun(
      route(
        stage('z', 'read', ['noor']),
        stage('a', 'review', ['every:rescue', 'petra'], { rule: { kind: 'atLeast', k: 3 } }),
      ),
    );
    expect(put(run, { type: 'setEnough', stage: 'a', k: 1 })).toBe('not-stuck');
    // A group of which every member would have been asked is given to one person: two are left for three.
    reassign(run, 'a-every', 'oskar');
    decide(run, 'z-noor', 'noor', 'confirmed');
    expect(stageOf(run, 'a').stuck).toBe(true);
    expect(tasksOf(state(run)).some((task) => task.doing === 'resolveStop' && task.stage === 'a')).toBe(true);
    expect(
      offers(state(run), contextOf(run.now, controller)).find(({ act, on }) => act === 'setEnough' && on === 'a')
        ?.refusal,
    ).toBe(null);
    const enough = (k: number, by = controller) => put(run, { type: 'setEnough', stage: 'a', k }, by);
    expect([enough(0), enough(3), enough(1.5), enough(2, 'petra')]).toEqual([
      'enough-unfit',
      'enough-unfit',
      'enough-unfit',
      'not-controller',
    ]);
    expect(enough(2)).toBe('ok');
    expect(stageOf(run, 'a').stuck).toBe(false);
    decide(run, 'a-every', 'oskar', 'done');
    expect(stageOf(run, 'a').status).toBe('open');
    decide(run, 'a-petra', 'petra', 'done');
    expect(stageOf(run, 'a').status).toBe('done');
  });
});

describe('a pause', () => {
  const pause = { type: 'pause', note: null } as const;
  const goOn = { type: 'goOn' } as const;

  it('stops the clocks of seats: nobody responds, is asked, reminded or missed, and times are put off by its length', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar'], { due: start + day, closes: start + 2 * day }),
        stage('b', 'read', ['noor'], { due: start + 5 * day }),
      ),
    );
    expect(put(run, goOn)).toBe('not-paused');
    expect(put(run, pause, 'petra')).toBe('not-controller');
    expect(put(run, pause)).toBe('ok');
    expect(put(run, pause)).toBe('paused-already');
    const since = state(run).paused ?? 0;
    expect(timersOf(state(run))).toEqual([]);
    expect(tasksOf(state(run))).toMatchObject([{ person: controller, doing: 'goOn', since }]);
    put(run, { type: 'wake' }, 'system', 3 * day);
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'a-oskar': 'asked' });
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('paused');
    expect(decide(run, 'a-petra', 'petra', 'declined')).toBe('paused');
    expect(put(run, { type: 'remind', seat: 'a-petra' })).toBe('paused');
    const file = state(run).versions[0]?.files[0]?.file ?? '';
    const say = (by: string) =>
      put(run, { type: 'comment', comment: by, thread: null, file, spot: null, note: 'w' }, by);
    expect([say('petra'), say('rufus'), say(controller)]).toEqual(['paused', 'ok', 'ok']);
    // Whoever gets a seat meanwhile is asked when it goes on.
    const given = run.now + 9 * day;
    expect(reassign(run, 'a-oskar', 'yuki', { due: given, closes: given })).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-oskar': 'idle' });
    expect(put(run, goOn)).toBe('ok');
    const still = run.now - since;
    expect(seatOf(run, 'a-oskar').due).toBe(given + still);
    expect(seatOf(run, 'a-petra')).toMatchObject({ due: start + day + still, closes: start + 2 * day + still });
    expect(stageOf(run, 'b').due).toEqual({ kind: 'instant', at: start + 5 * day + still });
    expect(statuses(run)).toMatchObject({ 'a-oskar': 'asked' });
    expect(holdersOf(run, 'a-oskar')).toEqual(['yuki']);
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(state(run)).toMatchObject({ paused: null, still: null });
  });

  it('puts times off once by all the time it or the closing of the whole stood in the way', () => {
    const whole = { due: null, closes: { kind: 'instant', at: start + 4 * day } } as const;
    const run = sentRun(route(stage('a', 'review', ['petra'], { due: start + 3 * day })), 1, false, whole);
    put(run, pause, controller, start + 2 * day - run.now);
    const since = run.now;
    put(run, { type: 'wake' }, 'system', 3 * day);
    expect(state(run).closed).toBe(start + 4 * day);
    expect(put(run, goOn)).toBe('closed');
    expect(put(run, { type: 'extendWhole', due: null, closes: start + 30 * day })).toBe('ok');
    expect(seatOf(run, 'a-petra').due).toBe(start + 3 * day);
    expect(state(run)).toMatchObject({ closed: null, paused: since });
    expect(put(run, goOn, controller, day)).toBe('ok');
    expect(seatOf(run, 'a-petra').due).toBe(start + 3 * day + run.now - since);
  });

  it('stays over rework, and asks the next round when it goes on, counting from there', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { due: start + 9 * day }), stage('b', 'read', ['noor'])));
    put(run, pause);
    attach(run, 2);
    expect(state(run)).toMatchObject({ phase: 'rework' });
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'idle' });
    const since = run.now;
    expect(put(run, goOn, controller, day)).toBe('ok');
    expect(seatOf(run, 'a-petra')).toMatchObject({ status: 'asked', due: start + 9 * day + run.now - since });
  });

  it('holds back what would ask somebody: asking again, agreeing, more time for a seat that is missed', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar', 'yuki'], {
          closes: start + day,
          allows: { delegate: 'agreed' },
          rule: { kind: 'atLeast', k: 2 },
        }),
      ),
    );
    put(run, { type: 'delegate', seat: 'a-yuki', epoch: 1, to: 'noor', note: null }, 'yuki');
    decide(run, 'a-oskar', 'oskar', 'declined');
    put(run, pause);
    expect(put(run, { type: 'agree', seat: 'a-yuki', epoch: 1, agreed: true, note: null })).toBe('paused');
    expect(put(run, { type: 'askAgain', seat: 'a-oskar', due: null, closes: null })).toBe('paused');
    expect(put(run, { type: 'extend', seat: 'a-petra', due: null, closes: start + 9 * day })).toBe('ok');
    put(run, goOn);
    put(run, { type: 'wake' }, 'system', 20 * day);
    expect(statuses(run)).toMatchObject({ 'a-petra': 'missed' });
    put(run, pause);
    expect(put(run, { type: 'extend', seat: 'a-petra', due: null, closes: null })).toBe('paused');
  });
});

describe('control', () => {
  const hand = (to: string) => ({ type: 'handControl', to, note: null }) as const;

  it('is handed to another member, who steers it from then on, also while it is closed or being sealed', () => {
    const whole = { due: null, closes: { kind: 'instant', at: start + day } } as const;
    const run = sentRun(route(stage('a', 'review', ['petra'])), 1, false, whole);
    expect(put(run, hand('oskar'), 'oskar')).toBe('not-controller');
    expect(put(run, hand(controller))).toBe('same-person');
    expect(put(run, hand('lotte'))).toBe('unknown-person');
    expect(put(run, hand('nobody'))).toBe('unknown-person');
    expect(put(run, hand('oskar'))).toBe('ok');
    expect(put(run, hand('yuki'))).toBe('not-controller');
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(put(run, hand('yuki'), 'oskar')).toBe('ok');
    expect(tasksOf(state(run))).toMatchObject([{ person: 'yuki', doing: 'resolveStop' }]);
    // Whoever handed it on keeps seeing it.
    expect(involvedIn(state(run))).toEqual(expect.arrayContaining([controller, 'oskar', 'yuki']));
    put(run, { type: 'extendWhole', due: null, closes: null }, 'yuki');
    decide(run, 'a-petra', 'petra', 'done');
    expect(state(run).phase).toBe('finishing');
    expect(put(run, hand(controller), 'yuki')).toBe('ok');
    put(run, { type: 'keepFinals', files: [], identifier: 'x' }, 'system');
    expect(tasksOf(state(run))).toMatchObject([{ person: controller, doing: 'release' }]);
  });
});

describe('a question', () => {
  const ask = (run: Parameters<typeof put>[0], question: string, by = 'petra', forward = 1000) =>
    put(run, { type: 'askQuestion', question, seat: 'a-petra', epoch: 1, note: 'why' }, by, forward);
  const answer = (run: Parameters<typeof put>[0], question: string, by = controller, forward = 1000) =>
    put(run, { type: 'answerQuestion', question, note: 'so' }, by, forward);
  const due = start + 2 * day;
  const two = (more: Parameters<typeof stage>[3] = {}) =>
    sentRun(route(stage('a', 'review', ['petra', 'oskar'], { due, closes: start + 9 * day, ...more })));

  it('is asked by whoever is asked, answered once by the controller or the author, and holds nobody up', () => {
    const run = two();
    expect(ask(run, 'q1', 'oskar')).toBe('not-holder');
    expect(ask(run, 'q1')).toBe('ok');
    expect(ask(run, 'q1')).toBe('no-effect');
    const answers = tasksOf(state(run)).filter(({ doing }) => doing === 'answer');
    expect(answers.map(({ person, about, seat }) => [person, about, seat])).toEqual([
      [controller, 'petra', 'a-petra'],
      ['rufus', 'petra', 'a-petra'],
    ]);
    expect(answer(run, 'none')).toBe('no-such-question');
    expect(answer(run, 'q1', 'oskar')).toBe('not-author');
    expect(answer(run, 'q1', 'rufus')).toBe('ok');
    expect(answer(run, 'q1')).toBe('answered-already');
    expect(state(run).questions.get('q1')).toMatchObject({
      by: 'petra',
      note: 'why',
      answer: { by: 'rufus', note: 'so' },
    });
    ask(run, 'q2');
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    // Whoever has responded waits for nothing any more.
    expect(tasksOf(state(run)).some(({ doing }) => doing === 'answer')).toBe(false);
    expect(answer(run, 'q2')).toBe('seat-not-asked');
    const gone = two();
    ask(gone, 'q1');
    put(gone, { type: 'withdraw', note: 'no longer needed' });
    expect(tasksOf(state(gone))).toEqual([]);
  });

  it('lets the due wait for its answer, once, by rule; never the closing', () => {
    const run = two();
    ask(run, 'q1', 'petra', day);
    const since = run.now;
    expect(seatOf(run, 'a-petra')).toMatchObject({ asking: since, waited: true, due });
    const dueFor = (person: string) => tasksOf(state(run)).find((task) => task.person === person)?.due;
    expect([dueFor('petra'), dueFor('oskar')]).toEqual([null, due]);
    ask(run, 'q2', 'petra', day);
    answer(run, 'q1', controller, day);
    expect(seatOf(run, 'a-petra').asking).toBe(since);
    answer(run, 'q2', controller, day);
    const moved = due + run.now - since;
    expect(seatOf(run, 'a-petra')).toMatchObject({ asking: null, due: moved, closes: start + 9 * day });
    ask(run, 'q3');
    expect(seatOf(run, 'a-petra')).toMatchObject({ asking: null, due: moved });
    // Without the rule nothing waits.
    const other = two();
    const context = { ...contextOf(other.now, 'petra'), rules: { authorApproves: false, questionsWait: false } };
    const told = engine(
      state(other),
      { type: 'askQuestion', question: 'q', seat: 'a-petra', epoch: 1, note: 'why' },
      context,
    );
    expect(told.ok && told.state.seats.get('a-petra')?.asking).toBe(null);
  });

  it('is not counted twice with a pause, ends with a new time, and never passes a closing time', () => {
    const run = two();
    ask(run, 'q1');
    const since = run.now;
    put(run, { type: 'pause', note: null }, controller, day);
    const paused = run.now;
    expect(answer(run, 'q1', controller, day)).toBe('ok');
    expect(seatOf(run, 'a-petra').due).toBe(due + paused - since);
    put(run, { type: 'goOn' }, controller, day);
    expect(seatOf(run, 'a-petra').due).toBe(due + run.now - since);
    const open = two();
    ask(open, 'q1');
    put(open, { type: 'pause', note: null }, controller, day);
    put(open, { type: 'goOn' }, controller, day);
    expect(seatOf(open, 'a-petra').due).toBe(due);
    put(open, { type: 'extend', seat: 'a-petra', due: start + 8 * day, closes: start + 9 * day });
    expect(seatOf(open, 'a-petra')).toMatchObject({ asking: null, due: start + 8 * day });
    const late = two({ closes: start + 3 * day });
    ask(late, 'q1');
    answer(late, 'q1', controller, 2 * day);
    expect(seatOf(late, 'a-petra').due).toBe(start + 3 * day);
  });
});

describe('a wrong address', () => {
  const correct = (seat: string, to: string) => ({ type: 'correctAddress', seat, to, note: 'a -> b' }) as const;

  it('is corrected on the same seat: the old link dies, nobody is barred, and what had been opened is told', () => {
    const run = sentRun(route(stage('a', 'review', ['lotte', 'oskar'], { earliest: wait('asked', 1) })));
    expect(put(run, correct('a-lotte', 'jarek'), 'oskar')).toBe('not-controller');
    expect(put(run, correct('a-oskar', 'jarek'))).toBe('not-outside');
    expect(put(run, correct('a-lotte', 'noor'))).toBe('unknown-person');
    expect(put(run, correct('a-lotte', 'lotte'))).toBe('same-person');
    expect(see(run, 'a-lotte', 'lotte')).toBe('ok');
    const opened = run.now;
    put(run, { type: 'remind', seat: 'a-lotte' });
    expect(put(run, correct('a-lotte', 'jarek'), controller, day)).toBe('ok');
    expect(run.events.at(-1)).toMatchObject({ data: { from: 'lotte', to: 'jarek', epoch: 2, opened } });
    expect(seatOf(run, 'a-lotte')).toMatchObject({ epoch: 2, barred: [], reminded: [] });
    expect(seenOf(state(run), seatOf(run, 'a-lotte'))).toBeNull();
    expect(holdersOf(run, 'a-lotte')).toEqual(['jarek']);
    // Their time to wait begins when they are reached.
    expect(decide(run, 'a-lotte', 'jarek', 'done')).toBe('too-early');
    expect(put(run, correct('a-lotte', 'lotte'))).toBe('ok');
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(decide(run, 'a-lotte', 'lotte', 'done')).toBe('ok');
    expect(put(run, correct('a-lotte', 'jarek'))).toBe('already-decided');
  });
});
