import { createHash } from 'node:crypto';
import {
  PDFArray,
  PDFBool,
  PDFDict,
  PDFHexString,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFRawStream,
  PDFRef,
  PDFString,
} from '@cantoo/pdf-lib';
import type { PdfPage } from './pages';
import { name, type Revision } from './revision';

/** Beyond so many pages, objects looked at, or steps from a page, a file is decided on as a whole. */
const mostPages = 1000;
const mostObjects = 2_000_000;
const mostSteps = 400;

/** What of a page does not show: where it hangs in the tree, and marks for other programs. */
const unseen = new Set(['Parent', 'StructParents', 'LastModified', 'PieceInfo', 'Metadata', 'Thumb', 'B', 'ID']);
/** What a page may inherit; it is written with its geometry and its resources. */
const inherited = new Set(['Resources', 'MediaBox', 'CropBox', 'Rotate', 'UserUnit']);

/** The file is one of which no part can be told from the others. */
class Whole extends Error {}

/**
 * A hash of each page and of all it draws with: its boxes and turn, its contents, what those use, its annotations, which
 * layers are shown, and how fields without a look of their own are drawn (ISO 32000-2, 7.7.3.3). Numbers of objects do not
 * count, so that a page which an editor left alone keeps its hash; whatever else may show does, so that two pages with one
 * hash look the same. Null where that cannot be told: a file too large, or one whose pages draw with each other. 128 bits
 * each, in base64url.
 */
export function pagePrints(revision: Revision, pages: readonly PdfPage[]): string[] | null {
  if (pages.length > mostPages) return null;
  try {
    return printsOf(revision, pages);
  } catch (error) {
    if (error instanceof Whole) return null;
    throw error;
  }
}

function printsOf(revision: Revision, pages: readonly PdfPage[]): string[] {
  const catalog = revision.dict(revision.root);
  const places = new Map<PDFRef, string>(pages.map((page, at) => [page.ref, `page ${at}`]));
  for (const { parent } of pages)
    for (let at: PDFObject | undefined = parent; at instanceof PDFRef && !places.has(at); ) {
      places.set(at, 'tree');
      at = revision.dict(at).get(name('Parent'));
    }
  const streams = new Map<PDFRawStream, string>();
  let left = mostObjects;

  /** Writes a page's objects without their numbers: whatever was written before is named by its turn. */
  const writer = (own: PDFRef) => {
    const out: string[] = [];
    const seen = new Map<PDFRef, number>([[own, 0]]);
    const write = (object: PDFObject | undefined, draws: boolean, steps: number): void => {
      left -= 1;
      if (left < 0 || steps > mostSteps) throw new Whole();
      if (object instanceof PDFRef) refer(object, draws, steps);
      else if (object instanceof PDFRawStream) {
        const bytes = streams.get(object) ?? createHash('sha256').update(object.contents).digest('hex');
        streams.set(object, bytes);
        out.push('stream', bytes);
        write(object.dict, draws, steps + 1);
      } else if (object instanceof PDFDict) entries(object, draws, steps, new Set(['Length']));
      else if (object instanceof PDFArray) {
        out.push('[');
        for (const item of object.asArray()) write(item, draws, steps + 1);
        out.push(']');
      } else out.push(plain(object));
    };
    const refer = (ref: PDFRef, draws: boolean, steps: number): void => {
      const place = places.get(ref);
      // A link may lead to another page; who draws with one, or with its own page, hides what it is made of.
      if (place !== undefined && draws) throw new Whole();
      const turn = seen.get(ref);
      if (place !== undefined) out.push(ref === own ? 'here' : place);
      else if (turn !== undefined) out.push(`again ${turn}`);
      else {
        seen.set(ref, seen.size);
        write(revision.get(ref), draws, steps + 1);
      }
    };
    const entries = (dict: PDFDict, draws: boolean, steps: number, without: ReadonlySet<string>): void => {
      out.push('<<');
      const all = dict.entries().map(([key, value]) => [key.decodeText(), value] as const);
      for (const [key, value] of all.sort(([a], [b]) => (a < b ? -1 : 1))) {
        if (without.has(key)) continue;
        out.push(`/${key}`);
        write(value, draws || key === 'AP' || key === 'Contents', steps + 1);
      }
      out.push('>>');
    };
    return { out, write, entries };
  };

  const form = revision.inner(catalog, 'AcroForm');
  return pages.map(({ ref, dict, resources, geometry }) => {
    const { out, write, entries } = writer(ref);
    out.push(JSON.stringify(geometry));
    write(catalog.get(name('OCProperties')), true, 0);
    if (form) entries(form, false, 0, new Set(['Fields']));
    write(resources, true, 0);
    entries(dict, false, 0, new Set([...unseen, ...inherited]));
    return createHash('sha256').update(JSON.stringify(out)).digest().subarray(0, 16).toString('base64url');
  });
}

function plain(object: PDFObject | undefined): string {
  if (object instanceof PDFName) return `/${object.decodeText()}`;
  if (object instanceof PDFNumber) return String(object.asNumber());
  if (object instanceof PDFBool) return String(object.asBoolean());
  if (object instanceof PDFString || object instanceof PDFHexString)
    return `(${Buffer.from(object.asBytes()).toString('hex')})`;
  return String(object ?? 'null');
}
