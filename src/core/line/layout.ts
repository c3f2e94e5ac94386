import type { Verb } from '../route/verbs';
import { unreachable } from '../unreachable';
import type { LineModel, LineParallel, LinePart, LineSeat, LineSeries, LineStage, LineStatus } from './line';

/**
 * The line as coordinates: where ropes, towers, seats, boards and texts of a model stand in the space there is. Every text
 * has a box of its own, and no two boxes overlap; whoever writes into one keeps to its width.
 */

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** A rope between two points, as a quadratic curve through `control`. */
export interface Rope {
  readonly stage: string;
  readonly status: LineStatus;
  readonly stopped: boolean;
  /** Slack rope before the span that has to wait. */
  readonly slack: boolean;
  readonly from: Point;
  readonly control: Point;
  readonly to: Point;
}

interface Tower {
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

interface Step {
  readonly from: Point;
  readonly to: Point;
  readonly reached: boolean;
}

/** The box of a text: its left edge, the baseline of its first line, how wide it may be. */
interface TextBox {
  readonly x: number;
  readonly y: number;
  readonly width: number;
}

/** Verb and facts of a stage, centred in their box; a line each. */
interface StageLabel extends TextBox {
  readonly stage: string;
  readonly verb: Verb;
  readonly lines: number;
  /** Over the line, with its fact in a line of its own; under its seats verb and fact share one. */
  readonly above: boolean;
}

/** A board at a tower: who gets copies. */
export interface Board extends TextBox {
  readonly copies: string;
  readonly count: number;
  readonly sent: boolean;
  readonly hidden: boolean;
  readonly tower: Point;
}

/** A place between two parts of a series, where something can be put. */
export interface LineSlot {
  readonly series: string;
  readonly at: number;
  readonly point: Point;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly ropes: readonly Rope[];
  readonly towers: readonly Tower[];
  readonly seats: readonly HangingSeat[];
  readonly steps: readonly Step[];
  readonly labels: readonly StageLabel[];
  readonly branches: readonly (TextBox & {
    readonly branch: string;
    readonly parallel: string;
    readonly name: string;
  })[];
  readonly boards: readonly Board[];
  /** Forks at the foot of a tower: the stage that is taken only when something holds. */
  readonly forks: readonly (TextBox & { readonly stage: string; readonly foot: Point; readonly open: boolean })[];
  /** What a span waits for, under its slack rope. */
  readonly waits: readonly (TextBox & { readonly stage: string })[];
  /** Seats that found no room, folded into a count. */
  readonly folded: readonly { readonly stage: string; readonly count: number; readonly at: Point }[];
  /** Branches that are folded into a count. */
  readonly foldedBranches: readonly (TextBox & { readonly parallel: string; readonly count: number })[];
  readonly slots: readonly LineSlot[];
  readonly cabin: Point;
  /** The ground's surface from left to right. */
  readonly ground: readonly Point[];
  readonly end: Point;
}

interface LineSpace {
  readonly width: number;
  readonly density: 'tiny' | 'large';
  /** Stages and parallels of which everything is shown. */
  readonly open?: ReadonlySet<string>;
  /** How long each stage took or is expected to take: spans are as wide, where there is room to be read in. */
  readonly spans?: ReadonlyMap<string, number>;
}

const large = { edge: 44, top: 78, tile: 28, gap: 10, hanger: 16, step: 18, sag: 10, rise: 26, legs: 30, text: 17 };
const tiny = { edge: 3, top: 6, tile: 0, gap: 0, hanger: 0, step: 0, sag: 2.5, rise: 0, legs: 5, text: 0 };
type Size = typeof large;

/** How many seats hang in a stage before the rest is a count, in a row where all are shown, and branches before they fold. */
const shown = { seats: 6, row: 8, branches: 4 } as const;
const slackWidth = 120;
/** How far from its towers a lower lane begins and ends. */
const leadWidth = 34;
const tinyLane = 6;

/** Where a part hangs: on the line itself, in the first branch of a fan that does, or in a lane below. */
type Lane = 'line' | 'first' | 'below';

interface Extent {
  /** The least width it can be read in, and how far it comes down below the towers of its lane. */
  readonly width: number;
  readonly depth: number;
}

/** A line while it is laid: what there is to lay it on, and what has been laid. */
interface Laying {
  readonly space: LineSpace;
  readonly size: Size;
  readonly small: boolean;
  readonly open: ReadonlySet<string>;
  readonly width: number;
  /** The right end of the line, and the rows of boards and of forks under the lowest lane. */
  readonly right: number;
  readonly rows: { readonly boards: number; readonly forks: number };
  readonly measure: (part: LinePart, on: Lane) => Extent;
  readonly groundAt: (x: number) => number;
  readonly drawn: ReturnType<typeof nothingLaid>;
  /** Where the cabin is: at the first span that is under way. */
  cabin: Point | null;
}

const nothingLaid = () => ({
  ropes: [] as Rope[],
  towers: [] as Tower[],
  seats: [] as HangingSeat[],
  steps: [] as Step[],
  labels: [] as StageLabel[],
  branches: [] as Drawing['branches'][number][],
  boards: [] as Board[],
  forks: [] as Drawing['forks'][number][],
  waits: [] as Drawing['waits'][number][],
  folded: [] as Drawing['folded'][number][],
  foldedBranches: [] as Drawing['foldedBranches'][number][],
  slots: [] as LineSlot[],
});

/** Coordinates for a line. Height follows from what hangs on it; width too, where more is needed than there is. */
export function layoutLine(model: LineModel, space: LineSpace): Drawing {
  const size = space.density === 'large' ? large : tiny;
  const small = space.density === 'tiny';
  const open = space.open ?? new Set<string>();
  const measured = new Map<LinePart, Extent>();
  const measure = (part: LinePart, on: Lane): Extent => {
    const known = measured.get(part);
    if (known) return known;
    const made = extentOf(part, on, size, small, open, measure);
    measured.set(part, made);
    return made;
  };
  const whole = measure(model.root, 'line');
  const width = small ? space.width : Math.max(space.width, whole.width + 2 * size.edge);
  // Room for the lowest lane, then for the legs with their boards and forks, and the ground.
  const lowest = size.top + Math.max(whole.depth, small ? 0 : 64);
  const signs = small ? { boards: false, forks: false } : signsOn(model.root);
  const legs = size.legs + (signs.boards ? 22 : 0) + (signs.forks ? 26 : 0);
  const height = small ? 22 : lowest + legs + 24;
  const groundAt = (x: number) => height - 10 - size.rise * ((x / width) ** 2 * 0.8 + (x / width) * 0.2);
  const laying: Laying = {
    space,
    size,
    small,
    open,
    width,
    right: width - size.edge,
    rows: { boards: lowest + 20, forks: lowest + (signs.boards ? 48 : 24) },
    measure,
    groundAt,
    drawn: nothingLaid(),
    cabin: null,
  };
  const { drawn } = laying;
  const begin = { x: size.edge, y: size.top };
  const end = { x: laying.right, y: size.top };
  const foot = ({ x }: Point) => (small ? null : groundAt(x));
  const begun = model.ended !== 'no' || anyBegun(model.root);
  drawn.towers.push({ top: begin, base: foot(begin), reached: begun, quota: null });
  place(laying, model.root, begin, end, size.top, 'line');
  const lastPart = model.root.parts.findLast((part) => part.kind !== 'copies');
  const completed = model.ended === 'completed';
  drawn.towers.push({ top: end, base: foot(end), reached: completed, quota: lastPart ? quotaOf(lastPart) : null });
  const ground = Array.from({ length: 13 }, (_, i) => ({ x: (width * i) / 12, y: groundAt((width * i) / 12) }));
  return {
    ...drawn,
    width,
    height,
    boards: apart(drawn.boards),
    forks: uncrossed(drawn.forks),
    cabin: completed || model.ended === 'finishing' ? end : (laying.cabin ?? begin),
    ground,
    end,
  };
}

function dock(laying: Laying, at: Point): void {
  if (!laying.cabin || at.x < laying.cabin.x) laying.cabin = at;
}

/** Lays a part between two points; `lane` is the height of the towers it hangs between, `on` says where. */
function place(laying: Laying, part: LinePart, from: Point, to: Point, lane: number, on: Lane): void {
  if (part.kind === 'stage') hang(laying, part, from, to, lane, on !== 'below');
  else if (part.kind === 'series') run(laying, part, from, to, lane, on);
  else if (part.kind === 'parallel') fan(laying, part, from, to, lane, on);
}

function run(laying: Laying, series: LineSeries, from: Point, to: Point, lane: number, on: Lane): void {
  const { size, small, space, measure, groundAt, drawn } = laying;
  const top = on !== 'below';
  const least = series.parts.map((part) => measure(part, on).width);
  const lengths = series.parts.map((part) => lengthOf(part, space.spans));
  const widths = widthsFor(least, lengths, to.x - from.x, small);
  let x = from.x;
  let start = from;
  drawn.slots.push({ series: series.id, at: 0, point: from });
  series.parts.forEach((inner, i) => {
    const own = least[i] as number;
    x += widths[i] as number;
    const last = series.parts.slice(i + 1).every((part) => part.kind === 'copies' && top);
    const stop = last ? to : { x, y: lane };
    if (inner.kind === 'copies') {
      board(laying, inner, top ? start : { x: x - own / 2, y: lane }, lane, top);
      if (!top && !small) drawn.ropes.push(plainRope(start, stop, size));
    } else {
      place(laying, inner, start, stop, lane, on);
      const base = top && !small ? groundAt(stop.x) : null;
      if (!last) drawn.towers.push({ top: stop, base, reached: isOver(inner), quota: quotaOf(inner) });
    }
    start = stop;
    drawn.slots.push({ series: series.id, at: i + 1, point: start });
  });
  if (series.parts.length === 0) drawn.ropes.push(plainRope(from, to, size));
}

function board(
  { small, width, rows, drawn }: Laying,
  { id, count, sent, hidden }: Extract<LinePart, { kind: 'copies' }>,
  tower: Point,
  lane: number,
  top: boolean,
): void {
  if (small) return;
  const wide = 136;
  const x = Math.min(width - wide - 4, Math.max(4, tower.x - wide / 2));
  drawn.boards.push({ copies: id, count, sent, hidden, tower, x, y: top ? rows.boards : lane + 30, width: wide });
}

function fan(laying: Laying, parallel: LineParallel, from: Point, to: Point, lane: number, on: Lane): void {
  const { size, small, open, measure, drawn } = laying;
  let y = lane;
  const unfolded = small || open.has(parallel.id) || parallel.branches.length <= shown.branches;
  const visible = unfolded ? parallel.branches : parallel.branches.slice(0, shown.branches - 1);
  visible.forEach((branch, i) => {
    const above = on === 'line' && i === 0;
    const own = measure(branch.line, above ? 'first' : 'below');
    // The name stands in a row of its own over its lane; over the first it has the room above the rope.
    if (!small && !above) y += size.text;
    if (small || above) place(laying, branch.line, from, to, y, above ? 'first' : 'below');
    else lead(laying, branch.line, from, to, y);
    if (!small)
      drawn.branches.push({
        branch: branch.id,
        parallel: parallel.id,
        name: branch.name,
        // In a lower lane the rope comes down from its tower first.
        x: from.x + (above ? 20 : leadWidth + 14),
        y: above ? y - 8 : y - 5,
        width: branchRoom(laying, branch.line, from, to, above),
      });
    y += small ? tinyLane * lanes(branch.line) : own.depth;
  });
  if (unfolded) return;
  const count = parallel.branches.length - visible.length;
  drawn.foldedBranches.push({ parallel: parallel.id, count, x: (from.x + to.x) / 2 - 60, y: y + 18, width: 120 });
  for (const branch of parallel.branches.slice(visible.length)) if (anyBegun(branch.line)) dock(laying, from);
}

/** A lower lane: ropes that lead down to it and up again, and between them the lane itself, level. */
function lead(laying: Laying, line: LineSeries, from: Point, to: Point, lane: number): void {
  const begins = { x: from.x + leadWidth, y: lane };
  const ends = { x: to.x - leadWidth, y: lane };
  const status = isOver(line) ? 'done' : anyBegun(line) ? 'underWay' : 'ahead';
  const rope = (a: Point, b: Point, x: number): Rope => ({
    stage: '',
    status: b === to && status === 'underWay' ? 'ahead' : status,
    stopped: false,
    slack: false,
    from: a,
    control: { x, y: lane },
    to: b,
  });
  laying.drawn.ropes.push(rope(from, begins, from.x + 4));
  place(laying, line, begins, ends, lane, 'below');
  laying.drawn.ropes.push(rope(ends, to, to.x - 4));
}

/** How wide the name of a branch may be: up to where its first seats hang, or over a lower rope as far as that goes. */
function branchRoom({ size, open, measure }: Laying, line: LineSeries, from: Point, to: Point, above: boolean): number {
  const first = line.parts.find((part) => part.kind !== 'copies');
  const share = first ? measure(first, 'below').width / Math.max(1, measure(line, 'below').width) : 1;
  const span = (to.x - from.x) * share;
  if (!above) return Math.max(62, span - 2 * leadWidth - 40);
  const hanging = first?.kind === 'stage' ? tilesOf(first, open).slots * (size.tile + size.gap) : 80;
  return Math.max(62, span / 2 - hanging / 2 - 34);
}

function hang(laying: Laying, stage: LineStage, given: Point, to: Point, lane: number, top: boolean): void {
  const { size, small, right, rows, groundAt, drawn } = laying;
  const from = stage.waits && !small ? slackUntil(laying, stage, given, lane, top) : given;
  // Between ends of one height the rope dips a little; from a tower into a lower lane it comes down to the lane.
  const middle = lane + size.sag + (top || small ? 0 : 4);
  const level = Math.abs(from.y - to.y) < 1;
  const control = {
    x: (from.x + to.x) / 2,
    y: level ? 2 * middle - (from.y + to.y) / 2 : Math.max(from.y, to.y) + size.sag,
  };
  const { id, status, stopped } = stage;
  drawn.ropes.push({ stage: id, status, stopped, slack: false, from, control, to });
  if (status === 'underWay' || (stopped && status === 'ahead')) dock(laying, given);
  if (small) return;
  const bottom = hangSeats(laying, stage, from, control, to);
  const fork = stage.condition !== 'none';
  drawn.labels.push({
    stage: id,
    verb: stage.verb,
    x: from.x + 4,
    y: top ? size.top - 50 : bottom + size.text,
    width: Math.max(20, to.x - from.x - 8),
    lines: top || fork ? 2 : 1,
    above: top,
  });
  if (!fork || !top) return;
  const foot = { x: given.x, y: groundAt(given.x) };
  const opened = stage.condition === 'open';
  drawn.forks.push({ stage: id, foot, open: opened, x: given.x + 22, y: rows.forks, width: right - given.x - 30 });
}

/** A slack rope before a stage that waits, to a tower of its own; gives where the stage hangs from. */
function slackUntil({ groundAt, drawn }: Laying, stage: LineStage, from: Point, lane: number, top: boolean): Point {
  const post = { x: from.x + slackWidth, y: lane };
  const low = Math.max(from.y, lane);
  const ahead = stage.status === 'ahead';
  drawn.ropes.push({
    stage: stage.id,
    status: ahead ? 'ahead' : 'done',
    stopped: false,
    slack: true,
    from,
    control: { x: from.x + slackWidth / 2, y: low + 74 },
    to: post,
  });
  drawn.waits.push({ stage: stage.id, x: from.x + 6, y: low + 58, width: slackWidth - 12 });
  drawn.towers.push({ top: post, base: top ? groundAt(post.x) : null, reached: !ahead, quota: null });
  return post;
}

/** Hangs the seats of a stage and gives how far down they come. */
function hangSeats({ size, open, drawn }: Laying, stage: LineStage, from: Point, control: Point, to: Point): number {
  const { slots: places, rows, visible } = tilesOf(stage, open);
  const room = to.x - from.x - 40;
  const stride = Math.min(size.tile + size.gap + 12, room / Math.max(1, places));
  const begin = (from.x + to.x) / 2 - (stride * (places - 1)) / 2;
  const stair = stage.order === 'oneByOne' && rows === 1;
  const drop = stair ? Math.min(size.step, (size.step * 3) / Math.max(1, places - 1)) : 0;
  let before: Point | null = null;
  let bottom = from.y;
  const total = Math.min(stage.seats.length, visible) + (stage.seats.length > visible ? 1 : 0);
  for (let i = 0; i < total; i += 1) {
    const column = i % places;
    const row = Math.floor(i / places);
    const x = begin + stride * column;
    const rope = onCurve(from, control, to, x);
    const tile = { x, y: rope.y + size.hanger + size.tile / 2 + drop * column + row * (size.tile + 6) };
    bottom = Math.max(bottom, tile.y + size.tile / 2);
    const seat = stage.seats[i];
    if (i < visible && seat) {
      drawn.seats.push({ seat, stage: stage.id, rope: row === 0 ? rope : { x, y: tile.y - size.tile / 2 - 6 }, tile });
      if (before && stage.order === 'oneByOne' && row === 0)
        drawn.steps.push({ from: before, to: tile, reached: seat.status !== 'ahead' });
    } else drawn.folded.push({ stage: stage.id, count: stage.seats.length - visible, at: tile });
    before = tile;
  }
  return total === 0 ? onCurve(from, control, to, (from.x + to.x) / 2).y + 20 : bottom;
}

/** How long a part takes, of the stages it is known of; side by side, as the longest branch. */
function lengthOf(part: LinePart, spans: LineSpace['spans']): number {
  if (!spans || part.kind === 'copies') return 0;
  if (part.kind === 'stage') return spans.get(part.id) ?? 0;
  if (part.kind === 'series') return part.parts.reduce((sum, inner) => sum + lengthOf(inner, spans), 0);
  return Math.max(0, ...part.branches.map((branch) => lengthOf(branch.line, spans)));
}

/**
 * How wide the parts of a series are in the room there is: as wide as they are long, and none below what it can be read in;
 * where no length is known, in proportion to that.
 */
function widthsFor(least: readonly number[], lengths: readonly number[], room: number, small: boolean): number[] {
  const total = least.reduce((sum, one) => sum + one, 0) || 1;
  if (small) return least.map((own) => (room * own) / total);
  const spare = Math.max(0, room - total);
  if (lengths.every((length) => length === 0)) return least.map((own) => own + (spare * own) / total);
  const widths = [...least];
  // Whoever would fall below the least keeps it, and the others share what is left.
  let sharing = lengths.map((_, i) => i).filter((i) => (lengths[i] as number) > 0);
  for (;;) {
    const kept = least.reduce((sum, own, i) => (sharing.includes(i) ? sum : sum + own), 0);
    const scale = (total + spare - kept) / sharing.reduce((sum, i) => sum + (lengths[i] as number), 0);
    const short = sharing.filter((i) => (lengths[i] as number) * scale < (least[i] as number));
    if (short.length === 0) {
      for (const i of sharing) widths[i] = (lengths[i] as number) * scale;
      return widths;
    }
    sharing = sharing.filter((i) => !short.includes(i));
  }
}

function extentOf(
  part: LinePart,
  on: Lane,
  size: Size,
  small: boolean,
  open: ReadonlySet<string>,
  measure: (part: LinePart, on: Lane) => Extent,
): Extent {
  const first = on !== 'below';
  switch (part.kind) {
    case 'copies':
      return { width: first || small ? 0 : 130, depth: first ? 0 : 60 };
    case 'stage': {
      if (small) return { width: Math.max(2.2, Math.min(part.seats.length, 6) * 0.9 + 0.8), depth: 0 };
      const { slots: places, rows } = tilesOf(part, open);
      const stair = part.order === 'oneByOne' && rows === 1 ? Math.min(3, places - 1) * size.step : 0;
      const tiles = size.sag + 8 + size.hanger + rows * (size.tile + 6) + stair;
      // Above the first lane stands the label; in the others it hangs below the seats.
      const label = first ? 0 : size.text * (part.condition === 'none' ? 1 : 2) + 8;
      const width = Math.max(112, places * (size.tile + size.gap) + 52) + (part.waits ? slackWidth : 0);
      return { width, depth: Math.max(tiles + label, part.waits ? 84 : 0) };
    }
    case 'series': {
      const all = part.parts.map((inner) => measure(inner, on));
      return {
        width: Math.max(
          small ? 1 : 112,
          all.reduce((sum, one) => sum + one.width, 0),
        ),
        depth: Math.max(0, ...all.map((one) => one.depth)),
      };
    }
    case 'parallel': {
      const unfolded = small || open.has(part.id) || part.branches.length <= shown.branches;
      const visible = unfolded ? part.branches : part.branches.slice(0, shown.branches - 1);
      const all = visible.map((branch, i) => measure(branch.line, on === 'line' && i === 0 ? 'first' : 'below'));
      const widest = Math.max(...all.map((one) => one.width));
      if (small) return { width: widest + 0.6, depth: 0 };
      const depth = all.reduce((sum, one) => sum + one.depth + size.text, 0) + (unfolded ? 0 : 26);
      return { width: widest + 2 * leadWidth + 12, depth };
    }
    default:
      return unreachable(part, 'part');
  }
}

/** How the seats of a stage hang: so many in a row, in how many rows, and how many of them. */
function tilesOf(stage: LineStage, open: ReadonlySet<string>): { slots: number; rows: number; visible: number } {
  const n = stage.seats.length;
  if (!open.has(stage.id)) {
    const fits = n <= shown.seats;
    return { slots: Math.max(1, fits ? n : shown.seats), rows: 1, visible: fits ? n : shown.seats - 1 };
  }
  return { slots: Math.max(1, Math.min(n, shown.row)), rows: Math.max(1, Math.ceil(n / shown.row)), visible: n };
}

/** How many lanes a part needs below one another in a row's line. */
function lanes(part: LinePart): number {
  if (part.kind === 'stage') return 1;
  if (part.kind === 'copies') return 0;
  if (part.kind === 'series') return Math.max(1, ...part.parts.map(lanes));
  return part.branches.reduce((sum, branch) => sum + lanes(branch.line), 0);
}

function plainRope(from: Point, to: Point, size: Size): Rope {
  const control = { x: (from.x + to.x) / 2, y: Math.max(from.y, to.y) + size.sag * 3 };
  return { stage: '', status: 'ahead', stopped: false, slack: false, from, control, to };
}

/** Whether boards or forks stand at the towers of the line itself. */
function signsOn(series: LineSeries, first = true): { boards: boolean; forks: boolean } {
  const found = { boards: false, forks: false };
  for (const part of series.parts) {
    if (part.kind === 'copies') found.boards = true;
    if (part.kind === 'stage' && part.condition !== 'none') found.forks = true;
    const inner =
      part.kind === 'series'
        ? signsOn(part, first)
        : part.kind === 'parallel' && first && part.branches[0]
          ? signsOn(part.branches[0].line, false)
          : null;
    found.boards ||= inner?.boards ?? false;
    found.forks ||= inner?.forks ?? false;
  }
  return found;
}

/** Forks whose sentences end where the next one begins. */
function uncrossed(forks: Drawing['forks']): Drawing['forks'] {
  return forks.map((fork) => {
    const next = Math.min(...forks.filter((other) => other.x > fork.x).map((other) => other.foot.x - 14));
    return { ...fork, width: Math.max(18, Math.min(fork.width, next - fork.x)) };
  });
}

/** Boards beside one another, where two towers stand closer than a board is wide. */
function apart(boards: readonly Board[]): Board[] {
  const done: Board[] = [];
  for (const board of [...boards].sort((a, b) => a.y - b.y || a.x - b.x)) {
    const before = done[done.length - 1];
    const meets = before && before.y === board.y && before.x + before.width + 6 > board.x;
    done.push(meets ? { ...board, x: before.x + before.width + 6 } : board);
  }
  return done;
}

function onCurve(from: Point, control: Point, to: Point, x: number): Point {
  // The control point stands midway, so x runs evenly along the curve.
  const t = (x - from.x) / (to.x - from.x || 1);
  return { x, y: (1 - t) ** 2 * from.y + 2 * (1 - t) * t * control.y + t ** 2 * to.y };
}

function quotaOf(part: LinePart): number | null {
  if (part.kind === 'series') {
    const last = part.parts.findLast((inner) => inner.kind !== 'copies');
    return last ? quotaOf(last) : null;
  }
  return part.kind === 'copies' ? null : part.quota;
}

function isOver(part: LinePart): boolean {
  if (part.kind === 'copies') return true;
  if (part.kind === 'stage') return part.status === 'done' || part.status === 'passedBy';
  if (part.kind === 'series') return part.parts.every(isOver);
  const over = part.branches.filter((branch) => isOver(branch.line)).length;
  return over >= (part.quota ?? part.branches.length);
}

function anyBegun(part: LinePart): boolean {
  if (part.kind === 'copies') return false;
  if (part.kind === 'stage') return part.status !== 'ahead' || part.stopped;
  if (part.kind === 'series') return part.parts.some(anyBegun);
  return part.branches.some((branch) => anyBegun(branch.line));
}
