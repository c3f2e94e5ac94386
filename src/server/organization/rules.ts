import { notify, sendWrite, type Tx } from '../db/connect';
import { recordChange } from './changes';

/**
 * Rules that an administrator turns on and off: whether authors may approve their own documents, whether the lead of a unit
 * sees and steers the circulations of its documents, whether new stages ask the controller before a task is delegated,
 * whether a due time waits for the answer to a question.
 */
export const rules = ['authorApproves', 'leadsSteer', 'delegatingAgreed', 'questionsWait'] as const;
export type Rule = (typeof rules)[number];

export async function rulesOf({ sql, organization }: Tx): Promise<readonly Rule[]> {
  const [row] = await sql<{ rules: Rule[] }[]>`select rules from profile where organization = ${organization}`;
  return row?.rules ?? [];
}

/** What each rule concerns now, so that whoever turns it knows: circulations, and for leads how many of them there are. */
export async function reachOfRules({ sql, organization }: Tx): Promise<{
  readonly [R in Rule]: { readonly circulations: number; readonly people: number };
}> {
  const [row] = await sql<{ live: number; planned: number; led: number; leads: number }[]>`
    select count(distinct c.id)::int as live,
           count(distinct c.id) filter (where c.phase = 'new')::int as planned,
           count(distinct c.id) filter (where x.person is not null)::int as led,
           count(distinct x.person)::int as leads
    from circulation c
    left join record_unit u on u.organization = c.organization and u.record = c.record
    left join lateral (values (u.lead), (u.deputy)) x (person) on x.person is not null
    where c.organization = ${organization} and c.ended is null`;
  const { live = 0, planned = 0, led = 0, leads = 0 } = row ?? {};
  return {
    authorApproves: { circulations: live, people: 0 },
    leadsSteer: { circulations: led, people: leads },
    delegatingAgreed: { circulations: planned, people: 0 },
    questionsWait: { circulations: live, people: 0 },
  };
}

export async function setRule(tx: Tx, rule: Rule, on: boolean, actor: string): Promise<void> {
  const before = await rulesOf(tx);
  if (before.includes(rule) === on) return;
  const after = on ? [...before, rule] : before.filter((one) => one !== rule);
  sendWrite(tx.sql`update profile set rules = ${after} where organization = ${tx.organization}`);
  await recordChange(tx, 'rule', rule, !on, on, actor);
  notify(tx, 'settings');
}
