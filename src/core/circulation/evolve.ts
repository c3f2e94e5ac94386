import type { CirculationEvent } from './events';
import { isPositive } from './events';
import { type Circulation, laidOut, newest, reachable, type SeatState, type StageNode, stageOf } from './state';

/** A state under construction: its own arrays, whose entries are replaced and never changed. */
export type Draft = {
  -readonly [K in keyof Circulation]: Circulation[K] extends readonly (infer Item)[] ? Item[] : Circulation[K];
};

/** A draft that shares entries with `state` but none of its arrays. */
export function draftOf(state: Circulation): Draft {
  return {
    ...state,
    nodes: state.nodes.slice(),
    seats: state.seats.slice(),
    versions: state.versions.slice(),
    decisions: state.decisions.slice(),
    comments: state.comments.slice(),
    fields: state.fields.slice(),
  };
}

function putSeat(draft: Draft, id: string, change: Partial<SeatState>): SeatState {
  const at = draft.index.get(id) as number;
  const seat = { ...(draft.seats[at] as SeatState), ...change };
  draft.seats[at] = seat;
  return seat;
}

function putStage(draft: Draft, id: string, change: Partial<StageNode>): void {
  const at = draft.index.get(id) as number;
  draft.nodes[at] = { ...(draft.nodes[at] as StageNode), ...change };
}

function seatOf(draft: Draft, id: string): SeatState {
  return draft.seats[draft.index.get(id) as number] as SeatState;
}

/** What was out of reach may be in reach again after a seat was reopened. */
function heal(draft: Draft, seat: SeatState): void {
  const stage = stageOf(draft, seat);
  if (stage.stuck && reachable(draft, stage)) putStage(draft, stage.plan.id, { stuck: false });
}

/** Starts a stream's state from its first event. */
export function begin(event: CirculationEvent): Draft {
  if (event.type !== 'circulation.created') throw new Error(`a circulation cannot begin with ${event.type}`);
  const { number, record, change, controller, author, route } = event.data;
  const laid = laidOut(route);
  return {
    number,
    record,
    change,
    controller,
    author,
    phase: 'new',
    round: 1,
    created: event.at,
    sent: null,
    ended: null,
    last: event.at,
    route,
    note: null,
    ...laid,
    nodes: laid.nodes.slice(),
    seats: laid.seats.slice(),
    versions: [],
    attached: null,
    decisions: [],
    comments: [],
    fields: [],
    fieldsOn: null,
    frozen: null,
    rework: null,
    plan: null,
    planRevision: 0,
    final: null,
    revision: null,
  };
}

/** Assigns what an event says into the draft. It only assigns: every choice was made in `decide`. */
export function apply(draft: Draft, event: CirculationEvent): void {
  draft.last = event.at;
  switch (event.type) {
    case 'circulation.created':
      return;
    case 'route.planned': {
      const laid = laidOut(event.data.route);
      draft.route = event.data.route;
      draft.note = event.data.note;
      draft.nodes = laid.nodes.slice();
      draft.seats = laid.seats.slice();
      draft.index = laid.index;
      return;
    }
    case 'fields.put':
      draft.fields = event.data.fields.slice();
      draft.fieldsOn = event.data.file;
      return;
    case 'version.attached':
      draft.versions.push(event.data.version);
      draft.attached = event.at;
      draft.frozen = null;
      draft.plan = null;
      return;
    case 'circulation.sent':
      draft.phase = 'running';
      draft.sent = event.at;
      return;
    case 'stage.opened':
      putStage(draft, event.data.stage, { status: 'open', since: event.at });
      return;
    case 'stage.held':
      putStage(draft, event.data.stage, { status: 'held', since: event.at });
      return;
    case 'pages.frozen':
      draft.frozen = { file: event.data.file, fields: event.data.fields, at: event.at };
      return;
    case 'seat.asked':
      putSeat(draft, event.data.seat, {
        status: 'asked',
        since: event.at,
        due: event.data.due,
        closes: event.data.closes,
        seen: null,
        reminded: [],
      });
      return;
    case 'seat.seen':
      putSeat(draft, event.data.seat, { seen: { at: event.at, scope: event.data.scope } });
      return;
    case 'seat.decided': {
      const { seat: id, outcome, scope, note, filled, evidence } = event.data;
      const seat = seatOf(draft, id);
      draft.decisions.push({
        seat: id,
        holder: seat.holder,
        by: event.actor,
        onBehalfOf: event.onBehalfOf,
        outcome,
        scope,
        version: newest(draft)?.number ?? 0,
        round: draft.round,
        at: event.at,
        note,
        filled,
        evidence,
      });
      putSeat(draft, id, {
        status: isPositive(outcome) ? 'decided' : outcome === 'declined' ? 'declined' : 'returned',
        decision: draft.decisions.length - 1,
        kept: false,
      });
      return;
    }
    case 'seat.missed':
      putSeat(draft, event.data.seat, { status: 'missed' });
      return;
    case 'seat.released':
      putSeat(draft, event.data.seat, { status: 'released' });
      return;
    case 'stage.stuck':
      putStage(draft, event.data.stage, { stuck: true });
      return;
    case 'stage.closed':
      putStage(draft, event.data.stage, { status: 'done', ended: event.at, stuck: false });
      return;
    case 'stage.released':
      putStage(draft, event.data.stage, { status: 'released', ended: event.at, stuck: false });
      return;
    case 'rework.began':
      draft.phase = 'rework';
      draft.rework = { ...event.data, at: event.at, version: newest(draft)?.number ?? 0 };
      draft.plan = null;
      for (const seat of draft.seats) if (seat.status === 'asked') putSeat(draft, seat.id, { status: 'suspended' });
      return;
    case 'round.proposed':
      draft.plan = event.data;
      draft.planRevision = event.data.revision;
      return;
    case 'round.begun':
      beginRound(draft, event.data);
      return;
    case 'seat.extended':
      heal(
        draft,
        putSeat(draft, event.data.seat, {
          status: seatOf(draft, event.data.seat).status === 'missed' ? 'asked' : seatOf(draft, event.data.seat).status,
          due: event.data.due,
          closes: event.data.closes,
        }),
      );
      return;
    case 'seat.reminded': {
      const seat = seatOf(draft, event.data.seat);
      putSeat(draft, seat.id, { reminded: [...seat.reminded, event.at] });
      return;
    }
    case 'seat.delegated': {
      const { seat, to, epoch } = event.data;
      putSeat(draft, seat, { holder: to, epoch, seen: null, outside: false });
      return;
    }
    case 'seat.reassigned': {
      const { seat: id, from, to, epoch, due, closes } = event.data;
      const seat = seatOf(draft, id);
      const open = stageOf(draft, seat).status === 'open';
      const status =
        seat.status === 'idle' || !open ? seat.status : draft.phase === 'running' ? 'asked' : ('suspended' as const);
      heal(
        draft,
        putSeat(draft, id, {
          holder: to.person,
          outside: to.kind === 'outside',
          secondHolders: seat.secondHolders.filter((person) => person !== to.person),
          barred: [...seat.barred.filter((person) => person !== to.person && person !== from), from],
          epoch,
          status,
          since: status === 'asked' ? event.at : seat.since,
          due: status === 'asked' ? due : seat.due,
          closes: status === 'asked' ? closes : seat.closes,
          seen: null,
          reminded: [],
          decision: status === 'asked' || status === 'suspended' ? null : seat.decision,
        }),
      );
      return;
    }
    case 'secondHolder.added': {
      const seat = seatOf(draft, event.data.seat);
      putSeat(draft, seat.id, {
        secondHolders: [...seat.secondHolders, event.data.person],
        barred: seat.barred.filter((person) => person !== event.data.person),
      });
      return;
    }
    case 'secondHolder.dropped': {
      const seat = seatOf(draft, event.data.seat);
      putSeat(draft, seat.id, { secondHolders: seat.secondHolders.filter((person) => person !== event.data.person) });
      return;
    }
    case 'comment.made':
      draft.comments.push({
        id: event.data.comment,
        thread: event.data.thread,
        by: event.actor,
        at: event.at,
        version: newest(draft)?.number ?? 0,
        file: event.data.file,
        spot: event.data.spot,
        note: event.data.note,
        resolved: false,
      });
      return;
    case 'comment.resolved':
      draft.comments = draft.comments.map((comment) =>
        comment.id === event.data.comment ? { ...comment, resolved: true } : comment,
      );
      return;
    case 'sealing.began':
      draft.phase = 'sealing';
      return;
    case 'final.kept':
      draft.final = event.data;
      return;
    case 'circulation.withdrawn':
      draft.phase = 'withdrawn';
      draft.ended = event.at;
      return;
    case 'circulation.completed':
      draft.phase = 'completed';
      draft.ended = event.at;
      draft.revision = event.data.revision;
      return;
  }
}

/** Every stage goes idle, kept decisions are filled in, and the route is walked again from its root. */
function beginRound(draft: Draft, data: Extract<CirculationEvent, { type: 'round.begun' }>['data']): void {
  draft.phase = 'running';
  draft.round = data.round;
  draft.rework = null;
  draft.plan = null;
  const times = new Map(data.times.map((entry) => [entry.stage, entry]));
  draft.nodes = draft.nodes.map((node) => {
    if (node.kind !== 'stage') return node;
    const own = times.get(node.plan.id);
    return {
      ...node,
      status: 'idle' as const,
      stuck: false,
      since: null,
      ended: null,
      due: own ? own.due : node.due,
      closes: own ? own.closes : node.closes,
    };
  });
  const kept = new Map(data.keep.map((entry) => [entry.seat, entry.decision]));
  draft.seats = draft.seats.map((seat) => {
    const decision = kept.get(seat.id);
    return decision === undefined
      ? {
          ...seat,
          secondHolders: [],
          status: 'idle' as const,
          since: null,
          due: null,
          closes: null,
          seen: null,
          reminded: [],
          decision: null,
          kept: false,
        }
      : { ...seat, status: 'decided' as const, decision, kept: true };
  });
}

/** The state after one more event. Pure: the state given stays as it was. */
export function evolve(state: Circulation | null, event: CirculationEvent): Circulation {
  if (!state) return begin(event);
  const draft = draftOf(state);
  apply(draft, event);
  return draft;
}

/** The state after a whole stream, or null for an empty one. */
export function fold(events: Iterable<CirculationEvent>): Circulation | null {
  let draft: Draft | null = null;
  for (const event of events) {
    if (draft) apply(draft, event);
    else draft = begin(event);
  }
  return draft;
}
