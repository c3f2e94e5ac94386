import type { CirculationEvent } from '@/core/circulation/run/events';
import { learn } from '@/core/forecast/fit';
import { type Forecast, type Tracking, tracked, untracked } from '@/core/forecast/forecast';
import type { Model } from '@/core/forecast/model';
import { type Past, pastOf, type Turn } from '@/core/forecast/past';
import { samplesOf } from '@/core/forecast/samples';
import type { Absence } from '@/core/people/cover';
import { type Verb, verbs } from '@/core/route/verbs';
import { axisOf, usualCalendar } from '@/core/time/calendar';
import { type Presence, presenceOf } from '@/core/time/presence';
import { inOrganization, sendWrite, type Tx } from '../db/connect';
import { circulationStream, eventsOf } from '../events/streams';
import { calendarsOf } from '../organization/calendars';
import { dayOf, type Moment } from './day';

/** How many circulations are read at a time, how many a model is fitted from, and for how long models are kept. */
const batch = 40;
const most = 4000;
const day = 86_400_000;
const remembered = 750 * day;
const modelsKept = 10 * day;

/**
 * Learns from what has ended: what each circulation teaches, whether forecasts came true, and once a day a new model of how
 * long things take. Gives how much there was to do.
 */
export async function learnFromEnded(organization: string, options: Moment = {}): Promise<number> {
  const read = await inOrganization(organization, readEnded, options);
  const moved = await inOrganization(organization, takeExperience, options);
  if (read + moved > 0) return read + moved;
  const material = await inOrganization(organization, gatherMaterial, options);
  if (!material) return 0;
  // Fitting takes a while and holds no transaction.
  const { samples, happened } = samplesOf(material.pasts, material.open, material.presence, material.now);
  const model = learn(samples, happened, material.now);
  await inOrganization(
    organization,
    async (tx) => {
      sendWrite(tx.sql`
      insert into forecast_model (organization, fitted, model)
      values (${organization}, ${material.now}, ${tx.sql.json(model as never)}) on conflict do nothing`);
      sendWrite(tx.sql`
      delete from forecast_model where organization = ${organization} and fitted < ${material.now - modelsKept}`);
      // What everybody is told follows the newest model.
      sendWrite(
        tx.sql`update circulation set forecast_at = null where organization = ${organization} and ended is null`,
      );
    },
    options,
  );
  return 1;
}

/** Reads circulations that have ended since. */
async function readEnded(tx: Tx): Promise<number> {
  const { sql, organization } = tx;
  const rows = await sql<{ id: string; ended: number }[]>`
    select c.id, c.ended from circulation c
    where c.organization = ${organization} and c.ended is not null and c.sent is not null
      and not exists (select 1 from lesson l where l.organization = c.organization and l.circulation = c.id)
    order by c.ended limit ${batch}`;
  for (const { id, ended } of rows) {
    const past = pastOf(await eventsOf<CirculationEvent>(tx, circulationStream(id)));
    sendWrite(sql`
      insert into lesson (organization, circulation, ended, past)
      values (${organization}, ${id}, ${ended}, ${sql.json(past as never)}) on conflict do nothing`);
  }
  return rows.length;
}

export async function trackingOf({ sql, organization }: Tx): Promise<Tracking> {
  const [row] = await sql<{ tracking: Tracking }[]>`
    select tracking from forecast_experience where organization = ${organization}`;
  return row?.tracking ?? untracked;
}

/** Lets the first forecast of each circulation count once it is known what became of it. */
async function takeExperience(tx: Tx): Promise<number> {
  const { sql, organization, now } = tx;
  const rows = await sql<
    { circulation: string; day: string; forecast: Forecast; ended: number | null; phase: string }[]
  >`
    select f.circulation, f.day, f.forecast, c.ended, c.phase from forecast f
    join circulation c on c.organization = f.organization and c.id = f.circulation
    where f.organization = ${organization} and f.awaited
      and (c.ended is not null or (f.forecast -> 'dates' ->> 2)::bigint < ${now})
    order by coalesce(c.ended, ${now}), f.circulation limit 200 for update of f skip locked`;
  if (rows.length === 0) return 0;
  let tracking = await trackingOf(tx);
  for (const { circulation, day, forecast, ended, phase } of rows) {
    // What was withdrawn says nothing of how long it would have taken.
    if (phase !== 'withdrawn') tracking = tracked(tracking, forecast.dates, ended, now) ?? tracking;
    sendWrite(sql`
      update forecast set awaited = false
      where organization = ${organization} and circulation = ${circulation} and day = ${day}`);
  }
  sendWrite(sql`
    insert into forecast_experience (organization, tracking) values (${organization}, ${sql.json(tracking as never)})
    on conflict (organization) do update set tracking = excluded.tracking`);
  return rows.length;
}

/** The newest model of an organization. */
export async function newestModel({ sql, organization }: Tx): Promise<Model | null> {
  const [row] = await sql<{ model: Model }[]>`
    select model from forecast_model where organization = ${organization} order by fitted desc limit 1`;
  return row?.model ?? null;
}

interface Material {
  readonly now: number;
  readonly pasts: readonly Past[];
  readonly open: readonly Turn[];
  readonly presence: (who: string) => Presence;
}

/** All that a new model is fitted from, where the newest is not of today; null where there is nothing to fit. */
async function gatherMaterial(tx: Tx): Promise<Material | null> {
  const { sql, organization, now } = tx;
  const [home] = await sql<{ zone: string }[]>`select zone from profile where organization = ${organization}`;
  const zone = home?.zone ?? 'UTC';
  const [newest] = await sql<{ fitted: number }[]>`
    select fitted from forecast_model where organization = ${organization} order by fitted desc limit 1`;
  if (newest && dayOf(newest.fitted, zone) >= dayOf(now, zone)) return null;
  const lessons = await sql<{ past: Past }[]>`
    select past from lesson where organization = ${organization} and ended > ${now - remembered}
    order by ended desc limit ${most}`;
  if (lessons.length === 0) return null;
  const pasts = lessons.map(({ past }) => past);
  const tasks = await sql<{ person: string; doing: Verb; since: number }[]>`
    select person, doing, greatest(since, coalesce(not_before, since)) as since from task
    where organization = ${organization} and doing = any(${[...verbs]})`;
  const open = tasks.flatMap(({ person, doing, since }): Turn[] =>
    since <= now ? [{ who: person, verb: doing, from: since, to: null, responded: false }] : [],
  );
  return { now, pasts, open, presence: await presences(tx, zone) };
}

/** When everybody works, without their absences; groups and whoever is not known keep the organization's calendar. */
async function presences(tx: Tx, zone: string): Promise<(who: string) => Presence> {
  const { sql, organization } = tx;
  const calendars = await calendarsOf(tx);
  const common = calendars.find(({ usual }) => usual) ?? usualCalendar;
  const people = await sql<{ id: string; zone: string; calendar: string | null }[]>`
    select id, zone, calendar from person where organization = ${organization}`;
  const away = await sql<Pick<Absence, 'person' | 'from' | 'to'>[]>`
    select person, starts as "from", ends as "to" from absence
    where organization = ${organization} and covers = '[]'::jsonb`;
  const known = new Map(people.map((person) => [person.id, person]));
  const made = new Map<string, Presence>();
  return (who) => {
    const found = made.get(who);
    if (found) return found;
    const person = known.get(who);
    const calendar = calendars.find(({ id }) => id === person?.calendar) ?? common;
    const own = away.filter((one) => one.person === who);
    const presence = presenceOf(axisOf(calendar, person?.zone ?? zone), own);
    made.set(who, presence);
    return presence;
  };
}
