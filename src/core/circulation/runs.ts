import type { Route, Series } from '../route/route';
import type { BlockRun, Circulation, SeatRun, StageRun } from './state';

/** The run records of a plan of which nothing has begun. */
export function freshRuns(plan: Series): Pick<Circulation, 'blocks' | 'stages' | 'seats'> {
  const blocks = new Map<string, BlockRun>();
  const stages = new Map<string, StageRun>();
  const seats = new Map<string, SeatRun>();
  const visit = (part: Route): void => {
    if (part.kind !== 'stage') {
      blocks.set(part.id, { id: part.id, kind: part.kind, gone: null });
      for (const inner of part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route))
        visit(inner);
      return;
    }
    stages.set(part.id, {
      id: part.id,
      gone: null,
      seats: part.seats.map((seat) => seat.id),
      status: 'idle',
      held: null,
      stuck: false,
      due: part.due,
      closes: part.closes,
      since: null,
      ended: null,
    });
    for (const { id, assignment } of part.seats)
      seats.set(id, {
        id,
        stage: part.id,
        gone: null,
        holders: [{ person: assignment.person, via: 'planned', outside: assignment.kind === 'outside', since: null }],
        barred: [],
        epoch: 1,
        status: 'idle',
        passed: false,
        since: null,
        due: null,
        closes: null,
        given: null,
        seen: null,
        reminded: [],
        linkCopied: null,
        decision: null,
        kept: false,
      });
  };
  visit(plan);
  return { blocks, stages, seats };
}
