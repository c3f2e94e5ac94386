import { randomBytes as systemBytes } from 'node:crypto';

/** Where ids, salts and nonces come from: the system's generator, but a seeded one while the demonstration is laid out. */
let source: (bytes: number) => Buffer = systemBytes;

export function setRandomSource(other: ((bytes: number) => Buffer) | null): void {
  source = other ?? systemBytes;
}

/** Random bytes for salts and nonces. */
export function randomBytes(bytes: number): Buffer {
  return source(bytes);
}

/** A new id: a UUID of version 4 (RFC 9562). */
export function newId(): string {
  const bytes = randomBytes(16);
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  return bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}
