'use client';

import { useRef } from 'react';

/**
 * What has changed since the page was opened: the keys whose state is not what it was when they were first seen, or
 * that were not there. Nothing is news while the first answer is still on its way.
 */
export function useNews(states: ReadonlyMap<string, string> | null): ReadonlySet<string> {
  const first = useRef<ReadonlyMap<string, string> | null>(null);
  if (states && !first.current) first.current = states;
  const known = first.current;
  const news = new Set<string>();
  if (known && states) for (const [key, state] of states) if (known.get(key) !== state) news.add(key);
  return news;
}
