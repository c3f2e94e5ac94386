import type { Command } from '@/core/circulation/acts/commands';
import { allowed, offers } from '@/core/circulation/acts/offers';
import type { SeatRun } from '@/core/circulation/run/shapes';
import { baseHolder, dueOf, seenOf, stagePlanOf } from '@/core/circulation/run/state';
import { clockOf } from '@/core/circulation/run/times';
import { groupTasks } from '@/core/circulation/telling/tasks';
import { absenceAt } from '@/core/people/cover';
import type { Assignee } from '@/core/route/route';
import type { Verb } from '@/core/route/verbs';
import { after } from '@/core/time/due';
import type { Instant } from '@/core/time/instant';
import { needPeople } from '../admin/people';
import { act } from '../circulation/act';
import { steeredBy } from '../circulation/claims';
import { contextOf, withCalendars } from '../circulation/context';
import { circulationState } from '../circulation/load';
import type { Tx } from '../db/connect';
import type { Member } from '../operations/operation';
import { unitsOf } from '../organization/units';
import { Refused } from '../refused';

/** How many late tasks a chase list shows at most. */
const most = 300;

/** What can be done about one late task. */
export type ChaseAct = 'remind' | 'extend' | 'reassign';

/** One late task of somebody in a circulation that the reader controls, with the act that fits. */
export interface ChaseRow {
  readonly circulation: string;
  readonly seat: string;
  /** Whoever holds it, or `group:` and a group's id as long as none of its members has taken it. */
  readonly person: string;
  readonly doing: Verb;
  readonly number: string;
  readonly title: string;
  readonly since: Instant;
  readonly due: Instant;
  readonly reminded: readonly Instant[];
  readonly opened: Instant | null;
  /** Until when they are away, and whether somebody covers. */
  readonly away: { readonly until: Instant; readonly covered: boolean } | null;
  /** What may be done, the fitting one first. */
  readonly acts: readonly ChaseAct[];
  /** Until when it would be extended, and to whom it would be given. */
  readonly extendTo: Instant | null;
  readonly giveTo: string | null;
  readonly not: readonly string[];
}

/** Whoever is late, over all circulations that somebody controls, by person: longest late first. */
export async function chaseList(tx: Tx, me: string): Promise<ChaseRow[]> {
  const { sql, organization, now } = tx;
  const tasks = await sql<{ circulation: string; number: string; title: string }[]>`
    select distinct c.id as circulation, r.number, r.title from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record
    where t.organization = ${organization} and c.controller = ${me} and c.ended is null and t.seat <> '' and t.due < ${now}
      and t.person <> ${me}
    order by c.id limit ${most}`;
  const units = await unitsOf(tx);
  const places = new Map(
    (
      await sql<{ id: string; unit: string | null }[]>`
        select id, unit from person where organization = ${organization} and unit is not null and state = 'active'`
    ).map(({ id, unit }) => [id, unit]),
  );
  const rows: ChaseRow[] = [];
  for (const { circulation, number, title } of tasks) {
    const state = await circulationState(tx, circulation);
    if (!state) continue;
    const context = await withCalendars(tx, await contextOf(tx, state, me));
    const mine = allowed(offers(state, context));
    for (const seat of state.seats.values()) {
      const due = dueOf(state, seat);
      const holder = baseHolder(seat)?.person;
      const person = holder ?? (seat.group === null || seat.nobody ? undefined : groupTasks(seat.group));
      if (seat.gone || seat.status !== 'asked' || person === undefined || person === me) continue;
      if (due === null || due >= now || seat.since === null) continue;
      const can = (name: ChaseAct) => mine.find((offer) => offer.act === name && offer.on === seat.id);
      const absence = absenceAt(context.absences, person, now);
      const unit = units.find(({ id }) => id === places.get(person));
      const not = can('reassign')?.needs.not ?? [];
      const covers = absence?.covers.map(({ by }) => by) ?? [];
      const giveTo = [...covers, unit?.deputy, unit?.lead].find((one) => one && one !== person && !not.includes(one));
      const uncovered = absence !== null && covers.length === 0;
      const remindedLate = seat.reminded.filter((at) => at > due).length;
      // Somebody away cannot answer, and who was reminded twice since it is late has other reasons than forgetting.
      const first: ChaseAct = uncovered && giveTo ? 'reassign' : uncovered || remindedLate >= 2 ? 'extend' : 'remind';
      const acts = [first, ...(['remind', 'extend', 'reassign'] as const).filter((one) => one !== first)].filter(
        (one) => can(one) !== undefined,
      );
      rows.push({
        circulation,
        seat: seat.id,
        person,
        doing: stagePlanOf(state, seat).verb,
        number,
        title,
        since: seat.since,
        due,
        reminded: seat.reminded,
        opened: seenOf(state, seat)?.at ?? null,
        away: absence && { until: absence.to, covered: covers.length > 0 },
        acts,
        extendTo: after(now, { amount: 2, unit: 'workingDays' }, clockOf(context, holder ?? null)),
        giveTo: giveTo ?? null,
        not,
      });
    }
  }
  return rows.sort((a, b) => a.due - b.due);
}

/** One act of a chase, as it was chosen. */
export type Chased = { readonly circulation: string; readonly seat: string } & (
  | { readonly act: 'remind' }
  | { readonly act: 'extend'; readonly due: Instant }
  | { readonly act: 'reassign'; readonly to: Assignee; readonly due: Instant }
);

/**
 * Does everything that was chosen at once: what cannot be done any more is told and keeps nothing else from being done.
 * Messages to one person come in one.
 */
export async function chase(
  tx: Tx,
  all: readonly Chased[],
  actor: Member,
): Promise<{ readonly circulation: string; readonly seat: string; readonly refused: string | null }[]> {
  await needPeople(
    tx,
    all.flatMap((one) => (one.act === 'reassign' ? [one.to] : [])),
  );
  const results = [];
  for (const chosen of all) {
    const { circulation, seat } = chosen;
    try {
      const state = await steeredBy(tx, circulation, actor);
      await act(tx, circulation, commandOf(state.seats.get(seat), chosen), actor.person, { gather: true });
      results.push({ circulation, seat, refused: null });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      results.push({ circulation, seat, refused: error.message });
    }
  }
  return results;
}

function commandOf(run: SeatRun | undefined, chosen: Chased): Command {
  const { seat } = chosen;
  if (chosen.act === 'remind') return { type: 'remind', seat };
  const { due } = chosen;
  if (chosen.act === 'reassign') return { type: 'reassign', seat, to: chosen.to, due, closes: null, note: null };
  // A closing time stays, unless the new due time lies behind it.
  return { type: 'extend', seat, due, closes: run?.closes == null ? null : Math.max(run.closes, due) };
}
