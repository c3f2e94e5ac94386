import { describe, expect, it } from 'vitest';
import { contextOf, hour, sentRun, start } from '../../../test/properties/arbitrary';
import { decide, freeze, put, route, stage, state } from '../../../test/properties/scene';
import type { RecordState, Revision } from '../record/record';
import { type Actor, involvedIn } from './may';
import { type FileSight, filesOfCirculation, isSeen, receiptDays, sightOf } from './sight';

const member = (person: string, ...roles: ('controller' | 'administrator')[]): Actor => ({
  kind: 'member',
  person,
  roles,
});
const link = (seat: string, epoch = 1, person = 'lotte'): Actor => ({
  kind: 'link',
  person,
  circulation: 'c1',
  seat,
  epoch,
});
const nobody: Actor = { kind: 'nobody' };
const shut: FileSight = { see: 'apart', print: 'apart', download: 'apart' };
const over: FileSight = { see: 'over', print: 'over', download: 'over' };
const free: FileSight = { see: null, print: null, download: null };

const use = { allows: { print: 'asked', download: 'responded' } } as const;
/** Sent to Petra, then to Lotte outside, who signs. */
const signed = () => sentRun(route(stage('a', 'review', ['petra'], use), stage('b', 'sign', ['lotte'], use)), 2);

function seen(run: ReturnType<typeof signed>, actor: Actor, now = run.now) {
  const of = state(run);
  const rights = {
    kind: 'circulation' as const,
    id: 'c1',
    controller: of.controller,
    author: of.author,
    involved: involvedIn(of),
    leads: [],
  };
  const person = actor.kind === 'member' || actor.kind === 'link' ? actor.person : '';
  return sightOf({ kind: 'circulation', state: of, rights }, actor, contextOf(now, person));
}

describe('who sees which file of a circulation', () => {
  it('is nobody whom it does not concern', () => {
    const run = signed();
    for (const actor of [nobody, member('noor'), link('a-petra'), { ...link('b-lotte'), circulation: 'c2' } as Actor])
      expect([...seen(run, actor).values()]).toEqual([shut, shut]);
    expect(isSeen(seen(run, member('petra')), 'no file of it')).toBe(false);
  });

  it('is everybody inside whom it concerns, each to print and keep as their stage says', () => {
    const run = signed();
    expect([...seen(run, member('petra')).values()]).toEqual(
      Array(2).fill({ see: null, print: null, download: 'responded' }),
    );
    expect([...seen(run, member('ines')).values()]).toEqual([free, free]);
    expect(decide(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect([...seen(run, member('petra')).values()]).toEqual([free, free]);
    expect([...seen(run, member('petra')).keys()]).toEqual([...filesOfCirculation(state(run))]);
  });

  it('is whoever has a link while their seat is asked, no longer once it is not, and again for a time after release', () => {
    const run = signed();
    // Not asked yet.
    expect([...seen(run, link('b-lotte')).values()]).toEqual([over, over]);
    decide(run, 'a-petra', 'petra', 'done');
    for (const file of ['f1', 'f2']) freeze(run, file);
    const frozen = [...state(run).frozen.values()].flatMap(({ chain }) => chain);
    expect(frozen.length).toBeGreaterThan(0);
    const asked = seen(run, link('b-lotte'));
    for (const file of filesOfCirculation(state(run)))
      expect(asked.get(file), file).toEqual({ see: null, print: null, download: 'responded' });
    // Another link of the seat, or another one's, opens nothing.
    expect([...seen(run, link('b-lotte', 2)).values()].every(({ see }) => see === 'apart')).toBe(true);
    expect(decide(run, 'b-lotte', 'lotte', 'signed')).toBe('ok');
    expect([...seen(run, link('b-lotte')).values()].every(({ see }) => see === 'over')).toBe(true);
    const finals = ['f1', 'f2'].map((id, i) => ({ id, file: String(i + 1).repeat(64) }));
    expect(put(run, { type: 'keepFinals', files: finals, identifier: 'x' }, 'system')).toBe('ok');
    const evidence = 'e'.repeat(64);
    const revisions = [{ record: 'rec', revision: 'B' }];
    expect(put(run, { type: 'complete', revisions, effective: run.now, evidence })).toBe('ok');
    const ended = state(run).ended as number;
    const kept = (now: number) => finals.map(({ file }) => seen(run, link('b-lotte'), now).get(file)?.see);
    const last = ended + receiptDays * 24 * hour;
    expect(kept(ended)).toEqual([null, null]);
    expect(kept(last)).toEqual([null, null]);
    expect(kept(last + 1)).toEqual(['over', 'over']);
    // The sheet of evidence is not for people outside.
    expect(seen(run, link('b-lotte')).get(evidence)).toEqual(shut);
    expect(seen(run, member('petra')).get(evidence)?.see).toBeNull();
  });
});

describe('who sees which file of a draft or a record', () => {
  it('is its author and its controller while it is worked on', () => {
    const of = (actor: Actor) => [
      ...sightOf(
        { kind: 'draft', author: 'rufus', controller: 'ines', files: ['one', 'two'] },
        actor,
        contextOf(start, ''),
      ),
    ];
    expect(of(member('rufus'))).toEqual([
      ['one', free],
      ['two', free],
    ]);
    expect(of(member('ines'))[1]).toEqual(['two', free]);
    expect(of(member('petra'))[0]).toEqual(['one', shut]);
    expect(of(nobody)[0]).toEqual(['one', shut]);
  });

  it('is every member once it is released, with its evidence', () => {
    const revision = (name: string, file: string, evidence: string | null): Revision => ({
      revision: name,
      title: 'Rope inspection',
      files: [{ id: 'f1', name: 'a', content: file, file }],
      evidence,
      sight: 'everybody',
      effective: 0,
      released: 0,
      by: 'ines',
      circulation: 'c1',
    });
    const record: RecordState = {
      number: 'MR-PRO-014',
      title: 'Rope inspection',
      documentType: 'PRO',
      owner: 'rufus',
      unit: null,
      details: {},
      complete: true,
      created: 0,
      last: 0,
      changes: [],
      revisions: [revision('A', 'one', null), revision('B', 'two', 'sheet')],
    };
    const of = (actor: Actor) => [...sightOf({ kind: 'record', record }, actor, contextOf(start, ''))];
    expect(of(member('noor'))).toEqual([
      ['one', free],
      ['two', free],
      ['sheet', free],
    ]);
    for (const actor of [nobody, link('b-lotte')])
      expect(of(actor).map(([, sight]) => sight)).toEqual([shut, shut, shut]);
  });
});
