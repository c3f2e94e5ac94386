import { createHash } from 'node:crypto';
import { Temporal } from 'temporal-polyfill';
import type { Command } from '@/core/circulation/commands';
import type { Outcome } from '@/core/circulation/events';
import { currentScope, mainFile, newest } from '@/core/circulation/state';
import type { Field, FieldValue } from '@/core/page/fields';
import type { Parallel, Route, Rule, Series, Stage, Verb } from '@/core/route/route';
import { act } from '@/server/circulation/act';
import { circulationState, recordState } from '@/server/circulation/load';
import { startChange } from '@/server/circulation/operations';
import { inOrganization, type Tx } from '@/server/db/connect';
import { type DraftFile, draftOf, makeVersion, submitVersion } from '@/server/drafting/draft';
import { putPayload, putPayloadIfAny } from '@/server/events/streams';
import { putBytes } from '@/server/files/store';
import { workOff } from '@/server/jobs/work';
import type { Deliver } from '@/server/mail/send';
import { newId } from '@/server/random';
import { actOnRecord } from '@/server/register/act';
import type { SigningEvidence } from '@/server/signing/sign';
import { pagesOf } from './documents';

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

export function stage(verb: Verb, people: readonly string[], more: Partial<Stage> = {}): Stage {
  return {
    kind: 'stage',
    id: newId(),
    verb,
    seats: people.map((person) => ({
      id: newId(),
      who: { kind: outsiders.has(person) ? 'outside' : 'person', person },
    })),
    order: 'together',
    rule: { kind: 'all' },
    due: null,
    closes: null,
    onDecline: 'stop',
    delegate: true,
    ...more,
  };
}

export const outsiders = new Set(['lotte', 'jarek', 'sanna']);

export function series(...parts: Route[]): Series {
  return { kind: 'series', id: newId(), parts };
}

export function branches(name: string, join: Rule, ...parts: readonly (readonly [string, ...Route[]])[]): Parallel {
  return {
    kind: 'parallel',
    id: newId(),
    name,
    join,
    branches: parts.map(([label, ...routes]) => ({ name: label, route: series(...routes) })),
  };
}

export interface Trip {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly change: string;
  readonly circulation: string;
  readonly author: string;
  readonly controller: string;
}

/** Tells the demonstration's past through the same operations that make it: nothing is written but by the engine. */
export function teller(organization: string, deliver: Deliver) {
  const at = <T>(time: number, work: (tx: Tx) => Promise<T>) => inOrganization(organization, work, { at: time });
  const settleJobs = (time: number) => workOff(organization, deliver, time + 1000);

  const put = async (trip: Trip, time: number, command: Command, actor: string) => {
    await at(time, (tx) => act(tx, trip.circulation, command, actor));
    await settleJobs(time);
  };

  return {
    at,

    record: (time: number, facts: { number: string; title: string; kind: string; owner: string }): Promise<string> =>
      at(time, async (tx) => {
        const record = newId();
        await actOnRecord(tx, record, { type: 'record.created', data: { ...facts, complete: true } }, 'ines');
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
      },
    ): Promise<Trip> => {
      const controller = facts.controller ?? 'ines';
      const started = await at(time, async (tx) =>
        startChange(tx, {
          record,
          reason: await putPayload(tx, facts.reason),
          author: facts.author,
          controller,
          ...(facts.route ? { route: facts.route, note: await putPayloadIfAny(tx, facts.note) } : {}),
        }),
      );
      return { record, number: facts.number, title: facts.title, author: facts.author, controller, ...started };
    },

    /** The author hands in a PDF made from the given text, with attachments. */
    submit: async (
      trip: Trip,
      time: number,
      lines: readonly string[],
      options: { note?: string; attachments?: readonly string[] } = {},
    ) => {
      const state = await at(time, (tx) => recordState(tx, trip.record));
      const change = state?.changes.find((candidate) => candidate.id === trip.change);
      const number = (change?.versions.length ?? 0) + 1;
      const bytes = await pagesOf(
        { number: trip.number, title: trip.title, revision: change?.revision ?? 'A', version: number, at: time },
        lines,
      );
      const pages = await countPages(bytes);
      const main = await putBytes(organization, bytes, 'application/pdf', { pages });
      const attachments: DraftFile[] = [];
      for (const name of options.attachments ?? []) {
        const file = await putBytes(
          organization,
          Buffer.from(`${name}\nfor ${trip.number}\n`),
          'application/octet-stream',
        );
        attachments.push({ file: file.hash, name, mediaType: file.mediaType, bytes: file.bytes });
      }
      await at(time, async (tx) => {
        const file: DraftFile = {
          file: main.hash,
          name: `${trip.number} ${trip.title}.pdf`,
          mediaType: 'application/pdf',
          bytes: main.bytes,
        };
        await tx.sql`
          update draft set source = 'file', main = ${JSON.stringify(file)}, attachments = ${tx.sql.json(attachments as never)},
            revision = revision + 1, saved = ${time}
          where organization = ${organization} and change = ${trip.change}`;
        const row = await draftOf(tx, trip.change);
        if (!row) throw new Error('no draft');
        await submitVersion(
          tx,
          trip.circulation,
          await makeVersion(tx, row, options.note ?? null, trip.author, true),
          trip.author,
        );
      });
      await settleJobs(time);
    },

    send: (trip: Trip, time: number) => put(trip, time, { type: 'send' }, trip.controller),

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
              value: await putPayload(
                tx,
                JSON.stringify(
                  field.kind === 'date'
                    ? { kind: 'text', text: dateWords(time) }
                    : (value ?? { kind: 'typed', text: signatureOf(person) }),
                ),
              ),
            });
        const evidence: SigningEvidence = {
          address: outsiders.has(person) ? '198.51.100.24' : '192.0.2.17',
          agent: 'demonstration',
          identified: outsiders.has(person)
            ? 'a link of their own, sent to their address'
            : 'signed in with their own account',
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
            note: await putPayloadIfAny(tx, note),
            filled,
            evidence: await putPayload(tx, JSON.stringify(evidence)),
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
          { type: 'comment', comment, thread, file: mainFile(version), spot, note: await putPayload(tx, note) },
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
        const state = await circulationState(tx, trip.circulation);
        const version = state && newest(state);
        if (!state || !version) throw new Error('no pages to put fields on');
        return {
          file: mainFile(version),
          fields: spots.map(({ person, kind = 'signature', ...spot }): Field => {
            const seat = state.seats.find(
              (candidate) =>
                candidate.holder === person &&
                state.nodes[candidate.stage]?.kind === 'stage' &&
                (state.nodes[candidate.stage] as { plan: Stage }).plan.verb === 'sign',
            );
            if (!seat) throw new Error(`${person} does not sign`);
            return {
              id: newId(),
              seat: seat.id,
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
      await put(trip, time, { type: 'putFields', file, fields }, trip.controller);
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
      await put(trip, time, { type: 'proposeRound' }, trip.controller);
      const state = await at(time, (tx) => circulationState(tx, trip.circulation));
      const plan = state?.plan;
      if (!plan) throw new Error('nothing is proposed');
      await put(
        trip,
        time,
        {
          type: 'confirmRound',
          revision: plan.revision,
          version: plan.version,
          decisions: plan.decisions,
          keep: plan.lines.filter((line) => line.keep).map((line) => line.seat),
          times: [],
        },
        trip.controller,
      );
    },

    withdraw: async (trip: Trip, time: number, reason: string) => {
      await at(time, async (tx) => {
        await act(tx, trip.circulation, { type: 'withdraw', note: await putPayload(tx, reason) }, trip.controller);
        await actOnRecord(tx, trip.record, { type: 'change.ended', data: { change: trip.change } }, trip.controller);
      });
      await settleJobs(time);
    },

    release: async (trip: Trip, time: number) => {
      await at(time, async (tx) => {
        const record = await recordState(tx, trip.record);
        const change = record?.changes.find((candidate) => candidate.id === trip.change);
        if (!change) throw new Error('no change');
        const { state } = await act(
          tx,
          trip.circulation,
          { type: 'complete', revision: change.revision, effective: time },
          trip.controller,
        );
        const version = newest(state);
        if (!state.final || !version) throw new Error('no final file');
        await actOnRecord(
          tx,
          trip.record,
          {
            type: 'revision.released',
            data: {
              change: change.id,
              circulation: trip.circulation,
              revision: change.revision,
              version: version.number,
              frozen: mainFile(version),
              file: state.final.file,
              effective: time,
            },
          },
          trip.controller,
        );
      });
      await settleJobs(time);
    },
  };

  async function seatFor(trip: Trip, time: number, person: string) {
    const state = await at(time, (tx) => circulationState(tx, trip.circulation));
    const seat = state?.seats.find((candidate) => candidate.holder === person && candidate.status === 'asked');
    const scope = state && currentScope(state);
    if (!state || !seat || !scope) throw new Error(`${person} is not asked in ${trip.number}`);
    return { seat, scope, fields: state.fields.filter((field) => field.seat === seat.id) };
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
