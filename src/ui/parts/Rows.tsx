'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type ReactNode, useEffect } from 'react';
import { Tick } from './form';
import { type Group, useRows } from './useRows';

export interface Column<R> {
  readonly name: string;
  /** A CSS grid track. */
  readonly width: string;
  readonly align?: 'end';
  /** Left out on a phone. */
  readonly wide?: boolean;
  readonly cell: (row: R) => ReactNode;
  /** By what the list can be put in this column's order. */
  readonly order?: string;
}

/**
 * A list of one-line rows with the same columns in every group. A row opens as a leaf beneath itself and the list does
 * not move away; Escape closes it. Long lists are drawn only where they are seen.
 */
export function Rows<R>({
  label,
  columns,
  groups,
  keyOf,
  nameOf,
  leaf,
  empty,
  opened,
  onOpened,
  onEnd,
  order,
  onOrder,
  selection,
  onFollow,
}: {
  readonly label: string;
  readonly columns: readonly Column<R>[];
  readonly groups: readonly Group<R>[];
  readonly keyOf: (row: R) => string;
  /** What a row is called when it is opened by somebody who does not see it. */
  readonly nameOf: (row: R) => string;
  readonly leaf: (row: R) => ReactNode;
  readonly empty: ReactNode;
  /** Which row is open, where the page itself opens one. */
  readonly opened?: string | null;
  readonly onOpened?: (key: string | null) => void;
  /** The last row has come near: where the list comes in pages, the next one is wanted. */
  readonly onEnd?: () => void;
  /** The column whose order the list is in. */
  readonly order?: string;
  readonly onOrder?: (order: string) => void;
  /**
   * Goes on with an open row when it is pressed again by key; then the keys come to the first row by themselves, so that a
   * list can be worked off without a mouse. Without it that closes the row, as a second click always does.
   */
  readonly onFollow?: (row: R) => void;
  /** Which rows are ticked, where several can be acted on at once. */
  readonly selection?: {
    readonly keys: ReadonlySet<string>;
    readonly onKeys: (keys: ReadonlySet<string>) => void;
    readonly may: (row: R) => boolean;
  };
}) {
  const { scroller, bar, none, items, seen, virtual, isOpen, reachable, press, reach, onKey } = useRows({
    groups,
    keyOf,
    opened,
    onOpened,
    onEnd,
  });
  // Also after the row that had the keys is done and gone.
  useEffect(() => {
    if (onFollow && document.activeElement === document.body)
      scroller.current?.querySelector<HTMLElement>('[data-row]')?.focus({ preventScroll: true });
  });
  const tick = (key: string) => {
    const keys = new Set(selection?.keys);
    if (!keys.delete(key)) keys.add(key);
    selection?.onKeys(keys);
  };
  const template = columns.map((column) => column.width).join(' ');
  const narrow = columns
    .filter((column) => !column.wide)
    .map((column) => column.width)
    .join(' ');
  if (none) return <Box flex="1">{empty}</Box>;
  return (
    <Box flex="1" minH={0} display="flex" flexDirection="column" px={{ base: '12px', md: '24px' }}>
      <Box
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label={label}
        outlineOffset="-2px"
        flex="1"
        minH={0}
        overflowY="auto"
        overflowX="hidden"
        css={{ scrollbarGutter: 'stable' }}
        style={{ marginRight: -bar }}
      >
        <Box
          display="grid"
          gridTemplateColumns={{ base: narrow, md: template }}
          alignItems="center"
          gap="12px"
          px="8px"
          ps={selection ? { base: '8px', md: '40px' } : '8px'}
          pb="8px"
          borderBottom="1px solid"
          borderColor="hairline"
          fontSize="12.5px"
          color="quiet"
          aria-hidden={onOrder ? undefined : true}
          position="sticky"
          top={0}
          zIndex={2}
          bg="ground"
          pt="4px"
        >
          {columns.map((column) => (
            <Box
              key={column.name}
              textAlign={column.align}
              display={column.wide ? { base: 'none', md: 'block' } : undefined}
            >
              {column.order && onOrder ? (
                <chakra.button
                  type="button"
                  cursor="pointer"
                  minH="24px"
                  aria-pressed={order === column.order}
                  fontWeight={order === column.order ? 600 : 400}
                  color={order === column.order ? 'ink' : 'quiet'}
                  textDecoration={order === column.order ? 'underline' : 'none'}
                  textUnderlineOffset="3px"
                  _hover={{ color: 'ink' }}
                  onClick={() => onOrder(column.order ?? '')}
                >
                  {column.name}
                </chakra.button>
              ) : (
                column.name
              )}
            </Box>
          ))}
        </Box>
        <Box position="relative" role="list" aria-label={label} style={{ height: virtual.getTotalSize() }}>
          {seen.map((shown) => {
            const item = items[shown.index];
            if (!item) return null;
            return (
              <Box
                key={shown.key}
                ref={virtual.measureElement}
                data-index={shown.index}
                position="absolute"
                top={0}
                left={0}
                right={0}
                style={{ transform: `translateY(${shown.start}px)` }}
                role="listitem"
              >
                {item.kind === 'title' ? (
                  <chakra.h2 fontSize="13.5px" fontWeight={600} color={item.tone} px="8px" pt="20px" pb="6px">
                    {item.title}
                  </chakra.h2>
                ) : (
                  <Box
                    borderBottom="1px solid"
                    borderColor="hairline"
                    css={{ scrollMarginTop: '34px', scrollMarginBottom: '6px' }}
                    position="relative"
                  >
                    {selection?.may(item.row) && (
                      <Box position="absolute" left="8px" top="5px" zIndex={1} display={{ base: 'none', md: 'block' }}>
                        <Tick checked={selection.keys.has(item.key)} onChecked={() => tick(item.key)}>
                          <chakra.span srOnly>{nameOf(item.row)}</chakra.span>
                        </Tick>
                      </Box>
                    )}
                    <chakra.button
                      type="button"
                      data-row={item.key}
                      display="grid"
                      gridTemplateColumns={{ base: narrow, md: template }}
                      gap="12px"
                      alignItems="center"
                      w="100%"
                      minH="38px"
                      py={{ base: '6px', md: 0 }}
                      px="8px"
                      ps={selection ? { base: '8px', md: '40px' } : '8px'}
                      bg={selection?.keys.has(item.key) ? 'pineSoft' : undefined}
                      textAlign="start"
                      cursor="pointer"
                      aria-expanded={isOpen(item.key)}
                      aria-label={nameOf(item.row)}
                      tabIndex={item.key === reachable ? 0 : -1}
                      _hover={{ bg: 'sunk' }}
                      _focusVisible={{ outlineOffset: '-2px' }}
                      onClick={(event) => {
                        // A click that no pointer made.
                        if (onFollow && event.detail === 0 && isOpen(item.key)) onFollow(item.row);
                        else press(item.key);
                      }}
                      onFocus={() => reach(item.key)}
                      onKeyDown={(event) => onKey(event, item.key)}
                    >
                      {columns.map((column) => (
                        <Box
                          key={column.name}
                          minW={0}
                          truncate
                          textAlign={column.align}
                          display={column.wide ? { base: 'none', md: 'block' } : undefined}
                        >
                          {column.cell(item.row)}
                        </Box>
                      ))}
                    </chakra.button>
                    {isOpen(item.key) && <Box pb="8px">{leaf(item.row)}</Box>}
                  </Box>
                )}
              </Box>
            );
          })}
        </Box>
      </Box>
    </Box>
  );
}
