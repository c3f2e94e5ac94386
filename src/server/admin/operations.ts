import Joi from 'joi';
import { may, type Role } from '@/core/access/may';
import { changePassword, copyAccess, hashChanged, sendAccess } from '../auth/access';
import { closeSession, closeSessionsOf, sessionCookie, sessionsOf } from '../auth/sessions';
import { giveBackTaken } from '../circulation/giveBackTaken';
import { notify } from '../db/connect';
import { feedAddress, renewFeed, stopFeed } from '../desk/feed';
import { flag, listOf, type Out, oneOf, optional, type Piece, piece, shape } from '../operations/input';
import { inGeneral, memberOperation, sessionOf } from '../operations/operation';
import {
  cursor,
  email,
  filter,
  id,
  idOrNone,
  numbering,
  password,
  personName,
  shortText,
  typeCode,
  zone,
} from '../operations/pieces';
import { factTypes, reminderPlanOrNone } from '../operations/routePieces';
import { tellOfLostCover } from '../organization/absences';
import { refuse } from '../refused';
import { settings } from '../settings';
import { describePerson } from './describePerson';
import { describeDocumentType } from './documentTypes';
import { layingOut } from './layingOut';
import { findPeople, peoplePage, peopleToAsk } from './list';
import { addMember, recordMember } from './members';
import { allNamed, outsideByAddress, personNamed } from './people';
import { profileOf } from './profile';

/** Somebody where people are named: a person, or a group that has a task. */
const named = piece<string>(Joi.string().pattern(/^(group:(unit:)?)?[A-Za-z0-9_-]{1,64}$/));
const roles = optional(listOf(oneOf('administrator', 'controller'), { most: 2 }), [] as readonly Role[]);

export const peopleOperations = [
  memberOperation({
    name: 'session.me',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('session.own'),
    run: async (tx, _input, actor) => {
      const me = (await personNamed(tx, actor.person)) ?? refuse('signed-out');
      const [queued] = settings().smtpUrl
        ? []
        : await tx.sql<{ count: number }[]>`
            select count(*)::int as count from job where organization = ${tx.organization} and kind = 'mail' and state = 'waiting'`;
      return {
        me,
        mayManagePeople: may(actor, 'people.manage', { kind: 'organization' }),
        mayStartChanges: may(actor, 'change.start', { kind: 'organization' }),
        mailQueued: queued?.count ?? null,
        organization: await profileOf(tx),
        mode: settings().mode,
        layingOut: await layingOut(tx),
        now: tx.now,
        uploadLimit: settings().uploadLimit,
      };
    },
  }),

  memberOperation({
    name: 'session.end',
    kind: 'command',
    input: shape({}),
    claim: inGeneral('session.own'),
    changes: ['session'],
    run: async (tx, _input, _actor, caller) => {
      await closeSession(tx, sessionOf(caller));
      caller.setCookie({ name: sessionCookie, value: '', path: '/', maxAge: 0 });
      return null;
    },
  }),

  memberOperation({
    name: 'session.describe',
    kind: 'command',
    input: shape({ name: personName, work: optional(shortText, ''), zone }),
    claim: inGeneral('session.own'),
    changes: ['people'],
    run: async (tx, input, actor) => {
      const me = (await personNamed(tx, actor.person)) ?? refuse('unknown-person');
      await describePerson(tx, me, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'feed.view',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('session.own'),
    run: async (tx, _input, actor) => ({ address: await feedAddress(tx, actor.person) }),
  }),

  memberOperation({
    name: 'feed.renew',
    kind: 'command',
    input: shape({}),
    claim: inGeneral('session.own'),
    changes: ['session'],
    run: (tx, _input, actor) => renewFeed(tx, actor.person),
  }),

  memberOperation({
    name: 'feed.stop',
    kind: 'command',
    input: shape({}),
    claim: inGeneral('session.own'),
    changes: ['session'],
    run: async (tx, _input, actor) => {
      stopFeed(tx, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'session.list',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('session.own'),
    run: (tx, _input, actor, caller) => sessionsOf(tx, actor.person, sessionOf(caller)),
  }),

  memberOperation({
    name: 'session.endOthers',
    kind: 'command',
    input: shape({}),
    claim: inGeneral('session.own'),
    changes: ['session'],
    run: async (tx, _input, actor, caller) => {
      await closeSessionsOf(tx, actor.person, sessionOf(caller));
      return null;
    },
  }),

  memberOperation({
    name: 'session.changePassword',
    kind: 'command',
    input: shape({ before: password, password }),
    claim: inGeneral('session.own'),
    changes: ['session'],
    prepare: (organization, input, actor) => hashChanged(organization, input, actor.person),
    run: async (tx, _input, actor, caller, hashed) => {
      await changePassword(tx, hashed, actor.person, caller);
      return null;
    },
  }),

  memberOperation({
    name: 'people.list',
    kind: 'query',
    input: shape({ filter, after: cursor }),
    claim: inGeneral('people.read'),
    run: (tx, input, actor) => peoplePage(tx, input, may(actor, 'people.manage', { kind: 'organization' })),
  }),

  memberOperation({
    name: 'people.named',
    kind: 'query',
    input: shape({ people: listOf(named, { least: 1, most: 100 }) }),
    claim: inGeneral('people.read'),
    run: (tx, input) => allNamed(tx, input.people),
  }),

  memberOperation({
    name: 'people.find',
    kind: 'query',
    input: shape({ text: filter, who: oneOf('members', 'anybody') }),
    claim: inGeneral('people.read'),
    run: (tx, input, actor) => (input.text === '' ? peopleToAsk(tx, input.who, actor.person) : findPeople(tx, input)),
  }),

  memberOperation({
    name: 'people.add',
    kind: 'command',
    input: shape({ name: personName, email, work: optional(shortText, ''), zone, roles }),
    claim: inGeneral('people.manage'),
    changes: ['people'],
    run: async (tx, input, actor) => {
      const person = await addMember(tx, { ...input, state: 'invited' }, actor.person);
      sendAccess(tx, person, 'invitation');
      notify(tx, 'people');
      return { person };
    },
  }),

  memberOperation({
    name: 'people.inviteAgain',
    kind: 'command',
    input: shape({ person: id }),
    claim: inGeneral('people.manage'),
    run: async (tx, input) => {
      const person = await personNamed(tx, input.person);
      if (person?.state !== 'invited') refuse('unknown-person');
      sendAccess(tx, input.person, 'invitation');
      return null;
    },
  }),

  memberOperation({
    name: 'people.copyAccess',
    kind: 'command',
    input: shape({ person: id }),
    claim: inGeneral('people.manage'),
    run: (tx, input, actor) => copyAccess(tx, input.person, actor.person),
  }),

  memberOperation({
    name: 'people.describe',
    kind: 'command',
    input: shape({
      person: id,
      name: personName,
      work: optional(shortText, ''),
      company: optional(shortText, ''),
      roles,
    }),
    claim: inGeneral('people.manage'),
    changes: ['people'],
    run: async (tx, { person, company, roles: given, ...input }, actor) => {
      const found = await personNamed(tx, person);
      if (!found) refuse('unknown-person');
      const member = found.kind === 'member';
      if (person === actor.person && !given.includes('administrator')) refuse('last-administrator');
      await describePerson(tx, found, { ...input, ...(member ? { roles: given } : { company }) }, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'types.describe',
    kind: 'command',
    input: shape({
      type: typeCode,
      name: personName,
      scheme: numbering,
      active: flag,
      marginLine: flag,
      facts: optional(factTypes as Piece<Out<typeof factTypes>>, []),
      details: optional(factTypes as Piece<Out<typeof factTypes>>, []),
      custodian: idOrNone,
      reminders: reminderPlanOrNone,
      added: flag,
    }),
    limit: 2 * 1024 * 1024,
    claim: inGeneral('types.manage'),
    changes: ['settings'],
    run: async (tx, { type, ...input }, actor) => {
      await describeDocumentType(tx, { code: type, ...input }, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'steps.done',
    kind: 'command',
    input: shape({ step: oneOf('types', 'all') }),
    claim: inGeneral('types.manage'),
    changes: ['settings'],
    run: async (tx, input) => {
      await tx.sql`
        update profile set types_confirmed = true, steps_hidden = steps_hidden or ${input.step === 'all'}
        where organization = ${tx.organization}`;
      notify(tx, 'settings');
      return null;
    },
  }),

  memberOperation({
    name: 'people.leave',
    kind: 'command',
    input: shape({ person: id, left: flag }),
    claim: inGeneral('people.manage'),
    changes: ['people', 'session', 'circulation'],
    run: async (tx, input, actor) => {
      const person = await personNamed(tx, input.person);
      if (person?.kind !== 'member' || person.id === actor.person) refuse('unknown-person');
      // Whoever comes back without having chosen a password yet is invited as before.
      await tx.sql`
        update person set state = case
          when ${input.left} then 'left'
          when password is null and exists (
            select from invitation where organization = ${tx.organization} and person = ${input.person} and purpose = 'invitation') then 'invited'
          else 'active' end
        where organization = ${tx.organization} and id = ${input.person}`;
      const [was, is] = [person.state !== 'left', !input.left];
      await recordMember(tx, person.id, was ? person : null, is ? person : null, actor.person);
      // Whoever has left is signed out everywhere at once.
      if (was && !is) {
        await closeSessionsOf(tx, input.person);
        await giveBackTaken(tx, input.person, null);
        await tellOfLostCover(tx, input.person);
      }
      notify(tx, 'people');
      return null;
    },
  }),

  memberOperation({
    name: 'people.addOutside',
    kind: 'command',
    input: shape({ name: personName, email, work: optional(shortText, ''), company: optional(shortText, ''), zone }),
    claim: inGeneral('people.addOutside'),
    changes: ['people'],
    run: (tx, input) => outsideByAddress(tx, input),
  }),
] as const;
