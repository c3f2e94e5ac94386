import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { play, scenario, sentRun } from '../../../../test/properties/arbitrary';
import { attach, decide, nextRound, put, reassign, route, stage } from '../../../../test/properties/scene';
import { runsOf } from '../../../../test/setting';
import type { Copies } from '../../route/route';
import { history } from './history';
import { sentence } from './sentences';

const telling = { name: (person: string) => person, moment: (at: number) => `at ${at}`, value: () => 'so much' };
const told = (events: Parameters<typeof history>[0]) => history(events).map((line) => sentence(line, telling));

describe('the history of a circulation', () => {
  it('tells of every beginning what it tells of the whole: nothing that came later changes a sentence', () => {
    fc.assert(
      fc.property(scenario, fc.nat(), (given, at) => {
        const { events } = play(given);
        const whole = told(events);
        expect(whole.length).toBe(events.length);
        const length = at % (events.length + 1);
        expect(told(events.slice(0, length))).toEqual(whole.slice(0, length));
        for (const line of whole) expect(line).not.toMatch(/undefined|null|NaN|\s{2}|^\s|\s$/);
      }),
      { numRuns: runsOf(100) },
    );
  });

  it('names who held the seat then, not who holds it today', () => {
    const run = sentRun(route(stage('a', 'approve', ['oskar']), stage('b', 'review', ['yuki'])));
    put(run, { type: 'remind', seat: 'a-oskar' });
    put(run, { type: 'addSecondHolder', seat: 'a-oskar', person: 'noor' });
    reassign(run, 'a-oskar', 'petra');
    put(run, { type: 'remind', seat: 'a-oskar' });
    decide(run, 'a-oskar', 'noor', 'returned');
    attach(run, 2);
    nextRound(run);
    const lines = told(run.events).filter((line) => !/started|completed/.test(line));
    expect(lines.slice(3)).toEqual([
      'oskar was asked to approve',
      'ines reminded oskar',
      'ines added noor as a second holder beside oskar',
      'ines reassigned it from oskar to petra',
      'ines reminded petra',
      'noor returned it for rework for petra',
      'Rework began; nobody responds before the next round',
      'ines submitted version 2',
      'ines began round 2',
      'petra was asked to approve',
    ]);
  });

  it('says what a condition was decided from in the words of that moment, and whom a group became', () => {
    const declined = { kind: 'outcome', stage: 'a', outcome: 'declined' } as const;
    const unit = { kind: 'record', field: 'unit', is: 'is', value: 'contracts' } as const;
    const run = sentRun(
      route(
        stage('a', 'review', ['petra', 'yuki'], { rule: { kind: 'any' }, onDecline: 'count' }),
        stage('b', 'approve', ['every:board', 'oskar'], { condition: { kind: 'all', of: [declined, unit] } }),
      ),
    );
    decide(run, 'a-petra', 'petra', 'declined');
    decide(run, 'a-yuki', 'yuki', 'done');
    const lines = told(run.events);
    expect(lines).toContain('Approval takes part: in review (stage 1) somebody declined and unit Contracts');
    expect(lines).toContain('Board was resolved to benedikt, without oskar');
  });

  it('tells who filled which role, and nothing of one that only gets a hidden copy', () => {
    const copies = (id: string, role: string, hidden: boolean): Copies => ({
      kind: 'copies',
      id,
      to: [{ id: `${id}-to`, assignment: { kind: 'role', role } }],
      hidden,
    });
    const planned = route(stage('a', 'review', ['role:safety']));
    const whole = { ...planned, parts: [...planned.parts, copies('c', 'owner', false), copies('d', 'author', true)] };
    expect(told(sentRun(whole).events)).toContain('ines sent version 1; safety manager: petra; owner: rufus');
  });

  it('tells what was said with a decision once, not again with the comment it left', () => {
    const run = sentRun(route(stage('a', 'approve', ['oskar', 'petra'])));
    const file = run.state?.versions[0]?.files[0]?.file ?? '';
    put(run, { type: 'comment', comment: 'own', thread: null, file, spot: null, note: 'a comment' }, 'petra');
    decide(run, 'a-oskar', 'oskar', 'approvedWithComments', { note: 'mind it' });
    const notes = history(run.events).flatMap(({ type, note }) => (note === null ? [] : [[type, note]]));
    expect(notes.slice(-2)).toEqual([
      ['comment.made', 'a comment'],
      ['seat.decided', 'mind it'],
    ]);
  });

  it('says which version, round, outcome and time an event was about', () => {
    const run = sentRun(route(stage('a', 'contribute', ['oskar']), stage('b', 'review', ['yuki'])));
    const due = run.now + 90_000_000;
    put(run, { type: 'extend', seat: 'a-oskar', due, closes: null });
    decide(run, 'a-oskar', 'oskar', 'done');
    decide(run, 'b-yuki', 'yuki', 'done');
    const lines = told(run.events);
    expect(lines).toContain(`ines extended the time of oskar, due at ${due}`);
    expect(lines).toContain('oskar completed the contribution');
    expect(lines).toContain('yuki completed the review');
    expect(lines.slice(-2)).toEqual(['Review completed', 'All responses are in; the final file is being made']);
  });
});
