'use client';

import { type QueryClient, skipToken, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { type Past, pastAt } from '@/core/people/past';
import type { Person } from '@/server/admin/people';
import { ask } from './client';

/** Whoever has been named so far in this window, by id; null for an id that is nobody's. */
type Known = ReadonlyMap<string, Person | null>;

const key = ['people known'] as const;
const nobody: Known = new Map();
/** As many as one question may name. */
const most = 100;

/** The people whom something drawn in this moment names and who are not known yet: they are asked for together. */
const wanted = new WeakMap<QueryClient, Set<string>>();

function want(client: QueryClient, id: string): void {
  const waiting = wanted.get(client);
  if (waiting) {
    waiting.add(id);
    return;
  }
  wanted.set(client, new Set([id]));
  setTimeout(() => {
    const ids = [...(wanted.get(client) ?? [])];
    // While they are asked for they are wanted still, so that nobody is asked for twice.
    void learn(client, ids).finally(() => wanted.delete(client));
  }, 0);
}

async function learn(client: QueryClient, ids: readonly string[]): Promise<void> {
  for (let at = 0; at < ids.length; at += most) {
    const people = ids.slice(at, at + most);
    try {
      const found = await ask('people.named', { people });
      client.setQueryData<Known>(
        key,
        (known = nobody) =>
          new Map([
            ...known,
            ...people.map((id) => [id, null] as const),
            ...found.map((person) => [person.id, person] as const),
          ]),
      );
    } catch {
      // Whoever is still drawn is asked for again when something is drawn anew.
    }
  }
}

/** Asks anew for everybody who has been named. */
export function renewPeople(client: QueryClient): Promise<void> {
  return learn(client, [...(client.getQueryData<Known>(key)?.keys() ?? [])]);
}

/** What is known of a person already, without asking: for what is said in passing. */
export function useKnownPeople(): (id: string) => Person | null {
  const client = useQueryClient();
  return (id) => client.getQueryData<Known>(key)?.get(id) ?? null;
}

/**
 * People by id. Whoever is not known yet is asked for, together with all others that the page names, and stands as "…"
 * until the answer comes; null is somebody who does not exist.
 */
export function usePeople(): {
  readonly name: (id: string) => string;
  readonly person: (id: string) => Person | null | undefined;
} {
  const client = useQueryClient();
  const { data: known = nobody } = useQuery<Known>({
    queryKey: key,
    queryFn: skipToken,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  return useMemo(() => {
    const person = (id: string) => {
      if (!known.has(id)) want(client, id);
      return known.get(id);
    };
    return { person, name: (id) => (id === 'system' ? 'Avenda' : (person(id)?.name ?? '…')) };
  }, [client, known]);
}

/** What people were called at a moment, where a view says what they were called before. */
export function useNamesThen(past: readonly Past[]): (id: string, at: number) => string {
  const { name } = usePeople();
  return (id, at) => pastAt(past, id, at)?.name ?? name(id);
}
