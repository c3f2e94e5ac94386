import { preflight } from '../route/preflight';
import { routeFaults } from '../route/route';
import type { Command } from './commands';
import { type CirculationBody, type CirculationEvent, isPositive, outcomesOf, system } from './events';
import { apply, begin, type Draft, draftOf } from './evolve';
import { type Refusal, type RefusalCode, refusal } from './refusal';
import { keepable, proposedLines, samePlan } from './round';
import { catchUp, type Emit, settle } from './settle';
import {
  type Circulation,
  decisionOf,
  holdersOf,
  mainFile,
  newest,
  type SeatState,
  scopeOf,
  seatAt,
  stageOf,
  standing,
} from './state';

/** Everything a decision depends on besides the state. */
export interface Context {
  /** Whole milliseconds; a stream never runs backwards, so an earlier instant counts as the stream's last. */
  readonly now: number;
  /** A person's id, or `system` for timers and derived files. */
  readonly actor: string;
}

export type Decided =
  | { readonly ok: true; readonly events: readonly CirculationEvent[]; readonly state: Circulation }
  | { readonly ok: false; readonly refusal: Refusal };

const hour = 3_600_000;

/**
 * What happens when a command meets a state: events in order and the state after them, or a refusal. Pure and
 * total. Every command first applies what is due, so late, double or missing timers change nothing.
 */
export function decide(state: Circulation | null, command: Command, context: Context): Decided {
  if (command.type === 'create') return create(state, command, context);
  if (!state) return { ok: false, refusal: refusal('not-found') };
  const now = Math.max(context.now, state.last);
  const draft = draftOf(state);
  const events: CirculationEvent[] = [];
  const emitAs =
    (actor: string, onBehalfOf: string | null): Emit =>
    (body: CirculationBody) => {
      const event = { ...body, at: now, actor, onBehalfOf } as CirculationEvent;
      apply(draft, event);
      events.push(event);
    };
  const own = emitAs(system, null);
  catchUp(draft, now, own);
  const refused = handle(draft, command, { ...context, now }, emitAs);
  if (refused) return { ok: false, refusal: refused };
  settle(draft, own);
  // A seat may have been asked after its closing time; then it is missed at once, not at the next command.
  catchUp(draft, now, own);
  return { ok: true, events, state: draft };
}

function create(state: Circulation | null, command: Extract<Command, { type: 'create' }>, context: Context): Decided {
  if (state) return { ok: false, refusal: refusal('exists-already') };
  if (routeFaults(command.route).length > 0) return { ok: false, refusal: refusal('route-unfit') };
  const { type: _, ...data } = command;
  const event: CirculationEvent = {
    type: 'circulation.created',
    at: context.now,
    actor: context.actor,
    onBehalfOf: null,
    data,
  };
  return { ok: true, events: [event], state: begin(event) };
}

type EmitAs = (actor: string, onBehalfOf: string | null) => Emit;

/** Checks one command against the draft and emits its events; gives the refusal, or null when it went through. */
function handle(
  draft: Draft,
  command: Exclude<Command, { type: 'create' }>,
  context: Context,
  emitAs: EmitAs,
): Refusal | null {
  const emit = emitAs(context.actor, null);
  switch (command.type) {
    case 'wake':
      return null;
    case 'plan': {
      const bad = steering(draft, context, 'new');
      if (bad) return bad;
      if (routeFaults(command.route).length > 0) return refusal('route-unfit');
      emit({ type: 'route.planned', data: { route: command.route, words: command.words } });
      return null;
    }
    case 'putPlaces':
      return putPlaces(draft, command, context, emit);
    case 'attach':
      return attach(draft, command, context, emit);
    case 'send': {
      const bad = steering(draft, context, 'new');
      if (bad) return bad;
      const version = newest(draft);
      if (!version) return refusal('no-version');
      const findings = preflight({
        route: draft.route,
        author: draft.author,
        hasVersion: true,
        places: draft.placesOn === mainFile(version) ? draft.places : [],
        now: context.now,
      });
      const stop = findings.find((finding) => finding.severity === 'stops');
      if (stop) return refusal('preflight', { finding: stop.code, stage: stop.stage, seat: stop.seat });
      emit({ type: 'circulation.sent', data: { version: version.number } });
      return null;
    }
    case 'see':
      return see(draft, command, context, emit);
    case 'decide':
      return decideSeat(draft, command, context, emitAs);
    case 'remark': {
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      if (command.thread !== null && !draft.remarks.some((remark) => remark.id === command.thread && !remark.thread))
        return refusal('no-such-remark');
      if (!draft.versions.some((version) => version.files.some((file) => file.file === command.file)))
        return refusal('no-such-file');
      if (draft.remarks.some((remark) => remark.id === command.remark)) return null;
      const { type: _, ...data } = command;
      emit({ type: 'remark.made', data });
      return null;
    }
    case 'settleRemark': {
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      const remark = draft.remarks.find((candidate) => candidate.id === command.remark && !candidate.thread);
      if (!remark) return refusal('no-such-remark');
      if (context.actor !== draft.author && context.actor !== draft.controller && context.actor !== remark.by)
        return refusal('not-author');
      if (!remark.settled) emit({ type: 'remark.settled', data: { remark: command.remark } });
      return null;
    }
    case 'proposeRound': {
      const bad = steering(draft, context, 'rework');
      if (bad) return bad;
      const proposal = {
        version: newest(draft)?.number ?? 0,
        decisions: draft.decisions.length,
        lines: proposedLines(draft),
      };
      if (!draft.plan || !samePlan(draft.plan, proposal))
        emit({ type: 'round.proposed', data: { revision: draft.planRevision + 1, ...proposal } });
      return null;
    }
    case 'confirmRound':
      return confirmRound(draft, command, context, emit);
    case 'extend':
      return extend(draft, command, context, emit);
    case 'remind': {
      const bad = steering(draft, context, 'running');
      if (bad) return bad;
      const seat = seatAt(draft, command.seat);
      if (!seat) return refusal('no-such-seat');
      if (seat.status !== 'asked') return refusal('seat-not-asked');
      const lately = seat.reminded[seat.reminded.length - 1];
      if (lately !== undefined && context.now - lately < hour) return refusal('reminded-recently');
      emit({ type: 'seat.reminded', data: { seat: seat.id } });
      return null;
    }
    case 'handOver':
      return handOver(draft, command, context, emit);
    case 'reassign':
      return reassign(draft, command, context, emit);
    case 'addCoHolder': {
      const bad = open(draft, context);
      if (bad) return bad;
      const seat = seatAt(draft, command.seat);
      if (!seat) return refusal('no-such-seat');
      if (!undecided(seat)) return refusal('seat-not-asked');
      if (holdersOf(seat).includes(command.person)) return refusal('same-person');
      if (isAuthorApproving(draft, seat, command.person)) return refusal('author-decides');
      emit({ type: 'coHolder.added', data: { seat: seat.id, person: command.person } });
      return null;
    }
    case 'dropCoHolder': {
      const bad = open(draft, context);
      if (bad) return bad;
      const seat = seatAt(draft, command.seat);
      if (!seat) return refusal('no-such-seat');
      if (!seat.coHolders.includes(command.person)) return refusal('not-co-holder');
      emit({ type: 'coHolder.dropped', data: { seat: seat.id, person: command.person } });
      return null;
    }
    case 'withdraw': {
      if (context.actor !== draft.controller) return refusal('not-controller');
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      // A signature that counts, in a circulation where nothing else is waited for, is as good as released.
      if (draft.phase === 'sealing' && standing(draft).some((decision) => decision.outcome === 'signed'))
        return refusal('signed-already');
      if (!command.words) return refusal('reason-missing');
      emit({ type: 'circulation.withdrawn', data: { words: command.words } });
      return null;
    }
    case 'keepFinal':
      if (context.actor !== system) return refusal('not-controller');
      if (draft.phase !== 'sealing') return refusal('not-sealing');
      if (!draft.final) emit({ type: 'final.kept', data: { file: command.file, identifier: command.identifier } });
      return null;
    case 'complete':
      if (context.actor !== draft.controller) return refusal('not-controller');
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      if (draft.phase !== 'sealing') return refusal('not-sealing');
      if (!draft.final) return refusal('no-final');
      emit({ type: 'circulation.completed', data: { revision: command.revision, effective: command.effective } });
      return null;
  }
}

const wrongPhase: { readonly [P in Circulation['phase']]: RefusalCode } = {
  new: 'phase-new',
  running: 'phase-sent',
  rework: 'phase-rework',
  sealing: 'phase-sealing',
  completed: 'phase-ended',
  withdrawn: 'phase-ended',
};

/** Refuses everybody but the controller, and every phase but the one the command belongs to. */
function steering(draft: Draft, context: Context, phase: Circulation['phase']): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  if (draft.phase === phase) return null;
  return refusal(
    phase === 'rework' && draft.phase !== 'completed' && draft.phase !== 'withdrawn'
      ? 'phase-not-rework'
      : wrongPhase[draft.phase],
  );
}

/** Refuses everybody but the controller of a circulation that is under way or being reworked. */
function open(draft: Draft, context: Context): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  return draft.phase === 'running' || draft.phase === 'rework' ? null : refusal(wrongPhase[draft.phase]);
}

function undecided(seat: SeatState): boolean {
  return seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended';
}

function isAuthorApproving(draft: Draft, seat: SeatState, person: string): boolean {
  return person === draft.author && stageOf(draft, seat).plan.verb === 'approve';
}

function alreadyDecided(draft: Draft, seat: SeatState): Refusal | null {
  const decision = decisionOf(draft, seat);
  return decision && seat.status !== 'idle' && seat.status !== 'asked' && seat.status !== 'suspended'
    ? refusal('already-decided', { by: decision.by, outcome: decision.outcome })
    : null;
}

/** Whether the seat may be acted on by this actor at this moment, from a page that knew this epoch. */
function actable(draft: Draft, id: string, epoch: number, context: Context): Refusal | SeatState {
  const seat = seatAt(draft, id);
  if (!seat) return refusal('no-such-seat');
  if (!holdersOf(seat).includes(context.actor)) return refusal(seat.epoch === epoch ? 'not-holder' : 'stale-seat');
  if (seat.epoch !== epoch) return refusal('stale-seat');
  if (draft.phase !== 'running') return alreadyDecided(draft, seat) ?? refusal(wrongPhase[draft.phase]);
  const decided = alreadyDecided(draft, seat);
  if (decided) return decided;
  if (seat.status === 'missed') return refusal('seat-closed');
  if (seat.status !== 'asked') return refusal('seat-not-asked');
  return seat;
}

function isRefusal(value: Refusal | SeatState): value is Refusal {
  return 'code' in value;
}

function staleVersion(draft: Draft, scope: string): Refusal | null {
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (scopeOf(version) === scope) return null;
  const seen = draft.versions.find((candidate) => scopeOf(candidate) === scope);
  return refusal('stale-version', { seen: seen?.number ?? 0, newest: version.number });
}

function see(draft: Draft, command: Extract<Command, { type: 'see' }>, context: Context, emit: Emit): Refusal | null {
  const seat = seatAt(draft, command.seat);
  if (!seat) return refusal('no-such-seat');
  if (!holdersOf(seat).includes(context.actor)) return refusal('not-holder');
  if (seat.epoch !== command.epoch) return refusal('stale-seat');
  if (seat.status !== 'asked' || seat.seen?.scope === command.scope) return null;
  const stale = staleVersion(draft, command.scope);
  if (stale) return stale;
  emit({ type: 'seat.seen', data: { seat: seat.id, epoch: seat.epoch, scope: command.scope } });
  return null;
}

function decideSeat(
  draft: Draft,
  command: Extract<Command, { type: 'decide' }>,
  context: Context,
  emitAs: EmitAs,
): Refusal | null {
  const seat = actable(draft, command.seat, command.epoch, context);
  if (isRefusal(seat)) return seat;
  const stage = stageOf(draft, seat);
  const stale = staleVersion(draft, command.scope);
  if (stale) return stale;
  const { outcome, words, filled, evidence, scope } = command;
  if (!outcomesOf[stage.plan.verb].includes(outcome)) return refusal('wrong-outcome');
  if (!isPositive(outcome) && !words) return refusal('reason-missing');
  if (outcome === 'signed') {
    const given = new Set(filled.map((entry) => entry.place));
    const own = draft.places.filter((place) => place.seat === seat.id);
    if (own.some((place) => place.needed && !given.has(place.id))) return refusal('places-missing');
    if (filled.some((entry) => !own.some((place) => place.id === entry.place))) return refusal('places-unfit');
  } else if (filled.length > 0) return refusal('places-unfit');
  if (isAuthorApproving(draft, seat, context.actor)) return refusal('author-decides');
  emitAs(
    context.actor,
    context.actor === seat.holder ? null : seat.holder,
  )({ type: 'seat.decided', data: { seat: seat.id, epoch: seat.epoch, outcome, scope, words, filled, evidence } });
  if (outcome === 'returned')
    emitAs(system, null)({ type: 'rework.began', data: { cause: 'returned', seat: seat.id } });
  return null;
}

function putPlaces(
  draft: Draft,
  command: Extract<Command, { type: 'putPlaces' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  if (draft.phase !== 'new' && draft.phase !== 'running' && draft.phase !== 'rework')
    return refusal(wrongPhase[draft.phase]);
  if (draft.frozen) return refusal('places-frozen');
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (mainFile(version) !== command.file) return refusal('places-elsewhere');
  const signing = new Set(
    draft.seats.filter((seat) => stageOf(draft, seat).plan.verb === 'sign').map((seat) => seat.id),
  );
  const ids = new Set(command.places.map((place) => place.id));
  if (ids.size < command.places.length || command.places.some((place) => !signing.has(place.seat)))
    return refusal('places-unfit');
  emit({ type: 'places.put', data: { file: command.file, places: command.places } });
  return null;
}

function attach(
  draft: Draft,
  command: Extract<Command, { type: 'attach' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  if (context.actor !== draft.author && context.actor !== draft.controller) return refusal('not-author');
  if (draft.phase !== 'new' && draft.phase !== 'running' && draft.phase !== 'rework')
    return refusal(wrongPhase[draft.phase]);
  const before = newest(draft);
  if (before && command.version.number <= before.number) return refusal('version-order');
  const running = draft.phase === 'running';
  emit({ type: 'version.attached', data: { version: command.version } });
  if (running) emit({ type: 'rework.began', data: { cause: 'version', seat: null } });
  return null;
}

function confirmRound(
  draft: Draft,
  command: Extract<Command, { type: 'confirmRound' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = steering(draft, context, 'rework');
  if (bad) return bad;
  const version = newest(draft);
  if (!version) return refusal('no-version');
  // The basis is what was looked at, not the sequence number: a mere look by somebody must not spoil it.
  if (
    !draft.plan ||
    draft.plan.revision !== command.revision ||
    version.number !== command.version ||
    draft.decisions.length !== command.decisions ||
    draft.plan.version !== command.version ||
    draft.plan.decisions !== command.decisions
  )
    return refusal('stale-plan');
  const keep: { seat: string; decision: number; accepted: string }[] = [];
  for (const id of new Set(command.keep)) {
    const seat = seatAt(draft, id);
    if (!seat) return refusal('no-such-seat');
    const answer = keepable(draft, seat);
    if (answer === 'signature-changed') return refusal('signature-changed', { seat: id });
    if (answer === 'no-decision') return refusal('keep-impossible', { seat: id });
    keep.push({ seat: id, decision: seat.decision as number, accepted: scopeOf(version) });
  }
  for (const entry of command.times) {
    const at = draft.index.get(entry.stage);
    if (at === undefined || draft.nodes[at]?.kind !== 'stage') return refusal('no-such-stage');
    if (entry.closes !== null && entry.closes <= context.now) return refusal('time-past');
    if (entry.closes !== null && entry.due !== null && entry.closes < entry.due) return refusal('closes-before-due');
  }
  emit({ type: 'round.begun', data: { round: draft.round + 1, keep, times: command.times } });
  return null;
}

function extend(
  draft: Draft,
  command: Extract<Command, { type: 'extend' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = steering(draft, context, 'running');
  if (bad) return bad;
  const seat = seatAt(draft, command.seat);
  if (!seat) return refusal('no-such-seat');
  const stage = stageOf(draft, seat);
  if (stage.status === 'done' || stage.status === 'released') return refusal('stage-over');
  if (seat.status !== 'asked' && seat.status !== 'missed')
    return alreadyDecided(draft, seat) ?? refusal('seat-not-asked');
  const { due, closes } = command;
  if ((due !== null && due <= context.now) || (closes !== null && closes <= context.now)) return refusal('time-past');
  if (due !== null && closes !== null && closes < due) return refusal('closes-before-due');
  emit({ type: 'seat.extended', data: { seat: seat.id, due, closes } });
  return null;
}

function handOver(
  draft: Draft,
  command: Extract<Command, { type: 'handOver' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const seat = actable(draft, command.seat, command.epoch, context);
  if (isRefusal(seat)) return seat;
  if (!stageOf(draft, seat).plan.handOver || seat.holder !== context.actor || seat.outside)
    return refusal('hand-over-not-allowed');
  if (holdersOf(seat).includes(command.to)) return refusal('same-person');
  if (seat.barred.includes(command.to)) return refusal('barred');
  if (isAuthorApproving(draft, seat, command.to)) return refusal('author-decides');
  emit({
    type: 'seat.handedOver',
    data: { seat: seat.id, from: seat.holder, to: command.to, epoch: seat.epoch + 1, words: command.words },
  });
  return null;
}

function reassign(
  draft: Draft,
  command: Extract<Command, { type: 'reassign' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = open(draft, context);
  if (bad) return bad;
  const seat = seatAt(draft, command.seat);
  if (!seat) return refusal('no-such-seat');
  const stage = stageOf(draft, seat);
  if (stage.status === 'done' || stage.status === 'released') return refusal('stage-over');
  if (seat.status === 'decided') return alreadyDecided(draft, seat) ?? refusal('seat-not-asked');
  if (seat.status === 'returned' && draft.phase === 'running') return refusal('seat-not-asked');
  if (command.to.person === seat.holder) return refusal('same-person');
  if (isAuthorApproving(draft, seat, command.to.person)) return refusal('author-decides');
  const closes = command.closes ?? (seat.closes !== null && seat.closes > context.now ? seat.closes : null);
  if (seat.status === 'missed' && command.closes === null && command.due === null) return refusal('time-needed');
  const due = command.due ?? (seat.due !== null && seat.due > context.now ? seat.due : null);
  if ((due !== null && due <= context.now) || (closes !== null && closes <= context.now)) return refusal('time-past');
  if (due !== null && closes !== null && closes < due) return refusal('closes-before-due');
  emit({
    type: 'seat.reassigned',
    data: {
      seat: seat.id,
      from: seat.holder,
      to: command.to,
      epoch: seat.epoch + 1,
      due,
      closes,
      words: command.words,
    },
  });
  return null;
}
