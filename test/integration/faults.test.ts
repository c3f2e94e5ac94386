import { randomUUID } from 'node:crypto';
import { simpleParser } from 'mailparser';
import MailComposer from 'nodemailer/lib/mail-composer';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { SeatView } from '@/server/signing/view';
import { inSeries, neighbours, organization, samplePdf, stage, type World, world } from './world';

let w: World;
let owner: postgres.Sql;
beforeAll(async () => {
  w = await world();
  owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
});
afterAll(async () => {
  await owner.end();
  await w.close();
});

/** Sent round at once by a member, to be approved. */
async function sent(from: string, title: string, people: readonly string[]) {
  const file = await w.pdf(title, 1, from);
  const { circulation } = await w.ask(from, 'desk.sendQuick', {
    file: file.hash,
    name: 'x.pdf',
    title,
    people: people.map((person) => ({ kind: person === 'jarek' ? ('outside' as const) : ('person' as const), person })),
  });
  return { circulation, file: file.hash };
}

describe('the trail', () => {
  const checked = async (circulation: string) => {
    const { checkStream } = await import('@/server/events/check');
    const { faults, erased } = await w.inOrganization(organization, (tx) =>
      checkStream(tx, `circulation:${circulation}`),
    );
    return { what: [...new Set(faults.map((fault) => fault.what))], erased };
  };
  const tamper = (statement: string, values: readonly string[]) =>
    owner.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      await tx.unsafe('alter table payload disable trigger payload_stays');
      const { count } = await tx.unsafe(statement, [...values]);
      await tx.unsafe('alter table payload enable trigger payload_stays');
      return count;
    });
  const declined = async () => {
    const { circulation, file } = await sent('petra', `Trail ${randomUUID().slice(0, 4)}`, ['oskar']);
    const seat = (await w.ask('petra', 'circulation.view', { circulation })).seats[0];
    await w.ask('oskar', 'seat.decideMine', {
      ...{ circulation, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0, scope: seat?.scope ?? '' },
      outcome: 'declined',
      note: 'Not like this.',
    });
    const [event] = await w.inOrganization(
      organization,
      (tx) => tx.sql<{ data: string }[]>`
        select data from event where stream = ${`circulation:${circulation}`} and type = 'seat.decided'`,
    );
    return { circulation, file, note: (JSON.parse(event?.data ?? '{}') as { note: string }).note };
  };

  it('tells a note that was changed, taken away or put in its place from one that was erased', async () => {
    for (const [statement, what] of [
      [`update payload set content = replace(content, 'Not', 'Yes') where hash = $1`, ['payload-changed']],
      ['delete from payload where hash = $1', ['payload-changed']],
    ] as const) {
      const { circulation, note } = await declined();
      expect(await checked(circulation)).toEqual({ what: [], erased: 0 });
      expect(await tamper(statement, [note])).toBe(1);
      expect((await checked(circulation)).what, statement).toEqual(what);
    }
    const { circulation, note } = await declined();
    // Erasing is the one thing that the application's own role can do with a payload.
    const byUs = (statement: string) => w.inOrganization(organization, (tx) => tx.sql.unsafe(statement, [note]));
    await expect(byUs(`update payload set content = 'Yes.' where hash = $1`)).rejects.toThrow(/erased or left/);
    await expect(byUs('delete from payload where hash = $1')).rejects.toThrow(/permission denied/);
    await byUs('update payload set content = null where hash = $1');
    expect(await checked(circulation)).toEqual({ what: [], erased: 1 });
    const view = await w.ask('petra', 'circulation.view', { circulation });
    expect(view.seats[0]?.decision?.note).toBe('[This text was erased.]');
  });

  it('notices a file that was overwritten, and a stream that was deleted whole', async () => {
    const { circulation, file } = await declined();
    await tamper(`update chunk set bytes = set_byte(bytes, 9, 65) where hash = $1`, [file]);
    expect((await checked(circulation)).what).toEqual(['file-changed']);
    const other = await declined();
    await tamper('delete from event where stream = $1', [`circulation:${other.circulation}`]);
    expect((await checked(other.circulation)).what).toEqual(['no-events']);
  });
});

describe('mail', () => {
  it('goes to the one person it is for, whatever their name says', async () => {
    const name = 'x@evil.example, Carol <y@evil.example>';
    const { person } = await w.ask('petra', 'people.addOutside', { name, email: 'carol@x.example', zone: 'UTC' });
    const file = await w.pdf('To Carol', 1, 'petra');
    await w.ask('petra', 'desk.sendQuick', {
      ...{ file: file.hash, name: 'x.pdf', title: 'To Carol' },
      people: [{ kind: 'outside', person }],
    });
    await w.work();
    const mail = w.mails.findLast((one) => one.subject.includes('To Carol'));
    expect(mail?.to).toEqual({ name, address: 'carol@x.example' });
    const written = await new MailComposer({ to: mail?.to, from: mail?.from, text: 'x' }).compile().build();
    const { to } = await simpleParser(written);
    expect([to].flat().flatMap((one) => one?.value.map((box) => box.address))).toEqual(['carol@x.example']);
    for (const bad of ['Carol\r\nBcc: y@evil.example', 'Ca\u0007rol', 'Ca\u2028rol'])
      expect(await w.refused('petra', 'people.addOutside', { name: bad, email: 'c@x.example', zone: 'UTC' })).toBe(
        'bad-input',
      );
  });

  it('to somebody outside with two seats brings each time the link of the seat it is about', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Twice', documentType: 'CER', owner: 'rufus' });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      ...{ records: [record], reason: 'Yearly', author: 'rufus' },
    });
    const file = await w.pdf('Twice');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 't.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    await w.ask('ines', 'circulation.plan', {
      circulation,
      note: null,
      route: inSeries(stage('review', ['jarek']), stage('read', ['jarek'])),
    });
    await w.ask('ines', 'circulation.send', { circulation });
    await w.work();
    const seatOf = async () => {
      const answer = await w.throughLink(w.linkIn(w.mails.at(-1)), 'seat.view');
      if (!answer.ok) throw new Error(answer.refusal.sentence);
      return answer.value as SeatView;
    };
    const first = await seatOf();
    expect(first.verb).toBe('review');
    const link = w.linkIn(w.mails.at(-1));
    await w.throughLink(link, 'seat.decide', {
      ...{ seat: first.seat, epoch: first.epoch, scope: first.content?.scope, outcome: 'done' },
    });
    await w.work();
    const second = await seatOf();
    expect([second.verb, second.seat === first.seat]).toEqual(['read', false]);
  });

  it('of one organization does not hold up another’s: its hands take turns', async () => {
    const { takeTurn } = await import('@/server/jobs/work');
    await owner.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      await tx`
        insert into job (organization, id, kind, data, state, attempts, run_at, created)
        select ${organization}, gen_random_uuid()::text, 'mail', ${tx.json({ template: 'nothing', person: 'oskar' })}, 'waiting', 0, 0, n
        from generate_series(1, 20000) n`;
    });
    const turn = await takeTurn(organization, 'mail', async () => {});
    expect(turn).toBeGreaterThan(0);
    expect(turn).toBeLessThanOrEqual(50);
    await owner.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      await tx`delete from job where state = 'waiting' or data ->> 'template' = 'nothing'`;
    });
  });
});

describe('strangers', () => {
  it('cannot use a file that somebody else has sent, though they know its hash', async () => {
    const file = await w.pdf('Petra’s own', 1, 'petra');
    const send = { name: 'x.pdf', title: 'Stolen', people: [{ kind: 'person', person: 'yuki' }] };
    expect(await w.refused('oskar', 'desk.sendQuick', { ...send, file: file.hash })).toBe('file-unknown');
    expect(await w.refused('ines@neighbours', 'desk.sendQuick', { ...send, file: file.hash })).toMatch(/unknown/);
  });

  it('are not told why a document is being changed, nor who works on it', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Quiet', documentType: 'PRO', owner: 'rufus' });
    await w.ask('ines', 'change.start', { records: [record], reason: 'An accident at tower six', author: 'rufus' });
    const seen = await w.ask('yuki', 'record.view', { record });
    expect(seen.inProgress).toMatchObject({ revision: 'A', change: null, circulation: null, author: null });
    expect(JSON.stringify(seen)).not.toContain('tower six');
    expect((await w.ask('rufus', 'record.view', { record })).inProgress).toMatchObject({ author: 'rufus' });
  });

  it('cannot tell a draft of others from one that is not there', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Hidden', documentType: 'PRO', owner: 'rufus' });
    const { change } = await w.ask('ines', 'change.start', { records: [record], reason: 'x', author: 'rufus' });
    const answers = await Promise.all(
      [change, randomUUID()].map((one) => w.answer('yuki', 'draft.view', { change: one })),
    );
    expect(answers.map((answer) => !answer.ok && [answer.status, answer.refusal.sentence])).toEqual([
      [404, expect.any(String)],
      [404, answers[0]?.ok ? '' : answers[0]?.refusal.sentence],
    ]);
  });
});

describe('room', () => {
  const send = async (person: string, whose = organization) => {
    const { receiveFile } = await import('@/server/files/receive');
    const body = new Blob([Buffer.from(await samplePdf(randomUUID(), 1))]).stream();
    return receiveFile(whose, person, 'x.pdf', body as ReadableStream<Uint8Array>).then(
      () => 'taken',
      (error: { refusal?: { code: string }; message: string }) => [error.refusal?.code, /\.$/.test(error.message)],
    );
  };
  it('ends for a member, for an organization and for the disk, each with a sentence, and nobody else is hindered', async () => {
    const { settings } = await import('@/server/settings');
    const limits = settings() as { memberBytes: number; organizationBytes: number; reserveBytes: number };
    const usual = { ...limits };
    expect(await send('yuki')).toBe('taken');
    limits.memberBytes = 100;
    expect(await send('yuki')).toEqual(['quota-member', true]);
    expect(await send('benedikt')).toBe('taken');
    limits.organizationBytes = 100;
    expect(await send('thea')).toEqual(['quota-organization', true]);
    expect(await send('ines', neighbours)).toBe('taken');
    Object.assign(limits, usual, { reserveBytes: Number.MAX_SAFE_INTEGER });
    expect(await send('thea')).toEqual(['disk-full', true]);
    Object.assign(limits, usual);
    expect(await send('thea')).toBe('taken');
  });
});
