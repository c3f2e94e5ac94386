import { PDFDict, PDFHexString, PDFRef } from '@cantoo/pdf-lib';
import { dayOnPage, type Field, type FieldValue } from '@/core/page/fields';
import { type HanLanguage, hanLanguageIn } from '@/core/text/hanLanguage';
import { oneLineOf } from '../../letters/layOut';
import { LineWriter } from '../../letters/writer';
import { type FieldFont, fieldFonts, runsOf } from './fonts';
import { appearance, inkOperands } from './freeze';
import { pagesOf, type WidgetGeometry, widgetGeometry } from './pages';
import { textOf } from './policy';
import { name, numberIn, PdfRefused, Revision } from './revision';

/** What one signer put into their fields. */
export interface SignerValues {
  readonly seat: string;
  readonly values: Readonly<Record<string, FieldValue>>;
  /** Their time zone, which tells in whose way Han letters are drawn. */
  readonly zone?: string;
}

/** The widget of each of our fields, by the field's id. */
function ownWidgets(revision: Revision, form: PDFDict, seat: string): Map<string, { ref: PDFRef; dict: PDFDict }> {
  const found = new Map<string, { ref: PDFRef; dict: PDFDict }>();
  for (const top of revision.list(form, 'Fields')) {
    const root = revision.get(top);
    if (!(root instanceof PDFDict) || !/^avenda\d*$/.test(textOf(revision.get(root.get(name('T')))))) continue;
    for (const nodeRef of revision.list(root, 'Kids')) {
      const node = revision.get(nodeRef);
      if (!(node instanceof PDFDict) || textOf(revision.get(node.get(name('T')))) !== seat) continue;
      for (const ref of revision.list(node, 'Kids')) {
        const dict = revision.get(ref);
        if (ref instanceof PDFRef && dict instanceof PDFDict)
          found.set(textOf(revision.get(dict.get(name('T')))), { ref, dict });
      }
    }
  }
  return found;
}

/**
 * The frozen file with one signer's values, in one increment: each as its field's own appearance, every field of that
 * seat read-only from then on, those left empty too. Nothing else is touched. Throws when a field was filled already.
 */
export async function fill(
  bytes: Uint8Array,
  fields: readonly Field[],
  { seat, values, zone }: SignerValues,
): Promise<Buffer> {
  const own = fields.filter((field) => field.seat === seat);
  const revision = new Revision(bytes);
  if (own.length === 0) return revision.bytes;
  const form = revision.inner(revision.dict(revision.root), 'AcroForm');
  if (!form) throw new PdfRefused('form', 'it has none');
  const fonts = revision.inner(revision.inner(form, 'DR'), 'Font');
  const pages = pagesOf(revision);
  const widgets = ownWidgets(revision, form, seat);
  // Letters beyond the fonts of the frozen file come as small fonts of their own, in this increment.
  const writer = new LineWriter('AvMore');
  const appearances: { dict: PDFDict; geometry: WidgetGeometry; content: string; used: readonly FieldFont[] }[] = [];
  for (const field of own) {
    const widget = widgets.get(field.id);
    const page = pages[field.page];
    if (!widget || !page) throw new PdfRefused('form', `the field ${field.id} is missing`);
    const flags = numberIn(widget.dict, 'Ff') ?? 0;
    if ((flags & 1) === 1) throw new PdfRefused('form', `the field ${field.id} is filled already`);
    const dict = revision.touch(widget.ref);
    dict.set(name('Ff'), revision.context.obj(flags | 1));
    const given = values[field.id];
    if (!given) continue;
    // A day is written in words on a page.
    const value = given.kind === 'day' ? { kind: 'text' as const, text: dayOnPage(given.day) } : given;
    const geometry = widgetGeometry(page.geometry, field);
    if (value.kind === 'ticked') {
      if (!value.ticked) continue;
      dict.set(name('V'), name('Yes'));
      dict.set(name('AS'), name('Yes'));
      continue;
    }
    const [, , width, height] = geometry.box;
    const drawn =
      value.kind === 'drawn'
        ? { content: strokesContent(value, width, height), used: [] }
        : await textContent(value, width, height, writer, hanLanguageIn(zone ?? ''));
    appearances.push({ dict, geometry, ...drawn });
    if (value.kind === 'text') dict.set(name('V'), PDFHexString.fromText(value.text.normalize('NFC')));
  }
  const more = writer.finish({ context: revision.context, add: (object) => revision.add(object) });
  for (const { dict, geometry, content, used } of appearances) {
    const shared = Object.fromEntries(used.map((font) => [font, fonts?.get(name(font))]));
    const own = Object.fromEntries(Object.entries(more).filter(([key]) => content.includes(`/${key} `)));
    const resources = { Font: { ...shared, ...own } };
    dict.set(name('AP'), revision.context.obj({ N: appearance(revision, geometry, content, resources) }));
  }
  return revision.save();
}

const two = (value: number) => value.toFixed(2);

/** Drawn strokes as curves through the middles of successive points, so that a line stays smooth at any size. */
function strokesContent(value: Extract<FieldValue, { kind: 'drawn' }>, width: number, height: number): string {
  const scale = Math.min(width / value.width, height / value.height);
  const left = (width - value.width * scale) / 2;
  const bottom = (height - value.height * scale) / 2;
  const x = (points: readonly number[], i: number) => left + (points[i] ?? 0) * scale;
  const y = (points: readonly number[], i: number) => bottom + (value.height - (points[i + 1] ?? 0)) * scale;
  const lines = value.strokes
    .filter((points) => points.length >= 4)
    .map((points) => {
      let path = `${two(x(points, 0))} ${two(y(points, 0))} m`;
      let [fromX, fromY] = [x(points, 0), y(points, 0)];
      for (let i = 2; i + 3 < points.length; i += 2) {
        const [midX, midY] = [(x(points, i) + x(points, i + 2)) / 2, (y(points, i) + y(points, i + 2)) / 2];
        // A quadratic curve as the cubic one that PDF has (8.5.2.2).
        const bend = (from: number, through: number) => from + (2 / 3) * (through - from);
        path += ` ${two(bend(fromX, x(points, i)))} ${two(bend(fromY, y(points, i)))}`;
        path += ` ${two(bend(midX, x(points, i)))} ${two(bend(midY, y(points, i)))} ${two(midX)} ${two(midY)} c`;
        [fromX, fromY] = [midX, midY];
      }
      const last = points.length - 2;
      return `${path} ${two(x(points, last))} ${two(y(points, last))} l S`;
    });
  const weight = Math.max(0.7, Math.min(1.6, scale * 2.2));
  return `q ${inkOperands} RG ${two(weight)} w 1 J 1 j\n${lines.join('\n')}\nQ`;
}

/** A typed hand mark or a text, as large as its field allows. */
async function textContent(
  value: Extract<FieldValue, { kind: 'typed' | 'text' }>,
  width: number,
  height: number,
  writer: LineWriter,
  language: HanLanguage,
): Promise<{ content: string; used: readonly FieldFont[] }> {
  const text = value.text.replace(/\s+/g, ' ').trim();
  const hand = value.kind === 'typed';
  const wanted = hand ? height * 0.72 : Math.min(11, height * 0.6);
  const fitted = (long: number) => Math.min(wanted, (width - 6) / Math.max(0.01, long));
  const inField = (shown: string) =>
    `/Tx BMC q 0 0 ${two(width)} ${two(height)} re W n BT ${inkOperands} rg ${shown} ET Q EMC`;
  const runs = await runsOf(hand ? 'AvHand' : 'AvText', text);
  if (runs) {
    const size = fitted(runs.reduce((sum, run) => sum + run.width, 0));
    const codes = runs.map((run) => `/${run.font} ${two(size)} Tf <${run.codes}> Tj`).join(' ');
    return {
      content: inField(`3 ${two((height - size * 0.62) / 2)} Td ${codes}`),
      used: (Object.keys(fieldFonts) as FieldFont[]).filter((font) => runs.some((run) => run.font === font)),
    };
  }
  const style = hand ? 'hand' : 'text';
  const size = fitted(oneLineOf(text, { style, size: 1, language }).width);
  const line = oneLineOf(text, { style, size, language });
  // What is read from the right stands at the right edge of its field.
  const x = line.rightToLeft ? width - 3 - line.width : 3;
  return { content: inField(writer.line(line, size, x, (height - size * 0.62) / 2)), used: [] };
}
