import { readdirSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { everyOperation } from '@/entry/operations';
import { type First, firstsOf } from '@/ui/data/firsts';

const inside = path.resolve(import.meta.dirname, '../../src/app/(inside)');

/** The address of every page inside, with something in the place of each id. */
function pages(folder = inside, address = ''): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    if (entry.isFile()) return entry.name === 'page.tsx' ? [address] : [];
    return pages(path.join(folder, entry.name), `${address}/${entry.name.startsWith('[') ? 'some-id' : entry.name}`);
  });
}

describe('the first questions of a page', () => {
  it('are asked of every page but the specimens, and are questions that an operation takes', () => {
    const found = pages();
    expect(found).toContain('/circulations/some-id/act/some-id');
    const without = found.filter((address) => firstsOf(address).length === 0);
    expect(without).toEqual(['/specimens']);
    for (const address of [...found, '/circulations/some-id?at=3', '/people?find=Ro', '/circulations?find=late'])
      for (const { name, input, paged } of firstsOf(address)) {
        const operation = everyOperation.get(name);
        expect(operation?.kind, `${address}: ${name}`).toBe('query');
        const given = paged ? { ...input, after: null } : input;
        expect(operation?.input.schema.validate(given).error, `${address}: ${name}`).toBeUndefined();
      }
  });

  it('are none for what is no page, whatever it is called', () => {
    for (const address of [
      '/',
      '/constructor',
      '/__proto__',
      '/file/record/some-id/A',
      '/circulations/some-id/toString',
    ])
      expect(firstsOf(address), address).toEqual([]);
  });

  it('of a signature go on with the seat that is one’s own to sign, and of nothing else', () => {
    const [view] = firstsOf('/circulations/c/act/s') as [First];
    const seat = (more: object) => ({ seats: [{ id: 's', mine: true, verb: 'sign', ...more }] });
    expect(view.next(seat({})).map(({ name }) => name)).toEqual(['seat.mine']);
    for (const other of [{ mine: false }, { verb: 'review' }, { id: 'another' }])
      expect(view.next(seat(other))).toEqual([]);
  });
});
