import type { Phase } from '@/core/circulation/run/state';
import { waitsFor } from '@/core/circulation/telling/tasks';
import type { Tx } from '../db/connect';
import { circulationState } from './load';

/** How a circulation stands after an act: whom it waits for now. */
export interface Standing {
  readonly phase: Phase;
  readonly waitsFor: readonly string[];
}

/** What an act answers, so that whoever acted is told who has it now. */
export async function standingOf(tx: Tx, circulation: string): Promise<Standing | null> {
  const state = await circulationState(tx, circulation);
  return state && { phase: state.phase, waitsFor: waitsFor(state) };
}
