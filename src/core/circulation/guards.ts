import { type Refusal, type RefusalCode, refusal } from '../refusals';
import { asksNobody, preflight } from '../route/preflight';
import { verbFacts } from '../route/verbs';
import type { Act, Context } from './commands';
import { system } from './events';
import { nameable } from './holderCommands';
import { actingAs, claimOn, isAuthorApproving, mayAct, respondedElsewhere } from './holders';
import { subjectOf } from './readiness';
import { keepable } from './round';
import {
  baseHolder,
  type Circulation,
  type Comment,
  decisionOf,
  documentsOf,
  hasResponded,
  isGathering,
  isOver,
  isSigned,
  isStuck,
  isUnansweredStop,
  newest,
  openedAt,
  openQuestions,
  type Question,
  reachableOf,
  type SeatRun,
  type StageRun,
  scopeOf,
  seatsOfStage,
  stagePlanOf,
  standing,
  tallyOf,
} from './state';
import { releaseWanted } from './tasks';
import { allWait, waitWhenOpened } from './times';

// Who may put which command at this moment, whatever else it says. The same answers refuse commands and make offers.

const hour = 3_600_000;

/** What a command meets that does not belong to the present phase. */
const wrongPhase: { readonly [P in Circulation['phase']]: RefusalCode } = {
  new: 'phase-new',
  running: 'phase-sent',
  rework: 'phase-rework',
  finishing: 'phase-finishing',
  completed: 'phase-ended',
  withdrawn: 'phase-ended',
};

type Phases = readonly Circulation['phase'][];
const beforeFinishing: Phases = ['new', 'running', 'rework'];
const underWay: Phases = ['running', 'rework'];

function within(state: Circulation, phases: Phases): Refusal | null {
  if (state.closed !== null) return refusal('closed');
  if (phases.includes(state.phase)) return null;
  // What has ended was refused before anybody asked who may do what.
  return refusal(phases.length === 1 && phases[0] === 'rework' ? 'phase-not-rework' : wrongPhase[state.phase]);
}

/** Whether somebody steers it: its controller, or whom a rule lets do the same. */
function steers(state: Circulation, context: Context): boolean {
  return context.actor === state.controller || context.leads.includes(context.actor);
}

function controlled(state: Circulation, context: Context, phases: Phases): Refusal | null {
  return steers(state, context) ? within(state, phases) : refusal('not-controller');
}

function bySystem(context: Context): Refusal | null {
  return context.actor === system ? null : refusal('not-system');
}

/** While it is paused nobody is asked, and holders only look. */
function whilePaused(state: Circulation): Refusal | null {
  return state.paused === null ? null : refusal('paused');
}

/** Whether somebody wrote it or steers it. */
function writesOrSteers(state: Circulation, context: Context): boolean {
  return context.actor === state.author || steers(state, context);
}

/** Refuses a seat whose decision stands, naming by whom and with what; null when none stands. */
function decidedAlready(state: Circulation, seat: SeatRun): Refusal | null {
  const decision = decisionOf(state, seat);
  return decision && hasResponded(seat)
    ? refusal('already-decided', { by: decision.by, outcome: decision.outcome })
    : null;
}

function stageOver(state: Circulation, seat: SeatRun): Refusal | null {
  return isOver(state.stages.get(seat.stage)) ? refusal('stage-over') : null;
}

/** Whether a seat can still change hands. In rework nothing is over: the next round walks the route anew. */
function changesHands(state: Circulation, seat: SeatRun): Refusal | null {
  return state.phase === 'rework' ? null : stageOver(state, seat);
}

function stageOpen(state: Circulation, seat: SeatRun): Refusal | null {
  return stageOver(state, seat) ?? (state.stages.get(seat.stage)?.status === 'open' ? null : refusal('seat-not-asked'));
}

/** Tells somebody who covered here lately that this is over, and for whom they did; null for anybody else. */
export function coverOver(state: Circulation, seat: SeatRun, context: Context): Refusal | null {
  for (const { to } of context.absences) {
    // What was asked since then never was theirs.
    if (to > context.now || seat.since === null || seat.since >= to) continue;
    const then = actingAs(state, seat, context.actor, { ...context, now: to - 1 });
    if (then && then.cover.length > 0) return refusal('cover-over', { for: then.cover[0]?.person ?? '', until: to });
  }
  return null;
}

/** Why somebody may not act on a seat: it is not theirs, or a rule keeps them from what would be. */
function whyNot(state: Circulation, seat: SeatRun, context: Context): RefusalCode {
  const { actor, groups } = context;
  const member = seat.group !== null && (groups.get(seat.group)?.members.includes(actor) ?? false);
  if (!member && !seat.holders.some(({ person }) => person === actor)) return 'not-holder';
  if (isAuthorApproving(state, seat, actor, context)) return 'author-decides';
  return respondedElsewhere(state, seat, actor, context) ? 'independent' : 'not-holder';
}

/** Whether the seat may be acted on by this actor at this moment. */
function actable(state: Circulation, seat: SeatRun, context: Context): Refusal | null {
  if (!mayAct(state, seat, context.actor, context))
    return coverOver(state, seat, context) ?? refusal(whyNot(state, seat, context));
  const decided = decidedAlready(state, seat);
  if (decided) return decided;
  if (state.closed !== null) return refusal('closed');
  if (state.phase !== 'running') return refusal(wrongPhase[state.phase]);
  const paused = whilePaused(state);
  if (paused) return paused;
  if (seat.status === 'missed') return refusal('seat-closed');
  return seat.status === 'asked' ? null : refusal('seat-not-asked');
}

/** Whether every stage in which somebody is asked, or was, has its comments closed; the author and the controller may. */
function commentsClosed(state: Circulation, person: string): boolean {
  if (person === state.author || person === state.controller) return false;
  const stages = [...state.seats.values()]
    .filter((seat) => seat.holders.some((holder) => holder.person === person) && seat.status !== 'idle')
    .map((seat) => stagePlanOf(state, seat));
  return stages.length > 0 && stages.every((stage) => !stage.allows.comment);
}

type Guard = (state: Circulation, context: Context) => Refusal | null;

/** Commands on the circulation as a whole. */
export const wholeGuards = {
  plan: (state, context) => controlled(state, context, ['new']),
  attach: (state, context) =>
    !writesOrSteers(state, context) ? refusal('not-author') : within(state, beforeFinishing),
  send: (state, context) => {
    const bad = controlled(state, context, ['new']);
    if (bad) return bad;
    if (!newest(state)) return refusal('no-version');
    const stop = preflight(subjectOf(state, context)).find((finding) => finding.severity === 'stops');
    return stop
      ? refusal('preflight', { finding: stop.code, stage: stop.stage, seat: stop.seat, about: stop.about })
      : null;
  },
  giveFacts: (state, context) =>
    !writesOrSteers(state, context) ? refusal('not-author') : within(state, beforeFinishing),
  comment: (state, context) => {
    if (!newest(state)) return refusal('no-version');
    if (state.closed !== null) return refusal('closed');
    const paused = writesOrSteers(state, context) ? null : whilePaused(state);
    return paused ?? (commentsClosed(state, context.actor) ? refusal('comment-not-allowed') : null);
  },
  pause: (state, context) =>
    controlled(state, context, underWay) ?? (state.paused === null ? null : refusal('paused-already')),
  goOn: (state, context) =>
    controlled(state, context, underWay) ?? (state.paused === null ? refusal('not-paused') : null),
  amend: (state, context) => controlled(state, context, underWay),
  setReminders: (state, context) => controlled(state, context, beforeFinishing),
  handControl: (state, context) => (steers(state, context) ? null : refusal('not-controller')),
  extendWhole: (state, context) =>
    !steers(state, context)
      ? refusal('not-controller')
      : state.phase === 'running' || state.phase === 'rework'
        ? null
        : refusal('not-extendable'),
  confirmRound: (state, context) =>
    controlled(state, context, ['rework']) ??
    (asksNobody({ route: state.plan, facts: state.facts, record: context.record }) ? refusal('nobody-skipped') : null),
  withdraw: (state, context) => {
    if (!steers(state, context)) return refusal('not-controller');
    // A signature that counts, in a circulation where nothing else is waited for, is as good as released.
    return state.phase === 'finishing' && standing(state).some((decision) => decision.outcome === 'signed')
      ? refusal('signed-already')
      : null;
  },
  keepFinals: (state, context) =>
    bySystem(context) ??
    (state.phase !== 'finishing' ? refusal('not-finishing') : state.finals ? refusal('no-effect') : null),
  complete: (state, context) =>
    !steers(state, context) && !(context.actor === system && releaseWanted(state))
      ? refusal('not-controller')
      : state.phase !== 'finishing'
        ? refusal('not-finishing')
        : state.finals
          ? null
          : refusal('no-final'),
  wake: (_state, context) => bySystem(context),
} satisfies { readonly [A in Act]?: Guard };

/** Commands on one file of the newest version. */
export const fileGuards = {
  putFields: (state, file, context) => {
    const bad = controlled(state, context, beforeFinishing);
    if (bad) return bad;
    const version = newest(state);
    if (!version) return refusal('no-version');
    if (!documentsOf(version).some((candidate) => candidate.id === file)) return refusal('no-such-file');
    // Fields belong to the signature that was given on them, and to whoever is just being asked for one.
    const signing = [...state.stages.values()].some(
      (stage) =>
        state.phase === 'running' &&
        stage.status === 'open' &&
        verbFacts[stagePlanOf(state, { stage: stage.id }).verb].signs,
    );
    return state.frozen.has(file) && (signing || isSigned(state, file)) ? refusal('fields-frozen') : null;
  },
  keepFrozen: (state, file, context) =>
    bySystem(context) ??
    (state.phase !== 'running'
      ? refusal(wrongPhase[state.phase])
      : state.frozen.has(file)
        ? refusal('no-effect')
        : null),
} satisfies { readonly [A in Act]?: (state: Circulation, file: string, context: Context) => Refusal | null };

type SeatGuard = (state: Circulation, seat: SeatRun, context: Context) => Refusal | null;

/** Commands on one seat. */
export const seatGuards = {
  see: (state, seat, context) => {
    if (!mayAct(state, seat, context.actor, context)) return refusal('not-holder');
    if (state.closed !== null) return refusal('closed');
    if (seat.status !== 'asked' || state.phase !== 'running') return refusal('seat-not-asked');
    // Looking twice is looking once, in whichever seat it was; whoever waits from opening it here opens it here.
    const begins = waitWhenOpened(state, seat, context.actor, context) !== null;
    return openedAt(state, context.actor, scopeOf(state, seat)) !== null && !begins ? refusal('no-effect') : null;
  },
  decide: actable,
  delegate: (state, seat, context) => {
    const bad = actable(state, seat, context);
    if (bad) return bad;
    if (stagePlanOf(state, seat).allows.delegate === 'no') return refusal('delegate-not-allowed');
    const base = baseHolder(seat);
    if (base?.person === context.actor) return null;
    return refusal(seat.group !== null && !base ? 'take-first' : 'delegate-not-allowed');
  },
  askQuestion: actable,
  take: (state, seat, context) => {
    if (seat.group === null) return refusal('not-a-group');
    const bad = actable(state, seat, context);
    const member = context.groups.get(seat.group)?.members.includes(context.actor) ?? false;
    if (bad) return bad.code === 'not-holder' && member && baseHolder(seat) ? refusal('taken-already') : bad;
    // Whoever covers responds without taking: a claim is a member's.
    if (!member) return refusal('not-a-member');
    return claimOn(seat, context) ? refusal('no-effect') : null;
  },
  giveBack: (state, seat, context) => {
    if (seat.group === null) return refusal('not-a-group');
    const taker = baseHolder(seat)?.person;
    if (taker === undefined) return refusal('not-taken');
    // Who leaves the group, or the house, has what they took given back for them.
    if (context.actor !== taker && context.actor !== system && !steers(state, context)) return refusal('not-holder');
    return (
      within(state, ['running']) ??
      whilePaused(state) ??
      decidedAlready(state, seat) ??
      (seat.status === 'asked' ? null : refusal('seat-not-asked'))
    );
  },
  name: (state, seat, context) =>
    actable(state, seat, context) ?? (nameable(state, seat).length > 0 ? null : refusal('not-to-name')),
  agree: (state, seat, context) =>
    controlled(state, context, ['running']) ?? whilePaused(state) ?? (seat.proposal ? null : refusal('no-proposal')),
  extend: (state, seat, context) =>
    controlled(state, context, ['running']) ??
    stageOver(state, seat) ??
    (seat.status === 'missed' ? whilePaused(state) : null) ??
    (seat.status === 'asked' || seat.status === 'missed'
      ? null
      : (decidedAlready(state, seat) ?? refusal('seat-not-asked'))),
  askAgain: (state, seat, context) =>
    controlled(state, context, ['running']) ??
    whilePaused(state) ??
    stageOpen(state, seat) ??
    (seat.status === 'declined' ? null : (decidedAlready(state, seat) ?? refusal('seat-not-asked'))),
  pass: (state, seat, context) => {
    const bad = controlled(state, context, ['running']) ?? stageOpen(state, seat);
    if (bad) return bad;
    if (!isUnansweredStop(state, seat)) return refusal('no-stop');
    const stage = state.stages.get(seat.stage) as StageRun;
    return tallyOf(state, stage).reachable ? null : refusal('rule-needs-it');
  },
  remind: (state, seat, context) => {
    const bad = controlled(state, context, ['running']) ?? whilePaused(state);
    if (bad) return bad;
    if (seat.status !== 'asked') return refusal('seat-not-asked');
    if (allWait(state, seat, context)) return refusal('waits-still');
    const lately = seat.reminded[seat.reminded.length - 1];
    return lately !== undefined && context.now - lately < hour ? refusal('reminded-recently') : null;
  },
  giveNotice: (state, seat, context) => {
    const bad = bySystem(context) ?? within(state, ['running']) ?? whilePaused(state);
    return bad ?? (seat.status === 'asked' ? null : refusal('seat-not-asked'));
  },
  reassign: (state, seat, context) => {
    const bad = controlled(state, context, underWay);
    if (bad) return bad;
    // Whoever decided or missed may be replaced in rework, and the next round asks the new holder.
    if (state.phase === 'rework') return null;
    return changesHands(state, seat) ?? (seat.status === 'decided' ? decidedAlready(state, seat) : null);
  },
  correctAddress: (state, seat, context) =>
    controlled(state, context, underWay) ??
    (!baseHolder(seat)?.outside ? refusal('not-outside') : (changesHands(state, seat) ?? decidedAlready(state, seat))),
  addSecondHolder: (state, seat, context) =>
    controlled(state, context, underWay) ??
    changesHands(state, seat) ??
    (state.phase === 'rework' || seat.status === 'asked' || seat.status === 'idle' ? null : refusal('seat-not-asked')),
  dropSecondHolder: (state, seat, context) =>
    controlled(state, context, underWay) ??
    changesHands(state, seat) ??
    (seat.holders.some((holder) => holder.via === 'second') ? null : refusal('not-second-holder')),
  copyLink: (state, seat, context) =>
    controlled(state, context, underWay) ??
    (!baseHolder(seat)?.outside
      ? refusal('not-outside')
      : seat.status === 'idle'
        ? refusal('seat-not-asked')
        : seat.linkCopied === seat.epoch
          ? refusal('no-effect')
          : null),
} satisfies { readonly [A in Act]?: SeatGuard };

/** Commands on one stage. */
export const stageGuards = {
  endGathering: (state, stage, context) =>
    controlled(state, context, ['running']) ?? (isGathering(state, stage) ? null : refusal('not-gathering')),
  setEnough: (state, stage, context) =>
    controlled(state, context, ['running']) ??
    (!isStuck(state, stage) ? refusal('not-stuck') : reachableOf(state, stage) === 0 ? refusal('enough-unfit') : null),
  setTimes: (state, stage, context) =>
    controlled(state, context, ['running']) ?? (stage.held === 'time' ? null : refusal('not-held')),
} satisfies { readonly [A in Act]?: (state: Circulation, stage: StageRun, context: Context) => Refusal | null };

/** Commands on one question: the controller answers, or the author, as long as it still matters. */
export const questionGuards = {
  answerQuestion: (state, question, context) => {
    if (!writesOrSteers(state, context)) return refusal('not-author');
    if (question.answer) return refusal('answered-already');
    return openQuestions(state).includes(question) ? null : refusal('seat-not-asked');
  },
} satisfies { readonly [A in Act]?: (state: Circulation, question: Question, context: Context) => Refusal | null };

/** Whoever wrote the comment, the author and the controller say whether it is resolved. */
function settles(state: Circulation, comment: Comment, context: Context): Refusal | null {
  if (comment.thread !== null) return refusal('no-such-comment');
  const mine = [state.author, state.controller, comment.by].includes(context.actor);
  return mine ? null : refusal('not-yours');
}

/** Commands on one comment. */
export const commentGuards = {
  resolveComment: (state, comment, context) =>
    settles(state, comment, context) ?? (comment.resolved ? refusal('no-effect') : null),
  reopenComment: (state, comment, context) =>
    settles(state, comment, context) ?? (comment.resolved ? null : refusal('no-effect')),
} satisfies { readonly [A in Act]?: (state: Circulation, comment: Comment, context: Context) => Refusal | null };

/** Seats of a proposed round whose decline may be left as it is: where the rule of the stage can be met without them. */
export function leavable(state: Circulation, stage: StageRun, leave: ReadonlySet<string>): boolean {
  const left = seatsOfStage(state, stage).map((seat) =>
    leave.has(seat.id) ? { ...seat, status: 'declined' as const } : { ...seat, status: 'idle' as const },
  );
  return tallyOf({ ...state, seats: new Map(left.map((seat) => [seat.id, seat])) }, stage).reachable;
}

/** Which decisions a controller could keep in the next round. */
export function keepableSeats(state: Circulation): string[] {
  return [...state.seats.values()]
    .filter((seat) => !seat.gone && typeof keepable(state, seat) === 'object')
    .map((seat) => seat.id);
}
