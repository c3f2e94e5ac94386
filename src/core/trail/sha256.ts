import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** SHA-256 (FIPS 180-4) of a text (as UTF-8) or bytes, as 64 lower-case hexadecimal digits. Synchronous and pure. */
export function hashOf(content: string | Uint8Array): string {
  return bytesToHex(sha256(typeof content === 'string' ? utf8ToBytes(content) : content));
}
