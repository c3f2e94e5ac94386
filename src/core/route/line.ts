import type { Circulation, SeatState } from '../circulation/state';
import { needed, type Route, type Rule, type Series, type Stage, type Verb } from './route';

/**
 * The line: a route drawn like a ropeway seen from the side. This module turns a route (and, once sent, its state)
 * into a model of what is to be drawn. It knows no coordinates, no colours and no words of its own.
 */
export type LineStatus = 'ahead' | 'underWay' | 'done' | 'passedBy';
export type LineMark = 'none' | 'tick' | 'return' | 'cross' | 'late' | 'missed';

export interface LineSeat {
  readonly id: string;
  readonly person: string;
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
  readonly seats: readonly LineSeat[];
}

export interface LineSeries {
  readonly kind: 'series';
  readonly parts: readonly LinePart[];
}

export interface LineParallel {
  readonly kind: 'parallel';
  readonly id: string;
  readonly name: string;
  readonly quota: number | null;
  readonly branches: readonly { readonly name: string; readonly line: LineSeries }[];
}

export type LinePart = LineStage | LineSeries | LineParallel;

export interface LineModel {
  readonly root: LineSeries;
  /** Whether everything has been passed and the document is released, or waits to be. */
  readonly ended: 'no' | 'sealing' | 'completed' | 'withdrawn';
}

function partial(rule: Rule, n: number): number | null {
  const quota = needed(rule, n);
  return quota < n ? quota : null;
}

/** The model of a route: as planned, or with the state of its circulation at `now` (milliseconds). */
export function lineOf(route: Series, state: Circulation | null, now: number): LineModel {
  const live = state && state.phase !== 'new' ? state : null;
  const stageModel = (stage: Stage): LineStage => {
    const at = live?.index.get(stage.id);
    const node = at === undefined ? undefined : live?.nodes[at];
    const status: LineStatus =
      node?.kind !== 'stage' || node.status === 'idle' || node.status === 'held'
        ? 'ahead'
        : node.status === 'open'
          ? 'underWay'
          : node.status === 'done'
            ? 'done'
            : 'passedBy';
    return {
      kind: 'stage',
      id: stage.id,
      verb: stage.verb,
      order: stage.order,
      quota: partial(stage.rule, stage.seats.length),
      status,
      stopped: node?.kind === 'stage' && (node.stuck || node.status === 'held'),
      seats: stage.seats.map((seat) => {
        const seatAt = live?.index.get(seat.id);
        const own = seatAt === undefined ? undefined : live?.seats[seatAt];
        return {
          id: seat.id,
          person: own?.holder ?? seat.who.person,
          status: own ? seatStatus(own) : 'ahead',
          mark: own ? markOf(own, now) : 'none',
        };
      }),
    };
  };
  const visit = (part: Route): LinePart => {
    if (part.kind === 'stage') return stageModel(part);
    if (part.kind === 'series') return { kind: 'series', parts: part.parts.map(visit) };
    return {
      kind: 'parallel',
      id: part.id,
      name: part.name,
      quota: partial(part.join, part.branches.length),
      branches: part.branches.map((branch) => ({
        name: branch.name,
        line: { kind: 'series', parts: branch.route.parts.map(visit) },
      })),
    };
  };
  const ended =
    live?.phase === 'sealing' || live?.phase === 'completed' || live?.phase === 'withdrawn' ? live.phase : 'no';
  return { root: { kind: 'series', parts: route.parts.map(visit) }, ended };
}

function seatStatus(seat: SeatState): LineStatus {
  if (seat.status === 'idle') return 'ahead';
  if (seat.status === 'decided') return 'done';
  if (seat.status === 'released') return 'passedBy';
  return 'underWay';
}

function markOf(seat: SeatState, now: number): LineMark {
  if (seat.status === 'decided') return 'tick';
  if (seat.status === 'returned') return 'return';
  if (seat.status === 'declined') return 'cross';
  if (seat.status === 'missed') return 'missed';
  if (seat.status === 'asked' && seat.due !== null && seat.due < now) return 'late';
  return 'none';
}

/** Words for one stage of the line, given how to name people, verbs and states. */
export interface LineWords {
  readonly verb: (verb: Verb) => string;
  readonly person: (id: string) => string;
  readonly seat: (seat: LineSeat) => string;
  readonly order: (stage: LineStage) => string;
  readonly branch: (name: string) => string;
}

/** The line in words, stage by stage: the text alternative of the drawing. */
export function lineInWords(model: LineModel, words: LineWords): string {
  const say = (part: LinePart): string[] => {
    if (part.kind === 'stage') {
      const people = part.seats.map((seat) => `${words.person(seat.person)} ${words.seat(seat)}`.trim());
      return [`${words.verb(part.verb)}${words.order(part)}: ${people.join(', ') || '–'}`];
    }
    if (part.kind === 'series') return part.parts.flatMap(say);
    return part.branches.flatMap((branch) => say(branch.line).map((line) => `${words.branch(branch.name)} ${line}`));
  };
  return say(model.root).join('; ');
}

/** Whether any seat of the line carries one of these marks, also one that found no room in the drawing. */
export function anyMark(model: LineModel, marks: readonly LineMark[]): boolean {
  const visit = (part: LinePart): boolean => {
    if (part.kind === 'stage') return part.seats.some((seat) => marks.includes(seat.mark));
    if (part.kind === 'series') return part.parts.some(visit);
    return part.branches.some((branch) => visit(branch.line));
  };
  return visit(model.root);
}
