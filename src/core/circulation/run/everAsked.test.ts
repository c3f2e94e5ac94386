import { describe, expect, it } from 'vitest';
import { contextOf, sentRun, start } from '../../../../test/properties/arbitrary';
import { acting, decide, put, reassign, route, seatOf, stage, state, until } from '../../../../test/properties/scene';
import { coverOver } from '../acts/guarding';
import { everAsked } from './everAsked';

const day = 24 * 3_600_000;

describe('whether somebody was ever asked', () => {
  it('is so for whoever held a seat that was asked, by whatever way, and stays so when it is given to another', () => {
    const run = sentRun(route(stage('a', 'review', ['petra', 'group:rescue']), stage('b', 'approve', ['oskar'])));
    const asked = (person: string) => everAsked(run.events, person);
    expect(['petra', 'oskar', 'yuki', 'noor'].map(asked)).toEqual([true, false, false, false]);
    reassign(run, 'a-petra', 'yuki');
    expect(['petra', 'yuki'].map(asked)).toEqual([true, true]);
    put(
      run,
      { type: 'delegate', seat: 'a-petra', epoch: seatOf(run, 'a-petra').epoch, to: 'noor', note: null },
      'yuki',
    );
    expect(asked('noor')).toBe(true);
    // Before its turn nobody is told, whether it is given to them or they are added.
    put(run, { type: 'addSecondHolder', seat: 'b-oskar', person: 'benedikt' });
    reassign(run, 'b-oskar', 'caspian');
    expect(['oskar', 'benedikt', 'caspian'].map(asked)).toEqual([false, false, false]);
    put(run, { type: 'addSecondHolder', seat: 'a-petra', person: 'benedikt' });
    expect(asked('benedikt')).toBe(true);
    const member = acting(run, 'a-group').find((one) => !asked(one)) ?? '';
    expect(put(run, { type: 'take', seat: 'a-group', epoch: seatOf(run, 'a-group').epoch }, member)).toBe('ok');
    expect(asked(member)).toBe(true);
  });

  it('is so for whoever was asked because they cover', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    until(run, start + 3 * day);
    expect(everAsked(run.events, 'caspian')).toBe(false);
    decide(run, 'a-petra', 'petra', 'done');
    expect(acting(run, 'b-oskar')).toEqual(['oskar', 'caspian']);
    expect(everAsked(run.events, 'caspian')).toBe(true);
  });
});

describe('cover that is over', () => {
  it('is told of what was asked while it ran, and of nothing that was asked since', () => {
    const end = start + 12 * day;
    const during = sentRun(route(stage('a', 'approve', ['oskar'])));
    until(during, end);
    const over = (run: typeof during) =>
      coverOver(state(run), seatOf(run, 'a-oskar'), contextOf(run.now, 'caspian'))?.code ?? null;
    expect(over(during)).toBe('cover-over');
    const since = { ...seatOf(during, 'a-oskar'), since: end };
    expect(coverOver(state(during), since, contextOf(during.now, 'caspian'))).toBe(null);
  });
});
