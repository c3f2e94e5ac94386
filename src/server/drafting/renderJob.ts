import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { readStory } from '@/core/text/story';
import type { Inspection } from '../children/inspectPdf';
import type { TextTask } from '../children/renderText';
import { inChild } from '../children/run';
import { recordState } from '../circulation/load';
import { inOrganization } from '../db/connect';
import { findFile, putBytes, readWhole } from '../files/store';
import { inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';
import { actOnRecord } from '../register/act';
import { submitVersion } from './draft';

/** Renders the text of a version as its pages, and hands the version in when that was asked for. */
export async function renderVersion(
  organization: string,
  job: JobData['render'],
  options: { at?: number },
): Promise<void> {
  const found = await inOrganization(organization, async (tx) => {
    const record = await recordState(tx, job.record);
    const change = record?.changes.find((candidate) => candidate.id === job.change);
    const version = change?.versions.find((candidate) => candidate.number === job.number);
    if (!record || !change || !version?.text) return null;
    const file = await findFile(tx, version.text);
    return file && { record, change, version, file };
  });
  if (found?.change.state !== 'inWork') return;
  const { record, change, version, file } = found;
  const story = readStory(JSON.parse((await readWhole(organization, file)).toString()));
  if (typeof story === 'string') throw new Error(`the text of version ${job.number} is no story: ${story}`);
  const made = await inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'pages.pdf');
    const task: TextTask = {
      kind: 'text',
      story,
      title: record.title,
      number: record.number,
      revision: change.revision,
      version: version.number,
      at: version.at,
      into,
    };
    await inChild('render', task, { seconds: 120, megabytes: 1024 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1024 });
    if (!read.ok) throw new Error(`the rendered pages are ${read.fault}`);
    return putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
  });
  await inOrganization(
    organization,
    async (tx) => {
      const now = await recordState(tx, job.record);
      const own = now?.changes.find((candidate) => candidate.id === job.change);
      if (own?.state !== 'inWork') return;
      let state = now;
      if (
        !own.versions.find((candidate) => candidate.number === job.number)?.files.some((entry) => entry.role === 'main')
      )
        state = await actOnRecord(
          tx,
          job.record,
          {
            type: 'version.rendered',
            data: {
              change: job.change,
              number: job.number,
              file: {
                file: made.hash,
                name: `${record.number} ${record.title}.pdf`,
                role: 'main',
                mediaType: 'application/pdf',
                bytes: made.bytes,
              },
            },
          },
          job.actor,
        );
      const ready = state?.changes
        .find((candidate) => candidate.id === job.change)
        ?.versions.find((candidate) => candidate.number === job.number);
      if (job.submit && ready) await submitVersion(tx, own.circulation, ready, job.actor);
    },
    options,
  );
}
