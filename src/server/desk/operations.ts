import { may } from '@/core/access/may';
import { needPeople } from '../admin/people';
import { takeCirculationNumber } from '../circulation/startChange';
import { listOf, oneOf, optional, orNull, type Piece, shape } from '../operations/input';
import { inGeneral, memberOperation } from '../operations/operation';
import { cursor, fileName, filter, hash, id, instantOrNone, note, title } from '../operations/pieces';
import { assignee } from '../operations/routePieces';
import { takeRecordNumber } from '../register/createRecord';
import { type Chased, chase, chaseList } from './chase';
import { find } from './find';
import { loadOf } from './load';
import { sendQuick } from './sendQuick';
import { deskPage, taskPage } from './view';

export const deskOperations = [
  memberOperation({
    name: 'desk.view',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('desk.read'),
    run: (tx, _input, actor) => deskPage(tx, actor.person, may(actor, 'people.manage', { kind: 'organization' })),
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
      acts: listOf(
        shape({
          circulation: id,
          seat: id,
          act: oneOf('remind', 'extend', 'reassign'),
          due: instantOrNone,
          to: orNull(assignee),
        }) as Piece<Chased>,
        { least: 1, most: 300 },
      ),
    }),
    // Each act asks the engine, which lets only whoever steers that circulation.
    claim: inGeneral('desk.read'),
    changes: ['circulation'],
    run: (tx, input, actor) => chase(tx, input.acts, actor),
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
