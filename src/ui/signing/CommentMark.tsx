'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type ReactNode, useEffect, useRef } from 'react';
import type { SpotGiven } from '@/server/operations/pieces';
import { Leaf } from '../parts/parts';

/**
 * A comment's mark: its number at the edge of the page, where no word stands, and a ring on its spot, which hides none. It
 * opens as a leaf under its line.
 */
export function CommentMark({
  n,
  spot,
  scale,
  settled,
  label,
  open,
  onToggle,
  children,
}: {
  readonly n: number;
  readonly spot: SpotGiven;
  readonly scale: number;
  readonly settled: boolean;
  readonly label: string;
  readonly open: boolean;
  readonly onToggle: () => void;
  readonly children: ReactNode;
}) {
  return (
    <>
      <chakra.button
        type="button"
        data-over
        position="absolute"
        left="5px"
        w="26px"
        h="26px"
        mt="-13px"
        borderRadius="13px 13px 3px 13px"
        bg={settled ? 'surface' : 'pine'}
        color={settled ? 'quiet' : 'onPine'}
        border="1.5px solid"
        borderColor={settled ? 'ahead' : 'pine'}
        fontSize="12px"
        fontWeight={700}
        cursor="pointer"
        aria-expanded={open}
        aria-label={label}
        style={{ top: spot.y * scale }}
        onClick={onToggle}
      >
        {n}
      </chakra.button>
      <SpotRing spot={spot} scale={scale} strong={open} />
      {open && (
        <AtSpot spot={spot} scale={scale}>
          <Leaf label={label}>{children}</Leaf>
        </AtSpot>
      )}
    </>
  );
}

/** What a comment is about: the words that were selected, underlined, or a ring round a spot, through which words are read. */
export function SpotRing({
  spot,
  scale,
  strong,
}: {
  readonly spot: SpotGiven;
  readonly scale: number;
  readonly strong: boolean;
}) {
  if (spot.marks?.length)
    return spot.marks.map((mark) => (
      <Box
        key={`${mark.x} ${mark.y}`}
        position="absolute"
        borderBottom={strong ? '2.5px solid' : '1.5px solid'}
        borderColor="pine"
        pointerEvents="none"
        aria-hidden
        style={{ left: mark.x * scale, top: mark.y * scale, width: mark.width * scale, height: mark.height * scale }}
      >
        {strong && <Box position="absolute" inset="0" bg="pine" opacity={0.14} />}
      </Box>
    ));
  return (
    <Box
      position="absolute"
      w="22px"
      h="22px"
      ml="-11px"
      mt="-11px"
      borderRadius="11px"
      border={strong ? '2.5px solid' : '1.5px solid'}
      borderColor="pine"
      pointerEvents="none"
      aria-hidden
      style={{ left: spot.x * scale, top: spot.y * scale }}
    />
  );
}

/** Lays what belongs to a spot of a page under it. */
export function AtSpot({
  spot,
  scale,
  children,
}: {
  readonly spot: { y: number };
  readonly scale: number;
  readonly children: ReactNode;
}) {
  const laid = useRef<HTMLDivElement>(null);
  // What opens below the edge of what is in view is brought into it.
  useEffect(() => {
    laid.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  return (
    <Box
      ref={laid}
      data-over
      position="absolute"
      left="12px"
      right="12px"
      maxW="500px"
      zIndex={5}
      style={{ top: spot.y * scale + 20 }}
    >
      {children}
    </Box>
  );
}
