import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  controller,
  created,
  drawsFrom,
  fieldsFor,
  hash,
  randomRoute,
  step,
} from '../../../../test/properties/arbitrary';
import { attach, put, route, stage, state } from '../../../../test/properties/scene';
import { emptyRoute } from '../../route/route';
import { newest, presentFields } from '../run/state';
import { leftOver, nothingPlanned, type Planning, prepared, recording } from './planning';

const document = (run: ReturnType<typeof created>) => {
  const file = newest(state(run))?.files.find(({ role }) => role === 'document');
  if (!file) throw new Error('no document');
  return file;
};
/** What somebody prepared for a fresh circulation with a version: a random route and its fields. */
const scene = (seed: number, seats: number) => {
  const run = created(emptyRoute('root'));
  attach(run, 1);
  const plan = randomRoute(drawsFrom(seed), seats);
  const planned: Planning = { ...nothingPlanned, plan, note: 'words' };
  const file = document(run);
  const fields = fieldsFor(prepared(state(run), planned), file.id);
  return { run, planning: { ...planned, fields: [{ file: file.id, content: file.file, fields }] }, fields };
};

describe('what is prepared before a circulation is sent', () => {
  it('is shown as it is going to stand once it is recorded', () => {
    fc.assert(
      fc.property(fc.nat(2 ** 30), fc.integer({ min: 1, max: 20 }), (seed, seats) => {
        const { run, planning, fields } = scene(seed, seats);
        const shown = prepared(state(run), planning);
        const before = state(run);
        for (const command of recording(before, planning, null)) expect(step(run, command, controller).ok).toBe(true);
        const recorded = state(run);
        // Looking at it moved nothing.
        expect(shown.last).toBe(before.last);
        expect(shown.plan).toEqual(recorded.plan);
        expect([...shown.seats]).toEqual([...recorded.seats]);
        expect(presentFields(shown)).toEqual(presentFields(recorded));
        expect(presentFields(recorded)).toEqual(fields);
        expect(leftOver(recorded, planning)).toBe(null);
      }),
    );
  });

  it('is recorded with one planning, however often it was changed, and not at all where nothing was prepared', () => {
    const { planning, run } = scene(3, 6);
    expect(recording(state(run), planning, hash(1)).map(({ type }) => type)).toEqual(
      planning.fields[0]?.fields.length ? ['plan', 'putFields'] : ['plan'],
    );
    expect(recording(state(run), nothingPlanned, null)).toEqual([]);
  });

  it('keeps fields that were put on an earlier version until they are put anew, and records none of them', () => {
    const run = created(emptyRoute('root'));
    attach(run, 1);
    const plan = route(stage('s', 'sign', ['petra']));
    const file = document(run);
    const planned: Planning = { ...nothingPlanned, plan };
    const fields = fieldsFor(prepared(state(run), planned), file.id);
    const planning = { ...planned, fields: [{ file: file.id, content: file.file, fields }] };
    attach(run, 2);
    expect(prepared(state(run), planning).fields).toEqual(fields);
    expect(presentFields(prepared(state(run), planning))).toEqual([]);
    const commands = recording(state(run), planning, null);
    expect(commands.map(({ type }) => type)).toEqual(['plan']);
    for (const command of commands) step(run, command, controller);
    put(run, { type: 'send', releasesItself: false });
    const left = leftOver(state(run), planning);
    expect(left).toEqual({ ...nothingPlanned, fields: planning.fields });
    // Under way they still stand where they were put, for whoever puts them anew; what was put since wins.
    expect(prepared(state(run), left as Planning).fields).toEqual(fields);
    expect(put(run, { type: 'putFields', file: file.id, content: document(run).file, fields: [] })).toBe('ok');
    expect(prepared(state(run), left as Planning).fields).toEqual([]);
    expect(leftOver(state(run), planning)).toBe(null);
  });

  it('leaves out the fields of somebody who no longer signs', () => {
    const run = created(emptyRoute('root'));
    attach(run, 1);
    const file = document(run);
    const both = route(stage('s', 'sign', ['petra', 'oskar']));
    const fields = fieldsFor(prepared(state(run), { ...nothingPlanned, plan: both }), file.id);
    const put = [{ file: file.id, content: file.file, fields }];
    const recorded = (plan: typeof both) =>
      recording(state(run), { ...nothingPlanned, plan, fields: put }, null).flatMap((command) =>
        command.type === 'putFields' ? command.fields.map((field) => field.seat) : [],
      );
    expect(new Set(recorded(both))).toEqual(new Set(['s-petra', 's-oskar']));
    expect(new Set(recorded(route(stage('s', 'sign', ['oskar']))))).toEqual(new Set(['s-oskar']));
    expect(recorded(route(stage('s', 'read', ['petra', 'oskar'])))).toEqual([]);
  });
});
