import { involvedIn } from '@/core/access/may';
import { filesOfCirculation } from '@/core/access/sight';
import { type Circulation, clocksRun, decisionOf, dueOf, newest, stopsOf } from '@/core/circulation/run/state';
import { tasksOf, timersOf, waitsFor } from '@/core/circulation/telling/tasks';
import { compactLine } from '@/core/line/compact';
import { lineOf } from '@/core/line/line';
import { sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { circulationStream } from '../events/streams';

/** Where a row without a due time stands: behind all that have one. */
const never = 8_640_000_000_000_000;

/** The rows that a circulation has in the read tables; a pure function of its state. */
export function rowsOf(id: string, state: Circulation) {
  const seats = [...state.seats.values()].filter((seat) => !seat.gone);
  const asked = clocksRun(state) ? seats.filter((seat) => seat.status === 'asked') : [];
  const dues = asked.flatMap((seat) => dueOf(state, seat) ?? []);
  const nextDue = dues.length > 0 ? Math.min(...dues) : null;
  const stops = stopsOf(state).length;
  const stream = circulationStream(id);
  return {
    stream,
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
      stream,
      seat: task.seat ?? '',
      silence: task.silence,
      rank: task.doing === 'resolveStop' ? 0 : 1,
      sort: task.due ?? never,
      key: [stream, task.person, task.doing, task.seat ?? '', task.stage ?? ''].join('/'),
    })),
    timers: timersOf(state).map((timer) => ({ ...timer, stream })),
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

const circulations = table<Rows['circulation']>('circulation', {
  id: 'value',
  number: 'value',
  record: 'value',
  records: 'value',
  change: 'value',
  controller: 'value',
  author: 'value',
  batch: 'value',
  begunBy: 'value',
  phase: 'value',
  round: 'value',
  version: 'value',
  stops: 'value',
  seats: 'value',
  decided: 'value',
  holders: 'value',
  nextDue: 'value',
  created: 'value',
  sent: 'value',
  ended: 'value',
  last: 'value',
  rank: 'value',
  sort: 'value',
  line: 'value',
});
const tasks = table<Rows['tasks'][number]>('task', {
  stream: 'value',
  person: 'value',
  doing: 'value',
  seat: 'value',
  stage: 'value',
  about: 'value',
  kept: 'value',
  since: 'value',
  notBefore: 'value',
  due: 'value',
  closes: 'value',
  rank: 'value',
  sort: 'value',
  key: 'value',
  silence: 'json',
});
const timers = table<Rows['timers'][number]>('timer', {
  stream: 'value',
  kind: 'value',
  key: 'value',
  at: 'value',
});
const involvements = table<{ stream: string; person: string }>('involvement', {
  stream: 'value',
  person: 'value',
});

const differ = (one: unknown, other: unknown) => JSON.stringify(one) !== JSON.stringify(other);

/** Writes the rows, where they differ from those of the state before. */
export function project(tx: Tx, before: Rows | null, after: Rows): void {
  const { sql, organization } = tx;
  const { stream, circulation } = after;
  if (before) {
    const changed = circulations.names.filter((one) => differ(before.circulation[one], after.circulation[one]));
    // Something has happened even where no column shows it: its forecast is made anew.
    const values = Object.fromEntries(changed.map((one) => [one, after.circulation[one]]));
    const more = changed.length > 0 ? sql`, ${circulations.set(tx, values)}` : sql``;
    sendWrite(
      sql`update circulation set forecast_at = null ${more} where organization = ${organization} and id = ${circulation.id}`,
    );
  } else sendWrite(circulations.insert(tx, [after.circulation]));
  const differs = (key: 'tasks' | 'timers' | 'involved') => differ(before?.[key] ?? [], after[key]);
  if (differs('tasks')) {
    sendWrite(sql`delete from task where organization = ${organization} and stream = ${stream}`);
    if (after.tasks.length > 0) sendWrite(tasks.insert(tx, after.tasks));
  }
  if (differs('timers')) {
    sendWrite(sql`delete from timer where organization = ${organization} and stream = ${stream}`);
    if (after.timers.length > 0) sendWrite(timers.insert(tx, after.timers));
  }
  if (differs('involved')) {
    sendWrite(sql`delete from involvement where organization = ${organization} and stream = ${stream}`);
    sendWrite(
      involvements.insert(
        tx,
        after.involved.map((person) => ({ stream, person })),
      ),
    );
  }
  const used = new Set(before?.files);
  const fresh = [...new Set(after.files)].filter((file) => !used.has(file));
  if (fresh.length > 0)
    sendWrite(
      sql`insert into file_use ${sql(fresh.map((file) => ({ organization, owner: stream, file })))} on conflict do nothing`,
    );
}
