import { createHash, randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Role } from '@/core/access/may';
import { type Change, LostRace, notify, sendWrite, type Tx } from '@/server/db/connect';
import { urlFor } from '@/server/db/roles';
import { neighbours, organization, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const count = (tx: Tx, name: string, value: number) =>
  tx.sql`insert into counter (organization, name, value) values (${tx.organization}, ${name}, ${value})`;
const kept = async (name: string) =>
  w.inOrganization(organization, async (tx) => {
    const [row] = await tx.sql<{ value: number }[]>`
      select value from counter where organization = ${organization} and name = ${name}`;
    return row?.value ?? null;
  });

describe('a transaction', () => {
  it('keeps writes that were sent without waiting, and hands on what its work gave', async () => {
    const given = await w.inOrganization(organization, async (tx) => {
      sendWrite(count(tx, 'sent', 1));
      sendWrite(tx.sql`update counter set value = value + 41 where organization = ${organization} and name = 'sent'`);
      return 'given';
    });
    expect(given).toBe('given');
    expect(await kept('sent')).toBe(42);
  });

  it('writes nothing and sees one moment where it only reads', async () => {
    const writing = w.inOrganization(organization, (tx) => count(tx, 'read', 1), { reads: true });
    await expect(writing).rejects.toThrow(/read-only transaction/);
    expect(await kept('read')).toBeNull();
    const seen = await w.inOrganization(
      organization,
      async (tx) => {
        const look = () => tx.sql`select value from counter where name = 'meanwhile'`;
        const before = await look();
        await w.inOrganization(organization, (other) => count(other, 'meanwhile', 1));
        return [before.length, (await look()).length];
      },
      { reads: true },
    );
    expect(seen).toEqual([0, 0]);
    expect(await kept('meanwhile')).toBe(1);
  });

  it('comes to nothing when the last write it sent fails, although the commit was on its way already', async () => {
    const failing = w.inOrganization(organization, async (tx) => {
      sendWrite(count(tx, 'half', 1));
      sendWrite(
        tx.sql`insert into counter (organization, name, value) values (${organization}, 'bad', ${'no number'})`,
      );
      return 'given too early';
    });
    await expect(failing).rejects.toThrow(/invalid input syntax/);
    expect(await kept('half')).toBeNull();
  });

  it('tells the first failure, not the ones that only met the failed transaction', async () => {
    const failing = w.inOrganization(organization, async (tx) => {
      sendWrite(tx.sql`insert into counter (organization, name, value) values (${organization}, 'bad', null)`);
      sendWrite(count(tx, 'after', 1));
      await tx.sql`select 1`;
    });
    await expect(failing).rejects.toThrow(/null value in column "value"/);
    expect(await kept('after')).toBeNull();
  });

  it('is tried again when another writer was first, whether the work or a sent write finds out', async () => {
    // What two can be first at: an event's place, a number, a command's id.
    const claim = (tx: Tx, id: string) =>
      tx.sql`insert into command (organization, id, content, answer, at) values (${tx.organization}, ${id}, '', 'null', 0)`;
    await w.inOrganization(organization, (tx) => claim(tx, 'taken'));
    let tries = 0;
    const name = await w.inOrganization(organization, async (tx) => {
      tries += 1;
      if (tries === 1) throw new LostRace('found by the work itself');
      const mine = tries === 2 ? 'taken' : 'free';
      sendWrite(claim(tx, mine));
      return mine;
    });
    expect({ name, tries }).toEqual({ name: 'free', tries: 3 });
  });

  it('gives up a race that it loses every time, instead of trying for ever', async () => {
    let tries = 0;
    const losing = w.inOrganization(organization, async () => {
      tries += 1;
      throw new LostRace('again');
    });
    await expect(losing).rejects.toThrow('again');
    expect(tries).toBe(8);
  });

  it('is refused as a whole when its connection is lost on the way, and the next one works', async () => {
    const other = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), 'avenda_app'), { max: 1 });
    const lost = w.inOrganization(organization, async (tx) => {
      sendWrite(count(tx, 'lost', 1));
      const [row] = await tx.sql<{ pid: number }[]>`select pg_backend_pid() as pid`;
      await other`select pg_terminate_backend(${row?.pid ?? 0})`;
      await tx.sql`select 1`;
    });
    await expect(lost).rejects.toThrow();
    await other.end();
    expect(await kept('lost')).toBeNull();
  });

  it('outlives a database that throws everybody out: what ran is refused or kept whole, what comes after works', async () => {
    const other = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), 'avenda_app'), { max: 1 });
    const one = (name: string, wait: number) =>
      w.inOrganization(organization, async (tx) => {
        sendWrite(count(tx, name, 1));
        await tx.sql`select pg_sleep(${wait})`;
        sendWrite(tx.sql`update counter set value = 2 where organization = ${organization} and name = ${name}`);
        return name;
      });
    // More at once than there are connections, so that some still wait for one.
    const names = Array.from({ length: 40 }, (_, i) => `thrown ${i}`);
    const running = Promise.allSettled(names.map((name, i) => one(name, (i % 5) / 20)));
    await new Promise((resolve) => setTimeout(resolve, 100));
    const [thrown] = await other<{ n: number }[]>`
      select count(pg_terminate_backend(pid))::int as n from pg_stat_activity
      where usename = 'avenda_app' and datname = current_database() and pid <> pg_backend_pid()`;
    await other.end();
    expect(thrown?.n).toBeGreaterThan(5);
    const answers = await running;
    expect(answers.some((answer) => answer.status === 'rejected')).toBe(true);
    for (const [i, answer] of answers.entries()) {
      const value = await kept(names[i] ?? '');
      // A commit that was cut off on its way back may have counted; half of one never.
      if (answer.status === 'fulfilled') expect(value).toBe(2);
      else expect([null, 2]).toContain(value);
    }
    expect(await Promise.all(names.map((name) => one(`${name} again`, 0)))).toHaveLength(40);
  });

  it('takes no statement after its end, which would run outside of it', async () => {
    const over = await w.inOrganization(organization, async (tx) => ({ tx }));
    await expect(over.tx.sql`select 1`).rejects.toThrow(/after the end of its transaction/);
  });

  it('tells on entering whom a session stands for and what a command id was answered, each only in its organization', async () => {
    const { asMember } = await import('@/server/auth/sessions');
    const id = randomUUID();
    await w.answer('ines', 'record.create', { title: 'Entered', documentType: 'PRO', owner: 'ines' }, id);
    const seen = await asMember(
      w.cookies.get('ines'),
      async (tx, member) => ({ person: member.person, answered: tx.answered !== null, whose: tx.organization }),
      { command: id },
    );
    expect(seen).toEqual({ person: 'ines', answered: true, whose: organization });
    const other = await asMember(
      w.cookies.get('ines@neighbours'),
      async (tx, member) => ({ person: member.person, answered: tx.answered !== null, whose: tx.organization }),
      { command: id },
    );
    expect(other).toEqual({ person: 'ines', answered: false, whose: neighbours });
    // The secret of one organization's session under the name of another stands for nobody.
    const [, secret] = (w.cookies.get('ines') ?? '').split('.');
    expect(await asMember(`${neighbours}.${secret}`, async () => 'somebody')).toBeNull();
    expect(await asMember(undefined, async () => 'somebody')).toBeNull();
    expect(await asMember('nonsense', async () => 'somebody')).toBeNull();
  });

  it('knows nobody by a session that is over, or by one of somebody who left', async () => {
    const { asMember, openSession } = await import('@/server/auth/sessions');
    const cookie = await w.inOrganization(organization, (tx) => openSession(tx, 'petra', '127.0.0.1'));
    const token = createHash('sha256')
      .update(cookie.split('.')[1] ?? '')
      .digest('hex');
    const who = () => asMember(cookie, async (_, member) => member.person);
    expect(await who()).toBe('petra');
    await w.inOrganization(
      organization,
      (tx) => tx.sql`update person set state = 'left' where organization = ${organization} and id = 'petra'`,
    );
    expect(await who()).toBeNull();
    await w.inOrganization(organization, async (tx) => {
      await tx.sql`update person set state = 'active' where organization = ${organization} and id = 'petra'`;
      await tx.sql`update session set expires = ${tx.now} where organization = ${organization} and token = ${token}`;
    });
    expect(await who()).toBeNull();
  });
});

describe('listening', () => {
  it('goes on after the connection was lost, says that something may have been missed, and ends when it is told to', async () => {
    const { listen } = await import('@/server/db/connect');
    const heard: string[] = [];
    let missed = 0;
    const deaf = await listen(
      'avenda_test',
      (payload) => heard.push(payload),
      () => {
        missed += 1;
      },
    );
    const other = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), 'avenda_app'), { max: 1 });
    await other`select pg_notify('avenda_test', 'before')`;
    await expect.poll(() => heard).toEqual(['before']);
    for (const round of [1, 2]) {
      const [thrown] = await other<{ n: number }[]>`
        select count(pg_terminate_backend(pid))::int as n from pg_stat_activity
        where query ilike 'listen%avenda_test%' and datname = current_database()`;
      expect(thrown?.n).toBe(1);
      await expect.poll(() => missed).toBe(round);
      await other`select pg_notify('avenda_test', ${`after ${round}`})`;
      await expect.poll(() => heard.at(-1)).toBe(`after ${round}`);
    }
    await deaf();
    await other`select pg_notify('avenda_test', 'too late')`;
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(heard).toEqual(['before', 'after 1', 'after 2']);
    await other.end();
  });

  describe('for pages', () => {
    const tell = (topic: Change['topic'], id: string, also: string[] = [], whose = organization) =>
      w.inOrganization(whose, async (tx) => notify(tx, topic, id, also));
    /** A page that listens: what it was told, in short, and whether its stream was ended. */
    async function listening(person: string, session: string, roles: Role[] = [], whose = organization) {
      const { follow } = await import('@/server/events/changes');
      const told: string[] = [];
      const state = { ended: false };
      const stop = await follow({
        since: 0,
        organization: whose,
        person,
        roles,
        session,
        tell: (text) => told.push(JSON.parse(text).topic),
        end: () => {
          state.ended = true;
        },
      });
      return { told, state, stop };
    }
    const until = (page: { told: string[] }, topic: string) => expect.poll(() => page.told).toContain(topic);

    it('tells what changed to those it concerns: who has a part in it, who controls all, and nobody of another organization', async () => {
      const file = await w.pdf('Told to whom', 1, 'petra');
      const { circulation } = await w.ask('petra', 'desk.sendQuick', {
        file: file.hash,
        name: 'x.pdf',
        title: 'Told to whom',
        people: [{ kind: 'person', person: 'oskar' }],
      });
      // Nobody listened in this process before, so nobody knows what was told.
      const part = await listening('oskar', 's1');
      expect(part.told[0]).toBe('everything');
      const control = await listening('ines', 's2', ['controller']);
      const none = await listening('yuki', 's3');
      const next = await listening('ines', 's4', ['controller'], neighbours);
      await tell('circulation', circulation);
      await tell('draft', 'd1', ['yuki']);
      await tell('people', '');
      await tell('clock', '', [], neighbours);
      for (const page of [part, control, none]) await until(page, 'people');
      await until(next, 'clock');
      // Whom it concerns is asked for each, so they need not come in their order.
      for (const page of [part, control]) await until(page, `circulation ${circulation}`);
      await until(none, 'draft d1');
      const about = (page: { told: string[] }) => page.told.filter((topic) => /circulation|draft/.test(topic));
      expect(about(part)).toContain(`circulation ${circulation}`);
      expect(about(control)).toContain(`circulation ${circulation}`);
      expect([about(part), about(control)].flat()).not.toContain('draft d1');
      expect(about(none)).toEqual(['draft d1']);
      expect(next.told).not.toContain('people');
      expect(about(next)).toEqual([]);
      for (const page of [part, control, none, next]) page.stop();
    });

    it('tells a page that opens what was told while it was opening, once each', async () => {
      const early = await listening('petra', 's1');
      for (const id of ['one', 'two', 'one']) {
        await tell('record', id);
        await until(early, `record ${id}`);
      }
      const late = await listening('petra', 's2');
      expect(late.told.filter((topic) => /record (one|two)/.test(topic)).sort()).toEqual(['record one', 'record two']);
      early.stop();
      await tell('record', 'three');
      await until(late, 'record three');
      expect(early.told).not.toContain('record three');
      late.stop();
    });

    it('ends its streams with the session, and the oldest of a session that opens too many', async () => {
      const pages: Awaited<ReturnType<typeof listening>>[] = [];
      for (let i = 0; i < 8; i += 1) pages.push(await listening('petra', 'many'));
      expect(pages.map((page) => page.state.ended)).toEqual([true, true, ...Array(6).fill(false)]);
      const other = await listening('petra', 'another');
      await tell('session', 'many');
      await expect.poll(() => pages.every((page) => page.state.ended)).toBe(true);
      expect(other.state.ended).toBe(false);
      for (const page of [...pages, other]) page.stop();
    });
  });

  it('is told what a process had to say at its end, which then leaves no connection behind', async () => {
    const other = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), 'avenda_app'), { max: 2 });
    const heard: string[] = [];
    await other.listen('avenda_change', (payload) => heard.push(payload));
    await w.inOrganization(organization, async (tx) => notify(tx, 'record', 'last words'));
    await w.close();
    await expect
      .poll(() => heard.map((payload) => JSON.parse(payload)))
      .toEqual([{ organization, topic: 'record', id: 'last words' }]);
    await new Promise((resolve) => setTimeout(resolve, 100));
    const left = await other`
      select query from pg_stat_activity
      where usename = 'avenda_app' and datname = current_database() and query not ilike 'listen%'
        and pid <> pg_backend_pid()`;
    expect([...left]).toEqual([]);
    await other.end();
  });
});
