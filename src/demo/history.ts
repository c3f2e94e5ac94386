import { mkdtemp, readFile, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { PDFDocument, StandardFonts } from '@cantoo/pdf-lib';
import type { Command } from '@/core/circulation/acts/commands';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { holders } from '@/core/circulation/run/holders';
import type { SeatRun } from '@/core/circulation/run/shapes';
import { baseHolder, documentsOf, scopeOf, stagePlanOf } from '@/core/circulation/run/state';
import { quantile } from '@/core/forecast/normal';
import type { Series } from '@/core/route/route';
import { type Outcome, type Verb, verbFacts } from '@/core/route/verbs';
import { addWorking, axisOf, usualCalendar } from '@/core/time/calendar';
import { writeEvidence } from '@/server/children/evidenceSheet';
import { act } from '@/server/circulation/act';
import { contextOf } from '@/server/circulation/context';
import { release } from '@/server/circulation/endings';
import { circulationState } from '@/server/circulation/load';
import { startChange } from '@/server/circulation/startChange';
import { inOrganization, notify, type Tx } from '@/server/db/connect';
import { draftOf, saveDraft, submitDraft } from '@/server/drafting/draft';
import { putPayload } from '@/server/events/payloads';
import { putBytes } from '@/server/files/store';
import { setRandomSource } from '@/server/random';
import { actOnRecord } from '@/server/register/act';
import { evidenceFor } from '@/server/signing/evidence';
import { finalsIdentifier } from '@/server/signing/finalJob';
import { drawsFrom } from './draws';
import { branches, seeded, series, stage, workingDay } from './teller';

const zone = 'Europe/Oslo';
const minute = 60_000;
const axis = axisOf(usualCalendar, zone);

/** Documents that the ropeway has revised again and again, by kind. */
const documents: readonly (readonly [string, string, string, readonly string[]])[] = [
  [
    'PRO',
    'rufus',
    'MR-PRO-0',
    [
      'Splicing of haul ropes',
      'Lubrication of track ropes',
      'Tensioning weights',
      'Drive start-up',
      'Auxiliary drive',
      'Return station checks',
      'Tower rollers',
      'Cabin doors',
      'Wind stops',
      'Ice removal',
    ],
  ],
  [
    'WI',
    'rufus',
    'MR-WI-0',
    [
      'Grip greasing',
      'Roller exchange',
      'Brake lining exchange',
      'Battery check',
      'Rope head inspection',
      'Door adjustment',
      'Radio check',
      'Torque table of towers',
      'Carrier washing',
      'Limit switch test',
      'Winch inspection',
      'Chair exchange',
      'Lifting gear',
      'Snow gun clearance',
      'Generator service',
      'Lamp exchange',
    ],
  ],
  ['PLN', 'petra', 'MR-PLN-0', ['Avalanche watch', 'Winter service of the access road']],
  [
    'AGR',
    'dalia',
    'MR-AGR-0',
    [
      'Snow clearing, Low Quay',
      'Cleaning of cabins',
      'Diesel supply',
      'Telephone lines',
      'Restaurant lease, Midfell',
      'Parking area',
      'Ski school access',
      'First aid post',
    ],
  ],
  ['POL', 'petra', 'MR-POL-0', ['Alcohol and medication']],
  ['FRM', 'fenna', 'MR-FRM-0', ['Lost property', 'Guest accident report', 'Shift handover']],
];

const reasons = [
  'Yearly review',
  'After an inspection',
  'New part',
  'A clearer table',
  'Comments from the crew',
  'New supplier',
];
const remarks = ['Fine as it is.', 'The table helps.', 'Please keep the photographs.', 'Nothing to add.'];

/** How long people take, in the middle, in working hours; Noor is late by habit. */
const pace: Readonly<Record<string, number>> = {
  noor: 42,
  yuki: 14,
  petra: 11,
  oskar: 9,
  rufus: 12,
  dalia: 16,
  benedikt: 20,
  fenna: 7,
  caspian: 10,
  rescue: 15,
};
const slower: Readonly<Partial<Record<Verb, number>>> = { review: 1.3, read: 0.5 };

/** The route that a kind of document usually takes. */
function routeOf(type: string, lot: number): Series {
  const review = (...people: string[]) => stage('review', people);
  const approve = (...people: string[]) => stage('approve', people);
  switch (type) {
    case 'PRO':
      return series(review('yuki', 'petra', ...(lot % 3 === 0 ? ['noor'] : [])), approve('oskar'));
    case 'WI':
      return series(
        review('yuki'),
        approve('oskar'),
        stage('read', lot % 2 === 0 ? ['caspian'] : ['caspian', 'fenna']),
      );
    case 'PLN':
      return series(
        branches('Review', { kind: 'all' }, ['technical', review('noor')], ['rescue', review('group:rescue')]),
        approve('oskar'),
      );
    case 'AGR':
      return series(
        branches('Approval', { kind: 'all' }, ['safety', approve('petra')], ['technical', approve('rufus')]),
        stage('approve', lot % 4 === 0 ? ['oskar', 'benedikt'] : ['oskar'], { order: 'oneByOne' }),
      );
    case 'POL':
      return series(review('fenna', 'rufus'), approve('benedikt'));
    default:
      return series(review('fenna'), approve('petra'));
  }
}

/** Chance from a number: the same history every time. */
function chances(seed: number) {
  const draws = drawsFrom(seed);
  return {
    ...draws,
    /** Working milliseconds around so many hours, in whole minutes. */
    work: (hours: number) => {
      const z = quantile(Math.min(0.999, Math.max(0.001, draws.next())));
      return Math.round(hours * 60 * Math.exp(0.75 * z)) * minute;
    },
  };
}
type Chances = ReturnType<typeof chances>;

const records = documents.flatMap(([documentType, owner, prefix, titles]) =>
  titles.map((title, i) => ({
    title,
    documentType,
    owner,
    number: `${prefix}${String(i + 1).padStart(2, '0')}`,
    record: `history-${documentType}-${i + 1}`,
  })),
);

/**
 * Begins a past of `n` circulations: its documents, and the numbers that its circulations will have, so that the weeks
 * that are told before it is whole stand after it all the same. `tellOn` tells it.
 */
export async function beginHistory(organization: string, today: number, n: number): Promise<void> {
  const first = workingDay(today, 385, '08:00');
  for (const [i, { record, ...facts }] of records.entries())
    await inOrganization(
      organization,
      async (tx) => {
        await actOnRecord(
          tx,
          record,
          { type: 'record.created', data: { ...facts, unit: null, details: {}, complete: true } },
          'ines',
        );
      },
      { at: first + i * minute },
    );
  await inOrganization(organization, async (tx) => {
    const day = Math.floor(today / 86_400_000);
    await tx.sql`
      insert into counter (organization, name, value)
      values (${organization}, 'circulation', ${n}), (${organization}, 'history day', ${day}),
             (${organization}, 'history told', 0), (${organization}, 'history to tell', ${n})`;
  });
}

/**
 * Tells the next circulation of the past, which has ended over the last year and a half, through the same operations as
 * everything else: in one transaction, whose clock goes on from act to act. Its messages went out long ago and are not
 * sent again. Gives how many of how many have been told; nothing is told twice, whenever it was broken off.
 */
export async function tellOn(organization: string): Promise<{ readonly told: number; readonly toTell: number }> {
  const [row] = await inOrganization(
    organization,
    (tx) => tx.sql<{ day: number; told: number; toTell: number }[]>`
      select day.value as day, told.value as told, whole.value as to_tell from counter day, counter told, counter whole
      where day.organization = ${organization} and day.name = 'history day'
        and told.organization = ${organization} and told.name = 'history told'
        and whole.organization = ${organization} and whole.name = 'history to tell'`,
  );
  if (!row || row.told >= row.toTell) return { told: row?.told ?? 0, toTell: row?.toTell ?? 0 };
  const { told: lot, toTell } = row;
  const facts = records[lot % records.length] as (typeof records)[number];
  // Spread evenly, the last of them a few weeks ago, so that all are over.
  const days = 380 - Math.floor((lot * 345) / toTell);
  const began = workingDay(row.day * 86_400_000, days, '08:30') + (lot % 7) * 40 * minute;
  setRandomSource(seeded(`marrowfell ${lot}`));
  try {
    await tellOne(organization, { ...facts, began, lot, pages: await blankPages() });
  } finally {
    setRandomSource(null);
  }
  return { told: lot + 1, toTell };
}

interface Trip {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly documentType: string;
  readonly owner: string;
  readonly began: number;
  readonly lot: number;
  readonly pages: Uint8Array;
}

async function tellOne(organization: string, trip: Trip): Promise<void> {
  const luck = chances(trip.lot * 7919 + 17);
  const file = await documentPages(trip, 1);
  const kept = await putBytes(organization, file, 'application/pdf', { pages: [{ width: 595.28, height: 841.89 }] });
  await inOrganization(
    organization,
    async (tx) => {
      const clock = tx as { now: number };
      const later = (hours: number) => {
        clock.now = addWorking(axis, tx.now, luck.work(hours)) ?? tx.now;
      };
      const started = await startChange(tx, {
        number: `C-${trip.lot + 1}`,
        records: [trip.record],
        reason: putPayload(tx, luck.pick(reasons)),
        author: trip.owner,
        controller: 'ines',
        plan: routeOf(trip.documentType, trip.lot),
      });
      const { circulation, change } = started;
      const submit = async () => {
        const row = await draftOf(tx, change);
        const [lead] = row?.documents ?? [];
        if (!row || !lead) throw new Error('no draft');
        const name = `${trip.number} ${trip.title}.pdf`;
        const own = { file: kept.hash, name, mediaType: kept.mediaType, bytes: kept.bytes };
        const next = [{ ...lead, source: 'file' as const, file: own }];
        await saveDraft(tx, change, row.edit, { documents: next });
        await submitDraft(tx, { ...row, documents: next }, null, trip.owner);
      };
      later(10);
      await submit();
      later(3);
      await act(tx, circulation, { type: 'send', releasesItself: false }, 'ines');
      await respondAll(tx, circulation, luck, async () => {
        later(12);
        await submit();
      });
      const state = await circulationState(tx, circulation);
      const version = state?.versions[state.versions.length - 1];
      if (!state || !version) throw new Error('nothing to release');
      const finals = documentsOf(version).map(({ id, file: content }) => ({ id, file: content }));
      const identifier = finalsIdentifier(
        circulation,
        finals.map((one) => one.file),
      );
      await act(tx, circulation, { type: 'keepFinals', files: finals, identifier }, 'system');
      later(3);
      await releaseNow(tx, organization, circulation);
      await tx.sql`delete from job where organization = ${organization} and created <= ${tx.now} and created >= ${trip.began}`;
      const [share] = await tx.sql<{ percent: number }[]>`
        update counter set value = value + 1 where organization = ${organization} and name = 'history told'
        returning value * 100 / (select value from counter where organization = ${organization} and name = 'history to tell') as percent`;
      if (share && share.percent % 5 === 0) notify(tx, 'job', 'history');
    },
    { at: trip.began },
  );
}

/** Lets everybody respond in the order in which they come to it; whoever sends it back begins rework. */
async function respondAll(tx: Tx, circulation: string, luck: Chances, rework: () => Promise<void>): Promise<void> {
  const clock = tx as { now: number };
  const planned = new Map<string, number>();
  const put = (command: Command, actor: string) => act(tx, circulation, command, actor);
  for (let guard = 0; guard < 100; guard += 1) {
    const state = await circulationState(tx, circulation);
    if (!state || state.phase === 'finishing') return;
    if (state.phase === 'rework') {
      await rework();
      const now = await circulationState(tx, circulation);
      if (!now) return;
      const keep = proposedLines(now, { people: new Map() }).flatMap((line) =>
        line.keep && luck.chance(0.7) ? [line.seat] : [],
      );
      await put(
        { type: 'confirmRound', basis: roundBasis(now, { people: new Map() }), keep, leave: [], times: [] },
        'ines',
      );
      planned.clear();
      continue;
    }
    const asked = [...state.seats.values()].filter((seat) => seat.status === 'asked' && !seat.gone);
    for (const seat of asked) {
      if (planned.has(seat.id)) continue;
      const { verb } = stagePlanOf(state, seat);
      const hours = (pace[baseHolder(seat)?.person ?? 'rescue'] ?? 10) * (slower[verb] ?? 1);
      planned.set(seat.id, addWorking(axis, tx.now, luck.work(hours)) ?? tx.now);
    }
    const next = asked.sort((a, b) => (planned.get(a.id) ?? 0) - (planned.get(b.id) ?? 0))[0];
    if (!next) return;
    clock.now = Math.max(tx.now, planned.get(next.id) ?? 0);
    await respond(tx, circulation, next, luck);
  }
}

async function respond(tx: Tx, circulation: string, seat: SeatRun, luck: Chances): Promise<void> {
  const state = await circulationState(tx, circulation);
  if (!state) return;
  const { verb } = stagePlanOf(state, seat);
  const members = holders(state, seat, await contextOf(tx, state, 'ines')).map(({ person }) => person);
  const actor = baseHolder(seat)?.person ?? luck.pick(members);
  const may = state.round < 3;
  const outcome: Outcome =
    verb === 'review' && may && luck.chance(0.09)
      ? 'returned'
      : verb === 'approve' && may && luck.chance(0.04)
        ? 'returned'
        : verb === 'approve' && luck.chance(0.15)
          ? 'approvedWithComments'
          : verbFacts[verb].yes;
  const speaks = outcome === 'returned' || outcome === 'approvedWithComments' || luck.chance(0.1);
  await act(
    tx,
    circulation,
    {
      type: 'decide',
      seat: seat.id,
      epoch: seat.epoch,
      scope: scopeOf(state, seat) ?? '',
      outcome,
      note: speaks ? putPayload(tx, luck.pick(outcome === 'returned' ? reasons : remarks)) : null,
      filled: [],
      evidence: putPayload(
        tx,
        JSON.stringify({ address: '192.0.2.17', agent: 'demonstration', identified: 'own account (signed in)' }),
      ),
    },
    actor,
  );
}

async function releaseNow(tx: Tx, organization: string, circulation: string): Promise<void> {
  const found = await evidenceFor(tx, circulation, 'ines');
  if (!found) throw new Error('it cannot be released');
  const folder = await mkdtemp(path.join(os.tmpdir(), 'avenda-'));
  try {
    const into = path.join(folder, 'evidence.pdf');
    await writeEvidence({ ...found.sheet, into });
    const pages = [{ width: 595.28, height: 841.89 }];
    const { hash } = await putBytes(organization, await readFile(into), 'application/pdf', { pages });
    await release(tx, circulation, 'ines', { evidence: hash, head: found.head, at: found.at });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function blankPages(): Promise<Uint8Array> {
  const pdf = await PDFDocument.create({ updateMetadata: false });
  pdf.addPage([595.28, 841.89]);
  return pdf.save();
}

/** A short document as it was uploaded: its title, its number and what it was revised for. */
async function documentPages({ number, title, lot, pages }: Trip, version: number): Promise<Buffer> {
  const pdf = await PDFDocument.load(pages, { updateMetadata: false });
  const font = await pdf.embedFont(StandardFonts.TimesRoman);
  const [page] = pdf.getPages();
  page?.drawText(title, { x: 64, y: 760, size: 20, font });
  page?.drawText(`${number}, edition ${lot + version}`, { x: 64, y: 736, size: 10, font });
  return Buffer.from(await pdf.save());
}
