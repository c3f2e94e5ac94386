import { sendWrite, type Tx } from '../db/connect';

/** Lets notices to and about somebody be reckoned anew: when they work has changed. */
export function reckonAnew(tx: Tx, person: string | null): void {
  sendWrite(tx.sql`
    update task set notice_at = null
    where organization = ${tx.organization} and silence is not null
    ${person === null ? tx.sql`` : tx.sql`and (person = ${person} or notice_to = ${person})`}`);
}
