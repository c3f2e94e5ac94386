import { type Refusal, refusal } from '../refusals';
import { routeFaults } from '../route/route';
import { unreachable } from '../unreachable';
import { amend } from './amending';
import type { Command, Context, Create } from './commands';
import {
  addSecondHolder,
  agree,
  askAgain,
  attach,
  confirmRound,
  correctAddress,
  dropSecondHolder,
  extend,
  extendWhole,
  giveFacts,
  giveNotice,
  goOn,
  handControl,
  keepFrozen,
  pass,
  plan,
  putFields,
  reassign,
  send,
  setEnough,
  setReminders,
  setTimes,
} from './controllerCommands';
import { type CirculationBody, type CirculationEvent, system } from './events';
import { apply, begin, type Draft, draftOf } from './evolve';
import { commentGuards, fileGuards, questionGuards, seatGuards, stageGuards, wholeGuards } from './guards';
import { answerQuestion, askQuestion, decideSeat, delegate, giveBack, name, see, take } from './holderCommands';
import { beginRework, catchUp, type Emit, type EmitAs, sendWaitingCopies, settle } from './settle';
import { type Circulation, isOfDecision, type SeatRun } from './state';

export type Decided =
  | { readonly ok: true; readonly events: readonly CirculationEvent[]; readonly state: Circulation }
  | { readonly ok: false; readonly refusal: Refusal };

/**
 * What happens when a command meets a state: events in order and the state after them, or a refusal. Pure and
 * total. Every command first applies what is due, so late, double or missing timers change nothing.
 */
export function decide(state: Circulation | null, command: Command | Create, context: Context): Decided {
  if (command.type === 'create') return create(state, command, context);
  if (!state) return { ok: false, refusal: refusal('not-found') };
  if (state.ended !== null) return { ok: false, refusal: refusal('phase-ended') };
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
  const then = { ...context, now };
  catchUp(draft, then, own);
  const refused = handle(draft, command, then, emitAs);
  if (refused) return { ok: false, refusal: refused };
  settle(draft, then, own);
  // What the command brought about may have come due already: a wait that was over while it stood still, whoever took a
  // task and went away while it was missed.
  catchUp(draft, then, own);
  return { ok: true, events, state: draft };
}

/** The state at an instant: after what is due until then has been applied. */
export function caughtUp(state: Circulation, context: Context): Circulation {
  if (state.ended !== null) return state;
  const draft = draftOf(state);
  const now = Math.max(context.now, state.last);
  catchUp(draft, { ...context, now }, (body) =>
    apply(draft, { ...body, at: now, actor: system, onBehalfOf: null } as CirculationEvent),
  );
  return draft;
}

function create(state: Circulation | null, command: Create, context: Context): Decided {
  if (state) return { ok: false, refusal: refusal('exists-already') };
  if (routeFaults(command.plan).length > 0) return { ok: false, refusal: refusal('route-unfit') };
  if (command.records.length === 0 || new Set(command.records).size < command.records.length)
    return { ok: false, refusal: refusal('no-document') };
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

/** A command on a seat with what its guard says, once the seat is found and the page it comes from is not an old one. */
function onSeat(
  draft: Draft,
  command: Extract<Command, { type: keyof typeof seatGuards }>,
  context: Context,
  then: (seat: SeatRun) => Refusal | null,
): Refusal | null {
  const seat = draft.seats.get(command.seat);
  if (!seat || seat.gone) return refusal('no-such-seat');
  if ('epoch' in command && command.epoch !== seat.epoch) return refusal('stale-seat');
  return seatGuards[command.type](draft, seat, context) ?? then(seat);
}

/** Checks one command against the draft and emits its events; gives the refusal, or null when it went through. */
function handle(draft: Draft, command: Command, context: Context, emitAs: EmitAs): Refusal | null {
  const emit = emitAs(context.actor, null);
  switch (command.type) {
    case 'see':
      return onSeat(draft, command, context, (seat) => see(draft, seat, command, context, emit));
    case 'decide':
      return onSeat(draft, command, context, (seat) => decideSeat(draft, seat, command, context, emitAs));
    case 'delegate':
      return onSeat(draft, command, context, (seat) => delegate(draft, seat, command, context, emit));
    case 'extend':
      return onSeat(draft, command, context, (seat) => extend(draft, seat, command, context, emit));
    case 'askAgain':
      return onSeat(draft, command, context, (seat) => askAgain(draft, seat, command, context, emit));
    case 'pass':
      return onSeat(draft, command, context, (seat) => pass(draft, seat, command, emit));
    case 'remind':
      return onSeat(draft, command, context, (seat) => {
        emit({ type: 'seat.reminded', data: { seat: seat.id, point: null } });
        return null;
      });
    case 'giveNotice':
      return onSeat(draft, command, context, (seat) => giveNotice(seat, command, emit));
    case 'askQuestion':
      return onSeat(draft, command, context, (seat) => askQuestion(draft, seat, command, context, emit));
    case 'answerQuestion': {
      const question = draft.questions.get(command.question);
      if (!question) return refusal('no-such-question');
      const bad = questionGuards[command.type](draft, question, context);
      return bad ?? answerQuestion(draft, question, command, context, emit);
    }
    case 'take':
      return onSeat(draft, command, context, (seat) => take(draft, seat, context, emit));
    case 'giveBack':
      return onSeat(draft, command, context, (seat) => giveBack(seat, emit));
    case 'name':
      return onSeat(draft, command, context, (seat) => name(draft, seat, command, context, emit));
    case 'agree':
      return onSeat(draft, command, context, (seat) => agree(draft, seat, command, context, emit));
    case 'reassign':
      return onSeat(draft, command, context, (seat) => reassign(draft, seat, command, context, emit));
    case 'correctAddress':
      return onSeat(draft, command, context, (seat) => correctAddress(draft, seat, command, context, emit));
    case 'addSecondHolder':
      return onSeat(draft, command, context, (seat) => addSecondHolder(draft, seat, command, context, emit));
    case 'dropSecondHolder':
      return onSeat(draft, command, context, (seat) => dropSecondHolder(seat, command, emit));
    case 'copyLink':
      return onSeat(draft, command, context, (seat) => {
        emit({ type: 'link.copied', data: { seat: seat.id, epoch: seat.epoch } });
        return null;
      });
    case 'setTimes':
    case 'setEnough':
    case 'endGathering': {
      const stage = draft.stages.get(command.stage);
      if (!stage || stage.gone) return refusal('no-such-stage');
      const bad = stageGuards[command.type](draft, stage, context);
      if (bad) return bad;
      if (command.type === 'setTimes') return setTimes(stage, command, context, emit);
      if (command.type === 'setEnough') return setEnough(draft, stage, command, emit);
      const returned = stage.seats.find((id) => draft.seats.get(id)?.status === 'returned');
      beginRework(draft, 'returned', returned ?? null, emit);
      return null;
    }
    case 'resolveComment':
    case 'reopenComment': {
      const comment = draft.comments.get(command.comment);
      if (!comment) return refusal('no-such-comment');
      const bad = commentGuards[command.type](draft, comment, context);
      if (bad) return bad;
      const type = command.type === 'resolveComment' ? 'comment.resolved' : 'comment.reopened';
      emit({ type, data: { comment: comment.id } });
      return null;
    }
    case 'putFields':
      return fileGuards.putFields(draft, command.file, context) ?? putFields(draft, command, emit);
    case 'keepFrozen':
      return fileGuards.keepFrozen(draft, command.file, context) ?? keepFrozen(draft, command, emit);
    default:
      return wholeGuards[command.type](draft, context) ?? onWhole(draft, command, context, emitAs);
  }
}

function onWhole(
  draft: Draft,
  command: Extract<Command, { type: keyof typeof wholeGuards }>,
  context: Context,
  emitAs: EmitAs,
): Refusal | null {
  const emit = emitAs(context.actor, null);
  switch (command.type) {
    case 'wake':
      return null;
    case 'plan':
      return plan(draft, command, emit);
    case 'attach':
      return attach(draft, command, emit, emitAs);
    case 'giveFacts':
      return giveFacts(draft, command, emit);
    case 'pause':
      emit({ type: 'circulation.paused', data: { note: command.note } });
      return null;
    case 'goOn':
      return goOn(draft, context, emit);
    case 'setReminders':
      return setReminders(draft, command, emit);
    case 'amend':
      return amend(draft, command, context, emit);
    case 'handControl':
      return handControl(draft, command, context, emit);
    case 'extendWhole':
      return extendWhole(draft, command, context, emit);
    case 'send':
      return send(draft, command, context, emit);
    case 'comment': {
      if (command.thread !== null && draft.comments.get(command.thread)?.thread !== null)
        return refusal('no-such-comment');
      if (!draft.versions.some((version) => version.files.some((file) => file.file === command.file)))
        return refusal('no-such-file');
      if (draft.comments.has(command.comment)) return refusal('no-effect');
      if (isOfDecision(command.comment)) return refusal('no-such-comment');
      const { type: _, ...data } = command;
      emit({ type: 'comment.made', data });
      // Whoever answers has not found it resolved.
      if (command.thread !== null && draft.comments.get(command.thread)?.resolved)
        emit({ type: 'comment.reopened', data: { comment: command.thread } });
      return null;
    }
    case 'confirmRound':
      return confirmRound(draft, command, context, emit);
    case 'withdraw':
      if (!command.note) return refusal('reason-missing');
      emit({ type: 'circulation.withdrawn', data: { note: command.note } });
      return null;
    case 'keepFinals': {
      const { type: _, ...data } = command;
      emit({ type: 'finals.kept', data });
      // Whoever gets a copy gets the file that is stored.
      sendWaitingCopies(draft, emit);
      return null;
    }
    case 'complete': {
      const records = command.revisions.map((entry) => entry.record);
      if (records.length !== draft.records.length || draft.records.some((record) => !records.includes(record)))
        return refusal('revisions-unfit');
      const { revisions, effective, evidence } = command;
      const behalf = context.actor === system ? draft.controller : null;
      emitAs(context.actor, behalf)({ type: 'circulation.completed', data: { revisions, effective, evidence } });
      return null;
    }
    default:
      return unreachable(command, 'command');
  }
}
