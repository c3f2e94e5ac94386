'use client';

import { useCallback, useEffect, useRef, useState } from 'react';

const most = 100;

/**
 * Changes a value so that each change can be taken back, by `undo` or by Ctrl+Z (Cmd+Z) outside a field, where the keys
 * belong to the text, and made again, by `redo` or with the shift key held. Changes of one `group` in a row (a drag, a label
 * being typed) are taken back together. `can` and `canAgain` say whether there is anything to take back, or to make again.
 */
export function useUndo<T>(
  value: T,
  set: (value: T) => void,
): {
  readonly change: (next: T, group?: string) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  readonly can: boolean;
  readonly canAgain: boolean;
} {
  const past = useRef<T[]>([]);
  const ahead = useRef<T[]>([]);
  const last = useRef<string | undefined>(undefined);
  const [depth, setDepth] = useState({ back: 0, again: 0 });
  const count = useCallback(() => setDepth({ back: past.current.length, again: ahead.current.length }), []);
  const now = useRef({ value, set });
  now.current = { value, set };
  const change = useCallback(
    (next: T, group?: string) => {
      if (group === undefined || group !== last.current)
        past.current = [...past.current, now.current.value].slice(-most);
      last.current = group;
      ahead.current = [];
      count();
      now.current.set(next);
    },
    [count],
  );
  const undo = useCallback(() => {
    const before = past.current.pop();
    if (before === undefined) return;
    last.current = undefined;
    ahead.current.push(now.current.value);
    count();
    now.current.set(before);
  }, [count]);
  const redo = useCallback(() => {
    const next = ahead.current.pop();
    if (next === undefined) return;
    last.current = undefined;
    past.current.push(now.current.value);
    count();
    now.current.set(next);
  }, [count]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const writing = (event.target as HTMLElement).closest('input, textarea, select, [contenteditable=true]');
      if (writing || event.key.toLowerCase() !== 'z' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [undo, redo]);
  return { change, undo, redo, can: depth.back > 0, canAgain: depth.again > 0 };
}
