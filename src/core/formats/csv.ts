import { parse } from 'csv-parse/sync';

/** Tables as CSV (RFC 4180), as spreadsheets write them: with commas, semicolons or tabs, a byte order mark, old encodings. */

export interface Table {
  /** Column heads, lower case. */
  readonly heads: readonly string[];
  /** Each row with its line in the file, the head being line 1. */
  readonly rows: readonly { readonly line: number; readonly cells: readonly string[] }[];
}

type TableFault = 'empty' | 'unread' | 'too-many-rows' | 'letters-lost';

const tableLimits = { rows: 5000, cell: 2000 } as const;

/** A CSV text as a table, or why it is none. */
export function tableIn(text: string): Table | TableFault {
  const clean = text.replace(/^\uFEFF/, '');
  // What was decoded with signs of replacement has lost letters for good.
  if (clean.includes('\uFFFD')) return 'letters-lost';
  if (clean.trim() === '') return 'empty';
  let records: { record: string[]; info: { lines: number } }[];
  try {
    records = parse(clean, {
      delimiter: delimiterOf(clean),
      relax_column_count: true,
      // A sign of quotation inside a cell that does not begin with one is a letter like others.
      relax_quotes: true,
      skip_empty_lines: true,
      trim: true,
      info: true,
      max_record_size: tableLimits.cell * 20,
      to: tableLimits.rows + 2,
    }) as never;
  } catch {
    return 'unread';
  }
  const [head, ...rows] = records;
  if (!head) return 'empty';
  if (rows.length > tableLimits.rows) return 'too-many-rows';
  return {
    heads: head.record.map((cell) => cell.toLowerCase()),
    rows: rows
      .map(({ record, info }) => ({ line: info.lines, cells: record }))
      .filter(({ cells }) => cells.some((cell) => cell !== '')),
  };
}

/** The sign between cells: the one that stands most often in the first line, outside quotes. */
function delimiterOf(text: string): string {
  const [line = ''] = text.replace(/"(?:[^"]|"")*"/g, '').split(/\r?\n/);
  const count = (sign: string) => line.split(sign).length;
  return [',', ';', '\t'].reduce((best, sign) => (count(sign) > count(best) ? sign : best));
}

/** The text of a file's bytes and what it was read as: UTF-8, UTF-16 by its mark, or else Windows-1252, as old programs write. */
export function textOfBytes(bytes: Uint8Array): {
  readonly text: string;
  readonly encoding: 'UTF-8' | 'UTF-16' | 'Windows-1252';
} {
  const [a, b] = bytes;
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff))
    return { text: new TextDecoder(a === 0xff ? 'utf-16le' : 'utf-16be').decode(bytes), encoding: 'UTF-16' };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' };
  } catch {
    return { text: new TextDecoder('windows-1252').decode(bytes), encoding: 'Windows-1252' };
  }
}

/** Whether a spreadsheet would take a cell for a formula. */
export function isFormula(cell: string): boolean {
  return /^[=@\t\r]|^[+-](?![\d\s])/.test(cell);
}

/** Rows as CSV with CRLF and a byte order mark; what a spreadsheet would run gets an apostrophe before it. */
export function csvOut(rows: readonly (readonly string[])[]): string {
  const cell = (text: string) => {
    const safe = isFormula(text) ? `'${text}` : text;
    return /[",;\r\n\t]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe;
  };
  return `\uFEFF${rows.map((row) => `${row.map(cell).join(',')}\r\n`).join('')}`;
}
