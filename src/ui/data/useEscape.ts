'use client';

import { useEffect, useRef } from 'react';

/** Closes what is open on this page when Escape is pressed. */
export function useEscape(close: () => void): void {
  const now = useRef(close);
  now.current = close;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === 'Escape' && now.current();
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
