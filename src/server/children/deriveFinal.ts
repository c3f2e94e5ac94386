import { readFile, writeFile } from 'node:fs/promises';
import {
  appendQuadraticCurve,
  concatTransformationMatrix,
  LineCapStyle,
  lineTo,
  moveTo,
  PDFDict,
  PDFDocument,
  type PDFFont,
  PDFName,
  type PDFPage,
  PDFRef,
  popGraphicsState,
  pushGraphicsState,
  rgb,
  setLineCap,
  setLineWidth,
  setStrokingColor,
  stroke,
} from '@cantoo/pdf-lib';
import * as fontkit from 'fontkit';
import type { Field, FieldValue } from '@/core/page/fields';
import { type PageGeometry, quarterTurn, uprightMatrix } from '@/core/page/geometry';
import { fontFiles } from './fonts';

/** One act on the evidence sheet, in words ready to print. */
export interface EvidenceEntry {
  readonly who: string;
  readonly what: string;
  readonly when: string;
  readonly from: string;
  readonly identified: string;
  readonly note: string | null;
}

export interface FinalTask {
  readonly kind: 'final';
  readonly source: string;
  readonly into: string;
  readonly values: readonly { readonly field: Field; readonly value: FieldValue }[];
  readonly sheet: {
    readonly title: string;
    readonly facts: readonly (readonly [string, string])[];
    readonly entries: readonly EvidenceEntry[];
    readonly closing: string;
  };
}

const ink = rgb(0.09, 0.141, 0.169);
const quiet = rgb(0.333, 0.388, 0.42);

interface Fonts {
  readonly text: PDFFont;
  readonly bold: PDFFont;
  readonly hand: PDFFont;
}

/**
 * The file with what `draw` puts into it, as an incremental update behind its end (ISO 32000-2, 7.5.6), so that its own
 * bytes stay as they are. Throws when the library cannot grow it so.
 */
async function grown(bytes: Buffer, draw: (pdf: PDFDocument) => Promise<void> | void): Promise<Uint8Array> {
  const pdf = await PDFDocument.load(bytes, { forIncrementalUpdate: true, updateMetadata: false });
  await draw(pdf);
  const whole = await pdf.save({ useObjectStreams: false });
  if (!Buffer.from(whole.buffer, whole.byteOffset, bytes.length).equals(bytes))
    throw new Error('the grown file does not begin with the one it was made of');
  return whole;
}

/** The file with one empty page behind its own: whether it can be grown is asked when it comes in, not after signing. */
export function grownByAPage(bytes: Buffer): Promise<Uint8Array> {
  return grown(bytes, (pdf) => {
    for (const page of pdf.getPages().slice(0, 1)) markPage(pdf, page);
    markAncestors(pdf, pdf.addPage(sheetSize));
  });
}

/** Derives the final file from the frozen one by growing it with values and the evidence sheet. */
export async function deriveFinal(task: FinalTask): Promise<void> {
  const bytes = await grown(await readFile(task.source), (pdf) => fill(pdf, task));
  await writeFile(task.into, bytes);
}

async function fill(pdf: PDFDocument, task: FinalTask): Promise<void> {
  pdf.registerFontkit(fontkit as never);
  const fonts: Fonts = {
    text: await pdf.embedFont(await readFile(fontFiles.sans), { subset: true }),
    bold: await pdf.embedFont(await readFile(fontFiles.sansBold), { subset: true }),
    hand: await pdf.embedFont(await readFile(fontFiles.hand), { subset: true }),
  };
  const pages = pdf.getPages();
  for (const { field, value } of task.values) {
    const page = pages[field.page];
    if (!page) throw new Error(`field ${field.id} stands on page ${field.page + 1} of ${pages.length}`);
    stamp(page, field, value, fonts);
    markPage(pdf, page);
  }
  drawSheet(pdf, task.sheet, fonts);
}

/** Everything a page's drawing may have touched goes into the update, wherever the file keeps it. */
function markPage(pdf: PDFDocument, page: PDFPage): void {
  const mark = (entry: unknown) => {
    if (entry instanceof PDFRef) pdf.context.snapshot?.markRefForSave(entry);
  };
  mark(page.ref);
  mark(page.node.get(PDFName.of('Contents')));
  mark(page.node.get(PDFName.of('Resources')));
  mark(page.node.Resources()?.get(PDFName.of('Font')));
}

/** A page that was added changes the counts of every node above it in the page tree. */
function markAncestors(pdf: PDFDocument, page: PDFPage): void {
  let above = page.node.get(PDFName.of('Parent'));
  for (let depth = 0; above instanceof PDFRef && depth < 64; depth += 1) {
    pdf.context.snapshot?.markRefForSave(above);
    above = pdf.context.lookup(above, PDFDict).get(PDFName.of('Parent'));
  }
}

function geometryOf(page: PDFPage): PageGeometry {
  const crop = page.getCropBox();
  const media = page.getMediaBox();
  const x = Math.max(crop.x, media.x);
  const y = Math.max(crop.y, media.y);
  return {
    x,
    y,
    width: Math.min(crop.x + crop.width, media.x + media.width) - x,
    height: Math.min(crop.y + crop.height, media.y + media.height) - y,
    rotate: quarterTurn(page.getRotation().angle),
  };
}

/** Draws a value upright into its place, whatever the page's rotation. */
function stamp(page: PDFPage, field: Field, value: FieldValue, fonts: Fonts): void {
  page.pushOperators(pushGraphicsState(), concatTransformationMatrix(...uprightMatrix(geometryOf(page), field)));
  if (value.kind === 'drawn') drawStrokes(page, field, value);
  else if (value.kind === 'ticked') {
    if (value.ticked) drawTick(page, field);
  } else {
    const font = value.kind === 'typed' ? fonts.hand : fonts.text;
    const text = printable(value.text, font);
    const wanted = value.kind === 'typed' ? field.height * 0.72 : Math.min(11, field.height * 0.6);
    const size = Math.max(
      5,
      Math.min(wanted, (wanted * (field.width - 6)) / Math.max(1, font.widthOfTextAtSize(text, wanted))),
    );
    page.drawText(text, { x: 3, y: (field.height - size * 0.62) / 2, size, font, color: ink });
  }
  page.pushOperators(popGraphicsState());
}

function drawStrokes(page: PDFPage, field: Field, value: Extract<FieldValue, { kind: 'drawn' }>): void {
  const scale = Math.min(field.width / value.width, field.height / value.height);
  const left = (field.width - value.width * scale) / 2;
  const bottom = (field.height - value.height * scale) / 2;
  const at = (points: readonly number[], i: number) =>
    [left + (points[i] ?? 0) * scale, bottom + (value.height - (points[i + 1] ?? 0)) * scale] as const;
  page.pushOperators(
    setStrokingColor(ink),
    setLineWidth(Math.max(0.7, Math.min(1.6, scale * 2.2))),
    setLineCap(LineCapStyle.Round),
  );
  for (const points of value.strokes) {
    if (points.length < 4) continue;
    page.pushOperators(moveTo(...at(points, 0)));
    // Curves through the middles of successive points, so that a drawn line stays smooth at any size.
    for (let i = 2; i + 3 < points.length; i += 2) {
      const [x, y] = at(points, i);
      const [nextX, nextY] = at(points, i + 2);
      page.pushOperators(appendQuadraticCurve(x, y, (x + nextX) / 2, (y + nextY) / 2));
    }
    page.pushOperators(lineTo(...at(points, points.length - 2)), stroke());
  }
}

function drawTick(page: PDFPage, field: Field): void {
  const { width, height } = field;
  page.pushOperators(
    setStrokingColor(ink),
    setLineWidth(Math.max(1, width * 0.1)),
    setLineCap(LineCapStyle.Round),
    moveTo(width * 0.2, height * 0.5),
    lineTo(width * 0.42, height * 0.25),
    lineTo(width * 0.82, height * 0.78),
    stroke(),
  );
}

/** Characters that a font cannot draw become a visible sign instead of stopping the whole file. */
function printable(text: string, font: PDFFont): string {
  const known = new Set(font.getCharacterSet());
  return [...text]
    .map((character) => (known.has(character.codePointAt(0) ?? 0) ? character : '□'))
    .filter((c) => c !== '□' || known.has(0x25a1))
    .join('');
}

const sheetSize: [number, number] = [595.28, 841.89];
const margin = 56;

/** Appends the evidence sheet: what this is, then who did what, when, from where and how identified. */
function drawSheet(pdf: PDFDocument, sheet: FinalTask['sheet'], fonts: Fonts): void {
  let page = pdf.addPage(sheetSize);
  let y = sheetSize[1] - margin;
  const width = sheetSize[0] - margin * 2;
  const next = () => {
    markAncestors(pdf, page);
    page = pdf.addPage(sheetSize);
    y = sheetSize[1] - margin;
  };
  const line = (text: string, font: PDFFont, size: number, x = margin, room = width, color = ink) => {
    for (const part of wrapped(printable(text, font), font, size, room)) {
      if (y < margin + size * 2) next();
      y -= size * 1.4;
      page.drawText(part, { x, y, size, font, color });
    }
  };
  const rule = () => {
    y -= 8;
    page.drawLine({
      start: { x: margin, y },
      end: { x: margin + width, y },
      thickness: 0.5,
      color: rgb(0.894, 0.871, 0.824),
    });
  };
  line('Evidence sheet', fonts.bold, 17);
  line(sheet.title, fonts.text, 11);
  y -= 6;
  for (const [name, value] of sheet.facts) {
    const top = y;
    line(name, fonts.text, 8.5, margin, 110, quiet);
    const after = y;
    y = top;
    line(value, fonts.text, 9, margin + 118, width - 118);
    y = Math.min(y, after);
  }
  rule();
  for (const entry of sheet.entries) {
    if (y < margin + 90) next();
    y -= 4;
    line(`${entry.who}  ·  ${entry.what}`, fonts.bold, 10);
    line(
      `${entry.when}${entry.from ? `, from ${entry.from}` : ''}; identified by ${entry.identified}`,
      fonts.text,
      8.5,
      margin,
      width,
      quiet,
    );
    if (entry.note) line(`“${entry.note}”`, fonts.text, 9);
    rule();
  }
  y -= 6;
  line(sheet.closing, fonts.text, 8.5, margin, width, quiet);
  markAncestors(pdf, page);
}

function wrapped(text: string, font: PDFFont, size: number, room: number): string[] {
  const lines: string[] = [];
  for (const paragraph of text.split(/\r?\n/)) {
    let line = '';
    for (const word of paragraph.split(/ +/)) {
      let rest = word;
      // A word longer than the line (a hash, an address) is broken where it must be.
      while (font.widthOfTextAtSize(rest, size) > room) {
        let n = rest.length;
        while (n > 1 && font.widthOfTextAtSize(rest.slice(0, n), size) > room) n -= 1;
        if (line) lines.push(line);
        line = '';
        lines.push(rest.slice(0, n));
        rest = rest.slice(n);
      }
      const longer = line ? `${line} ${rest}` : rest;
      if (font.widthOfTextAtSize(longer, size) <= room) line = longer;
      else {
        lines.push(line);
        line = rest;
      }
    }
    lines.push(line);
  }
  return lines;
}
