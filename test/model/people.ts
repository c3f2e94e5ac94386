import { type Earliest, seatsOf, stagesOf, type Time } from '@/core/route/route';
import { usualCalendar } from '@/core/time/calendar';
import { after, type Clock, timeFor } from './clock';
import {
  content,
  earlier,
  holdersOf,
  type Known,
  type Model,
  type ModelSeat,
  need,
  responded,
  seatsIn,
  stageOf,
  stagePlan,
} from './state';

// Who may act on a seat, from when, and by when.

const awayAt = (known: Known, person: string, at: number) =>
  known.absences.find((absence) => absence.person === person && absence.from <= at && at < absence.to);

/** The stages whose people must be others than those of a stage, whichever of the two asks for it. */
function apartFrom(m: Model, id: string): string[] {
  const stages = stagesOf(m.plan);
  const own = stages.find((stage) => stage.id === id)?.independentOf ?? [];
  return [...own, ...stages.filter((stage) => stage.independentOf.includes(id)).map((stage) => stage.id)];
}

/** Whose responses stand in stages that this one must not share people with. */
export function respondersApart(m: Model, seat: ModelSeat): string[] {
  return apartFrom(m, seat.stage).flatMap((id) => {
    const stage = m.stages.get(id);
    if (!stage || stage.gone) return [];
    return seatsIn(m, stage).flatMap((other) =>
      responded(other) && other.decision !== null ? [m.decisions[other.decision]?.by ?? ''] : [],
    );
  });
}

export function meetApart(m: Model, one: string, other: string): boolean {
  return one === other || apartFrom(m, one).includes(other);
}

/** Everybody who holds a seat of a stage or has responded in one, with the seat. */
function peopleIn(m: Model, seat: ModelSeat): { seat: string; person: string }[] {
  return seatsIn(m, stageOf(m, seat.stage)).flatMap((other) => {
    const by = responded(other) && other.decision !== null ? [m.decisions[other.decision]?.by ?? ''] : [];
    return [...holdersOf(other), ...by].map((person) => ({ seat: other.id, person }));
  });
}

export const writesAndApproves = (m: Model, seat: ModelSeat, person: string, known: Known) =>
  person === m.author && stagePlan(m, seat).verb === 'approve' && !known.rules.authorApproves;

/** A person counts once in a stage, whatever the way. */
export const elsewhereInStage = (m: Model, seat: ModelSeat, person: string) =>
  peopleIn(m, seat).some((other) => other.seat !== seat.id && other.person === person);

function excluded(m: Model, seat: ModelSeat, person: string, known: Known): boolean {
  return (
    known.people.get(person)?.active === false ||
    writesAndApproves(m, seat, person, known) ||
    respondersApart(m, seat).includes(person)
  );
}

/** Who has taken a group's task and still has it. */
export function claim(seat: ModelSeat, known: Known): string | null {
  const { base } = seat;
  if (seat.group === null || base?.via !== 'taken') return null;
  const members = known.groups.get(seat.group)?.members ?? [];
  const wentAway = known.absences.some(
    ({ person, from }) => person === base.person && from > (base.since ?? 0) && from <= known.now,
  );
  return members.includes(base.person) && known.people.get(base.person)?.active !== false && !wentAway
    ? base.person
    : null;
}

interface Acting {
  person: string;
  /** Whom they cover for, and since when they have come to it that way. */
  covers: string | null;
  came: number;
}

/** Who may act on a seat at this moment. */
export function acting(m: Model, seat: ModelSeat, known: Known): Acting[] {
  const seconds = seat.seconds.map(({ person }) => person);
  const taker = claim(seat, known);
  let members: string[] = [];
  if (seat.group !== null && taker === null) {
    const not = [
      ...seat.barred,
      ...seconds,
      ...peopleIn(m, seat).flatMap((o) => (o.seat === seat.id ? [] : [o.person])),
    ];
    members = (known.groups.get(seat.group)?.members ?? []).filter((person) => !not.includes(person));
  }
  const first = seat.group === null ? (seat.base ? [seat.base.person] : []) : taker === null ? members : [taker];
  const own = [...first, ...seconds].filter((person) => !excluded(m, seat, person, known));
  const there = own.filter((person) => !awayAt(known, person, known.now));
  // For a group others step in only when all of it is away.
  const open = seat.group !== null && taker === null;
  const lending = open && there.some((person) => members.includes(person)) ? seconds : own;
  const found: Acting[] = own.map((person) => ({ person, covers: null, came: 0 }));
  for (const person of lending.filter((one) => own.includes(one))) {
    const cover = coverOf(m, seat, person, known);
    if (cover && !found.some((one) => one.person === cover.person)) found.push(cover);
  }
  return found;
}

/** The end of the chain of cover that begins with somebody; a circle, or somebody who may not come to it, cuts it. */
function coverOf(m: Model, seat: ModelSeat, first: string, known: Known): Acting | null {
  if (known.people.get(first)?.outside) return null;
  const { verb } = stagePlan(m, seat);
  const type = known.record.documentType?.id ?? '';
  const kept = [...seat.barred, ...peopleIn(m, seat).map(({ person }) => person), ...respondersApart(m, seat)];
  const met = [first];
  let came = 0;
  for (let person = first; ; ) {
    const absence = awayAt(known, person, known.now);
    const cover = absence?.covers.find(
      ({ verbs, types }) => (verbs === 'all' || verbs.includes(verb)) && (types === 'all' || types.includes(type)),
    );
    if (!absence || !cover) return person === first ? null : { person, covers: first, came };
    const facts = known.people.get(cover.by);
    if (met.includes(cover.by) || !facts || facts.outside) return null;
    if (excluded(m, seat, cover.by, known) || kept.includes(cover.by)) return null;
    came = Math.max(came, absence.from);
    met.push(cover.by);
    person = cover.by;
  }
}

/** Why somebody cannot be given a seat, by whatever way. */
export function needFit(m: Model, seat: ModelSeat, person: string, known: Known): void {
  need(!holdersOf(seat).includes(person), 'holds it already');
  need(known.people.get(person)?.active !== false, 'has left');
  need(!writesAndApproves(m, seat, person, known), 'the author approves');
  need(!respondersApart(m, seat).includes(person), 'responded where others are asked for');
  need(!elsewhereInStage(m, seat, person), 'counts in the stage already');
}

// Times

export function clockOf(known: Known, person: string | null): Clock {
  const facts = person === null ? undefined : known.people.get(person);
  const common = (known.home.calendar !== null && known.calendars.get(known.home.calendar)) || usualCalendar;
  const own = (facts?.calendar && known.calendars.get(facts.calendar)) || common;
  return { zone: facts?.zone ?? known.home.zone, own, common };
}

/** What says when a seat is due and closes: its own plan unless its stage was given new times since, else its stage. */
export function targets(m: Model, seat: ModelSeat): { due: Time | null; closes: Time | null } {
  const stage = stageOf(m, seat.stage);
  const plan = m.seatPlans.get(seat.planned);
  const own = (time: Time | null | undefined) =>
    time && stage.retimed && time.kind === 'instant' ? null : (time ?? null);
  return { due: own(plan?.due) ?? stage.due, closes: own(plan?.closes) ?? stage.closes };
}

/** Since when somebody has had the time to think over what a seat asks; null until they have opened it. */
function thinkingSince(m: Model, seat: ModelSeat, earliest: Earliest, person: string, asked: number): number | null {
  if (earliest.kind === 'date') return asked;
  const what = content(m, seat) ?? '';
  const before = seat.thinking.find(
    (one) => one.person === person && one.since !== null && (!earliest.again || one.content === what),
  );
  if (before) return before.since;
  // It belongs to the text seen: what somebody was sent or opened in another seat counts there and here.
  if (earliest.from === 'asked') return m.sentTo.get(`${person} ${what}`) ?? asked;
  if (earliest.from === 'opened') return m.openedBy.get(`${person} ${what}`) ?? null;
  return m.stages.get(earliest.from.stage)?.ended ?? asked;
}

/** What was counted of somebody here last, unless it was of other content and begins again with that. */
export function notedOf(m: Model, seat: ModelSeat, person: string) {
  const { earliest } = stagePlan(m, seat);
  const noted = seat.thinking.findLast((one) => one.person === person);
  return earliest?.kind === 'wait' && earliest.again && noted?.content !== content(m, seat) ? undefined : noted;
}

/** From when somebody may act: an instant, now (0), or not before they have opened it (null). */
export function mayFrom(m: Model, seat: ModelSeat, one: Acting, known: Known): number | null {
  const { earliest } = stagePlan(m, seat);
  if (!earliest) return 0;
  if (earliest.kind === 'date') return earliest.at;
  const asked = Math.max(seat.since ?? known.now, one.covers === null ? 0 : one.came);
  const noted = notedOf(m, seat, one.person);
  const since = noted ? noted.since : thinkingSince(m, seat, earliest, one.person, asked);
  return since === null ? null : after(since, earliest, clockOf(known, one.person));
}

/** Notes for everybody who is asked now since when their time to think runs, and that they were sent the text. */
export function noteAsked(m: Model, seat: ModelSeat, people: readonly string[], known: Known): void {
  const { earliest } = stagePlan(m, seat);
  const what = content(m, seat) ?? '';
  for (const person of people) {
    if (earliest)
      seat.thinking.push({ person, content: what, since: thinkingSince(m, seat, earliest, person, known.now) });
    const key = `${person} ${what}`;
    if (!m.sentTo.has(key)) m.sentTo.set(key, known.now);
  }
}

/** When the first of those who may act on a seat may do so; null where each has to open it first, or nobody may. */
function firstMay(m: Model, seat: ModelSeat, known: Known): number | null {
  const all = acting(m, seat, known).flatMap((one) => mayFrom(m, seat, one, known) ?? []);
  return all.length === 0 ? null : Math.min(...all);
}

/** A due counted from when it can be acted on: never before, and never after it closes. */
export function timesFrom(m: Model, seat: ModelSeat, asked: number, known: Known) {
  const clock = clockOf(known, seat.base?.person ?? null);
  const want = targets(m, seat);
  const closes = seat.given?.closes ?? timeFor(want.closes, asked, clock);
  const first = Math.max(asked, firstMay(m, seat, known) ?? asked);
  const due = seat.given?.due ?? timeFor(want.due, first, clock);
  return { due: due === null ? null : earlier(Math.max(due, first), closes), closes };
}

/** Moves the due of somebody who may act only later than it: it counts from then. */
export function moveDue(m: Model, seat: ModelSeat, known: Known): void {
  const first = firstMay(m, seat, known);
  if (seat.due === null || first === null || first <= known.now) return;
  const clock = clockOf(known, seat.base?.person ?? null);
  const counted = timeFor(targets(m, seat).due, first, clock) ?? first;
  seat.due = earlier(Math.max(seat.due, counted, first), seat.closes);
}

/** The seats that a seat names, and of them those that may still be named. */
export function namedBy(m: Model, seat: ModelSeat): ModelSeat[] {
  return seatsOf(m.plan).flatMap(({ seat: { id, assignment }, stage }) => {
    const other = m.seats.get(id);
    const named = assignment.kind === 'named' && assignment.by === seat.planned;
    return named && other && !other.gone && !stageOf(m, stage.id).gone ? [other] : [];
  });
}
