'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type RefObject, useEffect, useState } from 'react';
import type { OutlineEntry } from '@/core/text/story';
import { ink } from '../theme/system';
import { draftWords as words } from './words';

/**
 * The ruler beside a text: the whole of it to scale, its sections as ticks with their numbers and the part in view as a
 * window. It unfolds into the outline where one points or steps into it.
 */
export function TextRuler({
  sections,
  scroller,
}: {
  readonly sections: readonly OutlineEntry[];
  readonly scroller: RefObject<HTMLDivElement | null>;
}) {
  const [wide, setWide] = useState(false);
  const [view, setView] = useState<{ top: number; size: number; at: readonly number[] }>({ top: 0, size: 1, at: [] });
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const measure = () => {
      const whole = Math.max(1, element.scrollHeight);
      const top = element.getBoundingClientRect().top - element.scrollTop;
      setView({
        top: element.scrollTop / whole,
        size: Math.min(1, element.clientHeight / whole),
        at: sections.map((entry) => {
          const heading = element.querySelector(`[data-id="${entry.block}"]`);
          return heading ? (heading.getBoundingClientRect().top - top) / whole : 0;
        }),
      });
    };
    measure();
    element.addEventListener('scroll', measure, { passive: true });
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    if (element.firstElementChild) observer.observe(element.firstElementChild);
    return () => {
      element.removeEventListener('scroll', measure);
      observer.disconnect();
    };
  }, [sections, scroller]);
  return (
    <Box
      as="nav"
      aria-label={words.outline}
      flex="none"
      position="relative"
      my="14px"
      ml="16px"
      w={wide ? '240px' : '64px'}
      transition="width 120ms"
      display={{ base: 'none', md: 'block' }}
      onMouseEnter={() => setWide(true)}
      onMouseLeave={() => setWide(false)}
      onFocus={() => setWide(true)}
      onBlur={() => setWide(false)}
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
      {sections.map((entry, i) => (
        <Box key={entry.block} style={{ position: 'absolute', left: 0, right: 0, top: `${(view.at[i] ?? 0) * 100}%` }}>
          <Box
            position="absolute"
            left={entry.level === 1 ? '13px' : '16px'}
            w={entry.level === 1 ? '15px' : '9px'}
            h="3px"
            borderRadius="2px"
            style={{ background: ink('pine') }}
          />
          <chakra.button
            type="button"
            position="absolute"
            left="38px"
            right={0}
            top="-11px"
            minH="24px"
            textAlign="start"
            fontSize="12.5px"
            color="quiet"
            cursor="pointer"
            truncate
            _hover={{ color: 'ink' }}
            aria-label={`${entry.number} ${entry.title}`}
            onClick={() => document.querySelector(`[data-id="${entry.block}"]`)?.scrollIntoView({ block: 'start' })}
          >
            {wide ? `${entry.number}  ${entry.title}` : entry.number}
          </chakra.button>
        </Box>
      ))}
    </Box>
  );
}
