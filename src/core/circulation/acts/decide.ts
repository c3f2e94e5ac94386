import { type Refusal, refusal } from '../../refusals';
import { routeFaults } from '../../route/route';
import type { Context } from '../run/context';
import { type CirculationBody, type CirculationEvent, system } from '../run/events';
import { apply, begin, type Draft, draftOf } from '../run/evolve';
import { catchUp, type Emit, type EmitAs, settle } from '../run/settle';
import type { Circulation } from '../run/state';
import { type ActOn, type On, targetOf } from './act';
import { acts } from './acts';
import type { Command, Create } from './commands';

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
  const refused = carryOut(draft, command, then, emitAs);
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

/** Puts one command to the draft and emits its events; gives the refusal, or null when it went through. */
function carryOut(draft: Draft, command: Command, context: Context, emitAs: EmitAs): Refusal | null {
  // What a command is done to is found by what its act is done to, which the compiler cannot follow.
  const act = acts[command.type] as ActOn<On>;
  const found = targetOf[act.on](draft, command);
  if ('code' in found) return found;
  const scene = { draft, context, emit: emitAs(context.actor, null), own: emitAs(system, null), emitAs };
  return act.guard(draft, context, found.target) ?? act.effect(scene, command, found.target);
}
