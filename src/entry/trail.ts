import { administrationStream } from '@/server/admin/administration';
import { organizations } from '@/server/admin/setup';
import { disconnect, inOrganization } from '@/server/db/connect';
import { checkStream, type TrailFault } from '@/server/events/check';
import { circulationStream, recordStream } from '@/server/events/streams';

const sentences: { readonly [W in TrailFault['what']]: string } = {
  'no-events': 'it has no events, though the lists know it',
  gap: 'an event before it is missing',
  previous: 'it does not follow the event before it',
  hash: 'its content was changed',
  time: 'its time runs backwards',
  'payload-changed': 'a text, value or evidence it names is no longer what was written',
  'file-missing': 'a file it names is missing',
  'file-changed': 'a file it names is no longer what was recorded',
};

/**
 * Checks what stands behind a number: a circulation's (C-12), or a document's and all its circulations'; or behind the word
 * "administration", what was done to people and document types.
 */
const wanted = (process.argv[2] ?? '').trim();
let found = 0;
let broken = 0;
for (const organization of await organizations()) {
  await inOrganization(organization, async (tx) => {
    const circulations = await tx.sql<{ id: string; number: string }[]>`
      select distinct c.id, c.number, c.created from circulation c
      left join register r on r.organization = c.organization and r.record = any(c.records)
      where c.organization = ${organization} and (upper(c.number) = upper(${wanted}) or upper(r.number) = upper(${wanted})) order by c.created`;
    const records = await tx.sql<{ record: string; number: string }[]>`
      select record, number from register where organization = ${organization} and upper(number) = upper(${wanted})`;
    for (const [name, stream] of [
      ...records.map((row) => [`document ${row.number}`, recordStream(row.record)] as const),
      ...(wanted.toLowerCase() === administrationStream ? [['administration', administrationStream] as const] : []),
      ...circulations.map((row) => [`circulation ${row.number}`, circulationStream(row.id)] as const),
    ]) {
      found += 1;
      const { events, head, payloads, erased, files, faults } = await checkStream(tx, stream);
      if (faults.length === 0)
        process.stdout.write(
          `${name}: unbroken as far as it goes, ${events} events, ${payloads} texts and values${erased ? ` (${erased} erased)` : ''}, ${files} files, head ${head}\n`,
        );
      else {
        broken += 1;
        for (const { sequence, what, hash } of faults)
          process.stdout.write(`${name}: breaks at event ${sequence}: ${sentences[what]}${hash ? ` (${hash})` : ''}\n`);
      }
    }
  });
}
if (found === 0)
  process.stdout.write(`There is no circulation and no document with the number ${wanted || '(none given)'}.\n`);
await disconnect();
process.exit(broken > 0 || found === 0 ? 1 : 0);
