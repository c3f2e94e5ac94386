'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import type { Place } from '@/core/page/places';
import { Tile } from '../parts/Tile';
import { placeWords, placesWords as words } from './words';

/** A place on its page: moved and sized by mouse or arrow keys. */
export function PlaceBox({
  place,
  scale,
  chosen,
  fixed,
  fault,
  holder,
  letters,
  name,
  onChoose,
  onChange,
  onRemove,
}: {
  readonly place: Place;
  readonly scale: number;
  readonly chosen: boolean;
  readonly fixed: boolean;
  readonly fault: boolean;
  readonly holder: string;
  readonly letters: string;
  readonly name: string;
  readonly onChoose: () => void;
  readonly onChange: (part: Partial<Place>) => void;
  readonly onRemove: () => void;
}) {
  const drag = useRef<{ x: number; y: number; place: Place; size: boolean } | null>(null);
  const begin = (event: PointerEvent<HTMLElement>, size: boolean) => {
    event.stopPropagation();
    onChoose();
    if (fixed) return;
    drag.current = { x: event.clientX, y: event.clientY, place, size };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLElement>) => {
    const from = drag.current;
    if (!from) return;
    const dx = (event.clientX - from.x) / scale;
    const dy = (event.clientY - from.y) / scale;
    onChange(
      from.size
        ? { width: from.place.width + dx, height: from.place.height + dy }
        : { x: from.place.x + dx, y: from.place.y + dy },
    );
  };
  const key = (event: KeyboardEvent<HTMLElement>) => {
    if (fixed) return;
    const step = event.altKey ? 0.5 : 4;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (by) {
      event.preventDefault();
      const [dx = 0, dy = 0] = by;
      onChange(
        event.shiftKey ? { width: place.width + dx, height: place.height + dy } : { x: place.x + dx, y: place.y + dy },
      );
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      onRemove();
    }
  };
  return (
    <Box
      data-over
      data-place={place.id}
      role="button"
      tabIndex={0}
      aria-label={`${name}: ${placeWords[place.kind]}. ${words.move}`}
      position="absolute"
      cursor={fixed ? 'default' : 'move'}
      border="1.5px solid"
      borderColor={fault ? 'oxblood' : chosen ? 'iris' : 'edge'}
      borderStyle={place.needed ? 'solid' : 'dashed'}
      borderRadius="4px"
      bg="irisSoft"
      opacity={0.9}
      display="flex"
      alignItems="center"
      gap="6px"
      px="3px"
      overflow="hidden"
      touchAction="none"
      style={{ left: place.x * scale, top: place.y * scale, width: place.width * scale, height: place.height * scale }}
      onPointerDown={(event) => begin(event, false)}
      onPointerMove={move}
      onPointerUp={() => {
        drag.current = null;
      }}
      onFocus={onChoose}
      onKeyDown={key}
    >
      <Tile person={holder} letters={letters} size={Math.max(12, Math.min(24, place.height * scale - 8))} />
      <chakra.span fontSize="12px" color="ink" truncate>
        {place.label || placeWords[place.kind]}
      </chakra.span>
      {chosen && !fixed && (
        <Box
          position="absolute"
          right={0}
          bottom={0}
          w="14px"
          h="14px"
          cursor="nwse-resize"
          borderRight="3px solid"
          borderBottom="3px solid"
          borderColor="iris"
          onPointerDown={(event) => begin(event, true)}
          onPointerMove={move}
          onPointerUp={() => {
            drag.current = null;
          }}
        />
      )}
    </Box>
  );
}
