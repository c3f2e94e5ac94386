import { randomUUID } from 'node:crypto';
import path from 'node:path';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { clientAddress } from '@/server/operations/address';

const database = `avenda_t_${randomUUID().slice(0, 8)}`;
let ownerUrl = '';
let cookie: string | undefined;

const load = async () => ({
  ...(await import('@/server/operations/handle')),
  ...(await import('@/server/operations/registry')),
  ...(await import('@/entry/operations')),
  ...(await import('@/server/admin/setup')),
  ...(await import('@/server/db/connect')),
  ...(await import('@/server/settings')),
  ...(await import('@/server/jobs/work')),
});
let a: Awaited<ReturnType<typeof load>>;

beforeAll(async () => {
  ownerUrl = inject('ownerUrl').replace(/avenda_template$/, database);
  const admin = postgres(inject('ownerUrl').replace(/\/avenda_template$/, '/postgres'), { max: 1 });
  await admin.unsafe(`create database ${database}`);
  await admin.end();
  Object.assign(process.env, {
    AVENDA_MODE: 'real',
    AVENDA_SECRET: inject('secret'),
    AVENDA_URL: 'https://avenda.example',
    DATABASE_URL: ownerUrl,
    AVENDA_LOG: 'silent',
  });
  delete process.env.SMTP_URL;
  const { migrate } = await import('@/server/db/migrate');
  const options = {
    ownerUrl,
    secret: inject('secret'),
    folder: path.resolve(import.meta.dirname, '../../db/migrations'),
  };
  await migrate({ ...options, mode: 'real' });
  // Migrating again changes nothing, and the database is not opened as anything else.
  expect(await migrate({ ...options, mode: 'real' })).toEqual([]);
  await expect(migrate({ ...options, mode: 'demo' })).rejects.toThrow('belongs to a real installation');
  a = await load();
});
afterAll(async () => {
  await a.disconnect();
});

const put = async (name: string, input: object) => {
  const operation = a.everyOperation.get(name);
  if (!operation) throw new Error(`no operation ${name}`);
  const answer = await a.handle(
    operation,
    operation.kind === 'command' ? { ...input, commandId: randomUUID() } : input,
    {
      address: '192.0.2.1',
      agent: 'test',
      by: { kind: 'session', secret: cookie },
      page: undefined,
      setCookie: (set) => {
        cookie = set.value;
      },
    },
  );
  return answer.ok ? answer.value : `${answer.status} ${answer.refusal.code}`;
};

describe('a real installation', () => {
  const first = {
    organization: 'Marrowfell Ropeway',
    prefix: 'mr',
    zone: 'Europe/Oslo',
    name: 'Thea Lindqvist',
    email: 'Thea@marrowfell.example',
    password: 'over the midfell span',
  };

  it('is set up once, with the code from the console', async () => {
    expect(await put('auth.look', {})).toEqual({ mode: 'real', empty: true, people: [] });
    expect(await put('auth.setUp', { ...first, code: 'wrong' })).toBe('403 wrong-code');
    expect(await put('auth.setUp', { ...first, code: a.setUpCode(), password: 'short' })).toBe('422 weak-password');
    expect(await put('auth.setUp', { ...first, code: a.setUpCode(), zone: 'Nowhere/Here' })).toBe('422 bad-input');
    // Two at once make one organization.
    const both = await Promise.all([1, 2].map(() => put('auth.setUp', { ...first, code: a.setUpCode() })));
    expect(both.sort()).toEqual(['409 set-up-over', null]);
    expect(await put('auth.setUp', { ...first, code: a.setUpCode() })).toBe('409 set-up-over');
    expect(await put('session.me', {})).toMatchObject({
      mode: 'real',
      mailQueued: 0,
      me: { name: 'Thea Lindqvist', roles: ['administrator', 'controller'] },
    });
  });

  it('signs in by mail address and password, and signs out', async () => {
    await put('session.end', {});
    cookie = undefined;
    expect(await put('session.me', {})).toBe('401 signed-out');
    expect(await put('auth.signIn', { email: first.email, password: 'not the one' })).toBe('401 wrong-sign-in');
    expect(await put('auth.signIn', { email: 'nobody@marrowfell.example', password: first.password })).toBe(
      '401 wrong-sign-in',
    );
    expect(await put('auth.signIn', { email: first.email, password: first.password })).toBeNull();
    expect(await put('session.me', {})).toMatchObject({ me: { name: 'Thea Lindqvist' } });
  });

  it('has no person picker, no Post room and no clock, whoever asks', async () => {
    expect(await put('auth.enterAs', { person: 'ines' })).toBe('404 not-found');
    expect(await put('post.list', {})).toBe('404 not-found');
    expect(await put('clock.forward', { hours: 4 })).toBe('404 not-found');
    const [organization] = await a.organizations();
    const move = a.inOrganization(organization ?? '', (tx) => tx.sql`insert into clock (forward_ms) values (1)`);
    await expect(move).rejects.toThrow('never moved');
    await expect(a.inOrganization(organization ?? '', async () => null, { at: 5 })).rejects.toThrow('only the demo');
  });

  it('keeps letters queued while no mail server is set, and says how many', async () => {
    await put('people.add', {
      name: 'Ines Halloran',
      email: 'ines@marrowfell.example',
      zone: 'Europe/Oslo',
      roles: ['controller'],
    });
    const [organization] = await a.organizations();
    expect(await a.workOff(organization ?? '', null)).toBe(0);
    expect(await put('session.me', {})).toMatchObject({ mailQueued: 1 });
  });

  it('refuses to start without its secrets, with a sentence', () => {
    const good = { AVENDA_SECRET: 'x'.repeat(32), AVENDA_URL: 'https://a.example', DATABASE_URL: 'postgres://x' };
    expect(a.readSettings(good).mode).toBe('real');
    for (const name of ['AVENDA_SECRET', 'AVENDA_URL', 'DATABASE_URL'])
      expect(() => a.readSettings({ ...good, [name]: '' }), name).toThrow(`The setting ${name} is missing.`);
    expect(() => a.readSettings({ ...good, AVENDA_SECRET: 'short' })).toThrow('at least 32 characters');
    expect(() => a.readSettings({ ...good, AVENDA_UPLOAD_MB: 'many' })).toThrow('must be a number');
  });
});

describe('the client’s address', () => {
  it('is the peer’s, unless a configured proxy passes another on', () => {
    expect(clientAddress('::ffff:198.51.100.7', '203.0.113.9', [])).toBe('198.51.100.7');
    expect(clientAddress('10.0.0.1', '203.0.113.9, 198.51.100.8', ['10.0.0.1'])).toBe('198.51.100.8');
    expect(clientAddress('10.0.0.1', '203.0.113.9, 10.0.0.1', ['10.0.0.1'])).toBe('203.0.113.9');
    expect(clientAddress('10.0.0.1', 'nonsense', ['10.0.0.1'])).toBe('10.0.0.1');
    expect(clientAddress('198.51.100.7', undefined, ['10.0.0.1'])).toBe('198.51.100.7');
  });
});
