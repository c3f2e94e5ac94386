'use client';

import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useMemo, useSyncExternalStore } from 'react';
import { type Past, pastAt } from '@/core/people/past';
import type { Person } from '@/server/admin/people';
import { ask } from './client';

/** Whoever has been named so far in this window, by id; null for an id that is nobody's. */
type Known = ReadonlyMap<string, Person | null>;

const nobody: Known = new Map();
/** As many as one question may name. */
const most = 100;

interface Store {
  known: Known;
  /** Who came named with the page: whom its HTML names, while it comes alive. */
  handed: Known;
  /** Those whom something drawn names and who are not known yet: they are asked for together. */
  wanted: Set<string> | null;
  readonly listeners: Set<() => void>;
  readonly subscribe: (listener: () => void) => () => void;
}

const stores = new WeakMap<QueryClient, Store>();

function storeOf(client: QueryClient): Store {
  let store = stores.get(client);
  if (!store) {
    const listeners = new Set<() => void>();
    const subscribe = (listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    };
    store = { known: nobody, handed: nobody, wanted: null, listeners, subscribe };
    stores.set(client, store);
  }
  return store;
}

function want(store: Store, id: string): void {
  if (typeof window === 'undefined') return;
  if (store.wanted) {
    store.wanted.add(id);
    return;
  }
  store.wanted = new Set([id]);
  setTimeout(() => {
    const ids = [...(store.wanted ?? [])];
    // While they are asked for they are wanted still, so that nobody is asked for twice; whoever was named meanwhile is
    // asked for next.
    void learn(store, ids).finally(() => {
      const meanwhile = [...(store.wanted ?? [])].filter((id) => !ids.includes(id));
      store.wanted = null;
      for (const id of meanwhile) want(store, id);
    });
  }, 0);
}

async function learn(store: Store, ids: readonly string[]): Promise<void> {
  for (let at = 0; at < ids.length; at += most) {
    const people = ids.slice(at, at + most);
    try {
      const found = await ask('people.named', { people });
      store.known = new Map([...store.known, ...people.map((id) => [id, null] as const), ...byId(found)]);
      for (const listener of store.listeners) listener();
    } catch {
      // Whoever is still drawn is asked for again when something is drawn anew.
    }
  }
}

const byId = (people: readonly Person[]) => people.map((person) => [person.id, person] as const);

/** Makes known who comes named with a page. */
export function handPeople(client: QueryClient, people: readonly Person[]): void {
  const store = storeOf(client);
  store.handed = new Map(byId(people));
  store.known = store.handed;
}

/** Asks anew for everybody who has been named. */
export function renewPeople(client: QueryClient): Promise<void> {
  const store = storeOf(client);
  return learn(store, [...store.known.keys()]);
}

/** What is known of a person already, without asking: for what is said in passing. */
export function useKnownPeople(): (id: string) => Person | null {
  const client = useQueryClient();
  return (id) => storeOf(client).known.get(id) ?? null;
}

/**
 * People by id. Whoever is not known yet is asked for, together with all others that the page names, and stands as "…"
 * until the answer comes; null is somebody who does not exist. While a page comes alive those are known whom its HTML
 * names, even when an answer was faster.
 */
export function usePeople(): {
  readonly name: (id: string) => string;
  readonly person: (id: string) => Person | null | undefined;
} {
  const store = storeOf(useQueryClient());
  const known = useSyncExternalStore(
    store.subscribe,
    () => store.known,
    () => store.handed,
  );
  return useMemo(() => {
    const person = (id: string) => {
      // A seat may have nobody yet.
      if (id === '') return null;
      if (!known.has(id)) want(store, id);
      return known.get(id);
    };
    return { person, name: (id) => (id === 'system' ? 'Avenda' : (person(id)?.name ?? '…')) };
  }, [store, known]);
}

/** What people were called at a moment, where a view says what they were called before. */
export function useNamesThen(past: readonly Past[]): (id: string, at: number) => string {
  const { name } = usePeople();
  return (id, at) => pastAt(past, id, at)?.name ?? name(id);
}
