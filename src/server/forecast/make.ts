import type { CirculationEvent } from '@/core/circulation/run/events';
import { system } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import type { Circulation } from '@/core/circulation/run/state';
import { type Basis, type Shift, shiftsOf } from '@/core/forecast/causes';
import { courseOf } from '@/core/forecast/compile';
import { type Forecast, forecastOf, type Tracking } from '@/core/forecast/forecast';
import { leastHistory, type Model } from '@/core/forecast/model';
import type { Absence } from '@/core/people/cover';
import { verbs } from '@/core/route/verbs';
import { contextOf, withCalendars } from '../circulation/context';
import { inOrganization, notify, sendWrite, type Tx } from '../db/connect';
import { circulationStream, eventsOf } from '../events/streams';
import { log } from '../log';
import { dayBegan, dayOf, type Moment } from './day';
import { newestModel, trackingOf } from './learn';

/** How often each circulation is played. The figures of one day and the next use as many, so that they share their draws. */
const runs = 4000;
const batch = 20;

/** What a forecast was made from, as far as the events do not say it. */
interface KeptBasis {
  readonly now: number;
  readonly events: number;
  readonly fitted: number;
  readonly tracking: Tracking;
  readonly absences: readonly Absence[];
  readonly open: readonly (readonly [string, number])[];
}

/** What a date has become since another day, and by what. */
export interface KeptShift {
  readonly since: number;
  readonly from: number;
  readonly to: number;
  readonly shifts: readonly Shift[];
}

/** Forecasts what has moved since its last forecast, and everything once a day. Gives how many there were. */
export async function forecastDue(organization: string, options: Moment = {}): Promise<number> {
  const due = await inOrganization(
    organization,
    async (tx) => {
      const [home] = await tx.sql<{ zone: string }[]>`select zone from profile where organization = ${organization}`;
      const today = dayBegan(tx.now, home?.zone ?? 'UTC');
      return tx.sql<{ id: string }[]>`
      select id from circulation
      where organization = ${organization} and ended is null and (forecast_at is null or forecast_at < ${today})
      order by forecast_at nulls first, id limit ${batch}`;
    },
    options,
  );
  for (const { id } of due)
    await forecastOne(organization, id, options).catch(async (error) => {
      // One that cannot be forecast keeps no other from it; it is tried again with its next happening, or tomorrow.
      log.error({ circulation: id, error: error instanceof Error ? error.stack : String(error) }, 'a forecast failed');
      await inOrganization(organization, async (tx) => noteLooked(tx, id), options);
    });
  return due.length;
}

async function forecastOne(organization: string, id: string, options: Moment): Promise<void> {
  const material = await inOrganization(organization, (tx) => gather(tx, id), options);
  if (!material) return;
  const { basis, events, former, zone } = material;
  const { now } = basis.context;
  // Playing it takes a while and holds no transaction.
  const { course, home } = courseOf(basis.state, basis);
  const reading = { now, due: basis.state.due, tracking: basis.tracking, home, runs };
  const forecast = forecastOf(course, reading);
  const shift: KeptShift | null = former && {
    since: former.context.now,
    ...shiftsOf(former, events.slice(former.events), basis, runs),
  };
  const made = { forecast, shift, day: dayOf(now, zone), told: options.at === undefined };
  await inOrganization(organization, (tx) => keep(tx, id, material, made), options);
}

interface Material {
  readonly zone: string;
  readonly basis: Basis;
  readonly events: readonly CirculationEvent[];
  readonly former: (Basis & { readonly events: number }) | null;
}

/** Everything that a forecast is made from; null where there is none to be made, which is noted. */
async function gather(tx: Tx, id: string): Promise<Material | null> {
  const { sql, organization, now } = tx;
  // What is told of an earlier moment, as the demonstration does, knows nothing of what came after it.
  const events = (await eventsOf<CirculationEvent>(tx, circulationStream(id))).filter(({ at }) => at <= now);
  const state = fold(events);
  const model = await newestModel(tx);
  const open = state?.sent != null && state.ended === null && state.paused === null && state.closed === null;
  if (!state || !model || model.n < leastHistory || !open) {
    noteLooked(tx, id);
    return null;
  }
  const context = await withCalendars(tx, await contextOf(tx, state, system));
  const people = [...context.people.keys()];
  const groups = [...context.groups.keys()].map((group) => `group:${group}`);
  const counts = await sql<{ person: string; open: number }[]>`
    select person, count(*)::int as open from task
    where organization = ${organization} and person = any(${[...people, ...groups]}) and doing = any(${[...verbs]})
    group by person`;
  const tracking = await trackingOf(tx);
  const zone = context.home.zone;
  const basis: Basis = {
    state,
    context,
    model,
    open: new Map(counts.map(({ person, open: count }) => [person, count])),
    tracking,
  };
  return { zone, basis, events, former: await formerOf(tx, id, basis, events, dayOf(now, zone)) };
}

/** What the last forecast of an earlier day was made from. */
async function formerOf(tx: Tx, id: string, basis: Basis, events: readonly CirculationEvent[], today: string) {
  const [row] = await tx.sql<{ basis: KeptBasis; model: Model }[]>`
    select f.basis, m.model from forecast f
    join forecast_model m on m.organization = f.organization and m.fitted = (f.basis ->> 'fitted')::bigint
    where f.organization = ${tx.organization} and f.circulation = ${id} and f.day < ${today}
    order by f.day desc limit 1`;
  const then = row && (fold(events.slice(0, row.basis.events)) as Circulation | null);
  if (!row || !then) return null;
  const { now, absences, open, tracking } = row.basis;
  return {
    state: then,
    context: { ...basis.context, now, absences },
    model: row.model,
    open: new Map(open),
    tracking,
    events: row.basis.events,
  };
}

function noteLooked({ sql, organization, now }: Tx, id: string): void {
  sendWrite(sql`update circulation set forecast_at = ${now} where organization = ${organization} and id = ${id}`);
}

/** Keeps a forecast, unless something has happened since it was begun; tells of it where it says something new. */
async function keep(
  tx: Tx,
  id: string,
  { basis, events }: Material,
  made: {
    readonly forecast: Forecast;
    readonly shift: KeptShift | null;
    readonly day: string;
    /** Whether it is of now: then what has happened since makes it void. */
    readonly told: boolean;
  },
): Promise<void> {
  const { forecast, shift, day } = made;
  const { sql, organization } = tx;
  const [there] = await sql<{ last: number; forecastAt: number | null }[]>`
    select last, forecast_at from circulation where organization = ${organization} and id = ${id} for update`;
  if (!there || (made.told && there.last !== basis.state.last)) return;
  const [before] = await sql<{ day: string; forecast: Forecast }[]>`
    select day, forecast from forecast where organization = ${organization} and circulation = ${id}
    order by day desc limit 1`;
  const kept: KeptBasis = {
    now: basis.context.now,
    events: events.length,
    fitted: basis.model.fitted,
    tracking: basis.tracking,
    absences: basis.context.absences,
    open: [...basis.open],
  };
  sendWrite(sql`
    insert into forecast (organization, circulation, day, at, forecast, basis, shift, people, awaited)
    values (${organization}, ${id}, ${day}, ${forecast.at}, ${sql.json(forecast as never)}, ${sql.json(kept as never)},
      ${shift ? sql.json(shift as never) : null}, ${[...basis.context.people.keys()]}, ${!before})
    on conflict (organization, circulation, day) do update
    set at = excluded.at, forecast = excluded.forecast, basis = excluded.basis, shift = excluded.shift,
      people = excluded.people`);
  // Only yesterday and the first are asked for again.
  sendWrite(sql`
    delete from forecast where organization = ${organization} and circulation = ${id} and not awaited
      and day < (select max(day) from forecast where organization = ${organization} and circulation = ${id} and day < ${day})`);
  noteLooked(tx, id);
  const told = ({ dates, decides, chance, unreliable }: Forecast) =>
    JSON.stringify([dates, decides, chance, unreliable]);
  if (!before || told(before.forecast) !== told(forecast)) notify(tx, 'circulation', id);
}
