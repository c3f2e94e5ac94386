import nodemailer from 'nodemailer';
import { may } from '@/core/access/may';
import { actingAs } from '@/core/circulation/run/holders';
import type { SeatRun } from '@/core/circulation/run/shapes';
import {
  baseHolder,
  type Circulation,
  clocksRun,
  dueOf,
  stagePlan,
  stagePlanOf,
  waitOf,
} from '@/core/circulation/run/state';
import { momentIn } from '@/core/time/zone';
import { type Person, personNamed } from '../admin/people';
import { profileOf } from '../admin/profile';
import { accessAddress } from '../auth/access';
import { linkAddress, linkFor } from '../auth/links';
import { circulationSubject } from '../circulation/claims';
import { contextOf } from '../circulation/context';
import { circulationState, recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { noteIn, payloads } from '../events/payloads';
import type { JobData, MailTemplate } from '../jobs/queue';
import { absenceNamed, tasksCovered } from '../organization/absences';
import { settings } from '../settings';
import { inDigest, tell } from '../telling/told';
import { composed, digestMessage, gatheredMessage, type MailFacts, type Message, messageFor } from './words';

/** A name with an address (RFC 5322, 3.4). They stay apart: a name must never be read as an address. */
interface Mailbox {
  readonly name: string;
  readonly address: string;
}

export interface MailMessage {
  readonly messageId: string;
  readonly from: Mailbox;
  readonly to: Mailbox;
  readonly replyTo: Mailbox | undefined;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly date: Date;
}

/** Who delivers a message: an SMTP server in use, the Post room itself while the demonstration is being laid out. */
export type Deliver = (message: MailMessage) => Promise<void>;

/** Delivers by SMTP (RFC 5321) to the server that the settings name. */
export function smtpDelivery(url: string): { deliver: Deliver; close: () => void } {
  const transport = nodemailer.createTransport(url);
  return {
    deliver: async (message) => {
      await transport.sendMail({ ...message, replyTo: message.replyTo });
    },
    close: () => transport.close(),
  };
}

/** A name as it stands in a header: one line, no control characters. */
function headerText(text: string): string {
  return text.replace(/[\p{Cc}\p{Zl}\p{Zp}]+/gu, ' ').trim();
}

/** The mailbox in a setting like "Avenda <avenda@marrowfell.example>". */
function mailboxIn(text: string): Mailbox {
  const [, name = '', address = text] = /^\s*(.*?)\s*<([^<>]+)>\s*$/.exec(text) ?? [];
  return { name: headerText(name), address: address.trim() };
}

/** A mail job, by its id, and when it came. */
export interface MailJob {
  readonly id: string;
  readonly created: number;
  readonly data: JobData['mail'];
}

/**
 * Writes the message of a mail job from what is true now, in one with others to the same person where they are gathered,
 * and keeps what is told in the application or in a digest; null when there is nothing to say by mail.
 */
export async function composeMail(
  organization: string,
  gathered: readonly [MailJob, ...MailJob[]],
  options: { at?: number | undefined },
): Promise<MailMessage | null> {
  return inOrganization(
    organization,
    async (tx) => {
      const [{ id: job, data: only }] = gathered;
      if (only.template === 'digest') return composeDigest(tx, job, only.person);
      const found: Found[] = [];
      for (const { id, data } of gathered) {
        const one = await factsIn(tx, data);
        if (!one) continue;
        const ways = data.ways ?? ['mail'];
        if (ways.includes('mail')) found.push(one);
        if (ways.some((way) => way !== 'mail')) await tell(tx, id, toldIn(data, one));
      }
      const [first, ...more] = found.sort((a, b) => (a.facts.number < b.facts.number ? -1 : 1));
      if (!first) return null;
      const message = messageFor(first.template, first.facts);
      const all = [first, ...more].map(({ template, facts }) => ({ template, facts }));
      return written(tx, job, first, more.length === 0 ? message : gatheredMessage(all));
    },
    options,
  );
}

/** What is told in the application and in a digest of what a message says. */
function toldIn(data: JobData['mail'], { template, facts, person }: Found) {
  return {
    person: person.id,
    circulation: data.circulation ?? null,
    text: messageFor(template, facts).lines[0] ?? '',
    path: facts.address.slice(settings().url.length),
    here: data.ways?.includes('here') ?? false,
    digest: data.ways?.includes('digest') ?? false,
  };
}

/** One mail with all that somebody wants to be told once a day. */
async function composeDigest(tx: Tx, job: string, id: string): Promise<MailMessage | null> {
  const person = await personNamed(tx, id);
  const items = await inDigest(tx, job);
  if (!person || person.state === 'left' || items.length === 0) return null;
  const facts = plainFacts(person, (await profileOf(tx)).name);
  const found = { template: 'digest', person, facts, replyTo: undefined } as const;
  const base = settings().url;
  return written(tx, job, found, digestMessage(items.map(({ text, path }) => ({ text, address: `${base}${path}` }))));
}

/** What a message knows that is about nothing yet. */
function plainFacts(person: Person, organization: string): MailFacts {
  return {
    to: person.name,
    organization,
    sender: organization,
    senderEmail: '',
    number: '',
    title: '',
    verb: null,
    due: null,
    from: null,
    note: null,
    by: organization,
    behalf: null,
    away: null,
    outcome: null,
    address: settings().url,
    outside: person.kind === 'outside',
  };
}

/** What one message is made of, and to whom it goes. */
interface Found {
  readonly template: MailTemplate;
  readonly person: Person;
  readonly facts: MailFacts;
  readonly replyTo: Mailbox | undefined;
}

/** What asks a holder to respond: written only while the seat still waits for them. */
const asks: ReadonlySet<MailTemplate> = new Set([
  'asked',
  'reminded',
  'extended',
  'mayRespond',
  'wentOn',
  'amended',
] as const);

/** What leads to one's own page. */
const ownPage: ReadonlySet<MailTemplate> = new Set(['awaySet', 'awayEnded', 'coverLost'] as const);

/** What tells how it goes. */
const follows: ReadonlySet<MailTemplate> = new Set(['opened', 'responded', 'stageDone'] as const);

async function mayRead(tx: Tx, id: string, state: Circulation, { id: person, roles }: Person): Promise<boolean> {
  const actor = { kind: 'member', person, roles } as const;
  return may(actor, 'circulation.read', await circulationSubject(tx, id, state, actor));
}

async function factsIn(tx: Tx, data: JobData['mail']): Promise<Found | null> {
  const person = await personNamed(tx, data.person);
  if (!person || person.state === 'left') return null;
  const { name: organization } = await profileOf(tx);
  const base = settings().url;
  let facts = plainFacts(person, organization);
  let replyTo: Mailbox | undefined;
  if (data.template === 'invitation' || data.template === 'password') {
    const address = await accessAddress(tx, person.id, data.template);
    if (!address) return null;
    facts = { ...facts, address };
  }
  if (data.absence || data.about) {
    const away = await awayIn(tx, data, person);
    if (!away) return null;
    const by = data.by === undefined ? null : await personNamed(tx, data.by);
    facts = {
      ...facts,
      away,
      by: by?.name ?? organization,
      address: `${base}${ownPage.has(data.template) ? '/me' : '/desk'}`,
    };
  }
  if (data.circulation) {
    const state = await circulationState(tx, data.circulation);
    const record = state && (await recordState(tx, state.records[0] ?? ''));
    if (!state || !record) return null;
    // Whoever may no longer see it is told nothing more of it.
    if (follows.has(data.template) && !(await mayRead(tx, data.circulation, state, person))) return null;
    const controller = await personNamed(tx, state.controller);
    const seat = data.seat ? (state.seats.get(data.seat) ?? null) : null;
    // A seat that has moved on, has been acted on, or waits for nothing just now needs no asking and no reminder.
    const asking = asks.has(data.template);
    const waits =
      clocksRun(state) && seat?.status === 'asked' && (data.epoch === undefined || seat.epoch === data.epoch);
    if ((asking || data.template === 'late') && !waits) return null;
    // Whoever covers is asked for somebody, and only for as long as they do.
    const stranger = asking && seat && seat.group === null && !seat.holders.some((one) => one.person === person.id);
    const acting = stranger ? actingAs(state, seat, person.id, await contextOf(tx, state, person.id)) : null;
    if (stranger && !acting) return null;
    const covered = acting?.cover[0] && (await personNamed(tx, acting.cover[0].person));
    const due = seat ? dueOf(state, seat) : null;
    const wait = seat ? waitOf(seat, person.id) : null;
    const by = data.by === undefined ? controller : await personNamed(tx, data.by);
    const noteHash = asking && !data.note ? state.note : data.note;
    facts = {
      ...facts,
      // What the controller is told comes from the house, not from herself.
      sender: controller && controller.id !== person.id ? controller.name : organization,
      senderEmail: controller?.email ?? '',
      number: record.number,
      title: record.title,
      verb: seat ? stagePlanOf(state, seat).verb : data.stage ? stagePlan(state, data.stage).verb : null,
      outcome: data.outcome ?? null,
      due: due === null ? null : momentIn(person.zone, due, tx.now),
      from: wait
        ? wait.from === null
          ? 'opened'
          : wait.from > tx.now
            ? momentIn(person.zone, wait.from, tx.now)
            : null
        : null,
      note: noteIn(await payloads(tx, [noteHash]), noteHash),
      by: by?.name ?? '',
      behalf: covered?.name ?? null,
      address:
        person.kind === 'outside'
          ? await ownLink(tx, data.circulation, person.id, seat ?? ownSeat(state.seats, person.id))
          : `${base}${pageFor(data.template, data.circulation, state.records[0] ?? '', state.change, data.seat)}`,
    };
    replyTo = controller ? { name: headerText(controller.name), address: controller.email } : undefined;
  }
  return { template: data.template, person, facts, replyTo };
}

async function written(tx: Tx, job: string, { person, facts, replyTo }: Found, message: Message): Promise<MailMessage> {
  const { name: organization } = await profileOf(tx);
  const own = mailboxIn(settings().mailFrom);
  return {
    // The same job always writes the same id, so that a message sent twice after a crash is known for one.
    messageId: `<${job}@avenda.example>`,
    from: facts.sender === organization ? own : { name: headerText(facts.sender), address: own.address },
    to: { name: headerText(person.name), address: person.email },
    replyTo,
    subject: headerText(message.subject),
    ...composed(message, facts),
    date: new Date(tx.now),
  };
}

/** What a message about an absence tells: whose, from when to when, and how much of it waits for whoever covers. */
async function awayIn(tx: Tx, data: JobData['mail'], person: Person): Promise<MailFacts['away']> {
  const absence = data.absence === undefined ? null : await absenceNamed(tx, data.absence);
  const away = await personNamed(tx, absence?.person ?? data.about ?? '');
  if (!away || (data.absence !== undefined && !absence)) return null;
  const moment = (at: number) => momentIn(person.zone, at, tx.now);
  return {
    name: away.name,
    from: absence ? moment(absence.from) : '',
    to: absence ? moment(absence.to) : '',
    tasks: absence ? await tasksCovered(tx, person.id, away.id) : 0,
    covered: absence ? absence.covers.length > 0 : false,
  };
}

function ownSeat(seats: ReadonlyMap<string, SeatRun>, person: string): SeatRun | null {
  return [...seats.values()].find((seat) => baseHolder(seat)?.person === person) ?? null;
}

/** The link of the very seat that a message is about: somebody outside can hold several. */
async function ownLink(tx: Tx, circulation: string, person: string, seat: SeatRun | null): Promise<string> {
  const base = seat && baseHolder(seat);
  if (!seat || !base?.outside || base.person !== person) return '';
  return linkAddress(tx.organization, await linkFor(tx, circulation, seat.id, seat.epoch));
}

/** Where the button of a message leads a member. */
function pageFor(
  template: MailTemplate,
  circulation: string,
  record: string,
  change: string,
  seat: string | undefined,
): string {
  if (template === 'write' || template === 'returned') return `/draft/${change}`;
  if (template === 'released') return `/register/${record}`;
  if (template === 'fieldsWanted') return `/circulations/${circulation}/fields`;
  if (asks.has(template) && seat) return `/circulations/${circulation}/act/${seat}`;
  return `/circulations/${circulation}`;
}
