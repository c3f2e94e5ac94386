import type { Rule } from '../route/tally';
import type { Chair, Chance, Course, Leg, ParallelLeg, SeriesLeg, SpanLeg } from './course';
import { bitsOf, lanes, streamOf } from './draws';
import { horizon, workedOff } from './ticks';

/** What came out of many runs. */
interface Simulated {
  /** When each run ended, in run order. */
  readonly ends: Int32Array;
  /** In how many runs each seat stood on the chain that decided when it ended. */
  readonly decides: ReadonlyMap<string, number>;
  /** The middle of when each stage begins and ends, of the runs that reach it first. */
  readonly stages: ReadonlyMap<string, { readonly from: number; readonly to: number }>;
}

/** The mark of a part that does not take part in a run. */
const gone = -1;
const never = horizon + 1;

/** Runs that go through the route together: which they are, when each begins, what is kept, and who sends it back when. */
interface Pass {
  readonly runs: Int32Array;
  readonly round: number;
  readonly kept: ReadonlyMap<string, Uint8Array>;
  readonly returns: boolean;
  readonly returnedAt: Int32Array;
  readonly finished: Map<string, Int32Array>;
  readonly sentBack: Map<string, Uint8Array>;
  readonly deciders: Map<Leg, Int16Array>;
  readonly spans: Map<string, { readonly from: Int32Array; readonly to: Int32Array }>;
}

/**
 * Plays what is left of a circulation many times over, every stage over all runs at once. Draws are shared with every other
 * simulation of as many runs: seats that are the same draw the same.
 */
export function simulate(course: Course, runs: number): Simulated {
  const ends = new Int32Array(runs);
  const decides = new Map<string, number>();
  const stages = new Map<string, { from: number; to: number }>();
  let ids: Int32Array = Int32Array.from({ length: runs }, (_, run) => run);
  let begins: Int32Array = new Int32Array(runs);
  let kept: ReadonlyMap<string, Uint8Array> = new Map();
  if (course.reworking) {
    begins = drawn(course.reworking, ids, begins, 0);
    kept = keptOf(chairsOf(course.legs), ids, 0, course.kept, null);
  }
  for (let round = 0; ids.length > 0; round += 1) {
    const pass: Pass = {
      runs: ids,
      round,
      kept,
      returns: round < course.rounds,
      returnedAt: new Int32Array(ids.length).fill(never),
      finished: new Map(),
      sentBack: new Map(),
      deciders: new Map(),
      spans: new Map(),
    };
    const out = walk(course.legs, begins, pass);
    if (round === 0) for (const [id, span] of pass.spans) stages.set(id, middles(span));
    const over: number[] = [];
    const again: number[] = [];
    for (let i = 0; i < ids.length; i += 1) {
      const end = out[i] === gone ? (begins[i] as number) : (out[i] as number);
      if ((pass.returnedAt[i] as number) <= end) again.push(i);
      else {
        over.push(i);
        ends[ids[i] as number] = end;
      }
    }
    trace(course.legs, over, pass, decides);
    const at = Int32Array.from(again, (i) => pass.returnedAt[i] as number);
    const next = Int32Array.from(again, (i) => ids[i] as number);
    kept = keptOf(chairsOf(course.legs), next, round + 1, course.kept, { pass, positions: again });
    begins = drawn(course.rework, next, at, round + 1);
    ids = next;
  }
  if (!course.release) return { ends, decides, stages };
  const all = Int32Array.from({ length: runs }, (_, run) => run);
  return { ends: drawn(course.release, all, ends, 0), decides, stages };
}

/** The middle one of whatever is not gone. */
function middleOf(values: Int32Array): number {
  const there = values.filter((value) => value !== gone).sort();
  return there.length === 0 ? 0 : (there[there.length >> 1] as number);
}

const middles = ({ from, to }: { from: Int32Array; to: Int32Array }) => ({ from: middleOf(from), to: middleOf(to) });

/** When something is done that begins at `begins`. */
function drawn({ key, table, ticks }: Chance, runs: Int32Array, begins: Int32Array, round: number): Int32Array {
  const stream = streamOf(key, lanes.time, round);
  const out = new Int32Array(runs.length);
  const scale = table.length / 4_294_967_296;
  for (let i = 0; i < runs.length; i += 1) {
    const cell = Math.floor(bitsOf(stream, runs[i] as number) * scale);
    out[i] = workedOff(ticks, begins[i] as number, table[cell] as number);
  }
  return out;
}

function walk(leg: Leg, begins: Int32Array, pass: Pass): Int32Array {
  if (leg.kind === 'stage') return walkStage(leg, begins, pass);
  if (leg.kind === 'series') return walkSeries(leg, begins, pass);
  return walkParallel(leg, begins, pass);
}

/** Marks the runs in which a part that takes part only perhaps does not. */
function perhaps(part: SeriesLeg['parts'][number], out: Int32Array, pass: Pass): Int32Array {
  return part.perhaps ? out.map((end, i) => (takesPart(part, pass, i) ? end : gone)) : out;
}

function takesPart({ perhaps: chance }: SeriesLeg['parts'][number], { runs, round }: Pass, i: number): boolean {
  if (!chance) return true;
  return bitsOf(streamOf(chance.key, lanes.odds, round), runs[i] as number) % 1000 < chance.odds;
}

function walkSeries(leg: SeriesLeg, begins: Int32Array, pass: Pass): Int32Array {
  let at = begins;
  let any: Int32Array | null = null;
  for (const part of leg.parts) {
    const out = perhaps(part, walk(part, at, pass), pass);
    const next = new Int32Array(at.length);
    const through = new Int32Array(at.length);
    for (let i = 0; i < at.length; i += 1) {
      const end = out[i] as number;
      next[i] = end === gone ? (at[i] as number) : end;
      through[i] = end === gone ? (any?.[i] ?? gone) : end;
    }
    at = next;
    any = through;
  }
  return any ?? new Int32Array(begins.length).fill(gone);
}

function walkParallel(leg: ParallelLeg, begins: Int32Array, pass: Pass): Int32Array {
  const returns = leg.branches.map(() => new Int32Array(begins.length).fill(never));
  const ends = leg.branches.map((branch, k) => {
    const inner = { ...pass, returnedAt: returns[k] as Int32Array };
    return perhaps(branch, walkSeries(branch, begins, inner), pass);
  });
  const out = choose(leg, ends, (n) => neededOf(leg.join, n), begins.length, pass);
  // A branch that the others have passed by sends nothing back any more, nor does one that does not take part.
  leg.branches.forEach((branch, k) => {
    for (let i = 0; i < begins.length; i += 1) {
      const at = (returns[k] as Int32Array)[i] as number;
      if (at <= (out[i] as number) && at < (pass.returnedAt[i] as number) && takesPart(branch, pass, i))
        pass.returnedAt[i] = at;
    }
  });
  return out;
}

/** How many branches a join waits for, of those that take part. */
function neededOf(join: Rule, n: number): number {
  return join.kind === 'all' ? n : join.kind === 'any' ? 1 : join.k;
}

/** The end of whichever comes as the last of those that are needed, and which that is. */
function choose(
  leg: Leg,
  ends: readonly Int32Array[],
  needs: (n: number) => number,
  length: number,
  { deciders }: Pass,
): Int32Array {
  const out = new Int32Array(length).fill(gone);
  const decider = new Int16Array(length).fill(-1);
  deciders.set(leg, decider);
  const order: number[] = [];
  for (let i = 0; i < length; i += 1) {
    order.length = 0;
    for (let k = 0; k < ends.length; k += 1) {
      const end = (ends[k] as Int32Array)[i] as number;
      if (end === gone) continue;
      // Insertion keeps them ascending; a stage has few seats, a join few branches.
      let at = order.length;
      order.push(k);
      while (at > 0 && ((ends[order[at - 1] as number] as Int32Array)[i] as number) > end) {
        order[at] = order[at - 1] as number;
        at -= 1;
      }
      order[at] = k;
    }
    const needed = Math.min(order.length, needs(order.length));
    if (needed <= 0) continue;
    const who = order[needed - 1] as number;
    decider[i] = who;
    out[i] = (ends[who] as Int32Array)[i] as number;
  }
  return out;
}

function walkStage(leg: SpanLeg, begins: Int32Array, pass: Pass): Int32Array {
  const { runs } = pass;
  if (leg.chairs.length === 0) return new Int32Array(runs.length).fill(gone);
  const ends: Int32Array[] = [];
  let at = begins;
  for (const chair of leg.chairs) {
    const end = finish(chair, at, pass);
    ends.push(end);
    pass.finished.set(chair.id, end);
    if (leg.oneByOne) at = end;
  }
  const out = choose(leg, ends, () => leg.needed, runs.length, pass);
  pass.spans.set(leg.id, { from: begins, to: out });
  if (pass.returns) sendBack(leg, ends, out, pass);
  return out;
}

/** When each run has a seat's response. */
function finish(chair: Chair, begins: Int32Array, pass: Pass): Int32Array {
  const { runs, round } = pass;
  const kept = pass.kept.get(chair.id);
  const first = round === 0 && pass.kept.size === 0;
  if (first && chair.state === 'done') return begins;
  const asked = first && chair.state === 'asked';
  const out = drawn(first ? chair : { ...chair, table: chair.anew }, runs, begins, round);
  const { plain, work } = chair.wait;
  const waits = plain > 0 || work > 0;
  for (let i = 0; i < runs.length; i += 1) {
    const begin = begins[i] as number;
    if (kept?.[i]) out[i] = begin;
    else {
      const from = waits && !asked ? Math.min(horizon, workedOff(chair.ticks, begin, work) + plain) : 0;
      out[i] = Math.max(out[i] as number, chair.from, from);
    }
  }
  return out;
}

/** Notes in which runs somebody of a stage sends it back, and when that takes effect. */
function sendBack(leg: SpanLeg, ends: readonly Int32Array[], out: Int32Array, pass: Pass): void {
  const { runs, returnedAt, round } = pass;
  leg.chairs.forEach((chair, k) => {
    const done = round === 0 && chair.state === 'done' && pass.kept.size === 0;
    if (chair.returns === 0 || done) return;
    const stream = streamOf(chair.key, lanes.returns, round);
    const kept = pass.kept.get(chair.id);
    const marks = new Uint8Array(runs.length);
    pass.sentBack.set(chair.id, marks);
    const own = ends[k] as Int32Array;
    for (let i = 0; i < runs.length; i += 1) {
      if (kept?.[i] || bitsOf(stream, runs[i] as number) % 1000 >= chair.returns) continue;
      const at = own[i] as number;
      // Whoever the stage did not need any more was released before they could.
      if (at > (out[i] as number)) continue;
      marks[i] = 1;
      let effect = at;
      if (leg.gathers) for (const other of ends) effect = Math.max(effect, other[i] as number);
      if (effect < (returnedAt[i] as number)) returnedAt[i] = effect;
    }
  });
}

/** Which decisions are kept in a next round: of those that were made before it was sent back, so many in a thousand. */
function keptOf(
  chairs: readonly Chair[],
  runs: Int32Array,
  round: number,
  share: number,
  before: { readonly pass: Pass; readonly positions: readonly number[] } | null,
): Map<string, Uint8Array> {
  const kept = new Map<string, Uint8Array>();
  for (const chair of chairs) {
    const stream = streamOf(chair.key, lanes.kept, round);
    const marks = new Uint8Array(runs.length);
    const own = before?.pass.finished.get(chair.id);
    const sent = before?.pass.sentBack.get(chair.id);
    for (let i = 0; i < runs.length; i += 1) {
      const at = before?.positions[i] ?? 0;
      const decided = before
        ? own !== undefined && (own[at] as number) <= (before.pass.returnedAt[at] as number) && !sent?.[at]
        : chair.state === 'done';
      if (decided && bitsOf(stream, runs[i] as number) % 1000 < share) marks[i] = 1;
    }
    kept.set(chair.id, marks);
  }
  return kept;
}

/** Counts for every seat the runs, of those at these positions, in which it stood on the chain that decided the end. */
function trace(leg: Leg, positions: readonly number[], pass: Pass, decides: Map<string, number>): void {
  if (positions.length === 0) return;
  if (leg.kind === 'series') {
    for (const part of leg.parts)
      trace(part, part.perhaps ? positions.filter((i) => takesPart(part, pass, i)) : positions, pass, decides);
    return;
  }
  const decider = pass.deciders.get(leg);
  if (!decider) return;
  const groups: number[][] = (leg.kind === 'stage' ? leg.chairs : leg.branches).map(() => []);
  for (const i of positions) if ((decider[i] as number) >= 0) groups[decider[i] as number]?.push(i);
  groups.forEach((group, k) => {
    if (leg.kind === 'parallel') trace(leg.branches[k] as SeriesLeg, group, pass, decides);
    else {
      // One by one everybody up to the last who is needed decides it; together the last alone.
      const chairs = leg.oneByOne ? leg.chairs.slice(0, k + 1) : [leg.chairs[k] as Chair];
      for (const chair of chairs) {
        const idle = pass.round === 0 && chair.state === 'done' && pass.kept.size === 0;
        const marks = pass.kept.get(chair.id);
        const count = idle ? 0 : marks ? group.filter((i) => !marks[i]).length : group.length;
        if (count > 0) decides.set(chair.id, (decides.get(chair.id) ?? 0) + count);
      }
    }
  });
}

function chairsOf(leg: Leg): Chair[] {
  if (leg.kind === 'stage') return [...leg.chairs];
  return (leg.kind === 'series' ? leg.parts : leg.branches).flatMap(chairsOf);
}
