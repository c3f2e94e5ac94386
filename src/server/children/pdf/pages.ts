import { PDFArray, PDFDict, PDFNumber, type PDFObject, PDFRef } from '@cantoo/pdf-lib';
import type { PageSize } from '@/core/page/fields';
import { displayedSize, type PageGeometry, quarterTurn, type Rect, toUserSpace } from '@/core/page/geometry';
import { name, numberIn, PdfRefused, type Revision } from './revision';

export interface PdfPage {
  readonly ref: PDFRef;
  readonly dict: PDFDict;
  readonly parent: PDFRef;
  /** Its place among its parent's kids. */
  readonly index: number;
  /** The same page object stands in the tree before. */
  readonly twin: boolean;
  /** Its own resources, or those it inherits. */
  readonly resources: PDFDict | undefined;
  readonly geometry: PageGeometry;
}

const inherited = ['MediaBox', 'CropBox', 'Rotate', 'Resources'] as const;
type Inherited = Partial<Record<(typeof inherited)[number], PDFObject>>;

/** The pages in order with what they inherit (ISO 32000-2, 7.7.3). Throws on a tree that loops or says wrong counts. */
export function pagesOf(revision: Revision): PdfPage[] {
  const pages: PdfPage[] = [];
  const nodes = new Set<PDFRef>();
  const leaves = new Set<PDFRef>();
  const withOwn = (dict: PDFDict, from: Inherited): Inherited => {
    const all = { ...from };
    for (const key of inherited) {
      const own = dict.get(name(key));
      if (own) all[key] = own;
    }
    return all;
  };
  const node = (ref: PDFObject | undefined, from: Inherited, depth: number): void => {
    if (!(ref instanceof PDFRef)) throw new PdfRefused('page-tree', 'a kid is no reference');
    const dict = revision.dict(ref);
    const kids = revision.get(dict.get(name('Kids')));
    if (!(kids instanceof PDFArray)) throw new PdfRefused('page-tree', 'no kids');
    if (nodes.has(ref) || depth > 64) throw new PdfRefused('page-tree', 'it loops');
    nodes.add(ref);
    const before = pages.length;
    const all = withOwn(dict, from);
    for (const [index, kid] of kids.asArray().entries()) {
      if (!(kid instanceof PDFRef)) throw new PdfRefused('page-tree', 'a kid is no reference');
      const inner = revision.dict(kid);
      if (inner.has(name('Kids'))) {
        node(kid, all, depth + 1);
        continue;
      }
      const twin = leaves.has(kid);
      leaves.add(kid);
      const own = withOwn(inner, all);
      pages.push({
        ref: kid,
        dict: inner,
        parent: ref,
        index,
        twin,
        resources: resourcesIn(revision, own),
        geometry: geometryOf(revision, inner, own),
      });
    }
    const count = revision.get(dict.get(name('Count')));
    if (!(count instanceof PDFNumber) || count.asNumber() !== pages.length - before)
      throw new PdfRefused('page-tree', 'its count contradicts its leaves');
  };
  node(revision.dict(revision.root).get(name('Pages')), {}, 0);
  if (pages.length === 0) throw new PdfRefused('empty');
  return pages;
}

function resourcesIn(revision: Revision, all: Inherited): PDFDict | undefined {
  const found = revision.get(all.Resources);
  return found instanceof PDFDict ? found : undefined;
}

function boxIn(revision: Revision, object: PDFObject | undefined) {
  const found = revision.get(object);
  if (!(found instanceof PDFArray) || found.size() !== 4) return null;
  const [a = 0, b = 0, c = 0, d = 0] = found.asArray().map((one) => {
    const value = revision.get(one);
    return value instanceof PDFNumber ? value.asNumber() : 0;
  });
  return { left: Math.min(a, c), bottom: Math.min(b, d), right: Math.max(a, c), top: Math.max(b, d) };
}

function geometryOf(revision: Revision, dict: PDFDict, all: Inherited): PageGeometry {
  const media = boxIn(revision, all.MediaBox) ?? { left: 0, bottom: 0, right: 612, top: 792 };
  const crop = boxIn(revision, all.CropBox) ?? media;
  // Only the part of the crop box inside the media box is shown (14.11.2).
  let left = Math.max(crop.left, media.left);
  let bottom = Math.max(crop.bottom, media.bottom);
  let right = Math.min(crop.right, media.right);
  let top = Math.min(crop.top, media.top);
  if (right <= left || top <= bottom) ({ left, bottom, right, top } = media);
  const turned = revision.get(all.Rotate);
  const degrees = turned instanceof PDFNumber ? turned.asNumber() : 0;
  return {
    x: left,
    y: bottom,
    width: right - left,
    height: top - bottom,
    // What is no quarter turn counts as none.
    rotate: degrees % 90 === 0 ? quarterTurn(degrees) : 0,
    unit: numberIn(dict, 'UserUnit') || 1,
  };
}

export function sizesOf(pages: readonly PdfPage[]): PageSize[] {
  return pages.map((page) => displayedSize(page.geometry));
}

export interface WidgetGeometry {
  /** In the page's user space. */
  readonly rect: readonly [number, number, number, number];
  /** The field as it is shown, from its own lower left corner. */
  readonly box: readonly [number, number, number, number];
  /** Turns the box upright on a turned page and keeps it in the first quadrant. */
  readonly matrix: readonly [number, number, number, number, number, number];
}

const thousandths = (value: number) => Math.round(value * 1000) / 1000;

/** Where a field's annotation stands on its page and how its appearance is turned (12.5.5). */
export function widgetGeometry(page: PageGeometry, field: Rect): WidgetGeometry {
  const a = toUserSpace(page, field);
  const b = toUserSpace(page, { x: field.x + field.width, y: field.y + field.height });
  const [w, h] = [thousandths(field.width), thousandths(field.height)];
  const matrix = {
    0: [1, 0, 0, 1, 0, 0],
    90: [0, 1, -1, 0, h, 0],
    180: [-1, 0, 0, -1, w, h],
    270: [0, -1, 1, 0, 0, w],
  } as const;
  return {
    rect: [
      thousandths(Math.min(a.x, b.x)),
      thousandths(Math.min(a.y, b.y)),
      thousandths(Math.max(a.x, b.x)),
      thousandths(Math.max(a.y, b.y)),
    ],
    box: [0, 0, w, h],
    matrix: matrix[page.rotate],
  };
}
