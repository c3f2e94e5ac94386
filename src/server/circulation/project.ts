import { involvedIn } from '@/core/access/may';
import { filesOfCirculation } from '@/core/access/sight';
import { type Circulation, clocksRun, decisionOf, dueOf, newest, stopsOf } from '@/core/circulation/run/state';
import { tasksOf, timersOf, waitsFor } from '@/core/circulation/telling/tasks';
import { compactLine } from '@/core/line/compact';
import { lineOf } from '@/core/line/line';
import { sendWrite, type Tx } from '../db/connect';

/** Where a row without a due time stands: behind all that have one. */
const never = 8_640_000_000_000_000;

/** The rows that a circulation has in the read tables; a pure function of its state. */
export function rowsOf(id: string, state: Circulation) {
  const seats = [...state.seats.values()].filter((seat) => !seat.gone);
  const asked = clocksRun(state) ? seats.filter((seat) => seat.status === 'asked') : [];
  const dues = asked.flatMap((seat) => dueOf(state, seat) ?? []);
  const nextDue = dues.length > 0 ? Math.min(...dues) : null;
  const stops = stopsOf(state).length;
  return {
    circulation: {
      id,
      number: state.number,
      record: state.records[0] as string,
      records: state.records,
      change: state.change,
      controller: state.controller,
      author: state.author,
      batch: state.batch,
      begunBy: state.begunBy,
      phase: state.phase,
      round: state.round,
      version: newest(state)?.number ?? 0,
      stops,
      seats: seats.length,
      decided: seats.filter((seat) => seat.status === 'decided' && decisionOf(state, seat)).length,
      holders: waitsFor(state),
      nextDue,
      created: state.created,
      sent: state.sent,
      ended: state.ended,
      last: state.last,
      rank: state.ended !== null ? 2 : stops > 0 ? 0 : 1,
      sort: state.ended !== null ? never - state.ended : (nextDue ?? never),
      line: compactLine(lineOf(state.plan, state, state.last)),
    },
    tasks: tasksOf(state).map((task) => ({
      ...task,
      circulation: id,
      seat: task.seat ?? '',
      silence: task.silence as never,
      rank: task.doing === 'resolveStop' ? 0 : 1,
      sort: task.due ?? never,
      key: [id, task.person, task.doing, task.seat ?? '', task.stage ?? ''].join('/'),
    })),
    timers: timersOf(state).map((timer) => ({ ...timer, circulation: id })),
    involved: involvedIn(state),
    files: filesUsed(state),
  };
}

/** What is kept as long as it stands: its files, and what their pages were made from. */
function filesUsed(state: Circulation): string[] {
  const sources = state.versions.flatMap(({ files }) => files.flatMap(({ made }) => made?.source ?? []));
  return [...filesOfCirculation(state), ...sources].filter((file) => file !== '');
}

type Rows = ReturnType<typeof rowsOf>;

const columns = [
  'number',
  'record',
  'records',
  'change',
  'controller',
  'author',
  'batch',
  'begunBy',
  'phase',
  'round',
  'version',
  'stops',
  'seats',
  'decided',
  'holders',
  'nextDue',
  'created',
  'sent',
  'ended',
  'last',
  'rank',
  'sort',
  'line',
] as const;

const differ = (one: unknown, other: unknown) => JSON.stringify(one) !== JSON.stringify(other);

/** Writes the rows, where they differ from those of the state before. */
export function project(tx: Tx, before: Rows | null, after: Rows): void {
  const { sql, organization } = tx;
  const { id } = after.circulation;
  if (before) {
    const changed: Record<string, unknown> = { forecastAt: null };
    for (const column of columns)
      if (differ(before.circulation[column], after.circulation[column])) changed[column] = after.circulation[column];
    sendWrite(sql`update circulation set ${sql(changed as never)} where organization = ${organization} and id = ${id}`);
  } else sendWrite(sql`insert into circulation ${sql({ organization, ...after.circulation } as never)}`);
  const differs = (key: 'tasks' | 'timers' | 'involved') => differ(before?.[key] ?? [], after[key]);
  if (differs('tasks')) {
    sendWrite(sql`delete from task where organization = ${organization} and circulation = ${id}`);
    if (after.tasks.length > 0)
      sendWrite(sql`insert into task ${sql(after.tasks.map((task) => ({ organization, ...task })) as never)}`);
  }
  if (differs('timers')) {
    sendWrite(sql`delete from timer where organization = ${organization} and circulation = ${id}`);
    if (after.timers.length > 0)
      sendWrite(sql`insert into timer ${sql(after.timers.map((timer) => ({ organization, ...timer })) as never)}`);
  }
  if (differs('involved')) {
    sendWrite(sql`delete from involvement where organization = ${organization} and circulation = ${id}`);
    sendWrite(
      sql`insert into involvement ${sql(after.involved.map((person) => ({ organization, circulation: id, person })) as never)}`,
    );
  }
  const used = new Set(before?.files);
  const fresh = [...new Set(after.files)].filter((file) => !used.has(file));
  if (fresh.length > 0)
    sendWrite(
      sql`insert into file_use ${sql(fresh.map((file) => ({ organization, owner: `circulation:${id}`, file })))} on conflict do nothing`,
    );
}
