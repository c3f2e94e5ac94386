import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { VersionFile } from '../circulation/run/shapes';
import { nextRevision, numberIn, numberOf, numberPrefix, schemeFits } from './numbering';
import {
  changeInWork,
  comingRevision,
  currentRevision,
  foldRecord,
  hasItsPages,
  type RecordEvent,
  recordRefusal,
} from './record';

describe('numbering', () => {
  it('writes a counter into its scheme and reads it out of it again', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 99_999 }), (n) => {
        const number = numberOf('MR-PRO-000', n);
        expect(number).toBe(`MR-PRO-${String(n).padStart(3, '0')}`);
        expect(numberIn('MR-PRO-000', number)).toBe(n);
        expect(number.startsWith(numberPrefix('MR-PRO-000'))).toBe(true);
      }),
    );
    for (const other of ['MR-WI-052', 'MR-PRO-19x', 'odd', 'MR-PRO-']) expect(numberIn('MR-PRO-000', other)).toBeNull();
    expect(numberOf('C-0', 12)).toBe('C-12');
    expect(schemeFits('MR-PRO-000')).toBe(true);
    expect(schemeFits('00-00')).toBe(false);
    expect(schemeFits('MR-PRO')).toBe(false);
  });

  it('goes through the revisions without a repeat', () => {
    let revision: string | null = null;
    const seen = new Set<string>();
    for (let i = 0; i < 800; i += 1) {
      revision = nextRevision(revision);
      expect(seen.has(revision)).toBe(false);
      seen.add(revision);
    }
    expect([...seen].slice(0, 3)).toEqual(['A', 'B', 'C']);
    expect([...seen].slice(25, 28)).toEqual(['Z', 'AA', 'AB']);
  });
});

const at = (n: number) => ({ at: n, actor: 'ines', onBehalfOf: null }) as const;
const main = {
  id: 'main',
  file: 'f'.repeat(64),
  name: 'a.pdf',
  role: 'document',
  record: 'r1',
  mediaType: 'application/pdf',
  bytes: 10,
} as const;
const text = { id: 'main', record: 'r1', name: 'a', source: 'e'.repeat(64) };
const life: RecordEvent[] = [
  {
    type: 'record.created',
    ...at(1),
    data: {
      number: 'MR-PRO-019',
      title: 'Brake test',
      documentType: 'PRO',
      owner: 'rufus',
      unit: null,
      details: {},
      complete: true,
    },
  },
  {
    type: 'change.started',
    ...at(2),
    data: {
      change: 'c1',
      circulation: 'x1',
      records: ['r1'],
      revision: 'A',
      reason: 'w',
      author: 'rufus',
      controller: 'ines',
    },
  },
  {
    type: 'version.made',
    ...at(3),
    data: { change: 'c1', number: 1, order: ['main'], sources: [text], files: [], note: null },
  },
  { type: 'version.rendered', ...at(4), data: { change: 'c1', number: 1, file: main } },
  {
    type: 'revision.released',
    ...at(5),
    data: {
      change: 'c1',
      circulation: 'x1',
      revision: 'A',
      version: 1,
      title: 'Brake test',
      files: [{ id: 'main', name: 'a.pdf', content: main.file, file: 'd'.repeat(64) }],
      evidence: null,
      sight: 'everybody',
      effective: 5,
    },
  },
];

describe('a record', () => {
  it('keeps what is released and what is in work apart', () => {
    const before = foldRecord(life.slice(0, 4));
    const after = foldRecord(life);
    if (!before || !after) throw new Error('no record');
    expect(currentRevision(before)).toBeNull();
    expect(changeInWork(before)?.versions[0]?.files).toEqual([main]);
    expect(changeInWork(after)).toBeNull();
    expect(currentRevision(after)?.revision).toBe('A');
    expect(comingRevision(after)).toBe('B');
  });

  it('refuses a second change, a version out of turn, a version without a file, and work on what is over', () => {
    const open = foldRecord(life.slice(0, 2));
    const over = foldRecord(life);
    const [, start, made, rendered] = life;
    if (!start || !made || !rendered) throw new Error('no life');
    expect(recordRefusal(null, start)).toBe('record-not-found');
    expect(recordRefusal(open, start)).toBe('in-work-already');
    expect(recordRefusal(over, start)).toBeNull();
    expect(recordRefusal(open, made)).toBeNull();
    expect(recordRefusal(over, made)).toBe('change-over');
    const make = (number: number, sources: (typeof text)[], files: VersionFile[]) =>
      recordRefusal(open, {
        type: 'version.made',
        data: { change: 'c1', number, order: ['main'], sources, files, note: null },
      });
    expect(make(2, [text], [])).toBe('version-order');
    expect(make(1, [], [])).toBe('no-document');
    expect(make(1, [], [{ ...main, role: 'attachment' }])).toBe('no-document');
    expect(make(1, [], [main])).toBeNull();
    expect(recordRefusal(foldRecord(life.slice(0, 4)), rendered)).toBe('rendered-already');
    const other = { type: 'version.rendered', data: { change: 'c1', number: 1, file: { ...main, id: 'b' } } } as const;
    expect(recordRefusal(foldRecord(life.slice(0, 4)), other)).toBe('no-document');
  });
});

describe('a version of several documents', () => {
  it('has its pages when each has them, in the order of the draft, whichever were there at once', () => {
    const two = { ...text, id: 'second' };
    const extra = { ...main, id: 'extra', role: 'attachment' as const };
    const made: RecordEvent = {
      type: 'version.made',
      ...at(3),
      data: {
        change: 'c1',
        number: 1,
        order: ['main', 'kept', 'second'],
        sources: [text, two],
        files: [{ ...main, id: 'kept' }, extra],
        note: null,
      },
    };
    const rendered = (id: string): RecordEvent => ({
      type: 'version.rendered',
      ...at(4),
      data: { change: 'c1', number: 1, file: { ...main, id } },
    });
    const filesAfter = (...events: RecordEvent[]) => {
      const state = foldRecord([...life.slice(0, 2), made, ...events]);
      const version = state && changeInWork(state)?.versions[0];
      return [version && hasItsPages(version), version?.files.map((file) => file.id)];
    };
    expect(filesAfter()).toEqual([false, ['kept', 'extra']]);
    expect(filesAfter(rendered('second'))).toEqual([false, ['kept', 'second', 'extra']]);
    expect(filesAfter(rendered('second'), rendered('main'))).toEqual([true, ['main', 'kept', 'second', 'extra']]);
  });
});
