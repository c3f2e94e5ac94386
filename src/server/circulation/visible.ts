import { visibilityOf } from '@/core/access/may';
import type { Tx } from '../db/connect';
import type { Member } from '../operations/operation';
import { coveredBy } from '../organization/absences';
import { taskKeysOf } from '../organization/groups';
import { rulesOf } from '../organization/rules';

/**
 * The condition by which a list shows only circulations (as `c`) that somebody may see: all of them, or those that concern
 * them, a group of theirs or somebody whom they cover, and by rule those of the documents of a unit that they lead.
 */
export async function visibleTo(tx: Tx, actor: Member) {
  const { sql } = tx;
  if (visibilityOf(actor, 'circulation.read').kind === 'all') return { where: sql`` };
  const keys = await taskKeysOf(tx, actor.person);
  const rules = await rulesOf(tx);
  const covered = await coveredBy(tx, actor.person, rules.includes('authorApproves'));
  const own = sql`exists (
    select 1 from involvement i where i.organization = c.organization and i.stream = c.stream and i.person = any(${keys}))`;
  // What waits for somebody whom one covers concerns one for that long.
  const involved = covered
    ? sql`(${own} or exists (
        select 1 from task t join register r on r.organization = c.organization and r.record = c.record
        where t.organization = c.organization and t.stream = c.stream and ${covered.where}))`
    : own;
  if (!rules.includes('leadsSteer')) return { where: sql`and ${involved}` };
  // A fragment by itself would be sent by whoever awaits it.
  const led = sql`and (${involved} or exists (
    select 1 from record_unit u
    where u.organization = c.organization and u.record = c.record and ${actor.person} in (u.lead, u.deputy)))`;
  return { where: led };
}
