import { moreThan } from '@/core/counts';
import { pressBounds } from '@/core/time/press';
import { personNamed } from './admin/people';
import type { Tx } from './db/connect';
/** What lists share: how a filter is read, and how far a reader has come. */

/** Lists are counted no further than this; what reaches it is "more than 1,000". */
export const mostCounted = moreThan + 1;

/** The words of a filter as patterns for LIKE, lower case, the longest first; signs that LIKE reads stand for themselves. */
export function patternsOf(filter: string): string[] {
  return filter
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .slice(0, 8)
    .sort((a, b) => b.length - a.length)
    .map((word) => `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`);
}

/** The keys of the last row a reader has, as the text that is handed back for the next page. */
export function cursorOf(...keys: readonly (string | number)[]): string {
  return JSON.stringify(keys);
}

/** The keys in a cursor: as many as wanted, of the wanted kinds; null when it is none of ours. */
export function keysIn<const K extends readonly ('number' | 'string')[]>(
  cursor: string | null,
  kinds: K,
): { readonly [I in keyof K]: K[I] extends 'number' ? number : string } | null {
  if (cursor === null) return null;
  try {
    const keys = JSON.parse(cursor) as unknown;
    if (!Array.isArray(keys) || keys.length !== kinds.length) return null;
    return kinds.every((kind, i) => (kind === 'number' ? Number.isSafeInteger(keys[i]) : typeof keys[i] === 'string'))
      ? (keys as never)
      : null;
  } catch {
    return null;
  }
}

/** The first instant of somebody's tomorrow, by which "due today" is counted. */
export async function tomorrow(tx: Tx, person: string): Promise<number> {
  return pressBounds((await personNamed(tx, person))?.zone ?? 'UTC', tx.now).day;
}
