'use client';

import { useCallback, useEffect, useState } from 'react';
import { keepOnDevice, readDevice } from './device';
import { useMe } from './use';

/**
 * A value that outlives a reload, a lost connection and a closed leaf: kept on this device as it changes, the same in
 * every window, forgotten when it is set to null or to an empty text. `key` names what it belongs to.
 */
export function useKept<T>(key: string): readonly [T | null, (value: T | null) => void] {
  const name = `avenda.kept.${key}`;
  const [value, show] = useState<T | null>(null);
  useEffect(() => {
    show(readDevice<T>(name));
    const heard = (event: StorageEvent) => event.key === name && show(readDevice<T>(name));
    window.addEventListener('storage', heard);
    return () => window.removeEventListener('storage', heard);
  }, [name]);
  const keep = useCallback(
    (next: T | null) => {
      show(next);
      keepOnDevice(name, next === '' ? null : next);
    },
    [name],
  );
  return [value, keep];
}

/** A text that is kept while it is typed; setting it to an empty text forgets it. */
export function useKeptText(key: string): readonly [string, (text: string) => void] {
  const [text, keep] = useKept<string>(key);
  return [text ?? '', keep];
}

/**
 * What a member fills into a form, kept while it is filled in and the same in all their windows: the parts that were
 * changed, over what it began with. `forget` ends it when the form was sent or given up. Whoever signs in on the same
 * device sees nothing of it.
 */
export function useKeptForm<T extends object>(
  key: string,
  begin: T,
): readonly [form: T, change: (part: Partial<T>) => void, forget: () => void] {
  const { data } = useMe();
  const [kept, keep] = useKept<Partial<T>>(`form.${data?.me.id}.${key}`);
  const change = (part: Partial<T>) => keep({ ...kept, ...part });
  return [{ ...begin, ...kept }, change, () => keep(null)];
}
