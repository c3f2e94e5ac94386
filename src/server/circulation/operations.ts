import Joi from 'joi';
import { type Action, scopeOf } from '@/core/access/may';
import type { Command } from '@/core/circulation/commands';
import { seatAt } from '@/core/circulation/state';
import { type Field, lintFields } from '@/core/page/fields';
import { comingRevision } from '@/core/record/record';
import { type Series, seatsOf, type Who } from '@/core/route/route';
import { needPeople } from '../admin/people';
import { linkAddress, linkFor } from '../auth/links';
import type { Tx } from '../db/connect';
import { payloads, putPayload, putPayloadIfAny } from '../events/streams';
import { findFile } from '../files/store';
import { operation, personOf } from '../operations/operation';
import {
  type CommentInput,
  comment,
  fields,
  hash,
  id,
  instantOrNone,
  note,
  reason,
  route,
  who,
} from '../operations/schemas';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';
import { act, nextCirculationNumber } from './act';
import { inGeneral, onCirculation } from './claims';
import { circulationState, recordState } from './load';
import { circulationView } from './view';

type ToCommand<I> = (tx: Tx, input: I) => Promise<Command> | Command;

/** Operations that only put one engine command, made from their input, for those who may do `action`. */
function commanding(action: Action) {
  return <I extends { circulation: string }>(
    name: string,
    input: Record<string, Joi.Schema>,
    toCommand: ToCommand<I>,
  ) =>
    operation<I, null>({
      name,
      kind: 'command',
      where: 'member',
      input: Joi.object({ circulation: id.required(), ...input }),
      access: onCirculation(action),
      run: async (tx, given, actor) => {
        await act(tx, given.circulation, await toCommand(tx, given), personOf(actor));
        return null;
      },
    });
}

const steering = commanding('circulation.steer');
const acting = commanding('circulation.act');
const commenting = commanding('circulation.comment');

/** Checks places against the pages they stand on; what the engine cannot know. */
async function checkFields(tx: Tx, file: string, wanted: readonly Field[], seats: ReadonlySet<string>): Promise<void> {
  const stored = await findFile(tx, file);
  if (!stored?.facts.pages) refuse('file-unknown');
  const finding = lintFields(wanted, stored.facts.pages, seats)[0];
  if (finding) refuse('fields-unfit', { finding: finding.code, field: finding.field });
}

export const circulationOperations = [
  operation<{ circulation: string }, unknown>({
    name: 'circulation.view',
    kind: 'query',
    where: 'member',
    input: Joi.object({ circulation: id.required() }),
    access: onCirculation('circulation.read'),
    run: async (tx, input) => circulationView(tx, input.circulation),
  }),

  operation<{ state: 'live' | 'ended' | 'all' }, unknown>({
    name: 'circulation.list',
    kind: 'query',
    where: 'member',
    input: Joi.object({ state: Joi.valid('live', 'ended', 'all').default('live') }),
    access: inGeneral('desk.read'),
    run: async (tx, input, actor) => {
      const scope = scopeOf(actor, 'circulation.read');
      if (scope.kind === 'none') return [];
      return tx.sql`
        select c.id, c.number, c.phase, c.round, c.version, c.stops, c.seats, c.decided, c.next_due, c.sent, c.ended, c.last, c.line,
               c.controller, c.author, r.number as document, r.title, coalesce(r.coming, r.revision) as revision
        from circulation c join register r on r.organization = c.organization and r.record = c.record
        where c.organization = ${tx.organization}
          ${scope.kind === 'all' ? tx.sql`` : tx.sql`and exists (select 1 from involvement i where i.organization = c.organization and i.circulation = c.id and i.person = ${scope.person})`}
          ${input.state === 'live' ? tx.sql`and c.ended is null` : input.state === 'ended' ? tx.sql`and c.ended is not null` : tx.sql``}
        order by c.last desc limit 1000`;
    },
  }),

  steering<{ circulation: string; route: Series; note: string | null }>(
    'circulation.plan',
    { route: route.required(), note },
    async (tx, input) => {
      await needPeople(
        tx,
        seatsOf(input.route).map(({ seat }) => seat.who),
      );
      // The same words again are not put aside a second time.
      const state = await circulationState(tx, input.circulation);
      const before = state?.note ? (await payloads(tx, [state.note])).get(state.note) : undefined;
      const kept = state?.note && before === input.note?.trim() ? state.note : await putPayloadIfAny(tx, input.note);
      return { type: 'plan', route: input.route, note: kept };
    },
  ),

  steering<{ circulation: string; file: string; fields: Field[] }>(
    'circulation.putFields',
    { file: hash.required(), fields: fields.required() },
    async (tx, input) => {
      const state = await circulationState(tx, input.circulation);
      await checkFields(tx, input.file, input.fields, new Set(state?.seats.map((seat) => seat.id)));
      return { type: 'putFields', file: input.file, fields: input.fields };
    },
  ),

  steering<{ circulation: string }>('circulation.send', {}, () => ({ type: 'send' })),

  acting<{ circulation: string; seat: string; epoch: number; scope: string }>(
    'circulation.see',
    { seat: id.required(), epoch: Joi.number().integer().min(1).required(), scope: hash.required() },
    (_tx, { seat, epoch, scope }) => ({ type: 'see', seat, epoch, scope }),
  ),

  commenting<CommentInput & { circulation: string }>(
    'circulation.comment',
    comment,
    async (tx, { circulation: _, ...input }) => ({
      type: 'comment',
      ...input,
      note: await putPayload(tx, input.note),
    }),
  ),

  commenting<{ circulation: string; comment: string }>(
    'circulation.resolveComment',
    { comment: id.required() },
    (_tx, { comment }) => ({ type: 'resolveComment', comment }),
  ),

  steering<{ circulation: string }>('circulation.proposeRound', {}, () => ({ type: 'proposeRound' })),

  steering<Omit<Extract<Command, { type: 'confirmRound' }>, 'type'> & { circulation: string }>(
    'circulation.confirmRound',
    {
      revision: Joi.number().integer().min(1).required(),
      version: Joi.number().integer().min(1).required(),
      decisions: Joi.number().integer().min(0).required(),
      keep: Joi.array().max(400).items(id).required(),
      times: Joi.array()
        .max(100)
        .items(Joi.object({ stage: id.required(), due: instantOrNone, closes: instantOrNone }))
        .default([]),
    },
    (_tx, { revision, version, decisions, keep, times }) => ({
      type: 'confirmRound',
      revision,
      version,
      decisions,
      keep,
      times,
    }),
  ),

  steering<{ circulation: string; seat: string; due: number | null; closes: number | null }>(
    'circulation.extend',
    { seat: id.required(), due: instantOrNone, closes: instantOrNone },
    (_tx, { seat, due, closes }) => ({ type: 'extend', seat, due, closes }),
  ),

  steering<{ circulation: string; seat: string }>('circulation.remind', { seat: id.required() }, (_tx, { seat }) => ({
    type: 'remind',
    seat,
  })),

  acting<{ circulation: string; seat: string; epoch: number; to: string; note: string | null }>(
    'circulation.delegate',
    { seat: id.required(), epoch: Joi.number().integer().min(1).required(), to: id.required(), note },
    async (tx, { seat, epoch, to, note: text }) => {
      await needPeople(tx, [{ person: to, kind: 'person' }]);
      return { type: 'delegate', seat, epoch, to, note: await putPayloadIfAny(tx, text) };
    },
  ),

  steering<{
    circulation: string;
    seat: string;
    to: Who;
    due: number | null;
    closes: number | null;
    note: string | null;
  }>(
    'circulation.reassign',
    { seat: id.required(), to: who.required(), due: instantOrNone, closes: instantOrNone, note },
    async (tx, { seat, to, due, closes, note: text }) => {
      await needPeople(tx, [to]);
      return { type: 'reassign', seat, to, due, closes, note: await putPayloadIfAny(tx, text) };
    },
  ),

  steering<{ circulation: string; seat: string; person: string }>(
    'circulation.addSecondHolder',
    { seat: id.required(), person: id.required() },
    async (tx, { seat, person }) => {
      await needPeople(tx, [{ person, kind: 'person' }]);
      return { type: 'addSecondHolder', seat, person };
    },
  ),

  steering<{ circulation: string; seat: string; person: string }>(
    'circulation.dropSecondHolder',
    { seat: id.required(), person: id.required() },
    (_tx, { seat, person }) => ({ type: 'dropSecondHolder', seat, person }),
  ),

  operation<{ circulation: string; reason: string }, null>({
    name: 'circulation.withdraw',
    kind: 'command',
    where: 'member',
    input: Joi.object({ circulation: id.required(), reason }),
    access: onCirculation('circulation.steer'),
    run: async (tx, input, actor) => {
      const person = personOf(actor);
      const { state } = await act(
        tx,
        input.circulation,
        { type: 'withdraw', note: await putPayload(tx, input.reason) },
        person,
      );
      await actOnRecord(tx, state.record, { type: 'change.ended', data: { change: state.change } }, person);
      return null;
    },
  }),

  operation<{ circulation: string }, null>({
    name: 'circulation.release',
    kind: 'command',
    where: 'member',
    input: Joi.object({ circulation: id.required() }),
    access: onCirculation('circulation.steer'),
    run: async (tx, input, actor) => {
      const person = personOf(actor);
      const before = await circulationState(tx, input.circulation);
      if (!before) refuse('not-found');
      const record = await recordState(tx, before.record);
      const change = record?.changes.find((candidate) => candidate.id === before.change);
      if (!change) refuse('not-found');
      // One transaction appends to both streams, the circulation's first.
      const { state } = await act(
        tx,
        input.circulation,
        { type: 'complete', revision: change.revision, effective: tx.now },
        person,
      );
      const version = state.versions[state.versions.length - 1];
      if (!state.final || !version) refuse('not-found');
      await actOnRecord(
        tx,
        state.record,
        {
          type: 'revision.released',
          data: {
            change: change.id,
            circulation: input.circulation,
            revision: change.revision,
            version: version.number,
            frozen: version.files.find((file) => file.role === 'main')?.file ?? '',
            file: state.final.file,
            effective: tx.now,
          },
        },
        person,
      );
      return null;
    },
  }),

  operation<{ circulation: string }, { circulation: string }>({
    name: 'circulation.startAfresh',
    kind: 'command',
    where: 'member',
    input: Joi.object({ circulation: id.required() }),
    access: onCirculation('circulation.steer'),
    run: async (tx, input, actor) => {
      const person = personOf(actor);
      const before = await circulationState(tx, input.circulation);
      if (before?.phase !== 'withdrawn') refuse('not-withdrawn');
      const record = await recordState(tx, before.record);
      const change = record?.changes.find((candidate) => candidate.id === before.change);
      if (!change) refuse('not-found');
      const fresh = await startChange(tx, {
        record: before.record,
        reason: change.reason,
        author: before.author,
        controller: person,
        route: freshIds(before.route),
        note: before.note,
      });
      await tx.sql`
        update draft set source = old.source, story = old.story, main = old.main, attachments = old.attachments
        from draft old
        where draft.organization = ${tx.organization} and draft.change = ${fresh.change}
          and old.organization = ${tx.organization} and old.change = ${before.change}`;
      return { circulation: fresh.circulation };
    },
  }),

  operation<{ circulation: string; seat: string }, { address: string }>({
    name: 'circulation.copyLink',
    kind: 'query',
    where: 'member',
    input: Joi.object({ circulation: id.required(), seat: id.required() }),
    access: onCirculation('circulation.steer'),
    run: async (tx, input) => {
      const state = await circulationState(tx, input.circulation);
      const seat = state && seatAt(state, input.seat);
      if (!seat) refuse('not-found');
      if (!seat.outside) refuse('not-outside');
      return { address: linkAddress(tx.organization, await linkFor(tx, input.circulation, seat.id, seat.epoch)) };
    },
  }),
];

/** The same route with ids of its own, for a fresh circulation. */
function freshIds(route: Series): Series {
  const renewed = new Map<string, string>();
  return JSON.parse(JSON.stringify(route), (key, value) => {
    if (key !== 'id') return value;
    if (!renewed.has(value)) renewed.set(value, newId());
    return renewed.get(value);
  });
}

/** Starts a change of a record with its circulation and its working copy; all three or none. */
export async function startChange(
  tx: Tx,
  input: {
    record: string;
    reason: string;
    author: string;
    controller: string;
    route?: Series;
    note?: string | null;
  },
): Promise<{ change: string; circulation: string }> {
  const change = newId();
  const circulation = newId();
  const { record, reason: why, author, controller } = input;
  const state = await recordState(tx, record);
  if (!state) refuse('not-found');
  const empty: Series = { kind: 'series', id: newId(), parts: [] };
  await act(
    tx,
    circulation,
    { type: 'create', number: await nextCirculationNumber(tx), record, change, controller, author, route: empty },
    controller,
  );
  if (input.route)
    await act(tx, circulation, { type: 'plan', route: input.route, note: input.note ?? null }, controller);
  await actOnRecord(
    tx,
    record,
    {
      type: 'change.started',
      data: { change, circulation, revision: comingRevision(state), reason: why, author, controller },
    },
    controller,
  );
  await tx.sql`
    insert into draft (organization, change, record, circulation, author, controller, saved)
    values (${tx.organization}, ${change}, ${record}, ${circulation}, ${author}, ${controller}, ${tx.now})`;
  return { change, circulation };
}
