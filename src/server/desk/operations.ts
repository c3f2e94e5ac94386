import Joi from 'joi';
import { scopeOf } from '@/core/access/may';
import type { Verb, Who } from '@/core/route/route';
import { needPeople } from '../admin/people';
import { act } from '../circulation/act';
import { inGeneral } from '../circulation/claims';
import { startChange } from '../circulation/operations';
import { draftFile, draftOf, makeVersion, submitVersion } from '../drafting/draft';
import { putPayload, putPayloadIfAny } from '../events/streams';
import { operation, personOf } from '../operations/operation';
import { hash, instantOrNone, note, title, who } from '../operations/schemas';
import { newId } from '../random';
import { refuse } from '../refused';
import { createRecord } from '../register/operations';

export const deskOperations = [
  operation<Record<string, never>, unknown>({
    name: 'desk.view',
    kind: 'query',
    where: 'member',
    input: Joi.object({}),
    access: inGeneral('desk.read'),
    run: async (tx, _input, actor) => {
      const me = personOf(actor);
      const tasks = await tx.sql`
        select t.circulation, t.doing, t.seat, t.about, t.since, t.due, t.closes, c.number as circulation_number, c.phase, c.round, c.version,
               c.line, c.next_due, c.stops, c.controller, c.author, c.change, r.record, r.number, r.title, r.complete
        from task t
        join circulation c on c.organization = t.organization and c.id = t.circulation
        join register r on r.organization = c.organization and r.record = c.record
        where t.organization = ${tx.organization} and t.person = ${me}
        order by coalesce(t.due, 8640000000000000), t.since limit 500`;
      const incomplete = await tx.sql`
        select record, number, title, changed from register
        where organization = ${tx.organization} and owner = ${me} and not complete order by changed desc limit 50`;
      const waits = await tx.sql`
        select t.circulation, t.person, t.doing, t.since, t.due, r.number, r.title
        from circulation c
        join task t on t.organization = c.organization and t.circulation = c.id and t.person <> ${me}
        join register r on r.organization = c.organization and r.record = c.record
        where c.organization = ${tx.organization} and c.controller = ${me} and c.ended is null
        order by t.since limit 500`;
      return { tasks, incomplete, waits };
    },
  }),

  operation<{ text: string }, unknown>({
    name: 'desk.find',
    kind: 'query',
    where: 'member',
    input: Joi.object({ text: Joi.string().trim().max(200).allow('').required() }),
    access: inGeneral('desk.read'),
    run: async (tx, input, actor) => {
      const text = input.text.trim();
      const like = `%${text.replace(/[\\%_]/g, (character) => `\\${character}`)}%`;
      const records = await tx.sql`
        select record, number, title, revision, in_work from register
        where organization = ${tx.organization} and (number ilike ${like} or title ilike ${like})
        order by (number ilike ${like}) desc, number limit 8`;
      const scope = scopeOf(actor, 'circulation.read');
      const circulations = await tx.sql`
        select c.id, c.number, c.phase, r.number as document, r.title
        from circulation c join register r on r.organization = c.organization and r.record = c.record
        where c.organization = ${tx.organization} and (c.number ilike ${like} or r.number ilike ${like} or r.title ilike ${like})
          ${scope.kind === 'all' ? tx.sql`` : tx.sql`and exists (select 1 from involvement i where i.organization = c.organization and i.circulation = c.id and i.person = ${personOf(actor)})`}
        order by c.ended is not null, c.last desc limit 8`;
      return { records, circulations };
    },
  }),

  operation<
    { file: string; name: string; title: string; verb: Verb; people: Who[]; due: number | null; note: string | null },
    { circulation: string; number: string }
  >({
    name: 'desk.sendQuick',
    kind: 'command',
    where: 'member',
    input: Joi.object({
      file: hash.required(),
      name: Joi.string().trim().min(1).max(200).required(),
      title: title.required(),
      verb: Joi.valid('review', 'approve', 'sign', 'read').default('approve'),
      people: Joi.array().min(1).max(100).items(who).required(),
      due: instantOrNone,
      note,
    }),
    access: inGeneral('record.create'),
    run: async (tx, input, actor) => {
      const me = personOf(actor);
      await needPeople(tx, input.people);
      const file = await draftFile(tx, input);
      if (file.mediaType !== 'application/pdf') refuse('file-not-pdf');
      const { record, number } = await createRecord(
        tx,
        { title: input.title, kind: null, owner: me, complete: false },
        me,
      );
      const { change, circulation } = await startChange(tx, {
        record,
        reason: await putPayload(tx, 'Sent from the Desk'),
        author: me,
        controller: me,
      });
      await tx.sql`
        update draft set source = 'file', main = ${JSON.stringify(file)}, revision = 1, saved = ${tx.now}
        where organization = ${tx.organization} and change = ${change}`;
      const row = await draftOf(tx, change);
      if (!row) refuse('not-found');
      await submitVersion(tx, circulation, await makeVersion(tx, row, null, me, true), me);
      await act(
        tx,
        circulation,
        {
          type: 'plan',
          note: await putPayloadIfAny(tx, input.note),
          route: {
            kind: 'series',
            id: newId(),
            parts: [
              {
                kind: 'stage',
                id: newId(),
                verb: input.verb,
                seats: input.people.map((person) => ({ id: newId(), who: person })),
                order: 'together',
                rule: { kind: 'all' },
                due: input.due,
                closes: null,
                onDecline: 'stop',
                delegate: true,
              },
            ],
          },
        },
        me,
      );
      await act(tx, circulation, { type: 'send' }, me);
      return { circulation, number };
    },
  }),
];
