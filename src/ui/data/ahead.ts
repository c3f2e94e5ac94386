'use client';

import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useRouter as useFrameworkRouter } from 'next/navigation';
import { useMemo } from 'react';
import { ask, type InputOf } from './client';
import { type First, firstsOf, keyOf, pagesKeyOf } from './firsts';

/** Asks for what a page begins with, as far as it is not known freshly. Only asks: nothing is seen by it. */
async function askAhead(client: QueryClient, address: string): Promise<void> {
  const all = (firsts: readonly First[]): Promise<unknown> =>
    Promise.all(
      firsts.map(async ({ name, input, paged, next }) => {
        if (paged)
          return client.prefetchInfiniteQuery({
            queryKey: pagesKeyOf(name, input),
            queryFn: () => ask(name, { ...input, after: null } as InputOf<typeof name>),
            initialPageParam: null,
          });
        const queryKey = keyOf(name, input);
        await client.prefetchQuery({ queryKey, queryFn: () => ask(name, input as InputOf<typeof name>) });
        const answer = client.getQueryData(queryKey);
        return answer === undefined ? null : all(next(answer));
      }),
    );
  await all(firstsOf(address));
}

/** The framework's router, which asks for a page's first answers as it goes there. */
export function useRouter() {
  const client = useQueryClient();
  const router = useFrameworkRouter();
  return useMemo(
    () => ({
      push: (address: string) => {
        void askAhead(client, address);
        router.push(address);
      },
      replace: (address: string) => router.replace(address),
    }),
    [client, router],
  );
}

/** How long pointer or focus rest on a link before its page is asked for. */
const restMs = 80;

/** Asks ahead for the page of a link on which pointer or focus rest, until the function it gives is called. */
export function followLinks(client: QueryClient, prefetch: (address: string) => void): () => void {
  const stop = new AbortController();
  let resting: ReturnType<typeof setTimeout> | undefined;
  const rest = (event: Event) => {
    clearTimeout(resting);
    const link = event.target instanceof Element ? event.target.closest('a') : null;
    if (!link || link.origin !== location.origin) return;
    const address = link.pathname + link.search;
    if (firstsOf(address).length === 0) return;
    resting = setTimeout(() => {
      prefetch(address);
      void askAhead(client, address);
    }, restMs);
  };
  for (const kind of ['pointerover', 'focusin'] as const)
    document.addEventListener(kind, rest, { signal: stop.signal, passive: true });
  return () => {
    clearTimeout(resting);
    stop.abort();
  };
}
