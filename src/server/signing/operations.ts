import Joi from 'joi';
import type { Actor } from '@/core/access/may';
import { seatAt, stageOf } from '@/core/circulation/state';
import { countTry } from '../auth/sessions';
import { act } from '../circulation/act';
import { claimOn, onCirculation } from '../circulation/claims';
import { circulationState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { enqueue } from '../jobs/queue';
import { operation, personOf } from '../operations/operation';
import { type CommentInput, comment, fieldValue, hash, id, note } from '../operations/schemas';
import { refuse } from '../refused';
import { commentFromPage, decideFromPage, type SigningInput, seatView } from './sign';

const signing = {
  seat: id.required(),
  epoch: Joi.number().integer().min(1).required(),
  scope: hash.required(),
  outcome: Joi.valid(
    'signed',
    'declined',
    'done',
    'returned',
    'approved',
    'approvedWithComments',
    'confirmed',
  ).required(),
  note,
  values: Joi.object().pattern(id, fieldValue).max(400).default({}),
};

function linkOf(actor: Actor): Extract<Actor, { kind: 'link' }> {
  if (actor.kind !== 'link') throw new Error('only a link comes here');
  return actor;
}

const own = (tx: Tx, actor: Actor) => claimOn(tx, linkOf(actor).circulation, 'seat.act');

export const signingOperations = [
  operation<{ circulation: string; seat: string }, unknown>({
    name: 'seat.mine',
    kind: 'query',
    where: 'member',
    input: Joi.object({ circulation: id.required(), seat: id.required() }),
    access: onCirculation('circulation.act'),
    run: async (tx, input, actor) => {
      const state = await circulationState(tx, input.circulation);
      const seat = state && seatAt(state, input.seat);
      const me = personOf(actor);
      if (!seat || (seat.holder !== me && !seat.secondHolders.includes(me))) refuse('not-found');
      return seatView(tx, input.circulation, input.seat, me);
    },
  }),

  operation<SigningInput & { circulation: string }, null>({
    name: 'seat.decideMine',
    kind: 'command',
    where: 'member',
    input: Joi.object({ circulation: id.required(), ...signing }),
    access: onCirculation('circulation.act'),
    run: async (tx, { circulation, ...input }, actor, caller) => {
      await decideFromPage(tx, circulation, input, { person: personOf(actor), outside: false }, caller);
      return null;
    },
  }),

  operation<Record<string, never>, unknown>({
    name: 'seat.view',
    kind: 'query',
    where: 'link',
    input: Joi.object({}),
    access: own,
    run: async (tx, _input, actor) => {
      const link = linkOf(actor);
      return (await seatView(tx, link.circulation, link.seat, link.person)) ?? refuse('link-unknown');
    },
  }),

  operation<{ scope: string }, null>({
    name: 'seat.see',
    kind: 'command',
    where: 'link',
    input: Joi.object({ scope: hash.required() }),
    access: own,
    run: async (tx, input, actor) => {
      const link = linkOf(actor);
      await act(
        tx,
        link.circulation,
        { type: 'see', seat: link.seat, epoch: link.epoch, scope: input.scope },
        link.person,
      );
      return null;
    },
  }),

  operation<SigningInput, null>({
    name: 'seat.decide',
    kind: 'command',
    where: 'link',
    input: Joi.object(signing),
    access: own,
    run: async (tx, input, actor, caller) => {
      const link = linkOf(actor);
      // A link opens one seat, whatever the request says.
      if (input.seat !== link.seat) refuse('not-allowed');
      await decideFromPage(
        tx,
        link.circulation,
        { ...input, epoch: link.epoch },
        { person: link.person, outside: true },
        caller,
      );
      return null;
    },
  }),

  operation<CommentInput, null>({
    name: 'seat.comment',
    kind: 'command',
    where: 'link',
    input: Joi.object(comment),
    access: own,
    run: async (tx, input, actor) => {
      await commentFromPage(tx, linkOf(actor), input);
      return null;
    },
  }),

  operation<Record<string, never>, null>({
    name: 'seat.askForLink',
    kind: 'command',
    where: 'link',
    input: Joi.object({}),
    access: own,
    run: async (tx, _input, actor) => {
      const link = linkOf(actor);
      if (!(await countTry(tx.sql, tx.now, `new link ${link.circulation} ${link.seat}`, 3))) refuse('too-often');
      const state = await circulationState(tx, link.circulation);
      const seat = state && seatAt(state, link.seat);
      if (state && seat && stageOf(state, seat))
        await enqueue(tx, 'mail', {
          template: 'newLinkWanted',
          person: state.controller,
          circulation: link.circulation,
          seat: link.seat,
        });
      return null;
    },
  }),
];
