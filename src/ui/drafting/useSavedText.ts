'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import { emptyStory, type Story, sameStory } from '@/core/text/story';
import type { UnsetLetter } from '@/server/drafting/unset';
import type { DraftView } from '@/server/drafting/view';
import { ask, type Refusal, tell } from '../data/client';
import { keepOnDevice, readDevice } from '../data/device';

const pause = 600;
const again = 5000;

const unsetIn = (data: DraftView, document: string) => data.documents.find((one) => one.id === document)?.unset ?? [];

const storyOf = (data: DraftView, document: string) =>
  data.documents.find((one) => one.id === document)?.story ?? emptyStory('b1');

/** What the server has, and the number of the edit that made it so. */
interface Kept {
  readonly edit: number;
  readonly story: Story;
}

/**
 * The text of one document of a draft, saved as one types: to this device at once, to the server after a short pause. What the server has not
 * taken (no connection, a reload) is put back when the page opens again. A text saved in another window is taken over
 * while nothing was typed in this one; when both were changed, both stand until the author has chosen. Whoever only
 * reads sees what the server has.
 */
export function useSavedText(data: DraftView, document: string, clock: () => number) {
  const mine = data.writes;
  const { change } = data;
  const key = `avenda.draft.${change}.${document}`;
  const [start] = useState(() => {
    const local = mine ? readDevice<Kept>(key) : null;
    const kept = { edit: data.edit, story: storyOf(data, document) };
    if (!local || sameStory(local.story, kept.story)) return { ...kept, putBack: false, conflict: null };
    return { ...kept, story: local.story, putBack: true, conflict: local.edit === kept.edit ? null : kept };
  });
  const [story, show] = useState(start.story);
  const [conflict, setConflict] = useState<Kept | null>(start.conflict);
  const [state, setState] = useState<'saved' | 'saving' | 'unsaved'>(start.putBack ? 'unsaved' : 'saved');
  // What the server found that cannot be printed; what another window saved comes with the page's data.
  const [unset, setUnset] = useState<readonly UnsetLetter[]>(() => unsetIn(data, document));
  const [savedAt, setSavedAt] = useState<number | null>(null);
  const [generation, setGeneration] = useState(0);
  const kept = useRef<Kept>({ edit: data.edit, story: storyOf(data, document) });
  const latest = useRef({ story: start.story, dirty: start.putBack, conflict: start.conflict, clock });
  latest.current.clock = clock;
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const running = useRef<Promise<boolean> | null>(null);

  const contest = useCallback((other: Kept | null) => {
    latest.current.conflict = other;
    setConflict(other);
  }, []);

  const push = useCallback(async (): Promise<boolean> => {
    while (latest.current.dirty) {
      if (latest.current.conflict) {
        setState('unsaved');
        return false;
      }
      const wanted = latest.current.story;
      latest.current.dirty = false;
      setState('saving');
      try {
        const { edit } = kept.current;
        const { value } = await tell('draft.saveText', { change, document, edit, story: wanted });
        kept.current = { edit: value.edit, story: wanted };
        setUnset(value.unset);
      } catch (fault) {
        latest.current.dirty = true;
        if ((fault as Refusal).code !== 'draft-moved') {
          setState('unsaved');
          return false;
        }
        // Changed elsewhere: when it is not the text that changed, this one is saved upon it.
        const fresh = await ask('draft.view', { change }).catch(() => null);
        const other = fresh && { edit: fresh.edit, story: storyOf(fresh, document) };
        if (other && (sameStory(other.story, kept.current.story) || sameStory(other.story, wanted))) {
          kept.current = other;
          continue;
        }
        if (other) contest(other);
        setState('unsaved');
        return false;
      }
    }
    keepOnDevice(key, null);
    setState('saved');
    setSavedAt(latest.current.clock());
    return true;
  }, [change, document, key, contest]);

  const settle = useCallback(async (): Promise<boolean> => {
    if (timer.current) clearTimeout(timer.current);
    if (running.current) await running.current;
    running.current = push();
    const fine = await running.current;
    running.current = null;
    return fine;
  }, [push]);

  const changed = useCallback(
    (next: Story) => {
      latest.current.story = next;
      latest.current.dirty = true;
      setState('saving');
      show(next);
      keepOnDevice(key, { edit: kept.current.edit, story: next });
      if (timer.current) clearTimeout(timer.current);
      timer.current = setTimeout(() => void settle(), pause);
    },
    [key, settle],
  );

  useEffect(() => {
    if (latest.current.dirty) void settle();
    // An answer that was lost leaves a copy here of what the server has.
    else if (mine) keepOnDevice(key, null);
    const timerOfRetries = setInterval(() => latest.current.dirty && !running.current && void settle(), again);
    return () => clearInterval(timerOfRetries);
  }, [settle, mine, key]);

  const newest = useRef(data);
  newest.current = data;

  const take = useCallback(
    (other: Kept) => {
      kept.current = other;
      latest.current.story = other.story;
      latest.current.dirty = false;
      keepOnDevice(key, null);
      contest(null);
      setState('saved');
      setUnset(unsetIn(newest.current, document));
      show(other.story);
      setGeneration((n) => n + 1);
    },
    [key, contest, document],
  );

  // What another window saved while nothing waits in this one.
  useEffect(() => {
    if (data.edit <= kept.current.edit || latest.current.dirty || running.current) return;
    const other = { edit: data.edit, story: storyOf(newest.current, document) };
    if (sameStory(other.story, kept.current.story)) kept.current = other;
    else take(other);
  }, [data.edit, document, take]);

  /** Saves what was typed here over the other text, which is kept as a version of its own. */
  const keepMine = useCallback(
    async (note: string): Promise<void> => {
      const other = latest.current.conflict;
      if (!other) return;
      await tell('draft.makeVersion', { change, note }).catch((fault: Refusal) => {
        if (fault.code !== 'draft-empty') throw fault;
      });
      kept.current = other;
      contest(null);
      await settle();
    },
    [change, contest, settle],
  );

  return {
    story,
    state,
    savedAt,
    unset,
    putBack: start.putBack,
    /** The other text, while two windows disagree. */
    conflict,
    /** Rises whenever the text was replaced from elsewhere. */
    generation,
    change: changed,
    /** Saves what waits; false when it could not be. */
    settle,
    /** The edit of the working copy that this window knows, and how it learns of its own other changes to it. */
    edit: () => kept.current.edit,
    moved: (edit: number) => {
      kept.current = { ...kept.current, edit };
    },
    keepMine,
    takeOther: () => latest.current.conflict && take(latest.current.conflict),
  };
}

export type SavedText = ReturnType<typeof useSavedText>;
