import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Actor } from '@/core/access/may';
import { viewParts } from '@/core/circulation/telling/parts';
import { inSeries, organization, stage, type World, world } from './world';

const sight = vi.hoisted(() => ({ shut: false, asked: 0 }));
vi.mock('@/core/access/sight', async (original) => {
  const real = await original<typeof import('@/core/access/sight')>();
  return {
    ...real,
    sightOf: (...asked: Parameters<typeof real.sightOf>) => {
      sight.asked += 1;
      return sight.shut ? new Map() : real.sightOf(...asked);
    },
  };
});

let w: World;
/** One circulation that has been released, and one under way in which a member and somebody outside are asked. */
let over: Awaited<ReturnType<World['sent']>>;
let open: Awaited<ReturnType<World['sent']>>;
let link: string;
let seat: string;

beforeAll(async () => {
  w = await world();
  over = await w.sent(inSeries(stage('approve', ['oskar'])));
  const view = await w.ask('ines', 'circulation.view', { circulation: over.circulation });
  const [own] = view.seats;
  await w.ask('oskar', 'seat.decideMine', {
    circulation: over.circulation,
    seat: own?.id ?? '',
    epoch: own?.epoch ?? 0,
    scope: own?.scope ?? '',
    outcome: 'approved',
    note: null,
  });
  await w.work();
  await w.ask('ines', 'circulation.release', { circulation: over.circulation });
  await w.work();
  open = await w.sent(inSeries(stage('review', ['petra', 'jarek'])));
  const { seats } = await w.ask('ines', 'circulation.view', { circulation: open.circulation });
  seat = seats.find((one) => one.holder === 'petra')?.id ?? '';
  link = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'jarek'));
});
afterAll(async () => {
  await w.close();
});

/** An input of every question; of one that is new it has to be added here, so that the walk reaches it. */
const inputs = (about: typeof open): Readonly<Record<string, object>> => ({
  'auth.invitation': { invitation: 'x' },
  'people.named': { people: ['yuki'] },
  'people.find': { text: 'y', who: 'anybody' },
  'desk.find': { text: 'x' },
  'people.held': { person: 'petra' },
  'units.people': { units: ['u'] },
  'record.view': { record: about.record },
  'draft.view': { change: about.change },
  'circulation.view': { circulation: about.circulation },
  'circulation.asItWas': { circulation: about.circulation, sequence: 3 },
  'circulation.parts': { circulation: about.circulation, parts: [...viewParts] },
  'circulation.state': { circulation: about.circulation },
  'circulation.trail': { circulation: about.circulation },
  'circulation.files': { circulation: about.circulation },
  'circulation.values': { circulation: about.circulation },
  'circulation.list': {},
  'circulation.previewAmendment': {
    circulation: about.circulation,
    basis: 'a'.repeat(64),
    route: inSeries(),
    whole: null,
    files: null,
  },
  'circulation.linkAddress': { circulation: about.circulation, seat },
  'seat.mine': { circulation: about.circulation, seat },
  'letters.mark': { text: 'Petra' },
  'seat.mark': { text: 'Jarek' },
  'notes.view': { circulation: about.circulation },
  'told.list': { all: true },
  'told.level': { circulation: about.circulation },
  'calendars.readHolidays': { content: 'x' },
  'rules.reach': {},
  'organization.table': { table: 'people' },
  'organization.readTable': { table: 'people', content: 'x' },
});

/** The files that the answers of all questions name, by the question and who asked it. */
async function named(): Promise<Map<string, string[]>> {
  const kept = new Set(
    (
      await w.inOrganization(
        organization,
        (tx) => tx.sql<{ hash: string }[]>`select hash from file where organization = ${organization}`,
      )
    ).map(({ hash }) => hash),
  );
  const found = new Map<string, string[]>();
  const unfit = new Set<string>();
  for (const about of [over, open])
    for (const [name, operation] of w.registry) {
      if (operation.kind !== 'query') continue;
      const input = inputs(about)[name] ?? {};
      const callers = operation.who === 'link' ? [link] : ['ines', 'rufus', 'petra', 'oskar', 'thea'];
      for (const caller of callers) {
        const answer =
          operation.who === 'link' ? await w.throughLink(link, name, input) : await w.answer(caller, name, input);
        if (!answer.ok && answer.refusal.code === 'bad-input') unfit.add(name);
        const hashes = JSON.stringify(answer).match(/[0-9a-f]{64}/g) ?? [];
        const files = [...new Set(hashes)].filter((hash) => kept.has(hash));
        if (files.length > 0) found.set(`${name} ${caller === link ? 'link' : caller} ${about.circulation}`, files);
      }
    }
  expect([...unfit], 'have no input here').toEqual([]);
  return found;
}

describe('who sees which file', () => {
  it('is asked of one function by every question that names a file: where it shows none, none is named', async () => {
    const usual = await named();
    const questions = new Set([...usual.keys()].map((key) => key.split(' ')[0]));
    for (const name of [
      'circulation.view',
      'circulation.asItWas',
      'circulation.parts',
      'circulation.files',
      'draft.view',
      'record.view',
      'seat.mine',
      'seat.view',
    ])
      expect(questions, name).toContain(name);
    sight.shut = true;
    try {
      expect([...(await named())]).toEqual([]);
    } finally {
      sight.shut = false;
    }
  });

  it('is asked by every address that serves one', async () => {
    const { fileOfCirculation, fileOfDraft, fileOfLink, fileOfRevision } = await import('@/server/files/access');
    const view = await w.ask('ines', 'circulation.view', { circulation: open.circulation });
    const file = view.versions[0]?.files[0]?.file ?? '';
    const jarek = view.seats.find(({ holder }) => holder === 'jarek');
    const ines: Actor = { kind: 'member', person: 'ines', roles: ['controller'] };
    const throughLink = {
      kind: 'link',
      person: 'jarek',
      circulation: open.circulation,
      seat: jarek?.id ?? '',
      epoch: jarek?.epoch ?? 0,
    } as const;
    const served = () =>
      w.inOrganization(organization, async (tx) => [
        await fileOfCirculation(tx, ines, open.circulation, file, 'show'),
        await fileOfDraft(tx, ines, open.change, file, 'show'),
        await fileOfRevision(tx, ines, over.record, 'A', null, 'show'),
        await fileOfRevision(tx, ines, over.record, 'A', 'evidence', 'show'),
        await fileOfLink(tx, throughLink, file, 'show'),
      ]);
    for (const one of await served()) expect(one).not.toBeNull();
    const asked = sight.asked;
    sight.shut = true;
    try {
      expect(await served()).toEqual([null, null, null, null, null]);
      expect(sight.asked - asked).toBe(5);
    } finally {
      sight.shut = false;
    }
  });
});
