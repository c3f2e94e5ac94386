import { refusal } from '../../refusals';
import { system } from '../run/events';
import { sendWaitingCopies } from '../run/settle';
import { releaseWanted } from '../telling/tasks';
import type { ActOn } from './act';
import { bySystem, steers } from './guarding';

// What ends a circulation, and what the system does by itself.

export const keepFinals: ActOn<'whole', 'keepFinals'> = {
  on: 'whole',
  right: null,
  guard: (state, context) => {
    const bad = bySystem(context);
    if (bad) return bad;
    if (state.phase !== 'finishing') return refusal('not-finishing');
    return state.finals ? refusal('no-effect') : null;
  },
  effect: ({ draft, emit }, { files, identifier }) => {
    emit({ type: 'finals.kept', data: { files, identifier } });
    // Whoever gets a copy gets the file that is stored.
    sendWaitingCopies(draft, emit);
    return null;
  },
};

/** Releases the revisions, by whoever steers it or, as it was sent, by itself. */
export const complete: ActOn<'whole', 'complete'> = {
  on: 'whole',
  right: 'circulation.steer',
  guard: (state, context) => {
    if (!steers(state, context) && !(context.actor === system && releaseWanted(state)))
      return refusal('not-controller');
    if (state.phase !== 'finishing') return refusal('not-finishing');
    return state.finals ? null : refusal('no-final');
  },
  effect: ({ draft, context, emitAs }, { revisions, effective, evidence }) => {
    const records = revisions.map((entry) => entry.record);
    if (records.length !== draft.records.length || draft.records.some((record) => !records.includes(record)))
      return refusal('revisions-unfit');
    const behalf = context.actor === system ? draft.controller : null;
    emitAs(context.actor, behalf)({ type: 'circulation.completed', data: { revisions, effective, evidence } });
    return null;
  },
};

export const wake: ActOn<'whole', 'wake'> = {
  on: 'whole',
  right: null,
  guard: (_state, context) => bySystem(context),
  effect: () => null,
};
