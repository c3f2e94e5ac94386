import { type Route, type Series, stagesOf, type Time } from '@/core/route/route';
import { meetApart, targets } from './people';
import {
  content,
  holds,
  instant,
  type Known,
  type Model,
  type ModelSeat,
  type ModelStage,
  need,
  type Status,
  seatsIn,
  stageOf,
  stagePlan,
} from './state';
import { openStop } from './walk';

// Whom a next round asks, and whose responses stand.

const positive = (outcome: string) => outcome !== 'returned' && outcome !== 'declined';

/** The decisions of the present holder in a seat, latest first; those of a group's task are the group's. */
function own(m: Model, seat: ModelSeat): number[] {
  return m.decisions
    .map((decision, i) => ({ decision, i }))
    .filter(({ decision }) => decision.seat === seat.id)
    .filter(({ decision }) => seat.group !== null || decision.holder === seat.base?.person)
    .map(({ i }) => i)
    .reverse();
}

/** The latest decision on exactly the present content, or on one that was accepted as it, where that was a yes. */
function unchanged(m: Model, seat: ModelSeat): number | null {
  const what = content(m, seat);
  const latest = own(m, seat).find((i) => {
    const decision = m.decisions[i];
    const accepted = m.accepted.some((one) => one.decision === i && one.seat === seat.id && one.content === what);
    return decision && !decision.ended && (decision.content === what || accepted);
  });
  return latest !== undefined && positive(m.decisions[latest]?.outcome ?? '') ? latest : null;
}

/** What the controller may keep of a seat, also by choice; no choice makes a signature one of other bytes. */
export function keepable(m: Model, seat: ModelSeat): number | null {
  const same = unchanged(m, seat);
  const latest = own(m, seat)[0];
  if (same !== null || latest === undefined || stagePlan(m, seat).verb === 'sign') return same;
  return positive(m.decisions[latest]?.outcome ?? '') ? latest : null;
}

/** The seats, in the order of the route, whose decision would make a person count twice beside an earlier one. */
export function twice(m: Model, plan: Series, decisions: ReadonlyMap<string, number>): string[] {
  const counted: { stage: string; by: string }[] = [];
  const found: string[] = [];
  for (const { id } of stagesOf(plan))
    for (const seat of m.stages.get(id)?.seats ?? []) {
      const by = m.decisions[decisions.get(seat) ?? -1]?.by;
      if (by === undefined) continue;
      if (counted.some((one) => one.by === by && meetApart({ ...m, plan }, id, one.stage))) found.push(seat);
      else counted.push({ stage: id, by });
    }
  return found;
}

/** Every seat a next round could ask, with whether its decision stands and why not. */
export function lines(m: Model): { seat: string; keep: boolean; reason: string }[] {
  const seats = [...m.seats.values()].filter((seat) => !seat.gone);
  const same = new Map(
    seats.flatMap((seat) => (unchanged(m, seat) === null ? [] : [[seat.id, unchanged(m, seat) as number]])),
  );
  const again = twice(m, m.plan, same);
  return seats.map((seat) => {
    if (!same.has(seat.id)) return { seat: seat.id, keep: false, reason: reason(m, seat) };
    return again.includes(seat.id)
      ? { seat: seat.id, keep: false, reason: 'twice' }
      : { seat: seat.id, keep: true, reason: 'unchanged' };
  });
}

function reason(m: Model, seat: ModelSeat): string {
  if (['returned', 'declined', 'missed', 'released'].includes(seat.status)) return seat.status;
  if (seat.status === 'asked' || seat.status === 'suspended') return 'open';
  if (seat.status === 'decided') return 'changed';
  const latest = m.decisions[own(m, seat)[0] ?? -1];
  if (latest) return positive(latest.outcome) ? 'changed' : latest.outcome;
  return m.decisions.some((decision) => decision.seat === seat.id) ? 'given' : 'notAskedBefore';
}

/** Whether declines may be left as they are: the rule can still be met by everybody else. */
export function leavable(m: Model, stage: ModelStage, left: ReadonlySet<string>): boolean {
  const { rule } = stagePlan(m, { stage: stage.id });
  const seats = seatsIn(m, stage);
  const rest = seats.filter(({ id }) => !left.has(id)).length;
  return rest >= (rule.kind === 'all' ? seats.length : rule.kind === 'any' ? 1 : rule.k);
}

/** Times are demanded of every stage that the round can reach and whose closing has passed. */
export function needTimes(
  m: Model,
  kept: ReadonlyMap<string, unknown>,
  left: ReadonlySet<string>,
  times: ReadonlyMap<string, { due: Time | null; closes: Time | null }>,
  known: Known,
): void {
  const then: Model = {
    ...m,
    stages: new Map(
      [...m.stages].map(([id, stage]) => [
        id,
        { ...stage, status: 'idle' as const, gone: stage.gone === 'removed' ? ('removed' as const) : null },
      ]),
    ),
    seats: new Map([...m.seats].map(([id, seat]) => [id, { ...seat, ...after(id) }])),
  };
  function after(id: string): { status: Status; passed: boolean } {
    if (kept.has(id)) return { status: 'decided', passed: false };
    return left.has(id) ? { status: 'declined', passed: true } : { status: 'idle', passed: false };
  }
  for (const id of reached(then, m.plan, known)) {
    const given = times.get(id);
    for (const seat of seatsIn(m, stageOf(m, id))) {
      if (kept.has(seat.id) || left.has(seat.id)) continue;
      const closes = given ? instant(given.closes) : (seat.given?.closes ?? instant(targets(m, seat).closes));
      need(closes === null || closes > known.now, 'a closing has passed');
    }
  }
}

/** The stages that a round can come to ask: not those that kept responses satisfy, conditions skip, or joins pass by. */
function reached(then: Model, part: Route, known: Known): string[] {
  if (part.kind === 'copies') return [];
  if (part.kind === 'stage') {
    const out = (part.condition && !couldHold(then, part.condition, known)) || met(then, part, known) === 'yes';
    return out ? [] : [part.id];
  }
  if (part.kind === 'series') return part.parts.flatMap((inner) => reached(then, inner, known));
  if (met(then, part, known) === 'yes') return [];
  return part.branches.flatMap(({ route, condition }) =>
    condition && !couldHold(then, condition, known) ? [] : reached(then, route, known),
  );
}

/** What depends on how a stage ends can become either. */
function couldHold(then: Model, condition: Parameters<typeof holds>[1], known: Known): boolean {
  return JSON.stringify(condition).includes('"kind":"outcome"') || holds(then, condition, known.record);
}

function met(then: Model, part: Route, known: Known): 'yes' | 'open' | 'gone' {
  if (part.kind === 'copies') return 'gone';
  if (part.kind === 'stage') {
    if (part.condition && !couldHold(then, part.condition, known)) return 'gone';
    const seats = seatsIn(then, stageOf(then, part.id));
    const yes = seats.filter(({ status }) => status === 'decided').length;
    const wanted = part.rule.kind === 'all' ? seats.length : part.rule.kind === 'any' ? 1 : part.rule.k;
    return seats.length > 0 && yes >= wanted && !seats.some((seat) => openStop(then, seat)) ? 'yes' : 'open';
  }
  const inner =
    part.kind === 'series'
      ? part.parts.map((one) => met(then, one, known))
      : part.branches.map(({ route, condition }) =>
          condition && !couldHold(then, condition, known) ? 'gone' : met(then, route, known),
        );
  const there = inner.filter((one) => one !== 'gone');
  if (there.length === 0) return 'gone';
  const join = part.kind === 'series' ? ({ kind: 'all' } as const) : part.join;
  const wanted = join.kind === 'all' ? there.length : join.kind === 'any' ? 1 : Math.min(join.k, there.length);
  return there.filter((one) => one === 'yes').length >= wanted ? 'yes' : 'open';
}
