import { describe, expect, it } from 'vitest';
import {
  contextOf,
  fieldsFor,
  hash,
  hour,
  type Run,
  sentRun,
  start,
  step,
} from '../../../../test/properties/arbitrary';
import {
  acting,
  amend,
  attach,
  decide,
  fork,
  freeze,
  nextRound,
  over,
  put,
  reasons,
  reassign,
  route,
  seatOf,
  stage,
  stageOf,
  state,
  statuses,
  until,
} from '../../../../test/properties/scene';
import type { RouteEdit } from '../../route/edit';
import { type Earliest, freshSeat, type Series, type Time } from '../../route/route';
import { scopeOf, stopsOf } from '../run/state';
import { waitsUntil } from '../run/times';
import { timersOf } from '../telling/tasks';

// What a second engine, written from the rules alone, found the first one to do otherwise: an example of each.

const day = 24 * hour;
const days = (amount: number): Time => ({ kind: 'after', unit: 'days', amount });
const wait = (from: Extract<Earliest, { kind: 'wait' }>['from'], amount: number, again = false): Earliest => ({
  kind: 'wait',
  from,
  amount,
  unit: 'days',
  again,
});
const see = (run: Run, seat: string, person: string) =>
  put(
    run,
    { type: 'see', seat, epoch: seatOf(run, seat).epoch, scope: scopeOf(state(run), seatOf(run, seat)) ?? '' },
    person,
  );
const waits = (run: Run, seat: string, person: string) =>
  waitsUntil(state(run), seatOf(run, seat), person, contextOf(run.now, person));

describe('a seat that is reassigned', () => {
  const closes = start + 30 * day;

  it('before it is asked keeps the times of its stage, and what it was given before', () => {
    const later = { ...stage('b', 'approve', ['oskar'], { closes }), due: days(3) };
    const run = sentRun(route(stage('a', 'review', ['petra']), later));
    expect(reassign(run, 'b-oskar', 'noor')).toBe('ok');
    decide(run, 'a-petra', 'petra', 'done');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ status: 'asked', closes, due: run.now + 3 * day });
    const given = sentRun(route(stage('a', 'review', ['petra']), later));
    expect(reassign(given, 'b-oskar', 'noor', { closes: closes - day })).toBe('ok');
    expect(reassign(given, 'b-oskar', 'yuki')).toBe('ok');
    decide(given, 'a-petra', 'petra', 'done');
    expect(seatOf(given, 'b-oskar')).toMatchObject({ closes: closes - day, due: given.now + 3 * day });
  });

  it('in rework keeps them, too', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki'], { closes })));
    decide(run, 'a-petra', 'petra', 'returned');
    expect(reassign(run, 'a-yuki', 'noor')).toBe('ok');
    expect(nextRound(run)).toBe('ok');
    expect(seatOf(run, 'a-yuki')).toMatchObject({ status: 'asked', closes });
  });

  it('while its return is gathered leaves the return standing: nothing goes on to the next stage', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'yuki'], { onReturn: 'gather' }), stage('b', 'approve', ['oskar'])),
    );
    decide(run, 'a-petra', 'petra', 'returned');
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'returned', 'a-yuki': 'asked', 'b-oskar': 'idle' });
    decide(run, 'a-yuki', 'yuki', 'done');
    expect(state(run).phase).toBe('rework');
    expect(reasons(run)['a-petra']).toBe('returned');
    expect(nextRound(run)).toBe('ok');
    expect(acting(run, 'a-petra')).toEqual(['noor']);
  });

  it('is refused, like second holders and another address, where its stage is skipped or over', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'lotte']),
        stage('b', 'review', ['oskar', 'jarek'], { condition: over(900_000_000) }),
        stage('c', 'approve', ['benedikt']),
      ),
    );
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'fenna' });
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-lotte', 'lotte', 'done');
    expect(stageOf(run, 'b').gone).toBe('skipped');
    for (const seat of ['a-petra', 'b-oskar']) {
      expect(reassign(run, seat, 'noor'), seat).toBe('stage-over');
      expect(put(run, { type: 'addSecondHolder', seat, person: 'caspian' }), seat).toBe('stage-over');
      expect(put(run, { type: 'dropSecondHolder', seat, person: 'fenna' }), seat).toBe('stage-over');
    }
    for (const [seat, to] of [
      ['a-lotte', 'jarek'],
      ['b-jarek', 'lotte'],
    ] as const)
      expect(put(run, { type: 'correctAddress', seat, to, note: 'w' }), seat).toBe('stage-over');
    // In rework nothing is over: a next round may come to it.
    attach(run, 2);
    expect(put(run, { type: 'addSecondHolder', seat: 'b-oskar', person: 'caspian' })).toBe('ok');
  });
});

describe('a person counts once in a stage', () => {
  it('also where a second holder has responded for them, so that no later round asks one person twice', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' });
    expect(decide(run, 'a-petra', 'noor', 'approved')).toBe('ok');
    expect(reassign(run, 'a-oskar', 'petra')).toBe('in-stage-already');
    expect(put(run, { type: 'addSecondHolder', seat: 'a-oskar', person: 'petra' })).toBe('in-stage-already');
  });

  it('also where they have come to a seat since, and an amendment would give them another one', () => {
    const planned = () => sentRun(route(stage('a', 'review', ['petra', 'group:rescue']), stage('b', 'read', ['yuki'])));
    const seatFor = (person: string): RouteEdit => ({
      do: 'addSeat',
      stage: 'a',
      seat: freshSeat('x', { kind: 'person', person }),
    });
    for (const [person, come] of [
      ['oskar', (run: Run) => reassign(run, 'a-petra', 'oskar')],
      ['oskar', (run: Run) => put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'oskar' })],
      [
        'dalia',
        (run: Run) => put(run, { type: 'take', seat: 'a-group', epoch: seatOf(run, 'a-group').epoch }, 'dalia'),
      ],
    ] as const) {
      const run = planned();
      expect(come(run)).toBe('ok');
      expect(amend(run, [seatFor(person)])).toBe('in-stage-already');
      expect(amend(run, [seatFor('noor')])).toBe('ok');
    }
    // Elsewhere they may be asked, but not be moved to where they stand already.
    const run = planned();
    expect(reassign(run, 'a-petra', 'yuki')).toBe('ok');
    expect(amend(run, [{ do: 'addSeat', stage: 'b', seat: freshSeat('x', { kind: 'person', person: 'noor' }) }])).toBe(
      'ok',
    );
    expect(amend(run, [{ do: 'moveSeat', seat: 'b-yuki', to: { stage: 'a', at: 0 } }])).toBe('in-stage-already');
  });
});

describe('a seat that is asked again', () => {
  it('asks whoever covers as well, though it was they who declined', () => {
    const run = sentRun(route(stage('a', 'review', ['oskar'], { earliest: wait('asked', 3) })));
    until(run, start + 3 * day);
    expect(decide(run, 'a-oskar', 'caspian', 'declined')).toBe('ok');
    expect(put(run, { type: 'askAgain', seat: 'a-oskar', due: null, closes: null })).toBe('ok');
    expect(acting(run, 'a-oskar')).toEqual(['oskar', 'caspian']);
    expect(run.events.findLast(({ type }) => type === 'seat.askedAgain')).toMatchObject({
      data: { to: ['oskar', 'caspian'] },
    });
    expect(seatOf(run, 'a-oskar').waits.map(({ person }) => person)).toContain('caspian');
  });
});

describe('what somebody has opened', () => {
  it('stays opened where an amendment puts their seat elsewhere', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'oskar']), stage('b', 'review', ['yuki'], { earliest: wait('opened', 2) })),
    );
    expect(see(run, 'a-oskar', 'oskar')).toBe('ok');
    const opened = run.now;
    expect(amend(run, [{ do: 'moveSeat', seat: 'a-oskar', to: { stage: 'b', at: 0 } }])).toBe('ok');
    until(run, start + day);
    decide(run, 'a-petra', 'petra', 'done');
    expect(waits(run, 'a-oskar', 'oskar')).toBe(opened + 2 * day);
  });
});

describe('a stage in which somebody cannot be asked', () => {
  it('waits for a new time, but not while a return is gathered: nobody new is asked then', () => {
    const gathering = stage('a', 'review', ['petra', 'noor', 'oskar'], { onReturn: 'gather' });
    const closed = { kind: 'instant', at: start + hour } as const;
    const seats = gathering.seats.map((seat, i) => (i === 2 ? { ...seat, closes: closed } : seat));
    const run = sentRun(route(stage('first', 'read', ['yuki']), { ...gathering, seats }));
    until(run, start + 2 * hour);
    decide(run, 'first-yuki', 'yuki', 'confirmed');
    expect(stageOf(run, 'a').held).toBe('time');
    expect(decide(run, 'a-petra', 'petra', 'returned')).toBe('ok');
    expect(stageOf(run, 'a').held).toBeNull();
    expect(stopsOf(state(run)).map(({ kind }) => kind)).not.toContain('time');
  });
});

describe('time that stood still', () => {
  it('puts off who is not asked yet, one by one, and times planned for a single seat', () => {
    const due = start + 10 * day;
    const one = stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', due, closes: due + day });
    const two = stage('b', 'approve', ['benedikt', 'yuki'], { due });
    const own: Series = route(one, {
      ...two,
      seats: two.seats.map((seat, i) => (i === 0 ? { ...seat, due: { kind: 'instant', at: due + 2 * day } } : seat)),
    });
    for (const [stop, goOn] of [
      [{ type: 'pause', note: null }, { type: 'goOn' }],
      [null, { type: 'extendWhole', due: null, closes: null }],
    ] as const) {
      const run = stop
        ? sentRun(own)
        : sentRun(own, 1, false, { due: null, closes: { kind: 'instant', at: start + 4 * hour } });
      if (stop) put(run, stop, 'ines', 4 * hour - (run.now - start));
      else until(run, start + 4 * hour);
      put(run, goOn, 'ines', 3 * day);
      decide(run, 'a-petra', 'petra', 'done');
      expect(seatOf(run, 'a-oskar')).toMatchObject({ due: due + 3 * day, closes: due + 4 * day });
      decide(run, 'a-oskar', 'oskar', 'done');
      expect(seatOf(run, 'b-benedikt').due).toBe(due + 5 * day);
      expect(seatOf(run, 'b-yuki').due).toBe(due + 3 * day);
    }
  });

  it('gives back no task that was taken, by hand or by itself, until it goes on', () => {
    const run = sentRun(route(stage('a', 'review', ['group:rescue'])));
    const seat = { seat: 'a-group', epoch: 1 };
    put(run, { type: 'take', ...seat }, 'fenna');
    put(run, { type: 'pause', note: null });
    expect(put(run, { type: 'giveBack', ...seat }, 'fenna')).toBe('paused');
    expect(put(run, { type: 'giveBack', ...seat })).toBe('paused');
    // Fenna leaves the group meanwhile: when it goes on, the task is the group's.
    until(run, start + 6 * day);
    expect(seatOf(run, 'a-group').holders).toMatchObject([{ person: 'fenna', via: 'taken' }]);
    put(run, { type: 'goOn' });
    expect(seatOf(run, 'a-group').holders).toEqual([]);
  });
});

describe('time to think', () => {
  it('belongs to the person and the text: what was opened or sent in one seat counts in another', () => {
    for (const from of ['opened', 'asked'] as const) {
      const run = sentRun(
        route(stage('a', 'review', ['dalia']), stage('b', 'approve', ['dalia'], { earliest: wait(from, 3) })),
      );
      const sent = run.now;
      see(run, 'a-dalia', 'dalia');
      const opened = run.now;
      put(run, { type: 'wake' }, 'system', 2 * day);
      decide(run, 'a-dalia', 'dalia', 'done');
      expect(waits(run, 'b-dalia', 'dalia'), from).toBe((from === 'opened' ? opened : sent) + 3 * day);
    }
  });

  it('is counted for each of several people, and begins again with other content where it is set so', () => {
    const run = sentRun(route(stage('a', 'approve', ['benedikt'], { earliest: wait('opened', 2, true) })));
    put(run, { type: 'addSecondHolder', seat: 'a-benedikt', person: 'fenna' });
    expect(see(run, 'a-benedikt', 'benedikt')).toBe('ok');
    expect(see(run, 'a-benedikt', 'benedikt')).toBe('no-effect');
    expect(waits(run, 'a-benedikt', 'fenna')).toBe('opened');
    expect(see(run, 'a-benedikt', 'fenna')).toBe('ok');
    expect(waits(run, 'a-benedikt', 'benedikt')).toBe((waits(run, 'a-benedikt', 'fenna') as number) - 2000);
  });
});

describe('a due time', () => {
  const earliest: Earliest = { kind: 'date', at: start + 8 * day };

  it('never lies before the first of those who may act may respond, group or person', () => {
    for (const person of ['group:rescue', 'petra']) {
      const run = sentRun(route(stage('a', 'review', [person], { earliest, due: start + 2 * day })));
      expect(seatOf(run, person === 'petra' ? 'a-petra' : 'a-group').due).toBe(start + 8 * day);
    }
    const counted = sentRun(route({ ...stage('a', 'review', ['group:rescue'], { earliest }), due: days(2) }));
    expect(seatOf(counted, 'a-group').due).toBe(start + 10 * day);
  });

  it('moves with whoever gets the seat: delegated, taken, reassigned, extended or asked again', () => {
    const planned = () => ({
      ...stage('a', 'review', ['dalia'], { earliest: wait('asked', 4), allows: { delegate: 'freely' } }),
      due: days(1),
    });
    const run = sentRun(route(planned()));
    expect(seatOf(run, 'a-dalia').due).toBe(start + 5 * day);
    put(run, { type: 'wake' }, 'system', 3 * day);
    put(run, { type: 'delegate', seat: 'a-dalia', epoch: 1, to: 'benedikt', note: null }, 'dalia');
    expect(seatOf(run, 'a-dalia').due).toBe(run.now + 5 * day);
    expect(reassign(run, 'a-dalia', 'caspian', { due: run.now + day })).toBe('ok');
    expect(seatOf(run, 'a-dalia').due).toBe(run.now + 5 * day);
    const asked = run.now;
    expect(put(run, { type: 'extend', seat: 'a-dalia', due: run.now + day, closes: null })).toBe('ok');
    expect(seatOf(run, 'a-dalia').due).toBe(asked + 5 * day);
    decide(run, 'a-dalia', 'caspian', 'declined');
    expect(put(run, { type: 'askAgain', seat: 'a-dalia', due: run.now + day, closes: null })).toBe('ok');
    expect(seatOf(run, 'a-dalia').due).toBe(asked + 5 * day);
  });

  it('is no ground for a reminder by hand while everybody has to wait', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { earliest })));
    expect(put(run, { type: 'remind', seat: 'a-petra' })).toBe('waits-still');
    expect(put(run, { type: 'remind', seat: 'a-petra' }, 'ines', 8 * day)).toBe('ok');
    // Whoever only has to open it can do something.
    const open = sentRun(route(stage('a', 'review', ['benedikt'], { earliest: wait('opened', 2) })));
    expect(put(open, { type: 'remind', seat: 'a-benedikt' })).toBe('ok');
  });
});

describe('a next round', () => {
  it('demands times only of stages that it can reach', () => {
    const closes = start + hour;
    const make = (...rest: Parameters<typeof route>) => {
      const run = sentRun(route(stage('a', 'review', ['petra'], { closes }), ...rest));
      decide(run, 'a-petra', 'petra', 'done');
      run.now = start + 2 * hour;
      attach(run, 2, 1);
      return run;
    };
    // What kept responses satisfy.
    expect(nextRound(make(stage('b', 'approve', ['oskar'])))).toBe('ok');
    // What a condition skips, and not what depends on how something ends.
    const never = { closes, condition: over(900_000_000) };
    expect(nextRound(make(stage('b', 'approve', ['oskar'], never), stage('c', 'read', ['fenna'])))).toBe('ok');
    const perhaps = {
      closes,
      condition: { kind: 'not', of: { kind: 'outcome', stage: 'a', outcome: 'missed' } },
    } as const;
    expect(nextRound(make(stage('b', 'approve', ['oskar'], perhaps)))).toBe('times-needed');
    // What a join passes by, because kept responses are enough for it.
    const any = fork({ kind: 'any' }, [stage('x', 'review', ['yuki'])], [stage('y', 'review', ['noor'], { closes })]);
    const passed = sentRun(route(any, stage('z', 'read', ['fenna'])));
    decide(passed, 'x-yuki', 'yuki', 'done');
    passed.now = start + 2 * hour;
    attach(passed, 2, 1);
    expect(nextRound(passed)).toBe('ok');
    expect(statuses(passed)).toMatchObject({ 'y-noor': 'idle', 'z-fenna': 'asked' });
  });

  it('takes no time from a seat that was given before its stage was timed anew', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    reassign(run, 'b-oskar', 'noor', { closes: start + hour });
    run.now = start + 2 * hour;
    attach(run, 2, 1);
    expect(nextRound(run)).toBe('times-needed');
    expect(nextRound(run, { times: [{ stage: 'b', due: null, closes: null }] })).toBe('ok');
    decide(run, 'a-petra', 'petra', 'done');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ status: 'asked', closes: null });
  });

  it('asks again for what a signature was given on and other bytes have ended, though they are back', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt']), stage('b', 'read', ['fenna'])));
    freeze(run);
    decide(run, 'a-benedikt', 'benedikt', 'signed');
    attach(run, 2, 1);
    expect(reasons(run)['a-benedikt']).toBe('kept');
    attach(run, 3, 3);
    attach(run, 4, 1);
    // Even with the very same frozen bytes.
    expect(nextRound(run)).toBe('ok');
    put(run, { type: 'putFields', file: 'f1', content: hash(1), fields: fieldsFor(state(run), 'f1') });
    freeze(run);
    expect(statuses(run)['a-benedikt']).toBe('asked');
    attach(run, 5, 1);
    expect(reasons(run)['a-benedikt']).toBe('open');
  });
});

describe('what the controller is told of', () => {
  it('is no new time any more once the seat has one of its own, or another is asked again', () => {
    const closes = start + 2 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', closes })));
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: closes + day });
    run.now = start + 3 * hour;
    decide(run, 'a-petra', 'petra', 'done');
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'time', stage: 'a' }]);
    expect(reassign(run, 'a-oskar', 'noor', { closes: closes + 2 * day })).toBe('ok');
    expect(seatOf(run, 'a-oskar').status).toBe('asked');
    expect(stageOf(run, 'a').held).toBeNull();
    expect(stopsOf(state(run))).toEqual([]);
    expect(put(run, { type: 'setTimes', stage: 'a', due: null, closes: null })).toBe('not-held');
  });

  it('is not that a rule is out of reach while a return is gathered, and is again if that ends otherwise', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'oskar', 'yuki'], { onReturn: 'gather', onDecline: 'count' })),
    );
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'declined', seat: 'a-petra' }]);
    decide(run, 'a-oskar', 'oskar', 'returned');
    expect(stopsOf(state(run))).toEqual([]);
    expect(stageOf(run, 'a').stuck).toBe(false);
    expect(put(run, { type: 'setEnough', stage: 'a', k: 1 })).toBe('not-stuck');
  });
});

describe('an amendment', () => {
  it('removes the undecided one of two branches, and the other one stays where it is', () => {
    const make = () =>
      sentRun(
        route(
          fork({ kind: 'all' }, [stage('x', 'review', ['yuki'])], [stage('y', 'review', ['noor'])]),
          stage('z', 'read', ['fenna']),
        ),
      );
    const run = make();
    expect(amend(run, [{ do: 'remove', part: 'branch-1' }])).toBe('amend-reached');
    const only = {
      ...state(run).plan,
      parts: state(run).plan.parts.map((part) =>
        part.kind === 'parallel' ? { ...part, branches: part.branches.slice(0, 1) } : part,
      ),
    };
    expect(amend(run, [], { plan: only })).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'x-yuki': 'asked', 'y-noor': 'released' });
    decide(run, 'x-yuki', 'yuki', 'done');
    expect(statuses(run)['z-fenna']).toBe('asked');
    // Removing the one that is waited for ends the fork.
    const other = make();
    decide(other, 'x-yuki', 'yuki', 'done');
    expect(amend(other, [], { plan: only })).toBe('ok');
    expect(statuses(other)['z-fenna']).toBe('asked');
    // Somebody has responded in the first: that one stays.
    const decided = make();
    decide(decided, 'x-yuki', 'yuki', 'done');
    const second = {
      ...only,
      parts: only.parts.map((part) =>
        part.kind === 'parallel'
          ? { ...part, branches: (state(decided).plan.parts[0] as typeof part).branches.slice(1) }
          : part,
      ),
    };
    expect(amend(decided, [], { plan: second })).toBe('amend-decided');
  });

  it('keeps who fills a role of a seat that stands elsewhere now', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['yuki']),
        stage('b', 'review', ['role:safety', 'noor']),
        stage('c', 'approve', ['oskar']),
      ),
    );
    expect(amend(run, [{ do: 'moveSeat', seat: 'b-role', to: { stage: 'c', at: 0 } }])).toBe('ok');
    expect(acting(run, 'b-role')).toEqual(['petra']);
  });
});

it('is put by nobody in a circulation that has ended', () => {
  const run = sentRun(route(stage('a', 'read', ['fenna'])));
  put(run, { type: 'withdraw', note: 'w' });
  expect(step(run, { type: 'goOn' }, 'ines').ok).toBe(false);
});

it('tells whoever had to wait that they may respond when their seat is extended after both have passed', () => {
  const run = sentRun(route(stage('a', 'review', ['dalia'], { earliest: wait('opened', 2), closes: start + day })));
  see(run, 'a-dalia', 'dalia');
  until(run, start + 3 * day);
  expect(statuses(run)['a-dalia']).toBe('missed');
  put(run, { type: 'extend', seat: 'a-dalia', due: null, closes: null });
  expect(run.events.slice(-2).map(({ type }) => type)).toContain('seat.freed');
  expect(timersOf(state(run)).filter(({ at }) => at <= run.now)).toEqual([]);
});

describe('a unit', () => {
  const asking = (id: string, members: 'any' | 'every' | 'lead') =>
    freshSeat(id, { kind: 'unit', unit: 'wards', members });
  const reviewed = (...seats: ReturnType<typeof asking>[]) => ({ ...stage('a', 'review', []), seats });

  it('is asked like a group, each once, and by whoever leads it like a role', () => {
    const run = sentRun(route(reviewed(asking('any', 'any'), freshSeat('yuki', { kind: 'person', person: 'yuki' }))));
    expect(acting(run, 'any')).toEqual(['oskar', 'petra']);
    expect(decide(run, 'any', 'petra', 'done')).toBe('ok');
    const each = sentRun(route(reviewed(asking('every', 'every'))));
    expect(statuses(each)).toMatchObject({ every__1: 'asked', every__2: 'asked' });
    const lead = sentRun(route(reviewed(asking('lead', 'lead'))));
    expect([acting(lead, 'lead'), seatOf(lead, 'lead').holders[0]?.via]).toEqual([['petra'], 'role']);
  });

  it('and a role may lead to somebody outside, who holds the seat as such but gets no copy', () => {
    const witness = freshSeat('w', { kind: 'role', role: 'witness' });
    const board = {
      kind: 'copies',
      id: 'k',
      to: [{ id: 'k1', assignment: witness.assignment }],
      hidden: false,
    } as const;
    const run = sentRun(route({ ...stage('a', 'review', []), seats: [witness] }, board));
    expect(seatOf(run, 'w').holders).toMatchObject([{ via: 'role', outside: true }]);
    expect(decide(run, 'w', seatOf(run, 'w').holders[0]?.person ?? '', 'done')).toBe('ok');
    expect(state(run).copies.get('k')?.to).toEqual([]);
  });
});
