import { type CirculationEvent, isPositive } from './events';
import { freshRuns } from './runs';
import { type Circulation, newest, type SeatRun, type StageRun } from './state';

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
    blocks: new Map(state.blocks),
    stages: new Map(state.stages),
    seats: new Map(state.seats),
    versions: state.versions.slice(),
    decisions: state.decisions.slice(),
    acceptances: state.acceptances.slice(),
    comments: state.comments.slice(),
    fields: state.fields.slice(),
    fieldsOn: new Map(state.fieldsOn),
    frozen: new Map(state.frozen),
    revisions: state.revisions.slice(),
  };
}

/** Reminders of a seat that a state keeps, the newest: a stream of many thousand would copy them all each time. */
const remindersKept = 50;

function putSeat(draft: Draft, id: string, change: Partial<SeatRun>): void {
  draft.seats.set(id, { ...(draft.seats.get(id) as SeatRun), ...change });
}

function putStage(draft: Draft, id: string, change: Partial<StageRun>): void {
  draft.stages.set(id, { ...(draft.stages.get(id) as StageRun), ...change });
}

function seatIn(draft: Draft, id: string): SeatRun {
  return draft.seats.get(id) as SeatRun;
}

/** Starts a stream's state from its first event. */
export function begin(event: CirculationEvent): Draft {
  if (event.type !== 'circulation.created') throw new Error(`a circulation cannot begin with ${event.type}`);
  const { records, plan, ...data } = event.data;
  const runs = freshRuns(plan);
  return {
    ...data,
    records: records.slice(),
    phase: 'new',
    round: 1,
    created: event.at,
    sent: null,
    ended: null,
    last: event.at,
    plan,
    note: null,
    blocks: new Map(runs.blocks),
    stages: new Map(runs.stages),
    seats: new Map(runs.seats),
    versions: [],
    attached: null,
    decisions: [],
    acceptances: [],
    comments: [],
    fields: [],
    fieldsOn: new Map(),
    frozen: new Map(),
    rework: null,
    proposed: null,
    proposals: 0,
    finals: null,
    revisions: [],
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
      draft.blocks = new Map(runs.blocks);
      draft.stages = new Map(runs.stages);
      draft.seats = new Map(runs.seats);
      return;
    }
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
      draft.proposed = null;
      return;
    case 'circulation.sent':
      draft.phase = 'running';
      draft.sent = event.at;
      return;
    case 'stage.opened':
      putStage(draft, event.data.stage, { status: 'open', held: null, since: event.at });
      return;
    case 'stage.held':
      putStage(draft, event.data.stage, { held: event.data.for });
      return;
    case 'stage.timed':
      putStage(draft, event.data.stage, { due: event.data.due, closes: event.data.closes, held: null });
      return;
    case 'file.frozen': {
      const { file: id, content, frozen, fields } = event.data;
      draft.frozen.set(id, { content, file: frozen, fields, at: event.at });
      return;
    }
    case 'seat.asked': {
      const { seat, holders, due, closes, epoch } = event.data;
      putSeat(draft, seat, {
        status: 'asked',
        holders,
        since: event.at,
        due,
        closes,
        epoch,
        given: null,
        seen: null,
        reminded: [],
      });
      return;
    }
    case 'seat.seen':
      putSeat(draft, event.data.seat, { seen: { at: event.at, scope: event.data.scope } });
      return;
    case 'seat.decided': {
      const { seat, outcome, epoch: _, ...data } = event.data;
      draft.decisions.push({
        ...data,
        seat,
        outcome,
        by: event.actor,
        onBehalfOf: event.onBehalfOf,
        version: newest(draft)?.number ?? 0,
        round: draft.round,
        at: event.at,
      });
      putSeat(draft, seat, {
        status: isPositive(outcome) ? 'decided' : outcome === 'declined' ? 'declined' : 'returned',
        decision: draft.decisions.length - 1,
        kept: false,
        passed: false,
      });
      return;
    }
    case 'seat.missed':
      putSeat(draft, event.data.seat, { status: 'missed' });
      return;
    case 'seat.released':
      putSeat(draft, event.data.seat, { status: 'released' });
      return;
    case 'seat.passed':
      putSeat(draft, event.data.seat, { passed: true });
      return;
    case 'stage.stuck':
      putStage(draft, event.data.stage, { stuck: true });
      return;
    case 'stage.healed':
      putStage(draft, event.data.stage, { stuck: false });
      return;
    case 'stage.closed':
      putStage(draft, event.data.stage, { status: 'done', held: null, ended: event.at, stuck: false });
      return;
    case 'stage.released':
      putStage(draft, event.data.stage, { status: 'released', held: null, ended: event.at, stuck: false });
      return;
    case 'rework.began': {
      const { cause, seat, suspends } = event.data;
      draft.phase = 'rework';
      draft.rework = { cause, seat, at: event.at, version: newest(draft)?.number ?? 0 };
      draft.proposed = null;
      for (const id of suspends) putSeat(draft, id, { status: 'suspended' });
      return;
    }
    case 'round.proposed':
      draft.proposed = event.data;
      draft.proposals = event.data.proposal;
      return;
    case 'round.begun':
      beginRound(draft, event.data);
      return;
    case 'seat.extended': {
      const { seat, ...given } = event.data;
      putSeat(draft, seat, given);
      return;
    }
    case 'seat.askedAgain': {
      const { seat, due, closes } = event.data;
      putSeat(draft, seat, {
        status: 'asked',
        since: event.at,
        due,
        closes,
        seen: null,
        reminded: [],
        decision: null,
        passed: false,
      });
      return;
    }
    case 'seat.reminded': {
      const { seat } = event.data;
      putSeat(draft, seat, { reminded: [...seatIn(draft, seat).reminded.slice(1 - remindersKept), event.at] });
      return;
    }
    case 'seat.delegated': {
      const { seat, to, epoch } = event.data;
      const seconds = seatIn(draft, seat).holders.filter((holder) => holder.via === 'second' && holder.person !== to);
      putSeat(draft, seat, {
        holders: [{ person: to, via: 'delegated', outside: false }, ...seconds],
        epoch,
        seen: null,
        reminded: [],
      });
      return;
    }
    case 'seat.reassigned': {
      const { seat: id, to, epoch, barred, status, due, closes } = event.data;
      const seat = seatIn(draft, id);
      const seconds = seat.holders.filter((holder) => holder.via === 'second' && holder.person !== to.person);
      putSeat(draft, id, {
        holders: [{ person: to.person, via: 'reassigned', outside: to.kind === 'outside' }, ...seconds],
        barred,
        epoch,
        status,
        passed: false,
        since: status === 'asked' ? event.at : seat.since,
        due: status === 'asked' ? due : null,
        closes: status === 'asked' ? closes : null,
        given: status === 'idle' ? { due, closes } : null,
        seen: null,
        reminded: [],
        decision: null,
        kept: false,
      });
      return;
    }
    case 'secondHolder.added': {
      const { seat: id, person } = event.data;
      const seat = seatIn(draft, id);
      putSeat(draft, id, {
        holders: [...seat.holders, { person, via: 'second', outside: false }],
        barred: seat.barred.filter((barred) => barred !== person),
      });
      return;
    }
    case 'secondHolder.dropped': {
      const { seat, person } = event.data;
      putSeat(draft, seat, {
        holders: seatIn(draft, seat).holders.filter((holder) => holder.via !== 'second' || holder.person !== person),
      });
      return;
    }
    case 'link.copied':
      putSeat(draft, event.data.seat, { linkCopied: event.data.epoch });
      return;
    case 'comment.made': {
      const { comment, ...data } = event.data;
      draft.comments.push({
        ...data,
        id: comment,
        by: event.actor,
        at: event.at,
        version: newest(draft)?.number ?? 0,
        resolved: false,
      });
      return;
    }
    case 'comment.resolved': {
      const at = draft.comments.findIndex((comment) => comment.id === event.data.comment);
      const comment = draft.comments[at];
      if (comment) draft.comments[at] = { ...comment, resolved: true };
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
      return;
  }
}

/** Every stage goes idle, kept decisions are filled in, and the route is walked again from its root. */
function beginRound(draft: Draft, data: Extract<CirculationEvent, { type: 'round.begun' }>['data']): void {
  draft.phase = 'running';
  draft.round = data.round;
  draft.rework = null;
  draft.proposed = null;
  draft.acceptances.push(...data.keep);
  const times = new Map(data.times.map((entry) => [entry.stage, entry]));
  for (const [id, stage] of draft.stages) {
    const own = times.get(id) ?? stage;
    draft.stages.set(id, {
      ...stage,
      status: 'idle',
      held: null,
      stuck: false,
      since: null,
      ended: null,
      due: own.due,
      closes: own.closes,
    });
  }
  const kept = new Map(data.keep.map((entry) => [entry.seat, entry.decision]));
  const left = new Set(data.leave);
  for (const [id, seat] of draft.seats) {
    const decision = kept.get(id);
    if (decision !== undefined)
      draft.seats.set(id, { ...seat, status: 'decided', decision, kept: true, passed: false });
    else if (left.has(id)) draft.seats.set(id, { ...seat, status: 'declined', passed: true });
    else
      draft.seats.set(id, {
        ...seat,
        status: 'idle',
        passed: false,
        since: null,
        due: null,
        closes: null,
        seen: null,
        reminded: [],
        decision: null,
        kept: false,
      });
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
  for (const event of events) {
    if (draft) apply(draft, event);
    else draft = begin(event);
  }
  return draft;
}
