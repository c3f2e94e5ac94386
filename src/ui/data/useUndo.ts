'use client';

import { useCallback, useEffect, useRef, useState } from 'react';

const most = 100;

/**
 * Changes a value so that each change can be taken back, by `undo` or by Ctrl+Z (Cmd+Z) outside a field, where the keys
 * belong to the text. Changes of one `group` in a row (a drag, a label being typed) are taken back together. `can` says
 * whether there is anything to take back.
 */
export function useUndo<T>(
  value: T,
  set: (value: T) => void,
): { readonly change: (next: T, group?: string) => void; readonly undo: () => void; readonly can: boolean } {
  const past = useRef<T[]>([]);
  const last = useRef<string | undefined>(undefined);
  const [depth, setDepth] = useState(0);
  const now = useRef({ value, set });
  now.current = { value, set };
  const change = useCallback((next: T, group?: string) => {
    if (group === undefined || group !== last.current) past.current = [...past.current, now.current.value].slice(-most);
    last.current = group;
    setDepth(past.current.length);
    now.current.set(next);
  }, []);
  const undo = useCallback(() => {
    const before = past.current.pop();
    if (before === undefined) return;
    last.current = undefined;
    setDepth(past.current.length);
    now.current.set(before);
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const writing = (event.target as HTMLElement).closest('input, textarea, select, [contenteditable=true]');
      if (writing || event.key.toLowerCase() !== 'z' || !(event.ctrlKey || event.metaKey) || event.shiftKey) return;
      event.preventDefault();
      undo();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [undo]);
  return { change, undo, can: depth > 0 };
}
