import type { Command } from '@/core/circulation/commands';
import { decide } from '@/core/circulation/decide';
import { nothingPlanned, type Planning, prepared } from '@/core/circulation/planning';
import { type Field, lintFields } from '@/core/page/fields';
import { type Series, seatsOf } from '@/core/route/route';
import { needPeople } from '../admin/people';
import { notify, type Tx } from '../db/connect';
import { findFile } from '../files/store';
import { Refused, refuse } from '../refused';
import { act } from './act';
import { contextOf } from './context';
import { circulationState } from './load';
import { holdPlanning, keepPlanning } from './planning';
import { project, rowsOf } from './project';

/** Plans the route of a circulation and the words to everybody asked; recorded when it is sent. */
export async function planRoute(
  tx: Tx,
  circulation: string,
  input: { readonly route: Series; readonly note: string | null },
  person: string,
): Promise<void> {
  await needPeople(
    tx,
    seatsOf(input.route).map(({ seat }) => seat.assignment),
  );
  await prepareRoute(tx, circulation, input, person);
}

/** The same for a route whose people are looked at when it is sent. */
export async function prepareRoute(
  tx: Tx,
  circulation: string,
  input: { readonly route: Series; readonly note: string | null },
  person: string,
): Promise<void> {
  const planning = await holdPlanning(tx, circulation);
  const next = { ...planning, plan: input.route, note: input.note?.trim() || null };
  await prepare(tx, circulation, { type: 'plan', plan: input.route, note: null }, planning, next, person);
}

/** Puts the fields of one file, after looking at its pages, which the engine does not know; recorded once it is sent. */
export async function putFields(
  tx: Tx,
  circulation: string,
  input: { readonly file: string; readonly content: string; readonly fields: readonly Field[] },
  person: string,
): Promise<void> {
  const state = await circulationState(tx, circulation);
  const stored = await findFile(tx, input.content);
  if (!state || !stored?.facts.pages) refuse('file-unknown');
  if (input.fields.length > 0 && stored.facts.noFields) refuse('file-not-signable', { why: stored.facts.noFields });
  const planning = await holdPlanning(tx, circulation);
  const seats = prepared(state, planning).seats;
  const finding = lintFields(input.fields, stored.facts.pages, new Set(seats.keys()))[0];
  if (finding) refuse('fields-unfit', { finding: finding.code, field: finding.field });
  const others = planning.fields.filter(({ file }) => file !== input.file);
  const command = { type: 'putFields', ...input } as const;
  if (state.phase === 'new')
    return prepare(tx, circulation, command, planning, { ...planning, fields: [...others, input] }, person);
  await act(tx, circulation, command, person);
  if (planning !== nothingPlanned)
    keepPlanning(tx, circulation, others.length > 0 ? { ...planning, fields: others } : null);
}

/** Keeps what is prepared when the command that will record it is one that the engine takes, and shows it in the lists. */
async function prepare(
  tx: Tx,
  circulation: string,
  command: Command,
  before: Planning,
  after: Planning,
  person: string,
): Promise<void> {
  const state = (await circulationState(tx, circulation)) ?? refuse('not-found');
  const then = prepared(state, before);
  const decided = decide(then, command, await contextOf(tx, then, person));
  if (!decided.ok) {
    const { code, sentence, facts } = decided.refusal;
    // Only the words may have changed, which the engine does not see.
    if (code !== 'no-effect') throw new Refused(code, sentence, facts);
  }
  keepPlanning(tx, circulation, after);
  project(tx, rowsOf(circulation, then), rowsOf(circulation, prepared(state, after)));
  notify(tx, 'circulation', circulation);
}
