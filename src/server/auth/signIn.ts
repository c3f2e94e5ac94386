import { inOrganization, outsideOrganizations, type Tx } from '../db/connect';
import type { Caller } from '../operations/operation';
import { refuse } from '../refused';
import { passwordFits } from './password';
import { countTry, openSession, organizationsOf, sessionCookie } from './sessions';

const fortnight = 14 * 86_400;

/** Opens a session for a person and gives it to the caller's browser. */
export async function letIn(tx: Tx, person: string, caller: Caller): Promise<void> {
  const value = await openSession(tx, person, caller.address);
  caller.setCookie({ name: sessionCookie, value, path: '/', maxAge: fortnight });
}

/** Counts a try in a transaction of its own, so that a refused one counts as well. */
export async function counted(key: string, limit: number): Promise<void> {
  if (!(await outsideOrganizations((sql, now) => countTry(sql, now, key, limit)))) refuse('too-often');
}

interface Candidate {
  readonly organization: string;
  readonly id: string;
  readonly password: string | null;
  /** Whether they have signed in from this address before, and still are. */
  readonly familiar: boolean;
}

/**
 * Signs somebody in by address and password. Tries are counted by the client's address, by account and address together,
 * and by account for addresses that its owner has not used: a stranger's guesses do not lock the owner out. Every try
 * costs one comparison of a password, whether the address is known, invited, or nobody's.
 */
export async function signIn(input: { email: string; password: string }, caller: Caller): Promise<null> {
  await counted(`address ${caller.address}`, 60);
  await counted(`account ${input.email} from ${caller.address}`, 10);
  const found: Candidate[] = [];
  for (const organization of await organizationsOf(input.email))
    found.push(
      ...(await inOrganization(
        organization,
        (tx) => tx.sql<Candidate[]>`
          select organization::text, id, password, exists (
            select 1 from session s where s.organization = person.organization and s.person = person.id
              and s.address = ${caller.address} and s.expires > ${tx.now}) as familiar
          from person where organization = ${organization} and email = ${input.email} and kind = 'member' and state = 'active'`,
      )),
    );
  if (!found.some((candidate) => candidate.familiar)) await counted(`account ${input.email}`, 100);
  for (const { organization, id, password } of found.length > 0 ? found : [nobody])
    if (await passwordFits(password, input.password)) {
      await inOrganization(organization, (tx) => letIn(tx, id, caller));
      return null;
    }
  return refuse('wrong-sign-in');
}

const nobody: Candidate = { organization: '', id: '', password: null, familiar: false };
