import { instantOf, type Seat, type Series, type Stage } from '../../route/route';
import { alike } from '../../trail/canonical';
import { type Draft, draftOf, ownSeat, ownStage } from '../run/evolve';
import { changesBetween } from '../run/runChanges';
import { freshBlockRun, freshCopyRun, freshSeatRun, freshStageRun } from '../run/runs';
import type { Holder, RoleFilled, RunChanges, SeatRun, StageRun } from '../run/shapes';
import {
  type Circulation,
  plannedBlocks,
  plannedCopies,
  plannedSeats,
  plannedStages,
  seatPlan,
  stagePlan,
} from '../run/state';

/** What an amended plan makes of a circulation: runs, what is kept of removed parts, and the fields that go with them. */
interface Amended {
  readonly runs: RunChanges;
  readonly retired: readonly Stage[];
  readonly fieldsGone: readonly string[];
}

/** What is new in an amended plan begins, what is no longer in it is marked, everything else goes on. */
export function amendedRuns(state: Circulation, plan: Series, roles: readonly RoleFilled[]): Amended {
  const draft = draftOf(state);
  const retired: Stage[] = [];
  const blocks = plannedBlocks({ plan });
  const before = { plan: draft.plan, retired: draft.retired };
  const known = new Set(plannedStages(draft).map(({ id }) => id));
  const filled = new Map(roles.map((role) => [role.of, role]));
  for (const [id, block] of draft.blocks) if (!blocks.has(id)) draft.blocks.set(id, { ...block, gone: 'removed' });
  for (const [id, block] of blocks) if (!draft.blocks.has(id)) draft.blocks.set(id, freshBlockRun(block));
  for (const { id, to } of plannedCopies({ plan })) {
    const run = draft.copies.get(id) ?? freshCopyRun(id);
    draft.copies.set(id, run);
    const own = to.flatMap((entry) =>
      filled.has(entry.id) ? [[entry.id, filled.get(entry.id)?.person ?? null] as const] : [],
    );
    if (own.length > 0) draft.copies.set(id, { ...run, filled: { ...run.filled, ...Object.fromEntries(own) } });
  }
  const planned = new Map(plannedStages({ plan }).map((stage) => [stage.id, stage]));
  const home = plannedSeats({ plan });
  for (const stage of plannedStages(draft)) {
    const gone = planned.has(stage.id) ? stage.seats.filter(({ id }) => !home.has(id)) : stage.seats;
    if (!planned.has(stage.id) || gone.length > 0) retired.push({ ...stage, seats: gone });
    if (planned.has(stage.id)) continue;
    const run = ownStage(draft, stage.id);
    run.gone = 'removed';
    run.status = 'released';
    run.held = null;
    run.stuck = false;
  }
  for (const id of [...draft.seats.keys()]) {
    const seat = draft.seats.get(id) as SeatRun;
    if (!home.has(seat.planned)) removeSeat(draft, id);
  }
  for (const stage of planned.values()) {
    if (!draft.stages.has(stage.id)) draft.stages.set(stage.id, freshStageRun(stage));
    for (const seat of stage.seats) amendSeat(draft, stage, seat, seatPlan(before, seat.id), filled.get(seat.id));
  }
  const members = new Map<string, string[]>();
  for (const { id, planned: of } of draft.seats.values())
    if (id !== of) members.set(of, [...(members.get(of) ?? []), id]);
  for (const stage of planned.values()) {
    const old = known.has(stage.id) ? stagePlan(before, stage.id) : null;
    const run = draft.stages.get(stage.id) as StageRun;
    const there = stage.seats.flatMap(({ id }) => [id, ...(members.get(id) ?? [])]);
    const gone = run.seats.filter((id) => !there.includes(id) && draft.seats.get(id)?.stage === stage.id);
    const seats = [...there, ...gone];
    if (!alike(seats, run.seats)) ownStage(draft, stage.id).seats = seats;
    if (!old || (alike(old.due, stage.due) && alike(old.closes, stage.closes))) continue;
    const own = ownStage(draft, stage.id);
    own.due = stage.due;
    own.closes = stage.closes;
    if (own.held === 'time') own.held = null;
  }
  const gone = draft.fields.filter((field) => !draft.frozen.has(field.file) && !home.has(field.seat));
  return { runs: changesBetween(state, draft), retired, fieldsGone: gone.map(({ id }) => id) };
}

function removeSeat(draft: Draft, id: string): void {
  const seat = ownSeat(draft, id);
  seat.gone = 'removed';
  if (seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended') seat.status = 'released';
  seat.proposal = null;
  seat.asking = null;
}

/** A seat of an amended plan: new, for somebody else, in another stage, with other times, or as it was. */
function amendSeat(draft: Draft, stage: Stage, seat: Seat, old: Seat | null, filled: RoleFilled | undefined): void {
  const there = draft.seats.get(seat.id);
  const begins = !there || !old || there.stage !== stage.id || !alike(old.assignment, seat.assignment);
  if (begins) {
    const run = freshSeatRun(stage.id, seat);
    const role: readonly Holder[] = filled?.person
      ? [{ person: filled.person, via: 'role', outside: filled.outside, since: null }]
      : run.holders;
    const seconds = there?.holders.filter((holder) => holder.via === 'second') ?? [];
    // What people were sent and have opened they know, wherever the seat stands now.
    const { sent, opened } = there ?? run;
    draft.seats.set(seat.id, {
      ...run,
      sent,
      opened,
      holders: [...role, ...seconds],
      epoch: there ? there.epoch + 1 : 1,
    });
    return;
  }
  const retimed = !alike(old.due, seat.due) || !alike(old.closes, seat.closes);
  // Times of the stage were given anew since; these are newer.
  if (retimed && there.status === 'idle' && draft.stages.get(stage.id)?.retimed)
    ownSeat(draft, seat.id).given = { due: instantOf(seat.due), closes: instantOf(seat.closes) };
}
