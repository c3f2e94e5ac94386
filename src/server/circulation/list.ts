import { visibilityOf } from '@/core/access/may';
import type { Phase } from '@/core/circulation/state';
import type { Tx } from '../db/connect';
import { cursorOf, keysIn, patternsOf } from '../lists';
import type { Member } from '../operations/operation';

const pageSize = 50;
const day = 86_400_000;

export interface CirculationRow {
  readonly id: string;
  readonly number: string;
  readonly phase: Phase;
  readonly round: number;
  readonly version: number;
  readonly stops: number;
  readonly seats: number;
  readonly decided: number;
  readonly holders: readonly string[];
  readonly nextDue: number | null;
  readonly sent: number | null;
  readonly ended: number | null;
  readonly last: number;
  readonly line: string;
  readonly controller: string;
  readonly author: string;
  readonly document: string;
  readonly title: string;
  readonly revision: string | null;
  readonly rank: number;
  readonly sort: number;
}

interface Asked {
  readonly state: 'live' | 'ended' | 'all';
  readonly filter: string;
  readonly after: string | null;
}

const stateWords = ['late', 'stopped'] as const;
type StateWord = (typeof stateWords)[number];

/** The states that a filter names, and its other words: somebody who types "late" means what is late. */
function statesIn(filter: string): { states: ReadonlySet<StateWord>; words: string } {
  const all = filter.toLowerCase().split(/\s+/);
  const isState = (word: string): word is StateWord => (stateWords as readonly string[]).includes(word);
  return { states: new Set(all.filter(isState)), words: all.filter((word) => !isState(word)).join(' ') };
}

/**
 * A page of the circulations an actor may see: what is stopped first, then by the next due time, what has ended last. The
 * first page counts them by what they need.
 */
export async function circulationPage(tx: Tx, input: Asked, actor: Member) {
  const { sql, organization, now } = tx;
  const visible = visibilityOf(actor, 'circulation.read');
  const { states, words } = statesIn(input.filter);
  const patterns = patternsOf(words);
  const from = sql`
    from circulation c join register r on r.organization = c.organization and r.record = c.record
    ${
      patterns.length === 0
        ? sql``
        : sql`
    left join person control on control.organization = c.organization and control.id = c.controller
    left join person writer on writer.organization = c.organization and writer.id = c.author
    left join lateral (
      select string_agg(p.name, ' ') as names from person p
      where p.organization = c.organization and p.id = any(c.holders)) waited on true`
    }`;
  const where = sql`
    where c.organization = ${organization}
    ${visible.kind === 'all' ? sql`` : sql`and exists (select 1 from involvement i where i.organization = c.organization and i.circulation = c.id and i.person = ${actor.person})`}
    ${input.state === 'live' ? sql`and c.rank < 2` : input.state === 'ended' ? sql`and c.rank = 2` : sql``}
    ${patterns.length === 0 ? sql`` : sql`and lower(concat_ws(' ', c.number, r.number, r.title, control.name, writer.name, waited.names)) like all (${patterns})`}
    ${states.has('stopped') ? sql`and c.rank = 0` : sql``}
    ${states.has('late') ? sql`and c.rank = 1 and c.next_due < ${now}` : sql``}`;
  const after = keysIn(input.after, ['number', 'number', 'string']);
  const rows = await sql<CirculationRow[]>`
    select c.id, c.number, c.phase, c.round, c.version, c.stops, c.seats, c.decided, c.holders, c.next_due, c.sent, c.ended,
           c.last, c.line, c.controller, c.author, r.number as document, r.title, coalesce(r.coming, r.revision) as revision,
           c.rank, c.sort
    ${from} ${where}
    ${after ? sql`and (c.rank, c.sort, c.id collate "C") > (${after[0]}, ${after[1]}, ${after[2]})` : sql``}
    order by c.rank, c.sort, c.id collate "C" limit ${pageSize + 1}`;
  const page = rows.slice(0, pageSize);
  const last = page[page.length - 1];
  const [counts] = after
    ? []
    : await sql<{ all: number; stopped: number; late: number; today: number }[]>`
        select count(*)::int as all,
               count(*) filter (where c.rank = 0)::int as stopped,
               count(*) filter (where c.rank = 1 and c.next_due < ${now})::int as late,
               count(*) filter (where c.rank = 1 and c.next_due >= ${now} and c.next_due < ${now + day})::int as today
        ${from} ${where}`;
  return {
    rows: page,
    next: rows.length > pageSize && last ? cursorOf(last.rank, last.sort, last.id) : null,
    counts: counts ?? null,
  };
}
