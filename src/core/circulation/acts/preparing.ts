import { type Refusal, refusal } from '../../refusals';
import { factsIn } from '../../route/condition';
import { preflight } from '../../route/preflight';
import { assignedIn, conditionsOf, roleAsked, routeFaults } from '../../route/route';
import { verbFacts } from '../../route/verbs';
import { alike } from '../../trail/canonical';
import { subjectOf, unfitVersion } from '../plan/readiness';
import { signaturesEnded } from '../rounds/round';
import { roleFilled } from '../run/context';
import type { Draft } from '../run/evolve';
import { beginRework, wholeTimes } from '../run/settle';
import { baseHolder, documentsOf, fieldsHash, isSigned, newest, seatPlan, stagePlanOf } from '../run/state';
import type { ActOn } from './act';
import { beforeFinishing, bySystem, controlled, within, writesOrSteers, wrongPhase } from './guarding';
import { badTimes } from './times';

// What makes a circulation ready and sends it: its route, values, versions and the fields on them.

export const plan: ActOn<'whole', 'plan'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => controlled(state, context, ['new']),
  effect: ({ draft, emit }, { plan: route, note, whole }) => {
    if (routeFaults(route).length > 0) return refusal('route-unfit');
    if (note === draft.note && alike(route, draft.plan) && alike(whole, draft.whole)) return refusal('no-effect');
    emit({ type: 'route.planned', data: { plan: route, note, whole } });
    return null;
  },
};

/** Gives the facts their values. Stages that have been reached stay as they were decided. */
export const giveFacts: ActOn<'whole', 'giveFacts'> = {
  on: 'whole',
  right: 'circulation.value',
  guard: (state, context) => (writesOrSteers(state, context) ? within(state, beforeFinishing) : refusal('not-author')),
  effect: ({ draft, emit }, { facts, names }) => {
    if (alike(facts, draft.facts)) return refusal('no-effect');
    // What somebody has responded to stays until the next round asks them about what it has become.
    if (draft.phase === 'running' || draft.phase === 'finishing')
      for (const seat of draft.seats.values()) {
        if (seat.gone || (seat.status !== 'decided' && seat.status !== 'declined')) continue;
        const on = seatPlan(draft, seat.id)?.facts.find(
          (fact) => !alike(draft.facts[fact] ?? null, facts[fact] ?? null),
        );
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
  },
};

/** Whether the condition of a stage or a branch has been decided in this round. */
function isReached(draft: Draft, part: string): boolean {
  return (draft.blocks.get(part) ?? draft.stages.get(part))?.decided ?? false;
}

/** Takes in a version; while the circulation is running this begins rework. */
export const attach: ActOn<'whole', 'attach'> = {
  on: 'whole',
  // It comes with submitting a draft.
  right: null,
  guard: (state, context) => (writesOrSteers(state, context) ? within(state, beforeFinishing) : refusal('not-author')),
  effect: ({ draft, emit, own }, { version }) => {
    const unfit = unfitVersion(draft, version);
    if (unfit) return unfit;
    // A signature belongs to its bytes: what was frozen of other bytes ends, what was frozen of the same bytes goes on.
    const contents = new Map(version.files.map((file) => [file.id, file.file]));
    const ends = [...draft.frozen].filter(([id, frozen]) => contents.get(id) !== frozen.content).map(([id]) => id);
    const running = draft.phase === 'running';
    emit({ type: 'version.attached', data: { version, ends, unsigned: signaturesEnded(draft, version, ends) } });
    if (running) beginRework(draft, 'version', null, own);
    return null;
  },
};

/** Sends it: roles are filled and the times of the whole are counted, once. */
export const send: ActOn<'whole', 'send'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => {
    const bad = controlled(state, context, ['new']);
    if (bad) return bad;
    if (!newest(state)) return refusal('no-version');
    const stop = preflight(subjectOf(state, context)).find((finding) => finding.severity === 'stops');
    return stop
      ? refusal('preflight', { finding: stop.code, stage: stop.stage, seat: stop.seat, about: stop.about })
      : null;
  },
  effect: ({ draft, context, emit }, { releasesItself }) => {
    const whole = wholeTimes(draft, context);
    const bad = badTimes(whole.due, whole.closes, context.now);
    if (bad) return bad;
    const roles = assignedIn(draft.plan).flatMap(({ id, assignment }) => {
      const role = roleAsked(assignment);
      return role === null ? [] : [roleFilled(id, role, context)];
    });
    const version = newest(draft)?.number ?? 0;
    const reminders = draft.reminders ?? context.reminders;
    emit({ type: 'circulation.sent', data: { version, releasesItself, reminders, ...whole, roles } });
    return null;
  },
};

/** Puts the fields of one file, for the content it has now. */
export const putFields: ActOn<'file', 'putFields'> = {
  on: 'file',
  right: 'circulation.steer',
  guard: (state, context, file) => {
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
  effect: ({ draft, emit }, { content, fields }, file) => {
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
  },
};

/** Keeps a file with its fields laid on it, when neither has changed since it was made. */
export const keepFrozen: ActOn<'file', 'keepFrozen'> = {
  on: 'file',
  right: null,
  guard: (state, context, file): Refusal | null => {
    const bad = bySystem(context);
    if (bad) return bad;
    if (state.phase !== 'running') return refusal(wrongPhase[state.phase]);
    return state.frozen.has(file) ? refusal('no-effect') : null;
  },
  effect: ({ draft, emit }, { content, frozen, fields }, file) => {
    const present = newest(draft)?.files.find((candidate) => candidate.id === file);
    if (present?.role !== 'document' || present.file !== content || fieldsHash(draft.fields, file) !== fields)
      return refusal('freeze-stale');
    emit({ type: 'file.frozen', data: { file, content, frozen, fields } });
    return null;
  },
};
