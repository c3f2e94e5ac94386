import { system } from '@/core/circulation/run/events';
import type { Task } from '@/core/circulation/telling/tasks';
import type { Verb } from '@/core/route/verbs';
import { type Notice, nextNotice } from '@/core/time/reminders';
import { act } from '../circulation/act';
import { circulationState } from '../circulation/load';
import { sendWrite, type Tx } from '../db/connect';
import { type PresenceOf, presencesOf } from '../organization/presences';
import { Refused } from '../refused';

/** How many tasks are looked at in one transaction. */
const batch = 200;
/** What comes to the same person within the hour goes out with what is due for them now. */
const gathered = 3_600_000;
/** Where a task stands that has nothing more to be told. */
const never = 8_640_000_000_000_000;

interface Row {
  readonly circulation: string;
  readonly key: string;
  readonly seat: string;
  readonly person: string;
  readonly doing: Verb;
  readonly documentType: string;
  readonly controller: string;
  readonly silence: NonNullable<Task['silence']>;
}

/** The next notice about a task, and whom it goes to. */
function noticeOf(row: Row, presence: PresenceOf, now: number): (Notice & { person: string }) | null {
  const { plan, ...silence } = row.silence;
  const third = plan.third?.person ?? null;
  const notice = nextNotice(
    plan,
    silence,
    {
      holder: presence(row.person, { verb: row.doing, type: row.documentType }),
      controller: presence(row.controller),
      third: third === null ? null : presence(third),
    },
    now,
  );
  if (!notice) return null;
  const whom: { readonly [T in Notice['to']]: string | null } = {
    holder: row.person,
    controller: row.controller,
    third,
  };
  const person = whom[notice.to];
  return person === null ? null : { ...notice, person };
}

const named = (rows: readonly Row[]) => [
  ...new Set(rows.flatMap((row) => [row.person, row.controller, row.silence.plan.third?.person ?? row.controller])),
];

function keep(tx: Tx, row: Row, notice: (Notice & { person: string }) | null): void {
  sendWrite(tx.sql`
    update task set notice_at = ${notice?.at ?? never}, notice_to = ${notice?.person ?? ''}
    where organization = ${tx.organization} and key = ${row.key}`);
}

/** Finds out when the next notice of each task is that has changed. Gives how many there were. */
export async function scheduleNotices(tx: Tx): Promise<number> {
  const rows = await tx.sql<Row[]>`
    select c.id as circulation, t.key, t.seat, t.person, t.doing, r.document_type, c.controller, t.silence from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record
    where t.organization = ${tx.organization} and t.notice_at is null and t.silence is not null
    limit ${batch} for update of t skip locked`;
  const presence = await presencesOf(tx, named(rows));
  for (const row of rows) keep(tx, row, noticeOf(row, presence, tx.now));
  return rows.length;
}

/** To whom something has to be said now. */
export async function toBeTold(tx: Tx): Promise<string[]> {
  const rows = await tx.sql<{ noticeTo: string }[]>`
    select distinct notice_to from task where organization = ${tx.organization} and notice_at <= ${tx.now} limit 50`;
  return rows.map(({ noticeTo }) => noticeTo);
}

/**
 * Gives one person everything that is due for them, and what would be within the hour: each recorded for its own point, so
 * that nothing is said twice. Looked at again now, because people, calendars and absences may have changed since.
 */
export async function giveNotices(tx: Tx, person: string): Promise<number> {
  const rows = await tx.sql<Row[]>`
    select c.id as circulation, t.key, t.seat, t.person, t.doing, r.document_type, c.controller, t.silence from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record
    where t.organization = ${tx.organization} and t.notice_to = ${person} and t.notice_at <= ${tx.now + gathered}
    order by t.notice_at limit ${batch} for update of t skip locked`;
  const presence = await presencesOf(tx, named(rows));
  const found = rows.map((row) => ({ row, notice: noticeOf(row, presence, tx.now) }));
  const due = found.some(({ notice }) => notice !== null && notice.at <= tx.now && notice.person === person);
  let given = 0;
  for (const { row, notice } of found) {
    const goes = due && notice !== null && notice.person === person && notice.at <= tx.now + gathered;
    if (goes && (await give(tx, row, notice))) given += 1;
    else keep(tx, row, notice);
  }
  return given;
}

/** Records one notice; false where the task has moved on since. */
async function give(
  tx: Tx,
  { circulation, seat }: Row,
  { to, point, person }: Notice & { person: string },
): Promise<boolean> {
  const epoch = (await circulationState(tx, circulation))?.seats.get(seat)?.epoch ?? 0;
  try {
    const { events } = await act(tx, circulation, { type: 'giveNotice', seat, epoch, to, person, point }, system);
    return events.some(({ type }) => type === 'seat.reminded' || type === 'seat.lateTold');
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}
