import { type Field, fieldsMissing } from '../page/fields';
import { type Instant, needed, type Parallel, type Route, type Series, type Stage } from '../route/route';
import { canonical } from '../trail/canonical';
import { hashOf } from '../trail/sha256';
import {
  type Filled,
  isPositive,
  type Outcome,
  type PayloadHash,
  type RoundLine,
  type Spot,
  type Version,
} from './events';

export type Phase = 'new' | 'running' | 'rework' | 'sealing' | 'completed' | 'withdrawn';

export type SeatStatus = 'idle' | 'asked' | 'suspended' | 'decided' | 'declined' | 'returned' | 'missed' | 'released';

export interface SeatState {
  readonly id: string;
  /** Index of its stage in `nodes`. */
  readonly stage: number;
  readonly outside: boolean;
  readonly holder: string;
  readonly secondHolders: readonly string[];
  /** Former holders whom the controller took the seat from; they come back only by being named again. */
  readonly barred: readonly string[];
  /** Raised whenever the holder changes, so that old links and commands die. */
  readonly epoch: number;
  readonly status: SeatStatus;
  readonly since: Instant | null;
  readonly due: Instant | null;
  readonly closes: Instant | null;
  readonly seen: { readonly at: Instant; readonly scope: string } | null;
  readonly reminded: readonly Instant[];
  /** Index into `decisions`. */
  readonly decision: number | null;
  readonly kept: boolean;
}

export interface StageNode {
  readonly kind: 'stage';
  readonly plan: Stage;
  readonly parent: number;
  readonly seats: readonly number[];
  readonly status: 'idle' | 'held' | 'open' | 'done' | 'released';
  /** Its rule can no longer be met; said once, until something heals it. */
  readonly stuck: boolean;
  readonly due: Instant | null;
  readonly closes: Instant | null;
  readonly since: Instant | null;
  readonly ended: Instant | null;
}

export interface BlockNode {
  readonly kind: 'series' | 'parallel';
  readonly plan: Series | Parallel;
  readonly parent: number;
  readonly children: readonly number[];
}

export type Node = StageNode | BlockNode;

/** A decision, never changed once made. `scope` names the exact content it was made on. */
export interface DecisionRecord {
  readonly seat: string;
  readonly holder: string;
  readonly by: string;
  readonly onBehalfOf: string | null;
  readonly outcome: Outcome;
  readonly scope: string;
  readonly version: number;
  readonly round: number;
  readonly at: Instant;
  readonly note: PayloadHash | null;
  readonly filled: readonly Filled[];
  readonly evidence: PayloadHash | null;
}

export interface Comment {
  readonly id: string;
  readonly thread: string | null;
  readonly by: string;
  readonly at: Instant;
  readonly version: number;
  readonly file: string;
  readonly spot: Spot | null;
  readonly note: PayloadHash;
  readonly resolved: boolean;
}

export interface RoundPlan {
  readonly revision: number;
  readonly version: number;
  readonly decisions: number;
  readonly lines: readonly RoundLine[];
}

/** Everything a circulation is after its events so far. Positions in arrays are stable while a route stands. */
export interface Circulation {
  readonly number: string;
  readonly record: string;
  readonly change: string;
  readonly controller: string;
  readonly author: string;
  readonly phase: Phase;
  readonly round: number;
  readonly created: Instant;
  readonly sent: Instant | null;
  readonly ended: Instant | null;
  /** The instant of the newest event: time never runs back in a stream. */
  readonly last: Instant;
  readonly route: Series;
  readonly note: PayloadHash | null;
  readonly nodes: readonly Node[];
  readonly seats: readonly SeatState[];
  readonly index: ReadonlyMap<string, number>;
  readonly versions: readonly Version[];
  /** When the newest version was handed in. */
  readonly attached: Instant | null;
  readonly decisions: readonly DecisionRecord[];
  readonly comments: readonly Comment[];
  readonly fields: readonly Field[];
  /** The content hash of the file the places were put on. */
  readonly fieldsOn: string | null;
  readonly frozen: { readonly file: string; readonly fields: string; readonly at: Instant } | null;
  readonly rework: {
    readonly cause: 'returned' | 'version';
    readonly seat: string | null;
    readonly at: Instant;
    readonly version: number;
  } | null;
  readonly plan: RoundPlan | null;
  readonly planRevision: number;
  readonly final: { readonly file: string; readonly identifier: string } | null;
  readonly revision: string | null;
}

/** The newest version handed in, or null before the first. */
export function newest(state: Circulation): Version | null {
  return state.versions[state.versions.length - 1] ?? null;
}

/** The file that is read, decided on and signed. */
export function mainFile(version: Version): string {
  const main = version.files.find((file) => file.role === 'main');
  if (!main) throw new Error('a version without a main file was attached');
  return main.file;
}

/**
 * The hash of what a seat decides on: every file of the version, by content. Here a seat's scope is the whole
 * version; narrower scopes give a hash over less.
 */
export function scopeOf(version: Version): string {
  return hashOf(canonical(version.files.map((file) => [file.role, file.file])));
}

export function currentScope(state: Circulation): string | null {
  const version = newest(state);
  return version && scopeOf(version);
}

export function seatAt(state: Circulation, id: string): SeatState | null {
  const at = state.index.get(id);
  return at === undefined ? null : (state.seats[at] ?? null);
}

export function stageOf(state: Circulation, seat: SeatState): StageNode {
  return state.nodes[seat.stage] as StageNode;
}

export function stageNodes(state: Circulation): StageNode[] {
  return state.nodes.filter((node): node is StageNode => node.kind === 'stage');
}

/** Who may act on the seat now. */
export function holdersOf(seat: SeatState): readonly string[] {
  return [seat.holder, ...seat.secondHolders];
}

export function decisionOf(state: Circulation, seat: SeatState): DecisionRecord | null {
  return seat.decision === null ? null : (state.decisions[seat.decision] ?? null);
}

export function positives(state: Circulation, stage: StageNode): number {
  let count = 0;
  for (const at of stage.seats) if (state.seats[at]?.status === 'decided') count += 1;
  return count;
}

/** How many positive outcomes the stage needs to be done. */
export function quota(stage: StageNode): number {
  return needed(stage.plan.rule, stage.seats.length);
}

/** Whether the rule of the stage can still be met by seats that may yet act. */
export function reachable(state: Circulation, stage: StageNode): boolean {
  let possible = 0;
  for (const at of stage.seats) {
    const status = state.seats[at]?.status;
    if (status === 'decided' || status === 'asked' || status === 'idle' || status === 'suspended') possible += 1;
  }
  return possible >= quota(stage);
}

/** The signing seats that have no signature place on the newest version; they keep signing from being asked. */
export function seatsWithoutField(state: Circulation): string[] {
  const version = newest(state);
  const signing: string[] = [];
  for (const node of state.nodes)
    if (node.kind === 'stage' && node.plan.verb === 'sign' && node.status !== 'done')
      for (const seat of node.plan.seats) signing.push(seat.id);
  if (!version) return signing;
  return fieldsMissing(signing, state.fieldsOn === mainFile(version) ? state.fields : []);
}

/** A hash of the places as they are, in the order they were put. */
export function fieldsHash(fields: readonly Field[]): string {
  return hashOf(canonical(fields.map((field) => ({ ...field }))));
}

/** Lays a route out as nodes and seats with an index from their ids. */
export function laidOut(route: Series): Pick<Circulation, 'nodes' | 'seats' | 'index'> {
  const nodes: Node[] = [];
  const seats: SeatState[] = [];
  const index = new Map<string, number>();
  const visit = (part: Route, parent: number): number => {
    const at = nodes.length;
    index.set(part.id, at);
    if (part.kind === 'stage') {
      const own: number[] = [];
      nodes.push({
        kind: 'stage',
        plan: part,
        parent,
        seats: own,
        status: 'idle',
        stuck: false,
        due: part.due,
        closes: part.closes,
        since: null,
        ended: null,
      });
      for (const seat of part.seats) {
        index.set(seat.id, seats.length);
        own.push(seats.length);
        seats.push({
          id: seat.id,
          stage: at,
          outside: seat.who.kind === 'outside',
          holder: seat.who.person,
          secondHolders: [],
          barred: [],
          epoch: 1,
          status: 'idle',
          since: null,
          due: null,
          closes: null,
          seen: null,
          reminded: [],
          decision: null,
          kept: false,
        });
      }
    } else {
      const children: number[] = [];
      nodes.push({ kind: part.kind, plan: part, parent, children });
      const parts = part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route);
      for (const inner of parts) children.push(visit(inner, at));
    }
    return at;
  };
  visit(route, -1);
  return { nodes, seats, index };
}

/** Whether anything of the circulation waits for its controller to put it right, and why. */
export type Stop =
  | { readonly kind: 'declined' | 'missed'; readonly seat: string; readonly stage: string; readonly since: Instant }
  | { readonly kind: 'stuck'; readonly stage: string; readonly since: Instant };

export function stopsOf(state: Circulation): Stop[] {
  if (state.phase !== 'running') return [];
  const stops: Stop[] = [];
  for (const node of state.nodes) {
    if (node.kind !== 'stage' || node.status !== 'open') continue;
    let named = false;
    for (const at of node.seats) {
      const seat = state.seats[at] as SeatState;
      const since = seat.since ?? state.last;
      if (seat.status === 'declined' && (node.plan.onDecline === 'stop' || node.stuck)) {
        stops.push({
          kind: 'declined',
          seat: seat.id,
          stage: node.plan.id,
          since: decisionOf(state, seat)?.at ?? since,
        });
        named = true;
      } else if (seat.status === 'missed' && (node.stuck || node.plan.rule.kind === 'all')) {
        stops.push({ kind: 'missed', seat: seat.id, stage: node.plan.id, since: seat.closes ?? since });
        named = true;
      }
    }
    if (node.stuck && !named) stops.push({ kind: 'stuck', stage: node.plan.id, since: node.since ?? state.last });
  }
  return stops;
}

/** Positive decisions that stand in this round, by seat. */
export function standing(state: Circulation): DecisionRecord[] {
  const found: DecisionRecord[] = [];
  for (const seat of state.seats) {
    const decision = decisionOf(state, seat);
    if (decision && isPositive(decision.outcome) && seat.status === 'decided') found.push(decision);
  }
  return found;
}
