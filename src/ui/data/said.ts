'use client';

import { useSyncExternalStore } from 'react';

// One line for the whole window: what the last act did, over every page it may lead to.
let line: { readonly text: string; readonly n: number } = { text: '', n: 0 };
const listeners = new Set<() => void>();

/** Says in one quiet line what an act did. The next one takes its place. */
export function say(text: string): void {
  line = { text, n: line.n + 1 };
  for (const listener of listeners) listener();
}

const nothing = { text: '', n: 0 };

/** The line that was said last; its number changes with every act. */
export function useSaid(): { readonly text: string; readonly n: number } {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => line,
    () => nothing,
  );
}
