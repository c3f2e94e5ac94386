import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { csvOut, isFormula, type Table, tableIn, textOfBytes } from '../formats/csv';
import { checkedTable, type Known } from './table';

const person = (id: string, more: object = {}) => ({
  id,
  name: id,
  work: '',
  unit: '',
  zone: 'Europe/Oslo',
  calendar: '',
  kind: 'member' as const,
  ...more,
});
const known: Known = {
  people: new Map([
    ['petra@m.example', person('Petra Novak', { work: 'safety manager', unit: 'Safety' })],
    ['oskar@m.example', person('Oskar Thiele')],
    ['lotte@t.example', person('Lotte Kessel', { kind: 'outside' })],
  ]),
  units: new Map([['safety', { id: 'u1', name: 'Safety', lead: 'petra@m.example', deputy: '' }]]),
  calendars: new Map([['summit crew', { id: 'c1' }]]),
  groups: new Map([['rescue', { id: 'g1', name: 'Rescue', members: ['petra@m.example'] }]]),
};
const check = (kind: Parameters<typeof checkedTable>[0], text: string) => {
  const found = checkedTable(kind, tableIn(text) as Table, known);
  return 'missing' in found
    ? found.missing
    : found.lines.map(({ line, does, faults }) => [line, does, ...faults.map(({ column, why }) => `${column} ${why}`)]);
};

describe('a table', () => {
  it('is read with any delimiter, quotes, empty lines and a mark before it, and comes back as it was written', () => {
    for (const sign of [',', ';', '\t'])
      expect(tableIn(`\uFEFFName${sign}E-mail\r\n\r\n"Novak${sign} Petra"${sign}p@m.example\r\n${sign}\r\n`)).toEqual({
        heads: ['name', 'e-mail'],
        rows: [{ line: 3, cells: [`Novak${sign} Petra`, 'p@m.example'] }],
      });
    // A replacement character is what a lost letter leaves behind, and is refused.
    const cell = fc
      .string({ unit: 'grapheme', maxLength: 12 })
      .map((text) => text.replace(/\p{C}|\uFFFD/gu, '').trim());
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 8 }), (rows) => {
        const full = rows.filter((row) => row.some((text) => text !== ''));
        const read = tableIn(csvOut([['one', 'two'], ...full])) as Table;
        expect(read.rows.map((row) => row.cells)).toEqual(
          full.map((row) => row.map((text) => (isFormula(text) ? `'${text}` : text))),
        );
      }),
    );
  });

  it('is refused where it is none, too long, or has lost letters', () => {
    expect(tableIn('')).toBe('empty');
    expect(tableIn(' \r\n ')).toBe('empty');
    expect(tableIn('name\n"open')).toBe('unread');
    expect(tableIn('name\nPetr\uFFFD')).toBe('letters-lost');
    expect(tableIn(`name\n${'a\n'.repeat(5000)}`)).not.toBe('too-many-rows');
    expect(tableIn(`name\n${'a\n'.repeat(5001)}`)).toBe('too-many-rows');
  });

  it('is read from the bytes that old programs write', () => {
    const bytes = (...codes: number[]) => Uint8Array.from(codes);
    expect(textOfBytes(new TextEncoder().encode('Åse Ødegård'))).toEqual({ text: 'Åse Ødegård', encoding: 'UTF-8' });
    expect(textOfBytes(bytes(0xc5, 0x73, 0x65))).toEqual({ text: 'Åse', encoding: 'Windows-1252' });
    expect(textOfBytes(bytes(0xff, 0xfe, 0xc5, 0, 0x73, 0))).toEqual({ text: 'Ås', encoding: 'UTF-16' });
    expect(textOfBytes(bytes(0xfe, 0xff, 0, 0xc5))).toEqual({ text: 'Å', encoding: 'UTF-16' });
  });

  it('holds formulas back, and leaves numbers and names alone', () => {
    for (const text of ['=1+1', '@sum', '+cmd', '-cmd']) expect(isFormula(text), text).toBe(true);
    for (const text of ['', 'Petra', '-5', '+47 22', 'a=b', '- none']) expect(isFormula(text), text).toBe(false);
  });
});

describe('people from a table', () => {
  it('are added, changed or left, each line by itself', () => {
    const text = [
      'Name,Email,Job title,Unit,Calendar,Time zone',
      'Noor Castellan,noor@m.example,electrical engineer,safety,Summit crew,Europe/Oslo',
      'Petra Novak,PETRA@m.example,,,,',
      'Petra Novak,petra@m.example,head of safety,,,',
      'X,not an address,,Sales,Night,Mars/Base',
      '=cmd(),oskar@m.example,,,,',
      'Lotte Kessel,lotte@t.example,,,,',
    ].join('\n');
    expect(check('people', text)).toEqual([
      [2, 'add'],
      [3, 'nothing'],
      [4, 'change', 'email twice'],
      [
        5,
        'add',
        'name name-missing',
        'email email-unfit',
        'unit unknown-unit',
        'calendar unknown-calendar',
        'zone unknown-zone',
      ],
      [6, 'change', 'name formula'],
      [7, 'nothing', 'email outside-here'],
    ]);
    expect(check('people', 'Name,Telephone\nPetra,1')).toEqual(['email']);
    expect(check('people', `name,email\n${'n'.repeat(121)},a@b.example`)).toEqual([[2, 'add', 'name name-long']]);
  });

  it('may be units with their leads, and groups with their members', () => {
    expect(
      check(
        'units',
        'unit;lead;deputy\nSafety;petra@m.example;oskar@m.example\nGuests;lotte@t.example;\nLifts;oskar@m.example;oskar@m.example\nsafety;;',
      ),
    ).toEqual([
      [2, 'change'],
      [3, 'add', 'lead unknown-person'],
      [4, 'add', 'deputy deputy-is-lead'],
      [5, 'nothing', 'name twice'],
    ]);
    expect(
      check('groups', 'group,member\nRescue,petra@m.example\nRescue,oskar@m.example\nNew,nobody@m.example'),
    ).toEqual([
      [2, 'nothing'],
      [3, 'change'],
      [4, 'add', 'member unknown-person'],
    ]);
  });
});
