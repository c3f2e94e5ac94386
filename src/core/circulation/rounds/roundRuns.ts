import { beginAnew, draftOf, ownSeat, ownStage } from '../run/evolve';
import { changesBetween } from '../run/runChanges';
import type { Kept, RunChanges, StageTimes } from '../run/shapes';
import type { Circulation } from '../run/state';

/** Every stage goes idle and kept decisions are filled in, so that the route can be walked again from its root. */
export function roundRuns(
  state: Circulation,
  data: { readonly keep: readonly Kept[]; readonly leave: readonly string[]; readonly times: readonly StageTimes[] },
): RunChanges {
  const draft = draftOf(state);
  const times = new Map(data.times.map((entry) => [entry.stage, entry]));
  // Conditions are decided anew.
  for (const [id, block] of draft.blocks)
    draft.blocks.set(id, { ...block, gone: block.gone === 'skipped' ? null : block.gone, decided: false });
  for (const id of draft.stages.keys()) {
    const stage = ownStage(draft, id);
    const own = times.get(id) ?? stage;
    if (stage.gone === 'skipped') stage.gone = null;
    stage.decided = false;
    stage.status = 'idle';
    stage.held = null;
    stage.stuck = false;
    stage.since = null;
    stage.ended = null;
    stage.due = own.due;
    stage.closes = own.closes;
    stage.retimed ||= times.has(id);
    // Whatever single seats had been given before falls with times given anew.
    if (times.has(id))
      for (const seat of stage.seats) if (draft.seats.get(seat)?.given) ownSeat(draft, seat).given = null;
  }
  const kept = new Map(data.keep.map((entry) => [entry.seat, entry.decision]));
  const left = new Set(data.leave);
  for (const id of draft.seats.keys()) {
    const seat = ownSeat(draft, id);
    const decision = kept.get(id);
    seat.proposal = null;
    // A group's task that somebody took goes back to the group.
    seat.holders = seat.holders.filter((holder) => holder.via !== 'taken');
    if (decision !== undefined) {
      seat.status = 'decided';
      seat.decision = decision;
      seat.kept = true;
      seat.passed = false;
    } else if (left.has(id)) {
      seat.status = 'declined';
      seat.passed = true;
    } else {
      seat.status = 'idle';
      seat.passed = false;
      seat.since = null;
      seat.due = null;
      seat.closes = null;
      seat.decision = null;
      seat.kept = false;
      beginAnew(seat);
    }
  }
  return changesBetween(state, draft);
}
