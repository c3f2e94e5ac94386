import type { Field } from '../../page/fields';
import { type FactType, type FactValue, factsWith } from '../../route/facts';
import { fieldsRenamed, renamed } from '../../route/references';
import { atInstant, comesBefore, mapStages, type Series, type Time } from '../../route/route';
import { verbFacts } from '../../route/verbs';
import { canonical, type Json } from '../../trail/canonical';
import { hashOf } from '../../trail/sha256';
import type { CommandOf } from '../acts/commands';
import { proposedAnew } from '../rounds/round';
import type { Context } from '../run/context';
import type { CirculationEvent } from '../run/events';
import { fold } from '../run/evolve';
import type { PayloadHash, Whole } from '../run/shapes';
import { type Circulation, newest, stagePlanOf } from '../run/state';

/** The fields of one file, for the content it had when they were put. */
interface FieldsPut {
  readonly file: string;
  readonly content: string;
  readonly fields: readonly Field[];
}

/**
 * What a controller prepares before a circulation is sent: a working copy, of which nothing is recorded until then. Fields
 * that were put on an earlier version stay in it until they are put anew.
 */
export interface Planning {
  readonly plan: Series | null;
  /** The words to everybody who is asked. */
  readonly note: string | null;
  readonly fields: readonly FieldsPut[];
  /** Due and closing of the whole. */
  readonly whole: Whole;
  /** Values given to facts; null empties one that has a value by itself. */
  readonly facts: Readonly<Record<string, FactValue | null>>;
}

export const nothingPlanned: Planning = {
  plan: null,
  note: null,
  fields: [],
  whole: { due: null, closes: null },
  facts: {},
};

/** What of a plan one person changes after another has: the same exactly while all of it is. White space round the words is nothing. */
export function planSign(plan: Series, { note, whole, facts }: Pick<Planning, 'note' | 'whole' | 'facts'>): string {
  return hashOf(canonical([plan, note?.trim() || null, whole, facts] as unknown as Json));
}

/** The facts of a circulation that is being planned: what was given, over what stands by itself. */
function factsPlanned(types: readonly FactType[], planning: Planning): CommandOf<'giveFacts'> {
  const declared = new Map(types.map(({ id, name }) => [id, name]));
  const given = Object.fromEntries(Object.entries(planning.facts).filter(([id]) => declared.has(id)));
  return { type: 'giveFacts', facts: factsWith(types, given), names: Object.fromEntries(declared) };
}

/** The state with what is prepared in it: how it would stand, for whoever looks. What was recorded since wins. */
export function prepared(state: Circulation, planning: Planning, types: readonly FactType[] = []): Circulation {
  const at = { at: state.last, actor: state.controller, onBehalfOf: null };
  const fields = planning.fields.filter(({ file }) => state.phase === 'new' || !state.fieldsOn.has(file));
  const events: CirculationEvent[] = fields.map((data) => ({ ...at, type: 'fields.put', data }));
  if (state.phase === 'new' && planning.plan)
    events.unshift({
      ...at,
      type: 'route.planned',
      data: { plan: planning.plan, note: state.note, whole: planning.whole },
    });
  if (state.phase === 'new' && types.length > 0) {
    const { facts, names } = factsPlanned(types, planning);
    events.push({ ...at, type: 'facts.given', data: { facts, names } });
  }
  // Hardly ever is anything prepared, and every command asks: nothing is copied then.
  return events.length > 0 ? (fold(events, state) ?? state) : state;
}

/** The commands by which what is prepared becomes recorded when the circulation is sent or ends; `note` stands for its words. */
export function recording(
  state: Circulation,
  planning: Planning,
  note: PayloadHash | null,
  types: readonly FactType[] = [],
): readonly (CommandOf<'plan'> | CommandOf<'putFields'> | CommandOf<'giveFacts'>)[] {
  const then = prepared(state, planning, types);
  const contents = new Map(newest(state)?.files.map((file) => [file.id, file.file]));
  const signs = (seat: string) => {
    const run = then.seats.get(seat);
    return run !== undefined && verbFacts[stagePlanOf(then, run).verb].signs;
  };
  const put = planning.fields
    .filter(({ file, content }) => contents.get(file) === content)
    .map((one) => ({ ...one, fields: one.fields.filter((field) => signs(field.seat)) }))
    .filter(({ fields }) => fields.length > 0);
  return [
    ...(planning.plan ? [{ type: 'plan' as const, plan: planning.plan, note, whole: planning.whole }] : []),
    ...(types.length > 0 ? [factsPlanned(types, planning)] : []),
    ...put.map((one) => ({ type: 'putFields' as const, ...one })),
  ];
}

/** What stays prepared once the rest was recorded: fields on content that is no longer there. Null when nothing does. */
export function leftOver(state: Circulation, planning: Planning): Planning | null {
  const fields = planning.fields.filter((one) => one.fields.length > 0 && !state.fieldsOn.has(one.file));
  return fields.length > 0 ? { ...nothingPlanned, fields } : null;
}

/**
 * What is prepared for a fresh circulation that begins from one that was withdrawn: its route under names of its own, its
 * words, values, times and fields; times that have passed are proposed anew. `name` gives each new name.
 */
export function afresh(state: Circulation, note: string | null, name: () => string, context: Context): Planning {
  const anew = (time: Time | null): Time | null =>
    time?.kind === 'instant' ? atInstant(proposedAnew(state, time.at, context)) : time;
  const timed = <T extends Whole>(of: T): T => {
    const [due, closes] = [anew(of.due), anew(of.closes)];
    // Two that have passed on one day are proposed for one moment, never the wrong way round.
    const first = closes && comesBefore(closes, due) ? due : closes;
    return { ...of, due, closes: first };
  };
  const plan = mapStages(renamed(state.plan, name), (stage) => ({ ...timed(stage), seats: stage.seats.map(timed) }));
  const files = [...new Set(state.fields.map(({ file }) => file))];
  return {
    plan,
    note,
    whole: timed(state.whole),
    // What has no value now was emptied, and stays so.
    facts: Object.fromEntries(Object.keys(state.factNames).map((id) => [id, state.facts[id] ?? null])),
    fields: files.map((file) => ({
      file,
      content: state.fieldsOn.get(file) ?? '',
      fields: fieldsRenamed(
        state.fields.filter((field) => field.file === file),
        state.plan,
        plan,
      ),
    })),
  };
}
