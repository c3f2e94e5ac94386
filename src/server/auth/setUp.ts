import { addFirstAdministrator, foundOrganization, organizations, setUpCode } from '../admin/setup';
import { inOrganization } from '../db/connect';
import type { Caller } from '../operations/operation';
import { refuse } from '../refused';
import { settings } from '../settings';
import { needStrength } from './access';
import { hashPassword } from './password';
import { counted, letIn } from './signIn';

/** Sets up an empty installation: its organization and its first administrator, who is signed in. Once. */
export async function setUp(
  input: {
    code: string;
    organization: string;
    prefix: string;
    zone: string;
    name: string;
    email: string;
    password: string;
  },
  caller: Caller,
): Promise<null> {
  await counted('set up', 20);
  if (settings().mode !== 'real' || (await organizations()).length > 0) refuse('set-up-over');
  if (input.code.toLowerCase() !== setUpCode()) refuse('wrong-code');
  needStrength(input.password);
  const hashed = await hashPassword(input.password);
  const { organization: name, prefix, zone } = input;
  const organization = await foundOrganization({ name, prefix, zone, first: true });
  await inOrganization(organization, async (tx) => {
    const person = await addFirstAdministrator(tx, { name: input.name, email: input.email, zone, password: hashed });
    await letIn(tx, person, caller);
  });
  return null;
}
