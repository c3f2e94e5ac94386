import { mapStages } from '../../route/route';
import { isPositive } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { CirculationEvent, CirculationEventType } from './events';
import { freshRuns, freshSeatRun } from './runs';
import type { BlockRun, CopyRun, RunChanges, SeatRun, SeatTimes, StageRun, StageTimes, Wait } from './shapes';
import { type Circulation, heldBy, newest, plannedCopies, seatPlan, waitsTold } from './state';

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
export function ownSeat(draft: Draft, id: string): Own<SeatRun> {
  const there = draft.seats.get(id) as SeatRun;
  if (made?.has(there)) return there;
  const own = { ...there };
  draft.seats.set(id, own);
  made?.add(own);
  return own;
}

/** The same of a stage. */
export function ownStage(draft: Draft, id: string): Own<StageRun> {
  const there = draft.stages.get(id) as StageRun;
  if (made?.has(there)) return there;
  const own = { ...there };
  draft.stages.set(id, own);
  made?.add(own);
  return own;
}

/** Takes over what has become of parts of the route. */
function assignRuns(draft: Draft, { blocks, stages, seats, copies }: RunChanges): void {
  for (const change of blocks) draft.blocks.set(change.id, { ...draft.blocks.get(change.id), ...change } as BlockRun);
  for (const change of copies) draft.copies.set(change.id, { ...draft.copies.get(change.id), ...change } as CopyRun);
  for (const change of stages)
    if (draft.stages.has(change.id)) Object.assign(ownStage(draft, change.id), change);
    else draft.stages.set(change.id, change as StageRun);
  for (const change of seats)
    if (draft.seats.has(change.id)) Object.assign(ownSeat(draft, change.id), change);
    else draft.seats.set(change.id, change as SeatRun);
}

/** What of a seat's time as the one who is asked begins anew; waits of those who were asked before end untold. */
export function beginAnew(seat: Own<SeatRun>): void {
  if (seat.waits.length > 0) seat.waits = waitsTold(seat.waits);
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

type EventOf<T extends CirculationEventType> = Extract<CirculationEvent, { type: T }>;

/** What each event assigns. It only assigns: every choice was made in `decide`, and stands in the event. */
const assign: { readonly [T in CirculationEventType]: (draft: Draft, event: EventOf<T>) => void } = {
  'circulation.created': () => {},
  'route.planned': (draft, event) => {
    const runs = freshRuns(event.data.plan);
    draft.plan = event.data.plan;
    draft.note = event.data.note;
    draft.whole = event.data.whole;
    draft.copies = new Map(runs.copies);
    draft.blocks = new Map(runs.blocks);
    draft.stages = new Map(runs.stages);
    draft.seats = new Map(runs.seats);
  },
  'facts.given': (draft, event) => {
    draft.facts = event.data.facts;
    draft.factNames = event.data.names;
  },
  'fields.put': (draft, event) => {
    const { file, content, fields } = event.data;
    draft.fields = [...draft.fields.filter((field) => field.file !== file), ...fields];
    draft.fieldsOn.set(file, content);
    draft.frozen.delete(file);
  },
  'version.attached': (draft, event) => {
    draft.versions.push(event.data.version);
    draft.attached = event.at;
    for (const file of event.data.ends) draft.frozen.delete(file);
    draft.unsigned.push(...event.data.unsigned);
  },
  'circulation.sent': (draft, event) => {
    draft.phase = 'running';
    draft.sent = event.at;
    draft.releasesItself = event.data.releasesItself;
    draft.reminders = event.data.reminders;
    draft.due = event.data.due;
    draft.closes = event.data.closes;
    for (const { of, person, outside } of event.data.roles) {
      if (!draft.seats.has(of) || person === null) continue;
      const seat = ownSeat(draft, of);
      seat.holders = heldBy(seat, { person, via: 'role', outside, since: null });
    }
    for (const { id, to } of plannedCopies(draft)) {
      const run = draft.copies.get(id);
      const filled = event.data.roles.filter(({ of }) => to.some((entry) => entry.id === of));
      if (run && filled.length > 0)
        draft.copies.set(id, { ...run, filled: Object.fromEntries(filled.map(({ of, person }) => [of, person])) });
    }
  },
  'circulation.closed': (draft, event) => {
    draft.closed = event.data.instant;
    draft.still ??= event.data.instant;
  },
  'circulation.paused': (draft, event) => {
    draft.paused = event.at;
    draft.still ??= event.at;
  },
  'circulation.wentOn': (draft, event) => {
    draft.paused = null;
    goOn(draft, event.data);
  },
  'circulation.extended': (draft, event) => {
    draft.due = event.data.due;
    draft.closes = event.data.closes;
    draft.closed = null;
    goOn(draft, event.data);
  },
  'circulation.amended': (draft, event) => {
    const { plan, note, whole, times, runs, retired, fieldsGone } = event.data;
    assignRuns(draft, runs);
    draft.plan = plan;
    draft.note = note;
    draft.amendments += 1;
    draft.retired.push(...retired);
    if (fieldsGone.length > 0) draft.fields = draft.fields.filter(({ id }) => !fieldsGone.includes(id));
    if (whole) {
      draft.due = whole.due;
      draft.closes = whole.closes;
    }
    for (const { seat: id, due, closes } of times) {
      const seat = ownSeat(draft, id);
      seat.due = due;
      seat.closes = closes;
      seat.asking = null;
      seat.told = [];
    }
  },
  'control.handed': (draft, event) => {
    draft.formerControllers = [...draft.formerControllers, draft.controller];
    draft.controller = event.data.to;
  },
  'part.decided': (draft, event) => {
    const { part, holds } = event.data;
    const gone = holds ? null : 'skipped';
    const block = draft.blocks.get(part);
    if (block) draft.blocks.set(part, { ...block, gone, decided: true });
    else {
      const stage = ownStage(draft, part);
      stage.gone = gone;
      stage.decided = true;
      if (!holds) stage.ended = event.at;
    }
  },
  'group.resolved': (draft, event) => {
    const { seat: id, members } = event.data;
    const whole = ownSeat(draft, id);
    const plan = seatPlan(draft, whole.planned);
    if (!plan) return;
    whole.gone = 'expanded';
    // Second holders of the whole may act on any of its seats.
    const seconds = whole.holders.filter((holder) => holder.via === 'second');
    for (const member of members) {
      const own = freshSeatRun(whole.stage, plan, { id: member.seat, person: member.person });
      draft.seats.set(own.id, { ...own, holders: [...own.holders, ...seconds] });
    }
    const stage = ownStage(draft, whole.stage);
    stage.seats = stage.seats.flatMap((own) => (own === id ? [own, ...members.map(({ seat }) => seat)] : [own]));
  },
  'copies.reached': (draft, event) => {
    const { copies, to, version, waits } = event.data;
    const { filled = {} } = draft.copies.get(copies) ?? {};
    draft.copies.set(copies, { id: copies, status: waits ? 'reached' : 'sent', filled, to, version });
  },
  'copies.sent': (draft, event) => {
    const run = draft.copies.get(event.data.copies);
    if (run) draft.copies.set(run.id, { ...run, status: 'sent' });
  },
  'stage.opened': (draft, event) => {
    const stage = ownStage(draft, event.data.stage);
    stage.status = 'open';
    stage.held = null;
    stage.since = event.at;
  },
  'stage.held': (draft, event) => {
    ownStage(draft, event.data.stage).held = event.data.for;
  },
  'stage.freed': (draft, event) => {
    ownStage(draft, event.data.stage).held = null;
  },
  'stage.ruled': (draft, event) => {
    const { stage: id, k } = event.data;
    const rule = { kind: 'atLeast', k } as const;
    draft.plan = mapStages(draft.plan, (stage) => (stage.id === id ? { ...stage, rule } : stage));
  },
  'stage.timed': (draft, event) => {
    const stage = ownStage(draft, event.data.stage);
    stage.due = event.data.due;
    stage.closes = event.data.closes;
    stage.retimed = true;
    stage.held = null;
    // Whatever single seats had been given before falls with it.
    for (const id of stage.seats) if (draft.seats.get(id)?.given) ownSeat(draft, id).given = null;
  },
  'file.frozen': (draft, event) => {
    const { file: id, content, frozen, fields } = event.data;
    draft.frozen.set(id, { content, chain: [frozen], fields, at: event.at });
  },
  'seat.asked': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.status = 'asked';
    seat.holders = event.data.holders;
    seat.since = event.at;
    seat.due = event.data.due;
    seat.closes = event.data.closes;
    seat.epoch = event.data.epoch;
    seat.nobody = event.data.nobody;
    seat.groupCalled = event.data.group;
    seat.given = null;
    askAnew(seat, event.data.to, event.data, event.at);
  },
  'seat.seen': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    const { wait, due, scope } = event.data;
    seat.opened = [...seat.opened, { person: event.actor, scope, at: event.at }];
    if (wait) addWaits(seat, [wait], event.at);
    if (due !== null) seat.due = due;
  },
  'seat.freed': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    const { person } = event.data;
    seat.waits = waitsTold(seat.waits, person);
  },
  'seat.taken': (draft, event) => {
    const { person, due } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.due = due;
    seat.holders = heldBy(seat, { person, via: 'taken', outside: false, since: event.at });
    seat.nobody = false;
  },
  'seat.givenBack': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.holders = seat.holders.filter((holder) => holder.via === 'second');
    seat.proposal = null;
  },
  'seat.named': (draft, event) => {
    const { to, outside, epoch } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.holders = heldBy(seat, { person: to, via: 'named', outside, since: event.at });
    seat.epoch = epoch;
  },
  'delegation.asked': (draft, event) => {
    const { to, note } = event.data;
    ownSeat(draft, event.data.seat).proposal = { to, by: event.actor, at: event.at, note };
  },
  'delegation.refused': (draft, event) => {
    ownSeat(draft, event.data.seat).proposal = null;
  },
  'seat.decided': (draft, event) => {
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
    const seat = ownSeat(draft, data.seat);
    seat.status = isPositive(data.outcome) ? 'decided' : data.outcome === 'declined' ? 'declined' : 'returned';
    seat.decision = draft.decisions.length - 1;
    seat.kept = false;
    seat.passed = false;
    seat.proposal = null;
    seat.asking = null;
  },
  'seat.missed': (draft, event) => {
    ownSeat(draft, event.data.seat).status = 'missed';
  },
  'seat.released': (draft, event) => {
    ownSeat(draft, event.data.seat).status = 'released';
  },
  'seat.passed': (draft, event) => {
    ownSeat(draft, event.data.seat).passed = true;
  },
  'stage.stuck': (draft, event) => {
    ownStage(draft, event.data.stage).stuck = true;
  },
  'stage.healed': (draft, event) => {
    ownStage(draft, event.data.stage).stuck = false;
  },
  'stage.closed': (draft, event) => {
    endStage(draft, event.data.stage, 'done', event.at);
  },
  'stage.released': (draft, event) => {
    endStage(draft, event.data.stage, 'released', event.at);
  },
  'rework.began': (draft, event) => {
    const { cause, seat, suspends } = event.data;
    draft.phase = 'rework';
    draft.rework = { cause, seat, at: event.at, version: newest(draft)?.number ?? 0 };
    for (const id of suspends) ownSeat(draft, id).status = 'suspended';
  },
  'round.begun': (draft, event) => {
    const { round, keep, runs } = event.data;
    draft.phase = 'running';
    draft.round = round;
    draft.rework = null;
    draft.acceptances.push(...keep);
    assignRuns(draft, runs);
    // What stood still before is over with its round.
    if (draft.still !== null) draft.still = event.at;
  },
  'question.asked': (draft, event) => {
    const { question, seat: id, note, waits } = event.data;
    const version = newest(draft)?.number ?? 0;
    const { actor: by, at } = event;
    draft.questions.set(question, { id: question, seat: id, by, at, version, note, answer: null });
    if (waits) {
      const seat = ownSeat(draft, id);
      seat.asking = at;
      seat.waited = true;
    }
  },
  'question.answered': (draft, event) => {
    const { question: id, seat: of, note, due } = event.data;
    const question = draft.questions.get(id);
    if (question) draft.questions.set(id, { ...question, answer: { by: event.actor, at: event.at, note } });
    if (due !== null) {
      const seat = ownSeat(draft, of);
      seat.due = due;
      seat.asking = null;
    }
  },
  'seat.extended': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.status = event.data.status;
    seat.due = event.data.due;
    seat.closes = event.data.closes;
    seat.asking = null;
    seat.told = [];
  },
  'seat.askedAgain': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.status = 'asked';
    seat.since = event.at;
    seat.due = event.data.due;
    seat.closes = event.data.closes;
    seat.decision = null;
    seat.passed = false;
    askAnew(seat, event.data.to, event.data, event.at);
  },
  'seat.reminded': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.reminded = [...seat.reminded.slice(1 - remindersKept), event.at];
    seat.pointed = event.data.point ?? seat.pointed;
  },
  'seat.lateTold': (draft, event) => {
    const seat = ownSeat(draft, event.data.seat);
    seat.told = [...seat.told, event.data.to];
  },
  'reminders.set': (draft, event) => {
    draft.reminders = event.data.plan;
  },
  'seat.delegated': (draft, event) => {
    const { to, outside, epoch, due } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.due = due;
    seat.holders = heldBy(seat, { person: to, via: 'delegated', outside, since: event.at });
    seat.group = null;
    seat.nobody = false;
    seat.proposal = null;
    seat.epoch = epoch;
    askAnew(seat, [to], event.data, event.at);
  },
  'seat.reassigned': (draft, event) => {
    const { to, epoch, barred, status, due, closes, scope, waits } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    const asked = status === 'asked';
    seat.holders = heldBy(seat, {
      person: to.person,
      via: 'reassigned',
      outside: to.kind === 'outside',
      since: event.at,
    });
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
  },
  'seat.readdressed': (draft, event) => {
    const { to, epoch, due, scope, waits } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.holders = heldBy(seat, { person: to, via: 'reassigned', outside: true, since: event.at });
    seat.barred = seat.barred.filter((barred) => barred !== to);
    seat.epoch = epoch;
    seat.due = due;
    seat.proposal = null;
    beginAnew(seat);
    if (seat.status === 'asked') send(seat, [to], scope, event.at);
    addWaits(seat, waits, event.at);
  },
  'secondHolder.added': (draft, event) => {
    const { person } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.holders = [...seat.holders, { person, via: 'second', outside: false, since: event.at }];
    seat.barred = seat.barred.filter((barred) => barred !== person);
    seat.nobody = false;
    if (seat.status === 'asked') send(seat, [person], event.data.scope, event.at);
    addWaits(seat, event.data.waits, event.at);
  },
  'secondHolder.dropped': (draft, event) => {
    const { person } = event.data;
    const seat = ownSeat(draft, event.data.seat);
    seat.holders = seat.holders.filter((holder) => holder.via !== 'second' || holder.person !== person);
    seat.waits = waitsTold(seat.waits, person);
  },
  'link.copied': (draft, event) => {
    ownSeat(draft, event.data.seat).linkCopied = event.data.epoch;
  },
  'comment.made': (draft, event) => {
    const { comment, thread, file, spot, note } = event.data;
    const version = newest(draft)?.number ?? 0;
    const { actor: by, at } = event;
    draft.comments.set(comment, { id: comment, thread, by, at, version, file, spot, note, resolved: false });
  },
  'comment.resolved': (draft, event) => {
    resolve(draft, event.data.comment, true);
  },
  'comment.reopened': (draft, event) => {
    resolve(draft, event.data.comment, false);
  },
  'finishing.began': (draft) => {
    draft.phase = 'finishing';
  },
  'finals.kept': (draft, event) => {
    draft.finals = event.data;
  },
  'circulation.withdrawn': (draft, event) => {
    draft.phase = 'withdrawn';
    draft.ended = event.at;
  },
  'circulation.completed': (draft, event) => {
    draft.phase = 'completed';
    draft.ended = event.at;
    draft.revisions = event.data.revisions.slice();
    draft.evidence = event.data.evidence;
  },
};

/** Assigns what an event says into the draft. An event that nobody knows is a fault, never nothing. */
export function apply(draft: Draft, event: CirculationEvent): void {
  const own = assign[event.type] as ((draft: Draft, event: CirculationEvent) => void) | undefined;
  if (!own) throw new Error(`nobody knows the event ${event.type}`);
  draft.last = event.at;
  own(draft, event);
}

/** Takes over the times that were put off, and lets the clocks run where nothing holds them any more. */
function goOn(
  draft: Draft,
  put: { readonly seats: readonly SeatTimes[]; readonly stages: readonly StageTimes[] },
): void {
  for (const { seat: id, due, closes } of put.seats) {
    const seat = ownSeat(draft, id);
    if (seat.status === 'idle') seat.given = { due, closes };
    else {
      seat.due = due;
      seat.closes = closes;
    }
  }
  for (const { stage: id, due, closes } of put.stages) {
    const stage = ownStage(draft, id);
    stage.due = due;
    stage.closes = closes;
  }
  if (draft.closed === null && draft.paused === null) draft.still = null;
}

function endStage(draft: Draft, id: string, status: 'done' | 'released', at: Instant): void {
  const stage = ownStage(draft, id);
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

/** A seat is asked from its beginning: whoever was asked before has nothing to wait for. */
function askAnew(
  seat: Own<SeatRun>,
  people: readonly string[],
  { scope, waits }: { readonly scope: string | null; readonly waits: readonly Wait[] },
  at: Instant,
): void {
  beginAnew(seat);
  send(seat, people, scope, at);
  addWaits(seat, waits, at);
}

function resolve(draft: Draft, id: string, resolved: boolean): void {
  const comment = draft.comments.get(id);
  if (comment) draft.comments.set(id, { ...comment, resolved });
}

function addWaits(seat: Own<SeatRun>, waits: readonly Wait[], at: Instant): void {
  if (waits.length === 0) return;
  // Whoever need not wait any more has nothing to be told.
  const fresh = waits.map((wait) => ({ ...wait, told: wait.from !== null && wait.from <= at }));
  seat.waits = [...seat.waits, ...fresh];
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
