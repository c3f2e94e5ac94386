import { useEffect, useMemo, useState } from 'react';
import { routeDifferences } from '@/core/route/changes';
import { editedBy } from '@/core/route/edit';
import { atInstant, instantOf } from '@/core/route/route';
import type { Instant } from '@/core/time/instant';
import type { AmendedFile } from '@/server/circulation/amend';
import type { CirculationView } from '@/server/circulation/view';
import type { InputOf } from '../data/client';
import { useAnswer } from '../data/use';
import { useKept } from '../data/useKept';
import { useSettled } from '../data/useSettled';
import { needsOf } from './offers';
import { begunForks, type PlanStore, useRouteMaking } from './usePlanning';
import type { Plan } from './useSavedPlan';

/** An amendment as it is drafted: on what, and what it shall be; kept on this device until it is made or given up. */
interface Drafted {
  readonly basis: string;
  /** The plan it was drafted on. */
  readonly from: Plan;
  readonly plan: Plan;
  readonly files: readonly AmendedFile[] | null;
}

export type Amending = ReturnType<typeof useAmending>;

/** Drafting an amendment on the line, with what it would change for whom, asked anew after each change. */
export function useAmending(view: CirculationView) {
  const basis = needsOf(view, 'amend')?.basis ?? '';
  const present: Plan = {
    route: view.route,
    text: view.note ?? '',
    whole: { due: atInstant(view.due), closes: atInstant(view.closes) },
    facts: {},
    edits: [],
  };
  const [kept, keep] = useKept<Drafted>(`amend.${view.id}`);
  const drafted = kept ?? { basis, from: present, plan: present, files: null };
  const [reason, setReason] = useState('');
  const put = (part: Partial<Drafted>) => keep({ ...drafted, ...part });
  // What was drafted on something else is never applied unasked: it is made anew on what there is, or given up.
  const moved = drafted.basis !== basis;
  const store: PlanStore = {
    plan: drafted.plan,
    setPlan: (plan) => put({ plan }),
    state: 'saved',
    error: null,
    moved: null,
  };
  const planning = useRouteMaking(view, store, !moved, view.line);
  const { route, text, whole, edits } = drafted.plan;
  const at = (time: 'due' | 'closes'): Instant | null => instantOf(whole[time]);
  const timed = at('due') !== view.due || at('closes') !== view.closes;
  const changed = edits.length > 0 || text !== (view.note ?? '') || timed || drafted.files !== null;
  const input: InputOf<'circulation.amend'> = {
    circulation: view.id,
    basis: drafted.basis,
    route,
    note: text,
    reason: reason.trim() || null,
    whole: timed ? { due: at('due'), closes: at('closes') } : null,
    files: drafted.files,
  };
  const said = JSON.stringify({ ...input, reason: null });
  const settled = useSettled(said, 350);
  const asked = useMemo(() => JSON.parse(settled) as typeof input, [settled]);
  const shown = useAnswer('circulation.previewAmendment', asked, { enabled: changed && !moved && settled === said });
  useEffect(() => {
    // Nothing is kept of an amendment that changes nothing.
    if (kept && !changed && !moved) keep(null);
  }, [kept, changed, moved, keep]);
  return {
    view,
    planning,
    input,
    changed,
    reason,
    setReason,
    files: drafted.files,
    setFiles: (files: readonly AmendedFile[] | null) => put({ files }),
    setWhole: (part: { readonly due?: Instant | null; readonly closes?: Instant | null }) =>
      planning.setWhole(
        Object.fromEntries(Object.entries(part).map(([key, value]) => [key, atInstant(value ?? null)])),
      ),
    /** What it would do, once that is known for what is drafted now. */
    shown: changed && settled === said ? (shown.data ?? null) : null,
    error: shown.error,
    forget: () => keep(null),
    moved: moved
      ? {
          differences: routeDifferences(drafted.from.route, view.route),
          again: () =>
            keep({
              basis,
              from: present,
              plan: { ...drafted.plan, route: editedBy(view.route, edits, begunForks(view)) },
              files: drafted.files,
            }),
        }
      : null,
  };
}
