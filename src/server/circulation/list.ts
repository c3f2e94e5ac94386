import type { Phase } from '@/core/circulation/run/state';
import { unreachable } from '@/core/unreachable';
import type { Tx } from '../db/connect';
import { finding, nearby, nearbyCounted } from '../finding';
import { cursorOf, keysIn, mostCounted, tomorrow } from '../lists';
import type { Member } from '../operations/operation';
import { visibleTo } from './visible';

const pageSize = 50;

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
  /** What the reader has noted of it for themselves, and when they want to come back to it. */
  readonly note: string;
  readonly back: number | null;
}

export const circulationOrders = ['need', 'number', 'title', 'with', 'due', 'activity'] as const;
export type CirculationOrder = (typeof circulationOrders)[number];

/** Behind everything that has a due time. */
const never = 8_640_000_000_000_000;

/** The two keys of each order, a number and a text or number; the id comes third. */
function orderOf({ sql }: Tx, order: CirculationOrder) {
  switch (order) {
    case 'need':
      return { keys: [sql`c.rank`, sql`c.sort`], kinds: ['number', 'number', 'string'] } as const;
    case 'number':
      return {
        keys: [sql`length(c.number)`, sql`c.number collate "C"`],
        kinds: ['number', 'string', 'string'],
      } as const;
    case 'title':
      return {
        keys: [sql`length('')`, sql`lower(r.title) collate "C"`],
        kinds: ['number', 'string', 'string'],
      } as const;
    case 'with':
      return {
        keys: [
          sql`(cardinality(c.holders) = 0)::int`,
          sql`coalesce((select lower(p.name) from person p where p.organization = c.organization and p.id = c.holders[1]), '') collate "C"`,
        ],
        kinds: ['number', 'string', 'string'],
      } as const;
    case 'due':
      return {
        keys: [sql`coalesce(c.next_due, ${never})`, sql`c.sort`],
        kinds: ['number', 'number', 'string'],
      } as const;
    case 'activity':
      return { keys: [sql`-c.last`, sql`c.sort`], kinds: ['number', 'number', 'string'] } as const;
    default:
      return unreachable(order, 'order');
  }
}

interface Asked {
  readonly order: CirculationOrder;
  readonly state: 'live' | 'ended' | 'all';
  readonly filter: string;
  /** Whom they wait for now; of which type; whether only what is late. */
  readonly holder: string | null;
  readonly documentType: string | null;
  readonly late: boolean;
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

/** What the whole of a list that fits on one page is counted as, by what most needs somebody. */
function countsOf(page: readonly CirculationRow[], now: number, tomorrow: number) {
  const due = page.flatMap(({ rank, nextDue }) => (rank === 1 && nextDue !== null ? nextDue : []));
  return {
    all: page.length,
    stopped: page.filter(({ rank }) => rank === 0).length,
    late: due.filter((at) => at < now).length,
    today: due.filter((at) => at >= now && at < tomorrow).length,
  };
}

/**
 * A page of the circulations an actor may see: by what they need (what is stopped first, then by the next due time, what
 * has ended last), or in the order of a column. The first page counts them by what they need.
 */
export async function circulationPage(tx: Tx, input: Asked, actor: Member) {
  const { sql, organization, now } = tx;
  const visible = await visibleTo(tx, actor);
  const byNeed = sql`order by c.rank, c.sort, c.id collate "C"`;
  const { states, words } = statesIn(input.filter);
  const from = (circulations: typeof byNeed) => sql`
    from ${circulations} c join register r on r.organization = c.organization and r.record = c.record`;
  const where = sql`
    where c.organization = ${organization}
    ${visible.where}
    ${input.state === 'live' ? sql`and c.rank < 2` : input.state === 'ended' ? sql`and c.rank = 2` : sql``}
    ${states.has('stopped') ? sql`and c.rank = 0` : sql``}
    ${input.holder === null ? sql`` : sql`and ${input.holder} = any(c.holders)`}
    ${input.documentType === null ? sql`` : sql`and r.document_type = ${input.documentType}`}
    ${states.has('late') || input.late ? sql`and c.rank = 1 and c.next_due < ${now}` : sql``}`;
  const { keys, kinds } = orderOf(tx, input.order);
  const [first, second] = keys;
  const after = keysIn(input.after, kinds);
  const behind = after
    ? sql`and (${first}, ${second}, c.id collate "C") > (${after[0]}, ${after[1]}, ${after[2]})`
    : sql``;
  const order = sql`order by ${first}, ${second}, c.id collate "C"`;
  const { fitting } = finding(
    tx,
    'circulation',
    words,
    (circulations) => sql`${from(circulations)} ${where} ${behind}`,
  );
  const rows = await fitting(
    (circulations) => sql<(CirculationRow & { keyOne: number; keyTwo: number | string })[]>`
      select c.id, c.number, c.phase, c.round, c.version, c.stops, c.seats, c.decided, c.holders, c.next_due, c.sent,
             c.ended, c.last, c.line, c.controller, c.author, r.number as document, r.title,
             coalesce(r.coming, r.revision) as revision, c.rank, c.sort, coalesce(n.text, '') as note, n.back,
             ${first} as key_one, ${second} as key_two
      ${from(circulations)}
      left join own_note n on n.organization = c.organization and n.circulation = c.id and n.person = ${actor.person}
      ${where} ${behind} ${order} limit ${pageSize + 1}`,
    { order, most: nearby, enough: (got) => got.length > pageSize },
  );
  const last = rows[Math.min(rows.length, pageSize) - 1];
  const page = rows.slice(0, pageSize).map(({ keyOne: _one, keyTwo: _two, ...row }): CirculationRow => row);
  const counted = async () => {
    const bound = await tomorrow(tx, actor.person);
    if (rows.length <= pageSize) return countsOf(page, now, bound);
    const [counts] = await fitting(
      (circulations) => sql<{ all: number; stopped: number; late: number; today: number }[]>`
        select count(*)::int as all,
               count(*) filter (where rank = 0)::int as stopped,
               count(*) filter (where rank = 1 and next_due < ${now})::int as late,
               count(*) filter (where rank = 1 and next_due >= ${now} and next_due < ${bound})::int as today
        from (select c.rank, c.next_due ${from(circulations)} ${where} ${byNeed} limit ${mostCounted}) counted`,
      { order: byNeed, most: nearbyCounted, enough: ([got]) => got?.all === mostCounted },
    );
    return counts ?? null;
  };
  return {
    rows: page,
    next: rows.length > pageSize && last ? cursorOf(last.keyOne, last.keyTwo, last.id) : null,
    counts: after ? null : await counted(),
  };
}
