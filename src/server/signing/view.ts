import { allowed, offers } from '@/core/circulation/acts/offers';
import { fileUse } from '@/core/circulation/run/fileUse';
import { nameable } from '@/core/circulation/run/naming';
import {
  baseHolder,
  closesOf,
  decidesOn,
  decisionOf,
  dueOf,
  filesOf,
  newest,
  presentFields,
  scopeOf,
  seatsOfStage,
  stagePlanOf,
} from '@/core/circulation/run/state';
import { inReadingOrder } from '@/core/page/fields';
import { isPositive, verbFacts } from '@/core/route/verbs';
import { peopleNamed } from '../admin/people';
import { profileOf } from '../admin/profile';
import { contextOf } from '../circulation/context';
import { circulationState, recordState } from '../circulation/load';
import { shownSpot } from '../circulation/spot';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import { factsOf } from '../files/store';
import { receiptDays } from './receipt';
import { ownThreads } from './sign';

const day = 86_400_000;

/** What the page of one seat shows to its holder: the documents, their own fields, and how things stand. */
export async function seatView(tx: Tx, circulation: string, seatId: string, person: string) {
  const state = await circulationState(tx, circulation);
  const seat = state?.seats.get(seatId);
  const stage = seat && state?.stages.get(seat.stage);
  if (!state || !seat || !stage) return null;
  const record = await recordState(tx, state.records[0] ?? '');
  const profile = await profileOf(tx);
  const version = newest(state);
  const plan = stagePlanOf(state, seat);
  const decision = decisionOf(state, seat);
  const open = seat.status === 'asked' && state.phase === 'running';
  // Somebody outside sees what they said themselves and what was answered, not what others say among each other.
  const threads = open ? ownThreads(state, person) : [];
  const shown = [...state.comments.values()].filter(
    (comment) => threads.includes(comment) || threads.some((thread) => thread.id === comment.thread),
  );
  const questions = [...state.questions.values()].filter((one) => one.seat === seatId && one.by === person);
  const notes = await payloads(tx, [
    ...questions.flatMap(({ note, answer }) => [note, answer?.note]),
    state.note,
    decision?.note,
    ...shown.flatMap((comment) => [comment.note, comment.spot?.quote]),
  ]);
  const toName = nameable(state, seat);
  const onWhat = decidesOn(state, seat);
  const people = await peopleNamed(tx, [
    state.controller,
    person,
    ...toName.flatMap((other) => baseHolder(other)?.person ?? []),
    ...shown.map((comment) => comment.by),
    ...onWhat.values.flatMap(({ value }) => (value?.kind === 'person' ? [value.person] : [])),
  ]);
  const context = await contextOf(tx, state, person);
  const asker = people.get(state.controller);
  const me = people.get(person);
  const files = version ? filesOf(state, seat.id, version) : [];
  const signs = verbFacts[plan.verb].signs;
  // Whoever signs reads the frozen file, whose fields are theirs to fill.
  const served = (id: string, content: string) => (signs ? (state.frozen.get(id)?.file ?? content) : content);
  const documents = files.filter((file) => file.role === 'document');
  const facts = await factsOf(
    tx,
    documents.map((file) => file.file),
  );
  const finals = state.finals?.files ?? [];
  return {
    circulation,
    seat: seat.id,
    epoch: seat.epoch,
    verb: plan.verb,
    status: seat.status,
    phase: state.phase,
    organization: profile.name,
    zone: profile.zone,
    asker: asker ? { name: asker.name, email: asker.email, work: asker.work } : null,
    me: me
      ? {
          id: me.id,
          name: me.name,
          email: me.email,
          work: me.work,
          company: me.company,
          tile: me.tile,
          zone: me.zone,
        }
      : null,
    title: record?.title ?? '',
    number: record?.number ?? '',
    revision: record?.changes.find((change) => change.id === state.change)?.revision ?? '',
    note: noteIn(notes, state.note),
    asked: seat.since,
    due: dueOf(state, seat),
    closes: closesOf(state, seat),
    /** How the stage of the seat goes on, for the plain words about it. */
    stage: {
      rule: plan.rule,
      order: plan.order,
      gathers: plan.onReturn === 'gather',
      of: seatsOfStage(state, stage).filter((other) => !other.gone).length,
    },
    /** The group of which any member may respond, and whether one of them has taken it. */
    group:
      seat.group === null
        ? null
        : {
            name: context.groups.get(seat.group)?.name ?? '',
            taken: seat.holders.some((holder) => holder.via === 'taken'),
          },
    /** Whose holder is named from here, and who that is so far. */
    names: toName.map((other) => ({
      seat: other.id,
      verb: stagePlanOf(state, other).verb,
      person: baseHolder(other)?.person ?? null,
      // Somebody outside gave an address, and is shown no name behind it.
      address: people.get(baseHolder(other)?.person ?? '')?.email ?? null,
    })),
    /** What they asked from here, and what was answered. */
    questions: questions.map(({ id, at, note, answer }) => ({
      id,
      at,
      text: noteIn(notes, note),
      answer: answer && { at: answer.at, text: noteIn(notes, answer.note) },
    })),
    paused: state.paused,
    use: fileUse(state, person, context),
    progress: {
      done: seatsOfStage(state, stage).filter((other) => other.status === 'decided').length,
      of: stage.seats.length,
    },
    decision: decision && {
      outcome: decision.outcome,
      at: decision.at,
      note: noteIn(notes, decision.note),
    },
    /** What the holder may do now. */
    offers: allowed(offers(state, context))
      .filter((offer) => offer.on === seat.id)
      .map(({ act, needs }) => ({ act, needs })),
    // Nothing of the documents leaves through a seat that is not asked: a receipt says how things stand.
    content:
      open && version
        ? {
            version: version.number,
            scope: scopeOf(state, seat) ?? '',
            decidesOn: {
              ...onWhat,
              // Somebody outside looks up nobody.
              values: onWhat.values.map(({ name, value }) => ({
                name,
                value:
                  value?.kind === 'person'
                    ? { kind: 'party' as const, text: people.get(value.person)?.name ?? '' }
                    : value,
              })),
            },
            documents: documents.map((file) => ({
              id: file.id,
              name: file.name,
              content: file.file,
              file: served(file.id, file.file),
              pages: facts.get(file.file)?.pages ?? [],
            })),
            attachments: files
              .filter((file) => file.role === 'attachment')
              .map(({ file, name, bytes, mediaType }) => ({ file, name, bytes, mediaType })),
          }
        : null,
    comments: shown.map((comment) => ({
      ...comment,
      by: people.get(comment.by)?.name ?? '',
      spot: shownSpot(notes, comment.spot),
      note: noteIn(notes, comment.note),
    })),
    fields: open && signs ? inReadingOrder(presentFields(state).filter((field) => field.seat === seat.id)) : [],
    copies:
      state.phase === 'completed' && decision && isPositive(decision.outcome) && state.ended !== null
        ? {
            files: documents.flatMap((file) => {
              const final = finals.find((candidate) => candidate.id === file.id);
              return final ? [{ file: final.file, name: file.name }] : [];
            }),
            until: state.ended + receiptDays * day,
            open: tx.now <= state.ended + receiptDays * day,
          }
        : null,
  };
}

export type SeatView = NonNullable<Awaited<ReturnType<typeof seatView>>>;
