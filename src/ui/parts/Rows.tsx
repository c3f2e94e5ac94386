'use client';

import { type CSSProperties, type ReactNode, useEffect } from 'react';
import { look } from '../theme/look';
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
  const tracks = (shown: readonly Column<R>[]) => shown.map((column) => column.width).join(' ');
  const placed = { '--wide': tracks(columns), '--narrow': tracks(columns.filter((column) => !column.wide)) };
  if (none) return <div className={look('grow')}>{empty}</div>;
  return (
    <div className={look('list')} style={placed as CSSProperties}>
      <section
        ref={scroller}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys
        tabIndex={0}
        aria-label={label}
        className={look('scroller')}
        style={{ marginRight: -bar }}
      >
        <div className={look('listHead', selection && 'ticked')} aria-hidden={onOrder ? undefined : true}>
          {columns.map((column) => (
            <div key={column.name} className={look(column.align === 'end' && 'atEnd', column.wide && 'wideOnly')}>
              {column.order && onOrder ? (
                <button
                  type="button"
                  className={look('order')}
                  aria-pressed={order === column.order}
                  onClick={() => onOrder(column.order ?? '')}
                >
                  {column.name}
                </button>
              ) : (
                column.name
              )}
            </div>
          ))}
        </div>
        {/* biome-ignore lint/a11y/useSemanticElements: rows are placed where they are seen, out of the flow of a list */}
        <div role="list" aria-label={label} style={{ position: 'relative', height: virtual.getTotalSize() }}>
          {seen.map((shown) => {
            const item = items[shown.index];
            if (!item) return null;
            return (
              // biome-ignore lint/a11y/useSemanticElements: as its list
              <div
                key={shown.key}
                ref={virtual.measureElement}
                data-index={shown.index}
                className={look('rowPlace')}
                style={{ transform: `translateY(${shown.start}px)` }}
                role="listitem"
              >
                {item.kind === 'title' ? (
                  <h2 className={look('groupTitle', item.tone && tones[item.tone])}>{item.title}</h2>
                ) : (
                  <div className={look('rowFrame')}>
                    {selection?.may(item.row) && (
                      <div className={look('rowTick')}>
                        <Tick
                          checked={selection.keys.has(item.key)}
                          onChecked={() => tick(item.key)}
                          called={nameOf(item.row)}
                        />
                      </div>
                    )}
                    <button
                      type="button"
                      data-row={item.key}
                      className={look('row', selection && 'ticked', selection?.keys.has(item.key) && 'chosen')}
                      aria-expanded={isOpen(item.key)}
                      aria-label={nameOf(item.row)}
                      tabIndex={item.key === reachable ? 0 : -1}
                      onClick={(event) => {
                        // A click that no pointer made.
                        if (onFollow && event.detail === 0 && isOpen(item.key)) onFollow(item.row);
                        else press(item.key);
                      }}
                      onFocus={() => reach(item.key)}
                      onKeyDown={(event) => onKey(event, item.key)}
                    >
                      {columns.map((column) => (
                        <div
                          key={column.name}
                          className={look('cell', column.align === 'end' && 'atEnd', column.wide && 'wideOnly')}
                        >
                          {column.cell(item.row)}
                        </div>
                      ))}
                    </button>
                    {isOpen(item.key) && <div className={look('leafPlace')}>{leaf(item.row)}</div>}
                  </div>
                )}
              </div>
            );
          })}
        </div>
      </section>
    </div>
  );
}

const tones = { oxblood: 'lost', copperText: 'troubled' } as const;
