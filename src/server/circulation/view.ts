import { may } from '@/core/access/may';
import { isSeen, sightOf } from '@/core/access/sight';
import { allowed, offers } from '@/core/circulation/acts/offers';
import { nothingPlanned, type Planning, prepared } from '@/core/circulation/plan/planning';
import { keepable } from '@/core/circulation/rounds/round';
import type { Context } from '@/core/circulation/run/context';
import type { CirculationEvent } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import { holders, isDeserted } from '@/core/circulation/run/holders';
import type { SeatRun, StageRun } from '@/core/circulation/run/shapes';
import {
  baseHolder,
  type Circulation,
  closesOf,
  decidesOn,
  decisionOf,
  documentsOf,
  dueOf,
  grownFile,
  isGathering,
  newest,
  plannedCopies,
  plannedStages,
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
import { type HistoryLine, historyFor } from '@/core/circulation/telling/history';
import type { ViewPart } from '@/core/circulation/telling/parts';
import { peopleIn } from '@/core/circulation/telling/sentences';
import { fieldsWanted, freezeWanted, tasksOf } from '@/core/circulation/telling/tasks';
import { lineOf } from '@/core/line/line';
import { spanOf } from '@/core/people/cover';
import { changeInWork, comingRevision, type RecordState } from '@/core/record/record';
import type { FactType } from '@/core/route/facts';
import { conditionsOf, instantOf, withoutHidden } from '@/core/route/route';
import { pastOf } from '../admin/describePerson';
import type { Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import { circulationStream, eventsOf } from '../events/streams';
import { factsOf } from '../files/store';
import { forecastView } from '../forecast/read';
import type { Member } from '../operations/operation';
import { circulationSubject } from './claims';
import { contextOf, factTypesOf } from './context';
import { circulationState, recordState } from './load';
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

/** One look at a circulation: by whom, how it stands, and what was looked up for all parts of what is shown. */
interface Look {
  readonly tx: Tx;
  readonly id: string;
  /** After which event of its stream; null for now. */
  readonly until: number | null;
  readonly now: number;
  readonly events: readonly CirculationEvent[];
  readonly recorded: Circulation;
  readonly state: Circulation;
  readonly planning: Planning;
  readonly types: readonly FactType[];
  readonly context: Context;
  readonly steers: boolean;
  readonly actor: Member;
  readonly rights: Awaited<ReturnType<typeof circulationSubject>>;
  readonly lines: readonly HistoryLine[];
  readonly record: RecordState | null;
  readonly found: Awaited<ReturnType<typeof payloads>>;
  readonly said: (hash: string | null | undefined) => string | null;
}

/**
 * Everything the pages of one circulation show to one member, with the notes filled in. With `until` as it stood after that
 * event of its stream: then nobody may do anything, and people are called what they were called then.
 */
export async function circulationView(tx: Tx, id: string, actor: Member, until: number | null = null) {
  const all = await eventsOf<CirculationEvent>(tx, circulationStream(id));
  const look = await lookAt(tx, id, actor, until === null ? all : all.slice(0, until), until);
  if (!look) return null;
  return {
    id,
    /** The instant at which it stood like this, and after which event; null for now. */
    asOf: until === null ? null : { at: look.now, sequence: until, events: all.length },
    ...(await headOf(look)),
    ...routeOf(look),
    ...seatsOf(look),
    ...(await filesOf(look)),
    ...(await standingOf(look)),
    ...talkOf(look),
    ...(await trailOf(look)),
  };
}

const partOf: { readonly [P in ViewPart]: (look: Look) => object | Promise<object> } = {
  head: headOf,
  route: routeOf,
  seats: seatsOf,
  files: filesOf,
  standing: standingOf,
  talk: talkOf,
  trail: trailOf,
};

/** Some parts of that, as they are now. */
export async function partsOfView(
  tx: Tx,
  id: string,
  actor: Member,
  parts: readonly ViewPart[],
): Promise<Partial<CirculationView> | null> {
  const look = await lookAt(tx, id, actor, await eventsOf<CirculationEvent>(tx, circulationStream(id)), null);
  if (!look) return null;
  let found = {};
  for (const part of new Set(parts)) found = { ...found, ...(await partOf[part](look)) };
  return found;
}

/** The stages as they are shown, and the seats. */
function seatsOf(look: Look) {
  const { state } = look;
  return {
    stages: stagesTold(state).map((run) => stageView(state, run)),
    seats: [...state.seats.values()].filter(isTold).map((seat) => seatView(look, seat)),
  };
}

async function lookAt(
  tx: Tx,
  id: string,
  actor: Member,
  events: readonly CirculationEvent[],
  until: number | null,
): Promise<Look | null> {
  const recorded = until === null ? await circulationState(tx, id) : fold(events);
  if (!recorded) return null;
  const planning = until === null ? await planningOf(tx, id) : nothingPlanned;
  const now = until === null ? tx.now : recorded.last;
  const types = await factTypesOf(tx, recorded);
  const state = prepared(recorded, planning, types);
  const context = { ...(await contextOf(tx, state, actor.person)), now };
  const rights = await circulationSubject(tx, id, state, actor);
  const steers = may(actor, 'circulation.steer', rights);
  const lines = historyFor(events, steers);
  const record = await recordState(tx, state.records[0] ?? '');
  const found = await payloads(tx, [
    state.note,
    changeOf(record, state)?.reason,
    ...state.decisions.map((decision) => decision.note),
    ...[...state.comments.values()].flatMap(({ note, spot }) => [note, spot?.quote]),
    ...lines.map((line) => line.note),
    ...[...state.questions.values()].flatMap(({ note, answer }) => [note, answer?.note]),
    ...[...state.seats.values()].map((seat) => seat.proposal?.note),
  ]);
  const said = (hash: string | null | undefined) => noteIn(found, hash);
  return {
    tx,
    id,
    until,
    now,
    events,
    recorded,
    state,
    planning,
    types,
    context,
    rights,
    steers,
    actor,
    lines,
    record,
    found,
    said,
  };
}

function changeOf(record: RecordState | null, { change }: Circulation) {
  return record?.changes.find((candidate) => candidate.id === change);
}

/** Which circulation it is, whose, of what, and what may be done with it. */
async function headOf({ tx, id, until, events, recorded, state, planning, context, steers, record, said }: Look) {
  const lead = state.records[0] ?? '';
  const change = changeOf(record, state);
  const records = [];
  for (const of of state.records) {
    const one = await recordState(tx, of);
    records.push({ id: of, number: one?.number ?? '', title: one?.title ?? '' });
  }
  const withdrawal = events.findLast((event) => event.type === 'circulation.withdrawn');
  return {
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
    releasesItself: state.releasesItself,
    /** How those who are asked are reminded; before sending as their type says. */
    reminders: state.reminders ?? context.reminders,
  };
}

/** The route as it is planned, with what conditions are decided from, and its line. */
function routeOf({ now, state, planning, types, context, steers }: Look) {
  const route = steers ? state.plan : withoutHidden(state.plan);
  return {
    route,
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
    line: lineOf(route, state, now),
  };
}

function stageView(state: Circulation, run: StageRun) {
  const { verb, order, rule, allows, earliest, condition, onReturn } = stagePlan(state, run.id);
  return {
    id: run.id,
    verb,
    order,
    rule,
    allows,
    earliest,
    condition,
    onReturn,
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
}

function seatView({ state, context, actor, said }: Look, seat: SeatRun) {
  const me = actor.person;
  const kept = keepable(state, seat);
  const base = baseHolder(seat);
  const wait = waitOf(seat, base?.person ?? '');
  const acting = holders(state, seat, context);
  const decision = decisionOf(state, seat);
  return {
    id: seat.id,
    stage: seat.stage,
    verb: stagePlanOf(state, seat).verb,
    holder: base?.person ?? '',
    group: seat.group,
    // Whoever may act, where that is a group: its members until one of them has taken it.
    members: seat.group === null ? [] : acting.map(({ person }) => person),
    taken: seat.holders.some((holder) => holder.via === 'taken'),
    planned: seatPlan(state, seat.id)?.assignment ?? null,
    proposal: seat.proposal && { ...seat.proposal, note: said(seat.proposal.note) },
    notBefore: wait?.from ?? null,
    waitsForOpening: seat.status === 'asked' && wait?.from === null,
    secondHolders: secondHolders(seat),
    /** Who covers for a holder now, for whom and until when. */
    covers: acting.flatMap(({ person, cover }) =>
      cover[0] ? [{ person, for: cover[0].person, until: spanOf(cover).to }] : [],
    ),
    outside: base?.outside ?? false,
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
    mine: acting.some(({ person }) => person === me) || seat.holders.some((holder) => holder.person === me),
    deserted: isDeserted(state, seat, context),
    decision: decision && {
      outcome: decision.outcome,
      by: decision.by,
      onBehalfOf: decision.onBehalfOf,
      at: decision.at,
      round: decision.round,
      version: decision.version,
      note: said(decision.note),
    },
  };
}

/** Versions with their files, fields on them, and what has been made of them. */
async function filesOf({ tx, actor, rights, events, state, context }: Look) {
  const sight = sightOf({ kind: 'circulation', state, rights }, actor, context);
  const isShown = (file: string) => isSeen(sight, file);
  const facts = await factsOf(
    tx,
    state.versions.flatMap((version) => version.files.map((file) => file.file)),
  );
  const attachedAt = new Map(
    events.flatMap((event) => (event.type === 'version.attached' ? [[event.data.version.number, event.at]] : [])),
  );
  const version = newest(state);
  return {
    /** What this member may do with each file, by its content. */
    sight: Object.fromEntries([...sight].filter(([file]) => isShown(file))),
    versions: state.versions.map((each) => ({
      ...each,
      files: each.files
        .filter(({ file }) => isShown(file))
        .map(({ prints: _, made: __, ...file }) => ({
          ...file,
          pages: facts.get(file.file)?.pages ?? [],
          notices: facts.get(file.file)?.notices ?? [],
          noFields: facts.get(file.file)?.noFields ?? null,
        })),
      at: attachedAt.get(each.number) ?? state.created,
    })),
    newest: version?.number ?? null,
    documents: version ? documentsOf(version).map((file) => file.id) : [],
    withoutFields: [...context.withoutFields],
    fields: state.fields,
    fieldsOn: Object.fromEntries(state.fieldsOn),
    fieldsWanted: fieldsWanted(state),
    freezing: freezeWanted(state).map((wanted) => wanted.file),
    seatsWithoutField: seatsWithoutField(state),
    frozen: Object.fromEntries(
      [...state.frozen].flatMap(([of, frozen]) => {
        const file = grownFile(frozen);
        return isShown(file) ? [[of, { content: frozen.content, file }]] : [];
      }),
    ),
    finals: state.finals && { ...state.finals, files: state.finals.files.filter(({ file }) => isShown(file)) },
    evidence: state.evidence !== null && isShown(state.evidence) ? state.evidence : null,
  };
}

/** What it waits for, and what this member may do now: the same answers by which a command would be refused. */
async function standingOf({ tx, id, until, state, context, said }: Look) {
  const troubles = await tx.sql<Trouble[]>`
    select kind, data ->> 'person' as person, state = 'failed' as over, run_at as again from job
    where organization = ${tx.organization} and data ->> 'circulation' = ${id} and error is not null and attempts > 1
    order by created`;
  const returned = state.decisions.findLast(
    (decision) => decision.seat === state.rework?.seat && decision.outcome === 'returned',
  );
  return {
    rework: state.rework && { ...state.rework, note: said(returned?.note) },
    decisions: state.decisions.length,
    stops: stopsOf(state),
    troubles: until === null ? [...troubles] : [],
    tasks: tasksOf(state),
    offers: until === null ? allowed(offers(state, context)).map(({ act, on, needs }) => ({ act, on, needs })) : [],
  };
}

/** What people say to one another. */
function talkOf({ state, found, said }: Look) {
  return {
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
  };
}

/** What happened, told with the names of its time. */
async function trailOf({ tx, until, state, lines, said }: Look) {
  const past = await pastOf(tx, [
    ...lines.flatMap(peopleIn),
    ...(until === null ? [] : [...state.seats.values()].flatMap((seat) => seat.holders.map(({ person }) => person))),
    ...Array.from(state.comments.values(), (comment) => comment.by),
    ...[...state.questions.values()].flatMap(({ by, answer }) => (answer ? [by, answer.by] : [by])),
  ]);
  return { past, trail: lines.map((line) => ({ ...line, note: said(line.note) })) };
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
