'use client';

import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo, useRef } from 'react';
import { momentIn, nearDay, timeIn } from '@/core/time/zone';
import { refresh } from './changes';
import {
  ask,
  type CommandName,
  type InputArgument,
  type InputOf,
  type OutputOf,
  type QueryName,
  type Refusal,
  tell,
} from './client';
import { keyOf, pagesKeyOf } from './firsts';
import { useAlive } from './useAlive';

interface AskOptions {
  readonly enabled?: boolean;
  readonly base?: string;
  /** Shows the answer before, as a placeholder, until the one to a changed input comes. */
  readonly keep?: boolean;
}

/** The answer to a question of any name, kept fresh by change notifications. */
export function useAnswer<N extends QueryName>(name: N, input: InputOf<N>, options: AskOptions = {}) {
  return useQuery<OutputOf<N>, Refusal>({
    queryKey: keyOf(name, input as object, options.base),
    queryFn: () => ask(name, input, options.base),
    enabled: options.enabled ?? true,
    placeholderData: options.keep ? keepPreviousData : undefined,
  });
}

/**
 * What is known already of a question's answer, without asking: for what is said in passing, also on pages where nobody
 * may ask it.
 */
export function useKnown<N extends QueryName>(name: N): () => OutputOf<N> | undefined {
  const client = useQueryClient();
  return () => client.getQueryData<OutputOf<N>>(keyOf(name, {}));
}

/** The answer to a question, whose input may be left out where it needs none. */
export function useAsk<N extends QueryName>(
  name: N,
  ...[input, options]: object extends InputOf<N>
    ? [input?: InputOf<N>, options?: AskOptions]
    : [input: InputOf<N>, options?: AskOptions]
) {
  return useAnswer<N>(name, (input ?? {}) as InputOf<N>, options);
}

/** The names of questions whose answers come in pages. */
type PagedName = {
  [N in QueryName]: OutputOf<N> extends { readonly rows: readonly unknown[]; readonly next: string | null } ? N : never;
}[QueryName];
type RowOf<N extends PagedName> = OutputOf<N> extends { readonly rows: readonly (infer R)[] } ? R : never;

/**
 * A list that comes in pages: the rows so far, what the first page says of all of them, and how to have more. Changing
 * the filter begins anew and keeps showing what was there until the answer comes.
 */
export function usePages<N extends PagedName>(name: N, input: Omit<InputOf<N>, 'after'>) {
  const query = useInfiniteQuery({
    queryKey: pagesKeyOf(name, input),
    queryFn: ({ pageParam }) => ask(name, { ...input, after: pageParam } as InputOf<N>),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.next,
    placeholderData: (before) => before,
  });
  const rows = useMemo(
    () => query.data?.pages.flatMap((page) => page.rows as unknown as readonly RowOf<N>[]) ?? null,
    [query.data],
  );
  const more = () => {
    if (query.hasNextPage && !query.isFetchingNextPage) void query.fetchNextPage();
  };
  return {
    rows,
    first: (query.data?.pages[0] ?? null) as OutputOf<N> | null,
    hasMore: query.hasNextPage,
    more,
    error: query.error as Refusal | null,
  };
}

/**
 * A command to put. A press while it is under way is the same press; after a failure that may have been applied all
 * the same (a lost answer), the same id is sent again.
 */
export function useTell<N extends CommandName>(
  name: N,
  options: {
    base?: string;
    /** Called as soon as it was accepted, before what it changed is asked for again. */
    answered?: (value: OutputOf<N>, input: InputOf<N>) => void;
    after?: (value: OutputOf<N>, input: InputOf<N>) => void;
  } = {},
) {
  const client = useQueryClient();
  const last = useRef<{ body: string; id: string } | null>(null);
  return useMutation<OutputOf<N>, Refusal, InputArgument<N>[0]>({
    mutationFn: async (given) => {
      const input = (given ?? {}) as InputOf<N>;
      const body = JSON.stringify(input);
      if (last.current?.body !== body) last.current = { body, id: crypto.randomUUID() };
      const { value, changed } = await tell(name, input, { base: options.base ?? '', id: last.current.id });
      last.current = null;
      options.answered?.(value, input);
      // Through a link nothing else is open than the page of its seat.
      if (options.base) await client.invalidateQueries();
      else await refresh(client, changed);
      return value;
    },
    onError: (error) => {
      if (error.code !== 'offline') last.current = null;
    },
    onSuccess: (value, input) => options.after?.(value, (input ?? {}) as InputOf<N>),
  });
}

export function useMe() {
  return useAsk('session.me');
}

export type Times = ReturnType<typeof useTimes>;

/** Times as this person reads them: in their zone, by the server's clock, which stands still while a page comes alive. */
export function useTimes() {
  const { data, dataUpdatedAt } = useMe();
  const alive = useAlive();
  const zone = data?.me.zone ?? 'UTC';
  const told = data?.now ?? 0;
  const offset = alive ? told - dataUpdatedAt : null;
  return useMemo(() => {
    const now = () => (offset === null ? told : Date.now() + offset);
    return {
      zone,
      now,
      moment: (instant: number) => momentIn(zone, instant, now()),
      day: (instant: number) => nearDay(zone, instant, now()),
      time: (instant: number) => timeIn(zone, instant),
    };
  }, [zone, offset, told]);
}
