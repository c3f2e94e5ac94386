import { readFile } from 'node:fs/promises';
import path from 'node:path';
import type { VersionFile } from '@/core/circulation/events';
import { type Change, type DraftVersion, hasItsPages, type RecordState, type VersionText } from '@/core/record/record';
import { readStory } from '@/core/text/story';
import type { Inspection } from '../children/inspectPdf';
import type { TextTask } from '../children/renderText';
import { inChild } from '../children/run';
import { recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { findFile, putBytes, readWhole, type StoredFile } from '../files/store';
import { inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';
import { actOnRecord } from '../register/act';
import { submitVersion } from './draft';

interface Found {
  readonly record: RecordState;
  readonly change: Change;
  readonly version: DraftVersion;
}

async function find(tx: Tx, job: JobData['render']): Promise<Found | null> {
  const record = await recordState(tx, job.record);
  const change = record?.changes.find((candidate) => candidate.id === job.change);
  const version = change?.versions.find((candidate) => candidate.number === job.number);
  return record && change?.state === 'inProgress' && version ? { record, change, version } : null;
}

/** Renders the texts of a version as their pages, and submits the version when that was asked for. */
export async function renderVersion(
  organization: string,
  job: JobData['render'],
  options: { at?: number | undefined },
): Promise<void> {
  const found = await inOrganization(organization, (tx) => find(tx, job));
  if (!found) return;
  for (const text of found.version.texts) {
    if (found.version.files.some((file) => file.id === text.id)) continue;
    const pages = await renderText(organization, found, text);
    await inOrganization(
      organization,
      async (tx) => {
        const now = await find(tx, job);
        if (!now || now.version.files.some((file) => file.id === text.id)) return;
        const file: VersionFile = {
          id: text.id,
          file: pages.hash,
          name: text.name,
          role: 'document',
          record: text.record,
          mediaType: 'application/pdf',
          bytes: pages.bytes,
        };
        await actOnRecord(
          tx,
          job.record,
          { type: 'version.rendered', data: { change: job.change, number: job.number, file } },
          job.actor,
        );
      },
      options,
    );
  }
  if (!job.submit) return;
  await inOrganization(
    organization,
    async (tx) => {
      const now = await find(tx, job);
      if (now && hasItsPages(now.version)) await submitVersion(tx, now.change.circulation, now.version, job.actor);
    },
    options,
  );
}

/** The pages of one text, kept as a file. */
async function renderText(organization: string, found: Found, text: VersionText): Promise<StoredFile> {
  const { file, record } = await inOrganization(organization, async (tx) => ({
    file: await findFile(tx, text.text),
    record: text.record === '' ? found.record : ((await recordState(tx, text.record)) ?? found.record),
  }));
  if (!file) throw new Error(`the text of version ${found.version.number} is missing`);
  const story = readStory(JSON.parse((await readWhole(organization, file)).toString()));
  if (typeof story === 'string') throw new Error(`the text of version ${found.version.number} is no story: ${story}`);
  return inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'pages.pdf');
    const task: TextTask = {
      kind: 'text',
      story,
      title: record.title,
      number: record.number,
      revision: found.change.revision,
      version: found.version.number,
      at: found.version.at,
      into,
    };
    await inChild('render', task, { seconds: 120, megabytes: 1024 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1024 });
    if (!read.ok) throw new Error(`the rendered pages are ${read.fault}`);
    return putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
  });
}
