import { copiesOf, groupAsked, personOf, type Route, type Seat, type Series, type Stage } from '../../route/route';
import type { BlockRun, CopyRun, Holder, SeatRun, StageRun } from './shapes';
import type { Circulation } from './state';

/** The run records of a plan of which nothing has begun. */
export function freshRuns(plan: Series): Pick<Circulation, 'blocks' | 'stages' | 'seats' | 'copies'> {
  const blocks = new Map<string, BlockRun>();
  const stages = new Map<string, StageRun>();
  const seats = new Map<string, SeatRun>();
  const visit = (part: Route): void => {
    if (part.kind === 'copies') return;
    if (part.kind !== 'stage') {
      blocks.set(part.id, freshBlockRun(part));
      for (const inner of part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route))
        visit(inner);
      return;
    }
    stages.set(part.id, freshStageRun(part));
    for (const seat of part.seats) seats.set(seat.id, freshSeatRun(part.id, seat));
  };
  visit(plan);
  const copies = new Map<string, CopyRun>();
  for (const { id } of copiesOf(plan)) copies.set(id, freshCopyRun(id));
  return { blocks, stages, seats, copies };
}

/** A series or a parallel of which nothing has begun. */
export function freshBlockRun({ id, kind }: { readonly id: string; readonly kind: BlockRun['kind'] }): BlockRun {
  return { id, kind, gone: null, decided: false };
}

/** A stage of which nothing has begun. */
export function freshStageRun({ id, seats, due, closes }: Stage): StageRun {
  return {
    id,
    gone: null,
    decided: false,
    seats: seats.map((seat) => seat.id),
    status: 'idle',
    held: null,
    stuck: false,
    due,
    closes,
    retimed: false,
    since: null,
    ended: null,
  };
}

/** A board that has not been reached. */
export function freshCopyRun(id: string): CopyRun {
  return { id, status: 'idle', filled: {}, to: [], version: null };
}

/** A seat of which nothing has begun: as planned, or of one member of its group. */
export function freshSeatRun(stage: string, seat: Seat, member: { id: string; person: string } | null = null): SeatRun {
  const { assignment } = seat;
  const person = member?.person ?? personOf(assignment);
  const holder: Holder | null =
    person === null
      ? null
      : { person, via: member ? 'member' : 'planned', outside: assignment.kind === 'outside', since: null };
  return {
    id: member?.id ?? seat.id,
    stage,
    gone: null,
    planned: seat.id,
    nobody: false,
    group: member ? null : (groupAsked(assignment)?.group ?? null),
    groupCalled: null,
    holders: holder ? [holder] : [],
    barred: [],
    epoch: 1,
    status: 'idle',
    passed: false,
    since: null,
    due: null,
    closes: null,
    given: null,
    sent: [],
    opened: [],
    waits: [],
    proposal: null,
    reminded: [],
    pointed: null,
    told: [],
    asking: null,
    waited: false,
    linkCopied: null,
    decision: null,
    kept: false,
  };
}
