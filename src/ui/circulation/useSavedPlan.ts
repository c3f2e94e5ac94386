'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { planSign } from '@/core/circulation/plan/planning';
import type { Whole } from '@/core/circulation/run/shapes';
import type { RouteEdit } from '@/core/route/edit';
import type { FactValue } from '@/core/route/facts';
import type { Series } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { refresh } from '../data/changes';
import { type Refusal, tell } from '../data/client';

export interface Plan {
  readonly route: Series;
  /** The controller's words to everybody who is asked. */
  readonly text: string;
  readonly whole: Whole;
  readonly facts: Readonly<Record<string, FactValue | null>>;
  readonly edits: readonly RouteEdit[];
}

const pause = 500;
const again = 5000;

const signOf = ({ route, text, whole, facts }: Plan) => planSign(route, { note: text, whole, facts });

/** Somebody else changed the plan while this one was being changed: one of them has to be chosen. */
export interface Moved {
  readonly takeTheirs: () => void;
  readonly keepMine: () => void;
}

/**
 * A plan that is saved as it is made: after a pause, at once when the page is left, and again and again when it could
 * not be. A plan changed in another window is taken over while nothing of this one waits to be saved; where both were
 * changed, neither overwrites the other unasked.
 */
export function useSavedPlan(view: CirculationView, editable: boolean) {
  const client = useQueryClient();
  const theirs: Plan = {
    route: view.route,
    text: view.note ?? '',
    whole: view.whole,
    facts: view.factsGiven,
    edits: [],
  };
  const [plan, setPlan] = useState(theirs);
  const [error, setError] = useState<Refusal | null>(null);
  const [saved, setSaved] = useState(() => signOf(theirs));
  const sign = signOf(plan);
  const other = signOf(theirs);
  // What the timers and the last moments of the page need of the newest rendering.
  const now = useRef({ plan, sign, saved, theirs, other, error, running: false });
  Object.assign(now.current, { plan, sign, saved, theirs, other, error });
  const circulation = view.id;

  const save = useCallback(
    async (keepalive: boolean, overwrite = false) => {
      const { plan: wanted, sign: mark, saved: kept, running } = now.current;
      if (running || (mark === kept && !overwrite)) return;
      now.current.running = true;
      try {
        const { route, text, whole, facts } = wanted;
        const basis = overwrite ? null : kept;
        const { changed } = await tell(
          'circulation.plan',
          { circulation, route, note: text, whole, facts, basis },
          { keepalive },
        );
        setSaved(mark);
        setError(null);
        await refresh(client, changed);
      } catch (fault) {
        setError(fault as Refusal);
        if ((fault as Refusal).code === 'plan-moved') await refresh(client, [`circulation ${circulation}`]);
      }
      now.current.running = false;
    },
    [circulation, client],
  );

  useEffect(() => {
    if (!editable || sign === saved) return;
    const timer = setTimeout(() => {
      if (now.current.error?.code !== 'plan-moved') void save(false);
    }, pause);
    return () => clearTimeout(timer);
  }, [sign, saved, editable, save]);

  useEffect(() => {
    if (!editable) return;
    // What was refused for a reason waits for another change; what did not get through is sent again.
    const timer = setInterval(() => now.current.error?.code === 'offline' && void save(false), again);
    const leave = () => void save(true);
    window.addEventListener('pagehide', leave);
    return () => {
      clearInterval(timer);
      window.removeEventListener('pagehide', leave);
      leave();
    };
  }, [editable, save]);

  const heard = useRef(other);
  useEffect(() => {
    if (other === heard.current) return;
    heard.current = other;
    const { running, sign: mine, saved: kept, theirs: next } = now.current;
    if (running || mine !== kept || other === kept) return;
    setSaved(other);
    setPlan(next);
  }, [other]);

  const moved: Moved | null =
    error?.code === 'plan-moved'
      ? {
          takeTheirs: () => {
            setSaved(now.current.other);
            setPlan(now.current.theirs);
            setError(null);
          },
          keepMine: () => {
            setError(null);
            void save(false, true);
          },
        }
      : null;
  const state = sign === saved ? 'saved' : error ? 'unsaved' : 'saving';
  return { plan, setPlan, state, error: moved ? null : error, moved } as const;
}
