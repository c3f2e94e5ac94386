import { type RefObject, useEffect } from 'react';

/** Brings the keys to where a page is meant to be gone on with, once it is there and where they are nowhere else. */
export function useFirstFocus(ref: RefObject<HTMLElement | null>, there: boolean): void {
  useEffect(() => {
    if (there && (document.activeElement === null || document.activeElement === document.body))
      ref.current?.focus({ preventScroll: true });
  }, [ref, there]);
}
