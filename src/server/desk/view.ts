import type { Doing } from '@/core/circulation/telling/tasks';
import { firstSteps } from '../admin/firstSteps';
import type { Tx } from '../db/connect';
import { finding, nearby, nearbyCounted } from '../finding';
import { cursorOf, keysIn, mostCounted, tomorrow } from '../lists';
import type { Member } from '../operations/operation';
import { waitingFor } from './mine';
import { backNow } from './notes';

const pageSize = 60;

export interface TaskRow {
  readonly circulation: string;
  readonly person: string;
  readonly doing: Doing;
  readonly seat: string;
  readonly stage: string | null;
  readonly about: string;
  readonly since: number;
  readonly notBefore: number | null;
  readonly due: number | null;
  readonly closes: number | null;
  readonly circulationNumber: string;
  readonly phase: string;
  readonly round: number;
  readonly version: number;
  readonly line: string;
  readonly nextDue: number | null;
  readonly stops: number;
  readonly controller: string;
  readonly author: string;
  readonly change: string;
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly complete: boolean;
  readonly rank: number;
  readonly sort: number;
  readonly key: string;
}

/** The columns of a task with its circulation and document, for whoever lists tasks. */
export function taskColumns({ sql }: Tx) {
  return sql`
    select c.id as circulation, t.person, t.doing, t.seat, t.stage, t.about, t.since, t.not_before, t.due, t.closes,
           c.number as circulation_number, c.phase, c.round, c.version, c.line, c.next_due, c.stops, c.controller, c.author,
           c.change, r.record, r.number, r.title, r.complete, t.rank, t.sort, t.key`;
}

/** What those columns come from; of all tasks, or of some. */
export function taskTables({ sql }: Tx, tasks = sql`task`) {
  return sql`
    from ${tasks} t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record`;
}

/** What the whole of a list that fits on one page is counted as: documents, by what most needs somebody. */
function countsOf(rows: readonly TaskRow[], now: number, tomorrow: number) {
  const documents = new Map<string, { stopped: boolean; due: number }>();
  for (const { circulation, rank, due } of rows) {
    const before = documents.get(circulation) ?? { stopped: false, due: Number.POSITIVE_INFINITY };
    const soonest = Math.min(before.due, due ?? Number.POSITIVE_INFINITY);
    documents.set(circulation, { stopped: before.stopped || rank === 0, due: soonest });
  }
  const each = [...documents.values()];
  const going = each.filter(({ stopped }) => !stopped);
  return {
    all: each.length,
    stopped: each.length - going.length,
    late: going.filter(({ due }) => due < now).length,
    today: going.filter(({ due }) => due >= now && due < tomorrow).length,
  };
}

/** A page of somebody's tasks: what waits for a decision of the controller first, then by due time; counted on the first. */
export async function taskPage(tx: Tx, input: { readonly filter: string; readonly after: string | null }, me: string) {
  const { sql, organization, now } = tx;
  const { where: mine, own } = await waitingFor(tx, me);
  const after = keysIn(input.after, ['number', 'number', 'string']);
  const behind = after ? sql`and (t.rank, t.sort, t.key) > (${after[0]}, ${after[1]}, ${after[2]})` : sql``;
  const order = sql`order by t.rank, t.sort, t.key`;
  const listed = (tables: typeof order) => sql`${tables} where t.organization = ${organization} and ${mine} ${behind}`;
  // What is only counted needs no more than the tasks, where that is enough to know whose they are.
  const barely = (tasks: typeof order) => listed(own ? sql`from ${tasks} t` : taskTables(tx, tasks));
  const { fitting } = finding(tx, 'task', input.filter, barely);
  const rows = await fitting(
    (tasks) => sql<TaskRow[]>`${taskColumns(tx)} ${listed(taskTables(tx, tasks))} ${order} limit ${pageSize + 1}`,
    { order, most: nearby, enough: (got) => got.length > pageSize },
  );
  const page = rows.slice(0, pageSize);
  const last = page[page.length - 1];
  const counted = async () => {
    const bound = await tomorrow(tx, me);
    if (rows.length <= pageSize) return countsOf(page, now, bound);
    const [counts] = await fitting(
      (tasks) => sql<{ all: number; stopped: number; late: number; today: number }[]>`
        select least(count(*), ${mostCounted})::int as all, count(*) filter (where stopped)::int as stopped,
               count(*) filter (where not stopped and due < ${now})::int as late,
               count(*) filter (where not stopped and due >= ${now} and due < ${bound})::int as today
        from (select bool_or(rank = 0) as stopped, min(due) as due
              from (select t.stream, t.rank, t.due ${barely(tasks)} ${order} limit ${nearbyCounted}) read
              group by stream) documents`,
      { order, most: nearbyCounted, enough: ([got]) => got?.all === mostCounted },
    );
    return counts ?? null;
  };
  return {
    rows: page,
    next: rows.length > pageSize && last ? cursorOf(last.rank, last.sort, last.key) : null,
    counts: after ? null : await counted(),
  };
}

/** Somebody else's task in a circulation that this person controls. */
export interface WaitRow {
  readonly circulation: string;
  readonly person: string;
  readonly doing: Doing;
  readonly seat: string;
  readonly since: number;
  readonly due: number | null;
  readonly number: string;
  readonly title: string;
}

/**
 * What the Desk shows beside somebody's tasks: what they wanted to come back to by now, for whom they wait, and documents
 * they have yet to complete.
 */
export async function deskPage(tx: Tx, actor: Member, administers: boolean) {
  const { sql, organization } = tx;
  const me = actor.person;
  const incomplete = await sql<{ record: string; number: string; title: string; changed: number }[]>`
    select record, number, title, changed from register
    where organization = ${organization} and owner = ${me} and not complete order by changed desc limit 50`;
  const waits = await sql<WaitRow[]>`
    select c.id as circulation, t.person, t.doing, t.seat, t.since, t.due, r.number, r.title
    from circulation c
    join task t on t.organization = c.organization and t.stream = c.stream and t.person <> ${me}
    join register r on r.organization = c.organization and r.record = c.record
    where c.organization = ${organization} and c.controller = ${me} and c.ended is null
    order by t.sort, t.since limit 100`;
  // A second holder is not a response of its own.
  const late = await sql<TaskRow[]>`
    select * from (
      select distinct on (own.circulation, own.seat) own.* from (${taskColumns(tx)} ${taskTables(tx)}
        where c.organization = ${organization} and c.controller = ${me} and c.ended is null and t.person <> ${me}
          and t.seat <> '' and t.due < ${tx.now}) own
      order by own.circulation, own.seat, own.since) seats
    order by due, circulation, seat limit 50`;
  const back = await backNow(tx, actor);
  const steps = await firstSteps(tx, administers);
  return { back, incomplete: [...incomplete], waits: [...waits], late: [...late], steps };
}
