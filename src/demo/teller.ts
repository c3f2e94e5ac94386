import { createHash } from 'node:crypto';
import { Temporal } from 'temporal-polyfill';
import type { Command } from '@/core/circulation/acts/commands';
import { amendBasis } from '@/core/circulation/plan/amending';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { nameable } from '@/core/circulation/run/naming';
import { baseHolder, documentsOf, newest, presentFields, scopeOf, stagePlanOf } from '@/core/circulation/run/state';
import type { Field, FieldValue } from '@/core/page/fields';
import type { FactValue } from '@/core/route/facts';
import {
  type Assignment,
  atInstant,
  type Copies,
  freshSeat,
  freshStage,
  type Parallel,
  type Route,
  type Series,
  type Stage,
} from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import { type Outcome, type Verb, verbFacts } from '@/core/route/verbs';
import { act } from '@/server/circulation/act';
import { release, withdraw } from '@/server/circulation/endings';
import { circulationState, recordState } from '@/server/circulation/load';
import { preparedState } from '@/server/circulation/planning';
import { putFields } from '@/server/circulation/prepare';
import { startChange, takeCirculationNumber } from '@/server/circulation/startChange';
import { inOrganization, type Tx } from '@/server/db/connect';
import {
  type DraftAttachment,
  type DraftDocument,
  type DraftFile,
  draftOf,
  saveDraft,
  submitDraft,
} from '@/server/drafting/draft';
import { putPayload, putPayloadIfAny } from '@/server/events/payloads';
import { putBytes } from '@/server/files/store';
import { workOff } from '@/server/jobs/work';
import type { Deliver } from '@/server/mail/send';
import { saveAbsence } from '@/server/organization/absences';
import { newId } from '@/server/random';
import { actOnRecord } from '@/server/register/act';
import { prepareRelease } from '@/server/signing/evidence';
import type { SigningEvidence } from '@/server/signing/sign';
import { pagesOf, textOf } from './documents';

const zone = 'Europe/Oslo';

/** The instant `days` working days before today (Monday to Friday), at a wall clock time in the ropeway's zone. */
export function workingDay(today: number, days: number, time: string): number {
  let date = Temporal.Instant.fromEpochMilliseconds(today).toZonedDateTimeISO(zone).toPlainDate();
  const direction = days >= 0 ? -1 : 1;
  for (let left = Math.abs(days); left > 0; ) {
    date = date.add({ days: direction });
    if (date.dayOfWeek <= 5) left -= 1;
  }
  return date.toZonedDateTime({ timeZone: zone, plainTime: time }).epochMilliseconds;
}

type StageOptions = Partial<Omit<Stage, 'due' | 'closes'>> & { due?: number; closes?: number };

export function stage(verb: Verb, people: readonly string[], { due, closes, ...more }: StageOptions = {}): Stage {
  return {
    ...freshStage(
      newId(),
      verb,
      people.map((person) => freshSeat(newId(), who(person))),
    ),
    due: atInstant(due ?? null),
    closes: atInstant(closes ?? null),
    ...more,
  };
}

/** Somebody by a word: a person, `group:rescue`, `role:office-safety`, `named:` and a seat. */
function who(word: string): Assignment {
  const [kind, of = ''] = word.split(':');
  if (of === '') return { kind: outsiders.has(word) ? 'outside' : 'person', person: word };
  if (kind === 'group') return { kind: 'group', group: of, members: 'any' };
  return kind === 'role' ? { kind: 'role', role: of } : { kind: 'named', by: of };
}

const outsiders = new Set(['lotte', 'jarek', 'sanna']);

export function series(...parts: Route[]): Series {
  return { kind: 'series', id: newId(), parts };
}

/** Who gets a copy at a point of the route. */
export function copies(...people: readonly string[]): Copies {
  const to = people.map((person) => ({ id: newId(), assignment: who(person) }));
  return { kind: 'copies', id: newId(), to, hidden: false };
}

export function branches(name: string, join: Rule, ...parts: readonly (readonly [string, ...Route[]])[]): Parallel {
  return {
    kind: 'parallel',
    id: newId(),
    name,
    join,
    branches: parts.map(([label, ...routes]) => ({ name: label, condition: null, route: series(...routes) })),
  };
}

interface Trip {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly change: string;
  readonly circulation: string;
  readonly author: string;
  readonly controller: string;
}

/**
 * Tells the demonstration's weeks through the same operations that make them: nothing is written but by the engine.
 * `progress` is told how many circulations were started.
 */
export function teller(organization: string, deliver: Deliver, progress: (started: number) => void) {
  let count = 0;
  const at = <T>(time: number, work: (tx: Tx) => Promise<T>) => inOrganization(organization, work, { at: time });
  const settleJobs = (time: number) => workOff(organization, deliver, time + 1000);

  const put = async (trip: Trip, time: number, command: Command, actor: string) => {
    await at(time, (tx) => act(tx, trip.circulation, command, actor));
    await settleJobs(time);
  };

  return {
    at,

    /** Somebody says when they are away and who covers for them. */
    away: async (time: number, person: string, from: number, to: number, by: string): Promise<void> => {
      const covers = [{ by, verbs: 'all', types: 'all' }] as const;
      await at(time, (tx) => saveAbsence(tx, { id: newId(), person, from, to, covers }, person));
      await settleJobs(time);
    },

    record: (
      time: number,
      facts: { number: string; title: string; documentType: string; owner: string },
    ): Promise<string> =>
      at(time, async (tx) => {
        const record = newId();
        await actOnRecord(
          tx,
          record,
          { type: 'record.created', data: { ...facts, unit: null, details: {}, complete: true } },
          'ines',
        );
        return record;
      }),

    start: async (
      time: number,
      record: string,
      facts: {
        number: string;
        title: string;
        author: string;
        controller?: string;
        reason: string;
        route?: Series;
        note?: string;
        facts?: Readonly<Record<string, FactValue>>;
      },
    ): Promise<Trip> => {
      const controller = facts.controller ?? 'ines';
      const number = await takeCirculationNumber(organization);
      const started = await at(time, async (tx) =>
        startChange(tx, {
          number,
          records: [record],
          reason: putPayload(tx, facts.reason),
          author: facts.author,
          controller,
          ...(facts.route
            ? { plan: facts.route, note: facts.note ?? null, ...(facts.facts ? { facts: facts.facts } : {}) }
            : {}),
        }),
      );
      count += 1;
      progress(count);
      return { record, number: facts.number, title: facts.title, author: facts.author, controller, ...started };
    },

    /** The author submits a PDF made from the given text, with further documents and attachments. */
    submit: async (
      trip: Trip,
      time: number,
      lines: readonly string[],
      options: {
        note?: string;
        attachments?: readonly string[];
        /** The leading document is the text itself instead of its pages. */
        asText?: boolean;
        documents?: readonly { readonly title: string; readonly lines: readonly string[] }[];
      } = {},
    ) => {
      const state = await at(time, (tx) => recordState(tx, trip.record));
      const change = state?.changes.find((candidate) => candidate.id === trip.change);
      const version = (change?.versions.length ?? 0) + 1;
      const revision = change?.revision ?? 'A';
      const fileOf = async (title: string, text: readonly string[]): Promise<DraftFile> => {
        const bytes = await pagesOf({ number: trip.number, title, revision, version, at: time }, text);
        const kept = await putBytes(organization, bytes, 'application/pdf', { pages: await countPages(bytes) });
        return { file: kept.hash, name: `${trip.number} ${title}.pdf`, mediaType: kept.mediaType, bytes: kept.bytes };
      };
      const main = options.asText ? null : await fileOf(trip.title, lines);
      const others: DraftDocument[] = [];
      for (const { title, lines: text } of options.documents ?? []) {
        const file = await fileOf(title, text);
        others.push({ id: newId(), record: trip.record, name: file.name, source: 'file', file });
      }
      const attachments: DraftAttachment[] = [];
      for (const name of options.attachments ?? []) {
        const file = await putBytes(
          organization,
          Buffer.from(`${name}\nfor ${trip.number}\n`),
          'application/octet-stream',
        );
        attachments.push({ id: newId(), file: file.hash, name, mediaType: file.mediaType, bytes: file.bytes });
      }
      await at(time, async (tx) => {
        const row = await draftOf(tx, trip.change);
        if (!row) throw new Error('no draft');
        const [lead] = row.documents;
        if (!lead) throw new Error('a draft without a document');
        const own: DraftDocument = main ? { ...lead, source: 'file', file: main } : { ...lead, source: 'text' };
        const documents = [own, ...others];
        await saveDraft(tx, trip.change, row.edit, {
          documents,
          attachments,
          ...(options.asText ? { text: { document: lead.id, story: textOf(lines) } } : {}),
        });
        await submitDraft(tx, { ...row, documents, attachments }, options.note ?? null, trip.author);
      });
      await settleJobs(time);
    },

    send: (trip: Trip, time: number) => put(trip, time, { type: 'send', releasesItself: false }, trip.controller),

    /** Somebody names who holds a later seat, before they respond. */
    name: async (trip: Trip, time: number, person: string, to: string) => {
      const { seat } = await seatFor(trip, time, person);
      const state = await at(time, (tx) => circulationState(tx, trip.circulation));
      const names = state && nameable(state, seat)[0]?.id;
      if (!names) throw new Error(`${person} names nobody in ${trip.number}`);
      await put(trip, time, { type: 'name', seat: seat.id, epoch: seat.epoch, names, to }, person);
    },

    see: async (trip: Trip, time: number, person: string) => {
      const { seat, scope } = await seatFor(trip, time, person);
      await put(trip, time, { type: 'see', seat: seat.id, epoch: seat.epoch, scope }, person);
    },

    decide: async (trip: Trip, time: number, person: string, outcome: Outcome, note?: string, value?: FieldValue) => {
      const { seat, scope, fields } = await seatFor(trip, time, person);
      await at(time, async (tx) => {
        const filled = [];
        if (outcome === 'signed')
          for (const field of fields)
            filled.push({
              field: field.id,
              value: putPayload(
                tx,
                JSON.stringify(
                  field.kind === 'signedOn'
                    ? { kind: 'day', day: dateWords(time) }
                    : (value ?? { kind: 'typed', text: signatureOf(person) }),
                ),
              ),
            });
        const evidence: SigningEvidence = {
          address: outsiders.has(person) ? '198.51.100.24' : '192.0.2.17',
          agent: 'demonstration',
          identified: outsiders.has(person) ? 'a link of their own, sent to their address' : 'own account (signed in)',
        };
        await act(
          tx,
          trip.circulation,
          {
            type: 'decide',
            seat: seat.id,
            epoch: seat.epoch,
            scope,
            outcome,
            note: putPayloadIfAny(tx, note),
            filled,
            evidence: putPayload(tx, JSON.stringify(evidence)),
          },
          person,
        );
      });
      await settleJobs(time);
    },

    comment: async (
      trip: Trip,
      time: number,
      person: string,
      note: string,
      spot: { page: number; x: number; y: number } | null,
      thread: string | null = null,
    ): Promise<string> => {
      const comment = newId();
      await at(time, async (tx) => {
        const state = await circulationState(tx, trip.circulation);
        const version = state && newest(state);
        if (!version) throw new Error('nothing to comment on');
        await act(
          tx,
          trip.circulation,
          {
            type: 'comment',
            comment,
            thread,
            file: documentsOf(version)[0]?.file ?? '',
            spot,
            note: putPayload(tx, note),
          },
          person,
        );
      });
      return comment;
    },

    putFields: async (
      trip: Trip,
      time: number,
      spots: readonly { person: string; page: number; x: number; y: number; kind?: Field['kind'] }[],
    ) => {
      const { file, fields } = await at(time, async (tx) => {
        const state = await preparedState(tx, trip.circulation);
        const version = state && newest(state);
        const [lead] = version ? documentsOf(version) : [];
        if (!state || !lead) throw new Error('no pages to put fields on');
        return {
          file: lead,
          fields: spots.map(({ person, kind = 'signature', ...spot }): Field => {
            const seat = [...state.seats.values()].find(
              (candidate) =>
                baseHolder(candidate)?.person === person && verbFacts[stagePlanOf(state, candidate).verb].signs,
            );
            if (!seat) throw new Error(`${person} does not sign`);
            return {
              id: newId(),
              seat: seat.id,
              file: lead.id,
              kind,
              ...spot,
              width: kind === 'signature' ? 130 : 100,
              height: kind === 'signature' ? 40 : 20,
              needed: true,
              label: '',
            };
          }),
        };
      });
      await at(time, (tx) =>
        putFields(tx, trip.circulation, { file: file.id, content: file.file, fields }, trip.controller),
      );
      await settleJobs(time);
    },

    remind: async (trip: Trip, time: number, person: string) => {
      const { seat } = await seatFor(trip, time, person);
      await put(trip, time, { type: 'remind', seat: seat.id }, trip.controller);
    },

    addSecondHolder: async (trip: Trip, time: number, holder: string, person: string) => {
      const { seat } = await seatFor(trip, time, holder);
      await put(trip, time, { type: 'addSecondHolder', seat: seat.id, person }, trip.controller);
    },

    confirm: async (trip: Trip, time: number) => {
      const state = await at(time, (tx) => circulationState(tx, trip.circulation));
      if (!state) throw new Error('there is no such circulation');
      const keep = proposedLines(state, { people: new Map() }).flatMap((line) => (line.keep ? [line.seat] : []));
      const basis = roundBasis(state, { people: new Map() });
      await put(trip, time, { type: 'confirmRound', basis, keep, leave: [], times: [] }, trip.controller);
    },

    /** Somebody asks the sender something before they respond. */
    ask: async (trip: Trip, time: number, person: string, text: string) => {
      const { seat } = await seatFor(trip, time, person);
      await at(time, async (tx) => {
        const note = putPayload(tx, text);
        const command = { type: 'askQuestion', question: newId(), seat: seat.id, epoch: seat.epoch, note } as const;
        await act(tx, trip.circulation, command, person);
      });
      await settleJobs(time);
    },

    /** The controller adds a stage at the end of a route under way. */
    amend: async (trip: Trip, time: number, part: Stage, reason: string) => {
      await at(time, async (tx) => {
        const state = await circulationState(tx, trip.circulation);
        if (!state) throw new Error('no circulation to amend');
        const plan = { ...state.plan, parts: [...state.plan.parts, part] };
        const command = { type: 'amend', basis: amendBasis(state), plan, whole: null, version: null } as const;
        await act(
          tx,
          trip.circulation,
          { ...command, note: state.note, reason: putPayload(tx, reason) },
          trip.controller,
        );
      });
      await settleJobs(time);
    },

    withdraw: async (trip: Trip, time: number, reason: string) => {
      await at(time, (tx) => withdraw(tx, trip.circulation, reason, trip.controller));
      await settleJobs(time);
    },

    release: async (trip: Trip, time: number) => {
      const prepared = await prepareRelease(organization, trip.circulation, trip.controller, { at: time });
      await at(time, (tx) => release(tx, trip.circulation, trip.controller, prepared));
      await settleJobs(time);
    },
  };

  async function seatFor(trip: Trip, time: number, person: string) {
    const state = await at(time, (tx) => circulationState(tx, trip.circulation));
    const seat = [...(state?.seats.values() ?? [])].find(
      (candidate) => candidate.status === 'asked' && baseHolder(candidate)?.person === person,
    );
    const scope = state && seat && scopeOf(state, seat);
    if (!state || !seat || !scope) throw new Error(`${person} is not asked in ${trip.number}`);
    return { seat, scope, fields: presentFields(state).filter((field) => field.seat === seat.id) };
  }
}

async function countPages(bytes: Buffer): Promise<{ width: number; height: number }[]> {
  const { PDFDocument } = await import('@cantoo/pdf-lib');
  const pdf = await PDFDocument.load(bytes, { updateMetadata: false });
  return pdf.getPages().map((page) => ({
    width: Math.round(page.getWidth() * 100) / 100,
    height: Math.round(page.getHeight() * 100) / 100,
  }));
}

function dateWords(time: number): string {
  return Temporal.Instant.fromEpochMilliseconds(time).toZonedDateTimeISO(zone).toPlainDate().toString();
}

function signatureOf(person: string): string {
  const names: Readonly<Record<string, string>> = {
    oskar: 'O. Thiele',
    petra: 'Petra Novak',
    benedikt: 'B. Rowe',
    lotte: 'L. Kessel',
    ines: 'Ines Halloran',
  };
  return names[person] ?? person;
}

/** Bytes from a seed (SHA-256 in counter mode): the demonstration is the same every time it is laid out. */
export function seeded(seed: string): (bytes: number) => Buffer {
  let counter = 0;
  return (bytes) => {
    const pieces: Buffer[] = [];
    for (let have = 0; have < bytes; have += 32) {
      counter += 1;
      pieces.push(createHash('sha256').update(`${seed} ${counter}`).digest());
    }
    return Buffer.concat(pieces).subarray(0, bytes);
  };
}
