import { holders } from '@/core/circulation/run/holders';
import { fieldLimits } from '@/core/page/fields';
import { type HanLanguage, hanLanguageIn } from '@/core/text/hanLanguage';
import { outsideByAddress, personNamed } from '../admin/people';
import { countTry } from '../auth/sessions';
import { act } from '../circulation/act';
import { claimOn, onAct, onCirculation } from '../circulation/claims';
import { contextOf } from '../circulation/context';
import { circulationState } from '../circulation/load';
import { standingOf } from '../circulation/now';
import type { Tx } from '../db/connect';
import { putPayload, putPayloadIfAny } from '../events/payloads';
import { enqueue } from '../jobs/queue';
import { flag, oneOf, shape, text } from '../operations/input';
import { inGeneral, type LinkActor, linkOperation, memberOperation } from '../operations/operation';
import { comment, email, epoch, hash, id, note, personName, reason, values } from '../operations/pieces';
import { refuse } from '../refused';
import { markOf } from './mark';
import { commentFromPage, decideFromPage, settleFromPage } from './sign';
import { seatView } from './view';

const signing = {
  seat: id,
  epoch,
  scope: hash,
  outcome: oneOf('signed', 'declined', 'done', 'returned', 'approved', 'approvedWithComments', 'confirmed'),
  note,
  values,
} as const;

const markText = text(fieldLimits.text);

async function hanLanguageOf(tx: Tx, person: string): Promise<HanLanguage> {
  return hanLanguageIn((await personNamed(tx, person))?.zone ?? 'UTC');
}

/** Whom somebody outside names or passes their task on to: others outside, by name and address. */
async function outsideOf(tx: Tx, link: LinkActor, given: { name: string; email: string }): Promise<string> {
  if (!(await countTry(tx.sql, tx.now, `people by ${link.circulation} ${link.seat}`, 20))) refuse('too-often');
  const zone = (await personNamed(tx, link.person))?.zone ?? 'UTC';
  return (await outsideByAddress(tx, { ...given, work: '', company: '', zone })).person;
}

const own = (tx: Tx, _input: unknown, actor: LinkActor) => claimOn(tx, actor.circulation, 'seat.act', actor);

export const signingOperations = [
  memberOperation({
    name: 'seat.mine',
    kind: 'query',
    input: shape({ circulation: id, seat: id }),
    claim: onCirculation('circulation.act'),
    run: async (tx, input, actor) => {
      const state = await circulationState(tx, input.circulation);
      const seat = state?.seats.get(input.seat);
      if (!state || !seat) refuse('not-found');
      const context = await contextOf(tx, state, actor.person);
      if (!holders(state, seat, context).some((holder) => holder.person === actor.person)) refuse('not-found');
      return (await seatView(tx, input.circulation, input.seat, actor)) ?? refuse('not-found');
    },
  }),

  memberOperation({
    name: 'seat.decideMine',
    kind: 'command',
    input: shape({ circulation: id, ...signing }),
    claim: onAct('decide'),
    limit: 1024 * 1024,
    changes: ['circulation'],
    run: async (tx, { circulation, ...input }, actor, caller) => {
      await decideFromPage(tx, circulation, input, { person: actor.person, outside: false }, caller);
      return standingOf(tx, circulation);
    },
  }),

  linkOperation({
    name: 'seat.view',
    kind: 'query',
    input: shape({}),
    claim: own,
    run: async (tx, _input, link) => (await seatView(tx, link.circulation, link.seat, link)) ?? refuse('link-unknown'),
  }),

  memberOperation({
    name: 'letters.mark',
    kind: 'query',
    input: shape({ text: markText }),
    claim: inGeneral('session.own'),
    run: async (tx, input, actor) => markOf(input.text, await hanLanguageOf(tx, actor.person)),
  }),

  linkOperation({
    name: 'seat.mark',
    kind: 'query',
    input: shape({ text: markText }),
    claim: own,
    run: async (tx, input, link) => markOf(input.text, await hanLanguageOf(tx, link.person)),
  }),

  linkOperation({
    name: 'seat.see',
    kind: 'command',
    input: shape({ scope: hash }),
    claim: own,
    changes: ['circulation'],
    run: async (tx, input, link) => {
      const { seat, epoch: of } = link;
      await act(tx, link.circulation, { type: 'see', seat, epoch: of, scope: input.scope }, link.person);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.decide',
    kind: 'command',
    input: shape(signing),
    claim: own,
    changes: ['circulation'],
    run: async (tx, input, link, caller) => {
      // A link opens one seat, whatever the request says.
      if (input.seat !== link.seat) refuse('not-allowed');
      const decision = { ...input, epoch: link.epoch };
      await decideFromPage(tx, link.circulation, decision, { person: link.person, outside: true }, caller);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.delegate',
    kind: 'command',
    input: shape({ name: personName, email, note }),
    claim: own,
    changes: ['circulation', 'people'],
    run: async (tx, { note: said, ...input }, link) => {
      const { seat, epoch: of } = link;
      const to = await outsideOf(tx, link, input);
      await act(
        tx,
        link.circulation,
        { type: 'delegate', seat, epoch: of, to, note: putPayloadIfAny(tx, said) },
        link.person,
      );
      return null;
    },
  }),

  linkOperation({
    name: 'seat.askQuestion',
    kind: 'command',
    input: shape({ question: id, text: reason }),
    claim: own,
    changes: ['circulation'],
    run: async (tx, { question, text: said }, link) => {
      const { seat, epoch: of } = link;
      const note = putPayload(tx, said);
      await act(tx, link.circulation, { type: 'askQuestion', question, seat, epoch: of, note }, link.person);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.name',
    kind: 'command',
    input: shape({ names: id, name: personName, email }),
    claim: own,
    changes: ['circulation', 'people'],
    run: async (tx, { names, ...input }, link) => {
      const { seat, epoch: of } = link;
      const to = await outsideOf(tx, link, input);
      await act(tx, link.circulation, { type: 'name', seat, epoch: of, names, to }, link.person);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.comment',
    kind: 'command',
    input: shape(comment),
    claim: own,
    changes: ['circulation'],
    run: async (tx, input, link) => {
      await commentFromPage(tx, link, input);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.settleComment',
    kind: 'command',
    input: shape({ comment: id, resolved: flag }),
    claim: own,
    changes: ['circulation'],
    run: async (tx, input, link) => {
      await settleFromPage(tx, link, input.comment, input.resolved);
      return null;
    },
  }),

  linkOperation({
    name: 'seat.askForLink',
    kind: 'command',
    input: shape({}),
    claim: own,
    run: async (tx, _input, link) => {
      if (!(await countTry(tx.sql, tx.now, `new link ${link.circulation} ${link.seat}`, 3))) refuse('too-often');
      const state = await circulationState(tx, link.circulation);
      if (state)
        enqueue(tx, 'mail', {
          template: 'newLinkWanted',
          person: state.controller,
          circulation: link.circulation,
          seat: link.seat,
          by: link.person,
        });
      return null;
    },
  }),
] as const;
