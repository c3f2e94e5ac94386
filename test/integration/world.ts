import { randomUUID } from 'node:crypto';
import { PDFDocument, StandardFonts } from '@cantoo/pdf-lib';
import postgres from 'postgres';
import { inject } from 'vitest';
import type { Role } from '@/core/access/may';
import { atInstant, freshSeat, freshStage, type Series, type Stage } from '@/core/route/route';
import type { Verb } from '@/core/route/verbs';
import type { Instant } from '@/core/time/instant';
import type { MailMessage } from '@/server/mail/send';
import type { Operation } from '@/server/operations/operation';
import type { Contract } from '@/server/operations/registry';

export const organization = '0197a000-0000-7000-8000-000000000001';
export const neighbours = '0197a000-0000-7000-8000-000000000002';

/** A database of this test file's own with Marrowfell Ropeway's people in it, and ways to act as them. */
export async function world() {
  const database = `avenda_t_${randomUUID().slice(0, 8)}`;
  const ownerUrl = inject('ownerUrl');
  const admin = postgres(ownerUrl.replace(/\/avenda_template$/, '/postgres'), { max: 1 });
  await admin.unsafe(`create database ${database} template avenda_template strategy file_copy`);
  await admin.end();
  Object.assign(process.env, {
    AVENDA_MODE: 'demo',
    AVENDA_SECRET: inject('secret'),
    AVENDA_URL: 'http://localhost:3000',
    DATABASE_URL: ownerUrl.replace(/avenda_template$/, database),
    AVENDA_LOG: 'silent',
  });
  const { inOrganization, disconnect } = await import('@/server/db/connect');
  const { foundOrganization } = await import('@/server/admin/setup');
  const { addPerson } = await import('@/server/admin/people');
  const { openSession } = await import('@/server/auth/sessions');
  const { handle } = await import('@/server/operations/handle');
  const { registry } = await import('@/server/operations/registry');
  const { workOff, wakeDue, giveDueNotices } = await import('@/server/jobs/work');
  const { giveDigests } = await import('@/server/telling/told');
  const { learnFromEnded } = await import('@/server/forecast/learn');
  const { forecastDue } = await import('@/server/forecast/make');
  const { putFile, sha256 } = await import('@/server/files/store');

  const crew: [string, string, Role[]][] = [
    ['ines', 'Ines Halloran', ['controller']],
    ['rufus', 'Rufus Adeyemi', []],
    ['petra', 'Petra Novak', []],
    ['oskar', 'Oskar Thiele', []],
    ['yuki', 'Yuki Arden', []],
    ['benedikt', 'Benedikt Rowe', []],
    ['thea', 'Thea Lindqvist', ['administrator']],
  ];
  const cookies = new Map<string, string>();
  for (const [id, prefix] of [
    [organization, 'MR'],
    [neighbours, 'NB'],
  ] as const) {
    await foundOrganization({
      id,
      name: id === organization ? 'Marrowfell Ropeway' : 'The neighbours',
      zone: 'Europe/Oslo',
      prefix,
    });
    await inOrganization(id, async (tx) => {
      for (const [person, name, roles] of id === organization ? crew : crew.slice(0, 1)) {
        const email = `${person}@${prefix.toLowerCase()}.example`;
        await addPerson(tx, {
          id: person,
          kind: 'member',
          name,
          email,
          work: '',
          company: '',
          zone: 'Europe/Oslo',
          roles,
          state: 'active',
        });
        cookies.set(id === organization ? person : `${person}@neighbours`, await openSession(tx, person, '127.0.0.1'));
      }
      if (id === organization)
        for (const [person, name] of [
          ['jarek', 'Jarek Holm'],
          ['sanna', 'Sanna Virtue'],
        ] as const)
          await addPerson(tx, {
            id: person,
            kind: 'outside',
            name,
            email: `${person}@harrow.example`,
            work: 'Inspector',
            company: 'Harrow & Pell Inspection',
            zone: 'Europe/London',
            roles: [],
            state: 'active',
          });
    });
  }

  const mails: MailMessage[] = [];
  const deliver = async (mail: MailMessage) => {
    mails.push(mail);
  };
  /** As whom and to whom a mail goes, for short comparisons. */
  const toOf = (mail: MailMessage) => mail.to.address.split('@')[0] ?? '';

  const needed = (name: string): Operation => {
    const operation = registry.get(name);
    if (!operation) throw new Error(`there is no operation ${name}`);
    return operation;
  };
  /** Puts an operation as a person; gives the whole answer. */
  const answer = (person: string, name: string, input: object = {}, commandId: string = randomUUID()) => {
    const operation = needed(name);
    return handle(operation, operation.kind === 'command' ? { ...input, commandId } : input, {
      address: '127.0.0.1',
      agent: 'test',
      by: { kind: 'session', secret: cookies.get(person) },
      page: undefined,
      setCookie: () => {},
    });
  };
  /** Puts an operation that must succeed; gives its value. */
  const ask = async <N extends keyof Contract>(
    person: string,
    name: N,
    ...[input]: object extends Contract[N]['input'] ? [input?: Contract[N]['input']] : [input: Contract[N]['input']]
  ): Promise<Contract[N]['output']> => {
    const given = await answer(person, name, (input ?? {}) as object);
    if (!given.ok)
      throw new Error(
        `${name} by ${person}: ${given.refusal.code} ${given.refusal.sentence} ${JSON.stringify(given.refusal.facts)}`,
      );
    return given.value as Contract[N]['output'];
  };
  /** Puts an operation that must be refused; gives the refusal's code. */
  const refused = async (person: string, name: string, input: object = {}): Promise<string> => {
    const given = await answer(person, name, input);
    if (given.ok) throw new Error(`${name} by ${person} was not refused`);
    return given.refusal.code;
  };
  /** Puts an operation through the link in a mail. */
  const throughLink = async (address: string, name: string, input: object = {}) => {
    const [handleOfLink = '', code = ''] = address.replace(/^.*\/s\//, '').split('.');
    const operation = needed(name);
    return handle(operation, operation.kind === 'command' ? { ...input, commandId: randomUUID() } : input, {
      address: '203.0.113.9',
      agent: 'phone',
      by: { kind: 'link', handle: handleOfLink, secret: code },
      page: undefined,
      setCookie: () => {},
    });
  };
  const work = async () => {
    await wakeDue(organization);
    return workOff(organization, deliver);
  };
  /** Moves the clock forward; time never runs backwards. */
  const forward = (ms: number) =>
    inOrganization(
      organization,
      (tx) => tx.sql`
        insert into clock (forward_ms) values (${ms}) on conflict (singleton) do update set forward_ms = clock.forward_ms + ${ms}`,
    );
  const now = () => inOrganization(organization, async (tx) => tx.now);
  /** Moves the clock to the beginning of the next quarter of an hour, in which tries are counted. */
  const toNextQuarter = async () => forward(900_000 - ((await now()) % 900_000));
  const linkIn = (mail: MailMessage | undefined): string => /https?:\/\/\S+/.exec(mail?.text ?? '')?.[0] ?? '';
  /** A real PDF as somebody has sent it. */
  const pdf = async (text: string, pages = 1, person = 'rufus') => {
    const bytes = await samplePdf(text, pages);
    const file = {
      hash: sha256(bytes),
      bytes: bytes.length,
      mediaType: 'application/pdf',
      facts: { pages: Array.from({ length: pages }, () => ({ width: 595, height: 842 })) },
    };
    const read = async function* () {
      yield bytes;
    };
    await putFile(organization, file, read, person);
    return file;
  };
  /** A change of a new document of Rufus, with his draft submitted. */
  const submitted = async ({ title = 'Brake test', documentType = 'PRO', owner = 'rufus' } = {}) => {
    const { record } = await ask('ines', 'record.create', { title, documentType, owner });
    const { change, circulation } = await ask('ines', 'change.start', {
      records: [record],
      reason: 'New values',
      author: 'rufus',
    });
    const { hash } = await pdf(`Draft ${change}`);
    await ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: hash, name: 'x.pdf' });
    await ask('rufus', 'draft.submit', { change });
    return { record, change, circulation };
  };
  /** The same, sent by Ines along a route, with the mail that follows. */
  const sent = async (
    route: Series,
    {
      note = null,
      whole,
      ...about
    }: Parameters<typeof submitted>[0] & {
      readonly note?: string | null;
      readonly whole?: Contract['circulation.plan']['input']['whole'];
    } = {},
  ) => {
    const made = await submitted(about);
    const { circulation } = made;
    await ask('ines', 'circulation.plan', {
      circulation,
      note,
      route,
      facts: {},
      basis: null,
      ...(whole ? { whole } : {}),
    });
    await ask('ines', 'circulation.send', { circulation });
    await work();
    return made;
  };

  return {
    ask,
    answer,
    refused,
    submitted,
    sent,
    throughLink,
    work,
    /** Reminds whoever is to be reminded now, and lets the mail go out. */
    remind: async () => {
      for (let left = 10; left > 0 && (await giveDueNotices(organization)) > 0; left -= 1);
      await work();
    },
    /** Sends the digests whose time has come. */
    digests: async () => {
      await inOrganization(organization, giveDigests);
      await work();
    },
    /** Learns from what has ended, and forecasts what is under way. */
    forecast: async () => {
      for (let left = 20; left > 0 && (await learnFromEnded(organization)) > 0; left -= 1);
      for (let left = 20; left > 0 && (await forecastDue(organization)) > 0; left -= 1);
    },
    mails,
    toOf,
    linkIn,
    toNextQuarter,
    forward,
    now,
    pdf,
    inOrganization,
    cookies,
    registry,
    close: disconnect,
    database,
  };
}

export type World = Awaited<ReturnType<typeof world>>;

/** A small real PDF with the given words on each page. */
export async function samplePdf(text: string, pages = 1): Promise<Uint8Array> {
  const pdf = await PDFDocument.create({ updateMetadata: false });
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (let n = 1; n <= pages; n += 1)
    pdf.addPage([595, 842]).drawText(`${text}, page ${n}`, { x: 60, y: 760, size: 14, font });
  return pdf.save();
}

type StageOptions = Partial<Omit<Stage, 'due' | 'closes'>> & { due?: Instant; closes?: Instant };

/** A stage for tests: people together, all of them. */
export function stage(verb: Verb, people: readonly string[], { due, closes, ...more }: StageOptions = {}): Stage {
  return {
    ...freshStage(
      randomUUID(),
      verb,
      people.map((person) =>
        freshSeat(randomUUID(), { kind: person === 'jarek' || person === 'sanna' ? 'outside' : 'person', person }),
      ),
    ),
    due: atInstant(due ?? null),
    closes: atInstant(closes ?? null),
    ...more,
  };
}

export function inSeries(...parts: Stage[]): Series {
  return { kind: 'series', id: randomUUID(), parts };
}
