import bidiFactory from 'bidi-js';
import * as hb from 'harfbuzzjs';
import LineBreaker from 'linebreak';
import type { HanLanguage } from '@/core/text/hanLanguage';
import type { Face, Style } from './faces';
import { type Item, itemise, UnsetLetter } from './itemise';

/** A glyph in a run: where it is drawn and how far it moves the pen, in units of its font. */
export interface Glyph {
  readonly id: number;
  /** The letter that it belongs to, by its place in the text. */
  readonly cluster: number;
  readonly dx: number;
  readonly dy: number;
  readonly advance: number;
}

/** Letters of one font, script and direction. */
export interface Run {
  readonly face: Face;
  readonly start: number;
  readonly end: number;
  readonly text: string;
  readonly rightToLeft: boolean;
  /** From left to right as they are drawn. */
  readonly glyphs: readonly Glyph[];
  /** In points, from the beginning of the line. */
  readonly x: number;
  readonly width: number;
}

export interface Line {
  readonly text: string;
  /** In points. */
  readonly width: number;
  readonly rightToLeft: boolean;
  readonly runs: readonly Run[];
}

interface Setting {
  readonly style: Style;
  /** Points an em. */
  readonly size: number;
  /** The longest line, in points. */
  readonly width?: number;
  /** For Han letters that nothing in the text tells apart. */
  readonly language?: HanLanguage;
}

const bidi = bidiFactory();
const thaiWords = new Intl.Segmenter('th', { granularity: 'word' });
// One for all: a buffer for each call is freed only when the garbage collector comes round.
const buffer = new hb.Buffer();

/**
 * A text as lines of shaped glyphs: directions by UAX #9, breaks by UAX #14, Thai between its words; a word that is longer
 * than the line is broken between letters. Throws `UnsetLetter` for a letter that no font has.
 */
export function layOut(given: string, setting: Setting): Line[] {
  return given
    .normalize('NFC')
    .replace(/\t/g, '    ')
    .split(/\r\n|[\n\r\u2028\u2029]/)
    .flatMap((text) => (text ? paragraph(text, setting) : [{ text, width: 0, rightToLeft: false, runs: [] }]));
}

/** A text on one line, as long as it is. */
export function oneLineOf(text: string, setting: Omit<Setting, 'width'>): Line {
  return layOut(text.replace(/\s+/g, ' ').trim(), setting)[0] ?? { text: '', width: 0, rightToLeft: false, runs: [] };
}

interface Paragraph {
  readonly text: string;
  readonly items: readonly Item[];
  readonly language: HanLanguage;
  readonly size: number;
  readonly levels: Uint8Array;
  readonly base: number;
}

function paragraph(text: string, setting: Setting): Line[] {
  const { items, language } = itemise(text, setting.style, setting.language ?? 'zh-Hans');
  const { levels, paragraphs } = bidi.getEmbeddingLevels(text);
  const whole: Paragraph = { text, items, language, size: setting.size, levels, base: paragraphs[0]?.level ?? 0 };
  const most = setting.width ?? Number.POSITIVE_INFINITY;
  const stops = breaksOf(text);
  const letters = items.map((item) => item.end);
  const lines: Line[] = [];
  for (let from = 0; from < text.length; ) {
    // The white space at the end of a line hangs over it.
    const upTo = (stop: number) => shapeLine(whole, from, from + text.slice(from, stop).trimEnd().length);
    const longest = (candidates: readonly number[]) => {
      let best: { line: Line; end: number } | null = null;
      for (const stop of candidates) {
        if (stop <= from) continue;
        const line = upTo(stop);
        if (line.width > most) break;
        best = { line, end: stop };
      }
      return best;
    };
    const next = items.find((item) => item.start >= from)?.end ?? text.length;
    const taken = longest(stops) ?? longest(letters) ?? { line: upTo(next), end: next };
    lines.push(taken.line);
    from = taken.end;
  }
  return lines;
}

function breaksOf(text: string): number[] {
  const stops = new Set<number>();
  const breaker = new LineBreaker(text);
  for (let stop = breaker.nextBreak(); stop; stop = breaker.nextBreak()) stops.add(stop.position);
  for (const match of text.matchAll(/\p{sc=Thai}+/gu))
    for (const word of thaiWords.segment(match[0])) if (word.index > 0) stops.add(match.index + word.index);
  return [...stops].sort((a, b) => a - b);
}

/** The part of a paragraph between two places as a line, its runs in the order in which they are drawn. */
function shapeLine(whole: Paragraph, from: number, to: number): Line {
  const { text, base, size } = whole;
  const levels = Array.from(whole.levels.slice(from, to));
  // White space at the end takes the direction of the paragraph (UAX #9, L1).
  for (let i = levels.length - 1; i >= 0 && /\s/.test(text[from + i] ?? ''); i -= 1) levels[i] = base;
  const parts: { start: number; end: number; face: Face; script: string; level: number }[] = [];
  for (const item of whole.items) {
    if (item.end <= from || item.start >= to) continue;
    const level = levels[item.start - from] ?? base;
    const before = parts.at(-1);
    if (before && before.face === item.face && before.script === item.script && before.level === level)
      before.end = item.end;
    else parts.push({ ...item, level });
  }
  // What runs against its surroundings is turned round, the deepest first (UAX #9, L2).
  const deepest = Math.max(0, ...parts.map((part) => part.level));
  for (let level = deepest; level > 0; level -= 1)
    for (let i = 0; i < parts.length; i += 1) {
      let end = i;
      while (end < parts.length && (parts[end]?.level ?? 0) >= level) end += 1;
      if (end === i) continue;
      parts.splice(i, end - i, ...parts.slice(i, end).reverse());
      i = end;
    }
  let x = 0;
  const runs = parts.map((part): Run => {
    const glyphs = shape(text, part, whole.language);
    const units = glyphs.reduce((sum, glyph) => sum + glyph.advance, 0);
    const run: Run = {
      face: part.face,
      start: part.start,
      end: part.end,
      text: text.slice(part.start, part.end),
      rightToLeft: (part.level & 1) === 1,
      glyphs,
      x,
      width: (units * size) / part.face.unitsPerEm,
    };
    x += run.width;
    return run;
  });
  return { text: text.slice(from, to), width: x, rightToLeft: (base & 1) === 1, runs };
}

function shape(
  text: string,
  part: {
    readonly start: number;
    readonly end: number;
    readonly face: Face;
    readonly script: string;
    readonly level: number;
  },
  language: HanLanguage,
): Glyph[] {
  buffer.reset();
  // With the whole text around it, so that letters join over a change of the font.
  buffer.addText(text, part.start, part.end - part.start);
  buffer.setDirection((part.level & 1) === 1 ? hb.Direction.RTL : hb.Direction.LTR);
  buffer.setScript(part.script);
  buffer.setLanguage(language);
  hb.shape(part.face.font, buffer);
  const positions = buffer.getGlyphPositions();
  return buffer.getGlyphInfos().map((info, i): Glyph => {
    const at = positions[i];
    // The last net: the sign for a missing letter never leaves here.
    if (info.codepoint === 0 || !at)
      throw new UnsetLetter(String.fromCodePoint(text.codePointAt(info.cluster) ?? 0), info.cluster);
    return { id: info.codepoint, cluster: info.cluster, dx: at.xOffset, dy: at.yOffset, advance: at.xAdvance };
  });
}

/** The outline of a line as an SVG path with its baseline at 0, in points. */
export function outlineOf(line: Line, size: number): string {
  return line.runs
    .map((run) => {
      const scale = size / run.face.unitsPerEm;
      let pen = 0;
      return run.glyphs
        .map((glyph) => {
          const [x, y] = [run.x + (pen + glyph.dx) * scale, -glyph.dy * scale];
          pen += glyph.advance;
          return moved(run.face.font.glyphToPath(glyph.id), scale, x, y);
        })
        .join('');
    })
    .join('');
}

/** A path in units of a font, upwards, as one in points, downwards. */
function moved(path: string, scale: number, x: number, y: number): string {
  let across = true;
  return path.replace(/[A-Z]|-?\d+(?:\.\d+)?/g, (part) => {
    if (/[A-Z]/.test(part)) {
      across = true;
      return part;
    }
    const value = across ? x + Number(part) * scale : y - Number(part) * scale;
    across = !across;
    return value.toFixed(2);
  });
}
