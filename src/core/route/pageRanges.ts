import type { PageRange } from './route';

/** Pages as people write them: "2-4, 7" of a file with so many pages; null where that is no list of its pages. */
export function pageRangesIn(text: string, file: string, pages: number): PageRange[] | null {
  const found: PageRange[] = [];
  for (const piece of text.split(/[,;]/).map((one) => one.trim())) {
    if (piece === '') continue;
    const [, first, last = first] = /^(\d+)(?:\s*[-–]\s*(\d+))?$/.exec(piece) ?? [];
    const [from, to] = [Number(first), Number(last)];
    if (first === undefined || from < 1 || to < from || to > pages) return null;
    found.push({ file, from, to });
  }
  return joined(found);
}

/** The same pages in order, without one twice. */
function joined(ranges: readonly PageRange[]): PageRange[] {
  const out: PageRange[] = [];
  for (const range of ranges.toSorted((a, b) => a.from - b.from)) {
    const last = out.at(-1);
    if (last && range.from <= last.to + 1) out[out.length - 1] = { ...last, to: Math.max(last.to, range.to) };
    else out.push(range);
  }
  return out;
}

/** Pages as `pageRangesIn` reads them. */
export function pageRangesText(ranges: readonly PageRange[]): string {
  return ranges.map(({ from, to }) => (from === to ? String(from) : `${from}–${to}`)).join(', ');
}
