import type { Command } from '@/core/circulation/acts/commands';
import { decide } from '@/core/circulation/acts/decide';
import { nothingPlanned, type Planning, planSign, prepared } from '@/core/circulation/plan/planning';
import type { Whole } from '@/core/circulation/run/shapes';
import { type Field, lintFields } from '@/core/page/fields';
import { type FactValue, factFault } from '@/core/route/facts';
import { assigneesIn, type Series } from '@/core/route/route';
import { needPeople } from '../admin/people';
import { notify, type Tx } from '../db/connect';
import { findFile } from '../files/store';
import { Refused, refuse } from '../refused';
import { act } from './act';
import { contextOf, factTypesOf } from './context';
import { circulationState } from './load';
import { holdPlanning, keepPlanning } from './planning';
import { project, rowsOf } from './project';

/** What a controller plans: the route, the words, and where they are given the times of the whole and values of facts. */
interface Prepared {
  readonly route: Series;
  readonly note: string | null;
  readonly whole?: Whole;
  readonly facts?: Readonly<Record<string, FactValue | null>>;
  /** The sign of the plan that was changed, for whoever must not overwrite another's. */
  readonly basis?: string | null;
}

/** Plans the route of a circulation and the words to everybody asked; recorded when it is sent. */
export async function planRoute(tx: Tx, circulation: string, input: Prepared, person: string): Promise<void> {
  await needPeople(tx, assigneesIn(input.route));
  await fitFacts(tx, circulation, input.facts ?? {});
  await prepareRoute(tx, circulation, input, person);
}

/** The same for a route whose people are looked at when it is sent. */
export async function prepareRoute(tx: Tx, circulation: string, input: Prepared, person: string): Promise<void> {
  const planning = await holdPlanning(tx, circulation);
  const { route, whole = planning.whole, facts = planning.facts, basis = null } = input;
  if (basis !== null) {
    const state = (await circulationState(tx, circulation)) ?? refuse('not-found');
    if (planSign(planning.plan ?? state.plan, planning) !== basis) refuse('plan-moved');
  }
  const next = { ...planning, plan: route, note: input.note?.trim() || null, whole, facts };
  await prepare(tx, circulation, { type: 'plan', plan: route, note: null, whole }, planning, next, person);
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
    // Only the words may have changed, which the engine does not see.
    if (decided.refusal.code !== 'no-effect') throw new Refused(decided.refusal);
  }
  keepPlanning(tx, circulation, after);
  project(tx, rowsOf(circulation, then), rowsOf(circulation, prepared(state, after)));
  notify(tx, 'circulation', circulation);
}

/** Refuses values that do not fit the facts of the document's type; gives the types. */
async function fitFacts(tx: Tx, circulation: string, facts: Readonly<Record<string, FactValue | null>>) {
  const state = (await circulationState(tx, circulation)) ?? refuse('not-found');
  const types = await factTypesOf(tx, state);
  for (const [id, value] of Object.entries(facts)) {
    const type = types.find((one) => one.id === id) ?? refuse('unknown-fact');
    const fault = value && factFault(type, value);
    if (fault) refuse('fact-unfit', { fact: type.name, fault });
  }
  return { state, types };
}

/** Gives facts of a circulation under way other values; those that are not named stay as they are. */
export async function giveFacts(
  tx: Tx,
  circulation: string,
  given: Readonly<Record<string, FactValue | null>>,
  person: string,
): Promise<void> {
  const { state, types } = await fitFacts(tx, circulation, given);
  const facts: Record<string, FactValue> = { ...state.facts };
  for (const [id, value] of Object.entries(given)) {
    if (value === null) delete facts[id];
    else facts[id] = value;
  }
  const names = { ...state.factNames, ...Object.fromEntries(types.map(({ id, name }) => [id, name])) };
  await act(tx, circulation, { type: 'giveFacts', facts, names }, person);
}
