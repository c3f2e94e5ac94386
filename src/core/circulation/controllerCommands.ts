import { type Refusal, refusal } from '../refusals';
import { factsIn } from '../route/condition';
import { atInstant, conditionsOf, type Instant, instantOf, routeFaults, type Time } from '../route/route';
import { verbFacts } from '../route/verbs';
import { shifted } from '../time/due';
import { isReminderPlan } from '../time/reminders';
import { alike } from '../trail/canonical';
import type { CommandOf, Context } from './commands';
import { type Kept, type SeatStatus, type SeatTimes, type StageTimes, system } from './events';
import type { Draft } from './evolve';
import { leavable } from './guards';
import { asAsked, passOn, unfit } from './holderCommands';
import { countedTwice, keepable, reachedByRound, roundBasis, signaturesEnded, standingDecisions } from './round';
import { roundRuns } from './roundRuns';
import { beginRework, type Emit, type EmitAs, wholeTimes } from './settle';
import {
  baseHolder,
  documentsOf,
  earlier,
  fieldsHash,
  heldBy,
  isOver,
  isUnansweredStop,
  newest,
  plannedCopies,
  plannedStages,
  reachableOf,
  type SeatRun,
  type StageRun,
  scopeOf,
  seatPlan,
  seatsOfStage,
  seenOf,
  stagePlanOf,
} from './state';
import { askedNow, clockOf, dueMoved, targetsOf, waitsWhenAsked } from './times';

// What the controller does to a circulation (the author, too, submits versions). Each emits its events or gives a refusal.

/** Refuses times that lie in the past or in the wrong order; null when they are fit. */
function badTimes(due: Instant | null, closes: Instant | null, now: number): Refusal | null {
  if ((due !== null && due <= now) || (closes !== null && closes <= now)) return refusal('time-past');
  return due !== null && closes !== null && closes < due ? refusal('closes-before-due') : null;
}

function badStageTimes(times: StageTimes, now: number): Refusal | null {
  return badTimes(instantOf(times.due), instantOf(times.closes), now);
}

export function plan(draft: Draft, command: CommandOf<'plan'>, emit: Emit): Refusal | null {
  if (routeFaults(command.plan).length > 0) return refusal('route-unfit');
  const { plan, note, whole } = command;
  if (note === draft.note && alike(plan, draft.plan) && alike(whole, draft.whole)) return refusal('no-effect');
  emit({ type: 'route.planned', data: { plan, note, whole } });
  return null;
}

/** Gives the facts their values. Stages that have been reached stay as they were decided. */
export function giveFacts(draft: Draft, command: CommandOf<'giveFacts'>, emit: Emit): Refusal | null {
  const { facts, names } = command;
  if (alike(facts, draft.facts)) return refusal('no-effect');
  // What somebody has responded to stays until the next round asks them about what it has become.
  if (draft.phase === 'running' || draft.phase === 'finishing')
    for (const seat of draft.seats.values()) {
      if (seat.gone || (seat.status !== 'decided' && seat.status !== 'declined')) continue;
      const on = seatPlan(draft, seat.id)?.facts.find((fact) => !alike(draft.facts[fact] ?? null, facts[fact] ?? null));
      if (on !== undefined) return refusal('fact-decided', { fact: on, by: baseHolder(seat)?.person ?? '' });
    }
  if (draft.phase !== 'new')
    for (const { part, condition } of conditionsOf(draft.plan)) {
      if (isReached(draft, part)) continue;
      const emptied = factsIn(condition).find((fact) => draft.facts[fact] && !facts[fact]);
      if (emptied !== undefined) return refusal('fact-tested', { fact: emptied });
    }
  emit({ type: 'facts.given', data: { facts, names } });
  return null;
}

/** Whether the condition of a stage or a branch has been decided in this round. */
function isReached(draft: Draft, part: string): boolean {
  return (draft.blocks.get(part) ?? draft.stages.get(part))?.decided ?? false;
}

/** Sends it: roles are filled and the times of the whole are counted, once. */
export function send(draft: Draft, command: CommandOf<'send'>, context: Context, emit: Emit): Refusal | null {
  const whole = wholeTimes(draft, context);
  const bad = badTimes(whole.due, whole.closes, context.now);
  if (bad) return bad;
  const fill = (of: string, role: string) => ({ of, role, name: '', person: null, ...context.roles.get(role) });
  const roles = [
    ...plannedStages(draft).flatMap(({ seats }) => seats),
    ...plannedCopies(draft).flatMap(({ to }) => to),
  ].flatMap(({ id, assignment }) => (assignment.kind === 'role' ? [fill(id, assignment.role)] : []));
  emit({
    type: 'circulation.sent',
    data: {
      version: newest(draft)?.number ?? 0,
      releasesItself: command.releasesItself,
      reminders: draft.reminders ?? context.reminders,
      ...whole,
      roles,
    },
  });
  return null;
}

/**
 * Seats and stages put off by how long the clocks stood still: what is open or has not been reached yet; plain time for
 * instants, working time for working times, nothing for the time in rework. None while something else still holds them.
 */
function putOff(draft: Draft, held: boolean, context: Context): { seats: SeatTimes[]; stages: StageTimes[] } {
  if (draft.still === null || held || draft.phase !== 'running') return { seats: [], stages: [] };
  const still = { from: draft.still, to: context.now };
  const off = (at: Instant | null, kind: Time | null, person: string | null) =>
    at === null ? at : shifted(at, kind, still, clockOf(context, person));
  const instant = (time: Time | null): Time | null =>
    time?.kind === 'instant' ? { kind: 'instant', at: off(time.at, time, null) as Instant } : time;
  return {
    seats: [...draft.seats.values()].flatMap((seat) => {
      if (seat.gone || isOver(draft.stages.get(seat.stage))) return [];
      const given = seat.status === 'idle' ? ownInstants(draft, seat) : null;
      const times = seat.status === 'asked' ? seat : given;
      if (!times || (times.due === null && times.closes === null)) return [];
      const kinds = given ? { due: atInstant(given.due), closes: atInstant(given.closes) } : targetsOf(draft, seat);
      const person = baseHolder(seat)?.person ?? null;
      const closes = off(times.closes, kinds.closes, person);
      // A due that waits for an answer is put off when the answer comes.
      const due = seat.asking === null ? off(times.due, kinds.due, person) : times.due;
      return [{ seat: seat.id, due: due === null || given ? due : earlier(due, closes), closes }];
    }),
    stages: [...draft.stages.values()]
      .filter((stage) => !isOver(stage))
      .filter((stage) => stage.due?.kind === 'instant' || stage.closes?.kind === 'instant')
      .map((stage) => ({ stage: stage.id, due: instant(stage.due), closes: instant(stage.closes) })),
  };
}

/** The instants that were given to a seat before it is asked, or planned for it alone; null is what its stage says. */
function ownInstants(draft: Draft, seat: SeatRun): { due: Instant | null; closes: Instant | null } {
  const planned = draft.stages.get(seat.stage)?.retimed ? null : seatPlan(draft, seat.id);
  return {
    due: seat.given?.due ?? instantOf(planned?.due ?? null),
    closes: seat.given?.closes ?? instantOf(planned?.closes ?? null),
  };
}

/** Lets a paused circulation go on. */
export function goOn(draft: Draft, context: Context, emit: Emit): Refusal | null {
  emit({ type: 'circulation.wentOn', data: putOff(draft, draft.closed !== null, context) });
  return null;
}

/** Makes another member its controller. */
export function handControl(
  draft: Draft,
  command: CommandOf<'handControl'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { to, note } = command;
  const facts = context.people.get(to);
  if (to === draft.controller) return refusal('same-person');
  if (!facts || facts.outside) return refusal('unknown-person');
  if (!facts.active) return refusal('person-left');
  emit({ type: 'control.handed', data: { to, note } });
  return null;
}

/** Gives the whole new times. Where it had closed, it goes on, unless it is paused as well. */
export function extendWhole(
  draft: Draft,
  command: CommandOf<'extendWhole'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { due, closes } = command;
  const bad = badTimes(due, closes, context.now);
  if (bad) return bad;
  if (draft.closed === null && due === draft.due && closes === draft.closes) return refusal('no-effect');
  emit({ type: 'circulation.extended', data: { due, closes, ...putOff(draft, draft.paused !== null, context) } });
  return null;
}

/** Agrees that a holder passes their task on, which then happens, or does not. */
export function agree(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'agree'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { proposal } = seat;
  if (!proposal) return refusal('no-proposal');
  if (!command.agreed) {
    emit({ type: 'delegation.refused', data: { seat: seat.id, to: proposal.to, note: command.note } });
    return null;
  }
  return passOn(draft, seat, { to: proposal.to, note: proposal.note, from: proposal.by }, context, emit);
}

/** Puts the fields of one file, for the content it has now. */
export function putFields(draft: Draft, command: CommandOf<'putFields'>, emit: Emit): Refusal | null {
  const { file, content, fields } = command;
  if (!newest(draft)?.files.some((candidate) => candidate.id === file && candidate.file === content))
    return refusal('fields-elsewhere');
  const signing = new Set(
    [...draft.seats.values()].filter((seat) => verbFacts[stagePlanOf(draft, seat).verb].signs).map((seat) => seat.id),
  );
  const others = draft.fields.filter((field) => field.file !== file).map((field) => field.id);
  const ids = new Set([...others, ...fields.map((field) => field.id)]);
  if (ids.size < others.length + fields.length) return refusal('fields-unfit');
  if (fields.some((field) => field.file !== file || !signing.has(field.seat))) return refusal('fields-unfit');
  const present = draft.fields.filter((field) => field.file === file);
  // The same fields again say nothing new, and thaw no frozen pages.
  if (draft.fieldsOn.get(file) === content && alike(present, fields)) return refusal('no-effect');
  emit({ type: 'fields.put', data: { file, content, fields } });
  return null;
}

/** Takes in a version; while the circulation is running this begins rework. */
export function attach(draft: Draft, command: CommandOf<'attach'>, emit: Emit, emitAs: EmitAs): Refusal | null {
  const { version } = command;
  const before = newest(draft);
  if (before && version.number <= before.number) return refusal('version-order');
  const documents = documentsOf(version);
  const ids = new Set(version.files.map((file) => file.id));
  if (documents.length === 0) return refusal('no-document');
  if (ids.size < version.files.length || version.files.some((file) => !draft.records.includes(file.record)))
    return refusal('version-unfit');
  // A signature belongs to its bytes: what was frozen of other bytes ends, what was frozen of the same bytes goes on.
  const contents = new Map(version.files.map((file) => [file.id, file.file]));
  const ends = [...draft.frozen].filter(([id, frozen]) => contents.get(id) !== frozen.content).map(([id]) => id);
  const running = draft.phase === 'running';
  emit({ type: 'version.attached', data: { version, ends, unsigned: signaturesEnded(draft, version, ends) } });
  if (running) beginRework(draft, 'version', null, emitAs(system, null));
  return null;
}

/** Begins the next round as it was proposed and looked at: whose decisions are kept, and the times of its stages. */
export function confirmRound(
  draft: Draft,
  command: CommandOf<'confirmRound'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  // What was looked at is the basis, not the sequence number: an event that changes nothing of it must not spoil it.
  if (command.basis !== roundBasis(draft, context)) return refusal('stale-plan');
  const keep: Kept[] = [];
  for (const id of new Set(command.keep)) {
    const seat = draft.seats.get(id);
    const accepted = seat && scopeOf(draft, seat);
    if (!seat || !accepted) return refusal('no-such-seat');
    const decision = keepable(draft, seat);
    if (decision === 'signature-changed') return refusal('signature-changed', { seat: id });
    if (decision === 'no-decision') return refusal('keep-impossible', { seat: id });
    keep.push({ seat: id, decision: decision.decision, accepted });
  }
  const leave = new Set(command.leave);
  for (const id of leave) {
    const seat = draft.seats.get(id);
    if (!seat) return refusal('no-such-seat');
    const stage = draft.stages.get(seat.stage) as StageRun;
    if (seat.status !== 'declined' || command.keep.includes(id) || !leavable(draft, stage, leave))
      return refusal('leave-impossible', { seat: id });
  }
  const stand = new Map(keep.map(({ seat, decision }) => [seat, decision]));
  for (const [seat, decision] of standingDecisions(draft)) if (leave.has(seat)) stand.set(seat, decision);
  const twice = countedTwice(draft, stand, context)[0];
  if (twice !== undefined) return refusal('keep-twice', { seat: twice });
  const asked = [...draft.seats.values()].some(
    (seat) => !seat.gone && !command.keep.includes(seat.id) && !leave.has(seat.id),
  );
  if (!asked && keep.length === 0) return refusal('nobody-asked');
  const times = new Map(command.times.map((entry) => [entry.stage, entry]));
  for (const entry of times.values()) {
    if (!draft.stages.has(entry.stage)) return refusal('no-such-stage');
    const bad = badStageTimes(entry, context.now);
    if (bad) return { ...bad, facts: { stage: entry.stage } };
  }
  for (const stage of reachedByRound(draft, new Set(command.keep), leave, context)) {
    const given = times.get(stage.id);
    for (const seat of seatsOfStage(draft, stage)) {
      if (seat.gone || command.keep.includes(seat.id) || leave.has(seat.id)) continue;
      const closes = given ? instantOf(given.closes) : (seat.given?.closes ?? instantOf(targetsOf(draft, seat).closes));
      if (closes !== null && closes <= context.now) return refusal('times-needed', { stage: stage.id });
    }
  }
  const made = { keep, leave: [...leave], times: [...times.values()] };
  emit({ type: 'round.begun', data: { round: draft.round + 1, ...made, runs: roundRuns(draft, made) } });
  return null;
}

/** Gives a seat that is asked or missed a new due and closing time. */
export function extend(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'extend'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { due, closes } = command;
  const bad = badTimes(due, closes, context.now);
  if (bad) return bad;
  if (seat.status === 'asked' && seat.due === due && seat.closes === closes) return refusal('no-effect');
  if (draft.stages.get(seat.stage)?.status !== 'open') return refusal('seat-not-asked');
  const then = dueMoved(draft, { ...seat, due, closes, status: 'asked' }, context);
  emit({ type: 'seat.extended', data: { seat: seat.id, due: then, closes, status: 'asked' } });
  return null;
}

/** Says how many are enough in a stage that is stuck: as many as have said yes or may still do so, at most. */
export function setEnough(draft: Draft, stage: StageRun, { k }: CommandOf<'setEnough'>, emit: Emit): Refusal | null {
  if (!Number.isInteger(k) || k < 1 || k > reachableOf(draft, stage)) return refusal('enough-unfit');
  emit({ type: 'stage.ruled', data: { stage: stage.id, k } });
  return null;
}

/** Reminds for a point of the plan, or notes who was told of the silence; each point once. */
export function giveNotice(seat: SeatRun, { to, person, point }: CommandOf<'giveNotice'>, emit: Emit): Refusal | null {
  if (to === 'holder') {
    if (seat.pointed !== null && seat.pointed >= point) return refusal('no-effect');
    emit({ type: 'seat.reminded', data: { seat: seat.id, point } });
    return null;
  }
  if (seat.told.includes(to)) return refusal('no-effect');
  emit({ type: 'seat.lateTold', data: { seat: seat.id, to, person, point } });
  return null;
}

/** Changes how those who are asked are reminded, from now on. */
export function setReminders(draft: Draft, { plan }: CommandOf<'setReminders'>, emit: Emit): Refusal | null {
  if (!isReminderPlan(plan)) return refusal('reminders-unfit');
  if (draft.reminders && alike(plan, draft.reminders)) return refusal('no-effect');
  emit({ type: 'reminders.set', data: { plan } });
  return null;
}

/** Gives a held stage new times, so that it asks. */
export function setTimes(
  stage: StageRun,
  command: CommandOf<'setTimes'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = badStageTimes(command, context.now);
  if (bad) return bad;
  emit({ type: 'stage.timed', data: { stage: stage.id, due: command.due, closes: command.closes } });
  return null;
}

/** Asks somebody again who declined; where closing has passed a time is needed. */
export function askAgain(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'askAgain'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const times = timesFor(seat, command, context.now);
  if ('code' in times) return times;
  const to = askedNow(draft, seat, context);
  const waits = waitsWhenAsked(draft, seat, to, context);
  const due = dueMoved(draft, asAsked({ ...seat, ...times, since: context.now }, waits, context), context);
  emit({ type: 'seat.askedAgain', data: { seat: seat.id, ...times, due, to, scope: scopeOf(draft, seat), waits } });
  return null;
}

/** The times a seat has after a command that may give new ones; old ones that have passed are not taken over. */
function timesFor(
  seat: SeatRun,
  given: { readonly due: Instant | null; readonly closes: Instant | null },
  now: number,
): Refusal | { due: Instant | null; closes: Instant | null } {
  const passed = seat.closes !== null && seat.closes <= now;
  if (passed && given.closes === null && given.due === null) return refusal('time-needed');
  const ahead = (at: Instant | null) => (at !== null && at > now ? at : null);
  const due = given.due ?? ahead(seat.due);
  const closes = given.closes ?? ahead(seat.closes);
  return badTimes(due, closes, now) ?? { due, closes };
}

/** Gives a seat to another: its epoch rises, so that old pages and links die; who held it is barred. */
export function reassign(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'reassign'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const base = baseHolder(seat);
  if (command.to.person === base?.person) return refusal('same-person');
  const second = seat.holders.some((holder) => holder.person === command.to.person);
  const bad = second ? null : unfit(draft, seat, command.to.person, context);
  if (bad) return bad;
  const facts = context.people.get(command.to.person);
  if (facts && facts.outside !== (command.to.kind === 'outside')) return refusal('unknown-person');
  const status = statusWhenGiven(draft, seat);
  const times = timesWhenGiven(draft, seat, status, command, context.now);
  if ('code' in times) return times;
  const { to, note } = command;
  const others = seat.barred.filter((person) => person !== to.person);
  const barred = base ? [...others, base.person] : others;
  const waits = status === 'asked' ? waitsWhenAsked(draft, seat, [to.person], context) : [];
  const holder = { person: to.person, via: 'reassigned', outside: to.kind === 'outside', since: context.now } as const;
  const given = { ...seat, ...times, since: context.now, barred, group: null, holders: heldBy(seat, holder) };
  const then = asAsked(given, waits, context);
  emit({
    type: 'seat.reassigned',
    data: {
      seat: seat.id,
      from: base?.person ?? null,
      to,
      epoch: seat.epoch + 1,
      barred,
      status,
      ...times,
      due: status === 'asked' ? dueMoved(draft, then, context) : times.due,
      scope: scopeOf(draft, seat),
      note,
      waits,
    },
  });
  return null;
}

/** What a seat is once it is given to somebody else: asked at once, idle until its turn, or a return that still stands. */
function statusWhenGiven(draft: Draft, seat: SeatRun): SeatStatus {
  if (draft.phase !== 'running' || seat.status === 'idle') return 'idle';
  if (seat.status === 'returned') return 'returned';
  return draft.paused === null && draft.stages.get(seat.stage)?.status === 'open' ? 'asked' : 'idle';
}

/** The times of a seat that is given to somebody else. Those of one that is not asked yet are its own only where given. */
function timesWhenGiven(
  draft: Draft,
  seat: SeatRun,
  status: SeatStatus,
  { due, closes }: CommandOf<'reassign'>,
  now: number,
): Refusal | { due: Instant | null; closes: Instant | null } {
  if (status === 'returned') return { due: seat.due, closes: seat.closes };
  const before = { due: seat.given?.due ?? null, closes: seat.given?.closes ?? null };
  if (draft.phase === 'rework') return before;
  if (seat.status !== 'idle') return timesFor(seat, { due, closes }, now);
  return badTimes(due, closes, now) ?? { due: due ?? before.due, closes: closes ?? before.closes };
}

/** Corrects where somebody outside is reached: the old link dies, nobody is barred, their time begins anew. */
export function correctAddress(
  draft: Draft,
  seat: SeatRun,
  { to, note }: CommandOf<'correctAddress'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const from = baseHolder(seat)?.person ?? '';
  if (!context.people.get(to)?.outside) return refusal('unknown-person');
  const bad = unfit(draft, seat, to, context);
  if (bad) return bad;
  const waits = seat.status === 'asked' ? waitsWhenAsked(draft, seat, [to], context) : [];
  const opened = seenOf(draft, seat)?.at ?? null;
  const holder = { person: to, via: 'reassigned', outside: true, since: context.now } as const;
  const then = asAsked({ ...seat, holders: heldBy(seat, holder) }, waits, context);
  const due = seat.status === 'asked' ? dueMoved(draft, then, context) : seat.due;
  const scope = scopeOf(draft, seat);
  emit({
    type: 'seat.readdressed',
    data: { seat: seat.id, from, to, epoch: seat.epoch + 1, opened, due, scope, note, waits },
  });
  return null;
}

export function addSecondHolder(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'addSecondHolder'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = unfit(draft, seat, command.person, context);
  if (bad) return bad;
  if (context.people.get(command.person)?.outside) return refusal('outside-not-second');
  const waits = seat.status === 'asked' ? waitsWhenAsked(draft, seat, [command.person], context) : [];
  const scope = scopeOf(draft, seat);
  emit({ type: 'secondHolder.added', data: { seat: seat.id, person: command.person, scope, waits } });
  return null;
}

export function dropSecondHolder(seat: SeatRun, command: CommandOf<'dropSecondHolder'>, emit: Emit): Refusal | null {
  if (!seat.holders.some((holder) => holder.via === 'second' && holder.person === command.person))
    return refusal('not-second-holder');
  emit({ type: 'secondHolder.dropped', data: { seat: seat.id, person: command.person } });
  return null;
}

export function pass(draft: Draft, seat: SeatRun, command: CommandOf<'pass'>, emit: Emit): Refusal | null {
  if (!isUnansweredStop(draft, seat)) return refusal('no-stop');
  emit({ type: 'seat.passed', data: { seat: seat.id, note: command.note } });
  return null;
}

/** Keeps a file with its fields laid on it, when neither has changed since it was made. */
export function keepFrozen(draft: Draft, command: CommandOf<'keepFrozen'>, emit: Emit): Refusal | null {
  const { file, content, frozen, fields } = command;
  const present = newest(draft)?.files.find((candidate) => candidate.id === file);
  if (present?.role !== 'document' || present.file !== content || fieldsHash(draft.fields, file) !== fields)
    return refusal('freeze-stale');
  emit({ type: 'file.frozen', data: { file, content, frozen, fields } });
  return null;
}
