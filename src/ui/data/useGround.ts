'use client';

import { useEffect, useRef } from 'react';
import { say } from './said';

const gone = 'This was changed elsewhere meanwhile, so the form was closed. What you typed is kept.';

/**
 * Closes a form whose ground is gone, because somebody else or another window did what it was for, and says so. Its own act
 * takes the ground away as well, under way or done, and says what it did itself.
 */
export function useGround(
  stands: boolean,
  own: { readonly isPending: boolean; readonly isSuccess?: boolean },
  onGone: () => void,
): void {
  const close = useRef(onGone);
  close.current = onGone;
  const lost = !stands && !own.isPending && !own.isSuccess;
  useEffect(() => {
    if (!lost) return;
    say(gone);
    close.current();
  }, [lost]);
}
