import type { Act, CommandOf } from '@/core/circulation/acts/commands';
import { viewParts } from '@/core/circulation/telling/parts';
import { routeLimits } from '@/core/route/route';
import { needPeople } from '../admin/people';
import type { Tx } from '../db/connect';
import { putPayload, putPayloadIfAny } from '../events/payloads';
import {
  flag,
  listOf,
  type Out,
  oneOf,
  optional,
  orNull,
  type Piece,
  shape,
  whole as wholeNumber,
} from '../operations/input';
import { inGeneral, memberOperation, type Public } from '../operations/operation';
import {
  comment,
  cursor,
  email,
  epoch,
  fields,
  filter,
  hash,
  id,
  idOrNone,
  instantOrNone,
  note,
  reason,
  typeCode,
} from '../operations/pieces';
import {
  amendedFiles,
  assignee,
  factValues,
  reminderPlan,
  route,
  stageTimes,
  whole,
  wholeInstants,
} from '../operations/routePieces';
import { refuse } from '../refused';
import { prepareRelease } from '../signing/evidence';
import { act } from './act';
import { amendCirculation, previewAmendment } from './amend';
import { onAct, onCirculation } from './claims';
import { copiedLink, copyLink } from './copyLink';
import { correctingAddress } from './correctAddress';
import { release, startAfresh, withdraw } from './endings';
import { heldBy, reassignAll } from './held';
import { circulationOrders, circulationPage } from './list';
import { standingOf } from './now';
import { giveFacts, planRoute, putFields } from './prepare';
import { steers } from './published';
import { remindLate } from './remindLate';
import { keptSpot } from './spot';
import { takeCirculationNumber } from './startChange';
import { circulationView, partsOfView } from './view';

const circulation = { circulation: id };
const seat = { ...circulation, seat: id };
/** As large as a route of the most seats may be, each with the most files, pages and values. */
const routeBytes = 4 * 1024 * 1024;
const times = { due: instantOrNone, closes: instantOrNone };

/** What an amendment changes: the route as it shall be, and beside it words, times of the whole, files. */
const amendment = {
  ...circulation,
  basis: hash,
  route,
  note,
  reason: note,
  whole: wholeInstants,
  files: orNull(amendedFiles),
};

// biome-ignore lint/suspicious/noExplicitAny: any input piece that names a circulation
type OnCirculation = Piece<any, any>;

/** An operation that only puts the command of one act, made from its input, for those whom the act's right lets do so. */
function commanding<const A extends Act, P extends OnCirculation>(
  name: A,
  input: P,
  toCommand: (tx: Tx, input: Out<P>) => Promise<CommandOf<A>> | CommandOf<A>,
  open?: Public,
) {
  return memberOperation({
    name: `circulation.${name}` as const,
    kind: 'command',
    input,
    claim: onAct(name) as (tx: Tx, input: Out<P>) => ReturnType<ReturnType<typeof onAct>>,
    changes: ['circulation'],
    ...(open ? { public: open } : {}),
    run: async (tx, given, actor) => {
      const { circulation: of } = given as { circulation: string };
      await act(tx, of, await toCommand(tx, given), actor.person);
      return standingOf(tx, of);
    },
  });
}

export const circulationOperations = [
  memberOperation({
    name: 'circulation.view',
    kind: 'query',
    input: shape(circulation),
    claim: onCirculation('circulation.read'),
    run: async (tx, input, actor) => (await circulationView(tx, input.circulation, actor)) ?? refuse('not-found'),
  }),

  memberOperation({
    name: 'circulation.parts',
    kind: 'query',
    input: shape({ ...circulation, parts: listOf(oneOf(...viewParts), { least: 1, most: viewParts.length }) }),
    claim: onCirculation('circulation.read'),
    run: async (tx, input, actor) =>
      (await partsOfView(tx, input.circulation, actor, input.parts)) ?? refuse('not-found'),
  }),

  memberOperation({
    name: 'circulation.asItWas',
    kind: 'query',
    input: shape({ ...circulation, sequence: wholeNumber(1, 1_000_000) }),
    claim: onCirculation('circulation.read'),
    run: async (tx, input, actor) =>
      (await circulationView(tx, input.circulation, actor, input.sequence)) ?? refuse('not-found'),
  }),

  memberOperation({
    name: 'circulation.list',
    kind: 'query',
    input: shape({
      state: optional(oneOf('live', 'ended', 'all'), 'live'),
      order: optional(oneOf(...circulationOrders), 'need'),
      filter,
      holder: idOrNone,
      documentType: orNull(typeCode),
      late: optional(flag, false),
      after: cursor,
    }),
    claim: () => ({ action: 'desk.read', subject: { kind: 'organization' } }),
    run: circulationPage,
  }),

  memberOperation({
    name: 'circulation.plan',
    kind: 'command',
    input: shape({
      ...circulation,
      route,
      note,
      whole: optional(whole as Piece<Out<typeof whole>>, { due: null, closes: null }),
      facts: optional(factValues as Piece<Out<typeof factValues>>, {}),
      /** The plan that was changed; null overwrites whatever stands there. */
      basis: orNull(hash),
    }),
    claim: onAct('plan'),
    limit: routeBytes,
    changes: ['circulation'],
    run: async (tx, { circulation: of, ...input }, actor) => {
      await planRoute(tx, of, input, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'circulation.previewAmendment',
    kind: 'query',
    input: shape(amendment),
    claim: onAct('amend'),
    limit: routeBytes,
    run: (tx, { circulation: of, ...input }, actor) => previewAmendment(tx, of, input, actor.person),
  }),

  memberOperation({
    name: 'circulation.amend',
    kind: 'command',
    input: shape(amendment),
    claim: onAct('amend'),
    limit: routeBytes,
    changes: ['circulation', 'draft', 'record'],
    run: async (tx, { circulation: of, ...input }, actor) => {
      await amendCirculation(tx, of, input, actor.person);
      return standingOf(tx, of);
    },
  }),

  memberOperation({
    name: 'circulation.putFields',
    kind: 'command',
    input: shape({ ...circulation, file: id, content: hash, fields }),
    claim: onAct('putFields'),
    changes: ['circulation'],
    run: async (tx, { circulation: of, ...input }, actor) => {
      await putFields(tx, of, input, actor.person);
      return standingOf(tx, of);
    },
  }),

  commanding('send', shape({ ...circulation, releasesItself: optional(flag, false) }), (_tx, { releasesItself }) => ({
    type: 'send',
    releasesItself,
  })),

  commanding('setReminders', shape({ ...circulation, plan: reminderPlan }), async (tx, { plan }) => {
    if (plan.third) await needPeople(tx, [{ person: plan.third.person, kind: 'person' }]);
    return { type: 'setReminders', plan };
  }),

  commanding('see', shape({ ...seat, epoch, scope: hash }), (_tx, { circulation: _, ...input }) => ({
    type: 'see',
    ...input,
  })),

  commanding('comment', shape({ ...circulation, ...comment }), (tx, { circulation: _, ...input }) => ({
    type: 'comment',
    ...input,
    spot: keptSpot(tx, input.spot),
    note: putPayload(tx, input.note),
  })),

  commanding('resolveComment', shape({ ...circulation, comment: id }), (_tx, input) => ({
    type: 'resolveComment',
    comment: input.comment,
  })),

  commanding('reopenComment', shape({ ...circulation, comment: id }), (_tx, input) => ({
    type: 'reopenComment',
    comment: input.comment,
  })),

  commanding(
    'confirmRound',
    shape({
      ...circulation,
      basis: hash,
      keep: listOf(id, { most: 400 }),
      leave: optional(listOf(id, { most: 400 }), [] as readonly string[]),
      times: optional(stageTimes as Piece<Out<typeof stageTimes>>, []),
    }),
    (_tx, { circulation: _, ...input }) => ({ type: 'confirmRound', ...input }),
  ),

  commanding('extend', shape({ ...seat, ...times }), (_tx, { circulation: _, ...input }) => ({
    type: 'extend',
    ...input,
  })),

  commanding('setTimes', shape({ ...circulation, stage: id, ...times }), (_tx, { stage, due, closes }) => ({
    type: 'setTimes',
    stage,
    due: due === null ? null : { kind: 'instant', at: due },
    closes: closes === null ? null : { kind: 'instant', at: closes },
  })),

  commanding('askAgain', shape({ ...seat, ...times }), (_tx, { circulation: _, ...input }) => ({
    type: 'askAgain',
    ...input,
  })),

  commanding('pass', shape({ ...seat, note }), (tx, input) => ({
    type: 'pass',
    seat: input.seat,
    note: putPayloadIfAny(tx, input.note),
  })),

  commanding('take', shape({ ...seat, epoch }), (_tx, { circulation: _, ...input }) => ({
    type: 'take',
    ...input,
  })),

  commanding('giveBack', shape({ ...seat, epoch }), (_tx, { circulation: _, ...input }) => ({
    type: 'giveBack',
    ...input,
  })),

  commanding(
    'name',
    shape({ ...seat, epoch, names: id, to: assignee }),
    async (tx, { circulation: _, to, ...input }) => {
      await needPeople(tx, [to]);
      return { type: 'name', ...input, to: to.person };
    },
  ),

  commanding('agree', shape({ ...seat, epoch, agreed: flag, note }), (tx, { circulation: _, ...input }) => ({
    type: 'agree',
    ...input,
    note: putPayloadIfAny(tx, input.note),
  })),

  commanding('endGathering', shape({ ...circulation, stage: id }), (_tx, input) => ({
    type: 'endGathering',
    stage: input.stage,
  })),

  commanding('pause', shape({ ...circulation, note }), (tx, input) => ({
    type: 'pause',
    note: putPayloadIfAny(tx, input.note),
  })),

  commanding(
    'setEnough',
    shape({ ...circulation, stage: id, k: wholeNumber(1, routeLimits.seats) }),
    (_tx, { stage, k }) => ({ type: 'setEnough', stage, k }),
  ),

  commanding(
    'askQuestion',
    shape({ ...seat, epoch, question: id, text: reason }),
    (tx, { circulation: _, text, ...input }) => ({ type: 'askQuestion', ...input, note: putPayload(tx, text) }),
  ),

  commanding('answerQuestion', shape({ ...circulation, question: id, text: reason }), (tx, { question, text }) => ({
    type: 'answerQuestion',
    question,
    note: putPayload(tx, text),
  })),

  memberOperation({
    name: 'circulation.correctAddress',
    kind: 'command',
    input: shape({ ...seat, email }),
    claim: onAct('correctAddress'),
    changes: ['circulation', 'people'],
    run: async (tx, input, actor) => {
      await act(tx, input.circulation, await correctingAddress(tx, input), actor.person);
      return standingOf(tx, input.circulation);
    },
  }),

  commanding('goOn', shape(circulation), () => ({ type: 'goOn' })),

  commanding('handControl', shape({ ...circulation, to: id, note }), async (tx, input) => {
    await needPeople(tx, [{ kind: 'person', person: input.to }]);
    return { type: 'handControl', to: input.to, note: putPayloadIfAny(tx, input.note) };
  }),

  commanding('extendWhole', shape({ ...circulation, ...times }), (_tx, { circulation: _, ...input }) => ({
    type: 'extendWhole',
    ...input,
  })),

  memberOperation({
    name: 'circulation.giveFacts',
    kind: 'command',
    input: shape({ ...circulation, facts: factValues }),
    claim: onAct('giveFacts'),
    public: steers,
    changes: ['circulation'],
    run: async (tx, { circulation: of, facts }, actor) => {
      await giveFacts(tx, of, facts, actor.person);
      return standingOf(tx, of);
    },
  }),

  commanding('remind', shape(seat), (_tx, input) => ({ type: 'remind', seat: input.seat }), steers),

  memberOperation({
    name: 'people.held',
    kind: 'query',
    input: shape({ person: id }),
    claim: inGeneral('people.read'),
    run: (tx, input, actor) => heldBy(tx, input.person, actor),
  }),

  memberOperation({
    name: 'people.reassignAll',
    kind: 'command',
    input: shape({ from: id, to: assignee }),
    claim: inGeneral('people.read'),
    changes: ['circulation'],
    run: async (tx, input, actor) => {
      await needPeople(tx, [input.to]);
      return reassignAll(tx, input.from, input.to, actor);
    },
  }),

  memberOperation({
    name: 'circulation.remindLate',
    kind: 'command',
    input: shape(circulation),
    claim: onAct('remind'),
    changes: ['circulation'],
    run: (tx, input, actor) => remindLate(tx, input.circulation, actor.person),
  }),

  commanding('delegate', shape({ ...seat, epoch, to: id, note }), async (tx, { circulation: _, ...input }) => {
    await needPeople(tx, [{ person: input.to, kind: 'person' }]);
    return { type: 'delegate', ...input, note: putPayloadIfAny(tx, input.note) };
  }),

  commanding('reassign', shape({ ...seat, to: assignee, ...times, note }), async (tx, { circulation: _, ...input }) => {
    await needPeople(tx, [input.to]);
    return { type: 'reassign', ...input, note: putPayloadIfAny(tx, input.note) };
  }),

  commanding('addSecondHolder', shape({ ...seat, person: id }), async (tx, { circulation: _, ...input }) => {
    await needPeople(tx, [{ person: input.person, kind: 'person' }]);
    return { type: 'addSecondHolder', ...input };
  }),

  commanding('dropSecondHolder', shape({ ...seat, person: id }), (_tx, { circulation: _, ...input }) => ({
    type: 'dropSecondHolder',
    ...input,
  })),

  memberOperation({
    name: 'circulation.copyLink',
    kind: 'command',
    input: shape(seat),
    claim: onAct('copyLink'),
    changes: ['circulation'],
    run: async (tx, input, actor) => {
      await copyLink(tx, input.circulation, input.seat, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'circulation.linkAddress',
    kind: 'query',
    input: shape(seat),
    claim: onCirculation('circulation.steer'),
    run: (tx, input) => copiedLink(tx, input.circulation, input.seat),
  }),

  memberOperation({
    name: 'circulation.withdraw',
    kind: 'command',
    input: shape({ ...circulation, reason }),
    claim: onAct('withdraw'),
    public: steers,
    changes: ['circulation', 'record'],
    run: async (tx, input, actor) => {
      await withdraw(tx, input.circulation, input.reason, actor.person);
      return standingOf(tx, input.circulation);
    },
  }),

  memberOperation({
    name: 'circulation.release',
    kind: 'command',
    input: shape(circulation),
    claim: onAct('complete'),
    changes: ['circulation', 'record'],
    prepare: (organization, input, actor) => prepareRelease(organization, input.circulation, actor.person),
    run: async (tx, input, actor, _caller, prepared) => {
      await release(tx, input.circulation, actor.person, prepared);
      return standingOf(tx, input.circulation);
    },
  }),

  memberOperation({
    name: 'circulation.startAfresh',
    kind: 'command',
    input: shape(circulation),
    claim: onCirculation('circulation.steer'),
    changes: ['circulation', 'record', 'draft'],
    prepare: (organization) => takeCirculationNumber(organization),
    run: async (tx, input, actor, _caller, number) => ({
      circulation: await startAfresh(tx, input.circulation, number, actor.person),
    }),
  }),
] as const;
