import { randomBytes, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { neighbours, organization, type World, world } from './world';

let w: World;
let store: typeof import('@/server/files/store');
let clear: typeof import('@/server/jobs/clear');
beforeAll(async () => {
  w = await world();
  // Only the worker clears away; the world itself is made by the application.
  const { disconnect, workAs } = await import('@/server/db/connect');
  await disconnect();
  workAs('avenda_worker');
  store = await import('@/server/files/store');
  clear = await import('@/server/jobs/clear');
});
afterAll(async () => {
  await w.close();
});

const day = 86_400_000;

describe('what has done its work', () => {
  it('is a file that nothing uses, after two days; what shares its chunks stays whole', async () => {
    const shared = randomBytes(store.chunkSize);
    const put = (tail: number) =>
      store.putBytes(organization, Buffer.concat([shared, randomBytes(tail)]), 'application/octet-stream');
    const [lonely, used, theirs] = [await put(9), await put(7), await store.putBytes(neighbours, shared, 'text/plain')];
    await w.inOrganization(organization, async (tx) => store.claimFiles(tx, 'record:x', [used.hash]));
    const there = (hash: string) => w.inOrganization(organization, (tx) => store.findFile(tx, hash));
    await clear.clearAway(organization);
    expect(await there(lonely.hash)).not.toBeNull();
    await w.forward(clear.keptFor.file + 1);
    await clear.clearAway(organization);
    expect(await there(lonely.hash)).toBeNull();
    expect((await store.readWhole(organization, used)).subarray(0, shared.length).equals(shared)).toBe(true);
    expect((await store.readWhole(neighbours, theirs)).equals(shared)).toBe(true);
    const [chunks] = await w.inOrganization(
      organization,
      (tx) => tx.sql<{ n: number }[]>`select count(*)::int as n from chunk where organization = ${organization}`,
    );
    expect(chunks?.n).toBe(2);
  });

  it('is not what somebody has just sent again, however long ago it came first', async () => {
    const file = await w.pdf('Again', 1, 'petra');
    await w.forward(clear.keptFor.file + 1);
    await w.pdf('Again', 1, 'petra');
    await clear.clearAway(organization);
    const { circulation } = await w.ask('petra', 'desk.sendQuick', {
      file: file.hash,
      name: 'again.pdf',
      title: 'Again',
      people: [{ kind: 'person', person: 'oskar' }],
    });
    expect((await w.ask('oskar', 'circulation.view', { circulation })).record.title).toBe('Again');
  });

  it('is never a file that a draft, a circulation or a released revision needs', async () => {
    const file = await w.pdf('Needed', 1, 'petra');
    const { circulation } = await w.ask('petra', 'desk.sendQuick', {
      file: file.hash,
      name: 'x.pdf',
      title: 'Needed',
      people: [{ kind: 'person', person: 'oskar' }],
    });
    const view = await w.ask('oskar', 'circulation.view', { circulation });
    const seat = view.seats[0];
    if (!seat) throw new Error('no seat');
    await w.ask('oskar', 'seat.decideMine', {
      ...{ circulation, seat: seat.id, epoch: seat.epoch, scope: seat.scope ?? '' },
      outcome: 'approved',
    });
    await w.work();
    await w.ask('petra', 'circulation.release', { circulation });
    const { finals, evidence } = await w.ask('petra', 'circulation.view', { circulation });
    expect(finals).not.toBeNull();
    await w.forward(400 * day);
    for (let i = 0; i < 3; i += 1) await clear.clearAway(organization);
    for (const hash of [file.hash, evidence ?? '', ...(finals?.files ?? []).map((one) => one.file)]) {
      const kept = await w.inOrganization(organization, (tx) => store.findFile(tx, hash));
      if (!kept) throw new Error(`${hash} is gone`);
      await store.readWhole(organization, kept);
    }
  });

  it('is a job that went through, an answered command and a session that is over, each at its own time', async () => {
    const counts = async () => {
      const [row] = await w.inOrganization(
        organization,
        (tx) => tx.sql<{ jobs: number; commands: number; sessions: number }[]>`
          select (select count(*)::int from job where organization = ${organization} and state = 'done') as jobs,
                 (select count(*)::int from command where organization = ${organization}) as commands,
                 (select count(*)::int from session where organization = ${organization}) as sessions`,
      );
      return row ?? { jobs: 0, commands: 0, sessions: 0 };
    };
    // Everybody's session ended long ago.
    await clear.clearAway(organization);
    expect(await counts()).toEqual({ jobs: 0, commands: 0, sessions: 0 });
    const { openSession } = await import('@/server/auth/sessions');
    w.cookies.set('ines', await w.inOrganization(organization, (tx) => openSession(tx, 'ines', '127.0.0.1')));
    await w.ask('ines', 'people.addOutside', { name: 'Ada Lund', email: `${randomUUID()}@x.example`, zone: 'UTC' });
    const before = await counts();
    expect(before.commands).toBe(1);
    await w.forward(clear.keptFor.job + 1000);
    await clear.clearAway(organization);
    expect(await counts()).toMatchObject({ commands: 1, sessions: 0 });
    await w.forward(clear.keptFor.command);
    await clear.clearAway(organization);
    expect((await counts()).commands).toBe(0);
  });
});
