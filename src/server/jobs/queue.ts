import type { MessageKind } from '@/core/circulation/telling/messages';
import type { Way } from '@/core/circulation/telling/preferences';
import type { FreezeWanted } from '@/core/circulation/telling/tasks';
import type { Outcome } from '@/core/route/verbs';
import { sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { newId } from '../random';

/** What can be left to a worker. A job names things by their ids; addresses and links are looked up when it runs. */
export interface JobData {
  readonly mail: {
    readonly template: MailTemplate;
    readonly person: string;
    readonly circulation?: string;
    readonly seat?: string;
    readonly epoch?: number;
    readonly note?: string | null;
    /** Who did what it tells, as it was then. */
    readonly by?: string;
    /** What they responded, and which stage it is about. */
    readonly outcome?: Outcome;
    readonly stage?: string;
    /** How it reaches them, where that is not by mail alone. */
    readonly ways?: readonly Way[];
    /** Whether it goes out in one with others to the same person. */
    readonly gather?: boolean;
    /** The absence that it tells of, or whose. */
    readonly absence?: string;
    readonly about?: string;
  };
  /** What happens when somebody's absence begins. */
  readonly absence: { readonly absence: string };
  readonly render: {
    readonly record: string;
    readonly change: string;
    readonly number: number;
    readonly submit: boolean;
    readonly actor: string;
  };
  /** Lays a file's fields on it before it is signed. */
  readonly freeze: { readonly circulation: string } & FreezeWanted;
  /** Makes the final files. */
  readonly derive: { readonly circulation: string };
  /** Releases by itself what nothing keeps any more. */
  readonly release: { readonly circulation: string };
}

export type MailTemplate =
  | MessageKind
  | 'write'
  | 'invitation'
  | 'password'
  | 'newLinkWanted'
  | 'awaySet'
  | 'awayEnded'
  | 'coverSet'
  | 'coverBegins'
  | 'coverEnded'
  | 'coverLost'
  | 'digest';

export type JobKind = keyof JobData;

export type Job = {
  readonly [K in JobKind]: {
    readonly id: string;
    readonly kind: K;
    readonly data: JobData[K];
    readonly attempts: number;
    readonly created: number;
    /** Until when whoever took it has it for themselves. */
    readonly runAt: number;
  };
}[JobKind];

/** What of a job is written when it is left; how it stands comes later. */
const jobs = table<Pick<Job, 'id' | 'kind' | 'data' | 'runAt' | 'created'>>('job', {
  id: 'value',
  kind: 'value',
  data: 'json',
  runAt: 'value',
  created: 'value',
});

/** Leaves work to a worker, in the transaction of what caused it: both happen or neither. Gives the job's id. */
export function enqueue<K extends JobKind>(tx: Tx, kind: K, data: JobData[K], runAt = tx.now): string {
  const job = newId();
  sendWrite(jobs.insert(tx, [{ id: job, kind, data, runAt, created: tx.now }]));
  tx.wakes.worker = true;
  return job;
}
