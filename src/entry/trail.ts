import { checkChain } from '@/core/trail/chain';
import { organizations } from '@/server/admin/setup';
import { circulationStream, recordStream } from '@/server/circulation/load';
import { disconnect, inOrganization } from '@/server/db/connect';
import { linksOf } from '@/server/events/streams';

/** Checks the hash chain behind a number: a circulation's (C-12), or a record's and all its circulations'. */
const wanted = (process.argv[2] ?? '').trim();
let found = 0;
let broken = 0;
for (const organization of await organizations()) {
  await inOrganization(organization, async (tx) => {
    const circulations = await tx.sql<{ id: string; number: string }[]>`
      select c.id, c.number from circulation c join register r on r.organization = c.organization and r.record = c.record
      where c.organization = ${organization} and (upper(c.number) = upper(${wanted}) or upper(r.number) = upper(${wanted})) order by c.created`;
    const records = await tx.sql<{ record: string; number: string }[]>`
      select record, number from register where organization = ${organization} and upper(number) = upper(${wanted})`;
    for (const [name, stream] of [
      ...records.map((row) => [`record ${row.number}`, recordStream(row.record)] as const),
      ...circulations.map((row) => [`circulation ${row.number}`, circulationStream(row.id)] as const),
    ]) {
      found += 1;
      const check = checkChain(await linksOf(tx, stream));
      if (check.whole)
        process.stdout.write(`${name}: unbroken as far as it goes, ${check.events} events, head ${check.head}\n`);
      else {
        broken += 1;
        const why = {
          gap: 'an event before it is missing',
          previous: 'it does not follow the event before it',
          hash: 'its content was changed',
          time: 'its time runs backwards',
        }[check.why];
        process.stdout.write(`${name}: breaks at event ${check.sequence}: ${why}\n`);
      }
    }
  });
}
if (found === 0)
  process.stdout.write(`There is no circulation and no record with the number ${wanted || '(none given)'}.\n`);
await disconnect();
process.exit(broken > 0 || found === 0 ? 1 : 0);
