import { PDFArray, PDFRef } from '@cantoo/pdf-lib';
import { displayedSize, type PageGeometry, toUserSpace } from '@/core/page/geometry';
import { oneLineOf } from '../../letters/layOut';
import { LineWriter } from '../../letters/writer';
import { copyOf, separateTwins } from './freeze';
import { pagesOf } from './pages';
import { findingsIn } from './policy';
import { name, Revision } from './revision';

// Lines along the edges of pages, in one increment behind the file's end: the margin line that a version gets when it is
// submitted, the status on a copy made for printing. What the pages show already stays as it is and where it is.

export interface EdgeLine {
  readonly edge: 'top' | 'bottom';
  /** Set before the number of the page. */
  readonly text: string;
  /** Whether "page 2 of 7" follows. */
  readonly numbered: boolean;
}

const size = 7.5;
const aside = 28;
const fromEdge = 14;
/** Quiet, but dark enough to be read from a copy of a copy. */
const ink = '0.25 0.3 0.33';

/** The operators that turn upright coordinates of a page as it is shown, from its lower left corner, into its own. */
function uprightMatrix(page: PageGeometry): string {
  const { height } = displayedSize(page);
  const at = (x: number, y: number) => toUserSpace(page, { x, y: height - y });
  const [o, u, v] = [at(0, 0), at(1, 0), at(0, 1)];
  return [u.x - o.x, u.y - o.y, v.x - o.x, v.y - o.y, o.x, o.y].map((one) => Number(one.toFixed(5))).join(' ');
}

/** The file with the lines on each of its pages. The same file and lines give the same bytes. */
export function layEdgeLines(bytes: Uint8Array, lines: readonly EdgeLine[]): Buffer {
  const revision = new Revision(bytes);
  const { context } = revision;
  separateTwins(revision, findingsIn(revision, pagesOf(revision)).signed);
  const pages = pagesOf(revision);
  const taken = new Set(
    pages.flatMap(({ resources }) =>
      [...(revision.inner(resources, 'Font')?.keys() ?? [])].map((key) => key.decodeText()),
    ),
  );
  let prefix = 'AvEdge';
  while ([...taken].some((one) => one.startsWith(prefix))) prefix += 'x';
  const writer = new LineWriter(prefix);
  const stream = (content: string) => revision.add(context.flateStream(content));
  const contents = pages.map(({ geometry }, i) => {
    const shown = displayedSize(geometry);
    const laid = lines.map(({ edge, text, numbered }) => {
      const whole = numbered ? `${text} · page ${i + 1} of ${pages.length}` : text;
      const options = { style: 'text', language: 'zh-Hans' } as const;
      const fits = (shown.width - 2 * aside) / oneLineOf(whole, { ...options, size }).width;
      const fitted = size * Math.min(1, Math.max(0.1, fits));
      const line = oneLineOf(whole, { ...options, size: fitted });
      return writer.line(line, fitted, aside, edge === 'bottom' ? fromEdge : shown.height - fromEdge - fitted * 0.7);
    });
    // An artifact of pagination: readers aloud pass over it (ISO 32000-2, 14.8.2.2).
    return `Q /Artifact <</Type /Pagination>> BDC q ${uprightMatrix(geometry)} cm BT ${ink} rg\n${laid.join('\n')}\nET Q EMC`;
  });
  const fonts = writer.finish({ context, add: (object) => revision.add(object) });
  const save = stream('q');
  for (const [i, { ref, resources }] of pages.entries()) {
    const page = revision.touch(ref);
    const all = PDFArray.withContext(context);
    const old = page.get(name('Contents'));
    const streams = revision.get(old) instanceof PDFArray ? revision.list(page, 'Contents') : old ? [old] : [];
    all.push(save);
    for (const one of streams) if (one instanceof PDFRef) all.push(one);
    all.push(stream(contents[i] ?? ''));
    page.set(name('Contents'), all);
    const own = copyOf(revision, resources);
    const named = copyOf(revision, revision.inner(resources, 'Font'));
    for (const [key, font] of Object.entries(fonts)) named.set(name(key), font);
    own.set(name('Font'), named);
    page.set(name('Resources'), own);
  }
  return revision.save();
}
