import { type Absence, absenceFault, type Cover, coverCircle, workCoveredBy } from '@/core/people/cover';
import { verbs } from '@/core/route/verbs';
import { alike } from '@/core/trail/canonical';
import { personNamed } from '../admin/people';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { enqueue } from '../jobs/queue';
import { refuse } from '../refused';
import { reckonAnew } from '../reminders/reckon';
import { recordChange } from './changes';
import { circulationsWaiting, needMembers } from './groups';
import { rulesOf } from './rules';

interface Row {
  readonly id: string;
  readonly person: string;
  readonly starts: number;
  readonly ends: number;
  readonly covers: readonly Cover[];
}

const absenceRows = table<Row>('absence', {
  id: 'value',
  person: 'value',
  starts: 'value',
  ends: 'value',
  covers: 'json',
});

const absenceOf = ({ id, person, starts, ends, covers }: Row): Absence => ({
  id,
  person,
  from: starts,
  to: ends,
  covers,
});

/** For how long an absence matters that has ended: tasks taken before it went back to their groups. In milliseconds. */
export const absenceMatters = 31 * 86_400_000;

/** The absences of people that run, will run, or ended lately. */
export async function absencesOf(tx: Tx, people: readonly string[]): Promise<Absence[]> {
  const { sql, organization, now } = tx;
  if (people.length === 0) return [];
  const rows = await sql<Row[]>`
    select ${absenceRows.list(tx, 'a')} from absence a
    where organization = ${organization} and person = any(${people as string[]}) and ends > ${now - absenceMatters}
    order by starts, id`;
  return rows.map(absenceOf);
}

const running = new WeakMap<Tx, Promise<readonly Absence[]>>();

/** Every absence that runs now and for which somebody covers; asked once in a transaction. */
export function coveredNow(tx: Tx): Promise<readonly Absence[]> {
  const found = running.get(tx);
  if (found) return found;
  const { sql, organization, now } = tx;
  const asked = sql<Row[]>`
    select ${absenceRows.list(tx, 'a')} from absence a
    where organization = ${organization} and ends > ${now} and starts <= ${now} and covers <> '[]'
    order by starts, id`.then((rows) => rows.map(absenceOf));
  running.set(tx, asked);
  return asked;
}

/** Who is away today or later, soonest first. */
export async function absencesAhead(tx: Tx): Promise<Absence[]> {
  const { sql, organization, now } = tx;
  const rows = await sql<Row[]>`
    select ${absenceRows.list(tx, 'a')} from absence a
    where organization = ${organization} and ends > ${now} order by starts, id limit 2000`;
  return rows.map(absenceOf);
}

/** An absence by its id. */
export async function absenceNamed(tx: Tx, id: string): Promise<Absence | null> {
  const { sql, organization } = tx;
  const [row] = await sql<Row[]>`
    select ${absenceRows.list(tx, 'a')} from absence a where organization = ${organization} and id = ${id}`;
  return row ? absenceOf(row) : null;
}

/**
 * Says when somebody is away and who covers for them. Cover never begins before it is set, so that nobody is ever found to
 * have acted for another without their knowing.
 */
export async function saveAbsence(tx: Tx, given: Absence, actor: string): Promise<void> {
  const { sql, now } = tx;
  const before = await absenceNamed(tx, given.id);
  if (before && (before.person !== given.person || before.from <= now)) refuse('absence-begun');
  const absence = { ...given, from: Math.max(given.from, now) };
  const { id, person, from, to, covers } = absence;
  await needMembers(tx, [person, ...covers.map(({ by }) => by)]);
  const others = await absencesOf(tx, [person]);
  const fault = absenceFault(absence, others, now);
  if (fault) refuse(fault);
  await refuseCircle(tx, absence);
  const row = { starts: from, ends: to, covers };
  sendWrite(sql`
    ${absenceRows.insert(tx, [{ id, person, ...row }])}
    on conflict (organization, id) do update set ${absenceRows.set(tx, row)}, told = false`);
  await recordChange(tx, 'absence', id, before, absence, actor);
  enqueue(tx, 'absence', { absence: id }, from);
  tellOfCover(tx, before, absence, actor);
  if (actor !== person) enqueue(tx, 'mail', { template: 'awaySet', person, absence: id, by: actor });
  reckonAnew(tx, person);
  tellOfAbsence(tx);
}

/** The people who cover, each once, whatever they cover. */
const whoCovers = (covers: readonly Cover[]): ReadonlySet<string> => new Set(covers.map(({ by }) => by));

/** Tells ahead whoever will cover otherwise than they were told, and whoever no longer will; when it begins they are told then. */
function tellOfCover(tx: Tx, before: Absence | null, { id, person, from, to, covers }: Absence, actor: string): void {
  const own = (all: readonly Cover[], by: string) => all.filter((cover) => cover.by === by);
  const same = (by: string) =>
    before?.from === from && before.to === to && alike(own(before.covers, by), own(covers, by));
  if (from > tx.now)
    for (const by of whoCovers(covers))
      if (!same(by)) enqueue(tx, 'mail', { template: 'coverSet', person: by, absence: id });
  for (const by of whoCovers(before?.covers ?? []))
    if (own(covers, by).length === 0)
      enqueue(tx, 'mail', { template: 'coverEnded', person: by, about: person, by: actor });
}

/** Tells everybody who is or will be away that somebody who covers for them has left. */
export async function tellOfLostCover(tx: Tx, by: string): Promise<void> {
  for (const { id, person, covers } of await absencesAhead(tx))
    if (covers.some((cover) => cover.by === by))
      enqueue(tx, 'mail', { template: 'coverLost', person, absence: id, by });
}

/** Refuses cover that would run in a circle at some moment of the absence: it would add nobody. */
async function refuseCircle(tx: Tx, absence: Absence): Promise<void> {
  const all = [...(await absencesAhead(tx)).filter(({ id }) => id !== absence.id), absence];
  const meets = all.filter(({ from, to }) => from < absence.to && absence.from < to);
  const moments = [absence.from, ...meets.map(({ from }) => from).filter((from) => from > absence.from)];
  for (const at of moments)
    for (const { verbs: own, types } of absence.covers)
      for (const verb of own === 'all' ? verbs : own)
        for (const type of types === 'all' ? [null] : types) {
          const circle = coverCircle(all, absence.person, { verb, type }, at);
          if (!circle?.includes(absence.person)) continue;
          const names = await Promise.all(circle.map(async (person) => (await personNamed(tx, person))?.name ?? ''));
          refuse('cover-circle', { circle: names.join(', ') });
        }
}

/** Ends an absence now, or takes it back where it has not begun; whoever covers covers no longer. */
export async function endAbsence(tx: Tx, id: string, actor: string): Promise<void> {
  const { sql, organization, now } = tx;
  const before = (await absenceNamed(tx, id)) ?? refuse('unknown-absence');
  if (before.to <= now) refuse('absence-over');
  const begun = before.from <= now;
  if (begun) sendWrite(sql`update absence set ends = ${now} where organization = ${organization} and id = ${id}`);
  else sendWrite(sql`delete from absence where organization = ${organization} and id = ${id}`);
  await recordChange(tx, 'absence', id, before, begun ? { ...before, to: now } : null, actor);
  for (const by of whoCovers(before.covers))
    enqueue(tx, 'mail', { template: 'coverEnded', person: by, about: before.person, by: actor });
  if (actor !== before.person)
    enqueue(tx, 'mail', { template: 'awayEnded', person: before.person, about: before.person, by: actor });
  if (begun) await tellOfTasks(tx, before);
  reckonAnew(tx, before.person);
  tellOfAbsence(tx);
}

function tellOfAbsence(tx: Tx): void {
  running.delete(tx);
  notify(tx, 'people');
  notify(tx, 'settings');
}

/** Tells whoever covers, directly or at the end of a chain, that what waits for somebody has come to them or has gone. */
async function tellOfTasks(tx: Tx, { person, covers }: Absence): Promise<void> {
  const others = (await coveredNow(tx)).flatMap((absence) => absence.covers);
  const by = [...whoCovers([...covers, ...others])];
  for (const circulation of await circulationsWaiting(tx, person)) notify(tx, 'circulation', circulation, by);
}

/** The types of documents an organization has. */
async function typesOf({ sql, organization }: Tx): Promise<string[]> {
  const rows = await sql<{ code: string }[]>`select code from document_type where organization = ${organization}`;
  return rows.map(({ code }) => code);
}

/** The condition by which a task (as `t`, its circulation as `c`, its record as `r`) is one that a person covers; null for none. */
export async function coveredBy(tx: Tx, by: string, authorApproves: boolean) {
  const absences = await coveredNow(tx);
  if (!absences.some(({ covers }) => covers.some((cover) => cover.by === by))) return null;
  const work = workCoveredBy(absences, by, verbs, await typesOf(tx), tx.now);
  if (work.length === 0) return null;
  const { sql } = tx;
  const people = work.map(({ person }) => person);
  const where = sql`exists (
    select from unnest(
      ${people}::text[], ${work.map(({ verb }) => verb)}::text[], ${work.map(({ type }) => type)}::text[],
      ${work.map(({ chain }) => chain.join(' '))}::text[]) as w (person, verb, type, chain)
    where w.person = t.person and w.verb = t.doing and w.type = r.document_type
      and not string_to_array(w.chain, ' ') && t.kept
      ${authorApproves ? sql`` : sql`and not (t.doing = 'approve' and c.author = any(string_to_array(w.chain, ' ')))`})`;
  return { where, people: [...new Set(people)] };
}

/** How many tasks of somebody away wait for a person who covers now. */
export async function tasksCovered(tx: Tx, by: string, away: string): Promise<number> {
  const covered = await coveredBy(tx, by, (await rulesOf(tx)).includes('authorApproves'));
  if (!covered) return 0;
  const { sql, organization } = tx;
  const [row] = await sql<{ count: number }[]>`
    select count(*)::int as count from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record
    where t.organization = ${organization} and t.person = ${away} and ${covered.where}`;
  return row?.count ?? 0;
}

/**
 * What happens when an absence begins: whoever covers is told what waits, once. Tasks that had been taken go back to their
 * groups when their circulations catch up; `wake` names those, each time it is asked, so that none is left out by a fault.
 */
export async function beginAbsence(tx: Tx, id: string): Promise<{ readonly wake: readonly string[] }> {
  const { sql, organization, now } = tx;
  const absence = await absenceNamed(tx, id);
  if (!absence || absence.from > now) return { wake: [] };
  const [begins] = await sql<{ id: string }[]>`
    update absence set told = true
    where organization = ${organization} and id = ${id} and ends > ${now} and not told returning id`;
  if (begins) {
    for (const by of whoCovers(absence.covers))
      enqueue(tx, 'mail', { template: 'coverBegins', person: by, absence: id });
    await tellOfTasks(tx, absence);
  }
  const rows = await sql<{ circulation: string }[]>`
    select distinct c.id as circulation from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    where t.organization = ${organization} and t.person = ${absence.person} and t.seat <> ''`;
  return { wake: rows.map(({ circulation }) => circulation) };
}
