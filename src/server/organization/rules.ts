import { notify, sendWrite, type Tx } from '../db/connect';
import { recordChange } from './changes';

/**
 * Rules that an administrator turns on and off: whether authors may approve their own documents, whether the lead of a unit
 * sees and steers the circulations of its documents, whether new stages ask the controller before a task is delegated.
 */
export const rules = ['authorApproves', 'leadsSteer', 'delegatingAgreed'] as const;
export type Rule = (typeof rules)[number];

export async function rulesOf({ sql, organization }: Tx): Promise<readonly Rule[]> {
  const [row] = await sql<{ rules: Rule[] }[]>`select rules from profile where organization = ${organization}`;
  return row?.rules ?? [];
}

export async function setRule(tx: Tx, rule: Rule, on: boolean, actor: string): Promise<void> {
  const before = await rulesOf(tx);
  if (before.includes(rule) === on) return;
  const after = on ? [...before, rule] : before.filter((one) => one !== rule);
  sendWrite(tx.sql`update profile set rules = ${after} where organization = ${tx.organization}`);
  await recordChange(tx, 'rule', rule, !on, on, actor);
  notify(tx, 'settings');
}
