import { preflight } from '../route/preflight';
import { routeFaults } from '../route/route';
import type { Command, Context } from './commands';
import { type CirculationBody, type CirculationEvent, system } from './events';
import { apply, begin, type Draft, draftOf } from './evolve';
import { isAuthorApproving, open, steering, undecided } from './guards';
import { decideSeat, delegate, see } from './holderCommands';
import { type Refusal, refusal } from './refusal';
import { proposedLines, samePlan } from './round';
import { catchUp, type Emit, type EmitAs, settle } from './settle';
import { type Circulation, holdersOf, mainFile, newest, seatAt, standing } from './state';
import { attach, confirmRound, extend, putFields, reassign } from './steeringCommands';

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
      emit({ type: 'route.planned', data: { route: command.route, note: command.note } });
      return null;
    }
    case 'putFields':
      return putFields(draft, command, context, emit);
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
        fields: draft.fieldsOn === mainFile(version) ? draft.fields : [],
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
    case 'comment': {
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      if (
        command.thread !== null &&
        !draft.comments.some((comment) => comment.id === command.thread && !comment.thread)
      )
        return refusal('no-such-comment');
      if (!draft.versions.some((version) => version.files.some((file) => file.file === command.file)))
        return refusal('no-such-file');
      if (draft.comments.some((comment) => comment.id === command.comment)) return null;
      const { type: _, ...data } = command;
      emit({ type: 'comment.made', data });
      return null;
    }
    case 'resolveComment': {
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      const comment = draft.comments.find((candidate) => candidate.id === command.comment && !candidate.thread);
      if (!comment) return refusal('no-such-comment');
      if (context.actor !== draft.author && context.actor !== draft.controller && context.actor !== comment.by)
        return refusal('not-author');
      if (!comment.resolved) emit({ type: 'comment.resolved', data: { comment: command.comment } });
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
    case 'delegate':
      return delegate(draft, command, context, emit);
    case 'reassign':
      return reassign(draft, command, context, emit);
    case 'addSecondHolder': {
      const bad = open(draft, context);
      if (bad) return bad;
      const seat = seatAt(draft, command.seat);
      if (!seat) return refusal('no-such-seat');
      if (!undecided(seat)) return refusal('seat-not-asked');
      if (holdersOf(seat).includes(command.person)) return refusal('same-person');
      if (isAuthorApproving(draft, seat, command.person)) return refusal('author-decides');
      emit({ type: 'secondHolder.added', data: { seat: seat.id, person: command.person } });
      return null;
    }
    case 'dropSecondHolder': {
      const bad = open(draft, context);
      if (bad) return bad;
      const seat = seatAt(draft, command.seat);
      if (!seat) return refusal('no-such-seat');
      if (!seat.secondHolders.includes(command.person)) return refusal('not-second-holder');
      emit({ type: 'secondHolder.dropped', data: { seat: seat.id, person: command.person } });
      return null;
    }
    case 'withdraw': {
      if (context.actor !== draft.controller) return refusal('not-controller');
      if (draft.phase === 'completed' || draft.phase === 'withdrawn') return refusal('phase-ended');
      // A signature that counts, in a circulation where nothing else is waited for, is as good as released.
      if (draft.phase === 'sealing' && standing(draft).some((decision) => decision.outcome === 'signed'))
        return refusal('signed-already');
      if (!command.note) return refusal('reason-missing');
      emit({ type: 'circulation.withdrawn', data: { note: command.note } });
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
