import { setTimeout as sleep } from 'node:timers/promises';
import { system } from '@/core/circulation/events';
import { organizations } from '../admin/setup';
import { act } from '../circulation/act';
import { inOrganization, listen, type Tx } from '../db/connect';
import { renderVersion } from '../drafting/renderJob';
import { hint } from '../events/streams';
import { log } from '../log';
import { type Deliver, writeLetter } from '../mail/send';
import { settings } from '../settings';
import { keepFinalFile } from '../signing/finalJob';
import type { Job } from './queue';

const minute = 60_000;
const day = 24 * 60 * minute;

/**
 * Whether a job that failed is given up. Mail is tried for five days, as long as a mail server would (RFC 5321, 4.5.4.1);
 * a text that cannot be rendered is its author's to change; a final file is tried for ever, because nobody could do
 * anything else about it, and what keeps it from being made (a full disk) passes.
 */
function givenUp(job: Job, now: number): boolean {
  if (job.kind === 'mail') return now - job.created > 5 * day;
  return job.kind === 'render' && job.attempts >= 8;
}

/**
 * Takes the next job that is due, so that nobody else does. Its lease is written before it runs: should this process
 * end in the middle, the job is taken again, and every job is written so that running twice changes nothing.
 */
async function takeJob(organization: string, withMail: boolean, at?: number): Promise<Job | null> {
  return inOrganization(
    organization,
    async (tx) => {
      const [job] = await tx.sql<Job[]>`
        update job set attempts = attempts + 1, run_at = ${tx.now + settings().leaseSeconds * 1000}
        where organization = ${organization} and id = (
          select id from job where organization = ${organization} and state = 'waiting' and run_at <= ${tx.now}
            ${withMail ? tx.sql`` : tx.sql`and kind <> 'mail'`}
          order by run_at, created limit 1 for update skip locked)
        returning id, kind, data, attempts, created`;
      return job ?? null;
    },
    at === undefined ? {} : { at },
  );
}

/** Hints at what a job did; what had failed, or failed now, is told on the page of what it belongs to. */
function tellOf(tx: Tx, job: Job, failed: boolean): void {
  hint(tx, `job ${job.kind}`);
  if (!failed) return;
  if ('circulation' in job.data) hint(tx, `circulation ${job.data.circulation}`);
  if ('template' in job.data && job.data.template === 'invitation') hint(tx, 'people');
}

async function runJob(organization: string, job: Job, deliver: Deliver | null, at?: number): Promise<void> {
  const options = at === undefined ? {} : { at };
  try {
    if (job.kind === 'mail') {
      const letter = await writeLetter(organization, job.id, job.data, options);
      if (letter && deliver) await deliver(letter);
    } else if (job.kind === 'render') await renderVersion(organization, job.data, options);
    else await keepFinalFile(organization, job.data, options);
    await inOrganization(
      organization,
      async (tx) => {
        await tx.sql`update job set state = 'done', error = null where organization = ${organization} and id = ${job.id}`;
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
        where organization = ${organization} and id = ${job.id}`;
        tellOf(tx, job, true);
      },
      options,
    );
  }
}

/** Runs everything that is due in one organization. Gives how much there was. */
export async function workOff(organization: string, deliver: Deliver | null, at?: number): Promise<number> {
  let count = 0;
  for (;;) {
    const job = await takeJob(organization, deliver !== null, at);
    if (!job) return count;
    await runJob(organization, job, deliver, at);
    count += 1;
  }
}

/** Wakes every circulation whose timer has come; the command itself applies what is due. */
export async function wakeDue(organization: string): Promise<number> {
  const due = await inOrganization(
    organization,
    (tx) => tx.sql<{ circulation: string }[]>`
    select distinct circulation from timer where organization = ${organization} and at <= ${tx.now} limit 200`,
  );
  for (const { circulation } of due)
    await inOrganization(organization, async (tx) => {
      const [mine] = await tx.sql`
        select 1 from timer where organization = ${organization} and circulation = ${circulation} and at <= ${tx.now}
        limit 1 for update skip locked`;
      if (mine) await act(tx, circulation, { type: 'wake' }, system);
    });
  return due.length;
}

/** Works until it is stopped: woken by hints, and by the clock for those that were missed. */
export async function workUntil(stopped: AbortSignal, deliver: Deliver | null): Promise<void> {
  let woken = () => {};
  const quiet = await listen('avenda_job', () => woken());
  const quietChanges = await listen('avenda_change', (payload) => {
    if (payload.endsWith('clock')) woken();
  });
  while (!stopped.aborted) {
    let done = 0;
    const fault = (error: unknown, organization: string | null) =>
      log.error(
        { organization, error: error instanceof Error ? error.stack : String(error) },
        'the worker met a fault',
      );
    // A database that cannot be reached is a fault like others: the worker stays and asks again.
    for (const organization of await organizations().catch((error) => {
      fault(error, null);
      return [];
    })) {
      try {
        done += (await wakeDue(organization)) + (await workOff(organization, deliver));
      } catch (error) {
        fault(error, organization);
      }
    }
    if (done > 0) continue;
    const pause = new AbortController();
    woken = () => pause.abort();
    await sleep(2000, undefined, { signal: AbortSignal.any([stopped, pause.signal]) }).catch(() => {});
  }
  await quiet();
  await quietChanges();
}
