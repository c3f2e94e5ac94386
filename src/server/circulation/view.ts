import { type Actor, may } from '@/core/access/may';
import { allowed, offers } from '@/core/circulation/acts/offers';
import { nothingPlanned, prepared } from '@/core/circulation/plan/planning';
import { keepable } from '@/core/circulation/rounds/round';
import type { CirculationEvent } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import { fileUse } from '@/core/circulation/run/fileUse';
import { holders, isDeserted, mayAct } from '@/core/circulation/run/holders';
import type { SeatRun, StageRun } from '@/core/circulation/run/shapes';
import {
  baseHolder,
  type Circulation,
  closesOf,
  decidesOn,
  decisionOf,
  documentsOf,
  dueOf,
  isGathering,
  newest,
  plannedCopies,
  plannedStages,
  scopeIn,
  scopeOf,
  seatPlan,
  seatsWithoutField,
  secondHolders,
  seenOf,
  stagePlan,
  stagePlanOf,
  stopsOf,
  waitOf,
} from '@/core/circulation/run/state';
import { history, lineForAll } from '@/core/circulation/telling/history';
import { peopleIn } from '@/core/circulation/telling/sentences';
import { fieldsWanted, freezeWanted, tasksOf } from '@/core/circulation/telling/tasks';
import { lineOf } from '@/core/line/line';
import { spanOf } from '@/core/people/cover';
import { changeInWork, comingRevision } from '@/core/record/record';
import { conditionsOf, instantOf, withoutHidden } from '@/core/route/route';
import { pastOf } from '../admin/describePerson';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import { eventsOf } from '../events/streams';
import { factsOf } from '../files/store';
import { forecastView } from '../forecast/read';
import { circulationSubject } from './claims';
import { contextOf, factTypesOf } from './context';
import { circulationState, circulationStream, recordState } from './load';
import { planningOf } from './planning';
import { shownSpot } from './spot';

/** A message that could not be delivered, or a file that could not be made: so far, or for good. */
interface Trouble {
  readonly kind: 'mail' | 'freeze' | 'derive' | 'release';
  readonly person: string | null;
  readonly over: boolean;
  /** When it is tried again. */
  readonly again: number;
}

/**
 * Everything the pages of one circulation show to one member, with the notes filled in. With `until` as it stood after that
 * event of its stream: then nobody may do anything, and people are called what they were called then.
 */
export async function circulationView(tx: Tx, id: string, me: string, until: number | null = null) {
  const all = await eventsOf<CirculationEvent>(tx, circulationStream(id));
  const events = until === null ? all : all.slice(0, until);
  const recorded = until === null ? await circulationState(tx, id) : fold(events);
  if (!recorded) return null;
  const planning = until === null ? await planningOf(tx, id) : nothingPlanned;
  const now = until === null ? tx.now : recorded.last;
  const types = await factTypesOf(tx, recorded);
  const state = prepared(recorded, planning, types);
  const context = { ...(await contextOf(tx, state, me)), now };
  const lead = state.records[0] ?? '';
  const actor: Actor = { kind: 'member', person: me, roles: [] };
  const steers = may(actor, 'circulation.steer', await circulationSubject(tx, id, state));
  // Whoever does not steer it learns nothing of hidden copies, neither who gets them nor what these are called.
  const lines = history(events).flatMap((line) => (steers ? line : (lineForAll(line) ?? [])));
  const record = await recordState(tx, lead);
  const change = record?.changes.find((candidate) => candidate.id === state.change);
  const records = [];
  for (const of of state.records) {
    const one = await recordState(tx, of);
    records.push({ id: of, number: one?.number ?? '', title: one?.title ?? '' });
  }
  const found = await payloads(tx, [
    state.note,
    change?.reason,
    ...state.decisions.map((decision) => decision.note),
    ...[...state.comments.values()].flatMap(({ note, spot }) => [note, spot?.quote]),
    ...lines.map((line) => line.note),
    ...[...state.questions.values()].flatMap(({ note, answer }) => [note, answer?.note]),
    ...[...state.seats.values()].map((seat) => seat.proposal?.note),
  ]);
  // What happened is told with the names of its time.
  const past = await pastOf(tx, [
    ...lines.flatMap(peopleIn),
    ...(until === null ? [] : [...state.seats.values()].flatMap((seat) => seat.holders.map(({ person }) => person))),
    ...Array.from(state.comments.values(), (comment) => comment.by),
    ...[...state.questions.values()].flatMap(({ by, answer }) => (answer ? [by, answer.by] : [by])),
  ]);
  const said = (hash: string | null | undefined) => noteIn(found, hash);
  const withdrawal = events.findLast((event) => event.type === 'circulation.withdrawn');
  const decisionView = (seat: SeatRun) => {
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
  const facts = await factsOf(
    tx,
    state.versions.flatMap((version) => version.files.map((file) => file.file)),
  );
  const troubles = await tx.sql<Trouble[]>`
    select kind, data ->> 'person' as person, state = 'failed' as over, run_at as again from job
    where organization = ${tx.organization} and data ->> 'circulation' = ${id} and error is not null and attempts > 1
    order by created`;
  const returned = state.decisions.findLast(
    (decision) => decision.seat === state.rework?.seat && decision.outcome === 'returned',
  );
  const attachedAt = new Map(
    events.flatMap((event) => (event.type === 'version.attached' ? [[event.data.version.number, event.at]] : [])),
  );
  return {
    id,
    /** The instant at which it stood like this, and after which event; null for now. */
    asOf: until === null ? null : { at: now, sequence: until, events: all.length },
    number: state.number,
    record: {
      id: lead,
      number: record?.number ?? '',
      title: record?.title ?? '',
      documentType: record?.documentType ?? '',
      complete: record?.complete ?? true,
    },
    records,
    change: state.change,
    revision:
      state.revisions.find((entry) => entry.record === lead)?.revision ??
      (change?.revision || (record ? comingRevision(record) : '')),
    /** Whether this member controls it, and whether they may begin afresh from it. */
    steers,
    mayStartAfresh: steers && state.phase === 'withdrawn' && record !== null && changeInWork(record) === null,
    /** From when on this member may print the files and have them; null when they may now. */
    use: fileUse(state, me, context),
    /** When it will be released, as far as can be said; null where that is not asked. */
    forecast: until === null ? await forecastView(tx, id, recorded, steers) : null,
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
    note: state.phase === 'new' ? planning.note : said(state.note),
    route: steers ? state.plan : withoutHidden(state.plan),
    facts: state.facts,
    factTypes: types,
    factNames: state.factNames,
    /** Parts of the route whose condition has still to be decided. */
    undecided: conditionsOf(state.plan).flatMap(({ part }) => {
      const run = state.blocks.get(part) ?? state.stages.get(part);
      return run && !run.decided && !run.gone ? [part] : [];
    }),
    factsGiven: planning.facts,
    recordFacts: context.record,
    withoutFields: [...context.withoutFields],
    whole: state.whole,
    due: state.due,
    closes: state.closes,
    closed: state.closed,
    paused: state.paused,
    copies: [...state.copies.values()].flatMap((run) => {
      const board = plannedCopies(state).find(({ id: of }) => of === run.id);
      return board && (!board.hidden || steers) ? [{ ...run, hidden: board.hidden }] : [];
    }),
    roles: [...context.roles].map(([role, { name, person }]) => ({ role, name, person })),
    line: lineOf(steers ? state.plan : withoutHidden(state.plan), state, now),
    stages: stagesTold(state).map((run) => {
      const plan = stagePlan(state, run.id);
      return {
        id: run.id,
        verb: plan.verb,
        order: plan.order,
        rule: plan.rule,
        allows: plan.allows,
        earliest: plan.earliest,
        condition: plan.condition,
        onReturn: plan.onReturn,
        skipped: run.gone === 'skipped',
        removed: run.gone === 'removed',
        gathering: isGathering(state, run),
        status: run.status,
        held: run.held,
        stuck: run.stuck,
        due: instantOf(run.due),
        closes: instantOf(run.closes),
        since: run.since,
        ended: run.ended,
        /** Those that take part, in their order. */
        seats: run.seats.filter((seat) => !state.seats.get(seat)?.gone),
      };
    }),
    seats: [...state.seats.values()].filter(isTold).map((seat) => {
      const kept = keepable(state, seat);
      return {
        id: seat.id,
        stage: seat.stage,
        verb: stagePlanOf(state, seat).verb,
        holder: baseHolder(seat)?.person ?? '',
        group: seat.group,
        // Whoever may act, where that is a group: its members until one of them has taken it.
        members: seat.group === null ? [] : holders(state, seat, context).map(({ person }) => person),
        taken: seat.holders.some((holder) => holder.via === 'taken'),
        planned: seatPlan(state, seat.id)?.assignment ?? null,
        proposal: seat.proposal && { ...seat.proposal, note: said(seat.proposal.note) },
        notBefore: waitOf(seat, baseHolder(seat)?.person ?? '')?.from ?? null,
        waitsForOpening: seat.status === 'asked' && waitOf(seat, baseHolder(seat)?.person ?? '')?.from === null,
        secondHolders: secondHolders(seat),
        /** Who covers for a holder now, for whom and until when. */
        covers: holders(state, seat, context).flatMap(({ person, cover }) =>
          cover[0] ? [{ person, for: cover[0].person, until: spanOf(cover).to }] : [],
        ),
        outside: baseHolder(seat)?.outside ?? false,
        epoch: seat.epoch,
        status: seat.status,
        removed: seat.gone === 'removed',
        passed: seat.passed,
        since: seat.since,
        due: dueOf(state, seat),
        closes: closesOf(state, seat),
        seen: seenOf(state, seat),
        reminded: seat.reminded,
        kept: seat.kept,
        keepable: typeof kept === 'object' ? ('yes' as const) : kept,
        scope: scopeOf(state, seat),
        decidesOn: decidesOn(state, seat),
        mine: mayAct(state, seat, me, context) || seat.holders.some((holder) => holder.person === me),
        deserted: isDeserted(state, seat, context),
        decision: decisionView(seat),
      };
    }),
    versions: state.versions.map((version) => ({
      ...version,
      files: version.files.map(({ prints: _, ...file }) => ({
        ...file,
        pages: facts.get(file.file)?.pages ?? [],
        notices: facts.get(file.file)?.notices ?? [],
        noFields: facts.get(file.file)?.noFields ?? null,
      })),
      scopes: Object.fromEntries([...state.seats.values()].map((seat) => [seat.id, scopeIn(state, seat, version)])),
      at: attachedAt.get(version.number) ?? state.created,
    })),
    newest: newest(state)?.number ?? null,
    documents: (() => {
      const version = newest(state);
      return version ? documentsOf(version).map((file) => file.id) : [];
    })(),
    fields: state.fields,
    fieldsOn: Object.fromEntries(state.fieldsOn),
    fieldsWanted: fieldsWanted(state),
    freezing: freezeWanted(state).map((wanted) => wanted.file),
    seatsWithoutField: seatsWithoutField(state),
    frozen: Object.fromEntries(state.frozen),
    finals: state.finals,
    evidence: state.evidence,
    releasesItself: state.releasesItself,
    /** How those who are asked are reminded; before sending as their type says. */
    reminders: state.reminders ?? context.reminders,
    rework: state.rework && { ...state.rework, note: said(returned?.note) },
    decisions: state.decisions.length,
    stops: stopsOf(state),
    troubles: until === null ? [...troubles] : [],
    tasks: tasksOf(state),
    // What this member may do now: the same answers by which a command would be refused.
    offers: until === null ? allowed(offers(state, context)).map(({ act, on, needs }) => ({ act, on, needs })) : [],
    comments: Array.from(state.comments.values(), (comment) => ({
      ...comment,
      spot: shownSpot(found, comment.spot),
      note: said(comment.note),
    })),
    questions: Array.from(state.questions.values(), (question) => ({
      ...question,
      note: said(question.note),
      answer: question.answer && { ...question.answer, note: said(question.answer.note) },
    })),
    past,
    trail: lines.map((line) => ({ ...line, note: said(line.note) })),
  };
}

/** Whether a seat is shown: not in place of its members, and what was removed only where somebody had been asked. */
function isTold({ gone, since, decision }: SeatRun): boolean {
  return gone === 'removed' ? since !== null || decision !== null : gone !== 'expanded';
}

/** The stages as the line has them, and behind them what was removed after somebody had been asked. */
function stagesTold(state: Circulation): StageRun[] {
  const planned = plannedStages(state).flatMap(({ id }) => state.stages.get(id) ?? []);
  const removed = [...state.stages.values()].filter(
    (run) => run.gone === 'removed' && [...state.seats.values()].some((seat) => seat.stage === run.id && isTold(seat)),
  );
  return [...planned, ...removed];
}

export type CirculationView = NonNullable<Awaited<ReturnType<typeof circulationView>>>;
