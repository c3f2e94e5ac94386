import { type Instant, instantOf, mapStages, type Seat, type Series, type Stage } from '../route/route';
import { alike } from '../trail/canonical';
import {
  type CirculationEvent,
  type Holder,
  isPositive,
  type RoleFilled,
  type SeatTimes,
  type StageTimes,
  type Wait,
} from './events';
import { freshBlockRun, freshCopyRun, freshRuns, freshSeatRun, freshStageRun } from './runs';
import {
  type Circulation,
  newest,
  plannedBlocks,
  plannedCopies,
  plannedSeats,
  plannedStages,
  type SeatRun,
  type StageRun,
  seatPlan,
  stagePlan,
} from './state';

/** A state under construction: its own arrays and maps, whose entries are replaced and never changed. */
export type Draft = {
  -readonly [K in keyof Circulation]: Circulation[K] extends readonly (infer Item)[]
    ? Item[]
    : Circulation[K] extends ReadonlyMap<infer Key, infer Value>
      ? Map<Key, Value>
      : Circulation[K];
};

/** A draft that shares entries with `state` but none of its arrays and maps. */
export function draftOf(state: Circulation): Draft {
  return {
    ...state,
    records: state.records.slice(),
    retired: state.retired.slice(),
    formerControllers: state.formerControllers.slice(),
    copies: new Map(state.copies),
    blocks: new Map(state.blocks),
    stages: new Map(state.stages),
    seats: new Map(state.seats),
    versions: state.versions.slice(),
    decisions: state.decisions.slice(),
    unsigned: state.unsigned.slice(),
    acceptances: state.acceptances.slice(),
    comments: new Map(state.comments),
    questions: new Map(state.questions),
    fields: state.fields.slice(),
    fieldsOn: new Map(state.fieldsOn),
    frozen: new Map(state.frozen),
    revisions: state.revisions.slice(),
  };
}

/** Reminders of a seat that a state keeps, the newest: a stream of many thousand would copy them all each time. */
const remindersKept = 50;

type Own<T> = { -readonly [K in keyof T]: T[K] };

/** Seats and stages that the fold under way has made: nobody else has seen them, so they are assigned in place. */
let made: Set<SeatRun | StageRun> | null = null;

/** The draft's own copy of a seat, to assign into: states that came before keep theirs. */
function seatOf(draft: Draft, id: string): Own<SeatRun> {
  const there = draft.seats.get(id) as SeatRun;
  if (made?.has(there)) return there;
  const own = { ...there };
  draft.seats.set(id, own);
  made?.add(own);
  return own;
}

/** The same of a stage. */
function stageOf(draft: Draft, id: string): Own<StageRun> {
  const there = draft.stages.get(id) as StageRun;
  if (made?.has(there)) return there;
  const own = { ...there };
  draft.stages.set(id, own);
  made?.add(own);
  return own;
}

/** What of a seat's time as the one who is asked begins anew; waits of those who were asked before end untold. */
function beginAnew(seat: Own<SeatRun>): void {
  if (seat.waits.length > 0) seat.waits = seat.waits.map((wait) => ({ ...wait, told: true }));
  seat.reminded = [];
  seat.pointed = null;
  seat.told = [];
  seat.asking = null;
  seat.waited = false;
}

/** Starts a stream's state from its first event. */
export function begin(event: CirculationEvent): Draft {
  if (event.type !== 'circulation.created') throw new Error(`a circulation cannot begin with ${event.type}`);
  const { number, records, change, controller, author, plan, batch, begunBy } = event.data;
  const runs = freshRuns(plan);
  return {
    number,
    records: records.slice(),
    change,
    controller,
    formerControllers: [],
    author,
    batch,
    begunBy,
    phase: 'new',
    round: 1,
    created: event.at,
    sent: null,
    ended: null,
    last: event.at,
    plan,
    retired: [],
    amendments: 0,
    reminders: null,
    note: null,
    facts: {},
    factNames: {},
    whole: { due: null, closes: null },
    due: null,
    closes: null,
    closed: null,
    paused: null,
    still: null,
    copies: new Map(runs.copies),
    blocks: new Map(runs.blocks),
    stages: new Map(runs.stages),
    seats: new Map(runs.seats),
    versions: [],
    attached: null,
    decisions: [],
    unsigned: [],
    acceptances: [],
    comments: new Map(),
    questions: new Map(),
    fields: [],
    fieldsOn: new Map(),
    frozen: new Map(),
    rework: null,
    finals: null,
    revisions: [],
    releasesItself: false,
    evidence: null,
  };
}

/** Assigns what an event says into the draft. It only assigns: every choice was made in `decide`. */
export function apply(draft: Draft, event: CirculationEvent): void {
  draft.last = event.at;
  switch (event.type) {
    case 'circulation.created':
      return;
    case 'route.planned': {
      const runs = freshRuns(event.data.plan);
      draft.plan = event.data.plan;
      draft.note = event.data.note;
      draft.whole = event.data.whole;
      draft.copies = new Map(runs.copies);
      draft.blocks = new Map(runs.blocks);
      draft.stages = new Map(runs.stages);
      draft.seats = new Map(runs.seats);
      return;
    }
    case 'facts.given':
      draft.facts = event.data.facts;
      draft.factNames = event.data.names;
      return;
    case 'fields.put': {
      const { file, content, fields } = event.data;
      draft.fields = [...draft.fields.filter((field) => field.file !== file), ...fields];
      draft.fieldsOn.set(file, content);
      draft.frozen.delete(file);
      return;
    }
    case 'version.attached':
      draft.versions.push(event.data.version);
      draft.attached = event.at;
      for (const file of event.data.ends) draft.frozen.delete(file);
      draft.unsigned.push(...event.data.unsigned);
      return;
    case 'circulation.sent':
      draft.phase = 'running';
      draft.sent = event.at;
      draft.releasesItself = event.data.releasesItself;
      draft.reminders = event.data.reminders;
      draft.due = event.data.due;
      draft.closes = event.data.closes;
      for (const { of, person } of event.data.roles) {
        if (!draft.seats.has(of) || person === null) continue;
        const seat = seatOf(draft, of);
        seat.holders = [{ person, via: 'role', outside: false, since: null }, ...secondsBeside(seat, person)];
      }
      for (const { id, to } of plannedCopies(draft)) {
        const run = draft.copies.get(id);
        const filled = event.data.roles.filter(({ of }) => to.some((entry) => entry.id === of));
        if (run && filled.length > 0)
          draft.copies.set(id, { ...run, filled: Object.fromEntries(filled.map(({ of, person }) => [of, person])) });
      }
      return;
    case 'circulation.closed':
      draft.closed = event.data.instant;
      draft.still ??= event.data.instant;
      return;
    case 'circulation.paused':
      draft.paused = event.at;
      draft.still ??= event.at;
      return;
    case 'circulation.wentOn':
      draft.paused = null;
      goOn(draft, event.data);
      return;
    case 'circulation.extended':
      draft.due = event.data.due;
      draft.closes = event.data.closes;
      draft.closed = null;
      goOn(draft, event.data);
      return;
    case 'circulation.amended': {
      const { plan, note, whole, times, roles } = event.data;
      amendRuns(draft, plan, roles);
      draft.plan = plan;
      draft.note = note;
      draft.amendments += 1;
      if (whole) {
        draft.due = whole.due;
        draft.closes = whole.closes;
      }
      for (const { seat: id, due, closes } of times) {
        const seat = seatOf(draft, id);
        seat.due = due;
        seat.closes = closes;
        seat.asking = null;
        seat.told = [];
      }
      return;
    }
    case 'control.handed':
      draft.formerControllers = [...draft.formerControllers, draft.controller];
      draft.controller = event.data.to;
      return;
    case 'part.decided': {
      const { part, holds } = event.data;
      const gone = holds ? null : 'skipped';
      const block = draft.blocks.get(part);
      if (block) draft.blocks.set(part, { ...block, gone, decided: true });
      else {
        const stage = stageOf(draft, part);
        stage.gone = gone;
        stage.decided = true;
        if (!holds) stage.ended = event.at;
      }
      return;
    }
    case 'group.resolved': {
      const { seat: id, members } = event.data;
      const whole = seatOf(draft, id);
      const plan = seatPlan(draft, whole.planned);
      if (!plan) return;
      whole.gone = 'expanded';
      // Second holders of the whole may act on any of its seats.
      const seconds = whole.holders.filter((holder) => holder.via === 'second');
      for (const member of members) {
        const own = freshSeatRun(whole.stage, plan, { id: member.seat, person: member.person });
        draft.seats.set(own.id, { ...own, holders: [...own.holders, ...seconds] });
      }
      const stage = stageOf(draft, whole.stage);
      stage.seats = stage.seats.flatMap((own) => (own === id ? [own, ...members.map(({ seat }) => seat)] : [own]));
      return;
    }
    case 'copies.reached': {
      const { copies, to, version, waits } = event.data;
      const { filled = {} } = draft.copies.get(copies) ?? {};
      draft.copies.set(copies, { id: copies, status: waits ? 'reached' : 'sent', filled, to, version });
      return;
    }
    case 'copies.sent': {
      const run = draft.copies.get(event.data.copies);
      if (run) draft.copies.set(run.id, { ...run, status: 'sent' });
      return;
    }
    case 'stage.opened': {
      const stage = stageOf(draft, event.data.stage);
      stage.status = 'open';
      stage.held = null;
      stage.since = event.at;
      return;
    }
    case 'stage.held':
      stageOf(draft, event.data.stage).held = event.data.for;
      return;
    case 'stage.freed':
      stageOf(draft, event.data.stage).held = null;
      return;
    case 'stage.ruled': {
      const { stage: id, k } = event.data;
      const rule = { kind: 'atLeast', k } as const;
      draft.plan = mapStages(draft.plan, (stage) => (stage.id === id ? { ...stage, rule } : stage));
      return;
    }
    case 'stage.timed': {
      const stage = stageOf(draft, event.data.stage);
      stage.due = event.data.due;
      stage.closes = event.data.closes;
      stage.retimed = true;
      stage.held = null;
      // Whatever single seats had been given before falls with it.
      for (const id of stage.seats) if (draft.seats.get(id)?.given) seatOf(draft, id).given = null;
      return;
    }
    case 'file.frozen': {
      const { file: id, content, frozen, fields } = event.data;
      draft.frozen.set(id, { content, file: frozen, fields, at: event.at });
      return;
    }
    case 'seat.asked': {
      const seat = seatOf(draft, event.data.seat);
      seat.status = 'asked';
      seat.holders = event.data.holders;
      seat.since = event.at;
      seat.due = event.data.due;
      seat.closes = event.data.closes;
      seat.epoch = event.data.epoch;
      seat.nobody = event.data.nobody;
      seat.given = null;
      beginAnew(seat);
      send(seat, event.data.to, event.data.scope, event.at);
      addWaits(seat, event.data.waits, event.at);
      return;
    }
    case 'seat.seen': {
      const seat = seatOf(draft, event.data.seat);
      const { wait, due, scope } = event.data;
      seat.opened = [...seat.opened, { person: event.actor, scope, at: event.at }];
      if (wait) addWaits(seat, [wait], event.at);
      if (due !== null) seat.due = due;
      return;
    }
    case 'seat.freed': {
      const seat = seatOf(draft, event.data.seat);
      const { person } = event.data;
      seat.waits = seat.waits.map((wait) => (wait.person === person ? { ...wait, told: true } : wait));
      return;
    }
    case 'seat.taken': {
      const { person, due } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.due = due;
      seat.holders = [{ person, via: 'taken', outside: false, since: event.at }, ...secondsBeside(seat, person)];
      seat.nobody = false;
      return;
    }
    case 'seat.givenBack': {
      const seat = seatOf(draft, event.data.seat);
      seat.holders = seat.holders.filter((holder) => holder.via === 'second');
      seat.proposal = null;
      return;
    }
    case 'seat.named': {
      const { to, outside, epoch } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.holders = [{ person: to, via: 'named', outside, since: event.at }, ...secondsBeside(seat, to)];
      seat.epoch = epoch;
      return;
    }
    case 'delegation.asked': {
      const { to, note } = event.data;
      seatOf(draft, event.data.seat).proposal = { to, by: event.actor, at: event.at, note };
      return;
    }
    case 'delegation.refused':
      seatOf(draft, event.data.seat).proposal = null;
      return;
    case 'seat.decided': {
      const { data } = event;
      draft.decisions.push({
        seat: data.seat,
        holder: data.holder,
        by: event.actor,
        onBehalfOf: event.onBehalfOf,
        outcome: data.outcome,
        scope: data.scope,
        version: newest(draft)?.number ?? 0,
        round: draft.round,
        at: event.at,
        note: data.note,
        filled: data.filled,
        evidence: data.evidence,
        coverUntil: data.cover?.until ?? null,
      });
      const seat = seatOf(draft, data.seat);
      seat.status = isPositive(data.outcome) ? 'decided' : data.outcome === 'declined' ? 'declined' : 'returned';
      seat.decision = draft.decisions.length - 1;
      seat.kept = false;
      seat.passed = false;
      seat.proposal = null;
      seat.asking = null;
      return;
    }
    case 'seat.missed':
      seatOf(draft, event.data.seat).status = 'missed';
      return;
    case 'seat.released':
      seatOf(draft, event.data.seat).status = 'released';
      return;
    case 'seat.passed':
      seatOf(draft, event.data.seat).passed = true;
      return;
    case 'stage.stuck':
      stageOf(draft, event.data.stage).stuck = true;
      return;
    case 'stage.healed':
      stageOf(draft, event.data.stage).stuck = false;
      return;
    case 'stage.closed':
      endStage(draft, event.data.stage, 'done', event.at);
      return;
    case 'stage.released':
      endStage(draft, event.data.stage, 'released', event.at);
      return;
    case 'rework.began': {
      const { cause, seat, suspends } = event.data;
      draft.phase = 'rework';
      draft.rework = { cause, seat, at: event.at, version: newest(draft)?.number ?? 0 };
      for (const id of suspends) seatOf(draft, id).status = 'suspended';
      return;
    }
    case 'round.begun':
      beginRound(draft, event.data);
      // What stood still before is over with its round.
      if (draft.still !== null) draft.still = event.at;
      return;
    case 'question.asked': {
      const { question, seat: id, note, waits } = event.data;
      const version = newest(draft)?.number ?? 0;
      const { actor: by, at } = event;
      draft.questions.set(question, { id: question, seat: id, by, at, version, note, answer: null });
      if (waits) {
        const seat = seatOf(draft, id);
        seat.asking = at;
        seat.waited = true;
      }
      return;
    }
    case 'question.answered': {
      const { question: id, seat: of, note, due } = event.data;
      const question = draft.questions.get(id);
      if (question) draft.questions.set(id, { ...question, answer: { by: event.actor, at: event.at, note } });
      if (due !== null) {
        const seat = seatOf(draft, of);
        seat.due = due;
        seat.asking = null;
      }
      return;
    }
    case 'seat.extended': {
      const seat = seatOf(draft, event.data.seat);
      seat.status = event.data.status;
      seat.due = event.data.due;
      seat.closes = event.data.closes;
      seat.asking = null;
      seat.told = [];
      return;
    }
    case 'seat.askedAgain': {
      const seat = seatOf(draft, event.data.seat);
      seat.status = 'asked';
      seat.since = event.at;
      seat.due = event.data.due;
      seat.closes = event.data.closes;
      seat.decision = null;
      seat.passed = false;
      beginAnew(seat);
      send(seat, event.data.to, event.data.scope, event.at);
      addWaits(seat, event.data.waits, event.at);
      return;
    }
    case 'seat.reminded': {
      const seat = seatOf(draft, event.data.seat);
      seat.reminded = [...seat.reminded.slice(1 - remindersKept), event.at];
      seat.pointed = event.data.point ?? seat.pointed;
      return;
    }
    case 'seat.lateTold': {
      const seat = seatOf(draft, event.data.seat);
      seat.told = [...seat.told, event.data.to];
      return;
    }
    case 'reminders.set':
      draft.reminders = event.data.plan;
      return;
    case 'seat.delegated': {
      const { to, outside, epoch, due, scope, waits } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.due = due;
      seat.holders = [{ person: to, via: 'delegated', outside, since: event.at }, ...secondsBeside(seat, to)];
      seat.group = null;
      seat.nobody = false;
      seat.proposal = null;
      seat.epoch = epoch;
      beginAnew(seat);
      send(seat, [to], scope, event.at);
      addWaits(seat, waits, event.at);
      return;
    }
    case 'seat.reassigned': {
      const { to, epoch, barred, status, due, closes, scope, waits } = event.data;
      const seat = seatOf(draft, event.data.seat);
      const asked = status === 'asked';
      seat.holders = [
        { person: to.person, via: 'reassigned', outside: to.kind === 'outside', since: event.at },
        ...secondsBeside(seat, to.person),
      ];
      seat.barred = barred;
      seat.group = null;
      seat.nobody = false;
      seat.proposal = null;
      seat.epoch = epoch;
      beginAnew(seat);
      // A return that is being gathered stands, whoever holds the seat from now on.
      if (status === 'returned') return;
      seat.status = status;
      seat.passed = false;
      seat.due = asked ? due : null;
      seat.closes = asked ? closes : null;
      seat.given = asked ? null : { due, closes };
      seat.decision = null;
      seat.kept = false;
      if (!asked) return;
      seat.since = event.at;
      send(seat, [to.person], scope, event.at);
      addWaits(seat, waits, event.at);
      return;
    }
    case 'seat.readdressed': {
      const { to, epoch, due, scope, waits } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.holders = [{ person: to, via: 'reassigned', outside: true, since: event.at }, ...secondsBeside(seat, to)];
      seat.barred = seat.barred.filter((barred) => barred !== to);
      seat.epoch = epoch;
      seat.due = due;
      seat.proposal = null;
      beginAnew(seat);
      if (seat.status === 'asked') send(seat, [to], scope, event.at);
      addWaits(seat, waits, event.at);
      return;
    }
    case 'secondHolder.added': {
      const { person } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.holders = [...seat.holders, { person, via: 'second', outside: false, since: event.at }];
      seat.barred = seat.barred.filter((barred) => barred !== person);
      seat.nobody = false;
      if (seat.status === 'asked') send(seat, [person], event.data.scope, event.at);
      addWaits(seat, event.data.waits, event.at);
      return;
    }
    case 'secondHolder.dropped': {
      const { person } = event.data;
      const seat = seatOf(draft, event.data.seat);
      seat.holders = seat.holders.filter((holder) => holder.via !== 'second' || holder.person !== person);
      seat.waits = seat.waits.map((wait) => (wait.person === person ? { ...wait, told: true } : wait));
      return;
    }
    case 'link.copied':
      seatOf(draft, event.data.seat).linkCopied = event.data.epoch;
      return;
    case 'comment.made': {
      const { comment, thread, file, spot, note } = event.data;
      const version = newest(draft)?.number ?? 0;
      const { actor: by, at } = event;
      draft.comments.set(comment, { id: comment, thread, by, at, version, file, spot, note, resolved: false });
      return;
    }
    case 'comment.resolved':
    case 'comment.reopened': {
      const comment = draft.comments.get(event.data.comment);
      const resolved = event.type === 'comment.resolved';
      if (comment) draft.comments.set(comment.id, { ...comment, resolved });
      return;
    }
    case 'sealing.began':
      draft.phase = 'sealing';
      return;
    case 'finals.kept':
      draft.finals = event.data;
      return;
    case 'circulation.withdrawn':
      draft.phase = 'withdrawn';
      draft.ended = event.at;
      return;
    case 'circulation.completed':
      draft.phase = 'completed';
      draft.ended = event.at;
      draft.revisions = event.data.revisions.slice();
      draft.evidence = event.data.evidence;
      return;
  }
}

/** Takes over the times that were put off, and lets the clocks run where nothing holds them any more. */
function goOn(
  draft: Draft,
  put: { readonly seats: readonly SeatTimes[]; readonly stages: readonly StageTimes[] },
): void {
  for (const { seat: id, due, closes } of put.seats) {
    const seat = seatOf(draft, id);
    if (seat.status === 'idle') seat.given = { due, closes };
    else {
      seat.due = due;
      seat.closes = closes;
    }
  }
  for (const { stage: id, due, closes } of put.stages) {
    const stage = stageOf(draft, id);
    stage.due = due;
    stage.closes = closes;
  }
  if (draft.closed === null && draft.paused === null) draft.still = null;
}

function endStage(draft: Draft, id: string, status: 'done' | 'released', at: Instant): void {
  const stage = stageOf(draft, id);
  stage.status = status;
  stage.held = null;
  stage.ended = at;
  stage.stuck = false;
}

/** Notes who is sent what a seat asks; each content once. */
function send(seat: Own<SeatRun>, people: readonly string[], scope: string | null, at: Instant): void {
  if (scope === null) return;
  const fresh = people.filter((person) => !seat.sent.some((met) => met.person === person && met.scope === scope));
  if (fresh.length > 0) seat.sent = [...seat.sent, ...fresh.map((person) => ({ person, scope, at }))];
}

function addWaits(seat: Own<SeatRun>, waits: readonly Wait[], at: Instant): void {
  if (waits.length === 0) return;
  // Whoever need not wait any more has nothing to be told.
  const fresh = waits.map((wait) => ({ ...wait, told: wait.from !== null && wait.from <= at }));
  seat.waits = [...seat.waits, ...fresh];
}

/** Takes over an amended plan: what is new in it begins, what is no longer in it is marked, everything else goes on. */
function amendRuns(draft: Draft, plan: Series, roles: readonly RoleFilled[]): void {
  const blocks = plannedBlocks({ plan });
  const before = { plan: draft.plan, retired: draft.retired };
  const known = new Set(plannedStages(draft).map(({ id }) => id));
  const filled = new Map(roles.map(({ of, person }) => [of, person]));
  for (const [id, block] of draft.blocks) if (!blocks.has(id)) draft.blocks.set(id, { ...block, gone: 'removed' });
  for (const [id, block] of blocks) if (!draft.blocks.has(id)) draft.blocks.set(id, freshBlockRun(block));
  for (const { id, to } of plannedCopies({ plan })) {
    const run = draft.copies.get(id) ?? freshCopyRun(id);
    draft.copies.set(id, run);
    const own = to.flatMap((entry) =>
      filled.has(entry.id) ? [[entry.id, filled.get(entry.id) ?? null] as const] : [],
    );
    if (own.length > 0) draft.copies.set(id, { ...run, filled: { ...run.filled, ...Object.fromEntries(own) } });
  }
  const planned = new Map(plannedStages({ plan }).map((stage) => [stage.id, stage]));
  const home = plannedSeats({ plan });
  for (const stage of plannedStages(draft)) {
    const gone = planned.has(stage.id) ? stage.seats.filter(({ id }) => !home.has(id)) : stage.seats;
    if (!planned.has(stage.id) || gone.length > 0) draft.retired.push({ ...stage, seats: gone });
    if (planned.has(stage.id)) continue;
    const run = stageOf(draft, stage.id);
    run.gone = 'removed';
    run.status = 'released';
    run.held = null;
    run.stuck = false;
  }
  for (const id of [...draft.seats.keys()]) {
    const seat = draft.seats.get(id) as SeatRun;
    if (!home.has(seat.planned)) removeSeat(draft, id);
  }
  for (const stage of planned.values()) {
    if (!draft.stages.has(stage.id)) draft.stages.set(stage.id, freshStageRun(stage));
    for (const seat of stage.seats) amendSeat(draft, stage, seat, seatPlan(before, seat.id), filled.get(seat.id));
  }
  const members = new Map<string, string[]>();
  for (const { id, planned: of } of draft.seats.values())
    if (id !== of) members.set(of, [...(members.get(of) ?? []), id]);
  for (const stage of planned.values()) {
    const old = known.has(stage.id) ? stagePlan(before, stage.id) : null;
    const run = draft.stages.get(stage.id) as StageRun;
    const there = stage.seats.flatMap(({ id }) => [id, ...(members.get(id) ?? [])]);
    const gone = run.seats.filter((id) => !there.includes(id) && draft.seats.get(id)?.stage === stage.id);
    const seats = [...there, ...gone];
    if (!alike(seats, run.seats)) stageOf(draft, stage.id).seats = seats;
    if (!old || (alike(old.due, stage.due) && alike(old.closes, stage.closes))) continue;
    const own = stageOf(draft, stage.id);
    own.due = stage.due;
    own.closes = stage.closes;
    if (own.held === 'time') own.held = null;
  }
  const signed = new Set(draft.frozen.keys());
  draft.fields = draft.fields.filter((field) => signed.has(field.file) || home.has(field.seat));
}

function removeSeat(draft: Draft, id: string): void {
  const seat = seatOf(draft, id);
  seat.gone = 'removed';
  if (seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended') seat.status = 'released';
  seat.proposal = null;
  seat.asking = null;
}

/** A seat of an amended plan: new, for somebody else, in another stage, with other times, or as it was. */
function amendSeat(draft: Draft, stage: Stage, seat: Seat, old: Seat | null, filled: string | null | undefined): void {
  const there = draft.seats.get(seat.id);
  const begins = !there || !old || there.stage !== stage.id || !alike(old.assignment, seat.assignment);
  if (begins) {
    const run = freshSeatRun(stage.id, seat);
    const role = filled ? [{ person: filled, via: 'role', outside: false, since: null } as const] : run.holders;
    const seconds = there?.holders.filter((holder) => holder.via === 'second') ?? [];
    draft.seats.set(seat.id, { ...run, holders: [...role, ...seconds], epoch: there ? there.epoch + 1 : 1 });
    return;
  }
  const retimed = !alike(old.due, seat.due) || !alike(old.closes, seat.closes);
  // Times of the stage were given anew since; these are newer.
  if (retimed && there.status === 'idle' && draft.stages.get(stage.id)?.retimed)
    seatOf(draft, seat.id).given = { due: instantOf(seat.due), closes: instantOf(seat.closes) };
}

/** The second holders of a seat who stay when `person` takes it. */
function secondsBeside(seat: SeatRun, person: string): Holder[] {
  return seat.holders.filter((holder) => holder.via === 'second' && holder.person !== person);
}

/** Every stage goes idle, kept decisions are filled in, and the route is walked again from its root. */
function beginRound(draft: Draft, data: Extract<CirculationEvent, { type: 'round.begun' }>['data']): void {
  draft.phase = 'running';
  draft.round = data.round;
  draft.rework = null;
  draft.acceptances.push(...data.keep);
  const times = new Map(data.times.map((entry) => [entry.stage, entry]));
  // Conditions are decided anew.
  for (const [id, block] of draft.blocks)
    draft.blocks.set(id, { ...block, gone: block.gone === 'skipped' ? null : block.gone, decided: false });
  for (const id of draft.stages.keys()) {
    const stage = stageOf(draft, id);
    const own = times.get(id) ?? stage;
    if (stage.gone === 'skipped') stage.gone = null;
    stage.decided = false;
    stage.status = 'idle';
    stage.held = null;
    stage.stuck = false;
    stage.since = null;
    stage.ended = null;
    stage.due = own.due;
    stage.closes = own.closes;
    stage.retimed ||= times.has(id);
    // Whatever single seats had been given before falls with times given anew.
    if (times.has(id))
      for (const seat of stage.seats) if (draft.seats.get(seat)?.given) seatOf(draft, seat).given = null;
  }
  const kept = new Map(data.keep.map((entry) => [entry.seat, entry.decision]));
  const left = new Set(data.leave);
  for (const id of draft.seats.keys()) {
    const seat = seatOf(draft, id);
    const decision = kept.get(id);
    seat.proposal = null;
    // A group's task that somebody took goes back to the group.
    seat.holders = seat.holders.filter((holder) => holder.via !== 'taken');
    if (decision !== undefined) {
      seat.status = 'decided';
      seat.decision = decision;
      seat.kept = true;
      seat.passed = false;
    } else if (left.has(id)) {
      seat.status = 'declined';
      seat.passed = true;
    } else {
      seat.status = 'idle';
      seat.passed = false;
      seat.since = null;
      seat.due = null;
      seat.closes = null;
      seat.decision = null;
      seat.kept = false;
      beginAnew(seat);
    }
  }
}

/** The state after one more event. Pure: the state given stays as it was. */
export function evolve(state: Circulation | null, event: CirculationEvent): Circulation {
  if (!state) return begin(event);
  const draft = draftOf(state);
  apply(draft, event);
  return draft;
}

/** The state after further events, each a constant amount of work however long the stream is. */
export function fold(events: Iterable<CirculationEvent>, from: Circulation | null = null): Circulation | null {
  let draft: Draft | null = from && draftOf(from);
  made = new Set();
  try {
    for (const event of events) {
      if (draft) apply(draft, event);
      else draft = begin(event);
    }
    return draft;
  } finally {
    made = null;
  }
}
