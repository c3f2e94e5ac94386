import { nextPresent } from '@/core/time/presence';
import { nextDayBegins } from '@/core/time/zone';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { enqueue } from '../jobs/queue';
import { presencesOf } from '../organization/presences';

/** What of a row is written when it is told; that it was read, and which digest it stands in, comes later. */
const toldRows = table<{
  readonly id: string;
  readonly person: string;
  readonly circulation: string | null;
  readonly at: number;
  readonly text: string;
  readonly path: string;
  readonly here: boolean;
  readonly digestAt: number | null;
}>('told', {
  id: 'value',
  person: 'value',
  circulation: 'value',
  at: 'value',
  text: 'value',
  path: 'value',
  here: 'value',
  digestAt: 'value',
});

/** How many are shown at a time. */
const most = 100;

/** One thing that somebody was told, in the words of then. */
export interface Told {
  readonly id: string;
  readonly at: number;
  readonly text: string;
  /** The page it leads to, within the application. */
  readonly path: string;
  readonly circulation: string | null;
  readonly read: boolean;
}

/**
 * Keeps what a job tells somebody in the application or in their next digest. Keeping it twice changes nothing: a job that
 * was broken off in the middle runs again.
 */
export async function tell(
  tx: Tx,
  job: string,
  told: {
    readonly person: string;
    readonly circulation: string | null;
    readonly text: string;
    readonly path: string;
    readonly here: boolean;
    readonly digest: boolean;
  },
): Promise<void> {
  const { person, circulation, text, path, here, digest } = told;
  const digestAt = digest ? await nextDigest(tx, person) : null;
  sendWrite(tx.sql`
    ${toldRows.insert(tx, [{ id: job, person, circulation, at: tx.now, text, path, here, digestAt }])}
    on conflict do nothing`);
  if (here) notify(tx, 'told', person, [person]);
}

/** When somebody's next digest goes: as their next working day begins. */
async function nextDigest(tx: Tx, person: string): Promise<number> {
  const presence = (await presencesOf(tx, [person]))(person);
  const tomorrow = nextDayBegins(presence.axis.zone, tx.now);
  return nextPresent(presence, tomorrow) ?? tomorrow;
}

/** Sends the digests whose time has come, one mail to each. Gives how many there were. */
export async function giveDigests(tx: Tx): Promise<number> {
  const { sql, organization, now } = tx;
  const rows = await sql<{ id: string; person: string }[]>`
    select id, person from told where organization = ${organization} and digest is null and digest_at <= ${now}
    order by person, at for update skip locked`;
  const people = [...new Set(rows.map(({ person }) => person))];
  for (const person of people) {
    const job = enqueue(tx, 'mail', { template: 'digest', person });
    const items = rows.filter((row) => row.person === person).map(({ id }) => id);
    sendWrite(sql`
      update told set digest = ${job} where organization = ${organization} and id = any(${items})`);
  }
  return people.length;
}

/** What a digest tells, as it was when it happened. */
export async function inDigest({ sql, organization }: Tx, job: string): Promise<readonly Told[]> {
  return sql<Told[]>`
    select id, at, text, path, circulation, read is not null as read from told
    where organization = ${organization} and digest = ${job} order by circulation, at, id`;
}

/** What somebody was told in the application, the newest first: what they have not put away, or all of it. */
export async function toldTo(
  { sql, organization }: Tx,
  person: string,
  all: boolean,
): Promise<{ readonly rows: readonly Told[]; readonly fresh: number }> {
  const rows = await sql<Told[]>`
    select id, at, text, path, circulation, read is not null as read from told
    where organization = ${organization} and person = ${person} and here and ${all ? sql`true` : sql`read is null`}
    order by at desc, id desc limit ${most}`;
  const [count] = await sql<{ fresh: number }[]>`
    select count(*)::int as fresh from told
    where organization = ${organization} and person = ${person} and here and read is null`;
  return { rows, fresh: count?.fresh ?? 0 };
}

/** Puts away what somebody was told up to an instant. */
export function putAway(tx: Tx, person: string, until: number): void {
  const { sql, organization, now } = tx;
  sendWrite(sql`
    update told set read = ${now}
    where organization = ${organization} and person = ${person} and here and read is null and at <= ${until}`);
  notify(tx, 'told', person, [person]);
}
