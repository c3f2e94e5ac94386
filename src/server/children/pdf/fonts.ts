import { readFile } from 'node:fs/promises';
import {
  CustomFontSubsetEmbedder,
  PDFArray,
  PDFContext,
  PDFDict,
  type PDFObject,
  PDFRawStream,
  PDFRef,
} from '@cantoo/pdf-lib';
import * as fontkit from 'fontkit';
import { fontFiles } from '../fonts';
import type { Revision } from './revision';

/** The fonts of fields: for text, and for typed hand marks. Both go whole into a file when it is frozen. */
export const fieldFonts = { AvText: fontFiles.sans, AvHand: fontFiles.hand } as const;
export type FieldFont = keyof typeof fieldFonts;

interface Prepared {
  readonly embedder: CustomFontSubsetEmbedder;
  readonly codes: ReadonlyMap<number, number>;
  /** Widths in units of the font's size. */
  readonly widths: ReadonlyMap<number, number>;
}

const prepared = new Map<FieldFont, Promise<Prepared>>();

/**
 * A font with its whole repertoire, the glyphs in ascending order of their code points: so every process gives every
 * letter the same code, and a later one can write text without reading what an earlier one embedded.
 */
function prepare(font: FieldFont): Promise<Prepared> {
  let found = prepared.get(font);
  if (!found) {
    found = (async () => {
      const data = new Uint8Array(await readFile(fieldFonts[font]));
      const embedder = await CustomFontSubsetEmbedder.for(fontkit as never, data, `AVNDAA+${font}`);
      const face = (embedder as unknown as { font: fontkit.Font }).font;
      const codes = new Map<number, number>();
      const widths = new Map<number, number>();
      for (const point of [...face.characterSet].sort((a, b) => a - b)) {
        if (point < 32 || point === 0x7f) continue;
        const letter = String.fromCodePoint(point);
        const [glyph, ...more] = face.layout(letter).glyphs;
        if (!glyph || more.length > 0 || glyph.id === 0) continue;
        codes.set(point, Number.parseInt(String(embedder.encodeText(letter)).slice(1, -1), 16));
        widths.set(point, glyph.advanceWidth / face.unitsPerEm);
      }
      return { embedder, codes, widths };
    })();
    prepared.set(font, found);
  }
  return found;
}

const embedded = new Map<FieldFont, { objects: [PDFRef, PDFObject][]; top: PDFRef }>();

/** Puts a font's objects into a file and gives its reference. The packed streams are the same every time. */
export async function embedFont(revision: Revision, font: FieldFont): Promise<PDFRef> {
  const { embedder } = await prepare(font);
  let own = embedded.get(font);
  if (!own) {
    const context = PDFContext.create();
    const top = await embedder.embedIntoContext(context);
    own = { objects: context.enumerateIndirectObjects(), top };
    embedded.set(font, own);
  }
  const refs = new Map(own.objects.map(([ref]) => [ref, revision.context.nextRef()]));
  for (const [ref, object] of own.objects) {
    const copy = copied(revision.context, object, refs);
    const to = refs.get(ref) as PDFRef;
    revision.context.assign(to, copy);
    revision.changed.set(to, copy);
  }
  return refs.get(own.top) as PDFRef;
}

/** An object with its references led to where their targets stand in another file. */
function copied(context: PDFContext, object: PDFObject, refs: ReadonlyMap<PDFRef, PDFRef>): PDFObject {
  if (object instanceof PDFRef) return refs.get(object) ?? object;
  if (object instanceof PDFRawStream)
    return PDFRawStream.of(copied(context, object.dict, refs) as PDFDict, object.contents);
  if (object instanceof PDFDict) {
    const made = PDFDict.withContext(context);
    for (const [key, value] of object.entries()) made.set(key, copied(context, value, refs));
    return made;
  }
  if (object instanceof PDFArray) {
    const made = PDFArray.withContext(context);
    for (const one of object.asArray()) made.push(copied(context, one, refs));
    return made;
  }
  return object.clone(context);
}

interface TextRun {
  readonly font: FieldFont;
  readonly codes: string;
  readonly width: number;
}

/**
 * A text as runs of glyph codes in the wanted font, or where that lacks a letter in the other. Null when it needs more
 * than a letter beside a letter: one that neither has, marks apart from their letter, or a script read from the right.
 */
export async function runsOf(wanted: FieldFont, text: string): Promise<TextRun[] | null> {
  const order: readonly FieldFont[] = wanted === 'AvText' ? ['AvText', 'AvHand'] : ['AvHand', 'AvText'];
  const faces = await Promise.all(order.map(async (font) => ({ font, ...(await prepare(font)) })));
  const runs: { font: FieldFont; codes: string; width: number }[] = [];
  for (const letter of text.normalize('NFC')) {
    const point = letter.codePointAt(0) ?? 0;
    const face = faces.find((one) => one.codes.has(point));
    if (!face || /[\p{M}\p{Cf}]/u.test(letter)) return null;
    const code = (face.codes.get(point) ?? 0).toString(16).padStart(4, '0');
    const width = face.widths.get(point) ?? 0;
    const last = runs.at(-1);
    if (last?.font === face.font) {
      last.codes += code;
      last.width += width;
    } else runs.push({ font: face.font, codes: code, width });
  }
  return runs;
}
