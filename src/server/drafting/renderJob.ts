import { readFile } from 'node:fs/promises';
import path from 'node:path';
import type { PageValues, VersionFile } from '@/core/circulation/run/shapes';
import {
  type Change,
  type DraftVersion,
  hasItsPages,
  type RecordState,
  type VersionSource,
} from '@/core/record/record';
import { readStory } from '@/core/text/story';
import type { Inspection } from '../children/inspectPdf';
import type { TextTask } from '../children/renderText';
import { inChild } from '../children/run';
import { recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { withEdgeLine } from '../files/edgeLine';
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

/** Makes the pages of a version's documents, and submits the version when that was asked for. */
export async function renderVersion(
  organization: string,
  job: JobData['render'],
  options: { at?: number | undefined },
): Promise<void> {
  const found = await inOrganization(organization, (tx) => find(tx, job));
  if (!found) return;
  for (const source of found.version.sources) {
    if (found.version.files.some((file) => file.id === source.id)) continue;
    const { pages, values } = await pagesFrom(organization, found, source);
    await inOrganization(
      organization,
      async (tx) => {
        const now = await find(tx, job);
        if (!now || now.version.files.some((file) => file.id === source.id)) return;
        const file: VersionFile = {
          id: source.id,
          file: pages.hash,
          name: source.name,
          role: 'document',
          record: source.record,
          mediaType: 'application/pdf',
          bytes: pages.bytes,
          made: { source: source.source, values },
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

/** The pages of one document, kept as a file, and what they were made with. */
async function pagesFrom(
  organization: string,
  found: Found,
  source: VersionSource,
): Promise<{ pages: StoredFile; values: PageValues }> {
  const { file, record } = await inOrganization(organization, async (tx) => ({
    file: await findFile(tx, source.source),
    record: source.record === '' ? found.record : ((await recordState(tx, source.record)) ?? found.record),
  }));
  if (!file) throw new Error(`what version ${found.version.number} is made from is missing`);
  const values: PageValues = {
    number: record.number,
    revision: revisionOf(record, found),
    title: record.title,
    version: found.version.number,
    at: found.version.at,
  };
  const pages = await inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'pages.pdf');
    if (file.mediaType === 'application/pdf') await withMarginLine(organization, values, file, into);
    else await renderText(organization, values, file, into);
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1536 });
    if (!read.ok) throw new Error(`the pages that were made are ${read.fault}`);
    const facts =
      file.mediaType === 'application/pdf'
        ? {
            notices: ['margin-line', ...read.notices],
            ...(read.noFields ? { noFields: read.noFields } : {}),
            original: file.facts.original ?? file.hash,
          }
        : {};
    return putBytes(organization, await readFile(into), 'application/pdf', {
      pages: read.pages,
      ...(read.prints ? { prints: read.prints } : {}),
      ...facts,
    });
  });
  return { pages, values };
}

/** A text as pages. */
async function renderText(organization: string, values: PageValues, file: StoredFile, into: string): Promise<void> {
  const story = readStory(JSON.parse((await readWhole(organization, file)).toString()));
  if (typeof story === 'string') throw new Error(`the text of version ${values.version} is no story: ${story}`);
  const task: TextTask = { kind: 'text', story, ...values, into };
  await inChild('render', task, { seconds: 120, megabytes: 1024 });
}

/** A PDF with number, revision and page in its margin, on which everybody then decides. */
async function withMarginLine(
  organization: string,
  { number, revision }: PageValues,
  file: StoredFile,
  into: string,
): Promise<void> {
  const text = `${number} · revision ${revision}`;
  await withEdgeLine(organization, file, { edge: 'bottom', text, numbered: true }, into);
}

/** The revision that a document becomes by this change: those of a bundle have letters of their own. */
function revisionOf(record: RecordState, { change }: Found): string {
  return record.changes.find(({ id }) => id === change.id)?.revision ?? change.revision;
}
