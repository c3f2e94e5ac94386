import { type Circulation, type Comment, presentFields } from '@/core/circulation/run/state';
import { type FieldValue, valueFaults } from '@/core/page/fields';
import { isPositive, type Outcome } from '@/core/route/verbs';
import { wallClock } from '@/core/time/zone';
import { personNamed } from '../admin/people';
import { act } from '../circulation/act';
import { circulationState } from '../circulation/load';
import { keptSpot } from '../circulation/spot';
import type { Tx } from '../db/connect';
import { putPayload, putPayloadIfAny } from '../events/payloads';
import type { Caller, LinkActor } from '../operations/operation';
import type { SpotGiven } from '../operations/pieces';
import { refuse } from '../refused';
import { needSettable } from './mark';

interface SigningInput {
  readonly seat: string;
  readonly epoch: number;
  readonly scope: string;
  readonly outcome: Outcome;
  readonly note: string | null;
  readonly values: Readonly<Record<string, FieldValue>>;
}

/** Who, from where and how known: kept beside the trail and printed on the evidence sheet. */
export interface SigningEvidence {
  readonly address: string;
  readonly agent: string;
  readonly identified: string;
}

/** The threads that somebody outside began. */
export function ownThreads(state: Circulation, person: string): Comment[] {
  return [...state.comments.values()].filter((comment) => !comment.thread && comment.by === person);
}

/** A comment through a link: while its seat is asked, on what is open to it, and answers only in threads of its own. */
export async function commentFromPage(
  tx: Tx,
  link: LinkActor,
  input: {
    readonly comment: string;
    readonly thread: string | null;
    readonly file: string;
    readonly spot: SpotGiven | null;
    readonly note: string;
  },
): Promise<void> {
  const threads = await threadsOf(tx, link);
  if (input.thread && !threads.includes(input.thread)) refuse('not-found');
  const said = { spot: keptSpot(tx, input.spot), note: putPayload(tx, input.note) };
  await act(tx, link.circulation, { type: 'comment', ...input, ...said }, link.person);
}

/** Resolves a thread that somebody outside began, or opens it again, while their seat is asked. */
export async function settleFromPage(tx: Tx, link: LinkActor, comment: string, resolved: boolean): Promise<void> {
  if (!(await threadsOf(tx, link)).includes(comment)) refuse('not-found');
  await act(tx, link.circulation, { type: resolved ? 'resolveComment' : 'reopenComment', comment }, link.person);
}

/** The threads of whoever has the link, while its seat is asked; refuses when it is not. */
async function threadsOf(tx: Tx, link: LinkActor): Promise<string[]> {
  const state = await circulationState(tx, link.circulation);
  const seat = state?.seats.get(link.seat);
  if (!state || !seat) refuse('not-found');
  if (seat.status !== 'asked' || state.phase !== 'running') refuse('comment-closed');
  return ownThreads(state, link.person).map((thread) => thread.id);
}

/** Decides a seat from its page: checks what was filled in, keeps values and evidence as payloads, then acts. */
export async function decideFromPage(
  tx: Tx,
  circulation: string,
  input: SigningInput,
  actor: { readonly person: string; readonly outside: boolean },
  caller: Caller,
): Promise<void> {
  const state = await circulationState(tx, circulation);
  if (!state) refuse('not-found');
  const filled: { field: string; value: string }[] = [];
  if (input.outcome === 'signed') {
    const fields = presentFields(state).filter((field) => field.seat === input.seat);
    const values = new Map<string, FieldValue>(Object.entries(input.values));
    const fault = valueFaults(fields, values)[0];
    if (fault) refuse('values-unfit', { field: fault.field, why: fault.code });
    // The day of signing is the day on which it is signed, in the signer's zone.
    const signer = await personNamed(tx, actor.person);
    const today = wallClock(signer?.zone ?? 'UTC', tx.now).slice(0, 10);
    for (const field of fields) if (field.kind === 'signedOn') values.set(field.id, { kind: 'day', day: today });
    for (const [field, value] of values) {
      if ('text' in value) needSettable(value.text, field);
      filled.push({ field, value: putPayload(tx, JSON.stringify(value)) });
    }
  }
  const person = await personNamed(tx, actor.person);
  const evidence: SigningEvidence = {
    address: caller.address,
    agent: caller.agent.slice(0, 300),
    identified: actor.outside
      ? `a link of their own, sent to ${person?.email ?? 'their address'}`
      : 'own account (signed in)',
  };
  const { seat, epoch, scope, outcome } = input;
  await act(
    tx,
    circulation,
    {
      type: 'decide',
      seat,
      epoch,
      scope,
      outcome,
      note: putPayloadIfAny(tx, input.note),
      filled,
      evidence: isPositive(outcome) ? putPayload(tx, JSON.stringify(evidence)) : null,
    },
    actor.person,
  );
}
