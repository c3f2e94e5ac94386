import { readFile, writeFile } from 'node:fs/promises';
import { PDFDocument } from '@cantoo/pdf-lib';
import type { PageSize } from '@/core/page/fields';
import { pagesOf, sizesOf } from './pdf/pages';
import { findingsIn } from './pdf/policy';
import { pagePrints } from './pdf/prints';
import { PdfRefused, Revision } from './pdf/revision';

/** Why a PDF is not taken. */
export type PdfFault =
  | 'encrypted'
  | 'broken'
  | 'empty'
  | 'active'
  | 'xfa'
  | 'portfolio'
  | 'content'
  | 'hidden-format'
  | 'too-large-inside';

/** What was put right in a working copy. */
export type PdfRepair = 'before-header' | 'after-end' | 'rewritten';

export type Inspection =
  | {
      readonly ok: true;
      readonly pages: readonly PageSize[];
      /** What each page is made of, as a hash; null where that can be told only of the whole. */
      readonly prints: readonly string[] | null;
      readonly notices: readonly string[];
      /** Why it can take no fields. */
      readonly noFields: string | null;
      /** What was put right; then the working copy stands where the caller wanted it. */
      readonly repaired: readonly PdfRepair[];
    }
  | { readonly ok: false; readonly fault: PdfFault };

export interface InspectTask {
  readonly path: string;
  /** Where a repaired working copy goes, for files that are taken in; without it a damaged file is refused. */
  readonly repairInto?: string;
}

/**
 * Reads a PDF with two independent programs and takes it only when both see the same pages: what one of them would
 * grow and sign must be what every reader shows. A file with junk around it or a broken table is put right in a working
 * copy, when that shows the same as the file itself. Widths and heights are points, after rotation and cropping.
 */
export async function inspectPdf({ path, repairInto }: InspectTask): Promise<Inspection> {
  try {
    return await inspected(await readFile(path), repairInto);
  } catch (error) {
    return { ok: false, fault: faultOf(error) };
  }
}

const faults: Readonly<Record<string, PdfFault>> = {
  encrypted: 'encrypted',
  empty: 'empty',
  active: 'active',
  xfa: 'xfa',
  portfolio: 'portfolio',
  content: 'content',
  'hidden-format': 'hidden-format',
  'too-large-inside': 'too-large-inside',
};

function faultOf(error: unknown): PdfFault {
  if (error instanceof PdfRefused) return faults[error.code] ?? 'broken';
  return /encrypt|password/i.test(String(error)) ? 'encrypted' : 'broken';
}

async function inspected(given: Buffer, repairInto: string | undefined): Promise<Inspection> {
  if (given.length === 0) throw new PdfRefused('empty');
  const repaired: PdfRepair[] = [];
  let bytes = given;
  const header = bytes.subarray(0, 1024).indexOf('%PDF-');
  if (header < 0) throw new PdfRefused('header');
  if (header > 0) {
    bytes = bytes.subarray(header);
    repaired.push('before-header');
  }
  const end = endOf(bytes);
  if (end < bytes.length) {
    refuseHiddenFormat(bytes.subarray(end));
    bytes = bytes.subarray(0, end);
    repaired.push('after-end');
  }
  let own = readOwn(bytes);
  if (own instanceof PdfRefused) {
    if (own.code !== 'xref' && own.code !== 'object' && own.code !== 'page-tree') throw own;
    if (repairInto === undefined) throw own;
    // Its table of objects lies: both programs rebuild it in their own way, and only where they agree it is taken.
    const seen = await seenBy(bytes);
    bytes = await rewritten(bytes);
    const again = await seenBy(bytes);
    if (JSON.stringify(seen) !== JSON.stringify(again)) throw own;
    own = readOwn(bytes);
    if (own instanceof PdfRefused) throw own;
    repaired.push('rewritten');
  }
  const shown = await seenBy(bytes);
  const same =
    own.pages.length === shown.length &&
    own.pages.every(
      (page, i) =>
        Math.abs(page.width - (shown[i]?.width ?? 0)) < 1 && Math.abs(page.height - (shown[i]?.height ?? 0)) < 1,
    );
  if (!same) throw new PdfRefused('page-tree');
  if (repaired.length > 0) {
    if (repairInto === undefined) throw new PdfRefused('xref');
    await writeFile(repairInto, bytes);
  }
  return {
    ok: true,
    pages: shown.map(({ width, height }) => ({ width, height })),
    prints: own.prints,
    notices: own.notices,
    noFields: own.noFields,
    repaired,
  };
}

/** What our own reading of the file finds, or why it cannot be read. */
function readOwn(bytes: Buffer) {
  try {
    const revision = new Revision(bytes);
    const pages = pagesOf(revision);
    const { notices, noFields } = findingsIn(revision, pages);
    return { pages: sizesOf(pages), prints: pagePrints(revision, pages), notices, noFields };
  } catch (error) {
    if (error instanceof PdfRefused) return error;
    throw error;
  }
}

/** Where the file ends: behind its last end mark and the line end that may follow. A file without one has no end. */
function endOf(bytes: Buffer): number {
  const mark = bytes.lastIndexOf('%%EOF');
  if (mark < 0) return bytes.length;
  let end = mark + 5;
  while (end < bytes.length && (bytes[end] === 13 || bytes[end] === 10 || bytes[end] === 32)) end += 1;
  return end;
}

/** Something that another program would take for its own format has no business behind the end of a PDF. */
function refuseHiddenFormat(rest: Buffer): void {
  const text = rest.toString('latin1');
  // biome-ignore lint/suspicious/noControlCharactersInRegex: the marks of archives and programs hold such bytes
  if (/PK[\x01-\x08]|\x7fELF|^MZ|<(?:html|script|\?php|svg)|%PDF-|Rar!|7z\xbc\xaf/i.test(text))
    throw new PdfRefused('hidden-format');
}

/** The file written anew by the library, from whatever objects it finds. */
async function rewritten(bytes: Buffer): Promise<Buffer> {
  const pdf = await PDFDocument.load(bytes, { updateMetadata: false, throwOnInvalidObject: false });
  return Buffer.from(await pdf.save({ useObjectStreams: false, addDefaultPage: false, updateFieldAppearances: false }));
}

interface SeenPage extends PageSize {
  readonly text: string;
}

/** The pages as the program sees them that shows the file in the browser. Throws when it cannot read them. */
async function seenBy(bytes: Uint8Array): Promise<SeenPage[]> {
  const shared = globalThis as Record<string, unknown>;
  // The viewer asks for these when it loads; measuring pages draws nothing.
  for (const name of ['DOMMatrix', 'Path2D', 'ImageData']) shared[name] ??= class {};
  const { getDocument, VerbosityLevel } = await import('pdfjs-dist/legacy/build/pdf.mjs');
  const task = getDocument({
    data: new Uint8Array(bytes),
    stopAtErrors: true,
    isEvalSupported: false,
    useSystemFonts: false,
    disableFontFace: true,
    verbosity: VerbosityLevel.ERRORS,
  });
  const pdf = await task.promise;
  const pages: SeenPage[] = [];
  for (let n = 1; n <= pdf.numPages; n += 1) {
    const page = await pdf.getPage(n);
    const { width, height } = page.getViewport({ scale: 1 });
    const { items } = await page.getTextContent();
    const text = items.map((item) => ('str' in item ? item.str : '')).join('');
    pages.push({ width: round(width), height: round(height), text });
  }
  await task.destroy();
  return pages;
}

function round(points: number): number {
  return Math.round(points * 100) / 100;
}
