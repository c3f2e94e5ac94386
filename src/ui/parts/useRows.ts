import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';

export interface Group<R> {
  readonly title: string | null;
  /** The colour of its heading, where it says something. */
  readonly tone?: 'oxblood' | 'copperText' | undefined;
  readonly rows: readonly R[];
}

type Item<R> =
  | { readonly kind: 'title'; readonly key: string; readonly title: string; readonly tone: Group<R>['tone'] }
  | { readonly kind: 'row'; readonly key: string; readonly row: R };

/**
 * Which rows of a list are drawn, which one is open and which one the keys are on. Arrow keys, Home and End go from row to
 * row; Escape closes the open one.
 */
export function useRows<R>({
  groups,
  keyOf,
  opened,
  onOpened,
  onEnd,
}: {
  readonly groups: readonly Group<R>[];
  readonly keyOf: (row: R) => string;
  readonly opened: string | null | undefined;
  readonly onOpened: ((key: string | null) => void) | undefined;
  readonly onEnd: (() => void) | undefined;
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
          ...(group.title
            ? [{ kind: 'title' as const, key: `title ${group.title}`, title: group.title, tone: group.tone }]
            : []),
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
    // What comes with the page: its first twenty rows.
    initialRect: { width: 1280, height: 4 * 39 },
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

  return {
    scroller,
    bar,
    none,
    items,
    seen,
    virtual,
    isOpen: (key: string) => open === key,
    reachable,
    press: (key: string) => {
      setCurrent(key);
      setOpen(open === key ? null : key);
    },
    reach: setCurrent,
    onKey,
  };
}
