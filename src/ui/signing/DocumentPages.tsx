'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { ReactNode, RefObject } from 'react';
import type { PageSize } from '@/core/page/fields';
import type { SpotGiven } from '@/server/operations/pieces';
import { useWidth } from '../parts/useWidth';
import { Ruler, type Tick, Viewer } from './Viewer';

/** The pages of a file in a part of their own that scrolls, with the ruler beside it. */
export function DocumentPages({
  label,
  url,
  pages,
  ticks,
  widest,
  scroller,
  onSpot,
  overlay,
}: {
  readonly label: string;
  readonly url: string;
  readonly pages: readonly PageSize[];
  readonly ticks: readonly Tick[];
  /** The width of a page where there is room for it. */
  readonly widest: number;
  readonly scroller: RefObject<HTMLDivElement | null>;
  readonly onSpot?: ((spot: SpotGiven) => void) | undefined;
  readonly overlay: (page: number, scale: number) => ReactNode;
}) {
  const { ref, width } = useWidth<HTMLDivElement>(widest);
  return (
    <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
      <Box pl="16px" display="flex">
        <Ruler pages={pages} scroller={scroller} ticks={ticks} />
      </Box>
      <Box
        ref={scroller}
        flex="1"
        minW={0}
        overflowY="auto"
        position="relative"
        py="14px"
        tabIndex={0}
        role="region"
        aria-label={label}
      >
        <Box ref={ref} px="12px">
          <Viewer
            key={url}
            url={url}
            pages={pages}
            width={Math.min(widest, width - 24)}
            onSpot={onSpot}
            overlay={overlay}
          />
        </Box>
      </Box>
    </Flex>
  );
}
