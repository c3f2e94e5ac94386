import { involvedIn } from '@/core/access/may';
import { type Circulation, decisionOf, newest, stopsOf } from '@/core/circulation/state';
import { tasksOf, timersOf } from '@/core/circulation/tasks';
import { lineOf } from '@/core/line/line';
import { sendWrite, type Tx } from '../db/connect';

/** The rows that a circulation has in the read tables; a pure function of its state. */
export function rowsOf(id: string, state: Circulation) {
  const asked = state.seats.filter((seat) => seat.status === 'asked');
  const dues = asked.flatMap((seat) => (seat.due === null ? [] : [seat.due]));
  return {
    circulation: {
      id,
      number: state.number,
      record: state.record,
      change: state.change,
      controller: state.controller,
      author: state.author,
      phase: state.phase,
      round: state.round,
      version: newest(state)?.number ?? 0,
      stops: stopsOf(state).length,
      seats: state.seats.length,
      decided: state.seats.filter((seat) => seat.status === 'decided' && decisionOf(state, seat)).length,
      nextDue: dues.length > 0 ? Math.min(...dues) : null,
      created: state.created,
      sent: state.sent,
      ended: state.ended,
      last: state.last,
      line: lineOf(state.route, state, state.last),
    },
    tasks: tasksOf(state).map((task) => ({ ...task, circulation: id, seat: task.seat ?? '' })),
    timers: timersOf(state).map((timer) => ({ ...timer, circulation: id })),
    involved: involvedIn(state),
  };
}

type Rows = ReturnType<typeof rowsOf>;

/** Writes the rows, where they differ from those of the state before. */
export async function project(tx: Tx, before: Rows | null, after: Rows): Promise<void> {
  const { sql, organization } = tx;
  const { line, ...plain } = after.circulation;
  const row = { organization, ...plain, line: sql.json(line as never) };
  const writes: PromiseLike<unknown>[] = [
    sql`insert into circulation ${sql(row as never)}
        on conflict (organization, id) do update set ${sql(row as never, 'number', 'record', 'change', 'controller', 'author', 'phase', 'round', 'version', 'stops', 'seats', 'decided', 'nextDue', 'created', 'sent', 'ended', 'last', 'line')}`,
  ];
  const { id } = after.circulation;
  const differs = (key: 'tasks' | 'timers' | 'involved') =>
    JSON.stringify(before?.[key] ?? []) !== JSON.stringify(after[key]);
  if (differs('tasks')) {
    writes.push(sql`delete from task where organization = ${organization} and circulation = ${id}`);
    if (after.tasks.length > 0)
      writes.push(sql`insert into task ${sql(after.tasks.map((task) => ({ organization, ...task })) as never)}`);
  }
  if (differs('timers')) {
    writes.push(sql`delete from timer where organization = ${organization} and circulation = ${id}`);
    if (after.timers.length > 0)
      writes.push(sql`insert into timer ${sql(after.timers.map((timer) => ({ organization, ...timer })) as never)}`);
  }
  if (differs('involved')) {
    writes.push(sql`delete from involvement where organization = ${organization} and circulation = ${id}`);
    writes.push(
      sql`insert into involvement ${sql(after.involved.map((person) => ({ organization, circulation: id, person })) as never)}`,
    );
  }
  for (const write of writes) sendWrite(tx, write);
}
