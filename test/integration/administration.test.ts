import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sentence } from '@/core/circulation/telling/sentences';
import { pastAt } from '@/core/people/past';
import type { Cookie } from '@/server/operations/operation';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  delete process.env.SMTP_URL;
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const long = 'over the midfell span';

/** Puts an operation with a cookie or without; gives its code, sentence, value and the cookies it set. */
async function put(name: string, input: object, secret?: string, address = '198.51.100.7') {
  const { handle } = await import('@/server/operations/handle');
  const operation = w.registry.get(name);
  if (!operation) throw new Error(`there is no operation ${name}`);
  const cookies: Cookie[] = [];
  const given =
    operation.kind === 'command' && operation.who === 'member' ? { ...input, commandId: randomUUID() } : input;
  const answer = await handle(operation, given, {
    address,
    agent: 'browser',
    by: { kind: 'session', secret },
    page: undefined,
    setCookie: (cookie) => cookies.push(cookie),
  });
  return {
    code: answer.ok ? 'ok' : answer.refusal.code,
    sentence: answer.ok ? '' : answer.refusal.sentence,
    value: answer.ok ? answer.value : null,
    cookie: cookies[0]?.value,
  };
}
const lastLink = (to: string) =>
  w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === to)).replace(/^.*\/invitation\//, '');
const member = async (name: string, email: string) => {
  const { person } = await w.ask('thea', 'people.add', { name, email, zone: 'Europe/Oslo' });
  await w.work();
  const accepted = await put('auth.acceptInvitation', {
    invitation: lastLink(email.split('@')[0] ?? ''),
    password: long,
  });
  if (!accepted.cookie) throw new Error(`${name} got no session: ${accepted.code}`);
  return { person, cookie: accepted.cookie };
};

describe('a name that changes', () => {
  it('leaves what happened before with the name of its time: trail, comments, evidence; and is itself on record', async () => {
    const { change, circulation } = await begun('Guy ropes');
    const asked = stage('approve', ['oskar', 'petra']);
    await w.ask('ines', 'circulation.plan', { circulation, route: inSeries(asked) });
    const file = await w.pdf('Guy ropes');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'guys.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    await w.ask('ines', 'circulation.send', { circulation });
    const seatOf = async (person: string) => {
      const { seats, scopes } = await w.ask('ines', 'circulation.view', { circulation }).then(async (view) => ({
        seats: view.seats,
        scopes: (
          await w.ask(person, 'seat.mine', { circulation, seat: view.seats.find((s) => s.holder === person)?.id ?? '' })
        ).content?.scope,
      }));
      const seat = seats.find((one) => one.holder === person);
      return { circulation, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0, scope: scopes ?? '' };
    };
    await w.ask('oskar', 'circulation.comment', {
      circulation,
      comment: 'c1',
      file: (await w.ask('ines', 'circulation.view', { circulation })).versions[0]?.files[0]?.file ?? '',
      note: 'Fine',
    });
    await w.ask('oskar', 'seat.decideMine', { ...(await seatOf('oskar')), outcome: 'approved', note: 'As it was.' });
    const told = async () => {
      const view = await w.ask('ines', 'circulation.view', { circulation });
      const names = new Map(
        (await w.ask('ines', 'people.named', { people: ['ines', 'rufus', 'oskar', 'petra'] })).map((one) => [
          one.id,
          one.name,
        ]),
      );
      return view.trail.map((line) =>
        sentence(line, {
          name: (id, at) => pastAt(view.past, id, at)?.name ?? names.get(id) ?? id,
          moment: (at) => String(at),
          value: (value) => JSON.stringify(value),
        }),
      );
    };
    const before = await told();
    expect(before.join('\n')).toContain('Oskar Thiele');
    await w.forward(60_000);
    await w.ask('oskar', 'session.describe', { name: 'Oskar Vinterberg', work: 'Head of rescue', zone: 'Europe/Oslo' });
    expect(await told()).toEqual(before);
    await w.forward(60_000);
    await w.ask('petra', 'seat.decideMine', { ...(await seatOf('petra')), outcome: 'approved' });
    const after = await told();
    expect(after.slice(0, before.length)).toEqual(before);
    await w.work();
    await w.ask('ines', 'circulation.release', { circulation });
    await w.work();
    const view = await w.ask('ines', 'circulation.view', { circulation });
    const text = await evidenceText(view.evidence ?? '');
    expect(text).toContain('Oskar Thiele');
    expect(text).not.toContain('Vinterberg');
    expect(text).not.toContain('could have used it');
    const record = await w.ask('ines', 'record.view', { record: view.record.id });
    // Whoever approved it is told by the name under which they did.
    expect(record.approvers.map(({ person, at }) => pastAt(record.past, person, at)?.name ?? person)).toEqual([
      'Oskar Thiele',
      'petra',
    ]);
    // Today's name is today's everywhere else, and the register is found by it.
    await w.ask('thea', 'people.describe', {
      person: 'rufus',
      name: 'Rufus Adeyemi-Lund',
      work: 'Workshop',
      roles: [],
    });
    const found = await w.ask('ines', 'register.list', { filter: 'adeyemi-lund', after: null });
    expect(found.rows.length).toBeGreaterThan(0);
  });

  it('is noticed when the name that was kept is forged, and says so where it was erased', async () => {
    const { checkStream } = await import('@/server/events/check');
    const { pastOf } = await import('@/server/admin/describePerson');
    const check = () => w.inOrganization(organization, (tx) => checkStream(tx, 'administration'));
    const past = () => w.inOrganization(organization, (tx) => pastOf(tx, ['oskar']));
    expect((await check()).faults).toEqual([]);
    expect((await past()).map(({ name }) => name)).toEqual(['Oskar Thiele']);
    const { default: postgres } = await import('postgres');
    const owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    await owner`select set_config('avenda.organization', ${organization}, false)`;
    await owner`alter table payload disable trigger payload_stays`;
    const [row = { hash: '', content: '' }] = await owner<{ hash: string; content: string }[]>`
      select hash, content from payload where hash = (select before from person_past where person = 'oskar')`;
    const keep = (content: string | null) => owner`update payload set content = ${content} where hash = ${row.hash}`;
    await keep(row.content.replace('Thiele', 'Nobody'));
    expect((await check()).faults.map(({ what }) => what)).toEqual(['payload-changed']);
    expect((await past())[0]?.name).toMatch(/no longer what was written/);
    await keep(null);
    expect(await check()).toMatchObject({ faults: [], erased: 1 });
    expect((await past())[0]?.name).toMatch(/was erased/);
    await owner.end();
  });
});

async function begun(title: string) {
  const { record } = await w.ask('ines', 'record.create', { title, documentType: 'PRO', owner: 'rufus' });
  return w.ask('ines', 'change.start', { records: [record], reason: 'It is due', author: 'rufus' });
}

async function evidenceText(hash: string): Promise<string> {
  const { readWhole, findFile } = await import('@/server/files/store');
  const { execFileSync } = await import('node:child_process');
  const { writeFileSync, mkdtempSync } = await import('node:fs');
  const stored = await w.inOrganization(organization, (tx) => findFile(tx, hash));
  if (!stored) throw new Error('there is no evidence sheet');
  const folder = mkdtempSync('/tmp/avenda-evidence-');
  writeFileSync(`${folder}/e.pdf`, await readWhole(organization, stored));
  return execFileSync('pdftotext', ['-layout', `${folder}/e.pdf`, '-'], { encoding: 'utf8' });
}

describe('a password', () => {
  it('that was forgotten is chosen anew by a link to the mailbox, once, within the hour; everything open before ends', async () => {
    const { cookie } = await member('Solveig Rand', 'solveig@mr.example');
    const answers = await Promise.all(
      ['solveig@mr.example', 'nobody@mr.example'].map((email) => put('auth.forgotPassword', { email })),
    );
    // Nobody learns from the answer whether there is such an account.
    expect(answers[0]).toEqual(answers[1]);
    await w.work();
    expect(w.mails.filter((mail) => mail.to.address === 'nobody@mr.example')).toEqual([]);
    const link = lastLink('solveig');
    expect(await put('auth.invitation', { invitation: link })).toMatchObject({
      value: { name: 'Solveig Rand', purpose: 'password' },
    });
    // Looking ends nothing.
    expect((await put('session.me', {}, cookie)).code).toBe('ok');
    const chosen = await put('auth.acceptInvitation', { invitation: link, password: `${long} again` });
    expect(chosen.code).toBe('ok');
    expect((await put('session.me', {}, cookie)).code).toBe('signed-out');
    expect((await put('session.me', {}, chosen.cookie)).code).toBe('ok');
    expect((await put('auth.acceptInvitation', { invitation: link, password: long })).code).toBe('invitation-over');
    const sign = (password: string) => put('auth.signIn', { email: 'solveig@mr.example', password });
    expect([(await sign(long)).code, (await sign(`${long} again`)).code]).toEqual(['wrong-sign-in', 'ok']);
    await put('auth.forgotPassword', { email: 'solveig@mr.example' }, undefined, '198.51.100.8');
    await w.work();
    const late = lastLink('solveig');
    await w.forward(3_600_001);
    expect((await put('auth.invitation', { invitation: late })).code).toBe('invitation-over');
  });

  it('is not sent for to whoever was deactivated, nor more than three times in a quarter of an hour', async () => {
    const { person } = await member('Ulf Berg', 'ulf@mr.example');
    await w.toNextQuarter();
    const ask = () => put('auth.forgotPassword', { email: 'ulf@mr.example' }, undefined, '198.51.100.9');
    await ask();
    await w.work();
    const link = lastLink('ulf');
    await w.ask('thea', 'people.leave', { person, left: true });
    expect((await put('auth.acceptInvitation', { invitation: link, password: long })).code).toBe('invitation-over');
    const sent = w.mails.length;
    await ask();
    await w.work();
    expect(w.mails.length).toBe(sent);
    expect([(await ask()).code, (await ask()).code]).toEqual(['ok', 'too-often']);
  });

  it('is changed by whoever knows it; other sessions end, a link for a forgotten one too', async () => {
    const { cookie } = await member('Iben Krag', 'iben@mr.example');
    const other = (await put('auth.signIn', { email: 'iben@mr.example', password: long })).cookie;
    expect(await put('session.list', {}, cookie)).toMatchObject({
      value: [{ current: true, address: '198.51.100.7' }, { current: false }],
    });
    await put('auth.forgotPassword', { email: 'iben@mr.example' }, undefined, '198.51.100.10');
    await w.work();
    const link = lastLink('iben');
    const change = (before: string, password: string) => put('session.changePassword', { before, password }, cookie);
    expect((await change('not this one', `${long} new`)).code).toBe('wrong-password');
    expect((await change(long, 'short')).code).toBe('weak-password');
    expect((await change(long, `${long} new`)).code).toBe('ok');
    expect((await put('session.me', {}, cookie)).code).toBe('ok');
    expect((await put('session.me', {}, other)).code).toBe('signed-out');
    expect((await put('auth.invitation', { invitation: link })).code).toBe('invitation-over');
    const again = (await put('auth.signIn', { email: 'iben@mr.example', password: `${long} new` })).cookie;
    expect((await put('session.endOthers', {}, again)).code).toBe('ok');
    expect((await put('session.me', {}, cookie)).code).toBe('signed-out');
    expect((await put('session.me', {}, again)).code).toBe('ok');
  });
});

describe('the link of somebody invited', () => {
  it('is copied by an administrator, works once, ends the one before, and that they had it is on record', async () => {
    const { person } = await w.ask('thea', 'people.add', {
      name: 'Kaja Moe',
      email: 'kaja@mr.example',
      zone: 'Europe/Oslo',
    });
    await w.work();
    const mailed = lastLink('kaja');
    expect(await w.refused('benedikt', 'people.copyAccess', { person })).toBe('not-allowed');
    const { address } = await w.ask('thea', 'people.copyAccess', { person });
    expect(address).toMatch(/^http:\/\/localhost:3000\/invitation\//);
    const link = address.replace(/^.*\/invitation\//, '');
    expect((await put('auth.acceptInvitation', { invitation: mailed, password: long })).code).toBe('invitation-over');
    const accepted = await put('auth.acceptInvitation', { invitation: link, password: long });
    expect(accepted.code).toBe('ok');
    const { linksOf } = await import('@/server/events/streams');
    const links = await w.inOrganization(organization, (tx) => linksOf(tx, 'administration'));
    expect(links.filter(({ data }) => data.includes(person)).map(({ type, actor }) => [type, actor])).toEqual([
      ['organization.changed', 'thea'],
      ['access.copied', 'thea'],
      ['password.set', person],
    ]);
    // What is decided under that password says so on the evidence sheet.
    w.cookies.set(person, accepted.cookie ?? '');
    const file = await w.pdf('Copied', 1, 'ines');
    const sent = await w.ask('ines', 'desk.sendQuick', {
      file: file.hash,
      name: 'copied.pdf',
      title: 'Copied',
      verb: 'read',
      people: [{ kind: 'person', person }],
    });
    const { circulation } = sent;
    const seat = (await w.ask('ines', 'circulation.view', { circulation })).seats[0];
    const mine = await w.ask(person, 'seat.mine', { circulation, seat: seat?.id ?? '' });
    await w.ask(person, 'seat.decideMine', {
      circulation,
      seat: seat?.id ?? '',
      epoch: seat?.epoch ?? 0,
      scope: mine.content?.scope ?? '',
      outcome: 'confirmed',
    });
    await w.work();
    await w.ask('ines', 'circulation.release', { circulation });
    const { evidence } = await w.ask('ines', 'circulation.view', { circulation });
    expect((await evidenceText(evidence ?? '')).replace(/\s+/g, ' ')).toMatch(
      /Thea Lindqvist copied a link for the password of this account on .*, and so could have used it\./,
    );
  });

  it('leads into an account of long standing only where no email could', async () => {
    const { settings } = await import('@/server/settings');
    const { person } = await member('Tord Lie', 'tord@mr.example');
    expect(await w.refused('thea', 'people.copyAccess', { person: 'thea' })).toBe('unknown-person');
    expect(await w.refused('thea', 'people.copyAccess', { person: 'jarek' })).toBe('unknown-person');
    const given = settings() as { smtpUrl: string | null };
    given.smtpUrl = 'smtp://127.0.0.1:1';
    expect(await w.refused('thea', 'people.copyAccess', { person })).toBe('email-carries-it');
    given.smtpUrl = null;
    const { address } = await w.ask('thea', 'people.copyAccess', { person });
    const link = address.replace(/^.*\/invitation\//, '');
    expect((await put('auth.acceptInvitation', { invitation: link, password: `${long} two` })).code).toBe('ok');
  });
});

describe('people', () => {
  it('are mended by an administrator, who keeps their own right to', async () => {
    const mend = (person: string, more: object) =>
      w.answer('thea', 'people.describe', {
        person,
        name: 'Benedikt Rowe',
        work: 'Technical manager',
        roles: [],
        ...more,
      });
    expect((await mend('benedikt', { roles: ['controller'] })).ok).toBe(true);
    expect((await w.ask('benedikt', 'session.me')).mayStartChanges).toBe(true);
    expect((await mend('benedikt', {})).ok).toBe(true);
    expect((await w.ask('benedikt', 'session.me')).mayStartChanges).toBe(false);
    expect(await w.refused('thea', 'people.describe', { person: 'thea', name: 'Thea Lindqvist', roles: [] })).toBe(
      'last-administrator',
    );
    await w.ask('thea', 'people.describe', {
      person: 'jarek',
      name: 'Jarek Holm',
      work: 'Inspector',
      company: 'Pell',
      roles: ['administrator'],
    });
    const [jarek] = await w.ask('ines', 'people.named', { people: ['jarek'] });
    expect([jarek?.company, jarek?.roles]).toEqual(['Pell', []]);
  });
});

describe('document types', () => {
  const type = { type: 'MEM', name: 'Memorandum', scheme: 'MR-MEM-00', active: true, marginLine: false, added: true };

  it('are added, renamed, numbered anew and turned off; documents keep their type and number', async () => {
    const put = (more: object = {}) => w.ask('thea', 'types.describe', { ...type, ...more });
    await put();
    const make = () => w.ask('ines', 'record.create', { title: 'A memo', documentType: 'MEM', owner: 'rufus' });
    const first = await make();
    expect(first.number).toBe('MR-MEM-01');
    await put({ added: false, scheme: 'MEMO-0000', name: 'Memo' });
    expect((await make()).number).toBe('MEMO-0001');
    expect((await w.ask('ines', 'register.list', { filter: 'mr-mem-01 memo', after: null })).rows.length).toBe(1);
    await put({ added: false, scheme: 'MEMO-0000', name: 'Memo', active: false });
    expect(await w.refused('ines', 'record.create', { title: 'x', documentType: 'MEM', owner: 'rufus' })).toBe(
      'type-off',
    );
    const { record } = await w.ask('ines', 'record.create', { title: 'Other', documentType: 'PLN', owner: 'rufus' });
    const describe = { title: 'Renamed', owner: 'rufus' };
    expect(await w.refused('ines', 'record.describe', { record, ...describe, documentType: 'MEM' })).toBe('type-off');
    // One that has it already can still be described.
    await w.ask('ines', 'record.describe', { record: first.record, ...describe, documentType: 'MEM' });
    expect((await w.ask('ines', 'record.view', { record: first.record })).number).toBe('MR-MEM-01');
  });

  it('are refused with a sentence when they would collide, number nothing, or be taken from under sent files', async () => {
    const code = (more: object) => w.refused('thea', 'types.describe', { ...type, ...more });
    expect(await code({})).toBe('type-taken');
    expect(await code({ type: 'NEW', name: 'memo' })).toBe('type-name-taken');
    expect(await code({ type: 'NEW', name: 'New', scheme: 'memo-0000' })).toBe('scheme-taken');
    for (const scheme of ['NEW', 'A-0-B-0', '12'])
      expect(await code({ type: 'NEW', name: 'New', scheme })).toBe('scheme-unfit');
    expect(await code({ type: 'NEW', added: false, name: 'New', scheme: 'NEW-00' })).toBe('unknown-type');
    expect(await code({ type: 'DOC', added: false, name: 'Other document', scheme: 'MR-DOC-000', active: false })).toBe(
      'type-usual',
    );
    expect(await code({ type: 'x' })).toBe('bad-input');
    expect(await w.refused('ines', 'types.describe', type)).toBe('not-allowed');
  });
});

describe('the first steps of an installation', () => {
  it('stand on the administrator’s Desk and nobody else’s, are done one by one, and can be hidden', async () => {
    const steps = async (person: string) => (await w.ask(person, 'desk.view')).steps;
    expect(await steps('ines')).toBe(null);
    expect(await steps('thea')).toEqual({ people: true, types: true, mail: false, document: true });
    await w.ask('thea', 'steps.done', { step: 'all' });
    expect(await steps('thea')).toBe(null);
    expect(await w.refused('ines', 'steps.done', { step: 'all' })).toBe('not-allowed');
  });
});
