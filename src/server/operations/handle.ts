import Joi from 'joi';
import { type Actor, may } from '@/core/access/may';
import { canonical, type Json } from '@/core/trail/canonical';
import { hashOf } from '@/core/trail/sha256';
import { openLink, organizationOfHandle } from '../auth/links';
import { asMember } from '../auth/sessions';
import { circulationState } from '../circulation/load';
import { inOrganization, sendWrite, type Tx } from '../db/connect';
import { log } from '../log';
import { Refused, refuse } from '../refused';
import type { Caller, InsideOperation, Operation } from './operation';

/** What a handled operation answers; the edges turn it into HTTP. */
export type Answer =
  | { readonly ok: true; readonly status: 200; readonly value: unknown }
  | {
      readonly ok: false;
      readonly status: number;
      readonly refusal: { readonly code: string; readonly sentence: string; readonly facts: object };
    };

/** The HTTP status of each refusal; what is not listed is a conflict with how things stand. */
const statuses: Readonly<Record<string, number>> = {
  'not-found': 404,
  'no-such-seat': 404,
  'no-such-stage': 404,
  'no-such-comment': 404,
  'no-such-file': 404,
  'record-not-found': 404,
  'unknown-person': 404,
  'link-unknown': 404,
  'link-moved': 410,
  'link-stale': 410,
  'file-unknown': 404,
  'not-allowed': 403,
  'not-controller': 403,
  'not-author': 403,
  'not-holder': 403,
  'other-origin': 403,
  'wrong-code': 403,
  'signed-out': 401,
  'wrong-sign-in': 401,
  'too-often': 429,
  'too-large': 413,
  'bad-input': 422,
  'weak-password': 422,
  'reason-missing': 422,
  'fields-unfit': 422,
  'fields-missing': 422,
  'values-unfit': 422,
  'time-past': 422,
  'closes-before-due': 422,
  'file-not-pdf': 422,
  'empty-file': 422,
  'not-what-it-says': 422,
  'pdf-encrypted': 422,
  'pdf-broken': 422,
  'pdf-empty': 422,
  'pdf-too-hard': 422,
  preflight: 422,
};

export function refusedAnswer(code: string, sentence: string, facts: object = {}): Answer {
  return { ok: false, status: statuses[code] ?? 409, refusal: { code, sentence, facts } };
}

const commandId = Joi.string().guid({ version: 'uuidv4' }).required();

/** Who can put an operation inside an organization. */
type Acting = Extract<Actor, { kind: 'member' | 'link' }>;

/** Runs one operation for a caller: input, rights, command id, the use case, and every refusal as an answer. */
export async function handle(operation: Operation, raw: unknown, caller: Caller): Promise<Answer> {
  try {
    const { commandId: id, ...rest } = (typeof raw === 'object' && raw !== null ? raw : {}) as Record<string, unknown>;
    if (operation.kind === 'command' && operation.where !== 'door') {
      const { error } = commandId.validate(id);
      if (error) refuse('bad-input', { field: 'commandId' });
    }
    const { value: input, error } = operation.input.validate(rest, { convert: true, abortEarly: true });
    if (error) return refusedAnswer('bad-input', sentenceFor(error), { field: error.details[0]?.path.join('.') ?? '' });
    if (operation.where === 'door')
      return { ok: true, status: 200, value: (await operation.run(input, caller)) ?? null };
    return { ok: true, status: 200, value: await inside(operation, input, id as string | undefined, caller) };
  } catch (error) {
    if (error instanceof Refused) return refusedAnswer(error.code, error.message, error.facts);
    log.error(
      { operation: operation.name, error: error instanceof Error ? error.stack : String(error) },
      'an operation failed',
    );
    return {
      ok: false,
      status: 500,
      refusal: {
        code: 'fault',
        sentence: 'Something went wrong on our side. Nothing was changed; please try again.',
        facts: {},
      },
    };
  }
}

function sentenceFor(error: Joi.ValidationError): string {
  const detail = error.details[0];
  const field = detail?.context?.label ?? '';
  const limit = detail?.context?.limit;
  if (detail?.type === 'string.max' || detail?.type === 'array.max') return `“${field}” is too long; at most ${limit}.`;
  if (detail?.type === 'any.required' || detail?.type === 'string.empty') return `“${field}” is missing.`;
  return `“${field}” is not as it should be.`;
}

async function inside(
  operation: InsideOperation<unknown, unknown>,
  input: unknown,
  id: string | undefined,
  caller: Caller,
): Promise<unknown> {
  const command = operation.kind === 'command' ? id : undefined;
  const act = async (tx: Tx, actor: Acting): Promise<unknown> => {
    const claim = await operation.access(tx, actor, input);
    if (!claim) refuse('not-found');
    if (!may(actor, claim.action, claim.subject))
      // Whether something exists is itself not told to those who may not see it.
      refuse(
        claim.subject.kind === 'circulation' && !may(actor, 'circulation.read', claim.subject)
          ? 'not-found'
          : 'not-allowed',
      );
    const run = () => operation.run(tx, input, actor, caller);
    return command === undefined
      ? ((await run()) ?? null)
      : once(tx, command, hashOf(canonical([operation.name, actor.person, input as Json])), run);
  };
  if (operation.where === 'member')
    // Boxed, because a query may answer null, which is not the same as nobody being there.
    return ((await asMember(caller.sessionCookie, async (tx, member) => [await act(tx, member)], command)) ??
      refuse('signed-out'))[0];
  const organization = caller.handle ? organizationOfHandle(caller.handle) : null;
  if (!organization) refuse('link-unknown');
  return inOrganization(organization, async (tx) => act(tx, await linkActor(tx, caller)), { command });
}

/** Applies a command once: the same id again gives the first answer, with other content a refusal. */
async function once(tx: Tx, id: string, content: string, run: () => Promise<unknown>): Promise<unknown> {
  if (tx.answered) {
    if (tx.answered.content !== content) refuse('command-reused');
    return JSON.parse(tx.answered.answer);
  }
  const value = (await run()) ?? null;
  sendWrite(
    tx,
    tx.sql`
    insert into command (organization, id, content, answer, at)
    values (${tx.organization}, ${id}, ${content}, ${JSON.stringify(value)}, ${tx.now})`,
  );
  return value;
}

/** The actor behind a link, when its code is right; the seat may have moved on since, which the use case tells. */
async function linkActor(tx: Tx, caller: Caller): Promise<Acting> {
  const link = caller.handle && caller.sessionCookie ? await openLink(tx, caller.handle, caller.sessionCookie) : null;
  if (!link) refuse('link-unknown');
  const state = await circulationState(tx, link.circulation);
  const at = state?.index.get(link.seat);
  const seat = at === undefined ? undefined : state?.seats[at];
  if (!seat) refuse('link-unknown');
  if (seat.epoch !== link.epoch || !seat.outside) refuse('link-moved');
  return {
    kind: 'link',
    person: seat.holder,
    circulation: link.circulation,
    seat: link.seat,
    epoch: link.epoch,
  };
}
