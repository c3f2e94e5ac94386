import { needed, type Parallel } from '../route/route';
import type { CirculationBody } from './events';
import type { Draft } from './evolve';
import {
  fieldsHash,
  mainFile,
  newest,
  positives,
  quota,
  reachable,
  type SeatState,
  type StageNode,
  seatsWithoutField,
} from './state';

export type Emit = (body: CirculationBody) => void;
export type EmitAs = (actor: string, onBehalfOf: string | null) => Emit;

/**
 * Marks as missed every asked seat whose closing time has come, in the order in which the times came, until no
 * seat that this opened has closed as well.
 */
export function catchUp(draft: Draft, now: number, emit: Emit): void {
  while (draft.phase === 'running') {
    const over = draft.seats.filter((seat) => seat.status === 'asked' && seat.closes !== null && seat.closes <= now);
    if (over.length === 0) return;
    over.sort((a, b) => (a.closes as number) - (b.closes as number));
    for (const seat of over) emit({ type: 'seat.missed', data: { seat: seat.id, instant: seat.closes as number } });
    settle(draft, emit);
  }
}

/** One walk of the route from its root: closes what is done, opens and asks what has been reached. */
export function settle(draft: Draft, emit: Emit): void {
  if (draft.phase !== 'running') return;
  if (walk(draft, 0, emit)) emit({ type: 'sealing.began', data: {} });
}

/** Walks a part and says whether it is done. */
function walk(draft: Draft, at: number, emit: Emit): boolean {
  const node = draft.nodes[at];
  if (!node) return true;
  if (node.kind === 'stage') return walkStage(draft, at, emit);
  if (node.kind === 'series') return node.children.every((child) => walk(draft, child, emit));
  const done = node.children.filter((child) => walk(draft, child, emit));
  if (done.length < needed((node.plan as Parallel).join, node.children.length)) return false;
  for (const child of node.children) if (!done.includes(child)) release(draft, child, emit);
  return true;
}

function walkStage(draft: Draft, at: number, emit: Emit): boolean {
  let stage = draft.nodes[at] as StageNode;
  const id = stage.plan.id;
  if (stage.status === 'done' || stage.status === 'released') return true;
  if (stage.status !== 'open') {
    if (stage.seats.length > 0 && positives(draft, stage) >= quota(stage)) {
      emit({ type: 'stage.closed', data: { stage: id } });
      return true;
    }
    if (stage.plan.verb === 'sign' && !freeze(draft, stage, emit)) return false;
    emit({ type: 'stage.opened', data: { stage: id } });
    stage = draft.nodes[at] as StageNode;
  }
  if (positives(draft, stage) >= quota(stage)) {
    for (const seat of seatsWith(draft, stage, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
    emit({ type: 'stage.closed', data: { stage: id } });
    return true;
  }
  ask(draft, stage, emit);
  if (!stage.stuck && !reachable(draft, stage)) emit({ type: 'stage.stuck', data: { stage: id } });
  return false;
}

/** Freezes the pages before the first signature is asked for; false while a signing seat has no place. */
function freeze(draft: Draft, stage: StageNode, emit: Emit): boolean {
  if (draft.frozen) return true;
  if (seatsWithoutField(draft).length > 0) {
    if (stage.status !== 'held') emit({ type: 'stage.held', data: { stage: stage.plan.id } });
    return false;
  }
  const version = newest(draft);
  if (!version) return false;
  emit({ type: 'pages.frozen', data: { file: mainFile(version), fields: fieldsHash(draft.fields) } });
  return true;
}

function seatsWith(draft: Draft, stage: StageNode, status: SeatState['status']): SeatState[] {
  return stage.seats.map((at) => draft.seats[at] as SeatState).filter((seat) => seat.status === status);
}

/** Asks every idle seat, or one by one the first idle one when nobody is asked and no decline waits. */
function ask(draft: Draft, stage: StageNode, emit: Emit): void {
  const idle = seatsWith(draft, stage, 'idle');
  const oneByOne = stage.plan.order === 'oneByOne';
  const waits =
    seatsWith(draft, stage, 'asked').length > 0 ||
    (stage.plan.onDecline === 'stop' && seatsWith(draft, stage, 'declined').length > 0);
  if (oneByOne && waits) return;
  for (const seat of oneByOne ? idle.slice(0, 1) : idle)
    emit({
      type: 'seat.asked',
      data: { seat: seat.id, holder: seat.holder, due: stage.due, closes: stage.closes, epoch: seat.epoch },
    });
}

/** Releases everything unfinished in a branch that its join no longer needs. */
function release(draft: Draft, at: number, emit: Emit): void {
  const node = draft.nodes[at];
  if (!node) return;
  if (node.kind !== 'stage') {
    for (const child of node.children) release(draft, child, emit);
    return;
  }
  if (node.status === 'done' || node.status === 'released') return;
  for (const seat of seatsWith(draft, node, 'asked')) emit({ type: 'seat.released', data: { seat: seat.id } });
  emit({ type: 'stage.released', data: { stage: node.plan.id } });
}
