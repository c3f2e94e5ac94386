'use client';

import { Box, chakra } from '@chakra-ui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type ReactNode, useEffect, useMemo, useRef, useState } from 'react';

export interface Column<R> {
  readonly name: string;
  /** A CSS grid track. */
  readonly width: string;
  readonly align?: 'end';
  /** Left out on a phone. */
  readonly wide?: boolean;
  readonly cell: (row: R) => ReactNode;
}

export interface Group<R> {
  readonly title: string | null;
  readonly rows: readonly R[];
}

type Item<R> =
  | { readonly kind: 'title'; readonly key: string; readonly title: string }
  | { readonly kind: 'row'; readonly key: string; readonly row: R };

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
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [ownOpen, setOwnOpen] = useState<string | null>(null);
  const open = opened === undefined ? ownOpen : opened;
  const setOpen = onOpened ?? setOwnOpen;
  const [current, setCurrent] = useState<string | null>(null);
  const items = useMemo(
    () =>
      groups
        .filter((group) => group.rows.length > 0)
        .flatMap((group): Item<R>[] => [
          ...(group.title ? [{ kind: 'title' as const, key: `title ${group.title}`, title: group.title }] : []),
          ...group.rows.map((row) => ({ kind: 'row' as const, key: keyOf(row), row })),
        ]),
    [groups, keyOf],
  );
  // The bar to scroll with stands in the margin, so that rows end where the head of their page ends.
  const [bar, setBar] = useState(0);
  const none = items.length === 0;
  useEffect(() => {
    const element = scroller.current;
    if (!none && element) setBar(element.offsetWidth - element.clientWidth);
  }, [none]);
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => (items[i]?.kind === 'title' ? 46 : 39),
    getItemKey: (i) => items[i]?.key ?? i,
    overscan: 16,
    initialRect: { width: 1280, height: 640 },
  });
  const seen = virtual.getVirtualItems();
  const atEnd = items.length > 0 && (seen[seen.length - 1]?.index ?? 0) >= items.length - 1;
  useEffect(() => {
    if (atEnd && items.length > 0) onEnd?.();
  }, [atEnd, items, onEnd]);
  const rowKeys = useMemo(() => items.filter((item) => item.kind === 'row').map((item) => item.key), [items]);
  const reachable = current !== null && rowKeys.includes(current) ? current : (rowKeys[0] ?? null);

  const focus = (key: string) => {
    setCurrent(key);
    virtual.scrollToIndex(items.findIndex((item) => item.key === key));
    requestAnimationFrame(() =>
      scroller.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(key)}"]`)?.focus(),
    );
  };
  const onKey = (event: KeyboardEvent<HTMLElement>, key: string) => {
    const at = rowKeys.indexOf(key);
    const to =
      event.key === 'ArrowDown'
        ? rowKeys[at + 1]
        : event.key === 'ArrowUp'
          ? rowKeys[at - 1]
          : event.key === 'Home'
            ? rowKeys[0]
            : event.key === 'End'
              ? rowKeys[rowKeys.length - 1]
              : undefined;
    if (to !== undefined) {
      event.preventDefault();
      focus(to);
    }
  };
  useEffect(() => {
    const close = (event: globalThis.KeyboardEvent) => {
      if (event.key !== 'Escape' || open === null || event.defaultPrevented) return;
      setOpen(null);
      scroller.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(open)}"]`)?.focus();
    };
    window.addEventListener('keydown', close);
    return () => window.removeEventListener('keydown', close);
  }, [open, setOpen]);
  // A row that has been opened is shown with its leaf; one opened from elsewhere on the page is brought into view first.
  useEffect(() => {
    const at = open ? items.findIndex((item) => item.key === open) : -1;
    if (at < 0 || open === null) return;
    virtual.scrollToIndex(at, { align: 'auto' });
    const timer = setTimeout(() => {
      const whole = scroller.current?.querySelector(`[data-row="${CSS.escape(open)}"]`)?.parentElement;
      // What does not fit begins at its beginning.
      const fits = !whole || !scroller.current || whole.offsetHeight < scroller.current.clientHeight - 40;
      whole?.scrollIntoView({ block: fits ? 'nearest' : 'start' });
    }, 60);
    return () => clearTimeout(timer);
  }, [open, items, virtual]);

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
          gap="12px"
          px="8px"
          pb="8px"
          borderBottom="1px solid"
          borderColor="hairline"
          fontSize="12.5px"
          color="quiet"
          aria-hidden
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
              {column.name}
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
                  <chakra.h2 fontSize="13.5px" fontWeight={600} px="8px" pt="20px" pb="6px">
                    {item.title}
                  </chakra.h2>
                ) : (
                  <Box
                    borderBottom="1px solid"
                    borderColor="hairline"
                    css={{ scrollMarginTop: '34px', scrollMarginBottom: '6px' }}
                  >
                    <chakra.button
                      type="button"
                      data-row={item.key}
                      display="grid"
                      gridTemplateColumns={{ base: narrow, md: template }}
                      gap="12px"
                      alignItems="center"
                      w="100%"
                      h="38px"
                      px="8px"
                      textAlign="start"
                      cursor="pointer"
                      aria-expanded={open === item.key}
                      aria-label={nameOf(item.row)}
                      tabIndex={item.key === reachable ? 0 : -1}
                      _hover={{ bg: 'sunk' }}
                      _focusVisible={{ outlineOffset: '-2px' }}
                      onClick={() => {
                        setCurrent(item.key);
                        setOpen(open === item.key ? null : item.key);
                      }}
                      onFocus={() => setCurrent(item.key)}
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
                    {open === item.key && <Box pb="8px">{leaf(item.row)}</Box>}
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
