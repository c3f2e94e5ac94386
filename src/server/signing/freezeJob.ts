import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { system } from '@/core/circulation/run/events';
import { freezeWanted } from '@/core/circulation/telling/tasks';
import type { Inspection } from '../children/inspectPdf';
import { inChild } from '../children/run';
import type { FreezeTask } from '../children/signedFile';
import { act } from '../circulation/act';
import { circulationState } from '../circulation/load';
import { inOrganization } from '../db/connect';
import { findFile, putBytes } from '../files/store';
import { copyOut, inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';

/** Lays the fields of one file on it, keeps the frozen file and says so to the circulation, while that still waits for it. */
export async function keepFrozenFile(
  organization: string,
  job: JobData['freeze'],
  options: { at?: number | undefined },
): Promise<void> {
  const { circulation, ...wanted } = job;
  const isWanted = (state: Parameters<typeof freezeWanted>[0] | null) =>
    state !== null &&
    freezeWanted(state).some(
      (one) => one.file === wanted.file && one.content === wanted.content && one.fields === wanted.fields,
    );
  const found = await inOrganization(organization, async (tx) => {
    const state = await circulationState(tx, circulation);
    const file = isWanted(state) ? await findFile(tx, wanted.content) : null;
    return state && file && { file, fields: state.fields.filter((field) => field.file === wanted.file) };
  });
  if (!found) return;
  const made = await inTemporaryFolder(async (folder) => {
    const source = path.join(folder, 'document.pdf');
    const into = path.join(folder, 'frozen.pdf');
    await copyOut(organization, found.file, source);
    const task: FreezeTask = { kind: 'freeze', source, into, fields: found.fields };
    await inChild('render', task, { seconds: 120, megabytes: 2048 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1536 });
    if (!read.ok) throw new Error(`the frozen file is ${read.fault}`);
    return putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
  });
  await inOrganization(
    organization,
    async (tx) => {
      if (!isWanted(await circulationState(tx, circulation))) return;
      await act(tx, circulation, { type: 'keepFrozen', ...wanted, frozen: made.hash }, system);
    },
    options,
  );
}
