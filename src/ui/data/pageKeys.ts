import { useEffect, useSyncExternalStore } from 'react';

/** The keys of the page that is open, each with what it does, for the list of shortcuts. */
type PageKeys = readonly (readonly [string, string])[];

const none: PageKeys = [];
let present: PageKeys = none;
const listeners = new Set<() => void>();

function put(keys: PageKeys): void {
  present = keys;
  for (const listener of listeners) listener();
}

/** Says which keys a page has, as long as it is open. */
export function usePageKeys(keys: PageKeys): void {
  const text = JSON.stringify(keys);
  useEffect(() => {
    put(JSON.parse(text) as PageKeys);
    return () => put(none);
  }, [text]);
}

/** The keys of the page that is open. */
export function useKeysOfPage(): PageKeys {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => present,
    () => none,
  );
}
