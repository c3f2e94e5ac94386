'use client';

import type { QueryClient } from '@tanstack/react-query';

/**
 * Hints that something has changed. One tab of the browser holds the stream and passes hints on to the others; when it
 * closes, the next one takes over. A hint carries no data: what it concerns is asked for anew.
 */
export function followChanges(client: QueryClient): () => void {
  const channel = new BroadcastChannel('avenda hints');
  const stop = new AbortController();
  let pending = new Set<string>();
  let timer: ReturnType<typeof setTimeout> | null = null;

  const apply = () => {
    timer = null;
    const hints = pending;
    pending = new Set();
    void client.invalidateQueries({ predicate: (query) => concerned(query.queryKey, hints) });
  };
  const hear = (hint: string) => {
    pending.add(hint);
    timer ??= setTimeout(apply, 120);
  };
  channel.onmessage = (event) => hear(String(event.data));

  const hold = () =>
    new Promise<void>((resolve) => {
      const source = new EventSource('/hints');
      let opened = false;
      source.onmessage = (event) => {
        channel.postMessage(event.data);
        hear(event.data);
      };
      source.onopen = () => {
        // What was said while the stream was down is not said again.
        if (opened) hear('everything');
        opened = true;
      };
      stop.signal.addEventListener('abort', () => {
        source.close();
        resolve();
      });
    });
  if ('locks' in navigator) navigator.locks.request('avenda hints', { signal: stop.signal }, hold).catch(() => {});
  else void hold();

  return () => {
    stop.abort();
    channel.close();
    if (timer) clearTimeout(timer);
  };
}

const lists = new Set(['desk.view', 'circulation.list', 'register.list', 'record.view', 'draft.view', 'desk.find']);

function concerned(key: readonly unknown[], hints: ReadonlySet<string>): boolean {
  const [, name, input] = key as [string, string, { circulation?: string; change?: string } | undefined];
  for (const hint of hints) {
    const [what, id] = hint.split(' ');
    if (what === 'everything' || what === 'clock') return true;
    if (what === 'people' && (name === 'people.list' || name === 'session.me')) return true;
    if (what === 'job' && (name === 'post.list' || name === 'draft.view')) return true;
    if ((what === 'circulation' || what === 'record') && lists.has(name)) return true;
    if (what === 'circulation' && input?.circulation === id) return true;
    if (what === 'draft' && name === 'draft.view' && input?.change === id) return true;
  }
  return false;
}
