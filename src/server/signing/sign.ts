import type { Actor } from '@/core/access/may';
import { isPositive, type Outcome } from '@/core/circulation/events';
import {
  type Circulation,
  decisionOf,
  mainFile,
  newest,
  type SeatState,
  scopeOf,
  seatAt,
  stageOf,
} from '@/core/circulation/state';
import { type FieldValue, inReadingOrder, valueFaults } from '@/core/page/fields';
import { personNamed } from '../admin/people';
import { act } from '../circulation/act';
import { circulationState, recordState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { payloads, putPayload, putPayloadIfAny } from '../events/streams';
import { findFile } from '../files/store';
import type { Caller } from '../operations/operation';
import type { CommentInput } from '../operations/schemas';
import { refuse } from '../refused';

/** How long after release the copy can still be fetched through the receipt. */
export const receiptDays = 30;
const day = 86_400_000;

export interface SigningInput {
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

/** A comment through a link: while its seat is asked, on what is open to it, and answers only in threads of its own. */
export async function commentFromPage(
  tx: Tx,
  link: Extract<Actor, { kind: 'link' }>,
  input: CommentInput,
): Promise<void> {
  const state = await circulationState(tx, link.circulation);
  const seat = state && seatAt(state, link.seat);
  if (!state || !seat) refuse('not-found');
  if (seat.status !== 'asked' || state.phase !== 'running') refuse('comment-closed');
  if (input.thread && !ownThreads(state, link.person).some((thread) => thread.id === input.thread)) refuse('not-found');
  const note = await putPayload(tx, input.note);
  await act(tx, link.circulation, { type: 'comment', ...input, note }, link.person);
}

function ownThreads(state: Circulation, person: string): Circulation['comments'] {
  return state.comments.filter((comment) => !comment.thread && comment.by === person);
}

/** Decides a seat from the Signing page: checks what was filled in, sets values and evidence aside, then acts. */
export async function decideFromPage(
  tx: Tx,
  circulation: string,
  input: SigningInput,
  actor: { person: string; outside: boolean },
  caller: Caller,
): Promise<void> {
  const state = await circulationState(tx, circulation);
  if (!state) refuse('not-found');
  const filled: { field: string; value: string }[] = [];
  if (input.outcome === 'signed') {
    const fields = state.fields.filter((field) => field.seat === input.seat);
    const values = new Map(Object.entries(input.values));
    const fault = valueFaults(fields, values)[0];
    if (fault) refuse('values-unfit', { field: fault.field, why: fault.code });
    for (const [field, value] of values) filled.push({ field, value: await putPayload(tx, JSON.stringify(value)) });
  }
  const person = await personNamed(tx, actor.person);
  const evidence: SigningEvidence = {
    address: caller.address,
    agent: caller.agent.slice(0, 300),
    identified: actor.outside
      ? `a link of their own, sent to ${person?.email ?? 'their address'}`
      : 'signed in with their own account',
  };
  await act(
    tx,
    circulation,
    {
      type: 'decide',
      seat: input.seat,
      epoch: input.epoch,
      scope: input.scope,
      outcome: input.outcome,
      note: await putPayloadIfAny(tx, input.note),
      filled,
      evidence: isPositive(input.outcome) ? await putPayload(tx, JSON.stringify(evidence)) : null,
    },
    actor.person,
  );
}

/** What the Signing page shows to the holder of one seat: the document, their own places, and how things stand. */
export async function seatView(tx: Tx, circulation: string, seatId: string, person: string) {
  const state = await circulationState(tx, circulation);
  const seat = state && seatAt(state, seatId);
  if (!state || !seat) return null;
  const record = await recordState(tx, state.record);
  const [profile] = await tx.sql<
    { name: string; zone: string }[]
  >`select name, zone from profile where organization = ${tx.organization}`;
  const asker = await personNamed(tx, state.controller);
  const me = await personNamed(tx, person);
  const version = newest(state);
  const stage = stageOf(state, seat);
  const decision = decisionOf(state, seat);
  const others = stage.seats.map((at) => state.seats[at] as SeatState);
  const open = seat.status === 'asked' && state.phase === 'running';
  // Somebody outside sees what they said themselves and what was answered, not what others say among each other.
  const threads = open ? ownThreads(state, person) : [];
  const said = state.comments.filter(
    (comment) => threads.includes(comment) || threads.some((thread) => thread.id === comment.thread),
  );
  const note = await payloads(tx, [state.note, decision?.note, ...said.map((comment) => comment.note)]);
  const people = new Map<string, string>();
  for (const by of new Set(said.map((comment) => comment.by))) people.set(by, (await personNamed(tx, by))?.name ?? '');
  const stored = version && open ? await findFile(tx, mainFile(version)) : null;
  return {
    circulation,
    seat: seat.id,
    epoch: seat.epoch,
    verb: stage.plan.verb,
    status: seat.status,
    phase: state.phase,
    organization: profile?.name ?? '',
    zone: profile?.zone ?? 'UTC',
    asker: asker && { name: asker.name, email: asker.email, work: asker.work },
    me: me && {
      id: me.id,
      name: me.name,
      email: me.email,
      work: me.work,
      company: me.company,
      tile: me.tile,
      zone: me.zone,
    },
    title: record?.title ?? '',
    number: record?.number ?? '',
    note: state.note ? (note.get(state.note) ?? null) : null,
    asked: seat.since,
    due: seat.due,
    closes: seat.closes,
    progress: { done: others.filter((other) => other.status === 'decided').length, of: others.length },
    decision: decision && {
      outcome: decision.outcome,
      at: decision.at,
      note: decision.note ? (note.get(decision.note) ?? null) : null,
    },
    // Nothing of the document leaves through a seat that is not asked: a receipt says how things stand.
    document:
      open && version
        ? {
            version: version.number,
            scope: scopeOf(version),
            file: mainFile(version),
            pages: stored?.facts.pages ?? [],
            attachments: version.files.filter((file) => file.role === 'attachment'),
          }
        : null,
    comments: said.map((comment) => ({
      ...comment,
      by: people.get(comment.by) ?? '',
      note: note.get(comment.note) ?? null,
    })),
    fields:
      open && stage.plan.verb === 'sign' ? inReadingOrder(state.fields.filter((field) => field.seat === seat.id)) : [],
    copy:
      state.phase === 'completed' && state.final && decision && isPositive(decision.outcome) && state.ended !== null
        ? {
            file: state.final.file,
            until: state.ended + receiptDays * day,
            open: tx.now <= state.ended + receiptDays * day,
          }
        : null,
  };
}

export type SeatView = NonNullable<Awaited<ReturnType<typeof seatView>>>;
