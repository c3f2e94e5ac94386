import { subset } from './subset';

// Fonts for a PDF whose readers know one code for one letter (ISO 32000-2, 9.10): a letter that is drawn with several
// glyphs, or with one that is moved, gets a glyph of its own, composed of them (OpenType, "glyf", composite glyphs).

/** A glyph to be composed: parts of the font and where they stand, in its units. */
export interface Composite {
  readonly parts: readonly { readonly id: number; readonly x: number; readonly y: number }[];
  readonly advance: number;
}

interface ComposedFont {
  readonly bytes: Uint8Array;
  /** The number that a glyph of the font has now. */
  readonly of: (id: number) => number;
  /** The number of the first composed glyph; the others follow in their order. */
  readonly first: number;
}

interface Outline {
  readonly bytes: Uint8Array;
  readonly advance: number;
  readonly bearing: number;
}

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
const padded = (length: number) => (length + 3) & ~3;

const more = 0x20;
const words = 0x1;
const byOffset = 0x2;
const scaled = 0x8;
const scaledTwice = 0x40;
const transformed = 0x80;

/** A TrueType font with these glyphs, numbered without gaps, and the composed ones behind them. */
export function composeFont(
  font: Uint8Array,
  wanted: ReadonlySet<number>,
  composites: readonly Composite[],
): ComposedFont {
  const tables = tablesOf(subset(font, wanted));
  const head = copyOf(tables, 'head');
  const maxp = copyOf(tables, 'maxp');
  const hhea = copyOf(tables, 'hhea');
  const glyf = tables.get('glyf') ?? new Uint8Array();
  const locations = locationsOf(tables, head, maxp);
  const metrics = metricsOf(tables, hhea, maxp);
  const span = (id: number) => [locations[id] ?? 0, locations[id + 1] ?? locations[id] ?? 0] as const;

  // The parts of a font's own composites are kept by the subsetter too: everything with an outline, and every blank one
  // that was asked for.
  const kept: number[] = [];
  const numbers = new Map<number, number>();
  const end = Math.max(locations.length - 1, Math.max(0, ...wanted) + 1);
  for (let id = 0; id < end; id += 1) {
    const [from, to] = span(id);
    if (id > 0 && !wanted.has(id) && from === to) continue;
    numbers.set(id, kept.length);
    kept.push(id);
  }
  const of = (id: number) => numbers.get(id) ?? 0;
  const outlines = kept.map((id): Outline => {
    const bytes = Uint8Array.from(glyf.subarray(...span(id)));
    renumberParts(bytes, of);
    return { bytes, ...metrics(id) };
  });
  let most = 1;
  for (const composite of composites) {
    const made = composed(composite, (id) => outlines[of(id)]?.bytes ?? new Uint8Array(), of);
    outlines.push(made.outline);
    most = Math.max(most, made.parts);
  }
  return { bytes: written(outlines, { head, maxp, hhea }, most), of, first: kept.length };
}

function composed(
  { parts, advance }: Composite,
  outlineOf: (id: number) => Uint8Array,
  of: (id: number) => number,
): { outline: Outline; parts: number } {
  const inked = parts.filter((part) => outlineOf(part.id).length > 0);
  if (inked.length === 0) return { outline: { bytes: new Uint8Array(), advance, bearing: 0 }, parts: 0 };
  const bytes = new Uint8Array(10 + inked.length * 8);
  const data = view(bytes);
  const boxes = inked.map((part) => {
    const box = view(outlineOf(part.id));
    return [box.getInt16(2) + part.x, box.getInt16(4) + part.y, box.getInt16(6) + part.x, box.getInt16(8) + part.y];
  });
  data.setInt16(0, -1);
  for (const i of [0, 1]) {
    data.setInt16(2 + i * 2, Math.min(...boxes.map((box) => box[i] as number)));
    data.setInt16(6 + i * 2, Math.max(...boxes.map((box) => box[i + 2] as number)));
  }
  inked.forEach((part, i) => {
    const at = 10 + i * 8;
    data.setUint16(at, words | byOffset | (i < inked.length - 1 ? more : 0));
    data.setUint16(at + 2, of(part.id));
    data.setInt16(at + 4, part.x);
    data.setInt16(at + 6, part.y);
  });
  // A bearing other than the left edge of the outline would shift it.
  return { outline: { bytes, advance, bearing: data.getInt16(2) }, parts: inked.length };
}

/** Leads the parts of a font's own composite glyph to their new numbers. */
function renumberParts(bytes: Uint8Array, of: (id: number) => number): void {
  if (bytes.length === 0 || view(bytes).getInt16(0) >= 0) return;
  const data = view(bytes);
  for (let at = 10; ; ) {
    const flags = data.getUint16(at);
    data.setUint16(at + 2, of(data.getUint16(at + 2)));
    const transform = flags & scaled ? 2 : flags & scaledTwice ? 4 : flags & transformed ? 8 : 0;
    if ((flags & more) === 0) return;
    at += 4 + (flags & words ? 4 : 2) + transform;
  }
}

function tablesOf(font: Uint8Array): ReadonlyMap<string, Uint8Array> {
  const data = view(font);
  const tables = new Map<string, Uint8Array>();
  for (let i = 0; i < data.getUint16(4); i += 1) {
    const at = 12 + i * 16;
    const from = data.getUint32(at + 8);
    tables.set(String.fromCharCode(...font.subarray(at, at + 4)), font.subarray(from, from + data.getUint32(at + 12)));
  }
  return tables;
}

function copyOf(tables: ReadonlyMap<string, Uint8Array>, name: string): Uint8Array {
  const table = tables.get(name);
  if (!table) throw new Error(`a font has no table ${name}`);
  return Uint8Array.from(table);
}

/** Where each glyph's outline begins, and where the last one ends. */
function locationsOf(tables: ReadonlyMap<string, Uint8Array>, head: Uint8Array, maxp: Uint8Array): number[] {
  const loca = view(copyOf(tables, 'loca'));
  const long = view(head).getInt16(50) === 1;
  return Array.from({ length: view(maxp).getUint16(4) + 1 }, (_, id) =>
    long ? loca.getUint32(id * 4) : loca.getUint16(id * 2) * 2,
  );
}

function metricsOf(tables: ReadonlyMap<string, Uint8Array>, hhea: Uint8Array, maxp: Uint8Array) {
  const hmtx = view(copyOf(tables, 'hmtx'));
  const whole = view(hhea).getUint16(34);
  const count = view(maxp).getUint16(4);
  return (id: number): { advance: number; bearing: number } =>
    id >= count
      ? { advance: 0, bearing: 0 }
      : {
          advance: hmtx.getUint16(Math.min(id, whole - 1) * 4),
          bearing: id < whole ? hmtx.getInt16(id * 4 + 2) : hmtx.getInt16(whole * 4 + (id - whole) * 2),
        };
}

function written(
  outlines: readonly Outline[],
  { head, maxp, hhea }: { head: Uint8Array; maxp: Uint8Array; hhea: Uint8Array },
  most: number,
): Uint8Array {
  const loca = new Uint8Array((outlines.length + 1) * 4);
  const hmtx = new Uint8Array(outlines.length * 4);
  const glyf = new Uint8Array(outlines.reduce((sum, { bytes }) => sum + padded(bytes.length), 0));
  let at = 0;
  outlines.forEach(({ bytes, advance, bearing }, id) => {
    view(loca).setUint32(id * 4, at);
    view(hmtx).setUint16(id * 4, advance);
    view(hmtx).setInt16(id * 4 + 2, bearing);
    glyf.set(bytes, at);
    at += padded(bytes.length);
  });
  view(loca).setUint32(outlines.length * 4, at);
  view(head).setInt16(50, 1);
  view(hhea).setUint16(34, outlines.length);
  const limits = view(maxp);
  limits.setUint16(4, outlines.length);
  limits.setUint16(28, Math.max(limits.getUint16(28), most));
  limits.setUint16(30, limits.getUint16(30) + 1);
  // Points and contours of the largest composite: no more than its parts have together.
  for (const [whole, single] of [
    [10, 6],
    [12, 8],
  ] as const)
    limits.setUint16(whole, Math.min(0xffff, Math.max(limits.getUint16(whole), limits.getUint16(single)) * most));
  return fontFile({ glyf, head, hhea, hmtx, loca, maxp });
}

/** Tables as a font file, with their checksums (OpenType, "Organization of an OpenType Font"). */
function fontFile(tables: Readonly<Record<string, Uint8Array>>): Uint8Array {
  const names = Object.keys(tables).sort();
  const power = 2 ** Math.floor(Math.log2(names.length));
  const sized = names.map((name) => ({ name, table: tables[name] as Uint8Array }));
  const bytes = new Uint8Array(sized.reduce((sum, { table }) => sum + padded(table.length), 12 + names.length * 16));
  const data = view(bytes);
  const checksum = (from: number, length: number) => {
    let sum = 0;
    for (let i = 0; i < length; i += 4) sum = (sum + data.getUint32(from + i)) >>> 0;
    return sum;
  };
  data.setUint32(0, 0x00010000);
  data.setUint16(4, names.length);
  data.setUint16(6, power * 16);
  data.setUint16(8, Math.log2(power));
  data.setUint16(10, names.length * 16 - power * 16);
  let from = 12 + names.length * 16;
  let head = 0;
  sized.forEach(({ name, table }, i) => {
    bytes.set(table, from);
    if (name === 'head') {
      head = from;
      data.setUint32(head + 8, 0);
    }
    const entry = 12 + i * 16;
    for (let j = 0; j < 4; j += 1) bytes[entry + j] = name.charCodeAt(j);
    data.setUint32(entry + 4, checksum(from, padded(table.length)));
    data.setUint32(entry + 8, from);
    data.setUint32(entry + 12, table.length);
    from += padded(table.length);
  });
  data.setUint32(head + 8, (0xb1b0afba - checksum(0, bytes.length)) >>> 0);
  return bytes;
}
