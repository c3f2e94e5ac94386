import { createHash, randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { LostRace, sendWrite, type Tx } from '@/server/db/connect';
import { urlFor } from '@/server/db/roles';
import { hint } from '@/server/events/streams';
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
      sendWrite(tx, count(tx, 'sent', 1));
      sendWrite(
        tx,
        tx.sql`update counter set value = value + 41 where organization = ${organization} and name = 'sent'`,
      );
      return 'given';
    });
    expect(given).toBe('given');
    expect(await kept('sent')).toBe(42);
  });

  it('comes to nothing when the last write it sent fails, although the commit was on its way already', async () => {
    const failing = w.inOrganization(organization, async (tx) => {
      sendWrite(tx, count(tx, 'half', 1));
      sendWrite(
        tx,
        tx.sql`insert into counter (organization, name, value) values (${organization}, 'bad', ${'no number'})`,
      );
      return 'given too early';
    });
    await expect(failing).rejects.toThrow(/invalid input syntax/);
    expect(await kept('half')).toBeNull();
  });

  it('tells the first failure, not the ones that only met the failed transaction', async () => {
    const failing = w.inOrganization(organization, async (tx) => {
      sendWrite(tx, tx.sql`insert into counter (organization, name, value) values (${organization}, 'bad', null)`);
      sendWrite(tx, count(tx, 'after', 1));
      await tx.sql`select 1`;
    });
    await expect(failing).rejects.toThrow(/null value in column "value"/);
    expect(await kept('after')).toBeNull();
  });

  it('is tried again when another writer was first, whether the work or a sent write finds out', async () => {
    await w.inOrganization(organization, (tx) => count(tx, 'taken', 1));
    let tries = 0;
    const name = await w.inOrganization(organization, async (tx) => {
      tries += 1;
      if (tries === 1) throw new LostRace('found by the work itself');
      const mine = tries === 2 ? 'taken' : 'free';
      sendWrite(tx, count(tx, mine, 7));
      return mine;
    });
    expect({ name, tries }).toEqual({ name: 'free', tries: 3 });
    expect([await kept('taken'), await kept('free')]).toEqual([1, 7]);
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
      sendWrite(tx, count(tx, 'lost', 1));
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
        sendWrite(tx, count(tx, name, 1));
        await tx.sql`select pg_sleep(${wait})`;
        sendWrite(tx, tx.sql`update counter set value = 2 where organization = ${organization} and name = ${name}`);
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
    expect(() => over.tx.sql`select 1`).toThrow(/after the end of its transaction/);
  });

  it('tells on entering whom a session stands for and what a command id was answered, each only in its organization', async () => {
    const { asMember } = await import('@/server/auth/sessions');
    const id = randomUUID();
    await w.answer('ines', 'record.create', { title: 'Entered', documentType: 'PRO', owner: 'ines' }, id);
    const seen = await asMember(
      w.cookies.get('ines'),
      async (tx, member) => ({ person: member.person, answered: tx.answered !== null, field: tx.organization }),
      id,
    );
    expect(seen).toEqual({ person: 'ines', answered: true, field: organization });
    const other = await asMember(
      w.cookies.get('ines@neighbours'),
      async (tx, member) => ({ person: member.person, answered: tx.answered !== null, field: tx.organization }),
      id,
    );
    expect(other).toEqual({ person: 'ines', answered: false, field: neighbours });
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
        where query = 'listen avenda_test' and datname = current_database()`;
      expect(thrown?.n).toBe(1);
      await expect.poll(() => missed, { timeout: 10_000 }).toBe(round);
      await other`select pg_notify('avenda_test', ${`after ${round}`})`;
      await expect.poll(() => heard.at(-1)).toBe(`after ${round}`);
    }
    await deaf();
    await other`select pg_notify('avenda_test', 'too late')`;
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(heard).toEqual(['before', 'after 1', 'after 2']);
    await expect
      .poll(async () => (await other`select 1 from pg_stat_activity where query = 'listen avenda_test'`).length)
      .toBe(0);
    await other.end();
  });

  it('hears of a page that opens what was told while it was opening, once each, and of nobody else’s organization', async () => {
    const { subscribe } = await import('@/server/events/hub');
    const tell = (about: string, whose = organization) => w.inOrganization(whose, async (tx) => hint(tx, about));
    const early: string[] = [];
    const deaf = await subscribe(organization, (heard) => early.push(heard));
    // Nobody listened in this process before, so nobody knows what was told.
    expect(early).toEqual(['everything']);
    for (const about of ['circulation a', 'circulation b', 'circulation a']) {
      await tell(about);
      await expect.poll(() => early.at(-1)).toBe(about);
    }
    await tell('circulation c', neighbours);
    const late: string[] = [];
    const deafToo = await subscribe(organization, (heard) => late.push(heard));
    expect(late).toEqual(['circulation b', 'circulation a']);
    await tell('circulation d');
    await expect.poll(() => [early.at(-1), late.at(-1)]).toEqual(['circulation d', 'circulation d']);
    for (const stop of [deaf, deafToo]) stop();
    await tell('circulation e');
    for (let i = 0; i < 600; i += 1) await tell(`circulation ${i}`);
    const last: string[] = [];
    await expect
      .poll(async () => {
        last.length = 0;
        (await subscribe(organization, (heard) => last.push(heard)))();
        return last.at(-1);
      })
      .toBe('circulation 599');
    // More than anybody could follow is one hint.
    expect(last[0]).toBe('everything');
    expect(last.length).toBeLessThan(500);
    expect([...early, ...late]).not.toContain('circulation e');
  });

  it('is told what a process had to say at its end, which then leaves no connection behind', async () => {
    const other = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), 'avenda_app'), { max: 2 });
    const heard: string[] = [];
    await other.listen('avenda_change', (payload) => heard.push(payload));
    await w.inOrganization(organization, async (tx) => hint(tx, 'last words'));
    await w.close();
    await expect.poll(() => heard).toEqual([`${organization} last words`]);
    await new Promise((resolve) => setTimeout(resolve, 100));
    const left = await other`
      select query from pg_stat_activity
      where usename = 'avenda_app' and datname = current_database() and query not ilike 'listen%'
        and pid <> pg_backend_pid()`;
    expect([...left]).toEqual([]);
    await other.end();
  });
});
