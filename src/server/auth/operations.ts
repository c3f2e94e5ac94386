import Joi from 'joi';
import { organizations } from '../admin/setup';
import { inOrganization } from '../db/connect';
import { piece, shape, text } from '../operations/input';
import { anyoneOperation } from '../operations/operation';
import { email, id, password, personName, zone } from '../operations/pieces';
import { refuse } from '../refused';
import { settings } from '../settings';
import { acceptAccess, forgotPassword, lookAtAccess } from './access';
import { setUp } from './setUp';
import { letIn, signIn } from './signIn';

const invitation = text(200);
const prefix = piece<string>(
  Joi.string()
    .trim()
    .uppercase()
    .pattern(/^[A-Z]{2,5}$/),
);

/** Somebody who can be chosen on the first page of the demonstration. */
interface DemoPerson {
  readonly id: string;
  readonly name: string;
  readonly tile: string;
  readonly work: string;
}

export const authOperations = [
  anyoneOperation({
    name: 'auth.signIn',
    kind: 'command',
    open: 'signing in is how somebody becomes known; tries are counted by address and by account',
    input: shape({ email, password }),
    run: signIn,
  }),

  anyoneOperation({
    name: 'auth.invitation',
    kind: 'query',
    open: 'whoever holds the secret of an address for a password may see whose it is',
    input: shape({ invitation }),
    run: (input) => lookAtAccess(input.invitation),
  }),

  anyoneOperation({
    name: 'auth.acceptInvitation',
    kind: 'command',
    open: 'whoever holds the secret of an address for a password chooses one, once',
    input: shape({ invitation, password }),
    run: acceptAccess,
  }),

  anyoneOperation({
    name: 'auth.forgotPassword',
    kind: 'command',
    open: 'whoever has forgotten a password is not signed in; only the mailbox of the account learns whether there is one',
    input: shape({ email }),
    run: forgotPassword,
  }),

  anyoneOperation({
    name: 'auth.look',
    kind: 'query',
    open: 'the first page must know whether to sign in, to set up, or to offer the people of the demonstration',
    input: shape({}),
    run: async () => {
      const { mode } = settings();
      const all = await organizations();
      const demo = all[0];
      const people =
        mode === 'demo' && demo
          ? await inOrganization(
              demo,
              (tx) => tx.sql<DemoPerson[]>`
              select id, name, tile, work from person where organization = ${demo} and kind = 'member' and state = 'active' order by created, name`,
            )
          : [];
      return { mode, empty: all.length === 0, people: [...people] };
    },
  }),

  anyoneOperation({
    name: 'auth.enterAs',
    kind: 'command',
    open: 'in the demonstration, and only there, anybody is anybody',
    input: shape({ person: id }),
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

  anyoneOperation({
    name: 'auth.setUp',
    kind: 'command',
    open: 'an empty installation is set up by whoever can read its console',
    input: shape({ code: text(40), organization: personName, prefix, zone, name: personName, email, password }),
    run: setUp,
  }),
] as const;
