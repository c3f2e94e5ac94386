import type { Command, Create } from '@/core/circulation/commands';
import { decide } from '@/core/circulation/decide';
import type { CirculationEvent } from '@/core/circulation/events';
import { type Refusal, refusal } from '@/core/circulation/refusal';
import type { Circulation } from '@/core/circulation/state';
import { personNamed } from '../admin/people';
import { notify, type Tx } from '../db/connect';
import { append } from '../events/streams';
import { Refused } from '../refused';
import { contextOf } from './context';
import { readCirculation } from './load';
import { sendOut } from './outbox';
import { project, rowsOf } from './project';

export interface Acted {
  readonly state: Circulation;
  readonly events: readonly CirculationEvent[];
}

/** Refusals that say no more than that things already stand as they were wanted. */
const asWanted: ReadonlySet<string> = new Set(['no-effect']);

/**
 * Puts one command to a circulation: reads its state, decides, appends, writes the read tables, leaves what follows to
 * the outbox, and tells everybody whom it concerns. Throws Refused with the engine's sentence when it is refused; a
 * command that would change nothing is answered as done.
 */
export async function act(tx: Tx, id: string, command: Command | Create, actor: string): Promise<Acted> {
  const stream = await readCirculation(tx, id);
  const before = stream.state;
  const context = await contextOf(tx, before, actor, namedIn(command));
  const decided = decide(before, command, context);
  if (!decided.ok) {
    if (before && asWanted.has(decided.refusal.code)) return { state: before, events: [] };
    throw await forPerson(tx, decided.refusal);
  }
  if (decided.events.length === 0) return decided;
  append(tx, stream, decided.events, decided.state);
  const rows = rowsOf(id, decided.state);
  const former = before && rowsOf(id, before);
  project(tx, former, rows);
  sendOut(tx, id, before, decided);
  notify(
    tx,
    'circulation',
    id,
    (former?.involved ?? []).filter((person) => !rows.involved.includes(person)),
  );
  return decided;
}

/** The people a command names. */
function namedIn(command: Command | Create): string[] {
  if (command.type === 'reassign') return [command.to.person];
  if (command.type === 'delegate') return [command.to];
  return command.type === 'addSecondHolder' ? [command.person] : [];
}

/** A refusal with people and outcomes as a reader knows them; the engine knows only ids. */
async function forPerson(tx: Tx, { code, sentence, facts }: Refusal): Promise<Refused> {
  if (code !== 'already-decided') return new Refused(code, sentence, facts);
  const person = await personNamed(tx, String(facts.by));
  const named = refusal(code, {
    by: person?.name ?? 'somebody else',
    outcome: String(facts.outcome).replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`),
  });
  return new Refused(code, named.sentence, named.facts);
}
