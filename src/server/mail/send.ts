import { createHmac } from 'node:crypto';
import nodemailer from 'nodemailer';
import { seatAt, stageOf } from '@/core/circulation/state';
import { momentIn } from '@/core/time/zone';
import { personNamed } from '../admin/people';
import { linkAddress, linkFor } from '../auth/links';
import { circulationState, recordState } from '../circulation/load';
import { inOrganization, type Tx } from '../db/connect';
import { payloads } from '../events/streams';
import type { JobData, MailTemplate } from '../jobs/queue';
import { settings } from '../settings';
import { composed, type MailFacts, messageFor } from './words';

export interface Letter {
  readonly messageId: string;
  readonly from: string;
  readonly to: string;
  readonly replyTo: string | undefined;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly date: Date;
}

/** Who delivers a letter: an SMTP server in use, the Post room itself while the demonstration is being laid out. */
export type Deliver = (letter: Letter) => Promise<void>;

/** Delivers by SMTP (RFC 5321) to the server that the settings name. */
export function smtpDelivery(url: string): { deliver: Deliver; close: () => void } {
  const transport = nodemailer.createTransport(url);
  return {
    deliver: async (letter) => {
      await transport.sendMail({ ...letter, replyTo: letter.replyTo });
    },
    close: () => transport.close(),
  };
}

/** The invitation's address, derived when it leaves; only its nonce is kept. */
export function invitationCode(organization: string, person: string, nonce: string): string {
  return createHmac('sha256', settings().secret)
    .update(['invitation', organization, person, nonce].join('\n'))
    .digest('base64url')
    .slice(0, 32);
}

/** Writes the letter of a mail job from what is true now; null when there is nothing to say any more. */
export async function writeLetter(
  organization: string,
  job: string,
  data: JobData['mail'],
  options: { at?: number },
): Promise<Letter | null> {
  return inOrganization(organization, (tx) => letterIn(tx, job, data), options);
}

/** What asks a holder to act: written only while the seat still waits for them. */
const asks: ReadonlySet<MailTemplate> = new Set(['asked', 'reminded', 'extended'] as const);

async function letterIn(tx: Tx, job: string, data: JobData['mail']): Promise<Letter | null> {
  const person = await personNamed(tx, data.person);
  if (!person || person.state === 'left') return null;
  const [profile] = await tx.sql<
    { name: string; zone: string }[]
  >`select name, zone from profile where organization = ${tx.organization}`;
  const organization = profile?.name ?? '';
  const base = settings().url;
  let facts: MailFacts = {
    to: person.name,
    organization,
    sender: organization,
    senderEmail: '',
    number: '',
    title: '',
    verb: null,
    due: null,
    note: null,
    by: organization,
    address: base,
    outside: person.kind === 'outside',
  };
  let replyTo: string | undefined;
  if (data.template === 'invitation') {
    const [row] = await tx.sql<{ token: string }[]>`
      select token from invitation where organization = ${tx.organization} and person = ${person.id} and expires > ${tx.now}`;
    if (!row) return null;
    facts = {
      ...facts,
      address: `${base}/invitation/${tx.organization}.${row.token}.${invitationCode(tx.organization, person.id, row.token)}`,
    };
  }
  if (data.circulation) {
    const state = await circulationState(tx, data.circulation);
    const record = state && (await recordState(tx, state.record));
    if (!state || !record) return null;
    const controller = await personNamed(tx, state.controller);
    const seat = data.seat ? seatAt(state, data.seat) : null;
    // A seat that has moved on, has been acted on, or waits for nothing just now needs no asking and no reminder.
    const asking = asks.has(data.template);
    const waits = seat?.status === 'asked' && seat.epoch === data.epoch && state.phase === 'running';
    if (asking && !waits) return null;
    const decision = state.decisions.findLast((candidate) => candidate.seat === data.seat);
    const byId =
      data.template === 'versionIn'
        ? state.author
        : data.template === 'declined' || data.template === 'returned'
          ? decision?.by
          : seat?.holder;
    const by = asking || data.template === 'withdrawn' ? controller : await personNamed(tx, byId ?? state.controller);
    const noteHash = asking && !data.note ? state.note : data.note;
    const note = noteHash ? ((await payloads(tx, [noteHash])).get(noteHash) ?? null) : null;
    const own = state.seats.find((candidate) => candidate.holder === person.id && candidate.outside);
    facts = {
      ...facts,
      // What the controller is told comes from the house, not from herself.
      sender: controller && controller.id !== person.id ? controller.name : organization,
      senderEmail: controller?.email ?? '',
      number: record.number,
      title: record.title,
      verb: seat ? stageOf(state, seat).plan.verb : null,
      due: seat?.due ? momentIn(person.zone, seat.due, tx.now) : null,
      note,
      by: by?.name ?? '',
      address:
        person.kind === 'outside'
          ? own
            ? linkAddress(tx.organization, await linkFor(tx, data.circulation, own.id, own.epoch))
            : ''
          : `${base}${pageFor(data.template, data.circulation, state.record, state.change, data.seat)}`,
    };
    replyTo = controller ? `${controller.name} <${controller.email}>` : undefined;
  }
  const message = messageFor(data.template, facts);
  return {
    // The same job always writes the same id, so that a letter sent twice after a crash is known for one.
    messageId: `<${job}@avenda.example>`,
    from:
      facts.sender === organization
        ? settings().mailFrom
        : `${facts.sender.replace(/["<>]/g, '')} <${settings().mailFrom.replace(/^.*<|>$/g, '')}>`,
    to: `${person.name.replace(/["<>]/g, '')} <${person.email}>`,
    replyTo,
    subject: message.subject,
    ...composed(message, facts),
    date: new Date(tx.now),
  };
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
