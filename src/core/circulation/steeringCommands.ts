import type { Command, Context } from './commands';
import type { Draft } from './evolve';
import { alreadyDecided, isAuthorApproving, open, steering, wrongPhase } from './guards';
import { type Refusal, refusal } from './refusal';
import { keepable } from './round';
import type { Emit } from './settle';
import { mainFile, newest, scopeOf, seatAt, stageOf } from './state';

// What the controller does to a circulation (the author, too, hands in versions). Each emits its events or gives a refusal.

/** Puts the places on the newest version, until its pages are frozen. */
export function putFields(
  draft: Draft,
  command: Extract<Command, { type: 'putFields' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  if (context.actor !== draft.controller) return refusal('not-controller');
  if (draft.phase !== 'new' && draft.phase !== 'running' && draft.phase !== 'rework')
    return refusal(wrongPhase[draft.phase]);
  if (draft.frozen) return refusal('fields-frozen');
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (mainFile(version) !== command.file) return refusal('fields-elsewhere');
  const signing = new Set(
    draft.seats.filter((seat) => stageOf(draft, seat).plan.verb === 'sign').map((seat) => seat.id),
  );
  const ids = new Set(command.fields.map((field) => field.id));
  if (ids.size < command.fields.length || command.fields.some((field) => !signing.has(field.seat)))
    return refusal('fields-unfit');
  emit({ type: 'fields.put', data: { file: command.file, fields: command.fields } });
  return null;
}

/** Hands in a version; while the circulation is running this begins rework. */
export function attach(
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

/** Begins the next round as it was proposed and looked at: whose decisions are kept, and the times of its stages. */
export function confirmRound(
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

/** Gives a seat that is asked or missed a new due and closing time. */
export function extend(
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

/** Gives a seat to another: its epoch rises, so that old pages and links die; who held it is barred. */
export function reassign(
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
      note: command.note,
    },
  });
  return null;
}
