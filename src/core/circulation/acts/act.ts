import type { Action } from '../../access/may';
import { type Refusal, refusal } from '../../refusals';
import type { Outcome } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { Context } from '../run/context';
import type { Draft } from '../run/evolve';
import type { Emit, EmitAs } from '../run/settle';
import type { RoundLine, SeatRun, StageRun, StageTimes } from '../run/shapes';
import type { Circulation, Comment, Question } from '../run/state';
import type { Act, Command, CommandOf } from './commands';

/** What an act is done to. */
export interface Targets {
  whole: null;
  /** By its id, in the newest version. */
  file: string;
  seat: SeatRun;
  stage: StageRun;
  question: Question;
  comment: Comment;
}

export type On = keyof Targets;

/** What an offered act needs besides its name: what the page has to ask, and from what it can choose. */
export interface Needs {
  readonly epoch?: number;
  readonly scope?: string;
  readonly outcomes?: readonly Outcome[];
  /** How it is done without more, also while that has to wait. */
  readonly yes?: Outcome;
  /** Outcomes that need a reason. */
  readonly reasonFor?: readonly Outcome[];
  readonly fields?: readonly string[];
  /** Until when whoever responds has to wait, or that they have to open the document first. */
  readonly notBefore?: Instant | 'opened';
  /** Seats whose holder has to be named before a yes; and those that may be named, each with who cannot be. */
  readonly unnamed?: readonly string[];
  readonly names?: readonly { readonly seat: string; readonly not: readonly string[] }[];
  /** Whether the controller has to agree, and whether it goes to somebody outside. */
  readonly agreed?: boolean;
  readonly outside?: boolean;
  /** The times as they are; a new one is needed where `timeNeeded`. */
  readonly due?: Instant | null;
  readonly closes?: Instant | null;
  readonly timeNeeded?: boolean;
  /** How many can be enough at most. */
  readonly most?: number;
  /** People who cannot be named, by whatever rule. */
  readonly not?: readonly string[];
  readonly keepable?: readonly string[];
  readonly leavable?: readonly string[];
  readonly times?: readonly StageTimes[];
  /** Names the list of the next round, and the list. */
  readonly basis?: string;
  readonly lines?: readonly RoundLine[];
  /** Seats of the round that nobody could respond to while another's decision is kept. */
  readonly alone?: readonly { readonly seat: string; readonly kept: string }[];
}

/** Where an act takes effect: the state so far, what else is known, and whose events they are. */
interface Scene {
  readonly draft: Draft;
  readonly context: Context;
  /** As the actor, as the system, and as anybody on behalf of somebody. */
  readonly emit: Emit;
  readonly own: Emit;
  readonly emitAs: EmitAs;
}

/** Everything about one act: who may do it when, what it asks of them, and what it brings about. */
export interface ActOn<K extends On, A extends Act = Act> {
  readonly on: K;
  /** Which right lets a member put it; null for what only the system does, and what comes with another act. */
  readonly right: Action | null;
  /** Why it cannot be done now, whatever else the command says; null where it can. The same answer refuses and offers. */
  readonly guard: (state: Circulation, context: Context, target: Targets[K]) => Refusal | null;
  readonly needs?: (state: Circulation, context: Context, target: Targets[K]) => Needs;
  /** Emits its events, or gives a refusal. */
  readonly effect: (scene: Scene, command: CommandOf<A>, target: Targets[K]) => Refusal | null;
}

/** An act of one name, whatever it is done to. */
export type Room<A extends Act> = { readonly [K in On]: ActOn<K, A> }[On];

/** What a command is done to, or the refusal of one that names what is not there, or comes from an old page. */
export const targetOf: {
  readonly [K in On]: (state: Circulation, command: Command) => { readonly target: Targets[K] } | Refusal;
} = {
  whole: () => ({ target: null }),
  file: (_state, command) => ('file' in command ? { target: command.file } : refusal('no-such-file')),
  seat: (state, command) => {
    const seat = 'seat' in command ? state.seats.get(command.seat) : undefined;
    if (!seat || seat.gone) return refusal('no-such-seat');
    return 'epoch' in command && command.epoch !== seat.epoch ? refusal('stale-seat') : { target: seat };
  },
  stage: (state, command) => {
    const stage = 'stage' in command ? state.stages.get(command.stage) : undefined;
    return !stage || stage.gone ? refusal('no-such-stage') : { target: stage };
  },
  question: (state, command) => {
    const question = 'question' in command ? state.questions.get(command.question) : undefined;
    return question ? { target: question } : refusal('no-such-question');
  },
  comment: (state, command) => {
    const comment = 'comment' in command ? state.comments.get(command.comment) : undefined;
    return comment ? { target: comment } : refusal('no-such-comment');
  },
};
