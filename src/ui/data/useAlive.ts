import { useSyncExternalStore } from 'react';

const never = () => () => {};

/**
 * Whether the page has come alive: false on the server and while its HTML is being taken over, when everything must be drawn as
 * it stands there; true ever after.
 */
export function useAlive(): boolean {
  return useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
}
