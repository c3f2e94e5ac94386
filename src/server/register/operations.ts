import Joi from 'joi';
import { scopeOf } from '@/core/access/may';
import { nextNumber, numberPrefix } from '@/core/record/numbering';
import { changeInWork } from '@/core/record/record';
import { needPeople } from '../admin/people';
import { inGeneral } from '../circulation/claims';
import { recordState } from '../circulation/load';
import { startChange } from '../circulation/operations';
import type { Tx } from '../db/connect';
import { payloads, putPayload } from '../events/streams';
import { enqueue } from '../jobs/queue';
import { operation, personOf } from '../operations/operation';
import { id, reason, title } from '../operations/schemas';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from './act';

/** Makes a record with the next number of its kind's scheme. */
export async function createRecord(
  tx: Tx,
  input: { title: string; kind: string | null; owner: string; complete: boolean },
  actor: string,
): Promise<{ record: string; number: string }> {
  // The kind's row is held until the commit, so that two records made at once get two numbers without a retry.
  const [kind] = await tx.sql<{ code: string; scheme: string }[]>`
    select code, scheme from kind
    where organization = ${tx.organization} and ${input.kind === null ? tx.sql`usual` : tx.sql`code = ${input.kind}`}
    for update`;
  if (!kind) refuse('unknown-type');
  // By the number itself: a record keeps its number when it is given another kind.
  const taken = await tx.sql<{ number: string }[]>`
    select number from register
    where organization = ${tx.organization} and starts_with(number, ${numberPrefix(kind.scheme)})`;
  const number = nextNumber(
    kind.scheme,
    taken.map((row) => row.number),
  );
  const record = newId();
  await actOnRecord(
    tx,
    record,
    {
      type: 'record.created',
      data: { number, title: input.title, kind: kind.code, owner: input.owner, complete: input.complete },
    },
    actor,
  );
  return { record, number };
}

export const registerOperations = [
  operation<Record<string, never>, unknown>({
    name: 'register.list',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('record.read'),
    run: async (tx) => tx.sql`
      select record, number, title, kind, owner, complete, revision, effective, in_work, coming, changed from register
      where organization = ${tx.organization} order by number limit 5000`,
  }),

  operation<Record<string, never>, unknown>({
    name: 'register.types',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('record.read'),
    run: async (tx) => tx.sql`
      select code, name, scheme, usual from kind where organization = ${tx.organization} order by position`,
  }),

  operation<{ record: string }, unknown>({
    name: 'record.view',
    kind: 'query',
    where: 'member',
    input: Joi.object({ record: id.required() }),
    access: inGeneral('record.read'),
    run: async (tx, input, actor) => {
      const state = await recordState(tx, input.record);
      if (!state) refuse('not-found');
      const note = await payloads(
        tx,
        state.changes.map((change) => change.reason),
      );
      const scope = scopeOf(actor, 'circulation.read');
      const circulations = await tx.sql<{ id: string; number: string; phase: string; mine: boolean }[]>`
        select c.id, c.number, c.phase, c.line, c.next_due, c.stops,
               ${scope.kind === 'all'} or exists (select 1 from involvement i where i.organization = c.organization
                 and i.circulation = c.id and i.person = ${personOf(actor)}) as mine
        from circulation c where c.organization = ${tx.organization} and c.record = ${input.record} order by c.created desc`;
      const change = changeInWork(state);
      return {
        record: input.record,
        number: state.number,
        title: state.title,
        kind: state.kind,
        owner: state.owner,
        complete: state.complete,
        created: state.created,
        revisions: state.revisions,
        changes: state.changes.map(({ versions, reason: why, ...rest }) => ({
          ...rest,
          reason: note.get(why) ?? null,
          versions: versions.length,
        })),
        inWork: change && {
          change: change.id,
          circulation: change.circulation,
          revision: change.revision,
          author: change.author,
          since: change.started,
        },
        // That something is in work is told to everybody; what it is, only to those it concerns.
        circulations: circulations.map((row) =>
          row.mine ? row : { id: null, number: row.number, phase: row.phase, mine: false },
        ),
      };
    },
  }),

  operation<{ title: string; kind: string; owner: string }, { record: string; number: string }>({
    name: 'record.create',
    kind: 'command',
    where: 'member',
    input: Joi.object({ title: title.required(), kind: id.required(), owner: id.required() }),
    access: inGeneral('record.create'),
    run: async (tx, input, actor) => {
      await needPeople(tx, [{ person: input.owner, kind: 'person' }]);
      return createRecord(tx, { ...input, complete: true }, personOf(actor));
    },
  }),

  operation<{ record: string; title: string; kind: string; owner: string }, null>({
    name: 'record.describe',
    kind: 'command',
    where: 'member',
    input: Joi.object({ record: id.required(), title: title.required(), kind: id.required(), owner: id.required() }),
    access: async (tx, actor, input) => {
      const state = await recordState(tx, input.record);
      if (!state) return null;
      // The owner may complete and mend their own record; others need the controller's right.
      const own =
        actor.kind === 'member' && (state.owner === actor.person || changeInWork(state)?.controller === actor.person);
      return { action: own ? 'record.create' : 'record.change', subject: { kind: 'organization' } };
    },
    run: async (tx, { record, ...data }, actor) => {
      const [[kind]] = await Promise.all([
        tx.sql`select 1 from kind where organization = ${tx.organization} and code = ${data.kind}`,
        needPeople(tx, [{ person: data.owner, kind: 'person' }]),
      ]);
      if (!kind) refuse('unknown-type');
      await actOnRecord(tx, record, { type: 'record.described', data }, personOf(actor));
      return null;
    },
  }),

  operation<{ record: string; reason: string; author: string }, { circulation: string; change: string }>({
    name: 'change.start',
    kind: 'command',
    where: 'member',
    input: Joi.object({ record: id.required(), reason, author: id.required() }),
    access: inGeneral('record.change'),
    run: async (tx, input, actor) => {
      const person = personOf(actor);
      await needPeople(tx, [{ person: input.author, kind: 'person' }]);
      const started = await startChange(tx, {
        record: input.record,
        reason: await putPayload(tx, input.reason),
        author: input.author,
        controller: person,
      });
      if (input.author !== person)
        await enqueue(tx, 'mail', { template: 'write', person: input.author, circulation: started.circulation });
      return started;
    },
  }),
];
