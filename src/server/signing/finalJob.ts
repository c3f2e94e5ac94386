import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { isPositive, type Outcome, system } from '@/core/circulation/events';
import {
  baseHolder,
  type Circulation,
  type DecisionRecord,
  documentsOf,
  newest,
  standing,
} from '@/core/circulation/state';
import { finalsWanted } from '@/core/circulation/tasks';
import type { Field, FieldValue } from '@/core/page/fields';
import { dayIn, momentIn } from '@/core/time/zone';
import { hashOf } from '@/core/trail/sha256';
import { type Person, peopleNamed } from '../admin/people';
import type { EvidenceEntry, EvidenceTask } from '../children/evidenceSheet';
import type { Inspection } from '../children/inspectPdf';
import type { SignerValues } from '../children/pdf/fill';
import { inChild } from '../children/run';
import type { FillTask } from '../children/signedFile';
import { act } from '../circulation/act';
import { circulationState, recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { noteIn, type Payloads, payloads, valueIn } from '../events/payloads';
import { findFile, putBytes, type StoredFile } from '../files/store';
import { copyOut, inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';
import type { SigningEvidence } from './sign';

const acts: { readonly [O in Outcome]: string } = {
  done: 'completed the review',
  approved: 'approved',
  approvedWithComments: 'approved with comments',
  returned: 'returned',
  declined: 'declined',
  signed: 'signed',
  confirmed: 'confirmed having read it',
};

/** One document of the circulation: what was frozen or decided on, and what its signers filled in. */
interface Document {
  readonly id: string;
  readonly name: string;
  readonly content: StoredFile;
  readonly fields: readonly Field[];
  readonly signers: readonly SignerValues[];
}

/**
 * Makes the final files of a circulation whose last seat has decided, and beside them the evidence sheet that names
 * them by their hashes; keeps them all and says so to the circulation.
 */
export async function keepFinalFiles(
  organization: string,
  job: JobData['derive'],
  options: { at?: number | undefined },
): Promise<void> {
  const found = await inOrganization(organization, (tx) => gather(tx, job.circulation));
  if (!found) return;
  const files: { id: string; name: string; file: string }[] = [];
  for (const document of found.documents)
    files.push({ id: document.id, name: document.name, file: await finalFile(organization, document) });
  const evidence = await inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'evidence.pdf');
    const facts = [
      ...found.sheet.facts,
      ...files.map((file) => [`Signed file`, `${file.name}, SHA-256 ${file.file}`] as const),
    ];
    await inChild('render', { ...found.sheet, facts, into } satisfies EvidenceTask, { seconds: 120, megabytes: 1024 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1024 });
    if (!read.ok) throw new Error(`the evidence sheet is ${read.fault}`);
    return putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
  });
  await inOrganization(
    organization,
    async (tx) => {
      const state = await circulationState(tx, job.circulation);
      if (!state || !finalsWanted(state)) return;
      const finals = files.map(({ id, file }) => ({ id, file }));
      const { identifier } = found;
      await act(
        tx,
        job.circulation,
        { type: 'keepFinals', files: finals, evidence: evidence.hash, identifier },
        system,
      );
    },
    options,
  );
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

async function gather(tx: Tx, circulation: string) {
  const state = await circulationState(tx, circulation);
  const version = state && newest(state);
  const record = state && (await recordState(tx, state.records[0] ?? ''));
  if (!state || !version || !record || !finalsWanted(state)) return null;
  const decisions = standing(state);
  const found = await payloads(
    tx,
    decisions.flatMap((decision) => [decision.note, decision.evidence, ...decision.filled.map((entry) => entry.value)]),
  );
  const documents: Document[] = [];
  for (const file of documentsOf(version)) {
    const frozen = state.frozen.get(file.id);
    const content = await findFile(tx, frozen?.file ?? file.file);
    if (!content) throw new Error(`the file ${file.id} of ${state.number} is missing`);
    const fields = state.fields.filter((field) => field.file === file.id);
    const signers = frozen ? signersOf(decisions, fields, found) : [];
    documents.push({ id: file.id, name: file.name, content, fields, signers });
  }
  const people = await peopleNamed(tx, [
    state.controller,
    ...decisions.flatMap((decision) => [decision.by, ...(decision.onBehalfOf ? [decision.onBehalfOf] : [])]),
  ]);
  const [profile] = await tx.sql<
    { name: string; zone: string }[]
  >`select name, zone from profile where organization = ${tx.organization}`;
  const zone = profile?.zone ?? 'UTC';
  const contents = documents.map((document) => document.content.hash);
  const identifier = `AV-${hashOf([circulation, ...contents].join(' '))
    .slice(0, 16)
    .toUpperCase()}`;
  const change = record.changes.find((candidate) => candidate.id === state.change);
  const sheet: Omit<EvidenceTask, 'into'> = {
    kind: 'evidence',
    title: `${record.number}  ${record.title}`,
    at: state.last,
    facts: [
      ['Organization', profile?.name ?? ''],
      ['Revision, version', `${change?.revision ?? ''}, version ${version.number}`],
      ['Circulation', `${state.number}, round ${state.round}`],
      ['Identifier', identifier],
      ...version.files.map(
        (file) =>
          [file.role === 'document' ? 'Decided on' : 'Attachment', `${file.name}, SHA-256 ${file.file}`] as const,
      ),
      ...[...state.frozen].map(
        ([id, frozen]) =>
          [
            'Frozen for signing',
            `${version.files.find((file) => file.id === id)?.name ?? id}, SHA-256 ${frozen.file}`,
          ] as const,
      ),
    ],
    entries: decisions.map((decision) => entryFor(state, decision, people, found, zone)),
    closing: `Each signed file begins with the file that was frozen for signing, byte for byte; what was filled in was added behind it. Times in ${zone}. This sheet and the files it names carry no digital signature.`,
  };
  return { documents, sheet, identifier };
}

/** What each signer filled into these fields, in the order in which they signed. */
function signersOf(decisions: readonly DecisionRecord[], fields: readonly Field[], found: Payloads): SignerValues[] {
  const ids = new Set(fields.map((field) => field.id));
  return decisions
    .filter((decision) => decision.outcome === 'signed' && fields.some((field) => field.seat === decision.seat))
    .sort((a, b) => a.at - b.at)
    .map((decision) => ({
      seat: decision.seat,
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

function entryFor(
  state: Circulation,
  decision: DecisionRecord,
  people: ReadonlyMap<string, Person>,
  found: Payloads,
  zone: string,
): EvidenceEntry {
  const person = people.get(decision.by);
  const known = decision.evidence ? valueIn<SigningEvidence>(found, decision.evidence) : null;
  const behalf = decision.onBehalfOf ? `, for ${people.get(decision.onBehalfOf)?.name ?? decision.onBehalfOf}` : '';
  const work = [person?.work, person?.company].filter(Boolean).join(', ');
  const seat = state.seats.get(decision.seat);
  const outside = (seat && baseHolder(seat)?.outside) ?? false;
  const controller = people.get(state.controller)?.name ?? state.controller;
  return {
    who: `${person?.name ?? decision.by}${work ? `, ${work}` : ''}`,
    what: `${acts[decision.outcome]}${behalf}${isPositive(decision.outcome) && decision.version !== newest(state)?.number ? ` (version ${decision.version})` : ''}`,
    when: `${dayIn(zone, decision.at, 0)}, ${momentIn(zone, decision.at, decision.at).split(', ')[1]}`,
    from: known?.address ?? '',
    identified: known?.identified ?? (outside ? 'a link of their own' : 'own account (signed in)'),
    note: noteIn(found, decision.note),
    remarks:
      seat?.linkCopied === seat?.epoch && outside
        ? [`${controller} copied this link to hand it on, and so had it as well.`]
        : [],
  };
}
