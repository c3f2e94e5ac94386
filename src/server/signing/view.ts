import { type FileSight, isSeen, receiptDays } from '@/core/access/sight';
import { allowed, offers } from '@/core/circulation/acts/offers';
import type { Context } from '@/core/circulation/run/context';
import { nameable } from '@/core/circulation/run/naming';
import type { SeatRun, StageRun } from '@/core/circulation/run/shapes';
import {
  baseHolder,
  type Circulation,
  type Comment,
  closesOf,
  decidesOn,
  decisionOf,
  dueOf,
  filesOf,
  grownFile,
  newest,
  presentFields,
  type Question,
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
import { sightInCirculation } from '../files/access';
import { factsOf } from '../files/store';
import type { LinkActor, Member } from '../operations/operation';
import { ownThreads } from './sign';

const day = 86_400_000;

/** What the page of one seat shows to its holder: the documents, their own fields, and how things stand. */
export async function seatView(tx: Tx, circulation: string, seatId: string, actor: Member | LinkActor) {
  const look = await lookAt(tx, circulation, seatId, actor);
  if (!look) return null;
  const { state, seat, notes, people, context } = look;
  const decision = decisionOf(state, seat);
  return {
    circulation,
    ...(await headOf(look)),
    ...standingOf(look),
    /** Whose holder is named from here, and who that is so far. */
    names: nameable(state, seat).map((other) => ({
      seat: other.id,
      verb: stagePlanOf(state, other).verb,
      person: baseHolder(other)?.person ?? null,
      // Somebody outside gave an address, and is shown no name behind it.
      address: people.get(baseHolder(other)?.person ?? '')?.email ?? null,
    })),
    /** What they asked from here, and what was answered. */
    questions: look.questions.map(({ id, at, note, answer }) => ({
      id,
      at,
      text: noteIn(notes, note),
      answer: answer && { at: answer.at, text: noteIn(notes, answer.note) },
    })),
    decision: decision && { outcome: decision.outcome, at: decision.at, note: noteIn(notes, decision.note) },
    /** What the holder may do now. */
    offers: allowed(offers(state, context))
      .filter((offer) => offer.on === seat.id)
      .map(({ act, needs }) => ({ act, needs })),
    content: await contentOf(look),
    comments: look.comments.map((comment) => ({
      ...comment,
      by: people.get(comment.by)?.name ?? '',
      spot: shownSpot(notes, comment.spot),
      note: noteIn(notes, comment.note),
    })),
    fields:
      look.open && look.signs ? inReadingOrder(presentFields(state).filter((field) => field.seat === seat.id)) : [],
    copies: copiesOf(look),
  };
}

/** One look at a seat by its holder, and what was looked up for all parts of what is shown. */
interface Look {
  readonly tx: Tx;
  readonly state: Circulation;
  readonly seat: SeatRun;
  readonly stage: StageRun;
  readonly person: string;
  readonly context: Context;
  /** What they may do with each file, by its content. */
  readonly sight: ReadonlyMap<string, FileSight>;
  /** Whether they are asked now, and whether for a signature. */
  readonly open: boolean;
  readonly signs: boolean;
  readonly comments: readonly Comment[];
  readonly questions: readonly Question[];
  readonly decides: ReturnType<typeof decidesOn>;
  readonly notes: Awaited<ReturnType<typeof payloads>>;
  readonly people: Awaited<ReturnType<typeof peopleNamed>>;
}

async function lookAt(tx: Tx, circulation: string, seatId: string, actor: Member | LinkActor): Promise<Look | null> {
  const { person } = actor;
  const state = await circulationState(tx, circulation);
  const seat = state?.seats.get(seatId);
  const stage = seat && state?.stages.get(seat.stage);
  if (!state || !seat || !stage) return null;
  const open = seat.status === 'asked' && state.phase === 'running';
  // Somebody outside sees what they said themselves and what was answered, not what others say among each other.
  const threads = open ? ownThreads(state, person) : [];
  const comments = [...state.comments.values()].filter(
    (comment) => threads.includes(comment) || threads.some((thread) => thread.id === comment.thread),
  );
  const questions = [...state.questions.values()].filter((one) => one.seat === seatId && one.by === person);
  const notes = await payloads(tx, [
    ...questions.flatMap(({ note, answer }) => [note, answer?.note]),
    state.note,
    decisionOf(state, seat)?.note,
    ...comments.flatMap((comment) => [comment.note, comment.spot?.quote]),
  ]);
  const decides = decidesOn(state, seat);
  const people = await peopleNamed(tx, [
    state.controller,
    person,
    ...nameable(state, seat).flatMap((other) => baseHolder(other)?.person ?? []),
    ...comments.map((comment) => comment.by),
    ...decides.values.flatMap(({ value }) => (value?.kind === 'person' ? [value.person] : [])),
  ]);
  const context = await contextOf(tx, state, person);
  const { signs } = verbFacts[stagePlanOf(state, seat).verb];
  const sight = await sightInCirculation(tx, circulation, state, actor, context);
  return { tx, state, seat, stage, person, context, sight, open, signs, comments, questions, decides, notes, people };
}

/** Who asks whom about what. */
async function headOf({ tx, state, seat, person, notes, people }: Look) {
  const record = await recordState(tx, state.records[0] ?? '');
  const profile = await profileOf(tx);
  const asker = people.get(state.controller);
  const me = people.get(person);
  return {
    seat: seat.id,
    epoch: seat.epoch,
    verb: stagePlanOf(state, seat).verb,
    organization: profile.name,
    zone: profile.zone,
    asker: asker ? { name: asker.name, email: asker.email, work: asker.work } : null,
    me: me
      ? { id: me.id, name: me.name, email: me.email, work: me.work, company: me.company, tile: me.tile, zone: me.zone }
      : null,
    title: record?.title ?? '',
    number: record?.number ?? '',
    revision: record?.changes.find((change) => change.id === state.change)?.revision ?? '',
    note: noteIn(notes, state.note),
  };
}

/** How things stand with the seat and its stage. */
function standingOf({ state, seat, stage, context }: Look) {
  const plan = stagePlanOf(state, seat);
  const there = seatsOfStage(state, stage);
  return {
    status: seat.status,
    phase: state.phase,
    asked: seat.since,
    due: dueOf(state, seat),
    closes: closesOf(state, seat),
    /** How the stage of the seat goes on, for the plain words about it. */
    stage: {
      rule: plan.rule,
      order: plan.order,
      gathers: plan.onReturn === 'gather',
      of: there.filter((other) => !other.gone).length,
    },
    /** The group of which any member may respond, and whether one of them has taken it. */
    group:
      seat.group === null
        ? null
        : {
            name: context.groups.get(seat.group)?.name ?? '',
            taken: seat.holders.some((holder) => holder.via === 'taken'),
          },
    paused: state.paused,
    progress: { done: there.filter((other) => other.status === 'decided').length, of: stage.seats.length },
  };
}

/** What the seat decides on. Nothing of it leaves through a seat that is not asked: a receipt says how things stand. */
async function contentOf({ tx, state, seat, sight, open, signs, decides, people }: Look) {
  const version = newest(state);
  if (!open || !version) return null;
  const files = filesOf(state, seat.id, version).filter(({ file }) => isSeen(sight, file));
  const documents = files.filter((file) => file.role === 'document');
  const facts = await factsOf(
    tx,
    documents.map((file) => file.file),
  );
  return {
    version: version.number,
    scope: scopeOf(state, seat) ?? '',
    decidesOn: {
      ...decides,
      // Somebody outside looks up nobody.
      values: decides.values.map(({ name, value }) => ({
        name,
        value:
          value?.kind === 'person' ? { kind: 'party' as const, text: people.get(value.person)?.name ?? '' } : value,
      })),
    },
    documents: documents.map((file) => {
      const frozen = state.frozen.get(file.id);
      return {
        id: file.id,
        name: file.name,
        content: file.file,
        // Whoever signs reads the frozen file, whose fields are theirs to fill.
        file: signs && frozen ? grownFile(frozen) : file.file,
        pages: facts.get(file.file)?.pages ?? [],
      };
    }),
    attachments: files
      .filter((file) => file.role === 'attachment')
      .map(({ file, name, bytes, mediaType }) => ({
        file,
        name,
        bytes,
        mediaType,
        download: sight.get(file)?.download ?? null,
      })),
  };
}

/** The released files of whoever said yes, as long as their receipt gives them. */
function copiesOf({ tx, state, seat, sight }: Look) {
  const decision = decisionOf(state, seat);
  const version = newest(state);
  if (state.phase !== 'completed' || !version || !decision || !isPositive(decision.outcome) || state.ended === null)
    return null;
  const until = state.ended + receiptDays * day;
  const finals = state.finals?.files ?? [];
  return {
    files: filesOf(state, seat.id, version).flatMap(({ id, role, name }) => {
      const final = role === 'document' ? finals.find((candidate) => candidate.id === id) : undefined;
      return final && isSeen(sight, final.file) ? [{ file: final.file, name }] : [];
    }),
    until,
    open: tx.now <= until,
  };
}

export type SeatView = NonNullable<Awaited<ReturnType<typeof seatView>>>;
