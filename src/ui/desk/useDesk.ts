import { useMemo } from 'react';
import { doings } from '@/core/circulation/telling/tasks';
import { pressBounds, pressOf } from '@/core/time/press';
import type { TaskRow } from '@/server/desk/view';
import { useAsk, useMe, usePages, useTimes } from '../data/use';
import { useNews } from '../data/useNews';
import { counted } from '../parts/counted';
import { deskWords as words } from './words';

/** One row a document: what it needs of this person, the most urgent first, and what else. */
export interface Row {
  readonly key: string;
  /** Somebody else's, late, in a circulation that this person controls. */
  readonly waits: boolean;
  /** Somebody's who is away, whom this person covers. */
  readonly covers: boolean;
  readonly task: TaskRow;
  readonly others: readonly TaskRow[];
}

type Bucket = (typeof buckets)[number];
const buckets = ['stopped', 'late', 'today', 'week', 'later'] as const;
type Kind = Bucket | 'others';

const tones = { stopped: 'oxblood', late: 'copperText', others: 'copperText' } as const satisfies {
  readonly [K in Kind]?: string;
} as { readonly [K in Kind]?: 'oxblood' | 'copperText' };

function rowsOf(tasks: readonly TaskRow[], me: string): Row[] {
  const byDocument = new Map<string, TaskRow[]>();
  for (const task of tasks) byDocument.set(task.circulation, [...(byDocument.get(task.circulation) ?? []), task]);
  return [...byDocument.values()].map((own): Row => {
    const [first, ...rest] = own
      .slice()
      .sort(
        (a, b) =>
          (a.due ?? Number.MAX_SAFE_INTEGER) - (b.due ?? Number.MAX_SAFE_INTEGER) ||
          doings.indexOf(a.doing) - doings.indexOf(b.doing),
      ) as [TaskRow, ...TaskRow[]];
    const stop = own.find((task) => task.doing === 'resolveStop');
    const covers = first.person !== me && !first.person.startsWith('group:');
    return stop
      ? {
          key: stop.circulation,
          waits: false,
          covers: false,
          task: stop,
          others: own.filter((task) => task !== stop && task.doing !== 'resolveStop'),
        }
      : { key: first.circulation, waits: false, covers, task: first, others: rest };
  });
}

/** What the Desk shows: its tasks as they come, a row a document, in groups by how they press, counted and with what is new. */
export function useDesk() {
  const tasks = usePages('desk.tasks', { filter: '' });
  const { data } = useAsk('desk.view');
  const times = useTimes();
  const bounds = pressBounds(times.zone, times.now());
  const news = useNews(
    tasks.rows
      ? new Map(tasks.rows.map((task) => [task.circulation, `${task.doing} ${task.seat} ${task.since}`]))
      : null,
  );
  const { data: mine } = useMe();
  const me = mine?.me.id ?? '';
  const rows = useMemo(() => rowsOf(tasks.rows ?? [], me), [tasks.rows, me]);
  const bucketOf = ({ task }: Row): Bucket => {
    if (task.doing === 'resolveStop') return 'stopped';
    const press = pressOf(task.due, bounds);
    return press === 'none' ? 'later' : press;
  };
  const late = (data?.late ?? []).map(
    (task): Row => ({ key: `${task.circulation} ${task.seat}`, waits: true, covers: false, task, others: [] }),
  );
  const groups = [...buckets, 'others' as const].map((key) => ({
    key: key as Kind,
    title: words.groups[key],
    tone: tones[key],
    rows: key === 'others' ? late : rows.filter((row) => bucketOf(row) === key),
  }));
  // While there are more pages, the first one says how many there are.
  const all = tasks.hasMore ? tasks.first?.counts : null;
  const counts = (['stopped', 'late', 'today'] as const).flatMap((key) => {
    const n = all?.[key] ?? groups.find((group) => group.key === key)?.rows.length ?? 0;
    return n > 0 ? [`${counted(n)} ${words.counts[key]}`] : [];
  });
  return {
    tasks,
    groups,
    counts,
    needed: all?.all ?? rows.length,
    news,
    /** Null while it is not known yet. */
    waits: data?.waits ?? null,
    back: data?.back ?? [],
    incomplete: data?.incomplete ?? [],
    steps: data?.steps ?? null,
  };
}
