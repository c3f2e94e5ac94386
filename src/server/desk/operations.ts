import Joi from 'joi';
import { may } from '@/core/access/may';
import { needPeople } from '../admin/people';
import { onCirculation } from '../circulation/claims';
import { takeCirculationNumber } from '../circulation/startChange';
import { flag, listOf, oneOf, optional, orNull, piece, shape } from '../operations/input';
import { inGeneral, memberOperation } from '../operations/operation';
import {
  cursor,
  fileName,
  filter,
  hash,
  id,
  idOrNone,
  idSchema,
  instantOrNone,
  instantSchema,
  note,
  shortText,
  title,
  typeCode,
} from '../operations/pieces';
import { assignee } from '../operations/routePieces';
import { takeRecordNumber } from '../register/createRecord';
import { type Chased, chase, chaseList } from './chase';
import { filtersOf, keepFilters } from './filters';
import { find } from './find';
import { loadOf } from './load';
import { actOnMany, type ManyAct } from './many';
import { keepOwnNote, ownNote } from './notes';
import { sendQuick } from './sendQuick';
import { deskPage, taskPage } from './view';

const chosen = { circulation: idSchema.required(), seat: idSchema.required() };

/** One act of a chase. */
const chased = piece<Chased>(
  Joi.alternatives(
    Joi.object({ ...chosen, act: Joi.valid('remind').required() }),
    Joi.object({ ...chosen, act: Joi.valid('extend').required(), due: instantSchema.required() }),
    Joi.object({
      ...chosen,
      act: Joi.valid('reassign').required(),
      to: assignee.schema.required(),
      due: instantSchema.required(),
    }),
  ),
);

/** The same act for many circulations. */
const manyAct = piece<ManyAct>(
  Joi.alternatives(
    Joi.object({ kind: Joi.valid('remind').required() }),
    Joi.object({ kind: Joi.valid('extend').required(), due: instantSchema.required() }),
    Joi.object({ kind: Joi.valid('reassign').required(), from: idSchema.required(), to: idSchema.required() }),
    Joi.object({ kind: Joi.valid('handControl').required(), to: idSchema.required() }),
  ),
);

export const deskOperations = [
  memberOperation({
    name: 'desk.view',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('desk.read'),
    run: (tx, _input, actor) => deskPage(tx, actor, may(actor, 'people.manage', { kind: 'organization' })),
  }),

  memberOperation({
    name: 'desk.tasks',
    kind: 'query',
    input: shape({ filter, after: cursor }),
    claim: inGeneral('desk.read'),
    run: (tx, input, actor) => taskPage(tx, input, actor.person),
  }),

  memberOperation({
    name: 'desk.find',
    kind: 'query',
    input: shape({ text: filter }),
    claim: inGeneral('desk.read'),
    run: (tx, input, actor) => find(tx, input.text, actor),
  }),

  memberOperation({
    name: 'desk.late',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('desk.read'),
    run: (tx, _input, actor) => chaseList(tx, actor.person),
  }),

  memberOperation({
    name: 'desk.load',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('desk.read'),
    run: (tx, _input, actor) => loadOf(tx, actor),
  }),

  memberOperation({
    name: 'desk.chase',
    kind: 'command',
    input: shape({
      acts: listOf(chased, { least: 1, most: 300 }),
    }),
    // Each act asks the engine, which lets only whoever steers that circulation.
    claim: inGeneral('desk.read'),
    changes: ['circulation'],
    run: (tx, input, actor) => chase(tx, input.acts, actor),
  }),

  memberOperation({
    name: 'filters.view',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('session.own'),
    run: (tx, _input, actor) => filtersOf(tx, actor.person),
  }),

  memberOperation({
    name: 'notes.view',
    kind: 'query',
    input: shape({ circulation: id }),
    claim: onCirculation('circulation.read'),
    run: (tx, { circulation }, actor) => ownNote(tx, circulation, actor.person),
  }),

  memberOperation({
    name: 'notes.keep',
    kind: 'command',
    input: shape({ circulation: id, text: note, back: instantOrNone }),
    claim: onCirculation('circulation.read'),
    changes: ['told'],
    run: async (tx, { circulation, text, back }, actor) => {
      keepOwnNote(tx, circulation, actor.person, { text: text?.trim() ?? '', back });
      return null;
    },
  }),

  memberOperation({
    name: 'filters.keep',
    kind: 'command',
    input: shape({
      filters: listOf(
        shape({
          name: shortText,
          state: oneOf('live', 'ended', 'all'),
          filter,
          holder: idOrNone,
          documentType: orNull(typeCode),
          late: flag,
        }),
        { most: 30 },
      ),
    }),
    claim: inGeneral('session.own'),
    changes: ['session'],
    run: async (tx, { filters }, actor) => {
      keepFilters(tx, actor.person, filters);
      return null;
    },
  }),

  memberOperation({
    name: 'desk.many',
    kind: 'command',
    input: shape({ circulations: listOf(id, { least: 1, most: 200 }), act: manyAct }),
    // Each circulation asks for itself whether this member steers it.
    claim: inGeneral('desk.read'),
    changes: ['circulation'],
    run: (tx, input, actor) => actOnMany(tx, input.circulations, input.act, actor),
  }),

  memberOperation({
    name: 'desk.sendQuick',
    kind: 'command',
    input: shape({
      file: hash,
      name: fileName,
      title,
      verb: optional(oneOf('review', 'approve', 'sign', 'read'), 'approve'),
      people: listOf(assignee, { least: 1, most: 100 }),
      due: instantOrNone,
      note,
    }),
    claim: inGeneral('circulation.begin'),
    changes: ['circulation', 'record', 'draft'],
    prepare: async (organization) => ({
      record: await takeRecordNumber(organization, null),
      circulation: await takeCirculationNumber(organization),
    }),
    run: async (tx, input, actor, _caller, numbers) => {
      await needPeople(tx, input.people);
      return sendQuick(tx, input, numbers, actor.person);
    },
  }),
] as const;
