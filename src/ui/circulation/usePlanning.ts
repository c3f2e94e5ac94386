import { useMemo, useState } from 'react';
import type { Whole } from '@/core/circulation/run/shapes';
import { type LineModel, lineOf, overlaid } from '@/core/line/line';
import { type Condition, holds } from '@/core/route/condition';
import {
  edited,
  editedBy,
  findPart,
  firstAsked,
  type RouteEdit,
  type Slot,
  type SplitIds,
  slotAfter,
} from '@/core/route/edit';
import { type FactValue, factsWith } from '@/core/route/facts';
import { type Finding, type Mending, mendingOf, preflight } from '@/core/route/preflight';
import {
  type Copies,
  copiesOf,
  freshStage,
  partsOf,
  type Series,
  type Stage,
  stagesOf,
  usualAllows,
} from '@/core/route/route';
import { type Verb, verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import type { Refusal } from '../data/client';
import { useOrganization } from '../data/organization';
import { useTell, useTimes } from '../data/use';
import { useUndo } from '../data/useUndo';
import { may } from './offers';
import { type Moved, type Plan, useSavedPlan } from './useSavedPlan';
import { useSubject } from './useSubject';

export type Planning = ReturnType<typeof useRouteMaking>;

/** What of a plan is made on the line: taken back and made again together. */
interface Made {
  readonly route: Series;
  readonly whole: Whole;
  readonly facts: Readonly<Record<string, FactValue | null>>;
  /** The changes that led here, so that they can be made again on another plan. */
  readonly edits: readonly RouteEdit[];
}

const fresh = () => crypto.randomUUID();

/** The forks of a circulation that have begun: they stay, though an amendment leaves one branch of them. */
export function begunForks({ route, stages }: Pick<CirculationView, 'route' | 'stages'>): ReadonlySet<string> {
  const begun = new Set(
    stages.flatMap(({ id, status, held, skipped }) => (status !== 'idle' || held || skipped ? [id] : [])),
  );
  return new Set(
    partsOf(route).flatMap((part) =>
      part.kind === 'parallel' && stagesOf(part).some(({ id }) => begun.has(id)) ? [part.id] : [],
    ),
  );
}

/** A route while it is planned: saved as it is made. */
export function usePlanning(view: CirculationView) {
  const editable = may(view, 'plan');
  return useRouteMaking(view, useSavedPlan(view, editable), editable, null);
}

/** Where a plan is kept while it is made. */
export interface PlanStore {
  readonly plan: Plan;
  readonly setPlan: (plan: Plan) => void;
  readonly state: 'saved' | 'saving' | 'unsaved';
  readonly error: Refusal | null;
  readonly moved: Moved | null;
}

/**
 * A route while it is made: what it is, what the checks found, and each change to it. `present` is the line of a circulation
 * under way whose route is amended.
 */
export function useRouteMaking(view: CirculationView, saved: PlanStore, editable: boolean, present: LineModel | null) {
  const times = useTimes();
  const { rules } = useOrganization();
  const [open, setOpen] = useState<string | null>(present ? null : (stagesOf(view.route)[0]?.id ?? null));
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const { plan, setPlan } = saved;
  const { route, text, whole, facts, edits } = plan;
  const made = useMemo<Made>(() => ({ route, whole, facts, edits }), [route, whole, facts, edits]);
  const { change, undo, redo, can, canAgain } = useUndo<Made>(made, (next) => setPlan({ ...next, text }));
  const putFields = useTell('circulation.putFields');

  const begun = useMemo(() => begunForks(view), [view]);
  const edit = (...more: readonly RouteEdit[]) =>
    change({ ...made, route: editedBy(route, more, begun), edits: [...edits, ...more] });
  const model = useMemo(() => {
    const line = lineOf(route, null, 0);
    return present ? overlaid(line, present) : line;
  }, [route, present]);
  const stages = useMemo(() => stagesOf(route), [route]);
  const values = factsWith(view.factTypes, facts);
  const subject = useSubject(view, { route, whole, facts: values, now: times.now() });
  const findings = useMemo(() => preflight(subject), [subject]);
  const stops = findings.filter((finding) => finding.severity === 'stops');
  const holding = (condition: Condition) =>
    holds(condition, { facts: values, names: {}, record: view.recordFacts, outcomes: () => null }).holds;
  const first = firstAsked(route, holding);
  const selected = open === null ? null : (partsOf(route).find((part) => part.id === open) ?? null);

  const begin = (verb: Verb): Stage => ({
    ...freshStage(fresh(), verb),
    allows: { ...usualAllows, delegate: rules.includes('delegatingAgreed') ? 'agreed' : usualAllows.delegate },
  });
  /** What usually comes behind a place: a review, then an approval; signatures on the line itself, then reading. */
  const usual = ({ series, at }: Slot): Verb => {
    const parts = partsOf(route).find((part) => part.kind === 'series' && part.id === series);
    const before = parts?.kind === 'series' ? parts.parts.slice(0, at).flatMap(stagesOf).pop() : undefined;
    if (!before) return series === route.id ? 'review' : 'approve';
    const { inBranch, onLine } = verbFacts[before.verb].next;
    return series === route.id ? onLine : inBranch;
  };
  return {
    view,
    route,
    text,
    whole,
    facts,
    values,
    subject,
    model,
    stages,
    findings,
    stops,
    first,
    holding,
    /** Whether an author may approve their own document here, and who fills a role now. */
    authorMay: rules.includes('authorApproves'),
    personIn: (role: string) => subject.roles.get(role)?.person ?? null,
    editable,
    state: saved.state,
    error: saved.error,
    moved: saved.moved,
    undo: editable && can ? undo : null,
    redo: editable && canAgain ? redo : null,
    selected,
    open,
    unfolded,
    select: setOpen,
    unfold: (id: string) => setUnfolded(new Set([...unfolded, id])),
    edit,
    /** A stage behind a part, or at the end of the route; it opens. */
    add: (after: string | null) => {
      const at = slotAfter(route, after);
      const stage = begin(usual(at));
      edit({ do: 'add', part: stage, at });
      setOpen(stage.id);
    },
    /** The same at any place of the line. */
    addAt: (at: Slot) => {
      const stage = begin(usual(at));
      edit({ do: 'add', part: stage, at });
      setOpen(stage.id);
    },
    /** A branch beside a part: what stood there becomes the first of two. */
    branch: (beside: string) => {
      const found = findPart(route, beside)?.part;
      const stage = begin(found?.kind === 'stage' ? found.verb : 'review');
      const ids: SplitIds = { parallel: fresh(), first: fresh(), second: fresh() };
      const parallel = partsOf(route).find(
        (part) =>
          part.kind === 'parallel' &&
          part.branches.some(({ route: inner }) => inner.parts.length === 1 && inner.parts[0]?.id === beside),
      );
      const branch = { name: '', condition: null, route: { kind: 'series' as const, id: ids.second, parts: [stage] } };
      if (parallel) edit({ do: 'addBranch', parallel: parallel.id, branch });
      else edit({ do: 'split', part: beside, ids, stage });
      setOpen(stage.id);
    },
    /** A board behind a part; it opens. */
    copy: (after: string) => {
      const board: Copies = { kind: 'copies', id: fresh(), to: [], hidden: false };
      edit({ do: 'add', part: board, at: slotAfter(route, after) });
      setOpen(board.id);
    },
    /** A part one place earlier or later, into and out of branches at their ends. */
    shift: (part: string, by: -1 | 1) => {
      const found = findPart(route, part);
      if (found) edit({ do: 'move', part, to: { series: found.slot.series, at: found.slot.at + (by === 1 ? 2 : -1) } });
    },
    remove: (part: string) => {
      const next = edited(route, { do: 'remove', part }, begun);
      edit({ do: 'remove', part });
      setOpen(stagesOf(next)[0]?.id ?? copiesOf(next)[0]?.id ?? null);
    },
    mending: (finding: Finding) => mendingOf(subject, finding),
    mend: (mending: Mending) => {
      if (mending.kind === 'route') edit(...mending.edits);
      if (mending.kind === 'whole') change({ ...made, whole: mending.whole });
      if (mending.kind !== 'fields') return;
      const content = view.versions[view.versions.length - 1]?.files.find((file) => file.id === mending.file)?.file;
      const signing = stages.flatMap((stage) =>
        verbFacts[stage.verb].signs ? stage.seats.map((seat) => seat.id) : [],
      );
      const fields = view.fields.filter((field) => field.file === mending.file && signing.includes(field.seat));
      if (content) putFields.mutate({ circulation: view.id, file: mending.file, content, fields });
    },
    setWhole: (next: Partial<Whole>) => change({ ...made, whole: { ...whole, ...next } }),
    setFact: (id: string, value: FactValue | null) =>
      change({ ...made, facts: { ...facts, [id]: value } }, `fact ${id}`),
    write: (words: string) => setPlan({ ...made, text: words }),
    /** Who holds a seat now, where that is another one than was planned. */
    heldBy: (seat: string) => (present ? (view.seats.find((one) => one.id === seat)?.holder ?? null) : null),
    /** Whether somebody has responded from a seat: it stays in what is amended. */
    responded: (seat: string) =>
      present !== null &&
      view.phase === 'running' &&
      view.seats.some((one) => one.id.replace(/__\d+$/, '') === seat && one.decision !== null),
    /** What has started of a stage that is amended: it stays what it is, and takes people and times. */
    started: (stage: string) => {
      const run = present ? view.stages.find((one) => one.id === stage) : undefined;
      if (!run || view.phase === 'rework') return null;
      if (run.skipped || run.status === 'done' || run.status === 'released') return 'over' as const;
      return run.status === 'open' || run.held !== null ? ('open' as const) : null;
    },
  };
}
