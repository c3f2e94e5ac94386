import { fieldIdsOf } from '../page/fields';
import type { Refusal } from '../refusals';
import { type Instant, instantOf } from '../route/route';
import { isPositive, type Outcome, outcomesFor } from '../route/verbs';
import { unreachable } from '../unreachable';
import { amendBasis } from './amending';
import type { Act, Context } from './commands';
import { caughtUp } from './decide';
import type { RoundLine, StageTimes } from './events';
import {
  commentGuards,
  fileGuards,
  keepableSeats,
  leavable,
  questionGuards,
  seatGuards,
  stageGuards,
  wholeGuards,
} from './guards';
import { nameable, unnamedBy } from './holderCommands';
import { isAuthorApproving, otherSeatInStage, respondedElsewhere } from './holders';
import { leftAlone, proposedLines, proposedTimes, roundBasis } from './round';
import {
  baseHolder,
  type Circulation,
  documentsOf,
  newest,
  presentFields,
  reachableOf,
  type SeatRun,
  scopeOf,
  stagePlanOf,
} from './state';
import { waitsUntil } from './times';

/** What an offered act needs besides its name: what the page has to ask, and from what it can choose. */
export interface Needs {
  readonly epoch?: number;
  readonly scope?: string;
  readonly outcomes?: readonly Outcome[];
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

/** One act that this actor may do now, or the refusal it would meet. `on` is the seat, stage, file or comment. */
export interface Offer {
  readonly act: Act;
  readonly on: string | null;
  readonly refusal: Refusal | null;
  readonly needs: Needs;
}

/** Everything this actor may do now, each with what it needs, and everything else with the reason why not. */
export function offers(given: Circulation, context: Context): Offer[] {
  const now = Math.max(context.now, given.last);
  const at = { ...context, now };
  const state = caughtUp(given, at);
  if (state.ended !== null) return [];
  const all: Offer[] = [];
  const add = (act: Act, on: string | null, refusal: Refusal | null, needs: () => Needs) =>
    all.push({ act, on, refusal, needs: refusal ? {} : needs() });
  for (const act of Object.keys(wholeGuards) as (keyof typeof wholeGuards)[])
    add(act, null, wholeGuards[act](state, at), () => wholeNeeds(state, act, at));
  const version = newest(state);
  for (const file of version ? documentsOf(version) : [])
    for (const act of Object.keys(fileGuards) as (keyof typeof fileGuards)[])
      add(act, file.id, fileGuards[act](state, file.id, at), () => ({}));
  for (const seat of state.seats.values())
    if (!seat.gone)
      for (const act of Object.keys(seatGuards) as (keyof typeof seatGuards)[])
        add(act, seat.id, seatGuards[act](state, seat, at), () => seatNeeds(state, act, seat, at));
  for (const stage of state.stages.values())
    if (!stage.gone)
      for (const act of Object.keys(stageGuards) as (keyof typeof stageGuards)[])
        add(act, stage.id, stageGuards[act](state, stage, at), () =>
          act === 'setTimes'
            ? { due: instantOf(stage.due), closes: instantOf(stage.closes), timeNeeded: true }
            : act === 'setEnough'
              ? { most: reachableOf(state, stage) }
              : {},
        );
  for (const question of state.questions.values())
    for (const act of Object.keys(questionGuards) as (keyof typeof questionGuards)[])
      add(act, question.id, questionGuards[act](state, question, at), () => ({}));
  for (const comment of state.comments.values())
    if (!comment.thread)
      for (const act of Object.keys(commentGuards) as (keyof typeof commentGuards)[])
        add(act, comment.id, commentGuards[act](state, comment, at), () => ({}));
  return all;
}

/** The offers among them, without what is refused. */
export function allowed(all: readonly Offer[]): Offer[] {
  return all.filter((offer) => offer.refusal === null);
}

function wholeNeeds(state: Circulation, act: keyof typeof wholeGuards, context: Context): Needs {
  if (act === 'confirmRound') return roundNeeds(state, context);
  if (act === 'amend') return { basis: amendBasis(state) };
  if (act === 'handControl') return { not: [state.controller] };
  if (act !== 'extendWhole') return {};
  return { due: state.due, closes: state.closes, timeNeeded: state.closed !== null };
}

function roundNeeds(state: Circulation, context: Context): Needs {
  return {
    basis: roundBasis(state, context),
    lines: proposedLines(state, context),
    alone: leftAlone(state, context),
    keepable: keepableSeats(state),
    leavable: [...state.stages.values()].flatMap((stage) =>
      stage.seats.filter((id) => state.seats.get(id)?.status === 'declined' && leavable(state, stage, new Set([id]))),
    ),
    times: proposedTimes(state, context),
  };
}

function seatNeeds(state: Circulation, act: keyof typeof seatGuards, seat: SeatRun, context: Context): Needs {
  const { due, closes, epoch } = seat;
  const passed = closes !== null && closes <= context.now;
  const scope = scopeOf(state, seat) ?? '';
  switch (act) {
    case 'see':
      return { epoch, scope };
    case 'decide': {
      const waits = waitsUntil(state, seat, context.actor, context);
      const all = outcomesFor(stagePlanOf(state, seat));
      // Declining is always possible; everything else waits for its time.
      const outcomes = waits === null ? all : all.filter((outcome) => outcome === 'declined');
      return {
        epoch,
        scope,
        outcomes,
        ...(waits === null ? {} : { notBefore: waits }),
        ...(unnamedBy(state, seat).length > 0 ? { unnamed: unnamedBy(state, seat).map(({ id }) => id) } : {}),
        reasonFor: outcomes.filter((outcome) => !isPositive(outcome)),
        fields: fieldIdsOf(presentFields(state), seat.id),
      };
    }
    case 'delegate':
      return {
        epoch,
        not: [...notFor(state, seat, context), ...seat.barred, ...(seat.proposal ? [seat.proposal.to] : [])],
        agreed: stagePlanOf(state, seat).allows.delegate === 'agreed' && context.actor !== state.controller,
        outside: baseHolder(seat)?.outside ?? false,
      };
    case 'askQuestion':
    case 'take':
    case 'giveBack':
      return { epoch };
    case 'name':
      return {
        epoch,
        outside: baseHolder(seat)?.outside ?? false,
        names: nameable(state, seat).map((other) => ({
          seat: other.id,
          not: [...notFor(state, other, context), ...other.barred],
        })),
      };
    case 'agree':
      return { epoch };
    case 'extend':
    case 'askAgain':
      return { due, closes, timeNeeded: passed };
    case 'reassign': {
      const base = baseHolder(seat)?.person;
      const seconds = seat.holders.filter((holder) => holder.via === 'second').map((holder) => holder.person);
      return {
        due,
        closes,
        timeNeeded: passed && state.phase === 'running',
        not: notFor(state, seat, context).filter((person) => person === base || !seconds.includes(person)),
      };
    }
    case 'correctAddress':
    case 'addSecondHolder':
      return { not: notFor(state, seat, context) };
    case 'pass':
    case 'remind':
    case 'giveNotice':
    case 'dropSecondHolder':
    case 'copyLink':
      return {};
    default:
      return unreachable(act, 'act');
  }
}

/** The people who cannot be given the seat: who holds it, who counts in its stage already, and an approving author. */
function notFor(state: Circulation, seat: SeatRun, context: Context): string[] {
  const named = new Set([state.author, ...[...state.seats.values()].flatMap(people), ...decided(state)]);
  return [...named].filter(
    (person) =>
      people(seat).includes(person) ||
      isAuthorApproving(state, seat, person, context) ||
      respondedElsewhere(state, seat, person, context) ||
      otherSeatInStage(state, seat, person, context) !== null,
  );
}

const people = (seat: SeatRun) => seat.holders.map((holder) => holder.person);
const decided = (state: Circulation) => state.decisions.map((decision) => decision.by);
