import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inSeries, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const open = [
  'change.start',
  'circulation.state',
  'circulation.trail',
  'circulation.files',
  'circulation.values',
  'circulation.giveFacts',
  'circulation.remind',
  'circulation.withdraw',
];

describe('what is public', () => {
  it('is what is said to be, each with a scope, a version and a schema of its answer', () => {
    const said = [...w.registry.values()].filter((operation) => operation.public);
    expect(said.map(({ name }) => name).sort()).toEqual([...open].sort());
    for (const { name, kind, public: own } of said)
      expect([own?.version, own?.scope === 'read'], name).toEqual([1, kind === 'query']);
  });

  it('answers by its schema, to whoever may put it: how it stands, what happened, its files and values', async () => {
    const { circulation } = await w.sent(inSeries(stage('review', ['petra', 'jarek'])));
    const state = await w.ask('ines', 'circulation.state', { circulation });
    expect(state).toMatchObject({ circulation, phase: 'running', round: 1, version: 1, waitsFor: ['petra', 'jarek'] });
    expect(state.seats.map(({ person, outside, status }) => [person, outside, status])).toEqual([
      ['petra', false, 'asked'],
      ['jarek', true, 'asked'],
    ]);
    const trail = await w.ask('ines', 'circulation.trail', { circulation });
    expect(trail.lines.map(({ type }) => type)).toEqual(expect.arrayContaining(['circulation.sent', 'seat.asked']));
    const view = await w.ask('petra', 'circulation.view', { circulation });
    const { files } = await w.ask('petra', 'circulation.files', { circulation });
    expect(files.map(({ sha256, name, download }) => [sha256, name, download])).toEqual(
      view.versions.flatMap((version) => version.files.map(({ file, name }) => [file, name, null])),
    );
    expect(await w.ask('ines', 'circulation.values', { circulation })).toEqual({ circulation, values: [] });
    for (const name of open.filter((one) => /state|trail|files|values/.test(one)))
      expect(await w.refused('benedikt', name, { circulation }), name).toBe('not-found');
    expect(await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' })).toEqual({
      phase: 'withdrawn',
      waitsFor: [],
    });
  });

  it('is all that a program may put, and no token is known yet', async () => {
    const { handle } = await import('@/server/operations/handle');
    const codes = new Map<string, string>();
    for (const operation of w.registry.values()) {
      if (operation.who === 'anyone') continue;
      const { largestInput } = await import('../largest');
      const input = largestInput(operation.input.schema) as object;
      const answer = await handle(
        operation,
        operation.kind === 'command' ? { ...input, commandId: randomUUID() } : input,
        {
          address: '203.0.113.9',
          agent: 'program',
          by: { kind: 'token', secret: 'x'.repeat(40) },
          page: undefined,
          setCookie: () => {},
        },
      );
      codes.set(operation.name, answer.ok ? 'ok' : answer.refusal.code);
    }
    for (const [name, code] of codes) expect(code, name).toBe(open.includes(name) ? 'token-unknown' : 'not-public');
  });
});
