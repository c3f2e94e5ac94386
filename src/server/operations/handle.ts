import Joi from 'joi';
import { type Actor, inScope, may } from '@/core/access/may';
import { type Refusal, type RefusalCode, refusal } from '@/core/refusals';
import { canonical, type Json } from '@/core/trail/canonical';
import { hashOf } from '@/core/trail/sha256';
import { linkActor, organizationOfHandle } from '../auth/links';
import { asMember } from '../auth/sessions';
import { type Change, type Entering, inOrganization, sendWrite, type Tx, topicOf } from '../db/connect';
import { log } from '../log';
import { Refused, refuse } from '../refused';
import { normalized, withinBounds } from './input';
import { type Caller, type InsideOperation, type LinkActor, type Member, type Operation, sessionOf } from './operation';
import { statusOf } from './statuses';

/** What a handled operation answers; the edges turn it into HTTP. */
export type Answer =
  | { readonly ok: true; readonly status: 200; readonly value: unknown; readonly changed: readonly string[] }
  | {
      readonly ok: false;
      readonly status: number;
      readonly refusal: Refusal;
    };

/** The answer of a refusal. */
export function refusedAnswer(refused: Refusal): Answer {
  return { ok: false, status: statusOf(refused.code), refusal: refused };
}

export function refusedWith(code: RefusalCode, facts: Refusal['facts'] = {}): Answer {
  return refusedAnswer(refusal(code, facts));
}

const commandId = Joi.string().guid({ version: 'uuidv4' }).required();
const bounds = { depth: 24, members: 400_000 };

/** The input of an operation as its schema takes it; a refusal for what it does not take. */
function inputOf({ input }: Operation, raw: object): unknown {
  if (!withinBounds(raw, bounds)) refuse('too-large');
  const clean = normalized(raw);
  if (!clean) refuse('unwritable-text');
  const { value, error } = input.schema.validate(clean.value, { convert: true, abortEarly: true });
  if (!error) return value;
  const facts = { field: error.details[0]?.path.join('.') ?? '' };
  throw new Refused({ code: 'bad-input', sentence: sentenceFor(error), facts });
}

/** Runs one operation for a caller: input, rights, command id, the use case, and every refusal as an answer. */
export async function handle(operation: Operation, raw: unknown, caller: Caller): Promise<Answer> {
  try {
    const { commandId: id, ...rest } = (typeof raw === 'object' && raw !== null ? raw : {}) as Record<string, unknown>;
    if (operation.kind === 'command' && operation.who !== 'anyone') {
      const { error } = commandId.validate(id);
      if (error) refuse('bad-input', { field: 'commandId' });
    }
    const input = inputOf(operation, rest);
    if (operation.who === 'anyone')
      return { ok: true, status: 200, value: (await operation.run(input, caller)) ?? null, changed: [] };
    const command = operation.kind === 'command' ? (id as string) : undefined;
    const changes: Change[] = [];
    if (caller.by.kind === 'token') refuse(operation.public ? 'token-unknown' : 'not-public');
    const value =
      operation.who === 'member'
        ? await asPerson(operation, input, command, caller, changes)
        : await throughLink(operation, input, command, caller, changes);
    return { ok: true, status: 200, value, changed: changes.map(topicOf) };
  } catch (error) {
    if (error instanceof Refused) return refusedAnswer(error.refusal);
    log.error(
      { operation: operation.name, error: error instanceof Error ? error.stack : String(error) },
      'an operation failed',
    );
    return refusedWith('fault');
  }
}

/**
 * Answers several questions of a member at one moment, with the rights that each has; null for who is not signed in, and
 * undefined in the place of what is refused. `more` goes on with what was answered, at the same moment.
 */
export async function answerTogether<T>(
  questions: readonly { readonly operation: Operation; readonly input: object }[],
  caller: Caller,
  more: (tx: Tx, member: Member, answers: readonly unknown[]) => Promise<T>,
): Promise<T | null> {
  return asMember(
    sessionOf(caller),
    async (tx, member) => {
      const answer = async ({ operation, input }: (typeof questions)[number]) => {
        if (operation.who !== 'member' || operation.kind !== 'query')
          throw new Error(`${operation.name} is no question`);
        const run = async () => {
          const given = inputOf(operation, input);
          await allow(operation, tx, given, member);
          return operation.run(tx, given, member, caller, undefined);
        };
        return run().catch((error) => {
          if (error instanceof Refused) return undefined;
          throw error;
        });
      };
      return more(tx, member, await Promise.all(questions.map(answer)));
    },
    { reads: true },
  );
}

/** What the pages call the fields of inputs, so that a refusal names a field as its reader sees it. */
const fieldNames: Readonly<Record<string, string>> = {
  author: 'Author',
  before: 'Current password',
  closes: 'Closes',
  code: 'Code from the console',
  company: 'Company',
  documentType: 'Type',
  due: 'Due',
  email: 'Email address',
  filter: 'Filter',
  label: 'Label',
  name: 'Name',
  note: 'Message',
  organization: 'Name of your organization',
  owner: 'Owner',
  password: 'Password',
  people: 'People',
  prefix: 'Prefix of document numbers',
  reason: 'Reason',
  scheme: 'Numbering',
  text: 'Text',
  title: 'Title',
  type: 'Code',
  work: 'Job title',
  zone: 'Time zone',
};

function sentenceFor(error: Joi.ValidationError): string {
  const detail = error.details[0];
  const key = String(detail?.path.findLast((part) => typeof part === 'string') ?? detail?.context?.label ?? '');
  const field = fieldNames[key] ?? key;
  const limit = detail?.context?.limit;
  if (detail?.type === 'zone.unknown') return detail.message;
  if (detail?.type === 'string.max' || detail?.type === 'array.max') return `“${field}” is too long; at most ${limit}.`;
  if (detail?.type === 'string.min') return `“${field}” is too short; at least ${limit} characters.`;
  if (detail?.type === 'any.required' || detail?.type === 'string.empty') return `“${field}” is missing.`;
  return `“${field}” does not have the right form.`;
}

async function asPerson(
  operation: InsideOperation<'member'>,
  input: unknown,
  command: string | undefined,
  caller: Caller,
  changes: Change[],
): Promise<unknown> {
  const entering = { command, page: caller.page, reads: operation.kind === 'query' };
  let prepared: unknown;
  if (operation.prepare) {
    // What is prepared is for somebody who may do it, and for a command that was not answered before.
    const before = await asMember(
      sessionOf(caller),
      async (tx, member) => {
        await allow(operation, tx, input, member);
        return { organization: tx.organization, member, answered: tx.answered !== null };
      },
      entering,
    );
    if (!before) refuse('signed-out');
    if (!before.answered) prepared = await operation.prepare(before.organization, input, before.member);
  }
  // Boxed, because a query may answer null, which is not the same as nobody being there.
  const answer = await asMember(
    sessionOf(caller),
    async (tx, member) => [await perform(operation, tx, input, member, command, caller, prepared, changes)],
    entering,
  );
  return (answer ?? refuse('signed-out'))[0];
}

async function throughLink(
  operation: InsideOperation<'link'>,
  input: unknown,
  command: string | undefined,
  caller: Caller,
  changes: Change[],
): Promise<unknown> {
  const { by } = caller;
  const organization = by.kind === 'link' ? organizationOfHandle(by.handle) : null;
  if (by.kind !== 'link' || !organization) refuse('link-unknown');
  return inOrganization(
    organization,
    async (tx) => perform(operation, tx, input, await linkActor(tx, by), command, caller, undefined, changes),
    { command, page: caller.page, reads: operation.kind === 'query' } satisfies Entering,
  );
}

type Inside<A> = A extends Member ? InsideOperation<'member'> : InsideOperation<'link'>;

async function allow<A extends Member | LinkActor>(
  operation: Inside<A>,
  tx: Tx,
  input: unknown,
  actor: A,
): Promise<void> {
  if (!inScope(actor, operation.public?.scope ?? null)) refuse('not-public');
  const claim = await operation.claim(tx, input, actor as never);
  if (!claim) refuse('not-found');
  if (may(actor, claim.action, claim.subject)) return;
  const looks = mayLook(actor, claim.subject);
  if (!looks) await claim.refuseFormer?.();
  // Whether something exists is itself not told to those who may not see it.
  refuse(looks ? 'not-allowed' : 'not-found');
}

function mayLook(actor: Actor, subject: Parameters<typeof may>[2]): boolean {
  if (subject.kind === 'circulation') return may(actor, 'circulation.read', subject);
  if (subject.kind === 'draft') return may(actor, 'draft.read', subject);
  return true;
}

async function perform<A extends Member | LinkActor>(
  operation: Inside<A>,
  tx: Tx,
  input: unknown,
  actor: A,
  command: string | undefined,
  caller: Caller,
  prepared: unknown,
  changes: Change[],
): Promise<unknown> {
  await allow(operation, tx, input, actor);
  const run = () => operation.run(tx, input, actor as never, caller, prepared as never);
  const value =
    command === undefined
      ? ((await run()) ?? null)
      : await once(tx, command, hashOf(canonical([operation.name, actor.person, input as Json])), run);
  const unfit = operation.public?.answer.validate(value, { convert: false }).error;
  if (unfit) throw new Error(`${operation.name} answers what its schema does not hold: ${unfit.message}`);
  const undeclared = tx.changes.find((change) => !operation.changes?.includes(change.topic));
  if (undeclared) throw new Error(`${operation.name} changes ${undeclared.topic} and does not say so`);
  changes.splice(0, changes.length, ...tx.changes);
  return value;
}

/** Applies a command once: the same id again gives the first answer, with other content a refusal. */
async function once(tx: Tx, id: string, content: string, run: () => Promise<unknown>): Promise<unknown> {
  if (tx.answered) {
    if (tx.answered.content !== content) refuse('command-reused');
    return JSON.parse(tx.answered.answer);
  }
  const value = (await run()) ?? null;
  sendWrite(
    tx.sql`
    insert into command (organization, id, content, answer, at)
    values (${tx.organization}, ${id}, ${content}, ${JSON.stringify(value)}, ${tx.now})`,
  );
  return value;
}
