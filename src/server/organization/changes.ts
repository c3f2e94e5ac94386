import type { OrganizationPart } from '@/core/people/events';
import { canonical, type Json } from '@/core/trail/canonical';
import { recordAdministration } from '../admin/administration';
import type { Tx } from '../db/connect';

/** Records what a unit, group, role, calendar or rule was before and is now; nothing when it stays as it is. */
export async function recordChange(
  tx: Tx,
  part: OrganizationPart,
  id: string,
  before: unknown,
  after: unknown,
  actor: string,
): Promise<void> {
  const said = (value: unknown) => JSON.parse(JSON.stringify(value ?? null)) as Json;
  const [was, is] = [said(before), said(after)];
  if (canonical(was) === canonical(is)) return;
  await recordAdministration(tx, { type: 'organization.changed', data: { part, id, before: was, after: is } }, actor);
}
