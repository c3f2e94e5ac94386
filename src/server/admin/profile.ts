import type { Tx } from '../db/connect';

interface Profile {
  readonly name: string;
  readonly zone: string;
}

/** What an organization is called, and the zone in which its days are counted. */
export async function profileOf(tx: Tx): Promise<Profile> {
  const [found] = await tx.sql<Profile[]>`select name, zone from profile where organization = ${tx.organization}`;
  return found ?? { name: '', zone: 'UTC' };
}
