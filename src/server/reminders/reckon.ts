import { sendWrite, type Tx } from '../db/connect';

/** Lets notices to and about somebody be reckoned anew, and forecasts with them: when they work has changed. */
export function reckonAnew(tx: Tx, person: string | null): void {
  const { sql, organization } = tx;
  sendWrite(sql`
    update task set notice_at = null
    where organization = ${organization} and silence is not null
    ${person === null ? sql`` : sql`and (person = ${person} or notice_to = ${person})`}`);
  sendWrite(sql`
    update circulation c set forecast_at = null
    where organization = ${organization} and ended is null
    ${
      person === null
        ? sql``
        : sql`and exists (select 1 from forecast f
            where f.organization = c.organization and f.circulation = c.id and f.people @> array[${person}])`
    }`);
}
