import type { Command } from '@/core/circulation/acts/commands';
import { firstAsked } from '@/core/route/edit';
import { type PreflightSubject, preflight } from '@/core/route/preflight';
import { mapStages, routeFaults, seatsOf, stagesOf, type Time } from '@/core/route/route';
import type { Verb } from '@/core/route/verbs';
import { amend } from './amend';
import { putOff, timeFor } from './clock';
import { acting, claim, clockOf, mayFrom, moveDue, namedBy, needFit, noteAsked, notedOf, targets } from './people';
import { keepable, leavable, lines, needTimes, twice } from './round';
import * as s from './state';
import { type Known, type Model, type ModelSeat, need, newest, Refused, refuse, same } from './state';
import { anew, begin, beginRework, canSayYes, catchUp, gathering, giveBack, openStop, reachable, settle } from './walk';

// Every command, as CIRCULATION.md has it: what it needs, and what it does. What it needs and is not so refuses it.

/** What a command was made on, in the model's own words: a content, the list of a round or a plan, the fields of a file. */
export interface MadeOn {
  readonly content: string | null;
  readonly basis: string | null;
  readonly fields: string | null;
}

/** Comments, reminders by plan and copied links change nothing of who may do what; they are not put to the model. */
type ModelAct = Exclude<
  Command['type'],
  'comment' | 'resolveComment' | 'reopenComment' | 'setReminders' | 'giveNotice' | 'copyLink'
>;
type Given<A extends ModelAct> = Extract<Command, { type: A }>;
type Scene = { readonly m: Model; readonly known: Known; readonly now: number; readonly on: MadeOn };

/** Why the model refused last, for whoever reads a difference. */
export const refusedFor = { last: '' };

/** The state after a command, or null where it is refused; the state given stays as it was. */
export function obey(given: Model, command: Given<ModelAct>, known: Known, on: MadeOn): Model | null {
  if (given.phase === 'completed' || given.phase === 'withdrawn') return null;
  const m = structuredClone(given);
  const now = Math.max(known.now, m.last);
  m.last = now;
  const at = { ...known, now };
  try {
    catchUp(m, at);
    (carryOut[command.type] as (scene: Scene, command: Command) => void)({ m, known: at, now, on }, command);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    refusedFor.last = error.message;
    return null;
  }
  settle(m, at);
  catchUp(m, at);
  return m;
}

function within(m: Model, ...phases: Model['phase'][]): void {
  need(m.closed === null && phases.includes(m.phase), `not while ${m.phase}`);
}
function controls({ m, known }: Scene, ...phases: Model['phase'][]): void {
  need([m.controller, ...known.leads].includes(known.actor), 'somebody else controls it');
  if (phases.length > 0) within(m, ...phases);
}
function writes({ m, known }: Scene): void {
  need([m.author, m.controller, ...known.leads].includes(known.actor), 'neither writes nor controls it');
}
const notPaused = (m: Model) => need(m.paused === null, 'paused');
const isSystem = ({ known }: Scene) => need(known.actor === 'system', 'the system does that');

function seatNamed(m: Model, id: string): ModelSeat {
  const seat = m.seats.get(id);
  return seat && !seat.gone ? seat : refuse('no such seat');
}
function stageNamed(m: Model, id: string) {
  const stage = m.stages.get(id);
  return stage && !stage.gone ? stage : refuse('no such stage');
}
function onPage(m: Model, { seat: id, epoch }: { seat: string; epoch: number }): ModelSeat {
  const seat = seatNamed(m, id);
  need(seat.epoch === epoch, 'an old page');
  return seat;
}
function self(m: Model, seat: ModelSeat, known: Known) {
  return acting(m, seat, known).find(({ person }) => person === known.actor) ?? refuse('may not act');
}
function mayRespond({ m, known }: Scene, seat: ModelSeat) {
  const own = self(m, seat, known);
  within(m, 'running');
  need(m.paused === null && seat.status === 'asked', 'not asked');
  return own;
}
/** Whether a seat can still change hands: its stage takes part and is not over. In rework nothing is over. */
function inPlay(m: Model, seat: ModelSeat): void {
  need(m.phase === 'rework' || !s.isOver(s.stageOf(m, seat.stage)), 'its stage is over');
}
export function fitTimes(due: number | null, closes: number | null, now: number): void {
  need((due ?? now + 1) > now && (closes ?? now + 1) > now, 'a time that has passed');
  need(due === null || closes === null || due <= closes, 'closes before it is due');
}
function fitStageTimes({ due, closes }: { due: Time | null; closes: Time | null }, now: number): void {
  fitTimes(s.instant(due), s.instant(closes), now);
}

const yes: Record<Verb, readonly string[]> = {
  contribute: ['done'],
  review: ['done', 'returned'],
  approve: ['approved', 'approvedWithComments', 'returned'],
  sign: ['signed'],
  read: ['confirmed'],
};
const positive = (outcome: string) => outcome !== 'returned' && outcome !== 'declined';

/** Gives a seat to a person: its epoch rises, and their time begins. */
function hold(m: Model, seat: ModelSeat, person: string, outside: boolean, known: Known): void {
  seat.base = s.baseOf(person, 'given', outside, known.now);
  seat.seconds = seat.seconds.filter((second) => second.person !== person);
  seat.proposal = null;
  seat.epoch += 1;
  anew(seat);
  if (seat.status !== 'asked') return;
  noteAsked(m, seat, [person], known);
  moveDue(m, seat, known);
}

function needPassable(m: Model, seat: ModelSeat, to: string, known: Known): boolean {
  needFit(m, seat, to, known);
  const outside = seat.base?.outside ?? false;
  need((known.people.get(to)?.outside ?? false) === outside, 'another side of the house');
  need(!seat.barred.includes(to), 'was replaced here');
  return outside;
}
function passOn(m: Model, seat: ModelSeat, to: string, known: Known): void {
  const outside = needPassable(m, seat, to, known);
  seat.group = null;
  hold(m, seat, to, outside, known);
}

/** The times after a command that may give new ones: what has passed is not taken over. */
function timesAfter(seat: ModelSeat, given: { due: number | null; closes: number | null }, now: number) {
  const passed = seat.closes !== null && seat.closes <= now;
  need(!passed || given.due !== null || given.closes !== null, 'a new time is needed');
  const ahead = (at: number | null) => (at !== null && at > now ? at : null);
  const times = { due: given.due ?? ahead(seat.due), closes: given.closes ?? ahead(seat.closes) };
  fitTimes(times.due, times.closes, now);
  return times;
}

/** When clocks run again: what is open or still to come is put off by how long they stood still in this round. */
function runAgain({ m, known, now }: Scene): void {
  if (m.paused !== null || m.closed !== null) return;
  const { still } = m;
  m.still = null;
  if (still === null || m.phase !== 'running') return;
  const off = (at: number | null, kind: Time | null, person: string | null) =>
    at === null ? null : putOff(at, kind, still, now, clockOf(known, person));
  const later = (time: Time | null): Time | null =>
    time?.kind === 'instant' ? { kind: 'instant', at: off(time.at, time, null) as number } : time;
  for (const seat of m.seats.values()) {
    const stage = s.stageOf(m, seat.stage);
    if (seat.gone || s.isOver(stage)) continue;
    const person = seat.base?.person ?? null;
    if (seat.status === 'asked') {
      const kinds = targets(m, seat);
      seat.closes = off(seat.closes, kinds.closes, person);
      if (seat.asking === null) seat.due = off(seat.due, kinds.due, person);
      seat.due = seat.due === null ? null : s.earlier(seat.due, seat.closes);
    }
    if (seat.status !== 'idle') continue;
    // What was given to it, or planned for it alone as an instant; what its stage says is put off with the stage.
    const plan = stage.retimed ? undefined : m.seatPlans.get(seat.planned);
    const due = off(seat.given?.due ?? s.instant(plan?.due ?? null), null, null);
    const closes = off(seat.given?.closes ?? s.instant(plan?.closes ?? null), null, null);
    if (due !== null || closes !== null) seat.given = { due, closes };
  }
  for (const stage of m.stages.values())
    if (!s.isOver(stage)) Object.assign(stage, { due: later(stage.due), closes: later(stage.closes) });
}

/** What the check before sending would stop at. */
export function stops(m: Model, known: Known): string[] {
  const version = newest(m);
  const subject: PreflightSubject = {
    ...known,
    route: m.plan,
    whole: m.whole,
    author: m.author,
    hasVersion: version !== null,
    fields: s.presentFields(m),
    files: (version ? s.documents(version) : []).map(({ id }) => ({ id, takesFields: true })),
    facts: m.facts,
    person: (id) => {
      const one = known.people.get(id);
      return one ? { name: '', active: one.active, outside: one.outside } : null;
    },
    clock: (person) => clockOf(known, person),
    same: (a, b) => a === b,
    authorApproves: known.rules.authorApproves,
    standIn: () => null,
  };
  const found = preflight(subject).filter(({ severity }) => severity === 'stops');
  return found.map(({ code, stage, seat, about }) => [code, stage, seat, about].join(' '));
}

/** Names what an amendment is drafted on, the list of a next round, the fields of a file. */
export const drafted = (m: Model) =>
  JSON.stringify([m.plan, m.note, m.due, m.closes, m.phase, m.round, newest(m)?.number ?? 0, m.decisions.length]);
export const listed = (m: Model) => JSON.stringify([newest(m)?.number ?? 0, m.decisions.length, lines(m)]);
export const fieldsOf = (m: Model, file: string) => JSON.stringify(m.fields.filter((field) => field.file === file));

/** Whoever fills the role of a seat, once it is sent or comes in by an amendment. */
export function fillRole(m: Model, id: string, known: Known): void {
  const seat = m.seats.get(id);
  const { assignment } = m.seatPlans.get(id) ?? {};
  const person = assignment && known.roles.get(s.roleOf(assignment) ?? '')?.person;
  if (!seat || !person) return;
  seat.base = s.baseOf(person, 'role', known.people.get(person)?.outside ?? false, null);
  seat.seconds = seat.seconds.filter((second) => second.person !== person);
}

/** Whether a rule of the rule can no longer be met, and the controller has to say how it goes on. */
function isStuck(m: Model, stage: s.ModelStage): boolean {
  return stage.status === 'open' && !stage.gone && !gathering(m, stage) && !reachable(m, stage);
}

/** What waits for the controller to decide how it goes on. */
export function stopsOf(m: Model): string[] {
  if (m.closed !== null && m.phase !== 'withdrawn') return ['closed'];
  if (m.phase !== 'running') return [];
  return [...m.stages.values()].flatMap((stage) => {
    const found = !stage.gone && (stage.held === 'time' || stage.held === 'crowd') ? [`${stage.held} ${stage.id}`] : [];
    if (stage.status !== 'open' || stage.gone) return found;
    const stuck = isStuck(m, stage);
    const all = s.stagePlan(m, { stage: stage.id }).rule.kind === 'all';
    const waits = (seat: ModelSeat) =>
      openStop(m, seat) || (seat.status === 'declined' && stuck) || (seat.status === 'missed' && (stuck || all));
    const seats = s.seatsIn(m, stage).filter(waits);
    if (stuck && seats.length === 0) found.push(`stuck ${stage.id}`);
    return [...found, ...seats.map((seat) => `${seat.status} ${seat.id}`)];
  });
}

/** Whether a condition that has still to be decided depends on a fact that would be emptied. */
function needValues(m: Model, facts: Model['facts']): void {
  const emptied = Object.keys(m.facts).filter((id) => !facts[id]);
  const tests = (condition: unknown) => emptied.some((id) => JSON.stringify(condition).includes(`"fact":"${id}"`));
  for (const { id, condition } of stagesOf(m.plan))
    need(!condition || s.stageOf(m, id).decided || !tests(condition), 'a stage depends on it');
  for (const part of s.blocksOf(m.plan))
    if (part.kind === 'parallel')
      for (const { route, condition } of part.branches)
        need(!condition || m.blocks.get(route.id)?.decided === true || !tests(condition), 'a branch depends on it');
}

const carryOut: { readonly [A in ModelAct]: (scene: Scene, command: Given<A>) => void } = {
  wake: isSystem,

  plan: (scene, { plan, note, whole }) => {
    const { m } = scene;
    controls(scene, 'new');
    need(routeFaults(plan).length === 0, 'unfit');
    need(!same([plan, note, whole], [m.plan, m.note, m.whole]), 'no effect');
    s.planned(m, plan);
    Object.assign(m, { note, whole });
  },

  attach: (scene, { version }) => {
    const { m } = scene;
    writes(scene);
    within(m, 'new', 'running', 'rework');
    s.needFitVersion(m, version);
    for (const [id, frozen] of m.frozen)
      if (version.files.find((file) => file.id === id)?.file !== frozen.content) m.frozen.delete(id);
    m.versions.push(version);
    s.endSignatures(m, version);
    if (m.phase === 'running') beginRework(m, 'version');
  },

  giveFacts: (scene, { facts }) => {
    const { m } = scene;
    writes(scene);
    within(m, 'new', 'running', 'rework');
    need(!same(facts, m.facts), 'no effect');
    const changed = (id: string) => !same(m.facts[id] ?? null, facts[id] ?? null);
    for (const seat of m.phase === 'running' ? m.seats.values() : [])
      if (!seat.gone && (seat.status === 'decided' || seat.status === 'declined'))
        need(!m.seatPlans.get(seat.planned)?.facts.some(changed), 'somebody has responded to it');
    if (m.phase !== 'new') needValues(m, facts);
    m.facts = facts;
  },

  send: (scene) => {
    const { m, known, now } = scene;
    controls(scene, 'new');
    need(newest(m) !== null && stops(m, known).length === 0, 'the check stops it');
    const clock = clockOf(known, m.controller);
    m.due = timeFor(m.whole.due, now, clock);
    m.closes = timeFor(m.whole.closes, now, clock);
    fitTimes(m.due, m.closes, now);
    m.phase = 'running';
    for (const { seat } of seatsOf(m.plan)) fillRole(m, seat.id, known);
  },

  see: ({ m, known, now, on }, command) => {
    const seat = onPage(m, command);
    self(m, seat, known);
    within(m, 'running');
    need(seat.status === 'asked' && on.content === s.content(m, seat), 'not asked, or about other content');
    const key = `${known.actor} ${on.content}`;
    const { earliest } = s.stagePlan(m, seat);
    const opens = earliest?.kind === 'wait' && earliest.from === 'opened';
    const begins = opens && (notedOf(m, seat, known.actor)?.since ?? null) === null;
    need(begins || !m.openedBy.has(key), 'no effect');
    if (!m.openedBy.has(key)) m.openedBy.set(key, now);
    if (!begins) return;
    seat.thinking.push({ person: known.actor, content: on.content as string, since: now });
    moveDue(m, seat, known);
  },

  decide: (scene, command) => {
    const { m, known, now, on } = scene;
    const { outcome, note, filled } = command;
    const seat = onPage(m, command);
    const own = mayRespond(scene, seat);
    const { verb, allows, onReturn } = s.stagePlan(m, seat);
    need(on.content !== null && on.content === s.content(m, seat), 'other content');
    const more = verb === 'sign' && allows.changes ? ['declined', 'returned'] : ['declined'];
    need([...yes[verb], ...more].includes(outcome), 'not an outcome of it');
    const from = mayFrom(m, seat, own, known);
    need(outcome === 'declined' || (from !== null && from <= now), 'too early');
    const unnamed = namedBy(m, seat).some((other) => other.status === 'idle' && other.base === null);
    need(positive(outcome) ? !unnamed : note !== null, 'a name or a reason is missing');
    const mine = s.presentFields(m).filter((field) => field.seat === seat.id);
    const given = filled.map(({ field }) => field);
    const full = mine.every(({ id, needed }) => !needed || given.includes(id));
    const ours = given.every((id) => mine.some((field) => field.id === id));
    need(outcome === 'signed' ? full && ours : given.length === 0, 'the fields do not fit');
    const holder = seat.base?.person ?? own.covers ?? known.actor;
    const content = on.content as string;
    m.decisions.push({ seat: seat.id, holder, by: known.actor, outcome, content, ended: false });
    seat.status = positive(outcome) ? 'decided' : (outcome as 'declined' | 'returned');
    Object.assign(seat, { decision: m.decisions.length - 1, passed: false, proposal: null, asking: null });
    if (outcome === 'returned' && onReturn === 'atOnce') beginRework(m, 'returned');
  },

  confirmRound: (scene, command) => {
    const { m, known, now, on } = scene;
    controls(scene, 'rework');
    const holds = (condition: Parameters<typeof s.holds>[1]) =>
      s.holds({ ...m, stages: new Map() }, condition, known.record);
    need(stagesOf(m.plan).length === 0 || firstAsked(m.plan, holds).length > 0, 'nobody would be asked');
    need(on.basis === listed(m), 'the list has changed');
    const kept = new Map<string, number>();
    for (const id of command.keep) {
      const seat = m.seats.get(id) ?? refuse('no such seat');
      kept.set(id, keepable(m, seat) ?? refuse('nothing to keep'));
    }
    const left = new Set(command.leave);
    const stand = new Map(kept);
    for (const id of left) {
      const seat = m.seats.get(id) ?? refuse('no such seat');
      need(seat.status === 'declined' && !kept.has(id), 'no decline to leave');
      need(leavable(m, s.stageOf(m, seat.stage), left), 'the rule needs it');
      if (seat.decision !== null && !seat.gone && !s.stageOf(m, seat.stage).gone) stand.set(id, seat.decision);
    }
    need(twice(m, m.plan, stand).length === 0, 'one person would count twice');
    const some = [...m.seats.values()].some((seat) => !seat.gone && !kept.has(seat.id) && !left.has(seat.id));
    need(some || kept.size > 0, 'nobody would be asked');
    const times = new Map(command.times.map((entry) => [entry.stage, entry]));
    for (const [id, entry] of times) {
      need(m.stages.has(id), 'no such stage');
      fitStageTimes(entry, now);
    }
    needTimes(m, kept, left, times, known);
    for (const [seat, decision] of kept)
      m.accepted.push({ seat, decision, content: s.content(m, m.seats.get(seat) as ModelSeat) ?? '' });
    beginRound(m, kept, left, times, now);
  },

  extend: (scene, { seat: id, due, closes }) => {
    const { m, known, now } = scene;
    controls(scene, 'running');
    const seat = seatNamed(m, id);
    inPlay(m, seat);
    need(seat.status === 'asked' || (seat.status === 'missed' && m.paused === null), 'neither asked nor missed');
    fitTimes(due, closes, now);
    need(seat.status === 'missed' || seat.due !== due || seat.closes !== closes, 'no effect');
    need(s.stageOf(m, seat.stage).status === 'open', 'not asked');
    Object.assign(seat, { status: 'asked', due, closes, asking: null });
    moveDue(m, seat, known);
  },

  setTimes: (scene, command) => {
    controls(scene, 'running');
    const stage = stageNamed(scene.m, command.stage);
    need(stage.held === 'time', 'not held for a time');
    fitStageTimes(command, scene.now);
    Object.assign(stage, { due: command.due, closes: command.closes, retimed: true, held: null });
    for (const seat of s.seatsIn(scene.m, stage)) seat.given = null;
  },

  setEnough: (scene, { stage: id, k }) => {
    const { m } = scene;
    controls(scene, 'running');
    const stage = stageNamed(m, id);
    need(isStuck(m, stage) && k >= 1 && k <= canSayYes(m, stage), 'not stuck, or cannot be enough');
    m.plan = mapStages(m.plan, (plan) => (plan.id === id ? { ...plan, rule: { kind: 'atLeast', k } } : plan));
    s.note(m, m.plan);
  },

  endGathering: (scene, { stage }) => {
    controls(scene, 'running');
    need(gathering(scene.m, stageNamed(scene.m, stage)), 'does not gather');
    beginRework(scene.m, 'returned');
  },

  askAgain: (scene, command) => {
    const { m, known, now } = scene;
    controls(scene, 'running');
    notPaused(m);
    const seat = seatNamed(m, command.seat);
    inPlay(m, seat);
    need(s.stageOf(m, seat.stage).status === 'open' && seat.status === 'declined', 'no decline');
    const times = timesAfter(seat, command, now);
    begin(seat, now);
    Object.assign(seat, times, { decision: null, passed: false });
    const people = acting(m, seat, known).map(({ person }) => person);
    noteAsked(m, seat, people, known);
    moveDue(m, seat, known);
  },

  pass: (scene, command) => {
    const { m } = scene;
    controls(scene, 'running');
    const seat = seatNamed(m, command.seat);
    const stage = s.stageOf(m, seat.stage);
    need(stage.status === 'open' && openStop(m, seat) && reachable(m, stage), 'no stop, or the rule needs it');
    seat.passed = true;
  },

  remind: (scene, command) => {
    const { m, known, now } = scene;
    controls(scene, 'running');
    notPaused(m);
    const seat = seatNamed(m, command.seat);
    need(seat.status === 'asked' && now - (seat.reminded ?? 0) >= 3_600_000, 'not asked, or reminded lately');
    const all = acting(m, seat, known).map((one) => mayFrom(m, seat, one, known) ?? 0);
    need(all.length === 0 || all.some((from) => from <= now), 'they have to wait');
    seat.reminded = now;
  },

  take: (scene, command) => {
    const { m, known, now } = scene;
    const seat = onPage(m, command);
    need(seat.group !== null, 'nobody’s to take');
    mayRespond(scene, seat);
    need(known.groups.get(seat.group ?? '')?.members.includes(known.actor) ?? false, 'not a member');
    need(claim(seat, known) === null, 'taken');
    seat.base = s.baseOf(known.actor, 'taken', false, now);
    seat.seconds = seat.seconds.filter(({ person }) => person !== known.actor);
    moveDue(m, seat, known);
  },

  giveBack: (scene, command) => {
    const { m, known } = scene;
    const seat = onPage(m, command);
    need(seat.group !== null && seat.base !== null, 'nobody has taken it');
    if (known.actor !== seat.base?.person && known.actor !== 'system') controls(scene);
    within(m, 'running');
    need(m.paused === null && seat.status === 'asked', 'not asked');
    giveBack(seat);
  },

  name: (scene, command) => {
    const { m, known, now } = scene;
    const seat = onPage(m, command);
    mayRespond(scene, seat);
    const { to } = command;
    const other = namedBy(m, seat).find(({ id }) => id === command.names) ?? refuse('not to name');
    need(other.status === 'idle' && (!other.base || other.base.via === 'named'), 'not to name');
    needFit(m, other, to, known);
    const outside = known.people.get(to)?.outside ?? false;
    need((outside || !seat.base?.outside) && !other.barred.includes(to), 'may not be named');
    other.base = s.baseOf(to, 'named', outside, now);
    other.seconds = other.seconds.filter(({ person }) => person !== to);
    other.epoch += 1;
  },

  delegate: (scene, command) => {
    const { m, known } = scene;
    const seat = onPage(m, command);
    mayRespond(scene, seat);
    const { delegate } = s.stagePlan(m, seat).allows;
    need(delegate !== 'no' && seat.base?.person === known.actor, 'may not delegate');
    needPassable(m, seat, command.to, known);
    if (delegate === 'freely' || known.actor === m.controller) passOn(m, seat, command.to, known);
    else {
      need(seat.proposal !== command.to, 'proposed already');
      seat.proposal = command.to;
    }
  },

  agree: (scene, command) => {
    const { m, known } = scene;
    const seat = onPage(m, command);
    controls(scene, 'running');
    need(m.paused === null && seat.proposal !== null, 'nothing proposed');
    if (command.agreed) passOn(m, seat, seat.proposal as string, known);
    else seat.proposal = null;
  },

  reassign: (scene, { seat: id, to, due, closes }) => {
    const { m, known, now } = scene;
    controls(scene, 'running', 'rework');
    const seat = seatNamed(m, id);
    inPlay(m, seat);
    need(m.phase === 'rework' || seat.status !== 'decided', 'responded already');
    need(to.person !== seat.base?.person, 'holds it already');
    if (!s.holdersOf(seat).includes(to.person)) needFit(m, seat, to.person, known);
    const outside = to.kind === 'outside';
    need((known.people.get(to.person)?.outside ?? outside) === outside, 'another side of the house');
    const running = m.phase === 'running';
    // A return that is being gathered stands.
    const stands = running && seat.status === 'returned';
    const open = running && m.paused === null && s.stageOf(m, seat.stage).status === 'open';
    const asked = open && seat.status !== 'idle' && !stands;
    const times =
      running && seat.status !== 'idle' && !stands ? timesAfter(seat, { due, closes }, now) : { due, closes };
    if (running && !stands) fitTimes(times.due, times.closes, now);
    seat.barred = [...seat.barred.filter((one) => one !== to.person), ...(seat.base ? [seat.base.person] : [])];
    seat.group = null;
    if (!stands) {
      const own = running ? times : { due: null, closes: null };
      // What it was given before holds on where nothing new is given.
      const given = { due: own.due ?? seat.given?.due ?? null, closes: own.closes ?? seat.given?.closes ?? null };
      Object.assign(seat, {
        status: asked ? 'asked' : 'idle',
        decision: null,
        passed: false,
        given: asked ? null : given,
      });
      Object.assign(seat, asked ? { ...times, since: now } : { due: null, closes: null });
    }
    hold(m, seat, to.person, outside, known);
  },

  correctAddress: (scene, { seat: id, to }) => {
    const { m, known } = scene;
    controls(scene, 'running', 'rework');
    const seat = seatNamed(m, id);
    inPlay(m, seat);
    need(seat.base?.outside === true && !s.responded(seat), 'nobody outside, or responded already');
    need(known.people.get(to)?.outside === true, 'unknown');
    needFit(m, seat, to, known);
    seat.barred = seat.barred.filter((person) => person !== to);
    hold(m, seat, to, true, known);
  },

  addSecondHolder: (scene, { seat: id, person }) => {
    const { m, known, now } = scene;
    controls(scene, 'running', 'rework');
    const seat = seatNamed(m, id);
    inPlay(m, seat);
    need(m.phase === 'rework' || seat.status === 'asked' || seat.status === 'idle', 'not asked');
    needFit(m, seat, person, known);
    need(!known.people.get(person)?.outside, 'somebody outside');
    seat.seconds.push({ person, since: now });
    seat.barred = seat.barred.filter((barred) => barred !== person);
    if (seat.status === 'asked') noteAsked(m, seat, [person], known);
  },

  dropSecondHolder: (scene, { seat: id, person }) => {
    controls(scene, 'running', 'rework');
    const seat = seatNamed(scene.m, id);
    inPlay(scene.m, seat);
    const rest = seat.seconds.filter((second) => second.person !== person);
    need(rest.length < seat.seconds.length, 'not a second holder');
    seat.seconds = rest;
  },

  askQuestion: (scene, command) => {
    const { m, known, now } = scene;
    const seat = onPage(m, command);
    mayRespond(scene, seat);
    need(!m.questions.has(command.question), 'no effect');
    m.questions.set(command.question, { seat: seat.id, answered: false });
    // By rule the due waits for the answer, once.
    if (known.rules.questionsWait && seat.due !== null && !seat.waited)
      Object.assign(seat, { asking: now, waited: true });
  },

  answerQuestion: (scene, { question }) => {
    const { m, known, now } = scene;
    const asked = m.questions.get(question) ?? refuse('no such question');
    writes(scene);
    const seat = m.seats.get(asked.seat) as ModelSeat;
    need(!asked.answered && ['asked', 'suspended'].includes(seat.status), 'answered, or over');
    asked.answered = true;
    const more = [...m.questions.values()].some((one) => one.seat === asked.seat && !one.answered);
    if (more || seat.asking === null || seat.due === null) return;
    // What a pause has stood still as well is counted by its own end.
    const until = Math.max(seat.asking, m.still ?? now);
    const clock = clockOf(known, seat.base?.person ?? null);
    seat.due = s.earlier(putOff(seat.due, targets(m, seat).due, seat.asking, until, clock), seat.closes);
    seat.asking = null;
  },

  pause: (scene) => {
    controls(scene, 'running', 'rework');
    notPaused(scene.m);
    scene.m.paused = scene.now;
    scene.m.still ??= scene.now;
  },

  goOn: (scene) => {
    controls(scene, 'running', 'rework');
    need(scene.m.paused !== null, 'not paused');
    scene.m.paused = null;
    runAgain(scene);
  },

  extendWhole: (scene, { due, closes }) => {
    const { m } = scene;
    controls(scene);
    need(m.phase === 'running' || m.phase === 'rework', 'not under way');
    fitTimes(due, closes, scene.now);
    need(m.closed !== null || due !== m.due || closes !== m.closes, 'no effect');
    Object.assign(m, { due, closes, closed: null });
    runAgain(scene);
  },

  handControl: (scene, { to }) => {
    controls(scene);
    const facts = scene.known.people.get(to);
    need(to !== scene.m.controller && facts?.active === true && !facts.outside, 'no member');
    scene.m.controller = to;
  },

  amend: (scene, command) => {
    controls(scene, 'running', 'rework');
    need(scene.on.basis === drafted(scene.m), 'moved on');
    amend(scene.m, command, scene.known);
  },

  withdraw: (scene, { note }) => {
    const { m } = scene;
    controls(scene);
    const signed = ({ status, stage, decision }: ModelSeat) =>
      status === 'decided' && !s.stageOf(m, stage).gone && m.decisions[decision ?? -1]?.outcome === 'signed';
    need(note !== null && !(m.phase === 'finishing' && [...m.seats.values()].some(signed)), 'signed already');
    m.phase = 'withdrawn';
  },

  putFields: (scene, { file, content, fields }) => {
    const { m } = scene;
    controls(scene, 'new', 'running', 'rework');
    const version = newest(m) ?? refuse('no version');
    need(
      s.documents(version).some((one) => one.id === file && one.file === content),
      'no such document',
    );
    const open = [...m.stages.values()].filter((stage) => m.phase === 'running' && stage.status === 'open');
    const signing = open.some((stage) => s.stagePlan(m, { stage: stage.id }).verb === 'sign');
    need(!m.frozen.has(file) || (!signing && !s.isSigned(m, file)), 'frozen');
    const others = m.fields.filter((field) => field.file !== file);
    const all = [...others, ...fields];
    const signs = (id: string) => m.seats.has(id) && s.stagePlan(m, m.seats.get(id) as ModelSeat).verb === 'sign';
    const fit = fields.every((field) => field.file === file && signs(field.seat));
    need(fit && new Set(all.map(({ id }) => id)).size === all.length, 'unfit');
    need(fieldsOf(m, file) !== JSON.stringify(fields) || m.fieldsOn.get(file) !== content, 'no effect');
    m.fields = all;
    m.fieldsOn.set(file, content);
    m.frozen.delete(file);
  },

  keepFrozen: (scene, { file, content, frozen }) => {
    const { m, on } = scene;
    isSystem(scene);
    need(m.phase === 'running' && !m.frozen.has(file), 'nothing to freeze');
    const present = newest(m)?.files.find(({ id }) => id === file);
    need(present?.role === 'document' && present.file === content && on.fields === fieldsOf(m, file), 'stale');
    m.frozen.set(file, { content, file: frozen });
  },

  keepFinals: (scene) => {
    isSystem(scene);
    need(scene.m.phase === 'finishing' && !scene.m.finals, 'nothing to keep');
    scene.m.finals = true;
  },

  complete: (scene, { revisions }) => {
    const { m } = scene;
    controls(scene);
    const records = revisions.map(({ record }) => record);
    const all = records.length === m.records.length && m.records.every((own) => records.includes(own));
    need(m.phase === 'finishing' && m.finals && all, 'not ready');
    m.phase = 'completed';
  },
};

/** Everything goes idle, kept decisions are filled in, and the route is walked again from its root. */
function beginRound(
  m: Model,
  kept: ReadonlyMap<string, number>,
  left: ReadonlySet<string>,
  times: ReadonlyMap<string, { due: Time | null; closes: Time | null }>,
  now: number,
): void {
  Object.assign(m, { phase: 'running', round: m.round + 1, reworkOf: null, still: m.still === null ? null : now });
  for (const block of m.blocks.values())
    Object.assign(block, { gone: block.gone === 'removed' ? 'removed' : null, decided: false, passedBy: false });
  for (const stage of m.stages.values()) {
    const own = times.get(stage.id);
    const gone = stage.gone === 'removed' ? 'removed' : null;
    Object.assign(stage, { gone, decided: false, status: 'idle', held: null, ended: null });
    if (!own) continue;
    Object.assign(stage, { due: own.due, closes: own.closes, retimed: true });
    for (const seat of s.seatsIn(m, stage)) seat.given = null;
  }
  for (const seat of m.seats.values()) {
    seat.proposal = null;
    // A task that somebody took goes back to its group.
    if (seat.base?.via === 'taken') seat.base = null;
    if (kept.has(seat.id)) Object.assign(seat, { status: 'decided', decision: kept.get(seat.id), passed: false });
    else if (left.has(seat.id)) Object.assign(seat, { status: 'declined', passed: true });
    else {
      Object.assign(seat, { status: 'idle', passed: false, since: null, due: null, closes: null, decision: null });
      anew(seat);
    }
  }
}
