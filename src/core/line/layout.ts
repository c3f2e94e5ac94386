import type { Verb } from '../route/route';
import type { LineModel, LinePart, LineSeat, LineStage, LineStatus } from './line';

/** The line as coordinates: where ropes, towers, seats and labels of a model stand in the space there is. */

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** A rope between two points, as a quadratic curve through `control`. */
export interface Rope {
  readonly stage: string;
  readonly status: LineStatus;
  readonly stopped: boolean;
  readonly from: Point;
  readonly control: Point;
  readonly to: Point;
}

export interface Tower {
  readonly top: Point;
  /** Where it stands on the ground; null for a saddle inside a branch, which carries the rope without a mast. */
  readonly base: number | null;
  readonly reached: boolean;
  /** How many are needed, where the tower waits for fewer than all. */
  readonly quota: number | null;
}

export interface HangingSeat {
  readonly seat: LineSeat;
  readonly stage: string;
  /** Where the hanger leaves the rope. */
  readonly rope: Point;
  /** The middle of the tile. */
  readonly tile: Point;
}

export interface Step {
  readonly from: Point;
  readonly to: Point;
  readonly reached: boolean;
}

export interface StageLabel {
  readonly stage: string;
  readonly verb: Verb;
  readonly at: Point;
  /** Whether there is room for a second line under the first. */
  readonly below: boolean;
  /** How much room the label has. */
  readonly width: number;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly ropes: readonly Rope[];
  readonly towers: readonly Tower[];
  readonly seats: readonly HangingSeat[];
  readonly steps: readonly Step[];
  readonly labels: readonly StageLabel[];
  readonly branches: readonly { readonly name: string; readonly at: Point }[];
  /** Seats that found no room, folded into a count. */
  readonly folded: readonly { readonly stage: string; readonly count: number; readonly at: Point }[];
  readonly cabin: Point;
  /** The ground's surface from left to right. */
  readonly ground: readonly Point[];
  readonly end: Point;
}

export interface LineSpace {
  readonly width: number;
  readonly density: 'tiny' | 'large';
}

const large = { edge: 40, top: 74, lane: 96, tile: 28, gap: 12, hanger: 18, drop: 30, sag: 10, rise: 52, legs: 58 };
const tiny = { edge: 3, top: 6, lane: 6, tile: 0, gap: 0, hanger: 0, drop: 0, sag: 2.5, rise: 0, legs: 5 };

/** How much of the width a part asks for: a stage by its seats, branches by the longest of them. */
function weight(part: LinePart): number {
  if (part.kind === 'stage') return Math.max(2.2, Math.min(part.seats.length, 6) * 0.9 + 0.8);
  if (part.kind === 'series')
    return Math.max(
      1,
      part.parts.reduce((sum, inner) => sum + weight(inner), 0),
    );
  return Math.max(...part.branches.map((branch) => weight(branch.line))) + 0.6;
}

/** How many lanes of hanging seats a part needs below one another. */
function lanes(part: LinePart): number {
  if (part.kind === 'stage') return 1;
  if (part.kind === 'series') return Math.max(1, ...part.parts.map(lanes));
  return part.branches.reduce((sum, branch) => sum + lanes(branch.line), 0);
}

/** The longest one-by-one staircase hanging in the lowest lane, in seats beyond the first. */
function deepestDrop(part: LinePart): number {
  if (part.kind === 'stage') return part.order === 'oneByOne' ? Math.min(part.seats.length, 6) - 1 : 0;
  if (part.kind === 'series') return Math.max(0, ...part.parts.map(deepestDrop));
  return Math.max(0, ...part.branches.map((branch) => deepestDrop(branch.line)));
}

/** Coordinates for a line of the given width. Height follows from what hangs on it. */
export function layoutLine(model: LineModel, space: LineSpace): Drawing {
  const size = space.density === 'large' ? large : tiny;
  const ropes: Rope[] = [];
  const towers: Tower[] = [];
  const seats: HangingSeat[] = [];
  const steps: Step[] = [];
  const labels: StageLabel[] = [];
  const branches: { name: string; at: Point }[] = [];
  const folded: { stage: string; count: number; at: Point }[] = [];

  const laneCount = Math.max(1, lanes(model.root));
  const drop = size.drop * Math.min(3, deepestDrop(model.root)) * 0.7;
  // Room for the lowest tiles, then for the legs and the ground.
  const height =
    space.density === 'large'
      ? size.top + size.lane * (laneCount - 1) + 62 + drop + size.legs - (laneCount > 1 ? 8 : 0)
      : 22;
  const groundAt = (x: number) => height - 10 - size.rise * ((x / space.width) ** 2 * 0.8 + (x / space.width) * 0.2);
  const left = size.edge;
  const right = space.width - size.edge;

  let cabin: Point | null = null;
  const dock = (at: Point) => {
    if (!cabin || at.x < cabin.x) cabin = at;
  };

  const place = (part: LinePart, from: Point, to: Point, laneY: number): void => {
    if (part.kind === 'stage') {
      hang(part, from, to, laneY);
      return;
    }
    if (part.kind === 'series') {
      const total = part.parts.reduce((sum, inner) => sum + weight(inner), 0) || 1;
      let x = from.x;
      let start = from;
      part.parts.forEach((inner, i) => {
        x += ((to.x - from.x) * weight(inner)) / total;
        const last = i === part.parts.length - 1;
        const stop = last ? to : { x, y: laneY };
        place(inner, start, stop, laneY);
        if (!last)
          towers.push({
            top: stop,
            base: laneY === size.top ? groundAt(stop.x) : null,
            reached: isOver(inner),
            quota: quotaOf(inner),
          });
        start = stop;
      });
      return;
    }
    let y = laneY;
    const inset = Math.min(14, (to.x - from.x) * 0.08);
    for (const branch of part.branches) {
      place(branch.line, from, to, y);
      branches.push({
        name: branch.name,
        at: { x: from.x + inset + 14, y: y === laneY ? laneY - 12 : y + size.lane * 0.18 },
      });
      y += size.lane * lanes(branch.line);
    }
  };

  /** How far the lowest seat of a stage hangs below its first. */
  const hangs = (stage: LineStage) =>
    stage.order === 'oneByOne' ? size.drop * 0.7 * Math.min(3, Math.max(0, stage.seats.length - 1)) : 0;

  const hang = (stage: LineStage, from: Point, to: Point, laneY: number): void => {
    // Branches below the first hang deep, so that each carries its seats in a lane of its own.
    const middle = laneY + size.sag + (laneY === size.top ? 0 : -size.lane * 0.22);
    // Between ends of one height the rope dips to its lane; from a tower into a lane it must not dip below the lane.
    const level = Math.abs(from.y - to.y) < 1;
    const control = {
      x: (from.x + to.x) / 2,
      y: level ? 2 * middle - (from.y + to.y) / 2 : Math.max(from.y, to.y) + size.sag,
    };
    ropes.push({ stage: stage.id, status: stage.status, stopped: stage.stopped, from, control, to });
    if (stage.status === 'underWay' || (stage.stopped && stage.status === 'ahead')) dock(from);
    labels.push({
      stage: stage.id,
      verb: stage.verb,
      // Above the line for the first lane, under its own seats in the others.
      at: {
        x: (from.x + to.x) / 2,
        y: laneY === size.top ? size.top - 48 : middle + size.hanger + size.tile + 20 + hangs(stage),
      },
      below: laneY === size.top,
      width: to.x - from.x - 8,
    });
    if (space.density === 'tiny') return;
    const n = stage.seats.length;
    const room = to.x - from.x - 44;
    const fits = Math.max(1, Math.floor(room / (size.tile + size.gap)));
    const shown = n <= fits ? n : Math.max(0, fits - 1);
    const slots = n <= fits ? n : shown + 1;
    const stride = Math.min(size.tile + size.gap + 14, room / Math.max(1, slots));
    const begin = (from.x + to.x) / 2 - (stride * (slots - 1)) / 2;
    const drop = Math.min(size.drop, (size.drop * 3) / Math.max(1, slots - 1)) * 0.7;
    let before: Point | null = null;
    for (let i = 0; i < slots; i += 1) {
      const x = begin + stride * i;
      const rope = onCurve(from, control, to, x);
      const tile = { x, y: rope.y + size.hanger + size.tile / 2 + (stage.order === 'oneByOne' ? drop * i : 0) };
      const seat = stage.seats[i];
      if (i < shown && seat) {
        seats.push({ seat, stage: stage.id, rope, tile });
        if (before && stage.order === 'oneByOne')
          steps.push({ from: before, to: tile, reached: seat.status !== 'ahead' });
      } else folded.push({ stage: stage.id, count: n - shown, at: tile });
      before = tile;
    }
  };

  const begin = { x: left, y: size.top };
  const end = { x: right, y: size.top };
  const begun = model.ended !== 'no' || anyBegun(model.root);
  towers.unshift({ top: begin, base: groundAt(begin.x), reached: begun, quota: null });
  if (model.root.parts.length === 0)
    ropes.push({
      stage: '',
      status: 'ahead',
      stopped: false,
      from: begin,
      control: { x: (left + right) / 2, y: size.top + size.sag * 3 },
      to: end,
    });
  else place(model.root, begin, end, size.top);
  const lastPart = model.root.parts[model.root.parts.length - 1];
  towers.push({
    top: end,
    base: groundAt(end.x),
    reached: model.ended === 'completed',
    quota: lastPart ? quotaOf(lastPart) : null,
  });
  const atEnd = model.ended === 'completed' || model.ended === 'sealing';
  const ground = Array.from({ length: 13 }, (_, i) => ({
    x: (space.width * i) / 12,
    y: groundAt((space.width * i) / 12),
  }));
  return {
    width: space.width,
    height,
    ropes,
    towers,
    seats,
    steps,
    labels,
    branches,
    folded,
    cabin: atEnd ? end : (cabin ?? begin),
    ground,
    end,
  };
}

function onCurve(from: Point, control: Point, to: Point, x: number): Point {
  // The control point stands midway, so x runs evenly along the curve.
  const t = (x - from.x) / (to.x - from.x || 1);
  return { x, y: (1 - t) ** 2 * from.y + 2 * (1 - t) * t * control.y + t ** 2 * to.y };
}

function quotaOf(part: LinePart): number | null {
  if (part.kind === 'series') {
    const last = part.parts[part.parts.length - 1];
    return last ? quotaOf(last) : null;
  }
  return part.quota;
}

function isOver(part: LinePart): boolean {
  if (part.kind === 'stage') return part.status === 'done' || part.status === 'passedBy';
  if (part.kind === 'series') return part.parts.every(isOver);
  const over = part.branches.filter((branch) => isOver(branch.line)).length;
  return over >= (part.quota ?? part.branches.length);
}

function anyBegun(part: LinePart): boolean {
  if (part.kind === 'stage') return part.status !== 'ahead' || part.stopped;
  if (part.kind === 'series') return part.parts.some(anyBegun);
  return part.branches.some((branch) => anyBegun(branch.line));
}
