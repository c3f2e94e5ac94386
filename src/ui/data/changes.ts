'use client';

import { hashKey, type QueryClient } from '@tanstack/react-query';
import type { ViewPart } from '@/core/circulation/telling/parts';
import { ask, type InputOf, pageId, type QueryName } from './client';
import { keyOf } from './firsts';
import { renewPeople } from './people';

/** The topics that each question's answer depends on; "circulation C" is one circulation, "circulation" any that concerns me. */
const dependsOn: { readonly [N in QueryName]: (input: InputOf<N>) => readonly string[] } = {
  'session.me': () => ['people', 'job mail', 'job history'],
  'session.list': () => ['session'],
  'feed.view': () => ['session'],
  'people.list': () => ['people'],
  'people.find': () => ['people'],
  // Whoever has been named is kept beside the questions (people.ts).
  'people.named': () => [],
  'desk.view': () => ['circulation', 'record', 'people', 'settings', 'told'],
  'desk.tasks': () => ['circulation', 'record'],
  'desk.load': () => ['circulation', 'people', 'settings'],
  'desk.late': () => ['circulation', 'people', 'settings'],
  'units.people': () => ['people'],
  'people.held': () => ['circulation', 'record'],
  'filters.view': () => ['session'],
  'desk.find': () => ['circulation', 'record', 'people'],
  'register.list': () => ['record', 'settings'],
  'register.types': () => ['settings'],
  'record.view': ({ record }) => [`record ${record}`, 'circulation'],
  'draft.view': ({ change }) => [`draft ${change}`, 'circulation', 'record', 'job render'],
  'circulation.view': ({ circulation }) => [`circulation ${circulation}`, 'record', 'people', 'settings'],
  'circulation.asItWas': () => [],
  // Asked for by hand, and kept with the whole.
  'circulation.parts': () => [],
  // What only programs ask.
  'circulation.state': () => [],
  'circulation.trail': () => [],
  'circulation.files': () => [],
  'circulation.values': () => [],
  'circulation.previewAmendment': ({ circulation }) => [`circulation ${circulation}`, 'people', 'settings'],
  'circulation.list': () => ['circulation', 'record', 'told'],
  'circulation.linkAddress': () => [],
  'told.list': () => ['told'],
  'told.preferences': () => ['told'],
  'told.level': () => ['told'],
  'notes.view': () => ['told'],
  // It is fitted anew once a night.
  'forecast.usual': () => [],
  'rules.reach': () => ['settings', 'people', 'circulation'],
  'organization.view': () => ['settings', 'people'],
  'organization.table': () => [],
  'organization.readTable': () => [],
  'calendars.readHolidays': () => [],
  'seat.mine': ({ circulation }) => [`circulation ${circulation}`],
  'seat.view': () => [],
  'seat.mark': () => [],
  'letters.mark': () => [],
  'auth.look': () => [],
  'auth.invitation': () => [],
  'post.list': () => ['job mail'],
};

/** Whether the answer under a key must be asked for anew after these topics have changed. */
function concerned(key: readonly unknown[], topics: ReadonlySet<string>): boolean {
  if (topics.has('everything') || topics.has('clock')) return true;
  const [, name, input] = key as [string, QueryName, never];
  const wanted = (dependsOn[name] as ((input: never) => readonly string[]) | undefined)?.(input) ?? [];
  return wanted.some((topic) =>
    [...topics].some((changed) => changed === topic || (!topic.includes(' ') && changed.startsWith(`${topic} `))),
  );
}

/** Topics without their parts; and where nothing but parts of it has changed, which ones. */
function sorted(topics: Iterable<string>) {
  const whole = new Set<string>();
  const parts = new Map<string, Set<ViewPart>>();
  for (const told of topics) {
    const [topic = '', named] = told.split(' #');
    if (named === undefined) whole.add(topic);
    else parts.set(topic, new Set([...(parts.get(topic) ?? []), ...(named.split(',') as ViewPart[])]));
  }
  for (const topic of whole) parts.delete(topic);
  return { whole, parts };
}

/** The key of what is shown of a circulation, by its topic. */
const viewKey = (topic: string) => keyOf('circulation.view', { circulation: topic.replace(/^circulation /, '') });

/** Asks anew for some parts of a circulation that is kept; for all of it where that cannot be put together. */
async function renewParts(client: QueryClient, topic: string, parts: ReadonlySet<ViewPart>): Promise<void> {
  const queryKey = viewKey(topic);
  const shown = client.getQueryCache().find({ queryKey });
  if (shown?.state.data === undefined) return;
  const renew = () => client.invalidateQueries({ queryKey });
  if (!shown.isActive() || shown.state.fetchStatus !== 'idle') return renew();
  const before = shown.state.dataUpdatedAt;
  const { circulation } = queryKey[2] as InputOf<'circulation.view'>;
  const value = await ask('circulation.parts', { circulation, parts: [...parts] }).catch(() => null);
  // Something else has come meanwhile, or nothing has.
  if (value === null || shown.state.dataUpdatedAt !== before) return renew();
  client.setQueryData(queryKey, (old: object | undefined) => old && { ...old, ...value });
}

/** Asks anew for what depends on topics that have changed, and for nothing else. */
export async function refresh(client: QueryClient, topics: Iterable<string>): Promise<void> {
  const { whole, parts } = sorted(topics);
  const changed = new Set([...whole, ...parts.keys()]);
  const inParts = new Set([...parts.keys()].map((topic) => hashKey(viewKey(topic))));
  await Promise.all([
    client.invalidateQueries({
      predicate: ({ queryKey, queryHash }) => concerned(queryKey, inParts.has(queryHash) ? whole : changed),
    }),
    ...[...parts].map(([topic, own]) => renewParts(client, topic, own)),
    changed.has('people') || changed.has('everything') ? renewPeople(client) : null,
  ]);
}

/** What a page says when it comes. */
const came = 'came';
/** As long as the server itself remembers for whoever begins to listen. */
const latelyMs = 30_000;

/**
 * Follows what others change. One tab of the browser holds the stream and passes on what it hears; when it closes, the
 * next one takes over. What is told within a moment is asked for together; what this page did itself it knows already.
 * A page has its first answers, given at `since`, before it listens, so whoever holds the stream says again what was told
 * lately.
 */
export function followChanges(client: QueryClient, since: number): () => void {
  const channel = new BroadcastChannel('avenda changes');
  const stop = new AbortController();
  let pending = new Set<string>();
  let timer: ReturnType<typeof setTimeout> | null = null;

  const apply = () => {
    timer = null;
    const topics = pending;
    pending = new Set();
    void refresh(client, topics);
  };
  const hear = (told: string) => {
    const { topic, page } = JSON.parse(told) as { topic: string; page: string | null };
    if (page === pageId) return;
    pending.add(topic);
    timer ??= setTimeout(apply, 120);
  };
  let lately: { readonly told: string; readonly at: number }[] = [];
  channel.onmessage = ({ data }: MessageEvent<string>) => {
    if (data !== came) return hear(data);
    for (const { told } of lately.filter(({ at }) => performance.now() - at < latelyMs)) channel.postMessage(told);
  };
  channel.postMessage(came);

  const hold = () =>
    new Promise<void>((resolve) => {
      const source = new EventSource(`/changes?since=${since}`);
      let opened = false;
      source.onmessage = (event) => {
        const at = performance.now();
        lately = [...lately.filter((old) => at - old.at < latelyMs), { told: event.data, at }];
        channel.postMessage(event.data);
        hear(event.data);
      };
      source.onopen = () => {
        // What was said while the stream was down is not said again.
        if (opened) hear(JSON.stringify({ topic: 'everything', page: null }));
        opened = true;
      };
      stop.signal.addEventListener('abort', () => {
        source.close();
        resolve();
      });
    });
  if ('locks' in navigator) navigator.locks.request('avenda changes', { signal: stop.signal }, hold).catch(() => {});
  else void hold();

  return () => {
    stop.abort();
    channel.close();
    if (timer) clearTimeout(timer);
  };
}
