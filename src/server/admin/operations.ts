import Joi from 'joi';
import { may, type Role } from '@/core/access/may';
import { isZone } from '@/core/time/zone';
import { closeSession, closeSessionsOf, doorKey } from '../auth/sessions';
import { inGeneral } from '../circulation/claims';
import type { Tx } from '../db/connect';
import { hint } from '../events/streams';
import { enqueue } from '../jobs/queue';
import { operation, personOf } from '../operations/operation';
import { email, id } from '../operations/schemas';
import { newId, randomBytes } from '../random';
import { refuse } from '../refused';
import { settings } from '../settings';
import { everybody, type Person, personNamed, tileOf } from './people';

const week = 7 * 86_400_000;
const name = Joi.string().trim().min(2).max(120);
const zone = Joi.string()
  .max(60)
  .custom((value: string, helpers) => (isZone(value) ? value : helpers.error('any.invalid')));

/** Adds a person; a member's address also opens the door for signing in. */
export async function addPerson(
  tx: Tx,
  person: {
    id?: string;
    kind: 'member' | 'outside';
    name: string;
    email: string;
    work: string;
    company: string;
    zone: string;
    roles: readonly Role[];
    state: 'active' | 'invited';
    password?: string | null;
  },
): Promise<string> {
  const [taken] = await tx.sql`
    select 1 from person where organization = ${tx.organization} and email = ${person.email} and kind = ${person.kind}`;
  if (taken) refuse('address-taken');
  const given = person.id ?? newId();
  await tx.sql`
    insert into person (organization, id, kind, name, tile, email, work, company, zone, roles, password, state, created)
    values (${tx.organization}, ${given}, ${person.kind}, ${person.name}, ${tileOf(person.name)}, ${person.email}, ${person.work},
            ${person.company}, ${person.zone}, ${person.roles as string[]}, ${person.password ?? null}, ${person.state}, ${tx.now})`;
  if (person.kind === 'member')
    await tx.sql`insert into door (address, organization) values (${doorKey(person.email)}, ${tx.organization}) on conflict do nothing`;
  return given;
}

/** Makes an invitation and leaves it to the post. Only a nonce is kept; the address is derived when it leaves. */
async function invite(tx: Tx, person: string): Promise<void> {
  const token = randomBytes(12).toString('base64url');
  await tx.sql`delete from invitation where organization = ${tx.organization} and person = ${person}`;
  await tx.sql`
    insert into invitation (organization, token, person, expires) values (${tx.organization}, ${token}, ${person}, ${tx.now + week})`;
  await enqueue(tx, 'mail', { template: 'invitation', person });
}

export const adminOperations = [
  operation<Record<string, never>, unknown>({
    name: 'session.me',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('desk.read'),
    run: async (tx, _input, actor) => {
      const me = await personNamed(tx, personOf(actor));
      const [profile] = await tx.sql<
        { name: string; zone: string }[]
      >`select name, zone from profile where organization = ${tx.organization}`;
      const [queued] = settings().smtpUrl
        ? []
        : await tx.sql<{ count: number }[]>`
            select count(*)::int as count from job where organization = ${tx.organization} and kind = 'mail' and state = 'waiting'`;
      return {
        me,
        mailQueued: queued?.count ?? null,
        organization: profile,
        mode: settings().mode,
        now: tx.now,
        uploadLimit: settings().uploadLimit,
      };
    },
  }),

  operation<Record<string, never>, null>({
    name: 'session.end',
    kind: 'command',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('desk.read'),
    run: async (tx, _input, _actor, caller) => {
      await closeSession(tx, caller.sessionCookie);
      caller.setCookie({ name: 'avenda_session', value: '', path: '/', maxAge: 0 });
      return null;
    },
  }),

  operation<Record<string, never>, unknown>({
    name: 'people.list',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('people.read'),
    run: async (tx, _input, actor) => {
      const people = await everybody(tx);
      if (!may(actor, 'people.manage', { kind: 'organization' })) return people;
      const failed = await tx.sql<{ person: string }[]>`
        select data ->> 'person' as person from job
        where organization = ${tx.organization} and error is not null and state <> 'done' and kind = 'mail'
          and data ->> 'template' = 'invitation'`;
      const unreached = new Set(failed.map(({ person }) => person));
      return people.map((person): Person => (unreached.has(person.id) ? { ...person, unreached: true } : person));
    },
  }),

  operation<{ name: string; email: string; work: string; zone: string; roles: Role[] }, { person: string }>({
    name: 'people.add',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      name: name.required(),
      email: email.required(),
      work: Joi.string().trim().max(120).allow('').default(''),
      zone: zone.required(),
      roles: Joi.array().items(Joi.valid('administrator', 'controller')).unique().default([]),
    }),
    access: inGeneral('people.manage'),
    run: async (tx, input) => {
      const person = await addPerson(tx, { ...input, kind: 'member', company: '', state: 'invited' });
      await invite(tx, person);
      hint(tx, 'people');
      return { person };
    },
  }),

  operation<{ person: string }, null>({
    name: 'people.inviteAgain',
    kind: 'command',
    where: 'member',
    input: Joi.object({ person: id.required() }),
    access: inGeneral('people.manage'),
    run: async (tx, input) => {
      const person = await personNamed(tx, input.person);
      if (person?.state !== 'invited') refuse('unknown-person');
      await invite(tx, input.person);
      return null;
    },
  }),

  operation<{ person: string; left: boolean }, null>({
    name: 'people.leave',
    kind: 'command',
    where: 'member',
    input: Joi.object({ person: id.required(), left: Joi.boolean().required() }),
    access: inGeneral('people.manage'),
    run: async (tx, input, actor) => {
      const person = await personNamed(tx, input.person);
      if (person?.kind !== 'member' || person.id === personOf(actor)) refuse('unknown-person');
      // Whoever comes back without having chosen a password yet is invited as before.
      await tx.sql`
        update person set state = case
          when ${input.left} then 'left'
          when password is null and exists (
            select from invitation where organization = ${tx.organization} and person = ${input.person}) then 'invited'
          else 'active' end
        where organization = ${tx.organization} and id = ${input.person}`;
      // Whoever has left is signed out everywhere at once.
      if (input.left) await closeSessionsOf(tx, input.person);
      hint(tx, 'people');
      return null;
    },
  }),

  operation<{ name: string; email: string; work: string; company: string; zone: string }, { person: string }>({
    name: 'people.addOutside',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      name: name.required(),
      email: email.required(),
      work: Joi.string().trim().max(120).allow('').default(''),
      company: Joi.string().trim().max(120).allow('').default(''),
      zone: zone.required(),
    }),
    access: inGeneral('record.create'),
    run: async (tx, input) => {
      // The same address is the same person; whoever sends first gives the name.
      const [known] = await tx.sql<{ id: string }[]>`
        select id from person where organization = ${tx.organization} and email = ${input.email} and kind = 'outside'`;
      if (known) return { person: known.id };
      const person = await addPerson(tx, { ...input, kind: 'outside', roles: [], state: 'active' });
      hint(tx, 'people');
      return { person };
    },
  }),
];
