import { may } from '@/core/access/may';
import { allowed, offers } from '@/core/circulation/acts/offers';
import { baseHolder } from '@/core/circulation/run/state';
import type { Assignee } from '@/core/route/route';
import type { Tx } from '../db/connect';
import { type TaskRow, taskColumns, taskTables } from '../desk/view';
import type { Member } from '../operations/operation';
import { refuse } from '../refused';
import { act } from './act';
import { contextOf } from './context';
import { circulationState } from './load';
import { visibleTo } from './visible';

const most = 500;

/** A task of somebody, and whether the actor can give it to another. */
interface HeldRow extends TaskRow {
  readonly steers: boolean;
}

/**
 * What waits for a person in circulations that the actor may see, late and soonest first. Who manages people is told how
 * many tasks there are in all, also those that they may not see: they are about to be left behind.
 */
export async function heldBy(tx: Tx, person: string, actor: Member): Promise<{ rows: HeldRow[]; all: number }> {
  const { sql, organization } = tx;
  const visible = await visibleTo(tx, actor);
  const rows = await sql<TaskRow[]>`
    ${taskColumns(tx)} ${taskTables(tx)}
    where t.organization = ${organization} and t.person = ${person}
    ${visible.where}
    order by t.due nulls last, t.since, t.key limit ${most}`;
  const held = rows.map((row): HeldRow => ({ ...row, steers: row.seat !== '' && row.controller === actor.person }));
  if (!may(actor, 'people.manage', { kind: 'organization' })) return { rows: held, all: held.length };
  const [count] = await sql<{ all: number }[]>`
    select count(*)::int as all from task where organization = ${organization} and person = ${person}`;
  return { rows: held, all: count?.all ?? 0 };
}

/**
 * Gives everything that waits for a person, in circulations that the actor controls, to somebody else: with the times as
 * they are, where they lie ahead. Gives how much went over, and what could not, because the other one counts there already.
 */
export async function reassignAll(
  tx: Tx,
  from: string,
  to: Assignee,
  actor: Member,
): Promise<{ reassigned: number; left: number }> {
  const { sql, organization } = tx;
  const rows = await sql<{ circulation: string }[]>`
    select distinct c.id as circulation from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    where t.organization = ${organization} and t.person = ${from} and c.controller = ${actor.person} and t.seat <> ''
    order by c.id`;
  let reassigned = 0;
  let left = 0;
  for (const { circulation } of rows) {
    const state = await circulationState(tx, circulation);
    if (!state) continue;
    const mine = allowed(offers(state, await contextOf(tx, state, actor.person, { named: [to.person] })));
    for (const { act: offered, on, needs } of mine) {
      const seat = offered === 'reassign' && on ? state.seats.get(on) : undefined;
      if (seat?.status !== 'asked' || baseHolder(seat)?.person !== from) continue;
      if (needs.not?.includes(to.person)) {
        left += 1;
        continue;
      }
      const due = seat.due !== null && seat.due > tx.now ? seat.due : null;
      await act(tx, circulation, { type: 'reassign', seat: seat.id, to, due, closes: null, note: null }, actor.person);
      reassigned += 1;
    }
  }
  if (reassigned === 0) refuse('nothing-held');
  return { reassigned, left };
}
