import { readFile } from 'node:fs/promises';
import { EncryptedPDFError, PDFDocument } from '@cantoo/pdf-lib';
import { grownByAPage } from './deriveFinal';

export type PdfFault = 'encrypted' | 'broken' | 'empty';

export type Inspection =
  | { readonly ok: true; readonly pages: readonly { readonly width: number; readonly height: number }[] }
  | { readonly ok: false; readonly fault: PdfFault };

/**
 * Reads a PDF with two independent programs and takes it only when both see the same pages: what one of them would
 * sign must be what every reader shows. Widths and heights are displayed points, after rotation and cropping. With
 * `growing` it must also be possible to add behind its end what a final file needs.
 */
export async function inspectPdf(path: string, growing = false): Promise<Inspection> {
  const bytes = await readFile(path);
  const found = await inspected(bytes);
  if (!growing || !found.ok) return found;
  try {
    const shown = await pagesAsShown(await grownByAPage(bytes));
    return typeof shown !== 'string' && shown.length === found.pages.length + 1
      ? found
      : { ok: false, fault: 'broken' };
  } catch {
    return { ok: false, fault: 'broken' };
  }
}

async function inspected(bytes: Buffer): Promise<Inspection> {
  if (bytes.length === 0) return { ok: false, fault: 'empty' };
  // A file must begin with its header; junk before it moves every offset (ISO 32000-2, 7.5.2).
  if (bytes.subarray(0, 5).toString('latin1') !== '%PDF-') return { ok: false, fault: 'broken' };
  if (!tableStands(bytes)) return { ok: false, fault: 'broken' };
  const written = await pagesAsWritten(bytes);
  if (typeof written === 'string') return { ok: false, fault: written };
  const shown = await pagesAsShown(bytes);
  if (typeof shown === 'string') return { ok: false, fault: shown };
  const same =
    written.length === shown.length &&
    written.every(
      (page, i) =>
        Math.abs(page.width - (shown[i]?.width ?? 0)) < 1 && Math.abs(page.height - (shown[i]?.height ?? 0)) < 1,
    );
  if (!same) return { ok: false, fault: 'broken' };
  return shown.length === 0 ? { ok: false, fault: 'empty' } : { ok: true, pages: shown };
}

/**
 * Whether the file's last cross-reference table or stream is where its end says (ISO 32000-2, 7.5.5). Both programs
 * repair a file in which it is not, each in its own way, and others refuse it.
 */
function tableStands(bytes: Buffer): boolean {
  const end = [
    ...bytes
      .subarray(-2048)
      .toString('latin1')
      .matchAll(/startxref\s+(\d+)\s+%%EOF/g),
  ].at(-1);
  const at = Number(end?.[1] ?? bytes.length);
  const there = bytes.subarray(at, at + 64).toString('latin1');
  if (/^\s*\d+\s+\d+\s+obj\b/.test(there)) return true;
  const trailer = bytes.indexOf('trailer', at);
  return /^\s*xref\s+\d/.test(there) && trailer > 0 && bytes.includes('/Root', trailer);
}

type Sizes = { width: number; height: number }[];

/** The pages as the library sees them that stamps and seals the file. */
async function pagesAsWritten(bytes: Uint8Array): Promise<Sizes | PdfFault> {
  try {
    const pdf = await PDFDocument.load(bytes, { updateMetadata: false, throwOnInvalidObject: true });
    const pages = pdf.getPages();
    // Some readers go by the count that the page tree states, others by its leaves.
    if (pdf.catalog.Pages().Count().asNumber() !== pages.length) return 'broken';
    return pages.map((page) => {
      const box = page.getCropBox();
      const media = page.getMediaBox();
      // Only the part of the crop box inside the media box is shown (ISO 32000-2, 14.11.2).
      const width = Math.min(box.x + box.width, media.x + media.width) - Math.max(box.x, media.x);
      const height = Math.min(box.y + box.height, media.y + media.height) - Math.max(box.y, media.y);
      const turned = Math.abs(page.getRotation().angle) % 180 === 90;
      return turned ? { width: height, height: width } : { width, height };
    });
  } catch (error) {
    return error instanceof EncryptedPDFError || /encrypted/i.test(String(error)) ? 'encrypted' : 'broken';
  }
}

/** The pages as the program sees them that shows the file in the browser. */
async function pagesAsShown(bytes: Uint8Array): Promise<Sizes | PdfFault> {
  const scope = globalThis as Record<string, unknown>;
  // The viewer asks for these when it loads; measuring pages draws nothing.
  for (const name of ['DOMMatrix', 'Path2D', 'ImageData']) scope[name] ??= class {};
  const { getDocument, VerbosityLevel } = await import('pdfjs-dist/legacy/build/pdf.mjs');
  try {
    const task = getDocument({
      data: new Uint8Array(bytes),
      stopAtErrors: true,
      isEvalSupported: false,
      useSystemFonts: false,
      disableFontFace: true,
      verbosity: VerbosityLevel.ERRORS,
    });
    const pdf = await task.promise;
    const sizes: Sizes = [];
    for (let n = 1; n <= pdf.numPages; n += 1) {
      const { width, height } = (await pdf.getPage(n)).getViewport({ scale: 1 });
      sizes.push({ width: round(width), height: round(height) });
    }
    await task.destroy();
    return sizes;
  } catch (error) {
    return (error as { name?: string }).name === 'PasswordException' ? 'encrypted' : 'broken';
  }
}

function round(points: number): number {
  return Math.round(points * 100) / 100;
}
