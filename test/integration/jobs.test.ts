import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MailMessage } from '@/server/mail/send';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

interface JobRow {
  readonly kind: string;
  readonly state: string;
  readonly attempts: number;
  readonly runAt: number;
  readonly error: string | null;
}
const jobs = (state: string) =>
  w.inOrganization(
    organization,
    (tx) => tx.sql<JobRow[]>`
      select kind, state, attempts, run_at, error from job
      where organization = ${organization} and state = ${state} order by created, id`,
  );
const now = () => w.now();
const forward = (ms: number) => w.forward(ms);
async function sentTo(people: readonly string[], title: string): Promise<string> {
  const file = await w.pdf(title, 1, 'ines');
  const { circulation } = await w.ask('ines', 'desk.sendQuick', {
    file: file.hash,
    name: 'x.pdf',
    title,
    verb: 'read',
    people: people.map((person) => ({ kind: person === 'jarek' ? ('outside' as const) : ('person' as const), person })),
  });
  return circulation;
}

describe('a job', () => {
  it('is left in the transaction of what caused it: refused with it, or there with it', async () => {
    const before = (await jobs('waiting')).length;
    const file = await w.pdf('Refused', 1, 'petra');
    // The author approves their own text: the check before sending stops it, after the record and circulation were written.
    expect(
      await w.refused('petra', 'desk.sendQuick', {
        file: file.hash,
        name: 'x.pdf',
        title: 'Refused as a whole',
        people: [
          { kind: 'person', person: 'oskar' },
          { kind: 'person', person: 'petra' },
        ],
      }),
    ).toBe('preflight');
    expect((await jobs('waiting')).length).toBe(before);
    const found = await w.ask('petra', 'desk.find', { text: 'Refused as a whole' });
    expect(found.records).toEqual([]);
    await sentTo(['oskar', 'yuki'], 'Kept as a whole');
    expect((await jobs('waiting')).length).toBe(before + 2);
    await w.work();
  });

  it('of mail is tried again after pauses that grow to an hour, for five days, and is given up then', async () => {
    const { workOff } = await import('@/server/jobs/work');
    await sentTo(['oskar'], 'Nobody takes it');
    const began = await now();
    let tried = 0;
    const closed = async () => {
      tried += 1;
      throw new Error('the mail server is closed');
    };
    const pauses: number[] = [];
    for (let over = false; !over; ) {
      expect(await workOff(organization, closed)).toBe(1);
      // Not due yet: nothing is tried before its time.
      expect(await workOff(organization, closed)).toBe(0);
      const [waiting] = await jobs('waiting');
      over = !waiting;
      if (!waiting) continue;
      pauses.push(Math.round((waiting.runAt - (await now())) / 1000));
      expect(waiting.error).toMatch(/mail server is closed/);
      await forward(waiting.runAt - (await now()) + 1);
    }
    for (const [i, pause] of pauses.entries())
      expect(Math.abs(pause - Math.min(3600, 5 * 2 ** i)), `pause ${i}`).toBeLessThanOrEqual(2);
    const days = ((await now()) - began) / 86_400_000;
    expect([Math.floor(days), tried]).toEqual([5, pauses.length + 1]);
    expect(await jobs('failed')).toMatchObject([{ kind: 'mail', attempts: tried }]);
    await forward(3 * 86_400_000);
    expect(await workOff(organization, closed)).toBe(0);
  });

  it('that fails is told on its circulation’s page from the second try, and no more once it went through', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const circulation = await sentTo(['oskar'], 'Told');
    const troubles = async () => (await w.ask('ines', 'circulation.view', { circulation })).troubles;
    const closed = async () => {
      throw new Error('no such box');
    };
    for (const told of [false, true]) {
      await workOff(organization, closed);
      expect((await troubles()).map(({ kind, person, over }) => [kind, person, over])).toEqual(
        told ? [['mail', 'oskar', false]] : [],
      );
      await forward(61_000);
    }
    expect((await troubles())[0]?.again).toBeGreaterThan((await now()) - 61_000);
    await w.work();
    expect(await troubles()).toEqual([]);
  });

  it('of a final file is never given up: when what stood in its way has passed, the circulation goes on', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const file = await w.pdf('Kept waiting', 1, 'ines');
    const { circulation } = await w.ask('ines', 'desk.sendQuick', {
      file: file.hash,
      name: 'x.pdf',
      title: 'Kept waiting',
      verb: 'sign',
      people: [{ kind: 'person', person: 'oskar' }],
    });
    const look = () => w.ask('ines', 'circulation.view', { circulation });
    const planned = await look();
    await w.ask('ines', 'circulation.putFields', {
      circulation,
      file: planned.documents[0] ?? '',
      content: file.hash,
      fields: [
        {
          ...{
            id: 'p',
            seat: planned.seats[0]?.id ?? '',
            file: planned.documents[0] ?? '',
            kind: 'signature',
            page: 0,
          },
          ...{ x: 80, y: 300, width: 168, height: 46, needed: true, label: '' },
        },
      ],
    });
    await w.work();
    const view = await look();
    const seat = view.seats[0];
    if (!seat) throw new Error('no seat');
    await w.ask('oskar', 'seat.decideMine', {
      circulation,
      seat: seat.id,
      epoch: seat.epoch,
      scope: seat.scope ?? '',
      outcome: 'signed',
      values: { p: { kind: 'typed', text: 'Oskar Thiele' } },
    });
    const frozen = Object.values(view.frozen)[0]?.file ?? '';
    // Only the owner of the database can: the application's own role can take nothing away and put nothing in its place.
    const owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    const rename = (from: string, to: string) =>
      owner.begin(async (tx) => {
        await tx`select set_config('avenda.organization', ${organization}, true)`;
        await tx`update chunk set hash = ${to} where organization = ${organization} and hash = ${from}`;
      });
    await rename(frozen, 'f'.repeat(64));
    for (let i = 0; i < 6; i += 1) {
      await workOff(organization, null);
      const [waiting] = (await jobs('waiting')).filter((job) => job.kind === 'derive');
      expect([waiting?.attempts, waiting?.error]).toEqual([i + 1, expect.stringMatching(/missing/)]);
      await forward((waiting?.runAt ?? 0) - (await now()) + 1);
    }
    expect(await w.refused('ines', 'circulation.release', { circulation })).toBe('no-final');
    await rename('f'.repeat(64), frozen);
    await w.work();
    await w.ask('ines', 'circulation.release', { circulation });
    await w.work();
    await owner.end();
  });

  it('that fails keeps no other from running', async () => {
    const { workOff } = await import('@/server/jobs/work');
    await sentTo(['oskar', 'yuki', 'petra'], 'One box is full');
    const taken: string[] = [];
    await workOff(organization, async (mail) => {
      if (w.toOf(mail) === 'yuki') throw new Error('box full');
      taken.push(w.toOf(mail));
    });
    expect(taken.sort()).toEqual(['oskar', 'petra']);
    expect(await jobs('waiting')).toMatchObject([{ attempts: 1 }]);
    await forward(6000);
    await w.work();
    expect(w.mails.at(-1)?.to).toEqual({ name: 'Yuki Arden', address: 'yuki@mr.example' });
  });

  it('of mail that went out with others and was not noted is sent again as the very same, with nothing new in it', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const all = [await sentTo(['oskar'], 'Gathered one'), await sentTo(['oskar'], 'Gathered two')];
    const third = await sentTo(['oskar'], 'Gathered three');
    await w.work();
    await forward(3_700_000);
    const remind = (circulations: readonly string[]) =>
      w.ask('ines', 'desk.many', { circulations, act: { kind: 'remind' } });
    await remind(all);
    const sent: MailMessage[] = [];
    // It leaves, and whoever sent it hears no more of it.
    await workOff(organization, async (mail) => {
      sent.push(mail);
      throw new Error('the line is dead');
    });
    await remind([third]);
    await forward(6000);
    await workOff(organization, async (mail) => {
      sent.push(mail);
    });
    const [first, again, ...others] = sent;
    for (const title of ['Gathered one', 'Gathered two']) expect(first?.text).toContain(title);
    expect([again, ...others].map((mail) => mail?.text.includes('Gathered three')).sort()).toEqual([false, true]);
    const same = [again, ...others].find((mail) => mail?.messageId === first?.messageId);
    expect(same?.text).toBe(first?.text);
    expect(sent).toHaveLength(3);
    expect(await jobs('waiting')).toEqual([]);
  });

  it('is taken by one worker, however many look for it at once', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const people = ['oskar', 'yuki', 'petra', 'benedikt', 'thea'];
    for (let i = 0; i < 4; i += 1) await sentTo(people, `Shared ${i}`);
    const sent: MailMessage[] = [];
    const counts = await Promise.all(
      Array.from({ length: 6 }, () =>
        workOff(organization, async (mail) => {
          sent.push(mail);
          await new Promise((resolve) => setTimeout(resolve, 5));
        }),
      ),
    );
    expect(counts.reduce((sum, count) => sum + count, 0)).toBe(20);
    expect(counts.filter((count) => count > 0).length).toBeGreaterThan(1);
    expect(new Set(sent.map((mail) => mail.messageId)).size).toBe(20);
    expect(sent.length).toBe(20);
  });

  it('of a worker that died is taken again when its lease is over, and writes the message of the same id', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const { settings } = await import('@/server/settings');
    await sentTo(['oskar'], 'Died in the middle');
    const first: MailMessage[] = [];
    const dead = workOff(organization, (mail) => {
      first.push(mail);
      return new Promise(() => {});
    });
    void dead;
    await expect.poll(() => first.length).toBe(1);
    expect(await workOff(organization, async () => {})).toBe(0);
    await forward(settings().leaseSeconds * 1000 + 1);
    await w.work();
    const again = w.mails.at(-1);
    expect([again?.subject, again?.messageId]).toEqual([first[0]?.subject, first[0]?.messageId]);
    expect(await jobs('waiting')).toEqual([]);
  });

  it('waits while there is nobody to deliver mail, and other work goes on', async () => {
    const { workOff } = await import('@/server/jobs/work');
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Rendered without post',
      documentType: 'LOG',
      owner: 'ines',
    });
    const { change } = await w.ask('ines', 'change.start', { records: [record], reason: 'x', author: 'ines' });
    await w.ask('ines', 'draft.saveText', {
      change,
      document: 'main',
      edit: 0,
      story: { format: 1, blocks: [{ id: 'a', kind: 'paragraph', level: 0, runs: [{ text: 'Calm', marks: {} }] }] },
    });
    await w.ask('ines', 'draft.makeVersion', { change });
    await sentTo(['oskar'], 'Waits for the post');
    expect(await workOff(organization, null)).toBe(1);
    expect(await jobs('waiting')).toMatchObject([{ kind: 'mail', attempts: 0 }]);
    await w.work();
    expect(w.mails.at(-1)?.subject).toBe('Please read and confirm Waits for the post');
  });

  it('tells whoever is asked that their time has changed, and nobody else', async () => {
    const circulation = await sentTo(['oskar', 'yuki'], 'More time');
    await w.work();
    const { seats } = await w.ask('ines', 'circulation.view', { circulation });
    const before = w.mails.length;
    const due = (await now()) + 3 * 86_400_000;
    await w.ask('ines', 'circulation.extend', { circulation, seat: seats[0]?.id ?? '', due, closes: null });
    await w.work();
    const told = w.mails.slice(before);
    expect(told.map(w.toOf)).toEqual(['oskar']);
    expect(told[0]?.subject).toBe('A new time to read and confirm More time');
    expect(told[0]?.text).toMatch(/Please do so by \w{3} \d+ \w{3}, \d\d:\d\d/);
  });

  it('writes no mail for what is no longer true when it leaves', async () => {
    const circulation = await sentTo(['oskar', 'yuki'], 'Overtaken');
    const view = await w.ask('ines', 'circulation.view', { circulation });
    const seatOf = (person: string) => view.seats.find((seat) => seat.holder === person)?.id ?? '';
    // Before anything leaves: Oskar's seat goes to Petra, Yuki is reminded, and everything is withdrawn for Yuki's part.
    await w.ask('ines', 'circulation.reassign', {
      circulation,
      seat: seatOf('oskar'),
      to: { kind: 'person', person: 'petra' },
    });
    const before = w.mails.length;
    await w.work();
    const told = w.mails.slice(before).map((mail) => `${w.toOf(mail)}: ${mail.subject}`);
    expect(told.sort()).toEqual([
      'oskar: No longer needed from you: Overtaken',
      'petra: Please read and confirm Overtaken',
      'yuki: Please read and confirm Overtaken',
    ]);
    await w.ask('ines', 'circulation.remind', { circulation, seat: seatOf('yuki') });
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'Too late' });
    const later = w.mails.length;
    await w.work();
    expect(
      w.mails
        .slice(later)
        .map((mail) => `${w.toOf(mail)}: ${mail.subject}`)
        .sort(),
    ).toEqual(['petra: Withdrawn: Overtaken', 'yuki: Withdrawn: Overtaken']);
  });

  it('tells in a message only what its reader needs: their note, their time, their page or link', async () => {
    const year = new Date().getUTCFullYear() + 1;
    const due = Date.UTC(year, 0, 8, 15);
    const day = `${new Date(due).toUTCString().slice(0, 3)} 8 Jan ${year}`;
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Rope <b>splice</b> & "ends"',
      documentType: 'WI',
      owner: 'rufus',
    });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      records: [record],
      reason: 'x',
      author: 'rufus',
    });
    const file = await w.pdf('Splice');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 's.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    await w.ask('ines', 'circulation.plan', {
      circulation,
      note: 'Mind <script>alert(1)</script> the "ends"',
      route: inSeries(stage('review', ['yuki', 'jarek'], { due })),
    });
    await w.ask('ines', 'circulation.send', { circulation });
    await w.work();
    const mailTo = (name: string) => w.mails.findLast((candidate) => candidate.to.name.startsWith(name));
    const inside = mailTo('Yuki');
    const outside = mailTo('Jarek');
    // Each reads the time on their own clock: Oslo, and London an hour before it.
    expect(inside?.text).toContain(`by ${day}, 16:00.`);
    expect(outside?.text).toContain(`by ${day}, 15:00.`);
    expect(inside?.text).toContain(`/circulations/${circulation}/act/`);
    expect(outside?.text).toMatch(/http:\/\/localhost:3000\/s\/[\w-]{38}\.[\w-]{32}\n/);
    expect(outside?.text).toContain('ines@mr.example');
    expect(inside?.text).not.toContain('/s/');
    expect(inside?.replyTo).toEqual({ name: 'Ines Halloran', address: 'ines@mr.example' });
    for (const one of [inside, outside]) {
      expect(one?.text).toContain('Mind <script>alert(1)</script> the "ends"');
      expect(one?.html).not.toContain('<script>');
      expect(one?.html).not.toContain('<b>splice');
      expect(one?.html).toContain('&lt;script&gt;');
    }
  });
});
