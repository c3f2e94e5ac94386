import { describe, expect, it } from 'vitest';
import { contextOf, controller, sentRun } from '../../../../test/properties/arbitrary';
import { attach, board, decide, nextRound, reassign, route, stage, state } from '../../../../test/properties/scene';
import type { Availability } from '../../route/route';
import { fileUse } from './fileUse';

type Run = ReturnType<typeof sentRun>;
const of = (run: Run, person: string) => fileUse(state(run), person, contextOf(run.now, person));
const free = { print: null, download: null };
const all = (when: Availability) => ({ print: when, download: when });
const held = (when: Exclude<Availability, 'asked'>) => ({ print: when, download: when });

describe('printing and having the files', () => {
  it('is held back as the stage says in which somebody is asked, and by none from whoever writes or steers', () => {
    for (const when of ['never', 'responded', 'released'] as const) {
      const run = sentRun(route(stage('a', 'review', ['petra'], { allows: all(when) }), stage('b', 'read', ['yuki'])));
      expect(of(run, 'petra')).toEqual(held(when));
      for (const person of [controller, 'rufus', 'noor']) expect(of(run, person)).toEqual(free);
      decide(run, 'a-petra', 'petra', 'done');
      expect(of(run, 'petra')).toEqual(when === 'responded' ? free : held(when));
    }
    const run = sentRun(route(stage('a', 'review', ['petra'], { allows: { print: 'never' } })));
    expect(of(run, 'petra')).toEqual({ print: 'never', download: null });
  });

  it('is what the kindest of several stages allows, and stays so in the next round', () => {
    const run = sentRun(
      route(stage('a', 'review', ['petra'], { allows: all('never') }), stage('b', 'review', ['petra', 'yuki'])),
    );
    expect(of(run, 'petra')).toEqual(held('never'));
    decide(run, 'a-petra', 'petra', 'done');
    expect(of(run, 'petra')).toEqual(free);
    const other = sentRun(
      route(stage('a', 'review', ['petra'], { allows: all('never') }), stage('b', 'review', ['yuki'])),
    );
    decide(other, 'a-petra', 'petra', 'done');
    decide(other, 'b-yuki', 'yuki', 'returned');
    attach(other, 2, 7);
    expect(of(other, 'petra')).toEqual(held('never'));
    nextRound(other);
    expect(of(other, 'petra')).toEqual(held('never'));
  });

  it('follows the seat, and holds nothing back from whoever got a copy or once it is released', () => {
    const run = sentRun(route(stage('a', 'review', ['petra'], { allows: all('never') })));
    reassign(run, 'a-petra', 'noor');
    expect(of(run, 'noor')).toEqual(held('never'));
    const copied = sentRun(
      route(
        stage('a', 'review', ['petra'], { allows: all('never') }),
        board('c', 'petra'),
        stage('b', 'read', ['yuki']),
      ),
    );
    expect(of(copied, 'petra')).toEqual(held('never'));
    decide(copied, 'a-petra', 'petra', 'done');
    expect(of(copied, 'petra')).toEqual(free);
    const group = sentRun(route(stage('a', 'review', ['group:board'], { allows: all('responded') })));
    expect(of(group, 'oskar')).toEqual(held('responded'));
    expect(fileUse({ ...state(group), phase: 'completed' }, 'oskar', contextOf(group.now, 'oskar'))).toEqual(free);
  });
});
