import { setTimeout as sleep } from 'node:timers/promises';
import { system } from '@/core/circulation/run/events';
import { organizations } from '../admin/setup';
import { act } from '../circulation/act';
import { readCirculations } from '../circulation/load';
import { releaseByItself } from '../circulation/releaseJob';
import { inOrganization, listen, notify, type Tx } from '../db/connect';
import { renderVersion } from '../drafting/renderJob';
import { learnFromEnded } from '../forecast/learn';
import { forecastDue } from '../forecast/make';
import { log } from '../log';
import { composeMail, type Deliver, type MailJob } from '../mail/send';
import { beginAbsence } from '../organization/absences';
import { giveNotices, scheduleNotices, toBeTold } from '../reminders/notices';
import { settings } from '../settings';
import { keepFinalFiles } from '../signing/finalJob';
import { keepFrozenFile } from '../signing/freezeJob';
import { giveDigests } from '../telling/told';
import { clearAway } from './clear';
import type { Job, JobData, JobKind } from './queue';

const minute = 60_000;
/** How many timers a worker looks for, how many circulations it wakes in one transaction, and in how many of them at a time. */
const waking = { most: 500, together: 25, lanes: 2 } as const;
const day = 24 * 60 * minute;

/** What each hand of the worker does: none of them waits for another. */
const hands: Readonly<Record<'mail' | 'files' | 'acts', readonly JobKind[]>> = {
  mail: ['mail'],
  files: ['render', 'freeze', 'derive'],
  acts: ['release', 'absence'],
};
/** How many jobs of one organization a hand does before the next organization has its turn. */
const turn = { mail: 20, files: 1, acts: 20 } as const;
export type Hand = keyof typeof hands;

/**
 * Whether a job that failed is given up. Mail is tried for five days, as long as a mail server would (RFC 5321, 4.5.4.1);
 * a text that cannot be rendered is its author's to change; a frozen or final file is tried for ever, because nobody could
 * do anything else about it, and what keeps it from being made (a full disk) passes.
 */
function givenUp(job: Job, now: number): boolean {
  if (job.kind === 'mail') return now - job.created > 5 * day;
  return job.kind === 'render' && job.attempts >= 8;
}

/**
 * Takes the next job of these kinds that is due, so that nobody else does. Its lease is written before it runs: should
 * this process end in the middle, the job is taken again, and every job is written so that running twice changes nothing.
 */
async function takeJob(organization: string, kinds: readonly JobKind[], at?: number): Promise<Job | null> {
  return inOrganization(
    organization,
    async (tx) => {
      const [job] = await tx.sql<Job[]>`
        update job set attempts = attempts + 1, run_at = ${tx.now + settings().leaseSeconds * 1000}
        where organization = ${organization} and id = (
          select id from job where organization = ${organization} and state = 'waiting' and run_at <= ${tx.now}
            and kind = any(${kinds as JobKind[]})
          order by run_at, created limit 1 for update skip locked)
        returning id, kind, data, attempts, created, run_at`;
      return job ?? null;
    },
    { at },
  );
}

/**
 * Takes the other messages to the same person that go out in one with this. What was tried together is tried again
 * together and with nothing new: a message that was sent and not noted is known for the same one, whole.
 */
async function takeAlike(
  organization: string,
  { id, data, attempts, runAt }: Extract<Job, { kind: 'mail' }>,
  at?: number,
): Promise<readonly MailJob[]> {
  return inOrganization(
    organization,
    (tx) => tx.sql<MailJob[]>`
      update job set attempts = attempts + 1, run_at = ${runAt}
      where organization = ${organization} and id in (
        select id from job where organization = ${organization} and state = 'waiting' and kind = 'mail' and id <> ${id}
          and ${attempts === 1 ? tx.sql`attempts = 0` : tx.sql`attempts > 0`} and run_at <= ${tx.now} and data ->> 'person' = ${data.person} and data ->> 'gather' = 'true'
        order by created limit 50 for update skip locked)
      returning id, created, data`,
    { at },
  );
}

/** Tells of what a job did; what had failed, or failed now, is told on the page of what it belongs to. */
function tellOf(tx: Tx, job: Job, failed: boolean): void {
  notify(tx, 'job', job.kind);
  if (!failed) return;
  if ('circulation' in job.data && job.data.circulation) notify(tx, 'circulation', job.data.circulation);
  if ('template' in job.data && job.data.template === 'invitation') notify(tx, 'people');
}

async function runJob(organization: string, job: Job, deliver: Deliver | null, at?: number): Promise<void> {
  const options = { at };
  const also: MailJob[] = [];
  const together = () => [job.id, ...also.map(({ id }) => id)];
  try {
    if (job.kind === 'mail') {
      if (job.data.gather) also.push(...(await takeAlike(organization, job, at)));
      // In the order in which they came, so that the same ones make the same message whichever was taken first.
      const all = [job, ...also].sort((a, b) => a.created - b.created || (a.id < b.id ? -1 : 1));
      const message = await composeMail(organization, all as [MailJob, ...MailJob[]], options);
      if (message && deliver) await deliver(message);
    } else if (job.kind === 'render') await renderVersion(organization, job.data, options);
    else if (job.kind === 'freeze') await keepFrozenFile(organization, job.data, options);
    else if (job.kind === 'derive') await keepFinalFiles(organization, job.data, options);
    else if (job.kind === 'absence') await absenceBegins(organization, job.data, options);
    else await releaseByItself(organization, job.data, options);
    await inOrganization(
      organization,
      async (tx) => {
        await tx.sql`
          update job set state = 'done', error = null where organization = ${organization} and id = any(${together()})`;
        tellOf(tx, job, job.attempts > 1);
      },
      options,
    );
  } catch (error) {
    await inOrganization(
      organization,
      async (tx) => {
        const over = givenUp(job, tx.now);
        log.warn(
          { job: job.id, kind: job.kind, attempts: job.attempts, error: String(error) },
          over ? 'a job failed for good' : 'a job failed and is tried again',
        );
        // Pauses grow: 5 s, 10 s, 20 s ... up to an hour.
        const pause = Math.min(60 * minute, 5000 * 2 ** Math.min(job.attempts - 1, 20));
        await tx.sql`
        update job set state = ${over ? 'failed' : 'waiting'}, run_at = ${tx.now + pause}, error = ${String(error).slice(0, 500)}
        where organization = ${organization} and id = any(${together()})`;
        tellOf(tx, job, true);
      },
      options,
    );
  }
}

/** Runs what is due for a hand in one organization, at most so many jobs. Gives how many there were. */
export async function takeTurn(
  organization: string,
  hand: Hand,
  deliver: Deliver | null,
  most: number = turn[hand],
  at?: number,
): Promise<number> {
  if (hand === 'mail' && !deliver) return 0;
  for (let count = 0; ; count += 1) {
    const job = count < most ? await takeJob(organization, hands[hand], at) : null;
    if (!job) return count;
    await runJob(organization, job, deliver, at);
  }
}

/** Runs everything that is due in one organization. Gives how much there was. */
export async function workOff(organization: string, deliver: Deliver | null, at?: number): Promise<number> {
  let count = 0;
  for (;;) {
    const done =
      (await takeTurn(organization, 'files', deliver, 1000, at)) +
      (await takeTurn(organization, 'acts', deliver, 1000, at)) +
      (await takeTurn(organization, 'mail', deliver, 1000, at));
    if (done === 0) return count;
    count += done;
  }
}

/** Reminds whoever is silent, and tells of those who stay so. Gives how much there was to do. */
export async function giveDueNotices(organization: string): Promise<number> {
  const options = {};
  let done = await inOrganization(organization, scheduleNotices, options);
  for (const person of await inOrganization(organization, toBeTold, options))
    done += await inOrganization(organization, (tx) => giveNotices(tx, person), options);
  return done;
}

/** Tells whoever covers, and lets the circulations in which somebody away has a task catch up. */
async function absenceBegins(
  organization: string,
  { absence }: JobData['absence'],
  options: { at?: number | undefined },
) {
  const { wake } = await inOrganization(organization, (tx) => beginAbsence(tx, absence), options);
  for (const circulation of wake)
    await inOrganization(organization, (tx) => act(tx, circulation, { type: 'wake' }, system), options);
}

/** Wakes every circulation whose timer has come; the command itself applies what is due. Gives how many there were. */
export async function wakeDue(organization: string): Promise<number> {
  const timers = await inOrganization(
    organization,
    (tx) => tx.sql<{ circulation: string }[]>`
    select c.id as circulation from timer t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    where t.organization = ${organization} and t.at <= ${tx.now} order by t.at limit ${waking.most}`,
  );
  const due = [...new Set(timers.map(({ circulation }) => circulation))];
  const wake = (circulations: readonly string[]) =>
    inOrganization(organization, async (tx) => {
      const mine = await tx.sql<{ circulation: string }[]>`
        select c.id as circulation from timer t
        join circulation c on c.organization = t.organization and c.stream = t.stream
        where t.organization = ${organization} and c.id = any(${circulations as string[]}) and t.at <= ${tx.now}
        for update of t skip locked`;
      const ids = [...new Set(mine.map(({ circulation }) => circulation))];
      await readCirculations(tx, ids);
      // Nothing is still asked of the transaction when it ends because one of them has failed.
      const woken = await Promise.allSettled(ids.map((id) => act(tx, id, { type: 'wake' }, system)));
      const failed = woken.find((one) => one.status === 'rejected');
      if (failed) throw failed.reason;
    });
  // Many in one transaction share its way to the disk, and while one waits for it another is decided. Of those among which
  // one fails each is woken by itself; the one that fails is left for the next time, and told.
  const left: string[][] = [];
  for (let at = 0; at < due.length; at += waking.together) left.push(due.slice(at, at + waking.together));
  const faults: unknown[] = [];
  const lane = async () => {
    for (let next = left.pop(); next !== undefined; next = left.pop()) {
      const together = next;
      await wake(together).catch(async (error) => {
        if (together.length === 1) faults.push(error);
        else for (const one of together) await wake([one]).catch((fault) => faults.push(fault));
      });
    }
  };
  await Promise.all(Array.from({ length: waking.lanes }, lane));
  if (faults.length > 0) throw faults[0];
  return due.length;
}

/**
 * Works until it is stopped, each hand by itself: timers, mail, files, what follows by itself, clearing away. Woken by notifications, and by the
 * clock for those that were missed. Organizations take turns, so that nobody waits for another one's backlog.
 */
export async function workUntil(stopped: AbortSignal, deliver: Deliver | null): Promise<void> {
  const sleepers = new Set<() => void>();
  const wake = () => {
    for (const wakeUp of sleepers) wakeUp();
  };
  const quiet = [
    await listen('avenda_job', wake, wake),
    await listen('avenda_change', (payload) => payload.includes('"topic":"clock"') && wake(), wake),
  ];
  const hand = async (work: (organization: string) => Promise<number>, pauseMs: number): Promise<void> => {
    while (!stopped.aborted) {
      let done = 0;
      const fault = (error: unknown, organization: string | null) =>
        log.error(
          { organization, error: error instanceof Error ? error.stack : String(error) },
          'the worker met a fault',
        );
      // A database that cannot be reached is a fault like others: the worker stays and asks again.
      const all = await organizations().catch((error) => {
        fault(error, null);
        return [];
      });
      for (const organization of all) {
        if (stopped.aborted) break;
        done += await work(organization).catch((error) => {
          fault(error, organization);
          return 0;
        });
      }
      if (done > 0) continue;
      const pause = new AbortController();
      const wakeUp = () => pause.abort();
      sleepers.add(wakeUp);
      await sleep(pauseMs, undefined, { signal: AbortSignal.any([stopped, pause.signal]) }).catch(() => {});
      sleepers.delete(wakeUp);
    }
  };
  await Promise.all([
    hand(wakeDue, 2000),
    hand((organization) => takeTurn(organization, 'mail', deliver), 2000),
    hand((organization) => takeTurn(organization, 'files', deliver), 2000),
    hand((organization) => takeTurn(organization, 'acts', deliver), 2000),
    hand(giveDueNotices, 15_000),
    hand((organization) => inOrganization(organization, giveDigests), 60_000),
    hand(learnFromEnded, 15_000),
    hand(forecastDue, 3000),
    hand(clearAway, 10 * minute),
  ]);
  for (const stop of quiet) await stop();
}
