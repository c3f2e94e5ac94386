import { createHmac } from 'node:crypto';
import type { Role } from '@/core/access/may';
import { inOrganization, outsideOrganizations, type Tx } from '../db/connect';
import { newId } from '../random';
import { refuse } from '../refused';
import { settings } from '../settings';
import { documentTypeRows } from './documentTypes';
import { addMember } from './members';

/** The code that the console prints while an installation has no administrator yet. */
export function setUpCode(): string {
  const digits = createHmac('sha256', settings().secret).update('first administrator').digest('hex').slice(0, 12);
  return digits.replace(/(.{4})(?=.)/g, '$1-');
}

export async function organizations(): Promise<string[]> {
  return outsideOrganizations(async (sql) =>
    (await sql<{ id: string }[]>`select id::text from organization order by id`).map((row) => row.id),
  );
}

/** Makes an organization with its profile and the document types it begins with. */
export async function foundOrganization(
  input: { id?: string; name: string; zone: string; prefix: string; first?: boolean },
  at?: number,
): Promise<string> {
  const id = input.id ?? newId();
  await outsideOrganizations(async (sql) => {
    if (input.first) {
      // Two set-ups at once wait for each other here, and the second finds that it is over.
      await sql`select pg_advisory_xact_lock(54211)`;
      const [there] = await sql`select 1 from organization limit 1`;
      if (there) refuse('set-up-over');
    }
    await sql`insert into organization (id) values (${id})`;
  });
  await inOrganization(
    id,
    async (tx) => {
      await tx.sql`
        insert into profile (organization, name, zone, prefix) values (${id}, ${input.name}, ${input.zone}, ${input.prefix})`;
      const rows = firstTypes.map(([code, name], i) => ({
        code,
        name,
        scheme: `${input.prefix}-${code}-000`,
        position: i,
        usual: code === 'DOC',
        active: true,
        marginLine: false,
        facts: [],
        details: [],
        custodian: null,
        reminders: null,
      }));
      await documentTypeRows.insert(tx, rows);
    },
    { at },
  );
  return id;
}

const firstTypes = [
  ['PRO', 'Procedure'],
  ['PLN', 'Plan'],
  ['WI', 'Work instruction'],
  ['AGR', 'Agreement'],
  ['CER', 'Certificate'],
  ['POL', 'Policy'],
  ['LOG', 'Log'],
  ['BRF', 'Briefing'],
  ['FRM', 'Form'],
  ['DOC', 'Other document'],
] as const;

/** The first person of an installation, who is its administrator and controller. */
export async function addFirstAdministrator(
  tx: Tx,
  person: { name: string; email: string; zone: string; password: string },
): Promise<string> {
  const roles: Role[] = ['administrator', 'controller'];
  return addMember(tx, { ...person, work: 'Administrator', roles, state: 'active' }, null);
}
