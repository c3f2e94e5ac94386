import { inOrganization } from '../db/connect';

const hour = 3_600_000;
const day = 24 * hour;

/** How long what has done its work is kept, by rule. */
export const keptFor = {
  /** A job that went through; one that failed for good stays for whoever looks. */
  job: 14 * day,
  /** The answer to a command, for whoever sends it again. */
  command: 30 * day,
  /** What people were told; the trail says it for ever. */
  told: 120 * day,
  /** A file that nothing uses: sent and not put into a draft, or refused. */
  file: 2 * day,
  attempt: day,
} as const;

/**
 * Clears away what has done its work in one organization: jobs, answered commands, tries, sessions that are over, uploads
 * and files that nothing uses, chunks without a file. Gives how many rows went, no more than a few thousand at a time.
 */
export async function clearAway(organization: string): Promise<number> {
  return inOrganization(organization, async (tx) => {
    const { sql, now } = tx;
    const gone = await Promise.all([
      sql`
        delete from job where organization = ${organization} and id in (
          select id from job where organization = ${organization} and state = 'done' and created < ${now - keptFor.job} limit 2000)`,
      sql`
        delete from command where organization = ${organization} and id in (
          select id from command where organization = ${organization} and at < ${now - keptFor.command} limit 2000)`,
      sql`
        delete from told where organization = ${organization} and id in (
          select id from told where organization = ${organization} and at < ${now - keptFor.told} limit 2000)`,
      sql`delete from session where organization = ${organization} and expires < ${now}`,
      sql`delete from invitation where organization = ${organization} and expires < ${now - 30 * day}`,
      sql`delete from attempt where since < ${now - keptFor.attempt}`,
    ]);
    const files = await sql<{ hash: string }[]>`
      delete from file where organization = ${organization} and hash in (
        select hash from file f where organization = ${organization} and created < ${now - keptFor.file}
          and not exists (select 1 from file_use u where u.organization = f.organization and u.file = f.hash)
          and not exists (select 1 from upload u where u.organization = f.organization and u.file = f.hash
            and u.at >= ${now - keptFor.file})
          and not exists (select 1 from file o where o.organization = f.organization and o.facts ->> 'original' = f.hash)
        limit 200)
      returning hash`;
    const hashes = files.map((file) => file.hash);
    await sql`delete from upload where organization = ${organization} and (file = any(${hashes}) or at < ${now - keptFor.file})`;
    const chunks = await sql`
      delete from chunk where organization = ${organization} and hash in (
        select hash from chunk c where organization = ${organization} and created < ${now - keptFor.file}
          and not exists (select 1 from file f where f.organization = c.organization and c.hash = any(f.chunks)) limit 200)`;
    return gone.reduce((sum, result) => sum + result.count, files.length + chunks.count);
  });
}
