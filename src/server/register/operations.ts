import { alike } from '@/core/trail/canonical';
import { documentTypes } from '../admin/documentTypes';
import { needPeople } from '../admin/people';
import { recordState } from '../circulation/load';
import { starts } from '../circulation/published';
import { startChange, takeCirculationNumber } from '../circulation/startChange';
import type { Tx } from '../db/connect';
import { putPayload } from '../events/payloads';
import { enqueue } from '../jobs/queue';
import { listOf, optional, shape } from '../operations/input';
import { type Claim, inGeneral, memberOperation } from '../operations/operation';
import { cursor, filter, id, idOrNone, reason, title } from '../operations/pieces';
import { factValues } from '../operations/routePieces';
import { needUnit } from '../organization/units';
import { refuse } from '../refused';
import { actOnRecord } from './act';
import { createRecord, fitDetails, needDocumentType, takeRecordNumber } from './createRecord';
import { registerPage } from './list';
import { recordSubject, recordView } from './view';

/** The claim of an operation on one record. */
function onRecord(action: 'record.read' | 'record.describe') {
  return async (tx: Tx, input: { readonly record: string }): Promise<Claim | null> => {
    const state = await recordState(tx, input.record);
    return state && { action, subject: recordSubject(state) };
  };
}

export const registerOperations = [
  memberOperation({
    name: 'register.list',
    kind: 'query',
    input: shape({ filter, after: cursor }),
    claim: inGeneral('register.read'),
    run: registerPage,
  }),

  memberOperation({
    name: 'register.types',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('register.read'),
    run: documentTypes,
  }),

  memberOperation({
    name: 'record.view',
    kind: 'query',
    input: shape({ record: id }),
    claim: onRecord('record.read'),
    run: async (tx, input, actor) => (await recordView(tx, input.record, actor)) ?? refuse('not-found'),
  }),

  memberOperation({
    name: 'record.create',
    kind: 'command',
    input: shape({ title, documentType: id, owner: id, unit: idOrNone, details: optional(factValues, {}) }),
    limit: 64 * 1024,
    claim: inGeneral('record.create'),
    changes: ['record'],
    prepare: (organization, input) => takeRecordNumber(organization, input.documentType),
    run: async (tx, input, actor, _caller, taken) => {
      await needPeople(tx, [{ person: input.owner, kind: 'person' }]);
      if (input.unit !== null) await needUnit(tx, input.unit);
      const details = await fitDetails(tx, input.documentType, input.details);
      const { title: called, owner, unit } = input;
      return createRecord(tx, taken, { title: called, owner, unit, details, complete: true }, actor.person);
    },
  }),

  memberOperation({
    name: 'record.describe',
    kind: 'command',
    input: shape({ record: id, title, documentType: id, owner: id, unit: idOrNone, details: optional(factValues, {}) }),
    limit: 64 * 1024,
    claim: onRecord('record.describe'),
    changes: ['record'],
    run: async (tx, { record, details: given, ...data }, actor) => {
      // Only what changes is checked: a title can be mended although its owner has left.
      const before = await recordState(tx, record);
      if (data.documentType !== before?.documentType) await needDocumentType(tx, data.documentType);
      if (data.owner !== before?.owner) await needPeople(tx, [{ person: data.owner, kind: 'person' }]);
      if (data.unit !== null && data.unit !== before?.unit) await needUnit(tx, data.unit);
      const same = data.documentType === before?.documentType && alike(given, before.details);
      const details = same ? before.details : await fitDetails(tx, data.documentType, given);
      await actOnRecord(tx, record, { type: 'record.described', data: { ...data, details } }, actor.person);
      return null;
    },
  }),

  memberOperation({
    name: 'change.start',
    kind: 'command',
    input: shape({ records: listOf(id, { least: 1, most: 20 }), reason, author: id }),
    claim: inGeneral('change.start'),
    public: starts,
    changes: ['circulation', 'record', 'draft'],
    prepare: (organization) => takeCirculationNumber(organization),
    run: async (tx, input, actor, _caller, number) => {
      await needPeople(tx, [{ person: input.author, kind: 'person' }]);
      const started = await startChange(tx, {
        number,
        records: input.records,
        reason: putPayload(tx, input.reason),
        author: input.author,
        controller: actor.person,
      });
      if (input.author !== actor.person)
        enqueue(tx, 'mail', { template: 'write', person: input.author, circulation: started.circulation });
      return started;
    },
  }),
] as const;
