'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo, useRef } from 'react';
import { momentIn, nearDay, timeIn } from '@/core/time/zone';
import type { Person } from '@/server/admin/people';
import { ask, type Refusal, tell } from './client';

/** The answer to a question, kept fresh by hints. */
export function useAsk<T>(name: string, input: object = {}, options: { enabled?: boolean; base?: string } = {}) {
  return useQuery<T, Refusal>({
    queryKey: ['ask', name, input, options.base ?? ''],
    queryFn: () => ask<T>(name, input, options.base),
    enabled: options.enabled ?? true,
  });
}

/**
 * A command to put. A press while it is under way is the same press; after a failure that may have been applied all
 * the same (a lost answer), the same id is sent again.
 */
export function useTell<I extends object, T = unknown>(
  name: string,
  options: { base?: string; after?: (value: T, input: I) => void } = {},
) {
  const client = useQueryClient();
  const last = useRef<{ body: string; id: string } | null>(null);
  return useMutation<T, Refusal, I>({
    mutationFn: async (input) => {
      const body = JSON.stringify(input);
      if (last.current?.body !== body) last.current = { body, id: crypto.randomUUID() };
      const value = await tell<T>(name, input, { base: options.base ?? '', id: last.current.id });
      last.current = null;
      return value;
    },
    onError: (error) => {
      if (error.code !== 'offline') last.current = null;
    },
    onSuccess: async (value, input) => {
      options.after?.(value, input);
      await client.invalidateQueries();
    },
  });
}

export interface Me {
  readonly me: Person;
  readonly organization: { readonly name: string; readonly zone: string };
  readonly mode: 'demo' | 'real';
  readonly now: number;
  readonly uploadLimit: number;
  readonly mailQueued: number | null;
}

export function useMe() {
  return useAsk<Me>('session.me');
}

/** Everybody, by id. */
export function usePeople(): {
  list: readonly Person[];
  name: (id: string) => string;
  person: (id: string) => Person | undefined;
} {
  const { data } = useAsk<Person[]>('people.list');
  return useMemo(() => {
    const list = data ?? [];
    const byId = new Map(list.map((person) => [person.id, person]));
    return {
      list,
      name: (id: string) => byId.get(id)?.name ?? (id === 'system' ? 'Avenda' : '…'),
      person: (id: string) => byId.get(id),
    };
  }, [data]);
}

/** Times as this person reads them: in their zone, by the server's clock. */
export function useTimes() {
  const { data, dataUpdatedAt } = useMe();
  const zone = data?.me.zone ?? 'UTC';
  const offset = data ? data.now - dataUpdatedAt : 0;
  return useMemo(() => {
    const now = () => Date.now() + offset;
    return {
      zone,
      now,
      moment: (instant: number) => momentIn(zone, instant, now()),
      day: (instant: number) => nearDay(zone, instant, now()),
      time: (instant: number) => timeIn(zone, instant),
    };
  }, [zone, offset]);
}
