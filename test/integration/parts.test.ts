import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type ViewPart, viewParts } from '@/core/circulation/telling/parts';
import { inSeries, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

it('a change names the parts of a circulation that it changed, and with those put in the view is as if asked for anew', async () => {
  const { circulation } = await w.sent(inSeries(stage('review', ['oskar', 'yuki'])), { title: 'In parts' });
  const view = (person: string) => w.ask(person, 'circulation.view', { circulation });
  const plain = (value: object): object => JSON.parse(JSON.stringify(value));
  const comment = randomUUID();
  const { versions, seats } = await view('ines');
  const on = { circulation, file: versions[0]?.files[0]?.file ?? '' };
  const seat = seats[0]?.id ?? '';
  const acts = [
    ['oskar', 'circulation.comment', { ...on, comment, note: 'Look' }],
    ['ines', 'circulation.comment', { ...on, comment: randomUUID(), thread: comment, note: 'I did' }],
    ['ines', 'circulation.resolveComment', { circulation, comment }],
    ['ines', 'circulation.reopenComment', { circulation, comment }],
    ['ines', 'circulation.remind', { circulation, seat }],
  ] as const;
  const named: (readonly ViewPart[])[] = [];
  for (const [person, name, input] of acts) {
    if (name === 'circulation.remind') await w.forward(3_700_000);
    const before = await view('ines');
    const answer = await w.answer(person, name, input);
    if (!answer.ok) throw new Error(`${name}: ${answer.refusal.code}`);
    const [topic, parts = ''] = (answer.changed.find((one) => one.startsWith('circulation ')) ?? '').split(' #');
    expect(topic).toBe(`circulation ${circulation}`);
    const own = parts.split(',') as ViewPart[];
    named.push(own);
    const renewed = await w.ask('ines', 'circulation.parts', { circulation, parts: own });
    expect(plain({ ...before, ...renewed }), name).toEqual(plain(await view('ines')));
  }
  expect(named.slice(0, 4)).toEqual(Array(4).fill(['standing', 'talk', 'trail']));
  expect(named[4]).toEqual(['seats', 'standing', 'trail']);

  // Whatever else happens changes the whole; all parts together are the whole.
  const paused = await w.answer('ines', 'circulation.pause', { circulation });
  expect(paused.ok && paused.changed.filter((one) => one.includes('#'))).toEqual([]);
  const { id: _, asOf: __, ...whole } = await view('ines');
  expect(plain(await w.ask('ines', 'circulation.parts', { circulation, parts: [...viewParts] }))).toEqual(plain(whole));
  expect(await w.refused('thea', 'circulation.parts', { circulation, parts: ['talk'] })).toBe('not-found');
});
