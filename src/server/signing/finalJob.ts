import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { system } from '@/core/circulation/run/events';
import { type DecisionRecord, documentsOf, grownFile, newest, standing } from '@/core/circulation/run/state';
import { finalsWanted } from '@/core/circulation/telling/tasks';
import type { Field, FieldValue } from '@/core/page/fields';
import { hashOf } from '@/core/trail/sha256';
import { type Person, peopleNamed } from '../admin/people';
import type { Inspection } from '../children/inspectPdf';
import type { SignerValues } from '../children/pdf/fill';
import { inChild } from '../children/run';
import type { FillTask } from '../children/signedFile';
import { act } from '../circulation/act';
import { circulationState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { type Payloads, payloads, valueIn } from '../events/payloads';
import { findFile, putBytes, type StoredFile } from '../files/store';
import { copyOut, inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';

/** One document of the circulation: what was frozen or decided on, and what its signers filled in. */
interface Document {
  readonly id: string;
  readonly content: StoredFile;
  readonly fields: readonly Field[];
  readonly signers: readonly SignerValues[];
}

/** Makes the final files of a circulation whose last seat has decided, keeps them and says so to the circulation. */
export async function keepFinalFiles(
  organization: string,
  job: JobData['derive'],
  options: { at?: number | undefined },
): Promise<void> {
  const documents = await inOrganization(organization, (tx) => gather(tx, job.circulation));
  if (!documents) return;
  const files: { id: string; file: string }[] = [];
  for (const document of documents) files.push({ id: document.id, file: await finalFile(organization, document) });
  const contents = documents.map((document) => document.content.hash);
  await inOrganization(
    organization,
    async (tx) => {
      const state = await circulationState(tx, job.circulation);
      if (!state || !finalsWanted(state)) return;
      await act(
        tx,
        job.circulation,
        { type: 'keepFinals', files, identifier: finalsIdentifier(job.circulation, contents) },
        system,
      );
    },
    options,
  );
}

/** What the final files of a circulation are known by, from the contents they were made of. */
export function finalsIdentifier(circulation: string, contents: readonly string[]): string {
  return `AV-${hashOf([circulation, ...contents].join(' '))
    .slice(0, 16)
    .toUpperCase()}`;
}

/** The final form of one document; one that nobody signed stays as it is, byte for byte. */
async function finalFile(organization: string, document: Document): Promise<string> {
  if (document.signers.length === 0) return document.content.hash;
  return inTemporaryFolder(async (folder) => {
    const source = path.join(folder, 'frozen.pdf');
    const into = path.join(folder, 'final.pdf');
    await copyOut(organization, document.content, source);
    const { fields, signers } = document;
    const task: FillTask = { kind: 'fill', source, into, fields, signers };
    await inChild('render', task, { seconds: 180, megabytes: 2048 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1536 });
    if (!read.ok) throw new Error(`the final file is ${read.fault}`);
    return (await putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages })).hash;
  });
}

async function gather(tx: Tx, circulation: string): Promise<Document[] | null> {
  const state = await circulationState(tx, circulation);
  const version = state && newest(state);
  if (!state || !version || !finalsWanted(state)) return null;
  const decisions = standing(state);
  const found = await payloads(
    tx,
    decisions.flatMap((decision) => decision.filled.map((entry) => entry.value)),
  );
  const people = await peopleNamed(
    tx,
    decisions.map((decision) => decision.by),
  );
  const documents: Document[] = [];
  for (const file of documentsOf(version)) {
    const frozen = state.frozen.get(file.id);
    const content = await findFile(tx, frozen ? grownFile(frozen) : file.file);
    if (!content) throw new Error(`the file ${file.id} of ${state.number} is missing`);
    const fields = state.fields.filter((field) => field.file === file.id);
    const signers = frozen ? signersOf(decisions, fields, found, people) : [];
    documents.push({ id: file.id, content, fields, signers });
  }
  return documents;
}

/** What each signer filled into these fields, in the order in which they signed. */
function signersOf(
  decisions: readonly DecisionRecord[],
  fields: readonly Field[],
  found: Payloads,
  people: ReadonlyMap<string, Person>,
): SignerValues[] {
  const ids = new Set(fields.map((field) => field.id));
  return decisions
    .filter((decision) => decision.outcome === 'signed' && fields.some((field) => field.seat === decision.seat))
    .sort((a, b) => a.at - b.at)
    .map((decision) => ({
      seat: decision.seat,
      zone: people.get(decision.by)?.zone ?? 'UTC',
      values: Object.fromEntries(
        decision.filled
          .filter((entry) => ids.has(entry.field))
          .flatMap((entry) => {
            const value = valueIn<FieldValue>(found, entry.value);
            return value ? [[entry.field, value]] : [];
          }),
      ),
    }));
}
