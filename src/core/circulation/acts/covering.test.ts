import { describe, expect, it } from 'vitest';
import { absences, contextOf, sentRun, start } from '../../../../test/properties/arbitrary';
import {
  acting,
  attach,
  count,
  decide,
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
import { absenceFault, coverChain, coverCircle, workCoveredBy } from '../../people/cover';
import { holders, keptFrom } from '../run/holders';
import { tasksOf, timersOf } from '../telling/tasks';
import { offers } from './offers';

// Who acts for whom while they are away; who is when is said once for all tests (`absences` in arbitrary.ts).

const day = 24 * 3_600_000;
const asked = (verb: 'review' | 'approve', ...people: string[]) => sentRun(route(stage('a', verb, people)));

describe('cover', () => {
  it('adds whoever covers, from the first instant up to the last, and records for whom they responded', () => {
    const run = asked('approve', 'oskar');
    until(run, start + 2 * day - 2000);
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('not-holder');
    until(run, start + 2 * day);
    expect(acting(run, 'a-oskar')).toEqual(['oskar', 'caspian']);
    const other = { ...run, events: [...run.events] };
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(run.events.find(({ type }) => type === 'seat.decided')).toMatchObject({
      actor: 'caspian',
      onBehalfOf: 'oskar',
      data: { holder: 'oskar', cover: { absences: ['oskar away'], until: start + 12 * day } },
    });
    // The one covered may still respond, in their own right.
    expect(decide(other, 'a-oskar', 'oskar', 'approved')).toBe('ok');
    expect(other.events.find(({ type }) => type === 'seat.decided')).toMatchObject({
      actor: 'oskar',
      onBehalfOf: null,
      data: { cover: null },
    });
  });

  it('that has ended is refused at that instant, though no timer has run', () => {
    const run = asked('approve', 'oskar');
    until(run, start + 12 * day - 2000);
    const there = { ...run, events: [...run.events] };
    expect(decide(there, 'a-oskar', 'caspian', 'approved', {})).toBe('ok');
    expect(timersOf(state(run))).toEqual([]);
    run.now = start + 12 * day - 1000;
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('cover-over');
    expect(decide(run, 'a-oskar', 'noor', 'approved')).toBe('not-holder');
  });

  it('leads to the end of its chain, and gives those in the middle nothing', () => {
    const run = asked('approve', 'noor');
    until(run, start + 4 * day);
    expect(acting(run, 'a-noor')).toEqual(['noor', 'caspian']);
    expect(decide(run, 'a-noor', 'caspian', 'approved')).toBe('ok');
    expect(run.events.find(({ type }) => type === 'seat.decided')).toMatchObject({
      onBehalfOf: 'noor',
      data: { cover: { absences: ['noor away', 'oskar away'], until: start + 9 * day } },
    });
  });

  it('that runs in a circle adds nobody, and is found', () => {
    const run = asked('approve', 'dalia');
    until(run, start + 5 * day);
    expect(acting(run, 'a-dalia')).toEqual(['dalia']);
    const work = { verb: 'approve', type: null } as const;
    expect(coverCircle(absences, 'dalia', work, run.now)).toEqual(['dalia', 'benedikt', 'dalia']);
    expect(coverCircle(absences, 'noor', work, run.now)).toBeNull();
  });

  it('is cut where it meets the author, who was replaced, or who stands in the stage already', () => {
    const approving = asked('approve', 'petra');
    until(approving, start + 2 * day);
    expect(acting(approving, 'a-petra')).toEqual(['petra']);
    const reviewing = asked('review', 'petra');
    until(reviewing, start + 2 * day);
    expect(acting(reviewing, 'a-petra')).toEqual(['petra', 'rufus']);

    const replaced = asked('approve', 'caspian');
    reassign(replaced, 'a-caspian', 'oskar');
    until(replaced, start + 3 * day);
    expect(acting(replaced, 'a-caspian')).toEqual(['oskar']);
    expect(keptFrom(state(replaced), seatOf(replaced, 'a-caspian'))).toEqual(['caspian', 'oskar']);

    const beside = asked('approve', 'oskar', 'caspian');
    until(beside, start + 3 * day);
    expect(acting(beside, 'a-oskar')).toEqual(['oskar']);
  });

  it('leaves whose seat was answered by cover out of a group there', () => {
    const run = asked('approve', 'oskar', 'group:board');
    until(run, start + 3 * day);
    expect(acting(run, 'a-group')).toEqual(['benedikt']);
    expect(decide(run, 'a-oskar', 'caspian', 'approved')).toBe('ok');
    expect(acting(run, 'a-group')).toEqual(['benedikt']);
    expect(decide(run, 'a-group', 'oskar', 'approved')).toBe('not-holder');
  });

  it('for two seats of a stage lets one person take either, and leaves the other', () => {
    const run = asked('approve', 'oskar', 'noor');
    until(run, start + 4 * day);
    // Oskar holds a seat here, so the chain that leads through him is cut.
    expect(acting(run, 'a-noor')).toEqual(['noor']);
    const both = asked('review', 'oskar', 'yuki');
    const covered = absences.map((one) =>
      one.person === 'yuki'
        ? { ...one, from: start, covers: [{ by: 'caspian', verbs: 'all', types: 'all' } as const] }
        : one,
    );
    until(both, start + 3 * day);
    const context = { ...contextOf(both.now, 'caspian'), absences: covered };
    const may = () =>
      ['a-oskar', 'a-yuki'].filter((id) =>
        holders(state(both), seatOf(both, id), context).some(({ person }) => person === 'caspian'),
      );
    expect(may()).toEqual(['a-oskar', 'a-yuki']);
    expect(decide(both, 'a-oskar', 'caspian', 'done')).toBe('ok');
    expect(may()).toEqual([]);
  });

  it('is for the kinds of work it was set for', () => {
    const work = (verb: 'approve' | 'read', type: string | null) =>
      coverChain(absences, 'yuki', { verb, type }, start + 8 * day, () => false)?.map(({ by }) => by);
    expect(work('approve', 'AGR')).toEqual(['petra']);
    expect(work('approve', 'PRO')).toEqual([]);
    expect(work('approve', null)).toEqual([]);
    const petra = (verb: 'approve' | 'read') =>
      coverChain(absences, 'petra', { verb, type: 'PRO' }, start + 2 * day, () => false)?.map(({ by }) => by);
    expect(petra('approve')).toEqual(['rufus']);
    expect(petra('read')).toEqual([]);
    expect(workCoveredBy(absences, 'petra', ['approve', 'read'], ['AGR', 'PRO'], start + 8 * day)).toEqual([
      { person: 'yuki', verb: 'approve', type: 'AGR', chain: ['petra'], from: start + 7 * day, to: start + 20 * day },
      { person: 'yuki', verb: 'read', type: 'AGR', chain: ['petra'], from: start + 7 * day, to: start + 20 * day },
    ]);
    const chained = workCoveredBy(absences, 'caspian', ['sign'], ['PRO'], start + 4 * day);
    expect(chained.map(({ person, chain, from, to }) => [person, chain, from, to])).toEqual([
      ['oskar', ['caspian'], start + 2 * day, start + 12 * day],
      ['noor', ['oskar', 'caspian'], start + 3 * day, start + 9 * day],
    ]);
  });

  it('lets nobody delegate, and does not last over rounds', () => {
    const run = asked('review', 'oskar');
    until(run, start + 3 * day);
    expect(put(run, { type: 'delegate', seat: 'a-oskar', epoch: 1, to: 'yuki', note: null }, 'caspian')).toBe(
      'delegate-not-allowed',
    );
    decide(run, 'a-oskar', 'caspian', 'returned');
    attach(run, 2);
    expect(nextRound(run)).toBe('ok');
    expect(seatOf(run, 'a-oskar').holders.map(({ person }) => person)).toEqual(['oskar']);
    // Asked while he is away, so that whoever covers is asked with him.
    expect(
      run.events.filter(({ type }) => type === 'seat.asked').map(({ data }) => 'covers' in data && data.covers),
    ).toEqual([[], ['caspian']]);
  });

  it('is offered what it may do, and nothing else', () => {
    const run = asked('review', 'oskar');
    until(run, start + 3 * day);
    const may = offers(state(run), contextOf(run.now, 'caspian')).filter(
      (offer) => !offer.refusal && offer.on === 'a-oskar',
    );
    expect(may.map(({ act }) => act)).toEqual(['see', 'decide', 'askQuestion']);
    // Whom cover could not bring there stands with the task, for whoever lists it.
    expect(tasksOf(state(run))).toMatchObject([{ person: 'oskar', kept: ['oskar'] }]);
  });

  it('waits from when it came to the task, where responding has to wait', () => {
    const earliest = { kind: 'wait', from: 'asked', amount: 3, unit: 'days', again: false } as const;
    const run = sentRun(route(stage('a', 'review', ['oskar'], { earliest })));
    until(run, start + 4 * day);
    expect(decide(run, 'a-oskar', 'caspian', 'done')).toBe('too-early');
    expect(decide(run, 'a-oskar', 'oskar', 'done')).toBe('ok');
    const late = sentRun(route(stage('a', 'review', ['oskar'], { earliest })));
    until(late, start + 5 * day);
    expect(decide(late, 'a-oskar', 'caspian', 'done')).toBe('ok');
  });

  it('tells nobody that they can respond who covers no longer', () => {
    const earliest = { kind: 'date', at: start + 12 * day } as const;
    const run = sentRun(route(stage('z', 'read', ['benedikt']), stage('a', 'review', ['oskar'], { earliest })));
    until(run, start + 3 * day);
    decide(run, 'z-benedikt', 'benedikt', 'confirmed');
    until(run, start + 13 * day);
    expect(
      run.events.flatMap((event) => (event.type === 'seat.freed' ? [[event.data.person, event.data.acts]] : [])),
    ).toEqual([
      ['oskar', true],
      ['caspian', false],
    ]);
  });
});

describe('a group whose members are away', () => {
  const board = () => sentRun(route(stage('a', 'approve', ['group:board'])));

  it('lends nobody from outside while one of them is there', () => {
    const run = board();
    until(run, start + 3 * day);
    expect(acting(run, 'a-group')).toEqual(['benedikt', 'oskar']);
    until(run, start + 5 * day);
    expect(acting(run, 'a-group')).toEqual(['benedikt', 'oskar', 'caspian']);
    expect(put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'caspian')).toBe('not-a-member');
    expect(decide(run, 'a-group', 'caspian', 'approved')).toBe('ok');
    expect(run.events.find(({ type }) => type === 'seat.decided')).toMatchObject({
      onBehalfOf: 'oskar',
      data: { holder: 'oskar' },
    });
  });

  it('gets back what somebody had taken who goes away, and not what they take while they are', () => {
    const run = board();
    put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'oskar');
    until(run, start + 2 * day - 1000);
    expect(acting(run, 'a-group')).toEqual(['oskar']);
    expect(decide(run, 'a-group', 'benedikt', 'approved')).toBe('ok');
    expect(count(run, 'seat.givenBack')).toBe(1);
    const away = board();
    until(away, start + 3 * day);
    put(away, { type: 'take', seat: 'a-group', epoch: 1 }, 'oskar');
    until(away, start + 3.5 * day);
    expect(statuses(away)).toEqual({ 'a-group': 'asked' });
    expect(acting(away, 'a-group')).toEqual(['oskar', 'caspian']);
    expect(count(away, 'seat.givenBack')).toBe(0);
  });

  it('gets it back by the very act that asks again what was missed meanwhile', () => {
    const run = sentRun(route(stage('a', 'approve', ['group:board'], { closes: start + day })));
    put(run, { type: 'take', seat: 'a-group', epoch: 1 }, 'oskar');
    until(run, start + 3 * day);
    expect(statuses(run)).toEqual({ 'a-group': 'missed' });
    expect(put(run, { type: 'extend', seat: 'a-group', due: null, closes: null })).toBe('ok');
    expect(statuses(run)).toEqual({ 'a-group': 'asked' });
    expect(seatOf(run, 'a-group').holders).toEqual([]);
  });
});

describe('an absence', () => {
  const mine = { id: 'x', person: 'oskar', from: 10, to: 20, covers: [] };
  const by = (person: string, more = {}) => ({ by: person, verbs: 'all', types: 'all', ...more }) as const;

  it('ends after it begins and after now, lasts two years at most, and overlaps no other of theirs', () => {
    expect(absenceFault(mine, [], 5)).toBeNull();
    expect(absenceFault(mine, [mine], 5)).toBeNull();
    expect(absenceFault(mine, [], 20)).toBe('absence-past');
    expect(absenceFault(mine, [], 19)).toBeNull();
    expect(absenceFault({ ...mine, to: 10 }, [], 5)).toBe('absence-past');
    expect(absenceFault({ ...mine, to: 10 + 3 * 366 * day }, [], 5)).toBe('absence-long');
    expect(absenceFault(mine, [{ ...mine, id: 'y', from: 19, to: 30 }], 5)).toBe('absence-overlaps');
    expect(absenceFault(mine, [{ ...mine, id: 'y', from: 20, to: 30 }], 5)).toBeNull();
    expect(absenceFault(mine, [{ ...mine, id: 'y', person: 'petra' }], 5)).toBeNull();
  });

  it('has one cover for each kind of work, and nobody covers for themselves', () => {
    expect(absenceFault({ ...mine, covers: [by('oskar')] }, [], 5)).toBe('cover-self');
    expect(absenceFault({ ...mine, covers: [by('petra'), by('noor')] }, [], 5)).toBe('cover-twice');
    const parted = [by('petra', { verbs: ['sign'] }), by('noor', { verbs: ['approve', 'read'] })];
    expect(absenceFault({ ...mine, covers: parted }, [], 5)).toBeNull();
    const typed = [by('petra', { verbs: ['sign'], types: ['AGR'] }), by('noor', { verbs: ['sign'] })];
    expect(absenceFault({ ...mine, covers: typed }, [], 5)).toBe('cover-twice');
  });
});
