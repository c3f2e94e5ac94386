import ICAL from 'ical.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { organizationOfHandle } from '@/server/auth/links';
import { inSeries, stage, type World, world } from './world';

const hour = 3_600_000;
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

/** What whoever opens the address of a feed gets; null where there is nothing. */
async function read(address: string): Promise<string | null> {
  const { feedOf } = await import('@/server/desk/feed');
  const [handle = '', code = ''] = address.replace(/^.*\/feed\//, '').split('.');
  const organization = organizationOfHandle(handle);
  return organization ? w.inOrganization(organization, (tx) => feedOf(tx, handle, code)) : null;
}

describe('the calendar of somebody’s dues', () => {
  it('holds what they are asked to do and by when, for whoever knows its address; a new one ends the former', async () => {
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Brake; test, “Ø”',
      documentType: 'PRO',
      owner: 'rufus',
    });
    const made = await w.ask('ines', 'change.start', { records: [record], reason: 'New values', author: 'rufus' });
    const { change, circulation } = made;
    const file = await w.pdf('Draft');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'x.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    const due = Math.ceil(((await w.now()) + 20 * hour) / 1000) * 1000;
    const route = inSeries(stage('review', ['oskar', 'petra'], { due }));
    await w.ask('ines', 'circulation.plan', { circulation, note: null, route, facts: {}, basis: null });
    await w.ask('ines', 'circulation.send', { circulation });

    expect((await w.ask('oskar', 'feed.view')).address).toBeNull();
    const { address } = await w.ask('oskar', 'feed.renew');
    expect((await w.ask('oskar', 'feed.view')).address).toBe(address);
    expect((await w.ask('petra', 'feed.view')).address).toBeNull();
    // Judged by another reader of iCalendar.
    const events = (text: string | null) =>
      new ICAL.Component(ICAL.parse(text ?? '')).getAllSubcomponents('vevent').map((event) => new ICAL.Event(event));
    const [event, ...more] = events(await read(address));
    expect(more).toEqual([]);
    expect(event?.summary).toMatch(/^Review: \S+ Brake; test, “Ø”$/);
    expect(event?.endDate.toJSDate().getTime()).toBe(due);
    const seat = (await w.ask('ines', 'circulation.view', { circulation })).seats[0]?.id ?? '';
    await w.ask('ines', 'circulation.extend', { circulation, seat, due: due + 50 * hour, closes: null });
    const [later] = events(await read(address));
    expect(later?.uid).toBe(event?.uid);
    expect(later?.endDate.toJSDate().getTime()).toBe(due + 50 * hour);

    const next = await w.ask('oskar', 'feed.renew');
    expect(await read(address)).toBeNull();
    expect(await read(next.address)).not.toBeNull();
    // Another code, another person's handle, nonsense: nothing.
    expect(await read(next.address.replace(/\.[^.]+\.ics$/, `.${'A'.repeat(32)}.ics`))).toBeNull();
    expect(await read('https://x/feed/short.code.ics')).toBeNull();
    await w.ask('thea', 'people.leave', { person: 'oskar', left: true });
    expect(await read(next.address)).toBeNull();
    await w.ask('thea', 'people.leave', { person: 'oskar', left: false });
    await w.ask('oskar', 'feed.stop').catch(() => {});
  });
});
