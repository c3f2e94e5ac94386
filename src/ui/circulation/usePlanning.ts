import { useMemo, useState } from 'react';
import { lineOf } from '@/core/line/line';
import { firstAsked, insertAfter, moveStage } from '@/core/route/edit';
import { preflight } from '@/core/route/preflight';
import { mapStages, type Series, type Stage, stagesOf, type Verb } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useUndo } from '../data/useUndo';
import { may } from './offers';
import { useSavedPlan } from './useSavedPlan';

export type Planning = ReturnType<typeof usePlanning>;

function freshStage(verb: Verb): Stage {
  return {
    kind: 'stage',
    id: crypto.randomUUID(),
    verb,
    seats: [],
    order: 'together',
    rule: { kind: 'all' },
    due: null,
    closes: null,
    onDecline: 'stop',
    delegate: true,
  };
}

/** A route while it is made: what it is, what the checks found, and each change to it. Saved as it is made. */
export function usePlanning(view: CirculationView) {
  const times = useTimes();
  const { person } = usePeople();
  const [open, setOpen] = useState<string | null>(stagesOf(view.route)[0]?.id ?? null);
  const editable = may(view, 'plan');
  const { plan, setPlan, state, error } = useSavedPlan(view, editable);
  const { route, text } = plan;
  const { change: setRoute, undo, can: canUndo } = useUndo<Series>(route, (next) => setPlan({ route: next, text }));

  const model = useMemo(() => lineOf(route, null, 0), [route]);
  const stages = stagesOf(route);
  const newest = view.versions[view.versions.length - 1];
  const contents = new Map(newest?.files.map((file) => [file.id, file.file]));
  const findings = preflight({
    route,
    author: view.author,
    hasVersion: view.newest !== null,
    fields: view.fields.filter((field) => view.fieldsOn[field.file] === contents.get(field.file)),
    now: times.now(),
    same: (a, b) => a === b || (person(a)?.email !== undefined && person(a)?.email === person(b)?.email),
  });
  const stops = findings.filter((finding) => finding.severity === 'stops');
  const first = firstAsked(route);
  const change = (id: string, update: (stage: Stage) => Stage | null) =>
    setRoute(mapStages(route, (stage) => (stage.id === id ? update(stage) : stage)));
  const add = (after: string | null) => {
    const stage = freshStage(
      after === null && stages.length === 0
        ? 'review'
        : stages.some((candidate) => candidate.verb === 'approve')
          ? 'sign'
          : 'approve',
    );
    setRoute(insertAfter(route, after, stage));
    setOpen(stage.id);
  };
  return {
    route,
    text,
    model,
    stages,
    findings,
    stops,
    first,
    editable,
    state,
    error,
    undo: editable && canUndo ? undo : null,
    selected: stages.find((stage) => stage.id === open) ?? null,
    select: setOpen,
    add,
    change,
    move: (id: string, by: -1 | 1) => setRoute(moveStage(route, id, by)),
    remove: (id: string) => {
      change(id, () => null);
      setOpen(stages.find((stage) => stage.id !== id)?.id ?? null);
    },
    write: (words: string) => setPlan({ route, text: words }),
  };
}
