import { describe, expect, it } from 'vitest';
import {
  author,
  contextOf,
  controller,
  created,
  fieldsFor,
  finish,
  hash,
  hour,
  outsiders,
  type Run,
  sentRun,
  start,
  step,
  versionOf,
} from '../../../../test/properties/arbitrary';
import {
  attach,
  count,
  decide,
  fork,
  freeze,
  keepFrozen,
  linesOf,
  nextRound,
  put,
  reasons,
  reassign,
  route,
  seatOf,
  stage,
  stageOf,
  state,
  statuses,
} from '../../../../test/properties/scene';
import { atInstant } from '../../route/route';
import { outcomesFor, verbs } from '../../route/verbs';
import { roundBasis } from '../rounds/round';
import { bareContext, type Context } from '../run/context';
import { commentOfDecision, openComments, scopeIn, scopeOf, secondHolders, seenOf, stopsOf } from '../run/state';
import { releaseWanted, tasksOf } from '../telling/tasks';
import type { Command, CommandOf } from './commands';
import { decide as decideCommand } from './decide';

const complete = (run: Run): Command => ({
  type: 'complete',
  revisions: [{ record: 'rec', revision: 'A' }],
  effective: run.now,
  evidence: hash(6),
});
const finals: Command = { type: 'keepFinals', files: [], identifier: 'x' };

describe('deciding', () => {
  it('refuses strangers, old pages, other content, missing reasons and outcomes of another verb', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'review', ['yuki'])));
    expect(decide(run, 'a-petra', 'oskar', 'approved')).toBe('not-holder');
    expect(decide(run, 'a-petra', 'petra', 'approved', { epoch: 0 })).toBe('stale-seat');
    expect(decide(run, 'a-petra', 'petra', 'approved', { scope: hash(9) })).toBe('stale-content');
    expect(decide(run, 'a-petra', 'petra', 'declined', { note: null })).toBe('reason-missing');
    expect(decide(run, 'a-petra', 'petra', 'signed')).toBe('wrong-outcome');
    expect(decide(run, 'a-petra', 'petra', 'approved', { filled: [{ field: 'x', value: 'y' }] })).toBe('fields-unfit');
    expect(decide(run, 'b-yuki', 'yuki', 'done')).toBe('seat-not-asked');
    expect(decide(run, 'nobody', 'yuki', 'done')).toBe('no-such-seat');
    expect(decide(run, 'a', 'petra', 'approved'), 'a stage is no seat').toBe('no-such-seat');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('already-decided');
  });

  it('names the version that was open and the newest', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const old = scopeOf(state(run), seatOf(run, 'a-petra')) ?? '';
    attach(run, 2);
    nextRound(run);
    const result = step(
      run,
      {
        type: 'decide',
        seat: 'a-petra',
        epoch: 1,
        scope: old,
        outcome: 'done',
        note: null,
        filled: [],
        evidence: null,
      },
      'petra',
    );
    expect(result).toMatchObject({ refusal: { code: 'stale-version', facts: { seen: 1, newest: 2 } } });
  });

  it('lets either of two holders act, and shows on whose behalf', () => {
    const run = sentRun(route(stage('a', 'approve', ['oskar'])));
    const add = (person: string) => put(run, { type: 'addSecondHolder', seat: 'a-oskar', person });
    expect(add('caspian')).toBe('ok');
    expect(add('caspian')).toBe('same-person');
    expect(add(author)).toBe('author-decides');
    expect(add('lotte')).toBe('outside-not-second');
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(state(run).decisions[0]).toMatchObject({ by: 'caspian', holder: 'oskar', onBehalfOf: 'oskar', round: 1 });
    expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('already-decided');
  });

  it('releases the others when the rule is met, and asks one by one', () => {
    const run = sentRun(
      route(
        stage('a', 'approve', ['petra', 'oskar', 'yuki'], { rule: { kind: 'atLeast', k: 2 } }),
        stage('b', 'read', ['noor']),
      ),
    );
    decide(run, 'a-yuki', 'yuki', 'approved');
    expect(statuses(run)['b-noor']).toBe('idle');
    decide(run, 'a-petra', 'petra', 'approved');
    expect(statuses(run)).toEqual({
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
    for (const [join, after] of [
      [{ kind: 'any' }, 1],
      [{ kind: 'atLeast', k: 2 }, 2],
      [{ kind: 'all' }, 3],
    ] as const) {
      const people = ['yuki', 'petra', 'dalia'];
      const branches = people.map((person) => [
        stage(person, 'review', [person]),
        stage(`${person}2`, 'read', ['noor']),
      ]);
      const run = sentRun(route(fork(join, ...branches), stage('d', 'approve', ['benedikt'])));
      for (const person of people.slice(0, after)) {
        expect(seatOf(run, 'd-benedikt').status, join.kind).toBe('idle');
        expect(decide(run, `${person}-${person}`, person, 'done')).toBe('ok');
        expect(decide(run, `${person}2-noor`, 'noor', 'confirmed')).toBe('ok');
      }
      expect(seatOf(run, 'd-benedikt').status, join.kind).toBe('asked');
      for (const person of people.slice(after)) {
        expect(seatOf(run, `${person}-${person}`).status).toBe('released');
        expect([person, `${person}2`].map((id) => stageOf(run, id).status)).toEqual(['released', 'released']);
        expect(decide(run, `${person}-${person}`, person, 'done')).toBe('seat-not-asked');
      }
    }
  });

  it('takes nothing after the end, whatever it is', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const see: Command = {
      type: 'see',
      seat: 'a-petra',
      epoch: 1,
      scope: scopeOf(state(run), seatOf(run, 'a-petra')) ?? '',
    };
    expect(put(run, { type: 'withdraw', note: 'w' }, 'petra')).toBe('not-controller');
    expect(put(run, { type: 'withdraw', note: '' })).toBe('reason-missing');
    expect(put(run, { type: 'withdraw', note: 'w' })).toBe('ok');
    const { length } = run.events;
    for (const command of [
      see,
      { type: 'wake' },
      { type: 'remind', seat: 'a-petra' },
      { type: 'withdraw', note: 'w' },
    ] satisfies Command[])
      expect(put(run, command, command === see ? 'petra' : controller)).toBe('phase-ended');
    expect(run.events.length).toBe(length);
  });
});

describe('comments to be minded', () => {
  const comment = (id: string, thread: string | null = null): Command => ({
    type: 'comment',
    comment: id,
    thread,
    file: state(sentRun(route(stage('a', 'review', ['petra'])))).versions[0]?.files[0]?.file ?? '',
    spot: null,
    note: hash(8),
  });
  const settled = (run: Run, id: string) => state(run).comments.get(id)?.resolved;

  it('of an approval stay open until somebody has minded them', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'review', ['yuki'])));
    decide(run, 'a-petra', 'petra', 'approved');
    expect(openComments(state(run))).toEqual([]);
    decide(run, 'a-oskar', 'oskar', 'approvedWithComments', { note: hash(7) });
    expect(openComments(state(run))).toMatchObject([{ by: 'oskar', note: hash(7), thread: null, spot: null }]);
    const id = openComments(state(run))[0]?.id ?? '';
    expect(id).toBe(commentOfDecision(2));
    expect(put(run, comment(commentOfDecision(3)), 'yuki')).toBe('no-such-comment');
    expect(put(run, { type: 'resolveComment', comment: id }, author)).toBe('ok');
    expect(openComments(state(run))).toEqual([]);
  });

  it('are resolved and reopened by who wrote them, the author and the controller, and reopened by an answer', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    expect(put(run, comment('c'), 'petra')).toBe('ok');
    expect(put(run, { type: 'reopenComment', comment: 'c' }, 'petra')).toBe('no-effect');
    for (const person of ['petra', author, controller]) {
      expect(put(run, { type: 'resolveComment', comment: 'c' }, 'oskar')).toBe('not-yours');
      expect(put(run, { type: 'resolveComment', comment: 'c' }, person)).toBe('ok');
      expect(put(run, { type: 'resolveComment', comment: 'c' }, person)).toBe('no-effect');
      expect(settled(run, 'c')).toBe(true);
      expect(put(run, { type: 'reopenComment', comment: 'c' }, 'oskar')).toBe('not-yours');
      expect(put(run, { type: 'reopenComment', comment: 'c' }, person)).toBe('ok');
      expect(settled(run, 'c')).toBe(false);
    }
    put(run, { type: 'resolveComment', comment: 'c' }, author);
    expect(put(run, comment('d', 'c'), 'oskar')).toBe('ok');
    expect(settled(run, 'c')).toBe(false);
    expect(run.events.at(-1)).toMatchObject({ type: 'comment.reopened', actor: 'oskar' });
    // An answer to what is open reopens nothing, and an answer is not a thread.
    put(run, comment('e', 'c'), 'oskar');
    expect(run.events.at(-1)?.type).toBe('comment.made');
    expect(put(run, comment('f', 'e'), 'oskar')).toBe('no-such-comment');
    expect(put(run, { type: 'resolveComment', comment: 'd' }, author)).toBe('no-such-comment');
  });
});

describe('release by itself', () => {
  const sealed = (releasesItself: boolean) => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])), 1, releasesItself);
    decide(run, 'a-petra', 'petra', 'approvedWithComments', { note: hash(7) });
    return run;
  };

  it('comes when the files are ready and nothing is open, by the system for the controller', () => {
    const run = sealed(true);
    expect(put(run, complete(run), 'system')).toBe('not-controller');
    put(run, finals, 'system');
    expect(releaseWanted(state(run))).toBe(false);
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'release', person: controller }]);
    expect(put(run, complete(run), 'system')).toBe('not-controller');
    put(run, { type: 'resolveComment', comment: commentOfDecision(1) }, author);
    expect(releaseWanted(state(run))).toBe(true);
    expect(tasksOf(state(run))).toEqual([]);
    expect(put(run, complete(run), 'petra')).toBe('not-controller');
    expect(put(run, complete(run), 'system')).toBe('ok');
    expect(run.events.at(-1)).toMatchObject({ actor: 'system', onBehalfOf: controller });
    expect(state(run)).toMatchObject({ phase: 'completed', evidence: hash(6) });
  });

  it('comes only where it was asked for, and the controller may always be first', () => {
    const asked = sealed(true);
    put(asked, finals, 'system');
    expect(put(asked, complete(asked))).toBe('ok');
    expect(asked.events.at(-1)).toMatchObject({ actor: controller, onBehalfOf: null });
    const not = sealed(false);
    put(not, finals, 'system');
    put(not, { type: 'resolveComment', comment: commentOfDecision(1) }, author);
    expect(releaseWanted(state(not))).toBe(false);
    expect(put(not, complete(not), 'system')).toBe('not-controller');
  });
});

describe('declining', () => {
  it('is possible for every verb', () => {
    for (const verb of verbs) expect(outcomesFor({ verb, allows: { changes: false } })).toContain('declined');
  });

  it('stops for the controller without ending anything, and a new holder heals it', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'declined', seat: 'a-petra' }]);
    expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('ok');
    expect(put(run, { type: 'pass', seat: 'a-petra', note: null })).toBe('rule-needs-it');
    expect(reassign(run, 'a-petra', 'petra')).toBe('same-person');
    expect(reassign(run, 'a-petra', 'oskar')).toBe('in-stage-already');
    expect(reassign(run, 'a-petra', 'yuki')).toBe('ok');
    expect(stopsOf(state(run))).toEqual([]);
    expect(decide(run, 'a-petra', 'petra', 'approved', { epoch: 1 })).toBe('stale-seat');
    expect(decide(run, 'a-petra', 'yuki', 'approved')).toBe('ok');
    expect(state(run).phase).toBe('finishing');
  });

  it('keeps its stage open under any and k as well, until the controller asks again, reassigns or goes on without', () => {
    const stopped = () => {
      const run = sentRun(
        route(
          stage('a', 'approve', ['petra', 'oskar', 'yuki'], { rule: { kind: 'any' } }),
          stage('b', 'read', ['noor']),
        ),
      );
      decide(run, 'a-petra', 'petra', 'declined');
      expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('ok');
      expect(stageOf(run, 'a').status).toBe('open');
      expect(tasksOf(state(run)).filter((task) => task.doing === 'resolveStop')).toMatchObject([{ seat: 'a-petra' }]);
      return run;
    };
    const passed = stopped();
    expect(put(passed, { type: 'pass', seat: 'a-yuki', note: null })).toBe('no-stop');
    expect(put(passed, { type: 'pass', seat: 'a-petra', note: null })).toBe('ok');
    expect(statuses(passed)).toMatchObject({ 'a-petra': 'declined', 'a-yuki': 'released', 'b-noor': 'asked' });
    const again = stopped();
    expect(put(again, { type: 'askAgain', seat: 'a-oskar', due: null, closes: null })).toBe('already-decided');
    expect(put(again, { type: 'askAgain', seat: 'a-petra', due: null, closes: null })).toBe('ok');
    // Nothing stops it any more, so its rule counts what is there.
    expect(statuses(again)).toMatchObject({ 'a-petra': 'released', 'b-noor': 'asked' });
    const given = stopped();
    expect(reassign(given, 'a-petra', 'dalia')).toBe('ok');
    expect(stageOf(given, 'a').status).toBe('done');
  });

  it('asks again whoever declined, with a time where theirs has passed, and reminders begin anew', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'], { closes: start + 5 * hour })));
    put(run, { type: 'remind', seat: 'a-petra' });
    decide(run, 'a-petra', 'petra', 'declined');
    const again = (due: number | null) =>
      put(run, { type: 'askAgain', seat: 'a-petra', due, closes: null }, controller);
    run.now = start + 6 * hour;
    expect(again(null)).toBe('time-needed');
    expect(again(start)).toBe('time-past');
    expect(again(start + 50 * hour)).toBe('ok');
    expect(seatOf(run, 'a-petra')).toMatchObject({
      status: 'asked',
      epoch: 1,
      decision: null,
      reminded: [],
      closes: null,
    });
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
  });

  it('counts as a no where that is the rule, and says once that the rule is out of reach', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra', 'oskar', 'yuki'], { rule: { kind: 'atLeast', k: 2 }, onDecline: 'count' })),
    );
    decide(run, 'a-petra', 'petra', 'declined');
    expect(stopsOf(state(run))).toEqual([]);
    decide(run, 'a-oskar', 'oskar', 'declined');
    expect(stopsOf(state(run)).map((stop) => stop.kind)).toEqual(['declined', 'declined']);
    expect(decide(run, 'a-yuki', 'yuki', 'approved')).toBe('ok');
    expect(count(run, 'stage.stuck')).toBe(1);
    expect(reassign(run, 'a-oskar', 'noor')).toBe('ok');
    expect(stageOf(run, 'a').stuck).toBe(false);
    expect(count(run, 'stage.healed')).toBe(1);
    expect(stopsOf(state(run))).toEqual([]);
  });

  it('one by one waits for the answer to a stop, and goes on past a decline that counts', () => {
    const turn = (onDecline: 'stop' | 'count') => {
      const run = sentRun(
        route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', rule: { kind: 'any' }, onDecline })),
      );
      decide(run, 'a-petra', 'petra', 'declined');
      return run;
    };
    expect(statuses(turn('count'))['a-oskar']).toBe('asked');
    const run = turn('stop');
    expect(statuses(run)['a-oskar']).toBe('idle');
    put(run, { type: 'pass', seat: 'a-petra', note: null });
    expect(statuses(run)['a-oskar']).toBe('asked');
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
    expect(put(run, { type: 'remind', seat: 'a-yuki' })).toBe('phase-rework');
    // A change and its undoing keeps the decision: version 3 has the content of version 1 again.
    attach(run, 2);
    attach(run, 3, 1);
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked', 'a-yuki': 'asked' });
    expect(state(run).round).toBe(2);
    expect(seatOf(run, 'a-petra').kept).toBe(true);
  });

  it('asks everybody again after a change, unless the controller keeps them, and remembers that in every later round', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'a-oskar', 'oskar', 'returned');
    attach(run, 2);
    expect(nextRound(run, { keep: ['a-petra'] })).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked' });
    expect(state(run).acceptances).toMatchObject([
      { seat: 'a-petra', decision: 0, accepted: scopeOf(state(run), seatOf(run, 'a-petra')) },
    ]);
    decide(run, 'a-oskar', 'oskar', 'returned');
    expect(reasons(run)).toEqual({ 'a-petra': 'kept', 'a-oskar': 'returned' });
    attach(run, 3);
    expect(reasons(run)['a-petra']).toBe('changed');
  });

  it('proposes any earlier decision of the present holder on the present content, also a superseded one', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    attach(run, 2);
    nextRound(run);
    decide(run, 'a-petra', 'petra', 'done');
    attach(run, 3, 1);
    expect(reasons(run)).toEqual({ 'a-petra': 'kept', 'a-oskar': 'open' });
    expect(linesOf(state(run))[0]?.decision).toBe(0);
    expect(nextRound(run)).toBe('ok');
    expect(seatOf(run, 'a-petra').decision).toBe(0);
    // Given to another and back, it is the same person's decision again.
    attach(run, 4, 1);
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(reasons(run)['a-petra']).toBe('given');
    expect(reassign(run, 'a-petra', 'petra')).toBe('ok');
    expect(reasons(run)['a-petra']).toBe('kept');
  });

  it('never proposes a no as kept, nor a yes that a later no on the same content took back', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    attach(run, 2);
    nextRound(run);
    attach(run, 3, 1);
    expect(nextRound(run, { ask: ['a-petra'] })).toBe('ok');
    decide(run, 'a-petra', 'petra', 'returned');
    expect(reasons(run)['a-petra']).toBe('returned');
    expect(nextRound(run, { keep: ['a-petra'] })).toBe('keep-impossible');
  });

  it('can be overruled without a new version: the decided stay, a decline is asked again or left as it is', () => {
    const overruled = () => {
      const run = sentRun(
        route(stage('a', 'review', ['petra', 'oskar', 'yuki', 'noor'], { rule: { kind: 'atLeast', k: 2 } })),
      );
      decide(run, 'a-petra', 'petra', 'done');
      decide(run, 'a-yuki', 'yuki', 'declined');
      decide(run, 'a-oskar', 'oskar', 'returned');
      return run;
    };
    const again = overruled();
    expect(nextRound(again)).toBe('ok');
    expect(statuses(again)).toEqual({ 'a-petra': 'decided', 'a-oskar': 'asked', 'a-yuki': 'asked', 'a-noor': 'asked' });
    const left = overruled();
    expect(nextRound(left, { leave: ['a-oskar'] })).toBe('leave-impossible');
    expect(nextRound(left, { leave: ['a-yuki'] })).toBe('ok');
    expect(statuses(left)['a-yuki']).toBe('declined');
    expect(decide(left, 'a-oskar', 'oskar', 'done')).toBe('ok');
    expect(stageOf(left, 'a').status).toBe('done');
  });

  it('leaves no decline that the rule needs, nor two where one is needed', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'], { rule: { kind: 'atLeast', k: 2 } })));
    decide(run, 'a-petra', 'petra', 'declined');
    decide(run, 'a-oskar', 'oskar', 'declined');
    decide(run, 'a-yuki', 'yuki', 'returned');
    expect(nextRound(run, { leave: ['a-petra', 'a-oskar'] })).toBe('leave-impossible');
    expect(nextRound(run, { leave: ['a-petra'] })).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'declined', 'a-oskar': 'asked', 'a-yuki': 'asked' });
  });

  it('lists everybody a round could ask, released seats and those not yet asked too', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar'], { rule: { kind: 'any' } }),
        stage('b', 'approve', ['yuki'], { closes: start + 2 * hour }),
        stage('c', 'approve', ['noor']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'done');
    run.now = start + 3 * hour;
    attach(run, 2);
    expect(reasons(run)).toEqual({
      'a-petra': 'changed',
      'a-oskar': 'released',
      'b-yuki': 'missed',
      'c-noor': 'notAskedBefore',
    });
  });

  it('confirms only the proposal that was looked at', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'])));
    decide(run, 'a-oskar', 'oskar', 'returned');
    const looked = (): CommandOf<'confirmRound'> => ({
      type: 'confirmRound',
      basis: roundBasis(state(run), bareContext(0, controller)),
      keep: [],
      leave: [],
      times: [],
    });
    const first = looked();
    expect(put(run, { ...first, basis: hash(1) })).toBe('stale-plan');
    // What changes nothing of the list does not spoil it.
    put(run, { type: 'comment', comment: 'c', thread: null, file: 'f1', spot: null, note: 'w' }, 'petra');
    expect(looked()).toEqual(first);
    attach(run, 2);
    expect(put(run, first)).toBe('stale-plan');
    const second = looked();
    // A seat that changed hands since is another list.
    reassign(run, 'a-oskar', 'noor');
    expect(put(run, second)).toBe('stale-plan');
    expect(put(run, looked(), 'petra')).toBe('not-controller');
    const { length } = run.events;
    expect(put(run, looked())).toBe('ok');
    expect(run.events[length]?.type).toBe('round.begun');
    expect(put(run, looked())).toBe('phase-not-rework');
  });

  it('demands new times for stages whose closing has passed', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'review', ['oskar'], { closes: start + 2 * hour })),
    );
    attach(run, 2);
    run.now = start + 3 * hour;
    const times = (closes: number | null, due: number | null = null) =>
      nextRound(run, { times: [{ stage: 'b', due: atInstant(due), closes: atInstant(closes) }] });
    expect(nextRound(run)).toBe('times-needed');
    expect(times(start)).toBe('time-past');
    expect(times(null, start)).toBe('time-past');
    expect(times(start + 50 * hour, start + 60 * hour)).toBe('closes-before-due');
    expect(nextRound(run, { times: [{ stage: 'c', due: null, closes: null }] })).toBe('no-such-stage');
    expect(times(start + 50 * hour)).toBe('ok');
    expect(stageOf(run, 'b').closes).toEqual(atInstant(start + 50 * hour));
  });

  it('closes at once what kept decisions satisfy, and a join counts them before it asks anybody', () => {
    const run = sentRun(
      route(
        fork({ kind: 'any' }, [stage('a', 'review', ['petra'])], [stage('b', 'review', ['oskar'])]),
        stage('c', 'approve', ['noor']),
      ),
    );
    decide(run, 'b-oskar', 'oskar', 'done');
    decide(run, 'c-noor', 'noor', 'returned');
    const asked = count(run, 'seat.asked');
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'idle', 'b-oskar': 'decided', 'c-noor': 'asked' });
    expect(count(run, 'seat.asked')).toBe(asked + 1);
    expect(stageOf(run, 'a').status).toBe('released');
  });
});

describe('signing', () => {
  const scopes = (run: Run) => [
    scopeOf(state(run), seatOf(run, 'a-benedikt')),
    scopeOf(state(run), seatOf(run, 'r-petra')),
  ];

  it('waits for the last field, then for the frozen file, and outlives no change', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt', 'oskar'])));
    expect(stageOf(run, 'a')).toMatchObject({ status: 'idle', held: 'fields' });
    expect(tasksOf(state(run)).map((task) => task.doing)).toEqual(['putFields']);
    const fields = (seats: string[], content = hash(1)): Command => ({
      type: 'putFields',
      file: 'f1',
      content,
      fields: seats.map((seat, i) => ({
        id: `p-${seat}`,
        seat,
        file: 'f1',
        kind: 'signature',
        page: 0,
        x: i * 200,
        y: 0,
        width: 100,
        height: 40,
        needed: true,
        label: '',
      })),
    });
    expect(put(run, fields(['a-benedikt']), 'petra')).toBe('not-controller');
    expect(put(run, fields(['a-nobody']))).toBe('fields-unfit');
    expect(put(run, fields(['a-benedikt', 'a-benedikt']))).toBe('fields-unfit');
    expect(put(run, fields(['a-benedikt'], hash(9)))).toBe('fields-elsewhere');
    expect(put(run, { type: 'putFields', file: 'f9', content: hash(1), fields: [] })).toBe('no-such-file');
    put(run, fields(['a-benedikt']));
    expect(stageOf(run, 'a').held).toBe('fields');
    expect(put(run, fields(['a-benedikt', 'a-oskar']))).toBe('ok');
    expect(stageOf(run, 'a').held).toBe('freezing');
    expect(tasksOf(state(run))).toEqual([]);
    const kept = { file: 'f1', content: hash(1), frozen: hash(8), fields: hash(2) };
    expect(put(run, { type: 'keepFrozen', ...kept }, 'system')).toBe('freeze-stale');
    expect(put(run, { type: 'keepFrozen', ...kept })).toBe('not-system');
    expect(keepFrozen(run)).toBe('ok');
    expect(keepFrozen(run)).toBe('no-effect');
    expect(state(run).frozen.get('f1')).toMatchObject({ content: hash(1), chain: [hash(90_001)] });
    expect(stageOf(run, 'a')).toMatchObject({ status: 'open', held: null });
    expect(put(run, fields(['a-benedikt', 'a-oskar']))).toBe('fields-frozen');
    expect(decide(run, 'a-oskar', 'oskar', 'signed', { filled: [] })).toBe('fields-missing');
    expect(
      decide(run, 'a-oskar', 'oskar', 'signed', {
        filled: [
          { field: 'p-a-benedikt', value: 'v' },
          { field: 'p-a-oskar', value: 'v' },
        ],
      }),
    ).toBe('fields-unfit');
    expect(decide(run, 'a-benedikt', 'benedikt', 'signed')).toBe('ok');
    attach(run, 2);
    expect(state(run).phase).toBe('rework');
    expect(state(run).frozen.size).toBe(0);
    expect(nextRound(run, { keep: ['a-benedikt'] })).toBe('signature-changed');
    expect(nextRound(run)).toBe('ok');
    expect(stageOf(run, 'a').held).toBe('fields');
  });

  it('stands with the fields it was given on while the same file goes on, and they cannot be moved under it', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt']), stage('r', 'review', ['petra'])));
    expect(freeze(run)).toEqual(['ok', 'ok']);
    const before = scopes(run);
    expect(decide(run, 'a-benedikt', 'benedikt', 'signed')).toBe('ok');
    decide(run, 'r-petra', 'petra', 'returned');
    expect(put(run, { type: 'putFields', file: 'f1', content: hash(1), fields: [] })).toBe('fields-frozen');
    attach(run, 2, 1);
    expect(scopes(run)).toEqual(before);
    expect(put(run, { type: 'putFields', file: 'f1', content: hash(1), fields: [] })).toBe('fields-frozen');
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-benedikt': 'decided', 'r-petra': 'asked' });
    expect(stageOf(run, 'a').status).toBe('done');
    // Other bytes end it, and then the fields are free again.
    attach(run, 3);
    expect(freeze(run)[0]).toBe('ok');
  });

  it('lets fields be put anew on a frozen file that nobody has signed', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt'])));
    freeze(run);
    attach(run, 2, 1);
    expect(state(run).frozen.has('f1')).toBe(true);
    // The same fields again are no others, and thaw nothing.
    const fields = fieldsFor(state(run), 'f1');
    const putFields = { type: 'putFields', file: 'f1', content: hash(1) } as const;
    expect(put(run, { ...putFields, fields })).toBe('no-effect');
    expect(state(run).frozen.has('f1')).toBe(true);
    expect(put(run, { ...putFields, fields: fields.map((field) => ({ ...field, x: 9 })) })).toBe('ok');
    expect(state(run).frozen.has('f1')).toBe(false);
    expect(nextRound(run)).toBe('ok');
    expect(stageOf(run, 'a').held).toBe('freezing');
  });

  it('cannot be withdrawn once everybody has signed, and releases only with the final files', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt'])));
    freeze(run);
    expect(put(run, finals, 'system')).toBe('not-finishing');
    expect(put(run, complete(run))).toBe('not-finishing');
    decide(run, 'a-benedikt', 'benedikt', 'signed');
    expect(put(run, { type: 'withdraw', note: 'w' })).toBe('signed-already');
    expect(put(run, complete(run))).toBe('no-final');
    expect(put(run, finals)).toBe('not-system');
    expect(put(run, finals, 'system')).toBe('ok');
    expect(put(run, finals, 'system')).toBe('no-effect');
    expect(put(run, complete(run), 'petra')).toBe('not-controller');
    expect(put(run, { type: 'complete', revisions: [], effective: run.now, evidence: hash(6) })).toBe(
      'revisions-unfit',
    );
    expect(put(run, complete(run))).toBe('ok');
    expect(state(run).revisions).toEqual([{ record: 'rec', revision: 'A' }]);
  });
});

describe('bundles', () => {
  it('bind each decision to the files of its seat, and ask again only those whose files have changed', () => {
    const some = stage('a', 'review', ['petra', 'oskar', 'yuki']);
    const seats = some.seats.map((seat, i) => ({ ...seat, files: i === 0 ? ('all' as const) : [`f${i}`] }));
    const run = sentRun(route({ ...some, seats }), 2);
    for (const person of ['petra', 'oskar']) decide(run, `a-${person}`, person, 'done');
    const next = versionOf(2, 1, 2);
    const files = next.files.map((file) => (file.id === 'f2' ? { ...file, file: hash(555) } : file));
    put(run, { type: 'attach', version: { ...next, files } }, author);
    expect(reasons(run)).toEqual({ 'a-petra': 'changed', 'a-oskar': 'kept', 'a-yuki': 'open' });
    expect(new Set(['a-petra', 'a-oskar', 'a-yuki'].map((id) => scopeOf(state(run), seatOf(run, id)))).size).toBe(3);
  });

  it('count an attachment for everybody', () => {
    const some = stage('a', 'review', ['petra']);
    const run = sentRun(route({ ...some, seats: some.seats.map((seat) => ({ ...seat, files: ['f1'] })) }), 2);
    const [one, two] = [versionOf(2, 1, 2), versionOf(2, 1, 2, 77)].map((version) =>
      scopeIn(state(run), seatOf(run, 'a-petra'), version),
    );
    expect(one).not.toBe(two);
  });

  it('take no version without a document, with a file twice, or with a file of another record', () => {
    const run = created(route(stage('a', 'review', ['petra'])));
    const [file] = versionOf(1).files;
    const give = (...files: unknown[]) =>
      put(run, { type: 'attach', version: { number: 1, files: files as never } }, author);
    expect(give()).toBe('no-document');
    expect(give({ ...file, role: 'attachment' })).toBe('no-document');
    expect(give(file, file)).toBe('version-unfit');
    expect(give({ ...file, record: 'another' })).toBe('version-unfit');
    expect(give(file)).toBe('ok');
    expect(attach(run, 1)).toBe('version-order');
  });

  it('freeze every file to be signed before anybody is asked', () => {
    const run = sentRun(route(stage('a', 'sign', ['benedikt'])), 2);
    expect(freeze(run, 'f1')).toEqual(['ok', 'ok']);
    expect(stageOf(run, 'a').held).toBe('freezing');
    expect(freeze(run, 'f2', 90_002)).toEqual(['ok', 'ok']);
    expect(statuses(run)).toEqual({ 'a-benedikt': 'asked' });
  });
});

describe('time', () => {
  it('misses a seat at its closing, and reopens by extension', () => {
    const closes = start + 10 * hour;
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar'], { closes })));
    expect(decide(run, 'a-petra', 'petra', 'done', {})).toBe('ok');
    run.now = closes - 1001;
    expect(put(run, { type: 'wake' }, 'system')).toBe('ok');
    expect(seatOf(run, 'a-oskar').status).toBe('asked');
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('seat-closed');
    expect(put(run, { type: 'wake' }, 'petra')).toBe('not-system');
    expect(put(run, { type: 'wake' }, 'system')).toBe('ok');
    expect(run.events.findLast((event) => event.type === 'seat.missed')?.data).toMatchObject({ instant: closes });
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'missed', seat: 'a-oskar' }]);
    const extend = (due: number | null, to: number | null) =>
      put(run, { type: 'extend', seat: 'a-oskar', due, closes: to });
    expect(extend(null, closes - 1)).toBe('time-past');
    expect(extend(closes - 1, null)).toBe('time-past');
    expect(extend(closes + 9 * hour, closes + 5 * hour)).toBe('closes-before-due');
    expect(extend(null, closes + 5 * hour)).toBe('ok');
    expect(extend(null, closes + 5 * hour)).toBe('no-effect');
    expect(stopsOf(state(run))).toEqual([]);
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('ok');
    expect(extend(null, null)).toBe('phase-finishing');
  });

  it('holds a stage whose closing has passed when it is reached, until the controller gives a time or none', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'review', ['oskar'], { closes: start + 2 * hour })),
    );
    run.now = start + 3 * hour;
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(statuses(run)['b-oskar']).toBe('idle');
    expect(stageOf(run, 'b')).toMatchObject({ status: 'idle', held: 'time' });
    expect(stopsOf(state(run))).toMatchObject([{ kind: 'time', stage: 'b' }]);
    expect(tasksOf(state(run))).toMatchObject([{ doing: 'resolveStop', stage: 'b', person: controller }]);
    const give = (closes: number | null) =>
      put(run, { type: 'setTimes', stage: 'b', due: null, closes: atInstant(closes) });
    expect(put(run, { type: 'setTimes', stage: 'a', due: null, closes: null })).toBe('not-held');
    expect(put(run, { type: 'setTimes', stage: 'x', due: null, closes: null })).toBe('no-such-stage');
    expect(give(start)).toBe('time-past');
    expect(give(start + 50 * hour)).toBe('ok');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ status: 'asked', closes: start + 50 * hour });
  });

  it('holds the next one by one in the same way, and asks nobody to be missed at once', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra', 'oskar'], { order: 'oneByOne', closes: start + 2 * hour })),
    );
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: null });
    run.now = start + 3 * hour;
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(statuses(run)['a-oskar']).toBe('idle');
    expect(stageOf(run, 'a')).toMatchObject({ status: 'open', held: 'time' });
    expect(put(run, { type: 'setTimes', stage: 'a', due: null, closes: null })).toBe('ok');
    expect(statuses(run)['a-oskar']).toBe('asked');
  });

  it('asks a reopened seat beside the one in turn', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar', 'yuki'], {
          order: 'oneByOne',
          rule: { kind: 'atLeast', k: 2 },
          closes: start + 9 * hour,
        }),
      ),
    );
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: start + hour });
    run.now = start + 2 * hour;
    put(run, { type: 'wake' }, 'system');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'missed', 'a-oskar': 'asked' });
    put(run, { type: 'extend', seat: 'a-petra', due: null, closes: null });
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'a-oskar': 'asked', 'a-yuki': 'idle' });
  });

  it('refuses to extend in a stage that is over or not reached, and reminds once an hour at most', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'oskar'], { rule: { kind: 'any' }, closes: start + hour }),
        stage('b', 'review', ['yuki']),
        stage('c', 'review', ['noor']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'done');
    expect(put(run, { type: 'extend', seat: 'a-oskar', due: null, closes: null })).toBe('stage-over');
    expect(put(run, { type: 'extend', seat: 'c-noor', due: null, closes: null })).toBe('seat-not-asked');
    expect(put(run, { type: 'remind', seat: 'c-noor' })).toBe('seat-not-asked');
    expect(put(run, { type: 'remind', seat: 'b-yuki' })).toBe('ok');
    expect(put(run, { type: 'remind', seat: 'b-yuki' }, controller, hour - 1)).toBe('reminded-recently');
    expect(put(run, { type: 'remind', seat: 'b-yuki' }, controller, 1)).toBe('ok');
    expect(seatOf(run, 'b-yuki').reminded.length).toBe(2);
  });

  it('never runs back', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    run.now = start - 5 * hour;
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(run.events.every((event, i) => i === 0 || event.at >= (run.events[i - 1]?.at ?? 0))).toBe(true);
  });
});

describe('holders', () => {
  it('delegate where allowed; the controller bars who was replaced, and only the controller brings them back', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra', 'oskar']), stage('b', 'approve', ['yuki'], { allows: { delegate: 'no' } })),
    );
    const hand = (seat: string, from: string, to: string) =>
      put(run, { type: 'delegate', seat, epoch: seatOf(run, seat).epoch, to, note: null }, from);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'fenna' });
    put(run, { type: 'remind', seat: 'a-petra' });
    expect(hand('a-petra', 'petra', author)).toBe('author-decides');
    expect(hand('a-petra', 'petra', 'oskar')).toBe('in-stage-already');
    expect(hand('a-petra', 'petra', 'lotte')).toBe('outside-not-here');
    expect(hand('a-petra', 'petra', 'fenna')).toBe('same-person');
    expect(hand('a-petra', 'fenna', 'noor')).toBe('delegate-not-allowed');
    expect(hand('a-petra', 'petra', 'noor')).toBe('ok');
    expect(seatOf(run, 'a-petra')).toMatchObject({ epoch: 2, reminded: [], barred: [] });
    expect(seenOf(state(run), seatOf(run, 'a-petra'))).toBeNull();
    expect(seatOf(run, 'a-petra').holders.map((holder) => [holder.person, holder.via])).toEqual([
      ['noor', 'delegated'],
      ['fenna', 'second'],
    ]);
    expect(reassign(run, 'a-petra', 'dalia')).toBe('ok');
    expect(secondHolders(seatOf(run, 'a-petra'))).toEqual(['fenna']);
    expect(hand('a-petra', 'dalia', 'noor')).toBe('barred');
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(seatOf(run, 'a-petra').barred).toEqual(['dalia']);
    expect(put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'dalia' })).toBe('ok');
    expect(seatOf(run, 'a-petra').barred).toEqual([]);
    expect(decide(run, 'a-petra', 'noor', 'approved')).toBe('ok');
    expect(reassign(run, 'a-petra', 'dalia')).toBe('already-decided');
    decide(run, 'a-oskar', 'oskar', 'approved');
    expect(reassign(run, 'a-petra', 'dalia')).toBe('stage-over');
    expect(hand('b-yuki', 'yuki', 'noor')).toBe('delegate-not-allowed');
    expect(put(run, { type: 'dropSecondHolder', seat: 'b-yuki', person: 'noor' })).toBe('not-second-holder');
  });

  it('count once in a stage, whatever the way, whether they hold or have decided there', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki']), stage('b', 'review', ['petra'])));
    put(run, { type: 'addSecondHolder', seat: 'a-oskar', person: 'noor' });
    expect(put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'noor' })).toBe('in-stage-already');
    expect(decide(run, 'a-oskar', 'noor', 'done')).toBe('ok');
    expect(reassign(run, 'a-petra', 'noor')).toBe('in-stage-already');
    // Whoever was passed over by their own second holder would be asked in both by a next round.
    expect(reassign(run, 'a-petra', 'oskar')).toBe('in-stage-already');
    expect(reassign(run, 'b-petra', 'oskar'), 'another stage').toBe('ok');
  });

  it('who were added in rework or before their turn are asked with the rest, and stay over rounds until dropped', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    put(run, { type: 'addSecondHolder', seat: 'b-oskar', person: 'caspian' });
    expect(reassign(run, 'b-oskar', 'noor', { due: start + 99 * hour })).toBe('ok');
    attach(run, 2);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'fenna' });
    expect(nextRound(run)).toBe('ok');
    expect(decide(run, 'a-petra', 'fenna', 'done')).toBe('ok');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ status: 'asked', due: start + 99 * hour, given: null });
    expect(run.events.findLast((event) => event.type === 'seat.asked')?.data).toMatchObject({
      holders: [
        { person: 'noor', via: 'reassigned' },
        { person: 'caspian', via: 'second' },
      ],
    });
    expect(put(run, { type: 'dropSecondHolder', seat: 'b-oskar', person: 'noor' })).toBe('not-second-holder');
    expect(put(run, { type: 'dropSecondHolder', seat: 'b-oskar', person: 'caspian' })).toBe('ok');
    expect(decide(run, 'b-oskar', 'caspian', 'approved')).toBe('not-holder');
  });

  it('of a seat that decided or missed may change in rework without a time, and are asked with the next round', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'oskar', 'yuki'], { closes: start + 2 * hour })));
    decide(run, 'a-petra', 'petra', 'done');
    run.now = start + 3 * hour;
    expect(reassign(run, 'a-oskar', 'noor')).toBe('time-needed');
    attach(run, 2, 1);
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(reassign(run, 'a-oskar', 'dalia')).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'idle', 'a-oskar': 'idle', 'a-yuki': 'missed' });
    expect(nextRound(run, { times: [{ stage: 'a', due: null, closes: null }] })).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'asked', 'a-oskar': 'asked', 'a-yuki': 'asked' });
    expect(decide(run, 'a-petra', 'noor', 'done')).toBe('ok');
  });

  it('are left alone by everybody but the controller', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])));
    for (const command of [
      { type: 'remind', seat: 'a-petra' },
      { type: 'extend', seat: 'a-petra', due: null, closes: null },
      { type: 'addSecondHolder', seat: 'a-petra', person: 'yuki' },
      { type: 'dropSecondHolder', seat: 'a-petra', person: 'yuki' },
      { type: 'askAgain', seat: 'a-petra', due: null, closes: null },
      { type: 'pass', seat: 'a-petra', note: null },
      { type: 'copyLink', seat: 'a-petra' },
      { type: 'setTimes', stage: 'a', due: null, closes: null },
      { type: 'withdraw', note: 'w' },
      { type: 'send', releasesItself: false },
    ] satisfies Command[])
      expect(put(run, command, 'petra'), command.type).toBe('not-controller');
    expect(put(run, { type: 'attach', version: versionOf(2) }, 'petra')).toBe('not-author');
    expect(put(run, { type: 'plan', plan: route(), note: null, whole: state(run).whole })).toBe('phase-sent');
  });

  it('of whom none may act any more leave the seat to the controller', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra'])));
    const people = new Map([['petra', { outside: false, active: false }]]);
    const tasks = tasksOf(state(run), { ...contextOf(0, controller), people });
    expect(tasks).toMatchObject([{ person: controller, doing: 'resolveStop', seat: 'a-petra', about: 'petra' }]);
  });

  it('look once at a content, and mark nothing for others', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const see = (actor: string, epoch = 1) =>
      put(
        run,
        { type: 'see', seat: 'a-petra', epoch, scope: scopeOf(state(run), seatOf(run, 'a-petra')) ?? '' },
        actor,
      );
    expect(see('yuki')).toBe('not-holder');
    expect(see('petra', 0)).toBe('stale-seat');
    expect(put(run, { type: 'see', seat: 'a-petra', epoch: 1, scope: hash(4) }, 'petra')).toBe('stale-content');
    expect(see('petra')).toBe('ok');
    expect(see('petra')).toBe('no-effect');
    decide(run, 'a-petra', 'petra', 'done');
    expect(see('petra')).toBe('seat-not-asked');
  });

  it('outside have links, and a copied one stands in the trail', () => {
    const run = sentRun(route(stage('a', 'review', ['lotte', 'petra']), stage('b', 'review', ['jarek'])));
    expect(put(run, { type: 'copyLink', seat: 'a-petra' })).toBe('not-outside');
    expect(put(run, { type: 'copyLink', seat: 'b-jarek' })).toBe('seat-not-asked');
    expect(put(run, { type: 'copyLink', seat: 'a-lotte' })).toBe('ok');
    expect(put(run, { type: 'copyLink', seat: 'a-lotte' })).toBe('no-effect');
    expect(run.events.at(-1)).toMatchObject({
      type: 'link.copied',
      actor: controller,
      data: { seat: 'a-lotte', epoch: 1 },
    });
    expect(reassign(run, 'a-lotte', 'noor')).toBe('ok');
    expect(put(run, { type: 'copyLink', seat: 'a-lotte' })).toBe('not-outside');
  });
});

describe('planning', () => {
  it('is the controller’s until it is sent, and the same again changes nothing', () => {
    const run = created(route());
    const plan = route(stage('a', 'review', ['petra']));
    const give = (actor = controller) => put(run, { type: 'plan', plan, note: null, whole: state(run).whole }, actor);
    expect(give('petra')).toBe('not-controller');
    expect(give()).toBe('ok');
    expect(give()).toBe('no-effect');
    expect(put(run, { type: 'plan', plan, note: 'n', whole: state(run).whole })).toBe('ok');
    expect(
      put(run, {
        type: 'plan',
        plan: route(stage('a', 'review', ['petra']), stage('a', 'read', [])),
        note: null,
        whole: state(run).whole,
      }),
    ).toBe('route-unfit');
    expect(put(run, { type: 'send', releasesItself: false })).toBe('no-version');
    expect(put(run, { type: 'comment', comment: 'r', thread: null, file: hash(1), spot: null, note: 'w' })).toBe(
      'no-version',
    );
    attach(run, 1);
    expect(put(run, { type: 'send', releasesItself: false })).toBe('ok');
  });

  it('refuses to send what cannot be walked: an empty branch, nobody in a stage, a time that has passed', () => {
    const sent = (...parts: Parameters<typeof route>) => {
      const run = created(route(...parts));
      attach(run, 1);
      const result = step(run, { type: 'send', releasesItself: false }, controller, 1000);
      return result.ok ? 'ok' : result.refusal.facts.finding;
    };
    expect(sent()).toBe('no-stage');
    expect(sent(fork({ kind: 'all' }, [stage('a', 'review', ['petra'])], []))).toBe('empty-branch');
    expect(sent({ kind: 'series', id: 'inner', parts: [] }, stage('a', 'review', ['petra']))).toBe('empty-branch');
    expect(sent(stage('a', 'review', []))).toBe('nobody');
    expect(sent(stage('a', 'review', ['petra'], { due: start }))).toBe('due-past');
    expect(sent(stage('a', 'review', ['petra'], { closes: start }))).toBe('closes-past');
    expect(sent(stage('a', 'approve', [author]))).toBe('author-decides');
    expect(sent(stage('a', 'review', [author]))).toBe('ok');
  });

  it('begins once, with at least one record', () => {
    const run = created(route());
    const create = { ...run.events[0]?.data, type: 'create' } as never;
    expect(step(run, create, controller)).toMatchObject({ refusal: { code: 'exists-already' } });
    const nothing: Run = { ...run, state: null, events: [] };
    expect(step(nothing, { ...(create as object), records: [] } as never, controller)).toMatchObject({
      refusal: { code: 'no-document' },
    });
    expect(step(nothing, { type: 'send', releasesItself: false }, controller)).toMatchObject({
      refusal: { code: 'not-found' },
    });
  });
});

describe('comments', () => {
  it('stand in threads, and are resolved by whoever made them, the author or the controller', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'])));
    const comment = (id: string, thread: string | null, on = hash(1)): Command => ({
      type: 'comment',
      comment: id,
      thread,
      file: on,
      spot: null,
      note: 'w',
    });
    expect(put(run, comment('r1', null), 'petra')).toBe('ok');
    expect(put(run, comment('r1', null), 'petra')).toBe('no-effect');
    expect(put(run, comment('r2', 'r1'), author)).toBe('ok');
    expect(put(run, comment('r3', 'r2'), author)).toBe('no-such-comment');
    expect(put(run, comment('r3', null, hash(9)), author)).toBe('no-such-file');
    expect(put(run, { type: 'resolveComment', comment: 'r1' }, 'yuki')).toBe('not-yours');
    expect(put(run, { type: 'resolveComment', comment: 'r2' }, author)).toBe('no-such-comment');
    expect(put(run, { type: 'resolveComment', comment: 'r1' }, 'petra')).toBe('ok');
    expect(put(run, { type: 'resolveComment', comment: 'r1' }, 'petra')).toBe('no-effect');
    expect(Array.from(state(run).comments.values(), (entry) => entry.resolved)).toEqual([true, false]);
    finish(run);
    expect(put(run, comment('r4', null), 'petra')).toBe('phase-ended');
  });
});

describe('somebody known under two entries', () => {
  // Rufus writes, and is known outside as well; so is Petra.
  const known = (actor: string, now: number): Context => {
    const context = contextOf(now, actor);
    const people = new Map(context.people);
    for (const [id, identity] of [
      ['rufus', 'r'],
      ['jarek', 'r'],
      ['petra', 'p'],
      ['lotte', 'p'],
    ] as const)
      people.set(id, { outside: outsiders.includes(id), active: true, identity });
    return { ...context, people };
  };
  const attempt = (run: Run, command: Command, actor = controller) => {
    const result = decideCommand(run.state, command, known(actor, run.now + 1000));
    return result.ok ? 'ok' : result.refusal.code;
  };
  const give = (run: Run, seat: string, person: string) =>
    attempt(run, {
      type: 'reassign',
      seat,
      to: { kind: 'outside', person },
      due: null,
      closes: null,
      note: null,
    });

  it('counts once in a stage and does not approve their own text under either', () => {
    const run = sentRun(route(stage('a', 'approve', ['petra', 'oskar'])));
    expect(give(run, 'a-oskar', 'lotte')).toBe('in-stage-already');
    expect(give(run, 'a-petra', 'lotte')).toBe('same-person');
    expect(give(run, 'a-oskar', 'jarek')).toBe('author-decides');
    expect(attempt(run, { type: 'addSecondHolder', seat: 'a-oskar', person: 'lotte' })).toBe('in-stage-already');
    // Who has decided counts by what they decided.
    decide(run, 'a-petra', 'petra', 'approved');
    expect(give(run, 'a-oskar', 'lotte')).toBe('in-stage-already');
  });

  it('is not sent to twice in a stage, nor their own text for approval', () => {
    const sent = (...people: string[]) => {
      const run = created(route(stage('a', 'approve', people)));
      attach(run, 1);
      return attempt(run, { type: 'send', releasesItself: false });
    };
    expect(sent('petra', 'lotte')).toBe('preflight');
    expect(sent('oskar', 'jarek')).toBe('preflight');
    expect(sent('petra', 'oskar')).toBe('ok');
  });
});
