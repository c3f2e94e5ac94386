import type { CirculationEvent } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import { keepable } from '@/core/circulation/round';
import {
  currentScope,
  decisionOf,
  newest,
  type SeatState,
  scopeOf,
  seatsWithoutField,
  stageNodes,
  stageOf,
  stopsOf,
} from '@/core/circulation/state';
import { fieldsWanted, tasksOf } from '@/core/circulation/tasks';
import { changeInWork, comingRevision } from '@/core/record/record';
import { lineOf } from '@/core/line/line';
import type { Tx } from '../db/connect';
import { payloads, readStream } from '../events/streams';
import { circulationStream, recordState } from './load';

/** A message that could not be delivered, or a final file that could not be made: so far, or for good. */
interface Trouble {
  readonly kind: 'mail' | 'derive';
  readonly person: string | null;
  readonly over: boolean;
  /** When it is tried again. */
  readonly again: number;
}

/** Everything the pages of one circulation show, with the words that stand aside filled in. */
export async function circulationView(tx: Tx, id: string) {
  const stream = await readStream<CirculationEvent>(tx, circulationStream(id));
  const state = fold(stream.events);
  if (!state) return null;
  const record = await recordState(tx, state.record);
  const change = record?.changes.find((candidate) => candidate.id === state.change);
  const note = await payloads(tx, [
    state.note,
    change?.reason,
    ...state.decisions.map((decision) => decision.note),
    ...state.comments.map((comment) => comment.note),
    ...stream.events.map(noteIn),
  ]);
  const said = (hash: string | null | undefined) => (hash ? (note.get(hash) ?? null) : null);
  const withdrawal = stream.events.findLast((event) => event.type === 'circulation.withdrawn');
  const decisionView = (seat: SeatState) => {
    const decision = decisionOf(state, seat);
    return (
      decision && {
        outcome: decision.outcome,
        by: decision.by,
        onBehalfOf: decision.onBehalfOf,
        at: decision.at,
        round: decision.round,
        version: decision.version,
        note: said(decision.note),
      }
    );
  };
  const hashes = state.versions.flatMap((version) => version.files.map((file) => file.file));
  const facts = hashes.length
    ? await tx.sql<{ hash: string; facts: { pages?: { width: number; height: number }[] } }[]>`
        select hash, facts from file where organization = ${tx.organization} and hash = any(${hashes})`
    : [];
  const troubles = await tx.sql<Trouble[]>`
    select kind, data ->> 'person' as person, state = 'failed' as over, run_at as again from job
    where organization = ${tx.organization} and data ->> 'circulation' = ${id} and error is not null and attempts > 1
    order by created`;
  const pages = new Map(facts.map((row) => [row.hash, row.facts.pages ?? null]));
  return {
    id,
    number: state.number,
    record: {
      id: state.record,
      number: record?.number ?? '',
      title: record?.title ?? '',
      kind: record?.kind ?? '',
      complete: record?.complete ?? true,
    },
    change: state.change,
    revision: state.revision ?? (change?.revision || (record ? comingRevision(record) : '')),
    inWork: record ? changeInWork(record)?.circulation === id : false,
    reason: said(change?.reason),
    controller: state.controller,
    author: state.author,
    phase: state.phase,
    round: state.round,
    created: state.created,
    sent: state.sent,
    ended: state.ended,
    withdrawn:
      withdrawal?.type === 'circulation.withdrawn' ? { note: said(withdrawal.data.note), at: withdrawal.at } : null,
    note: said(state.note),
    route: state.route,
    line: lineOf(state.route, state, tx.now),
    stages: stageNodes(state).map((node) => ({
      id: node.plan.id,
      verb: node.plan.verb,
      order: node.plan.order,
      rule: node.plan.rule,
      delegate: node.plan.delegate,
      status: node.status,
      stuck: node.stuck,
      due: node.due,
      closes: node.closes,
      since: node.since,
      ended: node.ended,
      seats: node.seats.map((at) => (state.seats[at] as SeatState).id),
    })),
    seats: state.seats.map((seat) => ({
      id: seat.id,
      stage: stageOf(state, seat).plan.id,
      verb: stageOf(state, seat).plan.verb,
      holder: seat.holder,
      secondHolders: seat.secondHolders,
      outside: seat.outside,
      epoch: seat.epoch,
      status: seat.status,
      since: seat.since,
      due: seat.due,
      closes: seat.closes,
      seen: seat.seen,
      reminded: seat.reminded,
      kept: seat.kept,
      keepable: keepable(state, seat),
      decision: decisionView(seat),
    })),
    versions: state.versions.map((version) => ({
      ...version,
      scope: scopeOf(version),
      pages: pages.get(version.files.find((file) => file.role === 'main')?.file ?? '') ?? [],
      at:
        stream.events.find((event) => event.type === 'version.attached' && event.data.version.number === version.number)
          ?.at ?? state.created,
    })),
    scope: currentScope(state),
    newest: newest(state)?.number ?? null,
    fields: state.fields,
    fieldsOn: state.fieldsOn,
    fieldsWanted: fieldsWanted(state),
    seatsWithoutField: seatsWithoutField(state),
    frozen: state.frozen,
    final: state.final,
    rework: state.rework && { ...state.rework, note: state.rework.seat ? reworkNote(state.rework.seat) : null },
    plan: state.plan,
    decisions: state.decisions.length,
    stops: stopsOf(state),
    troubles: [...troubles],
    tasks: tasksOf(state),
    comments: state.comments.map((comment) => ({ ...comment, note: said(comment.note) })),
    trail: stream.events.map((event, i) => ({
      sequence: i + 1,
      type: event.type,
      at: event.at,
      actor: event.actor,
      onBehalfOf: event.onBehalfOf,
      data: event.data,
      note: said(noteIn(event)),
    })),
  };

  function reworkNote(seat: string): string | null {
    const decision = state?.decisions.findLast(
      (candidate) => candidate.seat === seat && candidate.outcome === 'returned',
    );
    return said(decision?.note);
  }
}

/** The words that an event points to. */
function noteIn(event: CirculationEvent): string | null {
  return 'note' in event.data ? event.data.note : null;
}

export type CirculationView = NonNullable<Awaited<ReturnType<typeof circulationView>>>;
