import type { Tx } from '../db/connect';
import { coveredBy } from '../organization/absences';
import { waitingKeysOf } from '../organization/groups';
import { rulesOf } from '../organization/rules';

/**
 * The condition by which a query of tasks (`t`, with `c` and `r`) gives what waits for somebody: their own, what a group of
 * theirs could take and no rule keeps from them, and what whoever they cover for is asked. `own` where their own are all
 * there can be: then `t` alone is enough.
 */
export async function waitingFor(tx: Tx, me: string) {
  const { sql } = tx;
  const groups = await waitingKeysOf(tx, me);
  const authorApproves = (await rulesOf(tx)).includes('authorApproves');
  const covered = await coveredBy(tx, me, authorApproves);
  // Few tasks are a group's, and hardly anybody covers; for one key the index gives them in their order.
  if (groups.length === 0 && !covered) return { where: sql`t.person = ${me}`, own: true };
  // Who has responded there, or must not respond beside what they have, leaves it to the rest of their group.
  const ours = sql`t.person = any(${groups}) and not ${me} = any(t.kept)
    ${authorApproves ? sql`` : sql`and not (t.doing = 'approve' and c.author = ${me})`}`;
  const lent = covered ? sql`or (t.person = any(${covered.people}) and ${covered.where})` : sql``;
  return { where: sql`(t.person = ${me} or (${ours}) ${lent})`, own: false };
}
