'use client';

import { Box } from '@chakra-ui/react';
import { type MouseEvent, type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import { Document, Page, pdfjs } from 'react-pdf';
import 'react-pdf/dist/Page/TextLayer.css';
import type { PageSize } from '@/core/page/fields';
import type { SpotGiven } from '@/server/operations/pieces';

pdfjs.GlobalWorkerOptions.workerSrc = new URL('pdfjs-dist/build/pdf.worker.min.mjs', import.meta.url).toString();

// Nothing in a file runs, and everything a file may need comes from here.
const options = {
  isEvalSupported: false,
  enableXfa: false,
  cMapUrl: '/viewer/cmaps/',
  cMapPacked: true,
  standardFontDataUrl: '/viewer/standard_fonts/',
  wasmUrl: '/viewer/wasm/',
};

const gap = 16;

// A page that is left while its file is being read ends the reader's worker; that is meant, and nothing to report.
if (typeof window !== 'undefined')
  window.addEventListener('unhandledrejection', (event) => {
    if ((event.reason as Error | undefined)?.message === 'Worker was terminated') event.preventDefault();
  });

/**
 * The bytes of a file, fetched once and whole: what is read stays as it was opened, also when the seat it was opened
 * through is decided meanwhile and the file is no longer served.
 */
function useBytes(url: string, onFault: (() => void) | undefined): { data: Uint8Array } | null {
  const [file, setFile] = useState<{ data: Uint8Array } | null>(null);
  const failed = useRef(onFault);
  failed.current = onFault;
  useEffect(() => {
    const stop = new AbortController();
    setFile(null);
    fetch(url, { signal: stop.signal })
      .then(async (response) => {
        if (!response.ok) throw new Error(`the file was answered with ${response.status}`);
        setFile({ data: new Uint8Array(await response.arrayBuffer()) });
      })
      .catch(() => {
        if (!stop.signal.aborted) failed.current?.();
      });
    return () => stop.abort();
  }, [url]);
  return file;
}

/** The pages of a PDF at one width, drawn when they come near; what stands on a page is laid over it. */
export default function PdfPages({
  url,
  pages,
  width,
  overlay,
  onSpot,
  label,
  opening,
  onFault,
}: {
  readonly url: string;
  readonly pages: readonly PageSize[];
  readonly width: number;
  /** What to lay over a page, given the factor from points to pixels. */
  readonly overlay?: (page: number, scale: number) => ReactNode;
  /** A press on a page, or words selected on it, in displayed points. */
  readonly onSpot?: ((spot: SpotGiven) => void) | undefined;
  readonly label: (page: number, pages: number) => string;
  /** What stands here until the file has been opened. */
  readonly opening: ReactNode;
  readonly onFault?: () => void;
}) {
  const widest = useMemo(() => Math.max(1, ...pages.map((page) => page.width)), [pages]);
  const scale = width / widest;
  const file = useBytes(url, onFault);
  return (
    <Document
      file={file}
      options={options}
      loading={opening}
      error={null}
      noData={opening}
      onLoadError={onFault}
      onSourceError={onFault}
    >
      {pages.map((page, i) => (
        <LazyPage key={i} index={i} size={page} scale={scale} label={label(i + 1, pages.length)} onSpot={onSpot}>
          {overlay?.(i, scale)}
        </LazyPage>
      ))}
    </Document>
  );
}

function LazyPage({
  index,
  size,
  scale,
  label,
  children,
  onSpot,
}: {
  readonly index: number;
  readonly size: PageSize;
  readonly scale: number;
  readonly label: string;
  readonly children: ReactNode;
  readonly onSpot: ((spot: SpotGiven) => void) | undefined;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(index < 2);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new IntersectionObserver(([entry]) => setNear((before) => before || !!entry?.isIntersecting), {
      rootMargin: '900px 0px',
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const press = (event: MouseEvent<HTMLDivElement>) => {
    if (!onSpot || (event.target as HTMLElement).closest('button, input, textarea, [role=button], [data-over]')) return;
    const box = event.currentTarget.getBoundingClientRect();
    const passage = passageIn(event.currentTarget, scale);
    onSpot({
      page: index,
      x: round((event.clientX - box.left) / scale),
      y: round((event.clientY - box.top) / scale),
      ...passage,
    });
  };
  return (
    // With the keyboard a comment is made on the whole, and places are put from their list.
    <Box
      ref={ref}
      data-page={index}
      position="relative"
      role="region"
      aria-label={label}
      boxSizing="content-box"
      bg="page"
      mx="auto"
      mb={`${gap}px`}
      border="1px solid"
      borderColor="hairline"
      style={{ width: size.width * scale, height: size.height * scale }}
      onClick={press}
    >
      {near && (
        <Page
          pageIndex={index}
          scale={scale}
          loading={null}
          error={null}
          renderAnnotationLayer={false}
          renderTextLayer
        />
      )}
      {children}
    </Box>
  );
}

const longestQuote = 300;

/** The words that are selected on a page, and the boxes of their lines in points; the spot stands under the last line. */
function passageIn(page: HTMLElement, scale: number): Partial<SpotGiven> {
  const selection = window.getSelection();
  const range = selection && selection.rangeCount > 0 && !selection.isCollapsed ? selection.getRangeAt(0) : null;
  if (!range || !page.contains(range.commonAncestorContainer)) return {};
  const words = range.toString().replace(/\s+/g, ' ').trim();
  const box = page.getBoundingClientRect();
  const marks = [...range.getClientRects()]
    .filter((rect) => rect.width > 1 && rect.height > 1 && rect.width < box.width)
    .map((rect) => ({
      x: Math.max(0, round((rect.left - box.left) / scale)),
      y: Math.max(0, round((rect.top - box.top) / scale)),
      width: round(rect.width / scale),
      height: round(rect.height / scale),
    }))
    // A line of letters is told twice: by its box and by its text.
    .filter((mark, i, all) => all.findIndex((one) => one.x === mark.x && one.y === mark.y) === i)
    .slice(0, 100);
  const last = marks.at(-1);
  if (words === '' || !last) return {};
  return {
    x: last.x,
    y: round(last.y + last.height),
    marks,
    quote: words.length > longestQuote ? `${words.slice(0, longestQuote).trim()} …` : words,
  };
}

function round(points: number): number {
  return Math.round(points * 10) / 10;
}
