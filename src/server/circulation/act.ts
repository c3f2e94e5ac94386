import type { Command, Create } from '@/core/circulation/acts/commands';
import { decide } from '@/core/circulation/acts/decide';
import { leftOver, nothingPlanned, prepared, recording } from '@/core/circulation/plan/planning';
import type { CirculationEvent } from '@/core/circulation/run/events';
import type { Circulation } from '@/core/circulation/run/state';
import { partsChanged } from '@/core/circulation/telling/parts';
import { type Refusal, refusal } from '@/core/refusals';
import { personNamed } from '../admin/people';
import { notify, type Tx } from '../db/connect';
import { putPayloadIfAny } from '../events/payloads';
import { append } from '../events/streams';
import { Refused } from '../refused';
import { contextOf, factTypesOf } from './context';
import { readCirculation } from './load';
import { sendOut } from './outbox';
import { holdPlanning, keepPlanning } from './planning';
import { project, rowsOf } from './project';

export interface Acted {
  readonly state: Circulation;
  readonly events: readonly CirculationEvent[];
}

/**
 * Whether a refusal says no more than that things already stand as they were wanted: also that a page that was opened, and
 * decided on faster than it could tell so, had been seen, whatever has followed from the decision since.
 */
function isAsWanted(command: Command | Create, { code }: Refusal, before: Circulation): boolean {
  if (code === 'no-effect') return true;
  return command.type === 'see' && before.seats.get(command.seat)?.status === 'decided';
}

/** The acts before which a circulation's working copy is recorded: it is sent with it, or ends with it. */
const recordsPlanning: ReadonlySet<string> = new Set(['send', 'withdraw']);

/**
 * Puts one command to a circulation: reads its state, decides, appends, writes the read tables, leaves what follows to
 * the outbox, and tells everybody whom it concerns. Throws Refused with the engine's sentence when it is refused; a
 * command that would change nothing is answered as done.
 */
export async function act(
  tx: Tx,
  id: string,
  command: Command | Create,
  actor: string,
  /** Whether messages to one person go out in one with those of other acts. */
  { gather = false }: { readonly gather?: boolean } = {},
): Promise<Acted> {
  const stream = await readCirculation(tx, id);
  const before = stream.state;
  // What was prepared before sending becomes recorded with the act that it was prepared for.
  const planning = before?.phase === 'new' ? await holdPlanning(tx, id) : nothingPlanned;
  const records = before !== null && planning !== nothingPlanned && recordsPlanning.has(command.type);
  const types = before && planning !== nothingPlanned ? await factTypesOf(tx, before) : [];
  const then = before && prepared(before, planning, types);
  const amended = command.type === 'amend' ? command.plan : null;
  const context = await contextOf(tx, records ? then : before, actor, {
    named: namedIn(command),
    amended,
    circulation: id,
  });
  const first = records ? recording(before, planning, putPayloadIfAny(tx, planning.note), types) : [];
  let decided: Acted = { state: before as Circulation, events: [] };
  for (const one of [...first, command]) {
    const next = decide(decided.state, one, context);
    if (!next.ok && before && isAsWanted(one, next.refusal, before)) continue;
    if (!next.ok) throw await forPerson(tx, next.refusal);
    decided = { state: next.state, events: [...decided.events, ...next.events] };
  }
  if (decided.events.length === 0) return decided;
  append(tx, stream, decided.events, decided.state);
  const left = records ? (command.type === 'withdraw' ? null : leftOver(decided.state, planning)) : planning;
  if (records) keepPlanning(tx, id, left);
  const rows = rowsOf(id, prepared(decided.state, left ?? nothingPlanned));
  const former = then && rowsOf(id, then);
  project(tx, former, rows);
  sendOut(tx, id, before, decided, context, gather);
  notify(
    tx,
    'circulation',
    id,
    (former?.involved ?? []).filter((person) => !rows.involved.includes(person)),
    partsChanged(decided.events),
  );
  return decided;
}

/** The people a command names. */
function namedIn(command: Command | Create): string[] {
  if (command.type === 'reassign') return [command.to.person];
  if (command.type === 'giveNotice') return [command.person];
  if ('to' in command) return [command.to];
  return command.type === 'addSecondHolder' ? [command.person] : [];
}

/** A refusal with people and outcomes as a reader knows them; the engine knows only ids. */
async function forPerson(tx: Tx, refused: Refusal): Promise<Refused> {
  const { code, facts } = refused;
  if (code !== 'already-decided') return new Refused(refused);
  const person = await personNamed(tx, String(facts.by));
  const named = {
    by: person?.name ?? 'somebody else',
    outcome: String(facts.outcome).replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`),
  };
  return new Refused(refusal(code, named));
}
