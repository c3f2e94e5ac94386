import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Cookie } from '@/server/operations/operation';
import { organization, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

/** Puts an operation as somebody who is not known yet; gives its code and the cookies it set. */
async function asNobody(name: string, input: object, address = '198.51.100.1') {
  const { handle } = await import('@/server/operations/handle');
  const operation = w.registry.get(name);
  if (!operation) throw new Error(`there is no operation ${name}`);
  const cookies: Cookie[] = [];
  const answer = await handle(operation, input, {
    address,
    agent: 'browser',
    by: { kind: 'session', secret: undefined },
    page: undefined,
    setCookie: (cookie) => cookies.push(cookie),
  });
  return { code: answer.ok ? 'ok' : answer.refusal.code, value: answer.ok ? answer.value : null, cookies };
}
const added = async (name: string, email: string) => {
  const { person } = await w.ask('thea', 'people.add', { name, email, zone: 'Europe/Oslo' });
  await w.work();
  return person;
};
const invitationTo = (name: string) =>
  w.linkIn(w.mails.findLast((mail) => mail.to.name.startsWith(name))).replace(/^.*\/invitation\//, '');
const password = 'a long enough password';

describe('a new member', () => {
  it('is refused with the field named as the page names it', async () => {
    const sentence = async (input: object) => {
      const answer = await w.answer('thea', 'people.add', { name: 'Runa Vik', zone: 'Europe/Oslo', ...input });
      return answer.ok ? 'ok' : answer.refusal.sentence;
    };
    expect(await sentence({})).toBe('“Email address” is missing.');
    expect(await sentence({ email: 'nobody' })).toBe('“Email address” does not have the right form.');
    expect(await sentence({ email: 'a@b.example', zone: 'Mars' })).toBe('Choose a time zone such as Europe/Oslo.');
    expect(await sentence({ email: 'a@b.example', work: 'x'.repeat(500) })).toMatch(
      /^“Job title” is too long; at most \d+\.$/,
    );
  });

  it('chooses a password by the invitation, once, and is in', async () => {
    const person = await added('Noor Amadi', 'noor@mr.example');
    const invitation = invitationTo('Noor');
    expect(await asNobody('auth.invitation', { invitation })).toMatchObject({
      value: { name: 'Noor Amadi', organization: 'Marrowfell Ropeway' },
    });
    expect((await asNobody('auth.acceptInvitation', { invitation, password: 'short' })).code).toBe('weak-password');
    const both = await Promise.all(
      [password, `${password} too`].map((one) => asNobody('auth.acceptInvitation', { invitation, password: one })),
    );
    expect(both.map((answer) => answer.code).sort()).toEqual(['invitation-over', 'ok']);
    const [cookie] = both.find((answer) => answer.code === 'ok')?.cookies ?? [];
    w.cookies.set('noor', cookie?.value ?? '');
    expect(await w.ask('noor', 'session.me')).toMatchObject({ me: { id: person, name: 'Noor Amadi' } });
    expect((await asNobody('auth.invitation', { invitation })).code).toBe('invitation-over');
  });

  it('is not let in by an invitation that was made again, is out of date, or is somebody else’s', async () => {
    const person = await added('Dalia Ruiz', 'dalia@mr.example');
    const first = invitationTo('Dalia');
    expect(await w.refused('petra', 'people.inviteAgain', { person })).toBe('not-allowed');
    await w.ask('thea', 'people.inviteAgain', { person });
    await w.work();
    const second = invitationTo('Dalia');
    expect(second).not.toBe(first);
    expect((await asNobody('auth.acceptInvitation', { invitation: first, password })).code).toBe('invitation-over');
    const [whose, nonce, code] = second.split('.');
    for (const forged of [
      '',
      'x',
      `${whose}.${nonce}`,
      `${whose}.${nonce}.${'A'.repeat(32)}`,
      `${randomUUID()}.${nonce}.${code}`,
    ])
      expect((await asNobody('auth.acceptInvitation', { invitation: forged || '-', password })).code, forged).toBe(
        'invitation-over',
      );
    await w.inOrganization(
      organization,
      (tx) =>
        tx.sql`update invitation set expires = ${tx.now} where organization = ${organization} and person = ${person}`,
    );
    expect((await asNobody('auth.acceptInvitation', { invitation: second, password })).code).toBe('invitation-over');
  });

  it('cannot share a mail address with another, but an outside person of that address may be there too', async () => {
    await added('Caspian Bell', 'caspian@mr.example');
    expect(
      await w.refused('thea', 'people.add', { name: 'Another', email: 'CASPIAN@mr.example', zone: 'Europe/Oslo' }),
    ).toBe('address-taken');
    const outside = { name: 'Caspian Bell', email: 'caspian@mr.example', zone: 'Europe/London' };
    const one = await w.ask('petra', 'people.addOutside', outside);
    const two = await w.ask('oskar', 'people.addOutside', { ...outside, name: 'C. Bell' });
    expect([one.known, two]).toEqual([false, { ...one, known: true }]);
    for (const input of [
      { ...outside, zone: 'Middle/Nowhere' },
      { ...outside, email: 'no address' },
      { ...outside, name: 'x'.repeat(121) },
    ])
      expect(await w.refused('petra', 'people.addOutside', input)).toBe('bad-input');
  });
});

describe('somebody who leaves', () => {
  it('is signed out everywhere at once, cannot sign in, and gets no mail', async () => {
    const { openSession } = await import('@/server/auth/sessions');
    const second = await w.inOrganization(organization, (tx) => openSession(tx, 'oskar', '127.0.0.1'));
    w.cookies.set('oskar at home', second);
    await w.ask('oskar', 'session.me');
    await w.ask('oskar at home', 'session.me');
    expect(await w.refused('ines', 'people.leave', { person: 'oskar', left: true })).toBe('not-allowed');
    await w.ask('thea', 'people.leave', { person: 'oskar', left: true });
    expect(await w.refused('oskar', 'session.me')).toBe('signed-out');
    expect(await w.refused('oskar at home', 'session.me')).toBe('signed-out');
    expect((await asNobody('auth.enterAs', { person: 'oskar' })).code).not.toBe('ok');
    const file = await w.pdf('For somebody who left', 1, 'petra');
    const send = { file: file.hash, name: 'x.pdf', title: 'Left', people: [{ kind: 'person', person: 'oskar' }] };
    expect(await w.refused('petra', 'desk.sendQuick', send)).toMatch(/person-left|unknown-person/);
  });

  it('can come back, with a new session only; nobody can leave themselves out, or turn an outside person out', async () => {
    await w.ask('thea', 'people.leave', { person: 'oskar', left: false });
    expect(await w.refused('oskar', 'session.me')).toBe('signed-out');
    expect(await w.refused('thea', 'people.leave', { person: 'thea', left: true })).toBe('unknown-person');
    expect(await w.refused('thea', 'people.leave', { person: 'jarek', left: true })).toBe('unknown-person');
    expect(await w.refused('thea', 'people.leave', { person: 'nobody', left: true })).toBe('unknown-person');
  });
});

describe('an invitation', () => {
  it('that cannot be delivered is told to administrators alone; whoever leaves before taking it up comes back invited', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const { person } = await w.ask('thea', 'people.add', {
      name: 'Marit Solheim',
      email: 'marit@mr.example',
      zone: 'Europe/Oslo',
    });
    const seenBy = async (who: string) => {
      const people = (await w.ask(who, 'people.list', { filter: 'marit' })).rows;
      const found = people.find((candidate) => candidate.id === person);
      return [found?.state, found?.unreached];
    };
    await workOff(organization, async () => {
      throw new Error('no such address');
    });
    expect(await seenBy('thea')).toEqual(['invited', true]);
    expect(await seenBy('ines')).toEqual(['invited', undefined]);
    await w.forward(3_600_001);
    await w.work();
    expect(await seenBy('thea')).toEqual(['invited', undefined]);
    await w.ask('thea', 'people.leave', { person, left: true });
    expect(await seenBy('thea')).toEqual(['left', undefined]);
    await w.ask('thea', 'people.leave', { person, left: false });
    expect(await seenBy('thea')).toEqual(['invited', undefined]);
    await w.ask('thea', 'people.inviteAgain', { person });
  });
});

describe('signing in', () => {
  it('counts tries by address and account together: a stranger’s guesses do not lock the owner out', async () => {
    await w.toNextQuarter();
    const tries: string[] = [];
    const wrong = { email: 'yuki@mr.example', password: 'wrong' };
    for (let i = 0; i < 11; i += 1) tries.push((await asNobody('auth.signIn', wrong, '198.51.100.7')).code);
    expect(tries).toEqual([...Array(10).fill('wrong-sign-in'), 'too-often']);
    expect((await asNobody('auth.signIn', wrong, '198.51.100.8')).code).toBe('wrong-sign-in');
    // The quarter passes, the address is free again.
    await w.toNextQuarter();
    expect((await asNobody('auth.signIn', wrong, '198.51.100.7')).code).toBe('wrong-sign-in');
  });

  it('counts guesses from many addresses by account, but not for one from which the owner is signed in', async () => {
    await w.toNextQuarter();
    const { countTry } = await import('@/server/auth/sessions');
    const { outsideOrganizations } = await import('@/server/db/connect');
    const wrong = { email: 'yuki@mr.example', password: 'wrong' };
    await outsideOrganizations(async (sql, now) => {
      for (let i = 0; i < 100; i += 1) await countTry(sql, now, `account ${wrong.email}`, 100);
    });
    expect((await asNobody('auth.signIn', wrong, '198.51.100.9')).code).toBe('too-often');
    // Yuki's session was opened from here.
    expect((await asNobody('auth.signIn', wrong, '127.0.0.1')).code).toBe('wrong-sign-in');
    await w.toNextQuarter();
  });

  it('says the same for an unknown address as for a wrong password, and keeps no address readable outside of its organization', async () => {
    const unknown = await asNobody('auth.signIn', { email: 'stranger@mr.example', password });
    const wrong = await asNobody('auth.signIn', { email: 'petra@mr.example', password });
    expect([unknown.code, wrong.code]).toEqual(['wrong-sign-in', 'wrong-sign-in']);
    const { outsideOrganizations } = await import('@/server/db/connect');
    const rows = await outsideOrganizations(
      (sql) => sql<{ row: string }[]>`
        select row_to_json(sign_in_address)::text as row from sign_in_address union all select row_to_json(attempt)::text from attempt`,
    );
    expect(rows.length).toBeGreaterThan(5);
    for (const { row } of rows) expect(row).not.toMatch(/petra|yuki|example|198\.51/);
  });
});

describe('somebody who is a member and known outside by the same address', () => {
  it('is one person: not asked twice in a stage, and not to approve what they wrote', async () => {
    const { person } = await w.ask('ines', 'people.addOutside', {
      name: 'P. Novak',
      email: 'petra@mr.example',
      zone: 'Europe/Oslo',
    });
    const file = await w.pdf('Twice', 1, 'petra');
    const send = (by: string, people: { kind: 'person' | 'outside'; person: string }[]) =>
      w.answer(by, 'desk.sendQuick', { file: file.hash, name: 'twice.pdf', title: 'Twice', verb: 'approve', people });
    const both = await send('petra', [{ kind: 'outside', person }]);
    expect(both.ok ? 'ok' : both.refusal.code).toBe('preflight');
    const own = await w.pdf('Twice again', 1, 'ines');
    const twice = await w.answer('ines', 'desk.sendQuick', {
      file: own.hash,
      name: 'twice.pdf',
      title: 'Twice',
      verb: 'review',
      people: [
        { kind: 'person', person: 'petra' },
        { kind: 'outside', person },
      ],
    });
    expect(twice.ok ? 'ok' : twice.refusal.code).toBe('preflight');
  });
});
