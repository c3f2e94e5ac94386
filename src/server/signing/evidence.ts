import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { decide } from '@/core/circulation/acts/decide';
import type { CirculationEvent } from '@/core/circulation/run/events';
import {
  baseHolder,
  type Circulation,
  type DecisionRecord,
  newest,
  stagePlanOf,
  standing,
} from '@/core/circulation/run/state';
import { history, lineForAll } from '@/core/circulation/telling/history';
import { peopleIn, responseOf, sentence, valueInWords } from '@/core/circulation/telling/sentences';
import { type SharedAccess, sharedAccessAt } from '@/core/people/access';
import type { AdministrationEvent } from '@/core/people/events';
import { type Past, pastAt } from '@/core/people/past';
import type { FactValue } from '@/core/route/facts';
import { isPositive } from '@/core/route/verbs';
import { hanLanguageIn } from '@/core/text/hanLanguage';
import { dayText } from '@/core/time/typed';
import { datedIn } from '@/core/time/zone';
import { administrationStream } from '../admin/administration';
import { pastOf } from '../admin/describePerson';
import { type Person, peopleNamed } from '../admin/people';
import { profileOf } from '../admin/profile';
import type { EvidenceEntry, EvidenceTask } from '../children/evidenceSheet';
import type { Inspection } from '../children/inspectPdf';
import { inChild } from '../children/run';
import { contextOf } from '../circulation/context';
import { readCirculation, recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { noteIn, type Payloads, payloads, valueIn } from '../events/payloads';
import { circulationStream, eventsOf } from '../events/streams';
import { putBytes } from '../files/store';
import { inTemporaryFolder } from '../files/temporary';
import type { SigningEvidence } from './sign';

/** What a release needs besides the circulation: its evidence sheet, and of which moment it tells. */
export interface PreparedRelease {
  readonly evidence: string;
  /** The sequence number of the last event it tells of. */
  readonly head: number;
  /** The instant of the release, as the sheet says it. */
  readonly at: number;
}

interface Revised {
  readonly record: string;
  readonly revision: string;
}

/** The revisions that a release gives: one of each record. */
export async function revisionsOf(tx: Tx, state: Circulation): Promise<Revised[]> {
  const revisions: Revised[] = [];
  for (const record of state.records) {
    const change = (await recordState(tx, record))?.changes.find((candidate) => candidate.id === state.change);
    if (change) revisions.push({ record, revision: change.revision });
  }
  return revisions;
}

/**
 * Makes the evidence sheet of a release by `person`, before its transaction: what was released, who decided what and how
 * they were known, and the whole history with the release as its last line. Null when it cannot be released.
 */
export async function prepareRelease(
  organization: string,
  circulation: string,
  person: string,
  options: { at?: number | undefined } = {},
): Promise<PreparedRelease | null> {
  const found = await inOrganization(organization, (tx) => evidenceFor(tx, circulation, person), options);
  if (!found) return null;
  const { sheet, head, at } = found;
  return inTemporaryFolder(async (folder) => {
    const into = path.join(folder, 'evidence.pdf');
    await inChild('render', { ...sheet, into } satisfies EvidenceTask, { seconds: 120, megabytes: 1024 });
    const read = await inChild<Inspection>('inspect', { path: into }, { seconds: 60, megabytes: 1024 });
    if (!read.ok) throw new Error(`the evidence sheet is ${read.fault}`);
    const { hash } = await putBytes(organization, await readFile(into), 'application/pdf', { pages: read.pages });
    return { evidence: hash, head, at };
  });
}

/** What the evidence sheet of a release by `person` would say now; null when it cannot be released. */
export async function evidenceFor(tx: Tx, circulation: string, person: string) {
  const { state, head } = await readCirculation(tx, circulation);
  const record = state && (await recordState(tx, state.records[0] ?? ''));
  const version = state && newest(state);
  if (!state?.finals || !version || !record) return null;
  const revisions = await revisionsOf(tx, state);
  const command = { type: 'complete', revisions, effective: tx.now, evidence: '' } as const;
  const released = decide(state, command, await contextOf(tx, state, person));
  if (!released.ok) return null;
  const events = await eventsOf<CirculationEvent>(tx, circulationStream(circulation));
  const lines = history([...events, ...released.events]);
  const decisions = standing(state);
  const found = await payloads(tx, [
    ...decisions.flatMap((decision) => [decision.note, decision.evidence]),
    ...lines.flatMap((line) => (line.type === 'seat.decided' ? [line.note] : [])),
  ]);
  const administered = await eventsOf<AdministrationEvent>(tx, administrationStream);
  const shared = new Map(decisions.map((one) => [one, sharedAccessAt(administered, one.by, one.at)]));
  const people = await peopleNamed(tx, [
    state.controller,
    ...decisions.flatMap((decision) => [decision.by, ...(decision.onBehalfOf ? [decision.onBehalfOf] : [])]),
    ...lines.flatMap(peopleIn),
    ...[...shared.values()].flatMap((one) => one?.by ?? []),
  ]);
  const profile = await profileOf(tx);
  const { zone } = profile;
  const moment = (at: number) => datedIn(zone, at);
  const past = await pastOf(tx, people.keys());
  const name = (id: string, at: number) =>
    pastAt(past, id, at)?.name ?? people.get(id)?.name ?? (id === 'system' ? 'Avenda' : id);
  const value = (given: FactValue, at: number) =>
    valueInWords(given, { person: (id) => name(id, at), day: (iso) => dayText(iso) });
  const named = (id: string) => version.files.find((file) => file.id === id)?.name ?? id;
  const sheet: Omit<EvidenceTask, 'into'> = {
    kind: 'evidence',
    title: `${record.number}  ${record.title}`,
    at: tx.now,
    language: hanLanguageIn(zone),
    facts: [
      ['Organization', profile.name],
      ['Revision, version', `${revisions[0]?.revision ?? ''}, version ${version.number}`],
      ['Circulation', `${state.number}, round ${state.round}`],
      ['Identifier', state.finals.identifier],
      ...version.files.map(
        (file) =>
          [file.role === 'document' ? 'Decided on' : 'Attachment', `${file.name}, SHA-256 ${file.file}`] as const,
      ),
      ...[...state.frozen].map(
        ([id, frozen]) => ['Frozen for signing', `${named(id)}, SHA-256 ${frozen.chain[0]}`] as const,
      ),
      ...state.finals.files.map((file) => ['Released file', `${named(file.id)}, SHA-256 ${file.file}`] as const),
    ],
    entries: decisions.map((decision) =>
      entryFor(state, decision, people, past, found, moment, shared.get(decision) ?? null),
    ),
    // Every member reads the sheet. What people said with their decisions stands in it; what they said among each other
    // while working does not.
    history: lines
      .flatMap((line) => lineForAll(line) ?? [])
      .map((line) => ({
        when: moment(line.at),
        text: sentence(line, { name, moment, value }),
        note: line.type === 'seat.decided' ? noteIn(found, line.note) : null,
      })),
    closing: `Each signed file begins with the file that was frozen for signing, byte for byte; what was filled in was added behind it. Times in ${zone}. This sheet and the files it names carry no digital signature.`,
  };
  return { sheet, head: head.sequence, at: tx.now };
}

function entryFor(
  state: Circulation,
  decision: DecisionRecord,
  people: ReadonlyMap<string, Person>,
  past: readonly Past[],
  found: Payloads,
  moment: (at: number) => string,
  shared: SharedAccess | null,
): EvidenceEntry {
  // Who they were when they decided.
  const then = (id: string) => pastAt(past, id, decision.at) ?? people.get(id);
  const person = then(decision.by);
  const known = decision.evidence ? valueIn<SigningEvidence>(found, decision.evidence) : null;
  const covering = decision.coverUntil === null ? '' : `, covering until ${moment(decision.coverUntil)}`;
  const behalf = decision.onBehalfOf
    ? `, for ${then(decision.onBehalfOf)?.name ?? decision.onBehalfOf}${covering}`
    : '';
  const work = [person?.work, person?.company].filter(Boolean).join(', ');
  const seat = state.seats.get(decision.seat);
  const outside = (seat && baseHolder(seat)?.outside) ?? false;
  const controller = then(state.controller)?.name ?? state.controller;
  return {
    who: `${person?.name ?? decision.by}${work ? `, ${work}` : ''}`,
    what: `${responseOf(decision.outcome, seat ? stagePlanOf(state, seat).verb : null)}${behalf}${isPositive(decision.outcome) && decision.version !== newest(state)?.number ? ` (version ${decision.version})` : ''}`,
    when: moment(decision.at),
    from: known?.address ?? '',
    identified: known?.identified ?? (outside ? 'a link of their own' : 'own account (signed in)'),
    note: noteIn(found, decision.note),
    remarks: [
      ...(seat?.linkCopied === seat?.epoch && outside
        ? [`${controller} copied this link to hand it on, and so had it as well.`]
        : []),
      ...(shared && !outside
        ? [
            `${then(shared.by)?.name ?? 'An administrator'} copied a link for the password of this account on ${moment(shared.at)}, and so could have used it.`,
          ]
        : []),
    ],
  };
}
