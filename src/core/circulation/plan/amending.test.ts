import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  contextOf,
  controller,
  drawsFrom,
  hash,
  randomEdit,
  randomRoute,
  sentRun,
  start,
  versionOf,
} from '../../../../test/properties/arbitrary';
import {
  amend,
  amendment,
  attach,
  board,
  count,
  decide,
  fork,
  freeze,
  nextRound,
  over,
  put,
  route,
  seatOf,
  stage,
  stageOf,
  state,
  statuses,
} from '../../../../test/properties/scene';
import { runsOf } from '../../../../test/setting';
import { routeDifferences } from '../../route/changes';
import { edited, type RouteEdit } from '../../route/edit';
import { freshSeat, mapStages, type Series } from '../../route/route';
import { alike } from '../../trail/canonical';
import { differenceWords } from '../telling/differenceWords';
import { amendBasis } from './amending';
import { previewOf } from './preview';

const day = 24 * 3_600_000;
type Run = ReturnType<typeof sentRun>;
const person = (id: string, who: string) => freshSeat(id, { kind: 'person', person: who });
const addSeat = (of: string, who: string): RouteEdit => ({ do: 'addSeat', stage: of, seat: person(`new-${who}`, who) });
const insert = (at: number, who = 'fenna', series = 'root'): RouteEdit => ({
  do: 'add',
  part: stage('new', 'review', [who]),
  at: { series, at },
});

describe('amending the stage under way', () => {
  it('asks whoever is added at once, and one by one in their turn', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    expect(amend(run, [addSeat('a', 'yuki')])).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'new-yuki': 'asked' });
    decide(run, 'a-petra', 'petra', 'done');
    expect(statuses(run)).toMatchObject({ 'b-oskar': 'idle' });
    const turn = sentRun(route(stage('a', 'review', ['petra', 'noor'], { order: 'oneByOne' })));
    expect(amend(turn, [{ do: 'addSeat', stage: 'a', seat: person('new-yuki', 'yuki'), at: 1 }])).toBe('ok');
    expect(statuses(turn)).toEqual({ 'a-petra': 'asked', 'new-yuki': 'idle', 'a-noor': 'idle' });
    decide(turn, 'a-petra', 'petra', 'done');
    expect(statuses(turn)).toMatchObject({ 'new-yuki': 'asked', 'a-noor': 'idle' });
  });

  it('ends it when nobody is left to wait for, and its preview says so', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    const remove = amendment(run, [{ do: 'removeSeat', seat: 'a-yuki' }]);
    const shown = previewOf(state(run), remove, contextOf(run.now, controller));
    expect(shown).toMatchObject({
      ok: true,
      preview: {
        ends: ['a'],
        removed: [{ person: 'yuki', seat: 'a-yuki' }],
        added: [{ person: 'oskar', seat: 'b-oskar' }],
        messages: [
          { template: 'seatMoved', person: 'yuki' },
          { template: 'asked', person: 'oskar' },
        ],
      },
    });
    expect(put(run, remove)).toBe('ok');
    expect(stageOf(run, 'a').status).toBe('done');
    expect(seatOf(run, 'a-yuki')).toMatchObject({ gone: 'removed', status: 'released' });
    expect(decide(run, 'a-yuki', 'yuki', 'done')).toBe('no-such-seat');
    // What was removed is marked, so that what happened there is told; and its name is not given to anything else.
    expect(state(run).retired).toMatchObject([{ id: 'a', seats: [{ id: 'a-yuki' }] }]);
    expect(amend(run, [{ do: 'addSeat', stage: 'b', seat: person('a-yuki', 'yuki') }])).toBe('route-unfit');
  });

  it('keeps what it is, whoever has responded in it and the last one', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'yuki'], { rule: { kind: 'atLeast', k: 2 } }),
        stage('b', 'approve', ['oskar']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'done');
    expect(amend(run, [{ do: 'removeSeat', seat: 'a-petra' }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'change', stage: 'a', with: { verb: 'approve' } }])).toBe('amend-reached');
    expect(amend(run, [{ do: 'change', stage: 'a', with: { order: 'oneByOne' } }])).toBe('amend-reached');
    expect(amend(run, [{ do: 'remove', part: 'a' }])).toBe('amend-reached');
    expect(amend(run, [{ do: 'move', part: 'a', to: { series: 'root', at: 2 } }])).toBe('amend-reached');
    expect(
      amend(run, [{ do: 'changeSeat', seat: 'a-yuki', with: { assignment: { kind: 'person', person: 'noor' } } }]),
    ).toBe('amend-reassign');
    const three = mapStages(state(run).plan, (own) => ({ ...own, rule: { kind: 'atLeast', k: 3 } }));
    expect(amend(run, [], { plan: three })).toBe('route-unfit');
    expect(amend(run, [{ do: 'change', stage: 'a', with: { rule: { kind: 'any' } } }])).toBe('ok');
    expect(stageOf(run, 'a').status).toBe('done');
    expect(amend(run, [addSeat('a', 'noor')])).toBe('amend-over');
    const one = sentRun(route(stage('a', 'review', ['petra'])));
    const other = [addSeat('a', 'yuki'), { do: 'removeSeat', seat: 'a-petra' }] as const;
    expect(amend(one, other)).toBe('amend-last');
  });

  it('refuses anybody new while a return is gathered', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki'], { onReturn: 'gather' })));
    decide(run, 'a-petra', 'petra', 'returned');
    expect(amend(run, [addSeat('a', 'noor')])).toBe('amend-gathering');
    expect(amend(run, [{ do: 'removeSeat', seat: 'a-yuki' }])).toBe('ok');
    expect(state(run).phase).toBe('rework');
  });

  it('counts new times from when somebody was asked, and refuses one that has passed', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { due: start + 2 * day })));
    const since = seatOf(run, 'a-petra').since ?? 0;
    const after = { kind: 'after', amount: 5, unit: 'days' } as const;
    put(run, { type: 'wake' }, 'system', 2 * day);
    expect(amend(run, [{ do: 'change', stage: 'a', with: { due: after } }])).toBe('ok');
    expect(seatOf(run, 'a-petra').due).toBe(since + 5 * day);
    const passed = { kind: 'after', amount: 1, unit: 'days' } as const;
    expect(amend(run, [{ do: 'change', stage: 'a', with: { due: passed } }])).toBe('time-past');
    expect(
      amend(run, [{ do: 'changeSeat', seat: 'a-petra', with: { due: { kind: 'instant', at: since + 9 * day } } }]),
    ).toBe('ok');
    expect(seatOf(run, 'a-petra').due).toBe(since + 9 * day);
  });

  it('frees a stage whose closing time had passed when it was reached', () => {
    const late = stage('b', 'review', ['yuki'], { closes: start + 2 * day });
    const run = sentRun(route(stage('a', 'review', ['petra']), late));
    put(run, { type: 'wake' }, 'system', 3 * day);
    decide(run, 'a-petra', 'petra', 'done');
    expect(stageOf(run, 'b').held).toBe('time');
    expect(amend(run, [{ do: 'change', stage: 'b', with: { closes: null } }])).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'b-yuki': 'asked' });
  });
});

describe('amending what lies ahead', () => {
  it('adds, moves and removes there, and nothing before what has been reached', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra']), stage('b', 'review', ['noor']), stage('c', 'approve', ['oskar'])),
    );
    decide(run, 'a-petra', 'petra', 'done');
    expect(amend(run, [insert(0)])).toBe('amend-reached');
    expect(amend(run, [insert(1)])).toBe('amend-reached');
    expect(amend(run, [{ do: 'remove', part: 'c' }, insert(2)])).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'b-noor': 'asked', 'new-fenna': 'idle', 'c-oskar': 'released' });
    decide(run, 'b-noor', 'noor', 'done');
    decide(run, 'new-fenna', 'fenna', 'done');
    expect(state(run).phase).toBe('finishing');
    expect(amend(run, [])).toBe('phase-finishing');
  });

  it('is refused where the check before sending would stop it, and where it leaves a stage or a branch empty', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    expect(amend(run, [addSeat('b', 'rufus')])).toBe('preflight');
    expect(amend(run, [{ do: 'removeSeat', seat: 'b-oskar' }])).toBe('amend-empty');
    const due = { kind: 'instant', at: start - day } as const;
    expect(amend(run, [{ do: 'change', stage: 'b', with: { due } }])).toBe('preflight');
    expect(amend(run, [])).toBe('no-effect');
    expect(put(run, amendment(run, [insert(2)]), 'petra')).toBe('not-controller');
  });

  it('takes no branch away whose stage, already asked, would stand in another place', () => {
    const three = ['petra', 'yuki', 'oskar'].map((who) => [stage(who, 'approve', [who])]);
    const plain = fork({ kind: 'all' }, ...three);
    const inner = {
      ...plain,
      id: 'inner',
      branches: plain.branches.map((one, i) => ({ ...one, route: { ...one.route, id: `inner-${i}` } })),
    };
    const run = sentRun(route(fork({ kind: 'atLeast', k: 1 }, [inner], [stage('c', 'approve', ['noor'])])));
    const to = { series: 'branch-1', at: 1 };
    expect(amend(run, [{ do: 'move', part: 'oskar', to }])).toBe('amend-reached');
  });

  it('adds a branch to those under way, and takes away one in which nobody has responded', () => {
    const run = sentRun(
      route(
        fork(
          { kind: 'all' },
          [stage('a', 'review', ['petra'])],
          [stage('b', 'review', ['oskar'])],
          [stage('d', 'review', ['dalia'])],
        ),
      ),
    );
    const branch = {
      name: 'third',
      condition: null,
      route: { kind: 'series', id: 'branch-new', parts: [stage('c', 'review', ['noor'])] } as Series,
    };
    expect(amend(run, [{ do: 'addBranch', parallel: 'fork', branch }])).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'c-noor': 'asked' });
    expect(amend(run, [{ do: 'remove', part: 'branch-1' }])).toBe('ok');
    expect(seatOf(run, 'b-oskar')).toMatchObject({ gone: 'removed' });
    decide(run, 'a-petra', 'petra', 'done');
    expect(amend(run, [{ do: 'remove', part: 'branch-0' }])).toBe('amend-decided');
    expect(amend(run, [insert(1, 'fenna', 'branch-0')])).toBe('amend-over');
    expect(amend(run, [insert(1, 'fenna', 'branch-new')])).toBe('ok');
    decide(run, 'c-noor', 'noor', 'done');
    expect(amend(run, [{ do: 'remove', part: 'branch-2' }])).toBe('ok');
    decide(run, 'new-fenna', 'fenna', 'done');
    expect(state(run).phase).toBe('finishing');
  });

  it('leaves a branch that was skipped where it is, also one with a board in it that was never reached', () => {
    const plain = fork(
      { kind: 'all' },
      [stage('a', 'review', ['petra'])],
      [stage('b', 'review', ['oskar']), board('k', 'dalia')],
      [stage('c', 'review', ['noor'])],
    );
    const skipping = {
      ...plain,
      branches: plain.branches.map((one, i) => (i === 1 ? { ...one, condition: over(200) } : one)),
    };
    const run = sentRun(route(skipping));
    expect(state(run).blocks.get('branch-1')?.gone).toBe('skipped');
    expect(amend(run, [{ do: 'remove', part: 'branch-1' }])).toBe('amend-decided');
    expect(amend(run, [insert(0, 'fenna', 'branch-1')])).toBe('amend-over');
    // What is not removed is not kept as if it had been.
    expect(amend(run, [addSeat('a', 'yuki')])).toBe('ok');
    expect(state(run).retired).toEqual([]);
  });

  it('resolves a group that is added to a stage under way, and a role that is new', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    const every = freshSeat('all', { kind: 'group', group: 'board', members: 'every' });
    const role = freshSeat('role', { kind: 'role', role: 'safety' });
    expect(
      amend(run, [
        { do: 'addSeat', stage: 'a', seat: every },
        { do: 'addSeat', stage: 'b', seat: role },
      ]),
    ).toBe('ok');
    expect(statuses(run)).toMatchObject({ all__1: 'asked', all__2: 'asked' });
    // Its members are asked there now, each with a seat of their own.
    expect(amend(run, [{ do: 'moveSeat', seat: 'all', to: { stage: 'b', at: 0 } }])).toBe('amend-reached');
    expect(amend(run, [{ do: 'removeSeat', seat: 'all' }])).toBe('ok');
    expect(statuses(run)).toMatchObject({ all__1: 'released', all__2: 'released' });
    expect(seatOf(run, 'role').holders).toMatchObject([{ person: 'petra', via: 'role' }]);
    expect(run.events.find(({ type }) => type === 'circulation.amended')).toMatchObject({
      data: {
        roles: [{ of: 'role', name: 'safety manager', person: 'petra' }],
        called: { board: 'Board', safety: 'safety manager' },
      },
    });
  });

  it('leaves what a round has kept ahead of its turn with whom it was given by', () => {
    const run = sentRun(
      route(
        stage('a', 'review', ['petra']),
        stage('b', 'approve', ['oskar', 'yuki']),
        stage('c', 'approve', ['dalia']),
      ),
    );
    decide(run, 'a-petra', 'petra', 'done');
    decide(run, 'b-oskar', 'oskar', 'approved');
    decide(run, 'b-yuki', 'yuki', 'approved');
    decide(run, 'c-dalia', 'dalia', 'returned');
    expect(nextRound(run, { ask: ['a-petra'] })).toBe('ok');
    // The second stage has not been reached again, and what was responded in it stands.
    expect(statuses(run)).toMatchObject({ 'a-petra': 'asked', 'b-oskar': 'decided', 'b-yuki': 'decided' });
    const given = { assignment: { kind: 'person', person: 'noor' } } as const;
    expect(amend(run, [{ do: 'changeSeat', seat: 'b-oskar', with: given }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'removeSeat', seat: 'b-oskar' }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'moveSeat', seat: 'b-oskar', to: { stage: 'c', at: 0 } }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'change', stage: 'b', with: { verb: 'review' } }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'changeSeat', seat: 'b-oskar', with: { facts: ['amount'] } }])).toBe('amend-decided');
    expect(amend(run, [insert(1)])).toBe('ok');
    expect(amend(run, [{ do: 'changeSeat', seat: 'c-dalia', with: given }])).toBe('ok');
  });

  it('anywhere while it is reworked, but for what somebody once decided', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    attach(run, 2, 1);
    expect(amend(run, [{ do: 'change', stage: 'a', with: { verb: 'approve' } }])).toBe('amend-decided');
    expect(amend(run, [{ do: 'moveSeat', seat: 'a-petra', to: { stage: 'b', at: 0 } }])).toBe('amend-decided');
    expect(amend(run, [insert(0), { do: 'moveSeat', seat: 'a-yuki', to: { stage: 'b', at: 0 } }])).toBe('ok');
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-petra': 'decided', 'a-yuki': 'idle', 'b-oskar': 'idle', 'new-fenna': 'asked' });
    expect(seatOf(run, 'a-yuki')).toMatchObject({ stage: 'b', epoch: 2 });
  });
});

describe('amending files', () => {
  const file = (run: Run, content: number, attachment = 0) => ({
    version: versionOf(2, content, run.files, attachment),
  });

  it('takes them in where nobody has responded to what changes, and everybody who is asked is told', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki'])));
    expect(amend(run, [], file(run, 7, 50))).toBe('ok');
    expect(state(run).phase).toBe('running');
    expect(statuses(run)).toEqual({ 'a-petra': 'asked', 'a-yuki': 'asked' });
    expect(decide(run, 'a-petra', 'petra', 'done', { scope: hash(4) })).toBe('stale-content');
    decide(run, 'a-petra', 'petra', 'done');
    expect(amend(run, [], { version: versionOf(3, 8, 1, 50) })).toBe('amend-acted');
    expect(amend(run, [], { version: versionOf(2, 7, 1, 50) })).toBe('version-order');
  });

  it('asks about a document that is added only those who have not responded', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    decide(run, 'a-petra', 'petra', 'done');
    expect(amend(run, [], { version: versionOf(2, 1, 2) })).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'decided', 'a-yuki': 'asked' });
    const petras = state(run)
      .plan.parts.flatMap((part) => (part.kind === 'stage' ? part.seats : []))
      .find(({ id }) => id === 'a-petra');
    expect(petras?.files).toEqual(['f1']);
    // It stays so in the next round: her decision was about the first document.
    attach(run, 3, 1, 2);
    expect(nextRound(run)).toBe('ok');
    expect(statuses(run)).toMatchObject({ 'a-petra': 'decided' });
  });

  it('leaves frozen pages, and adds no signer to them', () => {
    const run = sentRun(route(stage('a', 'sign', ['petra', 'oskar'])));
    freeze(run);
    expect(amend(run, [], file(run, 7))).toBe('amend-frozen');
    expect(amend(run, [addSeat('a', 'yuki')])).toBe('amend-signers');
    decide(run, 'a-petra', 'petra', 'signed');
    expect(amend(run, [addSeat('a', 'yuki')])).toBe('amend-signed');
    expect(amend(run, [{ do: 'removeSeat', seat: 'a-oskar' }])).toBe('ok');
    expect(state(run).phase).toBe('finishing');
  });
});

describe('an amendment', () => {
  it('drafted on a state that has moved on is refused, and on one where somebody only looked is not', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    const old = amendment(run, [insert(2)]);
    put(run, { type: 'remind', seat: 'a-petra' });
    expect(put({ ...run, events: [] }, old)).toBe('ok');
    const stale = sentRun(route(stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])));
    const drafted = amendment(stale, [insert(2)]);
    decide(stale, 'a-petra', 'petra', 'done');
    expect(put(stale, drafted)).toBe('stale-amendment');
    expect(put(stale, { ...drafted, basis: amendBasis(state(stale)) })).toBe('ok');
  });

  it('holds several changes at once, and changes the whole’s times and the words with them', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    const whole = { due: start + 9 * day, closes: null };
    expect(amend(run, [insert(2), addSeat('a', 'yuki')], { note: 'other words', whole })).toBe('ok');
    expect(count(run, 'circulation.amended')).toBe(1);
    expect(state(run)).toMatchObject({ note: 'other words', due: start + 9 * day, amendments: 1 });
    expect(amend(run, [], { whole: { due: start - day, closes: null } })).toBe('time-past');
    expect(amend(run, [], { whole })).toBe('no-effect');
  });

  it('has differences exactly where two routes differ, each told in words', () => {
    fc.assert(
      fc.property(
        fc.nat(),
        fc.integer({ min: 1, max: 12 }),
        fc.array(fc.nat(), { maxLength: 4 }),
        (seed, seats, steps) => {
          const before = randomRoute(drawsFrom(seed), seats);
          let n = 0;
          const after = steps.reduce(
            (plan, own) =>
              edited(
                plan,
                randomEdit(drawsFrom(own), plan, () => `n${++n}`),
              ),
            before,
          );
          const differences = routeDifferences(before, after);
          expect(differences.length === 0).toBe(alike(before, after));
          const naming = { name: (id: string) => id, moment: String, called: (id: string) => id };
          for (const one of differences) expect(differenceWords(one, naming)).toMatch(/\w{4}/);
        },
      ),
      { numRuns: runsOf(300) },
    );
  });
});
