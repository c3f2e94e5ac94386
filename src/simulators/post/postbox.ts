import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { type AddressObject, simpleParser } from 'mailparser';

/** The Post room's own store: one EML file (RFC 5322) a message, named by its Message-ID, so that a message is there once. */
interface Mail {
  readonly id: string;
  readonly to: string;
  readonly toAddress: string;
  readonly from: string;
  readonly subject: string;
  readonly date: number;
}

export interface WholeMail extends Mail {
  readonly text: string;
  /** The first address of our own in it, if any. */
  readonly link: string | null;
  readonly linkText: string | null;
}

const known = new Map<string, WholeMail>();

function fileName(messageId: string): string {
  return `${createHash('sha256').update(messageId).digest('hex').slice(0, 32)}.eml`;
}

/** Keeps a message; the same Message-ID again changes nothing. */
export async function keepMail(folder: string, raw: Buffer): Promise<void> {
  await mkdir(folder, { recursive: true });
  const parsed = await simpleParser(raw);
  const name = fileName(parsed.messageId ?? createHash('sha256').update(raw).digest('hex'));
  const temporary = path.join(folder, `.${name}.${process.pid}`);
  await writeFile(temporary, raw);
  await rename(temporary, path.join(folder, name));
}

async function readMail(folder: string, name: string): Promise<WholeMail> {
  const before = known.get(path.join(folder, name));
  if (before) return before;
  const parsed = await simpleParser(await readFile(path.join(folder, name)));
  const to = Array.isArray(parsed.to) ? parsed.to[0] : parsed.to;
  const found = /([^\n]+):\n(https?:\/\/\S+)/.exec(parsed.text ?? '');
  const mail: WholeMail = {
    id: name.replace(/\.eml$/, ''),
    to: nameIn(to),
    toAddress: to?.value[0]?.address ?? '',
    from: nameIn(parsed.from),
    subject: parsed.subject ?? '',
    date: parsed.date?.getTime() ?? 0,
    text: parsed.text ?? '',
    link: found?.[2] ?? null,
    linkText: found?.[1] ?? null,
  };
  known.set(path.join(folder, name), mail);
  return mail;
}

function nameIn(address: AddressObject | undefined): string {
  return address?.value[0]?.name || address?.value[0]?.address || '';
}

/** Every message, newest first. */
export async function mails(folder: string): Promise<WholeMail[]> {
  const names = await readdir(folder).catch(() => [] as string[]);
  const all = await Promise.all(
    names.filter((name) => name.endsWith('.eml') && !name.startsWith('.')).map((name) => readMail(folder, name)),
  );
  return all.sort((a, b) => b.date - a.date || (a.id < b.id ? -1 : 1));
}
