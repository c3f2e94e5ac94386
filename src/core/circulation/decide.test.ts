import { describe, expect, it } from 'vitest';
import {
  author,
  controller,
  file,
  hour,
  type Run,
  sentRun,
  start,
  step,
  versionOf,
} from '../../../test/properties/arbitrary';
import type { Parallel, Route, Rule, Series, Stage, Verb } from '../route/route';
import type { Command } from './commands';
import type { Outcome } from './events';
import { type Circulation, currentScope, seatAt, stageNodes, stopsOf } from './state';
import { tasksOf } from './tasks';

const stage = (id: string, verb: Verb, people: readonly string[], more: Partial<Stage> = {}): Stage => ({
  kind: 'stage',
  id,
  verb,
  seats: people.map((person) => ({ id: `${id}-${person}`, who: { kind: 'person', person } })),
  order: 'together',
  rule: { kind: 'all' },
  due: null,
  closes: null,
  onDecline: 'stop',
  delegate: true,
  ...more,
});
const route = (...parts: Route[]): Series => ({ kind: 'series', id: 'root', parts });
const state = (run: Run) => run.state as Circulation;
const put = (run: Run, command: Command, actor: string, forward = 1000) => {
  const result = step(run, command, actor, forward);
  return result.ok ? 'ok' : result.refusal.code;
};
const decide = (
  run: Run,
  seat: string,
  person: string,
  outcome: Outcome,
  more: { epoch?: number; scope?: string; note?: string | null } = {},
) =>
  put(
    run,
    {
      type: 'decide',
      seat,
      epoch: more.epoch ?? seatAt(state(run), seat)?.epoch ?? 0,
      scope: more.scope ?? currentScope(state(run)) ?? '',
      outcome,
      note: more.note === undefined ? 'w' : more.note,
      filled: state(run)
        .fields.filter((field) => outcome === 'signed' && field.seat === seat)
        .map((field) => ({ field: field.id, value: file(7) })),
      evidence: null,
    },
    person,
  );
const statuses = (run: Run) => Object.fromEntries(state(run).seats.map((seat) => [seat.id, seat.status]));
const nextRound = (run: Run, keep: readonly string[] = []) => {
  expect(put(run, { type: 'proposeRound' }, controller)).toBe('ok');
  const { plan } = state(run);
  return put(
    run,
    {
      type: 'confirmRound',
      revision: plan?.revision ?? 0,
      version: plan?.version ?? 0,
      decisions: plan?.decisions ?? 0,
      keep: [...(plan?.lines.filter((line) => line.keep).map((line) => line.seat) ?? []), ...keep],
      times: [],
    },
    controller,
  );
};
const fieldsFor = (...seats: string[]): Command => ({
  type: 'putFields',
  file: file(1),
  fields: seats.map((seat) => ({
    id: `p-${seat}`,
    seat,
    kind: 'signature',
    page: 0,
    x: 0,
    y: 0,
    width: 100,
    height: 40,
    needed: true,
    label: '',
  })),
});

describe('deciding', () => {
  it('refuses strangers, old pages, old versions, missing reasons and outcomes of another verb', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'review', ['yuki'])));
    expect(decide(run, 'a-petra', 'oskar', 'approved')).toBe('not-holder');
    expect(decide(run, 'a-petra', 'petra', 'approved', { epoch: 0 })).toBe('stale-seat');
    expect(decide(run, 'a-petra', 'petra', 'approved', { scope: file(9) })).toBe('stale-version');
    expect(decide(run, 'a-petra', 'petra', 'declined', { note: null })).toBe('reason-missing');
    expect(decide(run, 'a-petra', 'petra', 'signed')).toBe('wrong-outcome');
    expect(decide(run, 'b-yuki', 'yuki', 'done')).toBe('seat-not-asked');
    expect(decide(run, 'nobody', 'yuki', 'done')).toBe('no-such-seat');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('already-decided');
  });

  it('lets either of two holders act, and shows on whose behalf', () => {
    const run = sentRun(route(stage('a', 'approve', ['oskar'])));
    expect(put(run, { type: 'addSecondHolder', seat: 'a-oskar', person: 'caspian' }, controller)).toBe('ok');
    expect(put(run, { type: 'addSecondHolder', seat: 'a-oskar', person: author }, controller)).toBe('author-decides');
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(state(run).decisions[0]).toMatchObject({ by: 'caspian', holder: 'oskar', onBehalfOf: 'oskar' });
    expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('already-decided');
  });

  it('releases the others when the rule is met, and asks one by one', () => {
    const any = sentRun(
      route(
        stage('a', 'approve', ['petra', 'oskar', 'yuki'], { rule: { kind: 'atLeast', k: 2 } }),
        stage('b', 'read', ['noor']),
      ),
    );
    decide(any, 'a-yuki', 'yuki', 'approved');
    expect(statuses(any)['b-noor']).toBe('idle');
    decide(any, 'a-petra', 'petra', 'approved');
    expect(statuses(any)).toEqual({
      'a-petra': 'decided',
      'a-oskar': 'released',
      'a-yuki': 'decided',
      'b-noor': 'asked',
    });
    const turn = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne' })));
    expect(statuses(turn)).toEqual({ 'a-petra': 'asked', 'a-oskar': 'idle' });
    decide(turn, 'a-petra', 'petra', 'done');
    expect(statuses(turn)['a-oskar']).toBe('asked');
  });

  it('waits for as many branches as the join asks for, and releases the rest', () => {
    const fork = (join: Rule): Parallel => ({
      kind: 'parallel',
      id: 'f',
      name: '',
      join,
      branches: ['yuki', 'petra', 'dalia'].map((person) => ({
        name: person,
        route: { kind: 'series', id: `b-${person}`, parts: [stage(person, 'review', [person])] },
      })),
    });
    for (const [join, after] of [
      [{ kind: 'any' }, 1],
      [{ kind: 'atLeast', k: 2 }, 2],
      [{ kind: 'all' }, 3],
    ] as const) {
      const run = sentRun(route(fork(join), stage('d', 'approve', ['benedikt'])));
      const people = ['yuki', 'petra', 'dalia'];
      people.slice(0, after).forEach((person, i) => {
        expect(seatAt(state(run), 'd-benedikt')?.status, `${join.kind} after ${i}`).toBe('idle');
        expect(decide(run, `${person}-${person}`, person, 'done')).toBe('ok');
      });
      expect(seatAt(state(run), 'd-benedikt')?.status, join.kind).toBe('asked');
      for (const person of people.slice(after))
        expect(seatAt(state(run), `${person}-${person}`)?.status).toBe('released');
    }
  });

  it('joins branches by any, and passes by what is no longer needed', () => {
    const fork: Parallel = {
      kind: 'parallel',
      id: 'f',
      name: '',
      join: { kind: 'any' },
      branches: [
        {
          name: 'technical',
          route: { kind: 'series', id: 't', parts: [stage('a', 'review', ['yuki']), stage('b', 'approve', ['petra'])] },
        },
        { name: 'legal', route: { kind: 'series', id: 'l', parts: [stage('c', 'review', ['dalia'])] } },
      ],
    };
    const run = sentRun(route(fork, stage('d', 'approve', ['benedikt'])));
    expect(statuses(run)).toEqual({ 'a-yuki': 'asked', 'b-petra': 'idle', 'c-dalia': 'asked', 'd-benedikt': 'idle' });
    decide(run, 'c-dalia', 'dalia', 'done');
    expect(stageNodes(state(run)).map((node) => node.status)).toEqual(['released', 'released', 'done', 'open']);
    expect(statuses(run)['a-yuki']).toBe('released');
    expect(decide(run, 'a-yuki', 'yuki', 'done')).toBe('seat-not-asked');
  });
});

describe('declining', () => {
  it('stops for the controller without ending anything, and a new holder heals it', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'declined', seat: 'a-petra' }]);
    expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('ok');
    expect(
      put(
        run,
        {
          type: 'reassign',
          seat: 'a-petra',
          to: { kind: 'person', person: 'petra' },
          due: null,
          closes: null,
          note: null,
        },
        controller,
      ),
    ).toBe('same-person');
    expect(
      put(
        run,
        {
          type: 'reassign',
          seat: 'a-petra',
          to: { kind: 'person', person: 'yuki' },
          due: null,
          closes: null,
          note: null,
        },
        controller,
      ),
    ).toBe('ok');
    expect(stopsOf(state(run))).toEqual([]);
    expect(decide(run, 'a-petra', 'petra', 'approved', { epoch: 1 })).toBe('stale-seat');
    expect(decide(run, 'a-petra', 'yuki', 'approved')).toBe('ok');
    expect(state(run).phase).toBe('sealing');
  });

  it('only counts where that is the rule, until the rule is out of reach', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra', 'oskar', 'yuki'], { rule: { kind: 'atLeast', k: 2 }, onDecline: 'count' })),
    );
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stopsOf(state(run))).toEqual([]);
    decide(run, 'a-oskar', 'oskar', 'declined');
    expect(stopsOf(state(run)).length).toBe(2);
    expect(run.events.filter((event) => event.type === 'stage.stuck').length).toBe(1);
    expect(decide(run, 'a-yuki', 'yuki', 'approved')).toBe('ok');
    expect(run.events.filter((event) => event.type === 'stage.stuck').length).toBe(1);
  });
});

describe('returning', () => {
  it('suspends whoever is asked, keeps what was decided, and compares with what each saw', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'returned');
    expect(state(run).phase).toBe('rework');
    expect(statuses(run)['a-yuki']).toBe('suspended');
    expect(decide(run, 'a-yuki', 'yuki', 'done')).toBe('phase-rework');
    // A change and its undoing keeps the decision: version 3 has the content of version 1 again.
    put(run, { type: 'attach', version: versionOf(2) }, author);
    put(run, { type: 'attach', version: versionOf(3, 1) }, author);
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked', 'a-yuki': 'asked' });
    expect(state(run).round).toBe(2);
  });

  it('asks everybody again after a change, unless the controller keeps them', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'returned');
    put(run, { type: 'attach', version: versionOf(2) }, author);
    expect(nextRound(run, ['a-petra'])).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked' });
    expect(run.events.findLast((event) => event.type === 'round.begun')?.data).toMatchObject({
      keep: [{ seat: 'a-petra', accepted: currentScope(state(run)) }],
    });
  });

  it('can be overruled by the next round without a new version', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'returned');
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked' });
  });

  it('confirms only the plan that was looked at', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-oskar', 'oskar', 'returned');
    const confirm = (revision: number, version: number, decisions: number): Command => ({
      type: 'confirmRound',
      revision,
      version,
      decisions,
      keep: [],
      times: [],
    });
    expect(put(run, confirm(1, 1, 1), controller)).toBe('stale-plan');
    put(run, { type: 'proposeRound' }, controller);
    put(run, { type: 'attach', version: versionOf(2) }, author);
    expect(put(run, confirm(1, 1, 1), controller)).toBe('stale-plan');
    put(run, { type: 'proposeRound' }, controller);
    expect(put(run, confirm(state(run).plan?.revision ?? 0, 2, 1), 'petra')).toBe('not-controller');
    expect(put(run, confirm(state(run).plan?.revision ?? 0, 2, 1), controller)).toBe('ok');
  });
});

describe('signing', () => {
  it('waits for the last field, freezes the pages with it, and outlives no change', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt', 'petra'])));
    expect(stageNodes(state(run))[0]?.status).toBe('held');
    expect(tasksOf(state(run)).map((task) => task.doing)).toEqual(['putFields']);
    put(run, fieldsFor('a-benedikt'), controller);
    expect(stageNodes(state(run))[0]?.status).toBe('held');
    expect(put(run, fieldsFor('a-benedikt', 'a-petra'), controller)).toBe('ok');
    expect(state(run).frozen?.file).toBe(file(1));
    expect(put(run, fieldsFor('a-benedikt', 'a-petra'), controller)).toBe('fields-frozen');
    expect(
      put(
        run,
        {
          type: 'decide',
          seat: 'a-petra',
          epoch: 1,
          scope: currentScope(state(run)) ?? '',
          outcome: 'signed',
          note: null,
          filled: [],
          evidence: null,
        },
        'petra',
      ),
    ).toBe('fields-missing');
    expect(decide(run, 'a-benedikt', 'benedikt', 'signed')).toBe('ok');
    put(run, { type: 'attach', version: versionOf(2) }, author);
    expect(state(run).phase).toBe('rework');
    put(run, { type: 'proposeRound' }, controller);
    expect(nextRound(run, ['a-benedikt'])).toBe('signature-changed');
    expect(nextRound(run)).toBe('ok');
    expect(stageNodes(state(run))[0]?.status).toBe('held');
    expect(state(run).frozen).toBeNull();
  });

  it('cannot be withdrawn once everybody has signed, and releases only with the final file', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt'])));
    put(run, fieldsFor('a-benedikt'), controller);
    decide(run, 'a-benedikt', 'benedikt', 'signed');
    expect(put(run, { type: 'withdraw', note: 'w' }, controller)).toBe('signed-already');
    expect(put(run, { type: 'complete', revision: 'A', effective: run.now }, controller)).toBe('no-final');
    expect(put(run, { type: 'keepFinal', file: file(5), identifier: 'x' }, controller)).toBe('not-controller');
    expect(put(run, { type: 'keepFinal', file: file(5), identifier: 'x' }, 'system')).toBe('ok');
    expect(put(run, { type: 'complete', revision: 'A', effective: run.now }, controller)).toBe('ok');
    expect(put(run, { type: 'complete', revision: 'A', effective: run.now }, controller)).toBe('phase-ended');
  });
});

describe('time', () => {
  it('misses a seat at its closing, at once when the closing has passed, and reopens by extension', () => {
    const closes = start + 10 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', closes })));
    expect(decide(run, 'a-petra', 'petra', 'done', {})).toBe('ok');
    run.now = closes;
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('seat-closed');
    expect(put(run, { type: 'wake' }, 'system')).toBe('ok');
    expect(run.events.findLast((event) => event.type === 'seat.missed')?.data).toMatchObject({ instant: closes });
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'missed', seat: 'a-oskar' }]);
    expect(put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: closes - 1 }, controller)).toBe('time-past');
    expect(put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: closes + 5 * hour }, controller)).toBe('ok');
    expect(stopsOf(state(run))).toEqual([]);
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('ok');
    expect(put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: null }, controller)).toBe('phase-sealing');
  });

  it('refuses to extend a seat whose stage is over, and reminds once an hour at most', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar'], { rule: { kind: 'any' }, closes: start + hour }),
        stage('b', 'review', ['yuki']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'done');
    expect(put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: null }, controller)).toBe('stage-over');
    expect(put(run, { type: 'remind', seat: 'b-yuki' }, controller)).toBe('ok');
    expect(put(run, { type: 'remind', seat: 'b-yuki' }, controller)).toBe('reminded-recently');
    expect(put(run, { type: 'remind', seat: 'b-yuki' }, controller, hour)).toBe('ok');
  });

  it('never runs back', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    run.now = start - 5 * hour;
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(run.events.every((event, i) => i === 0 || event.at >= (run.events[i - 1]?.at ?? 0))).toBe(true);
  });
});

describe('holders', () => {
  it('hands over where allowed, bars who was replaced, and lets only the controller bring them back', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'approve', ['yuki'], { delegate: false })),
    );
    const hand = (seat: string, from: string, to: string) =>
      put(run, { type: 'delegate', seat, epoch: seatAt(state(run), seat)?.epoch ?? 0, to, note: null }, from);
    expect(hand('a-petra', 'petra', author)).toBe('author-decides');
    expect(hand('a-petra', 'petra', 'noor')).toBe('ok');
    expect(seatAt(state(run), 'a-petra')).toMatchObject({ holder: 'noor', epoch: 2, seen: null });
    expect(
      put(
        run,
        {
          type: 'reassign',
          seat: 'a-petra',
          to: { kind: 'person', person: 'dalia' },
          due: null,
          closes: null,
          note: null,
        },
        controller,
      ),
    ).toBe('ok');
    expect(hand('a-petra', 'dalia', 'noor')).toBe('barred');
    expect(
      put(
        run,
        {
          type: 'reassign',
          seat: 'a-petra',
          to: { kind: 'person', person: 'noor' },
          due: null,
          closes: null,
          note: null,
        },
        controller,
      ),
    ).toBe('ok');
    expect(decide(run, 'a-petra', 'noor', 'approved')).toBe('ok');
    decide(run, 'a-oskar', 'oskar', 'approved');
    expect(hand('b-yuki', 'yuki', 'noor')).toBe('delegate-not-allowed');
    expect(put(run, { type: 'dropSecondHolder', seat: 'b-yuki', person: 'noor' }, controller)).toBe(
      'not-second-holder',
    );
  });

  it('is put right only by the controller', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])));
    for (const command of [
      { type: 'remind', seat: 'a-petra' },
      { type: 'extend', seat: 'a-petra', due: null, closes: null },
      { type: 'addSecondHolder', seat: 'a-petra', person: 'yuki' },
      { type: 'withdraw', note: 'w' },
      { type: 'send' },
      { type: 'proposeRound' },
    ] satisfies Command[])
      expect(put(run, command, 'petra'), command.type).toBe('not-controller');
    expect(put(run, { type: 'attach', version: versionOf(2) }, 'petra')).toBe('not-author');
    expect(put(run, { type: 'plan', route: route(), note: null }, controller)).toBe('phase-sent');
  });

  it('sees once an epoch and content, and marks nothing for others', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const see = (actor: string, epoch = 1) =>
      put(run, { type: 'see', seat: 'a-petra', epoch, scope: currentScope(state(run)) ?? '' }, actor);
    expect(see('yuki')).toBe('not-holder');
    expect(see('petra', 0)).toBe('stale-seat');
    expect(see('petra')).toBe('ok');
    const count = run.events.length;
    expect(see('petra')).toBe('ok');
    expect(run.events.length).toBe(count);
  });
});

describe('comments', () => {
  it('stand in threads, and are settled by whoever made them, the author or the controller', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const comment = (id: string, thread: string | null, on = file(1)): Command => ({
      type: 'comment',
      comment: id,
      thread,
      file: on,
      spot: null,
      note: 'w',
    });
    expect(put(run, comment('r1', null), 'petra')).toBe('ok');
    expect(put(run, comment('r2', 'r1'), author)).toBe('ok');
    expect(put(run, comment('r3', 'r2'), author)).toBe('no-such-comment');
    expect(put(run, comment('r3', null, file(9)), author)).toBe('no-such-file');
    expect(put(run, { type: 'resolveComment', comment: 'r1' }, 'yuki')).toBe('not-author');
    expect(put(run, { type: 'resolveComment', comment: 'r1' }, author)).toBe('ok');
    expect(state(run).comments.map((entry) => entry.resolved)).toEqual([true, false]);
  });
});
