import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { isPositive, type Outcome, system } from '@/core/circulation/events';
import { type Circulation, type DecisionRecord, mainFile, newest, seatAt, standing } from '@/core/circulation/state';
import { derivationWanted } from '@/core/circulation/tasks';
import type { FieldValue } from '@/core/page/fields';
import { dayIn, momentIn } from '@/core/time/zone';
import { hashOf } from '@/core/trail/sha256';
import { everybody, type Person } from '../admin/people';
import type { EvidenceEntry, FinalTask } from '../children/deriveFinal';
import type { Inspection } from '../children/inspectPdf';
import { inChild } from '../children/run';
import { act } from '../circulation/act';
import { circulationState, recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { payloads } from '../events/streams';
import { findFile, putBytes } from '../files/store';
import { copyOut, inTemporaryFolder } from '../files/temporary';
import type { JobData } from '../jobs/queue';
import type { SigningEvidence } from './sign';

const acts: { readonly [O in Outcome]: string } = {
  done: 'finished the review',
  approved: 'approved',
  approvedWithComments: 'approved with comments',
  returned: 'returned',
  declined: 'declined',
  signed: 'signed',
  confirmed: 'confirmed having read it',
};

/** Derives the final file of a circulation whose last seat has decided, keeps it, and says so to the circulation. */
export async function keepFinalFile(
  organization: string,
  job: JobData['derive'],
  options: { at?: number },
): Promise<void> {
  const found = await inOrganization(organization, (tx) => gather(tx, job.circulation));
  if (!found) return;
  const made = await inTemporaryFolder(async (folder) => {
    const source = path.join(folder, 'frozen.pdf');
    const into = path.join(folder, 'final.pdf');
    await copyOut(organization, found.frozen, source);
    await inChild('render', { ...found.task, source, into }, { seconds: 180, megabytes: 2048 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1536 });
    if (!read.ok) throw new Error(`the final file is ${read.fault}`);
    return putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
  });
  await inOrganization(
    organization,
    async (tx) => {
      const state = await circulationState(tx, job.circulation);
      if (state && derivationWanted(state))
        await act(tx, job.circulation, { type: 'keepFinal', file: made.hash, identifier: found.identifier }, system);
    },
    options,
  );
}

async function gather(tx: Tx, circulation: string) {
  const state = await circulationState(tx, circulation);
  const version = state && newest(state);
  if (!state || !version || !derivationWanted(state)) return null;
  const frozen = await findFile(tx, mainFile(version));
  const record = await recordState(tx, state.record);
  if (!frozen || !record) return null;
  const people = new Map((await everybody(tx)).map((person) => [person.id, person]));
  const [profile] = await tx.sql<
    { name: string; zone: string }[]
  >`select name, zone from profile where organization = ${tx.organization}`;
  const zone = profile?.zone ?? 'UTC';
  const decisions = standing(state);
  const note = await payloads(
    tx,
    decisions.flatMap((decision) => [decision.note, decision.evidence, ...decision.filled.map((entry) => entry.value)]),
  );
  const identifier = `AV-${hashOf(`${circulation} ${frozen.hash}`).slice(0, 16).toUpperCase()}`;
  const change = record.changes.find((candidate) => candidate.id === state.change);
  const task: Omit<FinalTask, 'source' | 'into'> = {
    kind: 'final',
    values: decisions.flatMap((decision) =>
      decision.filled.flatMap((entry) => {
        const field = state.fields.find((candidate) => candidate.id === entry.field);
        const value = note.get(entry.value);
        return field && value ? [{ field, value: JSON.parse(value) as FieldValue }] : [];
      }),
    ),
    sheet: {
      title: `${record.number}  ${record.title}`,
      facts: [
        ['Organization', profile?.name ?? ''],
        ['Revision, version', `${change?.revision ?? ''}, version ${version.number}`],
        ['Circulation', `${state.number}, round ${state.round}`],
        ['Identifier', identifier],
        ['Frozen file', `SHA-256 ${frozen.hash}`],
        ...version.files
          .filter((file) => file.role === 'attachment')
          .map((file) => ['Attachment', `${file.name}, SHA-256 ${file.file}`] as const),
      ],
      entries: decisions.map((decision) => entryFor(state, decision, people, note, zone)),
      closing: `This file begins with the frozen file, byte for byte; what was filled in and this sheet were added behind it. Times in ${zone}. This sheet carries no digital signature.`,
    },
  };
  return { task, frozen, identifier };
}

function entryFor(
  state: Circulation,
  decision: DecisionRecord,
  people: ReadonlyMap<string, Person>,
  note: ReadonlyMap<string, string>,
  zone: string,
): EvidenceEntry {
  const person = people.get(decision.by);
  const evidence = decision.evidence ? note.get(decision.evidence) : undefined;
  const known = evidence ? (JSON.parse(evidence) as SigningEvidence) : null;
  const behalf = decision.onBehalfOf ? `, for ${people.get(decision.onBehalfOf)?.name ?? decision.onBehalfOf}` : '';
  const work = [person?.work, person?.company].filter(Boolean).join(', ');
  const outside = seatAt(state, decision.seat)?.outside ?? false;
  return {
    who: `${person?.name ?? decision.by}${work ? `, ${work}` : ''}`,
    what: `${acts[decision.outcome]}${behalf}${isPositive(decision.outcome) && decision.version !== newest(state)?.number ? ` (version ${decision.version})` : ''}`,
    when: `${dayIn(zone, decision.at, 0)}, ${momentIn(zone, decision.at, decision.at).split(', ')[1]}`,
    from: known?.address ?? '',
    identified: known?.identified ?? (outside ? 'a link of their own' : 'signed in with their own account'),
    note: decision.note ? (note.get(decision.note) ?? null) : null,
  };
}
