import { deflateSync } from 'node:zlib';
import { type PDFContext, type PDFDict, type PDFObject, PDFRawStream, type PDFRef, PDFString } from '@cantoo/pdf-lib';
import { type Composite, composeFont } from './compose';
import type { Face } from './faces';
import type { Glyph, Line, Run } from './layOut';

/** Where the objects of fonts go: a new file, or an increment of one. */
interface Sink {
  readonly context: PDFContext;
  readonly add: (object: PDFObject) => PDFRef;
}

interface Code extends Composite {
  readonly text: string;
}

interface Used {
  readonly name: string;
  readonly glyphs: Set<number>;
  /** Code 0 is the sign for a missing letter, which is never written. */
  readonly codes: Code[];
  readonly byKey: Map<string, number>;
}

const hex4 = (value: number) => value.toString(16).padStart(4, '0').toUpperCase();
const short = (value: number) => String(Number(value.toFixed(3)));
/** Belongs to the letter before it and takes no room. */
const mark = /[\p{Mn}\p{Me}\p{Cf}]/u;

/**
 * Writes lines into the content of a PDF so that every reader gives their letters back: runs in the order in which they
 * are read, one code for each letter, the first of a cluster with its ink and the others blank (ISO 32000-2, 9.10.3).
 * The fonts hold what was written and nothing else.
 */
export class LineWriter {
  readonly #fonts = new Map<Face, Used>();

  constructor(
    /** What the names of the fonts begin with, free in the resources they go into. */
    readonly prefix = 'L',
  ) {}

  /** A line as operators inside a text object, its baseline beginning at a place in points. */
  line(line: Line, size: number, x: number, y: number): string {
    return [...line.runs]
      .sort((a, b) => a.start - b.start)
      .map((run) => this.#run(run, size, x, y))
      .join('\n');
  }

  #used(face: Face): Used {
    let used = this.#fonts.get(face);
    if (!used) {
      const missing: Code = { parts: [], advance: 0, text: '' };
      used = { name: `${this.prefix}${this.#fonts.size}`, glyphs: new Set([0]), codes: [missing], byKey: new Map() };
      this.#fonts.set(face, used);
    }
    return used;
  }

  #code(used: Used, code: Code): number {
    const key = JSON.stringify(code);
    let found = used.byKey.get(key);
    if (found === undefined) {
      found = used.codes.push(code) - 1;
      used.byKey.set(key, found);
      for (const part of code.parts) used.glyphs.add(part.id);
    }
    return found;
  }

  #run(run: Run, size: number, x: number, y: number): string {
    const used = this.#used(run.face);
    const { unitsPerEm } = run.face;
    const clusters = clustersOf(run);
    const starts = [...new Set(clusters.map((cluster) => cluster.start))].sort((a, b) => a - b);
    let shown = '';
    let codes = '';
    let pen = 0;
    for (const { start, x: at, glyphs } of clusters) {
      const text = run.text.slice(start - run.start, (starts[starts.indexOf(start) + 1] ?? run.end) - run.start);
      const moved = (pen - at) / unitsPerEm;
      if (Math.abs(moved) > 0.00005) {
        shown += `${codes && `<${codes}>`}${short(moved * 1000)}`;
        codes = '';
        pen = at;
      }
      const letters = lettersOf(run, glyphs, [...text]);
      codes += letters.map((letter) => hex4(this.#code(used, letter))).join('');
      pen += letters.reduce((sum, letter) => sum + letter.advance, 0);
    }
    if (codes) shown += `<${codes}>`;
    return `/${used.name} ${short(size)} Tf 1 0 0 1 ${short(x + run.x)} ${short(y)} Tm [${shown}] TJ`;
  }

  /** Puts the fonts that were used into a file and gives their references by name. Once, when all is written. */
  finish(sink: Sink): Readonly<Record<string, PDFRef>> {
    return Object.fromEntries([...this.#fonts].map(([face, used]) => [used.name, embedded(sink, face, used)]));
  }
}

interface Cluster {
  readonly start: number;
  /** Where it is drawn, from the beginning of the run, in units of the font. */
  readonly x: number;
  readonly glyphs: readonly Glyph[];
}

function clustersOf(run: Run): Cluster[] {
  const found: { start: number; x: number; glyphs: Glyph[] }[] = [];
  let pen = 0;
  for (const glyph of run.glyphs) {
    const last = found.at(-1);
    if (last?.start === glyph.cluster) last.glyphs.push(glyph);
    else found.push({ start: glyph.cluster, x: pen, glyphs: [glyph] });
    pen += glyph.advance;
  }
  return found;
}

/** The letters of a cluster in the order in which they are drawn: the first of them carries all ink, they share the way. */
function lettersOf(run: Run, glyphs: readonly Glyph[], letters: readonly string[]): Code[] {
  const [first] = glyphs;
  const sum = glyphs.reduce((way, glyph) => way + glyph.advance, 0);
  // Kerning stays in the line, so that a letter has one code wherever it stands.
  const way = first && glyphs.length === 1 && letters.length === 1 ? run.face.font.glyphHAdvance(first.id) : sum;
  const carried = (letter: string, i: number) => i > 0 && mark.test(letter);
  const bearers = letters.filter((letter, i) => !carried(letter, i)).length;
  let left = way;
  let seen = 0;
  const advances = letters.map((letter, i) => {
    if (carried(letter, i)) return 0;
    seen += 1;
    const share = seen === bearers ? left : Math.floor(way / bearers);
    left -= share;
    return share;
  });
  // Drawn from the right, the letter with the ink comes last, and its ink reaches back over the others.
  const back = run.rightToLeft ? way - (advances[0] ?? 0) : 0;
  let pen = 0;
  const parts = glyphs.map((glyph) => {
    const part = { id: glyph.id, x: pen + glyph.dx - back, y: glyph.dy };
    pen += glyph.advance;
    return part;
  });
  const codes = letters.map((text, i): Code => ({ parts: i === 0 ? parts : [], advance: advances[i] ?? 0, text }));
  return run.rightToLeft ? codes.reverse() : codes;
}

function embedded(sink: Sink, face: Face, used: Used): PDFRef {
  const { context, add } = sink;
  const thousandths = (units: number) => Number(((units * 1000) / face.unitsPerEm).toFixed(2));
  const stream = (data: Uint8Array, more: object = {}) =>
    add(PDFRawStream.of(context.obj({ Filter: 'FlateDecode', ...more }) as PDFDict, deflateSync(data, { level: 6 })));
  const composites: Composite[] = [];
  // A letter that is one glyph of the font as it stands needs none of its own.
  const places = used.codes.map(({ parts, advance }): { readonly plain: number } | { readonly composite: number } => {
    const [part] = parts;
    if (part && parts.length === 1 && part.x === 0 && part.y === 0 && advance === face.font.glyphHAdvance(part.id))
      return { plain: part.id };
    return { composite: composites.push({ parts, advance }) - 1 };
  });
  const { bytes, of, first } = composeFont(face.data, used.glyphs, composites);
  const map = new Uint8Array(used.codes.length * 2);
  const glyphOf = new DataView(map.buffer);
  places.forEach((place, code) => {
    if (code > 0) glyphOf.setUint16(code * 2, 'plain' in place ? of(place.plain) : first + place.composite);
  });
  const name = `${tagOf(bytes)}+${face.name}`;
  const extents = face.font.hExtents();
  const descriptor = add(
    context.obj({
      Type: 'FontDescriptor',
      FontName: name,
      Flags: 4,
      FontBBox: [-1000, thousandths(extents.descender) - 300, 3000, thousandths(extents.ascender) + 300],
      ItalicAngle: 0,
      Ascent: thousandths(extents.ascender),
      Descent: thousandths(extents.descender),
      CapHeight: 714,
      StemV: 80,
      FontFile2: stream(bytes, { Length1: bytes.length }),
    } as never),
  );
  const descendant = add(
    context.obj({
      Type: 'Font',
      Subtype: 'CIDFontType2',
      BaseFont: name,
      CIDSystemInfo: { Registry: PDFString.of('Adobe'), Ordering: PDFString.of('Identity'), Supplement: 0 },
      FontDescriptor: descriptor,
      DW: 1000,
      W: [0, used.codes.map(({ advance }) => thousandths(advance))],
      CIDToGIDMap: stream(map),
    } as never),
  );
  return add(
    context.obj({
      Type: 'Font',
      Subtype: 'Type0',
      BaseFont: name,
      Encoding: 'Identity-H',
      DescendantFonts: [descendant],
      ToUnicode: stream(Buffer.from(toUnicode(used.codes))),
    } as never),
  );
}

/** The six letters before the name of a part of a font (ISO 32000-2, 9.9.2), the same for the same part. */
function tagOf(bytes: Uint8Array): string {
  let hash = 7;
  for (const byte of bytes) hash = (Math.imul(hash, 31) + byte) >>> 0;
  return Array.from({ length: 6 }, () => {
    const letter = String.fromCharCode(65 + (hash % 26));
    hash = Math.floor(hash / 26) + 12345;
    return letter;
  }).join('');
}

/** Which letter each code stands for (ISO 32000-2, 9.10.3). */
function toUnicode(codes: readonly Code[]): string {
  const blocks: string[] = [];
  for (let from = 1; from < codes.length; from += 100) {
    const some = codes.slice(from, from + 100);
    const lines = some.map(({ text }, i) => `<${hex4(from + i)}> <${[...utf16(text)].join('')}>`);
    blocks.push(`${some.length} beginbfchar`, ...lines, 'endbfchar');
  }
  return [
    '/CIDInit /ProcSet findresource begin',
    '12 dict begin',
    'begincmap',
    '/CIDSystemInfo <</Registry (Adobe) /Ordering (UCS) /Supplement 0>> def',
    '/CMapName /Adobe-Identity-UCS def',
    '/CMapType 2 def',
    '1 begincodespacerange',
    '<0000> <FFFF>',
    'endcodespacerange',
    ...blocks,
    'endcmap',
    'CMapName currentdict /CMap defineresource pop',
    'end',
    'end',
    '',
  ].join('\n');
}

function* utf16(text: string): Generator<string> {
  for (let i = 0; i < text.length; i += 1) yield hex4(text.charCodeAt(i));
}
