import { timingSafeEqual } from 'node:crypto';
import Joi from 'joi';
import { isZone } from '@/core/time/zone';
import { addFirstAdministrator, foundOrganization, organizations, setUpCode } from '../admin/setup';
import { inOrganization, outsideOrganizations, type Tx } from '../db/connect';
import { invitationCode } from '../mail/send';
import { type Caller, operation } from '../operations/operation';
import { email } from '../operations/schemas';
import { refuse } from '../refused';
import { settings } from '../settings';
import { hashPassword, passwordFits } from './password';
import { countTry, doorKey, openSession, organizationIn, sessionCookie } from './sessions';

const password = Joi.string().min(1).max(200);
const fortnight = 14 * 86_400;

async function letIn(tx: Tx, person: string, caller: Caller): Promise<void> {
  const value = await openSession(tx, person, caller.address);
  caller.setCookie({ name: sessionCookie, value, path: '/', maxAge: fortnight });
}

async function counted(key: string, limit: number): Promise<void> {
  // Counted in a transaction of its own, so that a refused try counts as well.
  const within = await outsideOrganizations((sql, now) => countTry(sql, now, key, limit));
  if (!within) refuse('too-often');
}

function needStrength(given: string): void {
  if (given.length < 12) refuse('weak-password');
}

export const doorOperations = [
  operation<{ email: string; password: string }, null>({
    name: 'door.signIn',
    kind: 'command',
    where: 'door',
    open: 'signing in is how somebody becomes known; tries are counted by address and by account',
    input: Joi.object({ email: email.required(), password: password.required() }),
    run: async (input, caller) => {
      await counted(`address ${caller.address}`, 60);
      await counted(`account ${input.email}`, 10);
      const doors = await outsideOrganizations(
        (sql) =>
          sql<{ organization: string }[]>`select organization::text from door where address = ${doorKey(input.email)}`,
      );
      for (const { organization } of doors) {
        const found = await inOrganization(organization, async (tx) => {
          const [row] = await tx.sql<{ id: string; password: string | null }[]>`
            select id, password from person
            where organization = ${organization} and email = ${input.email} and kind = 'member' and state = 'active'`;
          return row ?? null;
        });
        if (found && (await passwordFits(found.password, input.password))) {
          await inOrganization(organization, (tx) => letIn(tx, found.id, caller));
          return null;
        }
      }
      // An unknown address takes as long to refuse as a wrong password.
      if (doors.length === 0) await passwordFits(null, input.password);
      return refuse('wrong-sign-in');
    },
  }),

  operation<{ invitation: string }, { name: string; organization: string }>({
    name: 'door.invitation',
    kind: 'query',
    where: 'door',
    open: 'whoever holds the secret of an invitation may see whom it invites',
    input: Joi.object({ invitation: Joi.string().max(200).required() }),
    run: async (input) => {
      const { organization, nonce, code } = invitationIn(input.invitation);
      return inOrganization(organization, async (tx) => {
        const person = await invited(tx, nonce, code);
        const [row] = await tx.sql<{ name: string; organization: string }[]>`
          select p.name, f.name as organization from person p join profile f on f.organization = p.organization
          where p.organization = ${organization} and p.id = ${person}`;
        return row ?? refuse('invitation-over');
      });
    },
  }),

  operation<{ invitation: string; password: string }, null>({
    name: 'door.acceptInvitation',
    kind: 'command',
    where: 'door',
    open: 'whoever holds the secret of an invitation chooses its password, once',
    input: Joi.object({ invitation: Joi.string().max(200).required(), password: password.required() }),
    run: async (input, caller) => {
      needStrength(input.password);
      await counted(`address ${caller.address}`, 60);
      const { organization, nonce, code } = invitationIn(input.invitation);
      const hashed = await hashPassword(input.password);
      await inOrganization(organization, async (tx) => {
        const person = await invited(tx, nonce, code);
        await tx.sql`delete from invitation where organization = ${organization} and token = ${nonce}`;
        await tx.sql`update person set password = ${hashed}, state = 'active' where organization = ${organization} and id = ${person}`;
        await letIn(tx, person, caller);
      });
      return null;
    },
  }),

  operation<Record<string, never>, { mode: 'demo' | 'real'; empty: boolean; people: unknown[] }>({
    name: 'door.look',
    kind: 'query',
    where: 'door',
    open: 'the first page must know whether to sign in, to set up, or to offer the people of the demonstration',
    input: Joi.object({}),
    run: async () => {
      const { mode } = settings();
      const all = await organizations();
      const demo = all[0];
      const people =
        mode === 'demo' && demo
          ? await inOrganization(
              demo,
              (tx) => tx.sql`
              select id, name, tile, work from person where organization = ${demo} and kind = 'member' and state = 'active' order by created, name`,
            )
          : [];
      return { mode, empty: all.length === 0, people: [...people] };
    },
  }),

  operation<{ person: string }, null>({
    name: 'door.enterAs',
    kind: 'command',
    where: 'door',
    open: 'in the demonstration, and only there, anybody is anybody',
    input: Joi.object({ person: Joi.string().max(64).required() }),
    run: async (input, caller) => {
      const demo = settings().mode === 'demo' ? (await organizations())[0] : undefined;
      if (!demo) refuse('not-found');
      await inOrganization(demo, async (tx) => {
        const [row] = await tx.sql<{ id: string }[]>`
          select id from person where organization = ${demo} and id = ${input.person} and kind = 'member' and state = 'active'`;
        if (!row) refuse('unknown-person');
        await letIn(tx, row.id, caller);
      });
      return null;
    },
  }),

  operation<
    {
      code: string;
      organization: string;
      letters: string;
      zone: string;
      name: string;
      email: string;
      password: string;
    },
    null
  >({
    name: 'door.setUp',
    kind: 'command',
    where: 'door',
    open: 'an empty installation is set up by whoever can read its console',
    input: Joi.object({
      code: Joi.string().trim().max(40).required(),
      organization: Joi.string().trim().min(2).max(120).required(),
      letters: Joi.string()
        .trim()
        .uppercase()
        .pattern(/^[A-Z]{2,5}$/)
        .required(),
      zone: Joi.string()
        .max(60)
        .custom((value: string, helpers) => (isZone(value) ? value : helpers.error('any.invalid')))
        .required(),
      name: Joi.string().trim().min(2).max(120).required(),
      email: email.required(),
      password: password.required(),
    }),
    run: async (input, caller) => {
      await counted('set up', 20);
      if (settings().mode !== 'real' || (await organizations()).length > 0) refuse('set-up-over');
      if (input.code.toLowerCase() !== setUpCode()) refuse('wrong-code');
      needStrength(input.password);
      const hashed = await hashPassword(input.password);
      const organization = await foundOrganization({
        name: input.organization,
        zone: input.zone,
        letters: input.letters,
      });
      await inOrganization(organization, async (tx) => {
        const person = await addFirstAdministrator(tx, {
          name: input.name,
          email: input.email,
          zone: input.zone,
          password: hashed,
        });
        await letIn(tx, person, caller);
      });
      return null;
    },
  }),
];

function invitationIn(text: string): { organization: string; nonce: string; code: string } {
  const organization = organizationIn(text);
  const [, nonce, code] = text.split('.');
  if (!organization || !nonce || !code) refuse('invitation-over');
  return { organization, nonce, code };
}

/** Whom an invitation is for, when its code is right and it has not been used. */
async function invited(tx: Tx, nonce: string, code: string): Promise<string> {
  const [row] = await tx.sql<{ person: string }[]>`
    select i.person from invitation i join person p on p.organization = i.organization and p.id = i.person
    where i.organization = ${tx.organization} and i.token = ${nonce} and i.expires > ${tx.now} and p.state = 'invited' for update of i`;
  if (!row) refuse('invitation-over');
  const right = Buffer.from(invitationCode(tx.organization, row.person, nonce));
  const given = Buffer.from(code);
  if (right.length !== given.length || !timingSafeEqual(right, given)) refuse('invitation-over');
  return row.person;
}
