import { describe, expect, it } from 'vitest';
import { contextOf, controller, sentRun, start } from '../../../../test/properties/arbitrary';
import {
  acting,
  amend,
  attach,
  decide,
  fork,
  linesOf,
  nextRound,
  put,
  reassign,
  route,
  seatOf,
  stage,
  state,
  statuses,
  until,
} from '../../../../test/properties/scene';
import type { RouteEdit } from '../../route/edit';
import { preflight } from '../../route/preflight';
import { independentStages } from '../../route/route';
import { subjectOf } from '../plan/readiness';
import { leftAlone } from '../rounds/round';
import type { Context } from '../run/context';
import { scopeOf } from '../run/state';
import { tasksOf } from '../telling/tasks';
import { decide as decideCommand } from './decide';
import { offers } from './offers';

// Stages that need different people: whoever has responded in one does not respond in the other.

const day = 24 * 3_600_000;
/** Two stages at once, the second independent of the first, each for any member of the board: Benedikt and Oskar. */
const boards = () =>
  sentRun(
    route(
      fork(
        { kind: 'all' },
        [stage('a', 'approve', ['group:board'])],
        [stage('b', 'approve', ['group:board'], { independentOf: ['a'] })],
      ),
    ),
  );

describe('stages that need different people', () => {
  it('are so for each other, whichever of the two asks for it', () => {
    const plan = route(stage('a', 'approve', ['petra']), stage('b', 'approve', ['yuki'], { independentOf: ['a'] }));
    expect([...independentStages(plan)]).toEqual([
      ['b', ['a']],
      ['a', ['b']],
    ]);
    for (const first of ['a', 'b']) {
      const second = first === 'a' ? 'b' : 'a';
      const run = boards();
      expect(decide(run, `${first}-group`, 'oskar', 'declined')).toBe('ok');
      expect(acting(run, `${second}-group`)).toEqual(['benedikt']);
      expect(decide(run, `${second}-group`, 'oskar', 'approved')).toBe('independent');
      expect(decide(run, `${second}-group`, 'benedikt', 'approved')).toBe('ok');
    }
  });

  it('let somebody who could respond in either take one, and leave the other to the controller', () => {
    const run = sentRun(
      route(
        fork(
          { kind: 'all' },
          [stage('a', 'approve', ['yuki'])],
          [stage('b', 'approve', ['petra'], { independentOf: ['a'] })],
        ),
      ),
    );
    // What the check before sending would stop comes to be under way.
    expect(reassign(run, 'b-petra', 'yuki')).toBe('ok');
    expect(acting(run, 'a-yuki')).toEqual(['yuki']);
    expect(decide(run, 'b-petra', 'yuki', 'approved')).toBe('ok');
    expect(acting(run, 'a-yuki')).toEqual([]);
    expect(decide(run, 'a-yuki', 'yuki', 'approved')).toBe('independent');
    expect(tasksOf(state(run))).toContainEqual(
      expect.objectContaining({ person: controller, doing: 'resolveStop', seat: 'a-yuki' }),
    );
    expect(reassign(run, 'a-yuki', 'noor')).toBe('ok');
    expect(decide(run, 'a-yuki', 'noor', 'approved')).toBe('ok');
    expect(state(run).phase).toBe('finishing');
  });

  it('are not given to whoever has responded in the other, by reassigning, delegating, naming or a second holder', () => {
    const run = sentRun(
      route(
        stage('a', 'approve', ['petra', 'yuki'], { rule: { kind: 'any' } }),
        stage('b', 'approve', ['noor'], { independentOf: ['a'] }),
        stage('c', 'approve', ['named:b-noor'], { independentOf: ['a'] }),
      ),
    );
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    const epoch = () => seatOf(run, 'b-noor').epoch;
    expect(reassign(run, 'b-noor', 'petra')).toBe('independent');
    expect(put(run, { type: 'addSecondHolder', seat: 'b-noor', person: 'petra' })).toBe('independent');
    expect(put(run, { type: 'delegate', seat: 'b-noor', epoch: epoch(), to: 'petra', note: null }, 'noor')).toBe(
      'independent',
    );
    const naming = { type: 'name', seat: 'b-noor', epoch: epoch(), names: 'c-named', to: 'petra' } as const;
    expect(put(run, naming, 'noor')).toBe('independent');
    const offered = offers(state(run), contextOf(run.now, controller));
    expect(offered.find(({ act, on }) => act === 'reassign' && on === 'b-noor')?.needs?.not).toContain('petra');
    // Whoever was asked there and did not respond may.
    expect(reassign(run, 'b-noor', 'yuki')).toBe('ok');
  });

  it('leave out of a group of which everybody is asked who has responded in the other', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['benedikt']), stage('b', 'approve', ['every:board'], { independentOf: ['a'] })),
    );
    expect(decide(run, 'a-benedikt', 'benedikt', 'approved')).toBe('ok');
    expect(run.events.find(({ type }) => type === 'group.resolved')).toMatchObject({
      data: { members: [{ person: 'oskar' }], leftOut: ['benedikt'] },
    });
  });

  it('cut cover that leads to whoever has responded in the other', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['caspian']), stage('b', 'approve', ['oskar'], { independentOf: ['a'] })),
    );
    expect(decide(run, 'a-caspian', 'caspian', 'approved')).toBe('ok');
    until(run, start + 3 * day);
    // Caspian covers for Oskar now.
    expect(acting(run, 'b-oskar')).toEqual(['oskar']);
    expect(decide(run, 'b-oskar', 'caspian', 'approved')).toBe('not-holder');
  });

  it('count one person under two entries as one', () => {
    const run = sentRun(
      route(stage('a', 'approve', ['petra']), stage('b', 'approve', ['yuki'], { independentOf: ['a'] })),
    );
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    const known = contextOf(run.now, 'yuki');
    const people = new Map(known.people);
    for (const id of ['petra', 'yuki'])
      people.set(id, {
        outside: false,
        active: true,
        zone: 'Europe/Oslo',
        calendar: null,
        identity: 'one and the same',
      });
    const context: Context = { ...known, people };
    const seat = seatOf(run, 'b-yuki');
    const scope = scopeOf(state(run), seat) ?? '';
    const result = decideCommand(
      state(run),
      {
        type: 'decide',
        seat: seat.id,
        epoch: seat.epoch,
        scope,
        outcome: 'approved',
        note: null,
        filled: [],
        evidence: null,
      },
      context,
    );
    expect(result.ok ? null : result.refusal.code).toBe('independent');
  });

  it('are found before sending where one person is asked in both', () => {
    const plan = route(
      stage('a', 'approve', ['petra', 'oskar']),
      stage('b', 'approve', ['oskar', 'group:board'], { independentOf: ['a'] }),
      stage('c', 'approve', ['petra']),
    );
    const run = sentRun(route(stage('x', 'approve', ['noor'])));
    const subject = { ...subjectOf(state(run), contextOf(run.now, controller)), route: plan };
    expect(preflight(subject).filter(({ severity }) => severity === 'stops')).toEqual([
      { code: 'twice-apart', severity: 'stops', stage: 'b', seat: 'b-oskar', about: 'a' },
    ]);
    for (const independentOf of [['b'], ['nowhere']]) {
      const odd = route(stage('a', 'approve', ['petra']), stage('b', 'approve', ['oskar'], { independentOf }));
      expect(preflight({ ...subject, route: odd }).map(({ code }) => code)).toContain('independence-unfit');
    }
  });

  it('stay so for the stage under way, and are not asked for where one person has responded in both', () => {
    const plan = route(
      fork({ kind: 'all' }, [stage('a', 'approve', ['petra', 'noor'])], [stage('b', 'approve', ['yuki'])]),
      stage('c', 'approve', ['petra']),
    );
    const run = sentRun(plan);
    const apart = (of: string, independentOf: string[]) =>
      amend(run, [{ do: 'change', stage: of, with: { independentOf } }]);
    expect(apart('b', ['a'])).toBe('amend-reached');
    // Petra is asked in both, as planned; that is said before anybody is left with nobody.
    expect(apart('c', ['a'])).toBe('preflight');
    expect(apart('c', ['b'])).toBe('ok');
    expect(decide(run, 'b-yuki', 'yuki', 'approved')).toBe('ok');
    expect(reassign(run, 'c-petra', 'yuki')).toBe('independent');
  });
});

describe('an amendment', () => {
  it('asks for no different people where one person has responded in both, by cover or themselves', () => {
    const run = sentRun(
      route(
        stage('a', 'approve', ['oskar']),
        stage('b', 'approve', ['yuki']),
        stage('c', 'approve', ['caspian']),
        stage('d', 'approve', ['dalia']),
      ),
    );
    for (const [seat, by] of [
      ['a-oskar', 'oskar'],
      ['b-yuki', 'yuki'],
      ['c-caspian', 'caspian'],
    ] as const)
      expect(decide(run, seat, by, 'approved')).toBe('ok');
    expect(decide(run, 'd-dalia', 'dalia', 'returned')).toBe('ok');
    // What Caspian has responded is kept ahead of its turn, and covering for Oskar he responds in the first stage.
    expect(nextRound(run, { ask: ['a-oskar', 'b-yuki'] })).toBe('ok');
    until(run, start + 3 * day);
    const other = { ...run, events: [...run.events] };
    const apart: RouteEdit = { do: 'change', stage: 'c', with: { independentOf: ['a'] } };
    expect(amend(other, [apart])).toBe('ok');
    expect(decide(other, 'a-oskar', 'caspian', 'approved')).toBe('not-holder');
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(amend(run, [apart])).toBe('amend-independent');
  });
});

describe('a next round of stages that need different people', () => {
  /** Petra has responded in the second stage on one content and, after a swap, in the first on another. */
  const swapped = () => {
    const run = sentRun(
      route(
        stage('a', 'approve', ['petra']),
        stage('b', 'approve', ['yuki'], { independentOf: ['a'] }),
        stage('c', 'approve', ['dalia']),
      ),
    );
    expect(decide(run, 'a-petra', 'petra', 'approved')).toBe('ok');
    expect(decide(run, 'b-yuki', 'yuki', 'approved')).toBe('ok');
    expect(decide(run, 'c-dalia', 'dalia', 'returned')).toBe('ok');
    expect(attach(run, 2, 2)).toBe('ok');
    // They change places for the second content.
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(nextRound(run)).toBe('ok');
    expect(decide(run, 'a-petra', 'noor', 'approved')).toBe('ok');
    expect(reassign(run, 'b-yuki', 'petra')).toBe('ok');
    expect(decide(run, 'b-yuki', 'petra', 'approved')).toBe('ok');
    expect(decide(run, 'c-dalia', 'dalia', 'returned')).toBe('ok');
    // Whoever has responded in the one is not given the other, in rework too, unless both change.
    expect(reassign(run, 'a-petra', 'petra')).toBe('independent');
    expect(reassign(run, 'b-yuki', 'yuki')).toBe('ok');
    expect(reassign(run, 'a-petra', 'petra')).toBe('ok');
    expect(reassign(run, 'b-yuki', 'petra')).toBe('ok');
    return run;
  };

  it('keeps one of two responses of one person, asks the later, and refuses both', () => {
    const run = swapped();
    // Petra's earlier yes in the first stage was given on the first content, the later in the second on the second.
    expect(attach(run, 3, 1)).toBe('ok');
    const lines = linesOf(state(run));
    expect(lines.find(({ seat }) => seat === 'a-petra')).toMatchObject({ keep: true, reason: 'unchanged' });
    expect(lines.find(({ seat }) => seat === 'b-yuki')).toMatchObject({ keep: false, reason: 'changed' });
    expect(nextRound(run, { keep: ['b-yuki'] })).toBe('keep-twice');
    expect(leftAlone(state(run), contextOf(0, controller))).toEqual([
      { seat: 'b-yuki', kept: 'a-petra' },
      { seat: 'a-petra', kept: 'b-yuki' },
    ]);
    expect(nextRound(run)).toBe('ok');
    // Whose the second is has responded in the first: the controller gives it to somebody else.
    expect(statuses(run)).toMatchObject({ 'a-petra': 'decided', 'b-yuki': 'asked' });
    expect(acting(run, 'b-yuki')).toEqual([]);
    expect(reassign(run, 'b-yuki', 'oskar')).toBe('ok');
    expect(decide(run, 'b-yuki', 'oskar', 'approved')).toBe('ok');
  });

  it('says that it would count twice what was kept by choice in the first', () => {
    const run = swapped();
    // Both contents are accepted as what they had responded to: an override of the first stands beside an unchanged second.
    expect(attach(run, 3, 2)).toBe('ok');
    expect(
      linesOf(state(run))
        .filter(({ keep }) => keep)
        .map(({ seat }) => seat),
    ).toEqual(['b-yuki']);
    expect(nextRound(run, { keep: ['a-petra'] })).toBe('keep-twice');
    expect(nextRound(run, { keep: ['a-petra'], ask: ['b-yuki'] })).toBe('ok');
    expect(decide(run, 'c-dalia', 'dalia', 'returned')).toBe('seat-not-asked');
    expect(reassign(run, 'b-yuki', 'oskar')).toBe('ok');
    expect(decide(run, 'b-yuki', 'oskar', 'returned')).toBe('ok');
    expect(reassign(run, 'a-petra', 'noor')).toBe('ok');
    expect(reassign(run, 'b-yuki', 'petra')).toBe('ok');
    expect(reassign(run, 'a-petra', 'petra')).toBe('ok');
    // Now both are on the present content: the later of the two is asked.
    const lines = linesOf(state(run));
    expect(lines.find(({ seat }) => seat === 'a-petra')).toMatchObject({ keep: true, reason: 'unchanged' });
    expect(lines.find(({ seat }) => seat === 'b-yuki')).toMatchObject({ keep: false, reason: 'twice' });
  });
});

describe('a next round of one stage', () => {
  it('does not keep two responses of one person who covered for two others', () => {
    const run = sentRun(route(stage('a', 'approve', ['oskar', 'noor']), stage('b', 'approve', ['dalia'])));
    until(run, start + 4 * day);
    // Caspian covers for Oskar, and did so for the first content; for the second he covers for Noor.
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(decide(run, 'a-noor', 'noor', 'approved')).toBe('ok');
    expect(decide(run, 'b-dalia', 'dalia', 'returned')).toBe('ok');
    expect(attach(run, 2, 2)).toBe('ok');
    expect(reassign(run, 'a-noor', 'yuki')).toBe('ok');
    expect(nextRound(run)).toBe('ok');
    expect(decide(run, 'a-oskar', 'oskar', 'approved')).toBe('ok');
    expect(reassign(run, 'a-noor', 'caspian')).toBe('ok');
    expect(decide(run, 'a-noor', 'caspian', 'approved')).toBe('ok');
    expect(decide(run, 'b-dalia', 'dalia', 'returned')).toBe('ok');
    expect(attach(run, 3, 1)).toBe('ok');
    expect(linesOf(state(run)).find(({ seat }) => seat === 'a-oskar')).toMatchObject({ keep: true, decision: 0 });
    expect(nextRound(run, { keep: ['a-noor'] })).toBe('keep-twice');
    expect(nextRound(run)).toBe('ok');
  });
});
