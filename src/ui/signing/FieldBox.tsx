'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import type { Field } from '@/core/page/fields';
import { Tile } from '../parts/Tile';
import { fieldWords, fieldsWords as words } from './words';

/** A field on its page: opened by a press or Enter, moved and sized by mouse or arrow keys. */
export function FieldBox({
  field,
  scale,
  chosen,
  fixed,
  fault,
  holder,
  letters,
  name,
  onChoose,
  onOpen,
  onChange,
  onRemove,
}: {
  readonly field: Field;
  readonly scale: number;
  readonly chosen: boolean;
  readonly fixed: boolean;
  readonly fault: boolean;
  readonly holder: string;
  readonly letters: string;
  readonly name: string;
  readonly onChoose: () => void;
  readonly onOpen: () => void;
  readonly onChange: (part: Partial<Field>) => void;
  readonly onRemove: () => void;
}) {
  const drag = useRef<{ x: number; y: number; field: Field; size: boolean; moved: boolean } | null>(null);
  const begin = (event: PointerEvent<HTMLElement>, size: boolean) => {
    event.stopPropagation();
    onChoose();
    if (fixed) return;
    drag.current = { x: event.clientX, y: event.clientY, field, size, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLElement>) => {
    const from = drag.current;
    if (!from) return;
    // A hand that presses trembles.
    if (!from.moved && Math.hypot(event.clientX - from.x, event.clientY - from.y) < 4) return;
    from.moved = true;
    const dx = (event.clientX - from.x) / scale;
    const dy = (event.clientY - from.y) / scale;
    onChange(
      from.size
        ? { width: from.field.width + dx, height: from.field.height + dy }
        : { x: from.field.x + dx, y: from.field.y + dy },
    );
  };
  const end = () => {
    if (drag.current && !drag.current.moved) onOpen();
    drag.current = null;
  };
  const key = (event: KeyboardEvent<HTMLElement>) => {
    if (fixed) return;
    if (event.key === 'Enter') return onOpen();
    const step = event.altKey ? 0.5 : 4;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (by) {
      event.preventDefault();
      const [dx = 0, dy = 0] = by;
      onChange(
        event.shiftKey ? { width: field.width + dx, height: field.height + dy } : { x: field.x + dx, y: field.y + dy },
      );
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      onRemove();
    }
  };
  return (
    <Box
      data-over
      data-place={field.id}
      role="button"
      tabIndex={0}
      aria-label={`${name}: ${fieldWords[field.kind]}. ${words.move}`}
      position="absolute"
      cursor={fixed ? 'default' : 'move'}
      border="1.5px solid"
      borderColor={fault ? 'oxblood' : chosen ? 'iris' : 'edge'}
      borderStyle={field.needed ? 'solid' : 'dashed'}
      borderRadius="4px"
      bg="irisSoft"
      opacity={0.9}
      display="flex"
      alignItems="center"
      gap="6px"
      px="3px"
      overflow="hidden"
      touchAction="none"
      style={{ left: field.x * scale, top: field.y * scale, width: field.width * scale, height: field.height * scale }}
      onPointerDown={(event) => begin(event, false)}
      onPointerMove={move}
      onPointerUp={end}
      onFocus={onChoose}
      onKeyDown={key}
    >
      <Tile person={holder} letters={letters} size={Math.max(12, Math.min(24, field.height * scale - 8))} />
      <chakra.span fontSize="12px" fontWeight={600} color="ink" flex="none">
        {fieldWords[field.kind]}
      </chakra.span>
      <chakra.span fontSize="12px" color="quiet" truncate>
        {field.label || name}
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
          onPointerUp={end}
        />
      )}
    </Box>
  );
}
