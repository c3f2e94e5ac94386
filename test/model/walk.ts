import { type Parallel, type Route, routeLimits, type Stage, stagesOf } from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import { acting, elsewhereInStage, noteAsked, respondersApart, timesFrom, writesAndApproves } from './people';
import {
  documents,
  filesOf,
  freshSeat,
  holds,
  instant,
  type Known,
  type Model,
  type ModelSeat,
  type ModelStage,
  newest,
  presentFields,
  seatsIn,
  stageOf,
  stagePlan,
} from './state';

// What happens by itself: what is due, and the walk from the root.

type Standing = 'yes' | 'open' | 'gone';

const clocksRun = (m: Model) => m.phase === 'running' && m.paused === null && m.closed === null;

function enough(rule: Rule, n: number, kind: 'seats' | 'branches'): number {
  if (rule.kind === 'all') return n;
  if (rule.kind === 'any') return Math.min(1, n);
  return kind === 'branches' ? Math.min(rule.k, n) : rule.k;
}

export const openStop = (m: Model, seat: ModelSeat) =>
  seat.status === 'declined' && !seat.passed && stagePlan(m, seat).onDecline === 'stop';

const mayStill = (seat: ModelSeat) => ['decided', 'idle', 'asked', 'suspended'].includes(seat.status);

export function reachable(m: Model, stage: ModelStage): boolean {
  const seats = seatsIn(m, stage);
  return seats.filter(mayStill).length >= enough(stagePlan(m, { stage: stage.id }).rule, seats.length, 'seats');
}

export const canSayYes = (m: Model, stage: ModelStage) => seatsIn(m, stage).filter(mayStill).length;

/** Done exactly when its rule says so and no return and no unanswered stop stands in it. */
function satisfied(m: Model, stage: ModelStage): boolean {
  const seats = seatsIn(m, stage);
  const yes = seats.filter((seat) => seat.status === 'decided').length;
  const wanted = enough(stagePlan(m, { stage: stage.id }).rule, seats.length, 'seats');
  return seats.length > 0 && yes >= wanted && seats.every((seat) => seat.status !== 'returned' && !openStop(m, seat));
}

export const gathering = (m: Model, stage: ModelStage) =>
  m.phase === 'running' && stage.status === 'open' && seatsIn(m, stage).some((seat) => seat.status === 'returned');

export function beginRework(m: Model, cause: 'returned' | 'version' | 'nobody'): void {
  m.phase = 'rework';
  m.reworkOf = cause;
  for (const seat of m.seats.values()) if (seat.status === 'asked') seat.status = 'suspended';
}

/** Applies everything that has come due; at one instant the whole closes first, then seats close, then tasks go back. */
export function catchUp(m: Model, known: Known): void {
  while (m.closed === null) {
    const due: { at: number; rank: number; act: () => void }[] = [];
    if (m.closes !== null && m.closes <= known.now && (m.phase === 'running' || m.phase === 'rework'))
      due.push({ at: m.closes, rank: 0, act: () => close(m) });
    for (const seat of clocksRun(m) ? m.seats.values() : []) {
      if (seat.status !== 'asked') continue;
      if (seat.closes !== null && seat.closes <= known.now)
        due.push({ at: seat.closes, rank: 1, act: () => Object.assign(seat, { status: 'missed' }) });
      const gone = seat.base?.via === 'taken' ? endOfClaim(seat, known) : null;
      if (gone !== null) due.push({ at: gone, rank: 2, act: () => seat.status === 'asked' && giveBack(seat) });
    }
    if (due.length === 0) return;
    for (const { act } of due.sort((a, b) => a.at - b.at || a.rank - b.rank)) {
      act();
      if (m.closed !== null) return;
    }
    settle(m, known);
  }
}

function close(m: Model): void {
  m.closed = m.closes;
  m.still ??= m.closes;
}

function endOfClaim(seat: ModelSeat, known: Known): number | null {
  const { person, since } = seat.base as { person: string; since: number | null };
  const absence = known.absences.find(
    (one) => one.person === person && one.from <= known.now && one.from > (since ?? 0),
  );
  if (absence) return absence.from;
  return known.groups.get(seat.group ?? '')?.members.includes(person) ? null : known.now;
}

export function giveBack(seat: ModelSeat): void {
  seat.base = null;
  seat.proposal = null;
}

export function settle(m: Model, known: Known): void {
  if (!clocksRun(m)) return;
  const standing = walk(m, m.plan, known);
  if (m.phase !== 'running') return;
  if (standing === 'yes') m.phase = 'finishing';
  // Never completed silently.
  if (standing === 'gone') beginRework(m, 'nobody');
}

function walk(m: Model, part: Route, known: Known): Standing {
  if (m.phase !== 'running') return 'open';
  switch (part.kind) {
    case 'stage':
      return walkStage(m, part, known);
    case 'copies':
      m.boards.set(part.id, newest(m)?.number ?? 0);
      return 'gone';
    case 'series': {
      if (m.blocks.get(part.id)?.gone) return 'gone';
      let all: Standing = 'gone';
      for (const inner of part.parts) {
        const standing = walk(m, inner, known);
        if (standing === 'open') return 'open';
        if (standing === 'yes') all = 'yes';
      }
      return all;
    }
    case 'parallel':
      return walkParallel(m, part, known);
  }
}

function walkParallel(m: Model, part: Parallel, known: Known): Standing {
  if (m.blocks.get(part.id)?.gone) return 'gone';
  for (const { route, condition } of part.branches) {
    const block = m.blocks.get(route.id);
    if (!block || !condition || block.decided) continue;
    block.decided = true;
    block.gone = holds(m, condition, known.record) ? null : 'skipped';
  }
  // A join looks before it asks: what kept decisions satisfy is counted first.
  const passed = (id: string) => m.blocks.get(id)?.passedBy ?? false;
  const looks = part.branches.map(({ route }) => (passed(route.id) ? 'yes' : look(m, route, known)));
  const there = looks.filter((one) => one !== 'gone').length;
  const met = there > 0 && looks.filter((one) => one === 'yes').length >= enough(part.join, there, 'branches');
  const standings = part.branches.map(({ route }, i) =>
    passed(route.id) || (met && looks[i] === 'open') ? (looks[i] as Standing) : walk(m, route, known),
  );
  if (m.phase !== 'running') return 'open';
  const n = standings.filter((one) => one !== 'gone').length;
  if (n === 0) return 'gone';
  if (standings.filter((one) => one === 'yes').length < enough(part.join, n, 'branches')) return 'open';
  const rest = part.branches.filter((_, i) => standings[i] === 'open');
  // Nobody approves a text that is known to change.
  if (rest.some(({ route }) => stagesOf(route).some((stage) => gathers(m, stage)))) {
    beginRework(m, 'returned');
    return 'open';
  }
  for (const { route } of rest) passBy(m, route);
  return 'yes';
}

const gathers = (m: Model, { id }: Stage) => !stageOf(m, id).gone && gathering(m, stageOf(m, id));

/** How a part stands without asking anybody. */
function look(m: Model, part: Route, known: Known): Standing {
  if (part.kind === 'copies') return 'gone';
  if (part.kind === 'stage') {
    const stage = stageOf(m, part.id);
    if (stage.gone) return 'gone';
    if (stage.status === 'done' || stage.status === 'released') return 'yes';
    if (part.condition && !stage.decided && !holds(m, part.condition, known.record)) return 'gone';
    return satisfied(m, stage) ? 'yes' : 'open';
  }
  if (m.blocks.get(part.id)?.gone) return 'gone';
  const parts: Standing[] =
    part.kind === 'series'
      ? part.parts.map((inner) => look(m, inner, known))
      : part.branches.map(({ route, condition }) =>
          condition && !m.blocks.get(route.id)?.decided && !holds(m, condition, known.record)
            ? 'gone'
            : look(m, route, known),
        );
  const there = parts.filter((one) => one !== 'gone');
  if (there.length === 0) return 'gone';
  const wanted = part.kind === 'series' ? there.length : enough(part.join, there.length, 'branches');
  return there.filter((one) => one === 'yes').length >= wanted ? 'yes' : 'open';
}

/** A branch that its join no longer needs: what is open in it is released. */
function passBy(m: Model, part: Route): void {
  if (part.kind === 'copies') return;
  if (part.kind === 'stage') {
    const stage = stageOf(m, part.id);
    if (stage.gone || stage.status === 'done' || stage.status === 'released') return;
    for (const seat of seatsIn(m, stage)) if (seat.status === 'asked') seat.status = 'released';
    end(stage, 'released', m.last);
    return;
  }
  const block = m.blocks.get(part.id);
  if (block) block.passedBy = true;
  for (const inner of part.kind === 'series' ? part.parts : part.branches.map(({ route }) => route)) passBy(m, inner);
}

function end(stage: ModelStage, status: 'done' | 'released', at: number): void {
  stage.status = status;
  stage.held = null;
  stage.ended = at;
}

function walkStage(m: Model, plan: Stage, known: Known): Standing {
  const stage = stageOf(m, plan.id);
  if (stage.gone) return 'gone';
  if (stage.status === 'done' || stage.status === 'released') return 'yes';
  if (stage.status === 'idle' && plan.condition && !stage.decided) {
    stage.decided = true;
    if (!holds(m, plan.condition, known.record)) {
      stage.gone = 'skipped';
      stage.ended = m.last;
      return 'gone';
    }
  }
  if (satisfied(m, stage)) {
    for (const seat of seatsIn(m, stage)) if (seat.status === 'asked') seat.status = 'released';
    end(stage, 'done', m.last);
    return 'yes';
  }
  if (stage.status === 'idle') {
    stage.held = holding(m, plan, stage, known);
    if (stage.held) return 'open';
    stage.status = 'open';
  }
  expand(m, plan, stage, known);
  if (gathering(m, stage)) {
    // Nobody new is asked, so no new time is waited for.
    stage.held = null;
    const waits = seatsIn(m, stage).some((seat) => seat.status === 'asked' && acting(m, seat, known).length > 0);
    if (!waits) beginRework(m, 'returned');
    return 'open';
  }
  ask(m, plan, stage, known);
  return 'open';
}

/** The documents that have to be frozen before anybody can sign, and are not. */
function toFreeze(m: Model) {
  const version = newest(m);
  if (!version) return [];
  const wanted = stagesOf(m.plan)
    .filter((stage) => stage.verb === 'sign' && !stageOf(m, stage.id).gone)
    .flatMap((stage) => stage.seats.flatMap((seat) => filesOf(m, { planned: seat.id }, version).map(({ id }) => id)));
  return documents(version).filter(({ id, file }) => wanted.includes(id) && m.frozen.get(id)?.content !== file);
}

/** Signing seats still to come that have no signature field on the newest version. */
function withoutField(m: Model): string[] {
  const marks = presentFields(m).filter(({ kind, needed }) => kind === 'signature' && needed);
  return stagesOf(m.plan)
    .filter(({ id, verb }) => verb === 'sign' && !stageOf(m, id).gone && stageOf(m, id).ended === null)
    .flatMap(({ id }) => seatsIn(m, stageOf(m, id)))
    .filter((seat) => seat.status !== 'decided' && !marks.some((field) => field.seat === seat.id))
    .map(({ id }) => id);
}

function holding(m: Model, plan: Stage, stage: ModelStage, known: Known): ModelStage['held'] {
  if (plan.verb === 'sign' && toFreeze(m).length > 0) return withoutField(m).length > 0 ? 'fields' : 'freezing';
  const closes = instant(stage.closes);
  if (closes !== null && closes <= known.now) return 'time';
  const whole = wholeGroups(m, stage);
  const more = whole.reduce((sum, seat) => sum + (known.groups.get(seat.group ?? '')?.members.length ?? 0), 0);
  const all = [...m.seats.values()].filter((seat) => !seat.gone).length;
  return more > 0 && all - whole.length + more > routeLimits.seats ? 'crowd' : null;
}

/** Seats for every member of a group that have not become those of its members. */
function wholeGroups(m: Model, stage: ModelStage): ModelSeat[] {
  return seatsIn(m, stage).filter((seat) => {
    const { assignment } = m.seatPlans.get(seat.planned) ?? {};
    const { members = null } = assignment && 'members' in assignment ? assignment : {};
    return members === 'every' && seat.id === seat.planned && seat.group !== null;
  });
}

function expand(m: Model, plan: Stage, stage: ModelStage, known: Known): void {
  for (const seat of wholeGroups(m, stage)) {
    const people = (known.groups.get(seat.group ?? '')?.members ?? []).filter(
      (person) =>
        known.people.get(person)?.active !== false &&
        !writesAndApproves(m, seat, person, known) &&
        !respondersApart(m, seat).includes(person) &&
        !elsewhereInStage(m, seat, person),
    );
    const own = plan.seats.find(({ id }) => id === seat.id);
    if (people.length === 0 || !own) continue;
    seat.gone = 'expanded';
    const members = people.map((person, i) => {
      const member = freshSeat(stage.id, own, { id: `${seat.id}__${i + 1}`, person });
      member.seconds = [...seat.seconds];
      m.seats.set(member.id, member);
      return member.id;
    });
    stage.seats.splice(stage.seats.indexOf(seat.id) + 1, 0, ...members);
  }
}

function ask(m: Model, plan: Stage, stage: ModelStage, known: Known): void {
  stage.held = null;
  const seats = seatsIn(m, stage);
  const waiting = seats.some((seat) => seat.status === 'asked' || openStop(m, seat));
  if (plan.order === 'oneByOne' && waiting) return;
  const idle = seats.filter((seat) => seat.status === 'idle');
  for (const seat of plan.order === 'oneByOne' ? idle.slice(0, 1) : idle) {
    const people = acting(m, seat, known).map(({ person }) => person);
    // Tried on a copy: nobody is asked and missed in one step.
    const tried = { ...seat, thinking: [...seat.thinking], since: known.now };
    noteAsked({ ...m, sentTo: new Map(m.sentTo) }, tried, people, known);
    const times = timesFrom(m, tried, known.now, known);
    if (times.closes !== null && times.closes <= known.now) {
      stage.held = 'time';
      return;
    }
    noteAsked(m, seat, people, known);
    begin(seat, known.now);
    Object.assign(seat, times, { given: null });
  }
}

/** Somebody is asked, or asked anew: what was counted of whoever was asked before is over. */
export function begin(seat: ModelSeat, now: number): void {
  seat.status = 'asked';
  seat.since = now;
  anew(seat);
}

export function anew(seat: ModelSeat): void {
  Object.assign(seat, { reminded: null, asking: null, waited: false });
}
