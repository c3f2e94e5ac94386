import type { SeatRun } from '../circulation/run/shapes';
import { baseHolder, type Circulation, dueOf, tallyOf } from '../circulation/run/state';
import type { Assignment, Copies, Parallel, Route, Series, Stage } from '../route/route';
import { knownSeats, personOf } from '../route/route';
import { planned, type Tally, tally } from '../route/tally';
import type { Verb } from '../route/verbs';

/**
 * The line: a route drawn like a ropeway seen from the side. This module turns a route (and, once sent, its state)
 * into a model of what is to be drawn. It knows no coordinates, no colours and no words of its own.
 */
export type LineStatus = 'ahead' | 'underWay' | 'done' | 'passedBy';
export type LineMark = 'none' | 'tick' | 'return' | 'cross' | 'late' | 'missed';

export interface LineSeat {
  readonly id: string;
  /** Who holds it; empty where it belongs to a group, to a role, or to somebody who is still to be named. */
  readonly person: string;
  readonly assignment: Exclude<Assignment, { kind: 'person' | 'outside' }> | null;
  readonly status: LineStatus;
  readonly mark: LineMark;
}

export interface LineStage {
  readonly kind: 'stage';
  readonly id: string;
  readonly verb: Verb;
  readonly order: Stage['order'];
  /** How many of the seats are needed, where not all are. */
  readonly quota: number | null;
  readonly status: LineStatus;
  /** Waits for the controller: held before signing, or out of reach. */
  readonly stopped: boolean;
  /** Whether nobody may respond before some time, and whether it is taken only when something holds. */
  readonly waits: boolean;
  readonly condition: 'none' | 'open' | 'holds';
  readonly seats: readonly LineSeat[];
}

/** Copies at a tower. */
interface LineCopies {
  readonly kind: 'copies';
  readonly id: string;
  readonly count: number;
  readonly sent: boolean;
  readonly hidden: boolean;
}

export interface LineSeries {
  readonly kind: 'series';
  readonly id: string;
  readonly parts: readonly LinePart[];
}

export interface LineParallel {
  readonly kind: 'parallel';
  readonly id: string;
  readonly name: string;
  readonly quota: number | null;
  readonly branches: readonly LineBranch[];
}

export interface LineBranch {
  /** The id of its series. */
  readonly id: string;
  readonly name: string;
  readonly condition: LineStage['condition'];
  readonly line: LineSeries;
}

export type LinePart = LineStage | LineCopies | LineSeries | LineParallel;

export interface LineModel {
  readonly root: LineSeries;
  /** Whether everything has been passed and the document is released, or waits to be. */
  readonly ended: 'no' | 'finishing' | 'completed' | 'withdrawn';
}

/** How many are needed, where not all are. */
function quota({ needed, n }: Tally): number | null {
  return needed < n ? needed : null;
}

/** The same for a stage that is planned, also where only its groups know how many it will have. */
function plannedQuota(stage: Stage): number | null {
  const { rule } = stage;
  const n = knownSeats(stage);
  if (n !== null) return quota(planned(rule, n));
  return rule.kind === 'all' ? null : rule.kind === 'any' ? 1 : rule.k;
}

/** The model of a route: as planned, or with the state of its circulation at `now` (milliseconds). */
export function lineOf(plan: Series, state: Circulation | null, now: number): LineModel {
  const live = state && state.phase !== 'new' ? state : null;
  const stageModel = (stage: Stage): LineStage => {
    const run = live?.stages.get(stage.id);
    return {
      kind: 'stage',
      id: stage.id,
      verb: stage.verb,
      order: stage.order,
      quota: live && run ? quota(tallyOf(live, run)) : plannedQuota(stage),
      status: run ? stageStatus[run.status] : 'ahead',
      stopped: run !== undefined && (run.stuck || run.held !== null),
      waits: stage.earliest !== null,
      condition: !stage.condition ? 'none' : run?.decided ? 'holds' : 'open',
      seats: (run?.seats ?? stage.seats.map((seat) => seat.id))
        .filter((id) => !live?.seats.get(id)?.gone)
        .map((id) => {
          const own = live?.seats.get(id);
          const { assignment } = stage.seats.find((seat) => seat.id === (own?.planned ?? id)) as Stage['seats'][number];
          const person = own ? (baseHolder(own)?.person ?? '') : (personOf(assignment) ?? '');
          const group = own?.group ?? null;
          const open =
            assignment.kind !== 'person' && assignment.kind !== 'outside' && (!own || person === '' || group !== null);
          return {
            id,
            person,
            assignment: open ? assignment : null,
            status: own ? seatStatus(own) : 'ahead',
            mark: own && live ? markOf(own, live.paused === null ? dueOf(live, own) : null, now) : 'none',
          };
        }),
    };
  };
  const boardModel = ({ id, to, hidden }: Copies): LineCopies => {
    const run = live?.copies.get(id);
    return { kind: 'copies', id, count: run?.to.length || to.length, sent: run?.status === 'sent', hidden };
  };
  const there = (part: Route) =>
    !(part.kind === 'stage' ? live?.stages.get(part.id)?.gone : live?.blocks.get(part.id)?.gone);
  const seriesModel = (series: Series): LineSeries => ({
    kind: 'series',
    id: series.id,
    parts: series.parts.filter(there).map(visit),
  });
  const visit = (part: Route): LinePart => {
    if (part.kind === 'stage') return stageModel(part);
    if (part.kind === 'copies') return boardModel(part);
    if (part.kind === 'series') return seriesModel(part);
    const branches = part.branches.filter((branch) => there(branch.route));
    return {
      kind: 'parallel',
      id: part.id,
      name: part.name,
      quota: quota(branchTally(part, branches.length)),
      branches: branches.map((branch) => ({
        id: branch.route.id,
        name: branch.name,
        condition: !branch.condition ? 'none' : live?.blocks.get(branch.route.id)?.decided ? 'holds' : 'open',
        line: seriesModel(branch.route),
      })),
    };
  };
  const ended =
    live?.phase === 'finishing' || live?.phase === 'completed' || live?.phase === 'withdrawn' ? live.phase : 'no';
  return { root: seriesModel(plan), ended };
}

/** A line with what has become of the parts that another one has too: how a route under way looks while it is amended. */
export function overlaid(model: LineModel, present: LineModel): LineModel {
  const stages = new Map<string, LineStage>();
  const boards = new Map<string, LineCopies>();
  const collect = (part: LinePart): void => {
    if (part.kind === 'stage') stages.set(part.id, part);
    else if (part.kind === 'copies') boards.set(part.id, part);
    else
      for (const inner of part.kind === 'series' ? part.parts : part.branches.map(({ line }) => line)) collect(inner);
  };
  collect(present.root);
  const seats = new Map([...stages.values()].flatMap((stage) => stage.seats.map((seat) => [seat.id, seat] as const)));
  const stage = (part: LineStage): LineStage => {
    const there = stages.get(part.id);
    if (!there) return part;
    const own = part.seats.flatMap((seat) => {
      const members = there.seats.filter(({ id }) => id.replace(/__\d+$/, '') === seat.id);
      return members.length > 0 ? members : [seats.get(seat.id) ?? seat];
    });
    return { ...part, status: there.status, stopped: there.stopped, condition: there.condition, seats: own };
  };
  const series = (part: LineSeries): LineSeries => ({ ...part, parts: part.parts.map(visit) });
  const visit = (part: LinePart): LinePart => {
    if (part.kind === 'stage') return stage(part);
    if (part.kind === 'copies') return boards.get(part.id) ?? part;
    if (part.kind === 'series') return series(part);
    return { ...part, branches: part.branches.map((branch) => ({ ...branch, line: series(branch.line) })) };
  };
  return { root: series(model.root), ended: present.ended };
}

function branchTally(part: Parallel, n: number): Tally {
  return tally(
    part.join,
    Array.from({ length: n }, () => 'open' as const),
    'branches',
  );
}

const stageStatus = { idle: 'ahead', open: 'underWay', done: 'done', released: 'passedBy' } as const;

function seatStatus(seat: SeatRun): LineStatus {
  if (seat.status === 'idle') return 'ahead';
  if (seat.status === 'decided') return 'done';
  if (seat.status === 'released') return 'passedBy';
  return 'underWay';
}

function markOf(seat: SeatRun, due: number | null, now: number): LineMark {
  if (seat.status === 'decided') return 'tick';
  if (seat.status === 'returned') return 'return';
  if (seat.status === 'declined') return 'cross';
  if (seat.status === 'missed') return 'missed';
  if (seat.status === 'asked' && due !== null && due < now) return 'late';
  return 'none';
}

/** Words for one stage of the line, given how to name people, verbs and states. */
interface LineWords {
  readonly verb: (verb: Verb) => string;
  readonly person: (id: string) => string;
  readonly seat: (seat: LineSeat) => string;
  /** So many seats that stand alike, where a line knows no people. */
  readonly seats: (seat: LineSeat, count: number) => string;
  readonly order: (stage: LineStage) => string;
  readonly branch: (name: string) => string;
  readonly copies: (board: LineCopies) => string;
  /** What a seat without a person is called: its group, its role, that somebody is still to be named. */
  readonly somebody: (assignment: NonNullable<LineSeat['assignment']>) => string;
  /** That a stage or a branch is taken only when something holds, and that a stage waits. */
  readonly condition: () => string;
  readonly waits: () => string;
}

function seatsInWords(seats: readonly LineSeat[], words: LineWords): string[] {
  const who = (seat: LineSeat) => (seat.assignment ? words.somebody(seat.assignment) : words.person(seat.person));
  if (seats.some((seat) => seat.person || seat.assignment))
    return seats.map((seat) => `${who(seat)} ${words.seat(seat)}`);
  const alike = new Map<string, LineSeat[]>();
  for (const seat of seats) {
    const said = words.seats(seat, 1);
    alike.set(said, [...(alike.get(said) ?? []), seat]);
  }
  return [...alike.values()].map((same) => words.seats(same[0] as LineSeat, same.length));
}

/** The line in words, stage by stage: the text alternative of the drawing. */
export function lineInWords(model: LineModel, words: LineWords): string {
  const say = (part: LinePart): string[] => {
    if (part.kind === 'stage') {
      const only = part.condition === 'open' ? words.condition() : '';
      const later = part.waits ? words.waits() : '';
      return [
        `${words.verb(part.verb)}${words.order(part)}${only}${later}: ${seatsInWords(part.seats, words).join(', ') || '–'}`,
      ];
    }
    if (part.kind === 'copies') return [words.copies(part)];
    if (part.kind === 'series') return part.parts.flatMap(say);
    return part.branches.flatMap((branch) => say(branch.line).map((line) => `${words.branch(branch.name)} ${line}`));
  };
  return say(model.root).join('; ');
}

/** Whether any seat of the line carries one of these marks, also one that found no room in the drawing. */
export function anyMark(model: LineModel, marks: readonly LineMark[]): boolean {
  const visit = (part: LinePart): boolean => {
    if (part.kind === 'stage') return part.seats.some((seat) => marks.includes(seat.mark));
    if (part.kind === 'copies') return false;
    if (part.kind === 'series') return part.parts.some(visit);
    return part.branches.some((branch) => visit(branch.line));
  };
  return visit(model.root);
}
