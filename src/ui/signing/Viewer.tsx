'use client';

import { Box, chakra } from '@chakra-ui/react';
import dynamic from 'next/dynamic';
import { type ComponentProps, type ReactNode, type RefObject, useEffect, useState } from 'react';
import type { PageSize } from '@/core/page/fields';
import { type Colour, ink } from '../theme/system';

const PdfPages = dynamic(() => import('./PdfPages'), { ssr: false, loading: () => <Opening /> });

function Opening() {
  return (
    <Box p="24px" color="quiet" role="status">
      {viewerWords.loading}
    </Box>
  );
}

const viewerWords = {
  loading: 'Opening the pages …',
  page: (page: number, pages: number) => `Page ${page} of ${pages}`,
  fault: 'The pages could not be shown here. You can still download the file.',
  ruler: 'The whole document to scale',
  goTo: (page: number) => `Go to page ${page}`,
};

/** The pages of a file; what cannot be shown says so. */
export function Viewer(props: Omit<ComponentProps<typeof PdfPages>, 'label' | 'opening' | 'onFault'>) {
  const [fault, setFault] = useState(false);
  if (fault)
    return (
      <Box p="24px">
        {viewerWords.fault}{' '}
        <chakra.span color="pine" fontWeight={600} asChild>
          <a href={`${props.url}?download`}>PDF</a>
        </chakra.span>
      </Box>
    );
  return <PdfPages {...props} label={viewerWords.page} opening={<Opening />} onFault={() => setFault(true)} />;
}

export interface Tick {
  readonly key: string;
  readonly page: number;
  /** Points from the top of the page. */
  readonly y: number;
  readonly tone: Colour;
}

/**
 * The ruler beside a document: the whole of it to scale, with page numbers, ticks for what stands on the pages and the
 * part in view as a window. A press goes there.
 */
export function Ruler({
  pages,
  ticks,
  scroller,
  children,
}: {
  readonly pages: readonly PageSize[];
  readonly ticks: readonly Tick[];
  readonly scroller: RefObject<HTMLDivElement | null>;
  readonly children?: ReactNode;
}) {
  const [view, setView] = useState({ top: 0, size: 1 });
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const measure = () =>
      setView({
        top: element.scrollTop / Math.max(1, element.scrollHeight),
        size: Math.min(1, element.clientHeight / Math.max(1, element.scrollHeight)),
      });
    measure();
    element.addEventListener('scroll', measure, { passive: true });
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    if (element.firstElementChild) observer.observe(element.firstElementChild);
    return () => {
      element.removeEventListener('scroll', measure);
      observer.disconnect();
    };
  }, [scroller]);
  const total = pages.reduce((sum, page) => sum + page.height, 0) || 1;
  const starts = pages.map((_, i) => pages.slice(0, i).reduce((sum, page) => sum + page.height, 0) / total);
  const at = (page: number, y: number) => ((starts[page] ?? 0) + y / total) * 100;
  const go = (page: number) => {
    const element = scroller.current?.querySelector<HTMLElement>(`[data-page="${page}"]`);
    if (element) scroller.current?.scrollTo({ top: element.offsetTop - 12 });
  };
  const step = Math.max(1, Math.ceil(pages.length / 24));
  return (
    <Box
      w="72px"
      flex="none"
      position="relative"
      my="14px"
      display={{ base: 'none', md: 'block' }}
      role="navigation"
      aria-label={viewerWords.ruler}
    >
      <Box position="absolute" left="20px" top={0} bottom={0} w="1px" bg="edge" />
      <Box
        position="absolute"
        left="9px"
        w="23px"
        borderRadius="4px"
        border="1px solid"
        borderColor="pine"
        bg="pineSoft"
        opacity={0.8}
        style={{ top: `${view.top * 100}%`, height: `${view.size * 100}%` }}
      />
      {ticks.map((tick) => (
        <Box
          key={tick.key}
          position="absolute"
          left="13px"
          w="15px"
          h="3px"
          borderRadius="2px"
          style={{ top: `${at(tick.page, tick.y)}%`, background: ink(tick.tone) }}
        />
      ))}
      {pages.map((_, i) =>
        i % step === 0 ? (
          <chakra.button
            key={i}
            type="button"
            position="absolute"
            left="36px"
            minW="24px"
            minH="24px"
            mt="-2px"
            fontSize="12px"
            color="quiet"
            cursor="pointer"
            textAlign="start"
            _hover={{ color: 'ink' }}
            style={{ top: `${(starts[i] ?? 0) * 100}%` }}
            aria-label={viewerWords.goTo(i + 1)}
            onClick={() => go(i)}
          >
            {i + 1}
          </chakra.button>
        ) : null,
      )}
      {children}
    </Box>
  );
}
