import { visibleTo } from '../circulation/visible';
import { notify, sendWrite, type Tx } from '../db/connect';
import type { Member } from '../operations/operation';

/** What somebody has noted of a circulation for themselves, and when they want to come back to it. */
interface OwnNote {
  readonly text: string;
  readonly back: number | null;
}

/** A circulation that somebody wanted to come back to by now. */
export interface BackRow extends OwnNote {
  readonly circulation: string;
  readonly number: string;
  readonly title: string;
}

/** Somebody's own note of a circulation; empty where they have none. */
export async function ownNote({ sql, organization }: Tx, circulation: string, person: string): Promise<OwnNote> {
  const [row] = await sql<OwnNote[]>`
    select text, back from own_note
    where organization = ${organization} and person = ${person} and circulation = ${circulation}`;
  return row ?? { text: '', back: null };
}

/** Keeps somebody's own note of a circulation; one that says nothing is none. Nobody else sees it. */
export function keepOwnNote(tx: Tx, circulation: string, person: string, { text, back }: OwnNote): void {
  const { sql, organization } = tx;
  sendWrite(
    text === '' && back === null
      ? sql`delete from own_note
          where organization = ${organization} and person = ${person} and circulation = ${circulation}`
      : sql`insert into own_note (organization, person, circulation, text, back)
          values (${organization}, ${person}, ${circulation}, ${text}, ${back})
          on conflict (organization, person, circulation) do update set text = excluded.text, back = excluded.back`,
  );
  notify(tx, 'told', person, [person]);
}

/** The circulations that somebody wanted to come back to by now and may still see, the longest waited for first. */
export async function backNow(tx: Tx, actor: Member): Promise<BackRow[]> {
  const { sql, organization, now } = tx;
  const visible = await visibleTo(tx, actor);
  const rows = await sql<BackRow[]>`
    select n.circulation, n.text, n.back, r.number, r.title from own_note n
    join circulation c on c.organization = n.organization and c.id = n.circulation
    join register r on r.organization = c.organization and r.record = c.record
    where n.organization = ${organization} and n.person = ${actor.person} and n.back <= ${now} ${visible.where}
    order by n.back, n.circulation limit 50`;
  return [...rows];
}
