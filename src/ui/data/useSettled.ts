import { useEffect, useState } from 'react';

/** A value once it has rested for a moment, so that typing asks one question and not one per letter. */
export function useSettled<T>(value: T, ms = 180): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}
