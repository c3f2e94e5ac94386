import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { canonical, type Json } from './canonical';
import { chained, checkChain, genesis, type Link } from './chain';
import { lifted } from './lift';
import { hashOf } from './sha256';

const streamOf = (n: number): Link[] => {
  const links: Link[] = [];
  for (let i = 0; i < n; i += 1)
    links.push(
      chained(links[i - 1] ?? { sequence: 0, hash: genesis }, {
        organization: 'o',
        stream: 's',
        type: 'seat.seen',
        version: 1,
        at: 1000 + i,
        actor: 'petra',
        onBehalfOf: null,
        data: { seat: `s${i}` },
      }),
    );
  return links;
};

describe('the trail', () => {
  it('hashes as another implementation of SHA-256 does', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        expect(hashOf(text)).toBe(createHash('sha256').update(text, 'utf8').digest('hex'));
      }),
    );
  });

  it('writes canonical JSON that any reader parses back, whatever the order of keys (RFC 8785)', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const text = canonical(value as Json);
        expect(canonical(JSON.parse(text))).toBe(text);
        expect(JSON.parse(text)).toEqual(JSON.parse(JSON.stringify(value)));
      }),
    );
    // The ordering example of RFC 8785, 3.2.3.
    expect(canonical({ '\u20ac': 'Euro Sign', '\r': 'Carriage Return', '1': 'One', '\u0080': 'Control' })).toBe(
      '{"\\r":"Carriage Return","1":"One","\u0080":"Control","\u20ac":"Euro Sign"}',
    );
    expect(() => canonical(Number.NaN)).toThrow(TypeError);
    expect(() => canonical('\ud800')).toThrow(TypeError);
  });

  it('is whole as written, and shows any change, gap or swap at its place', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 20 }),
        fc.nat(),
        fc.constantFrom('data', 'actor', 'at', 'type', 'drop', 'swap'),
        (n, at, how) => {
          const links = streamOf(n);
          expect(checkChain(links)).toEqual({ whole: true, events: n, head: links[n - 1]?.hash });
          const i = at % (n - 1);
          const broken = links.slice();
          const link = broken[i] as Link;
          if (how === 'drop') broken.splice(i, 1);
          else if (how === 'swap') [broken[i], broken[i + 1]] = [broken[i + 1] as Link, link];
          else broken[i] = { ...link, [how]: how === 'at' ? link.at + 0.5 : `${link[how]} ` };
          const check = checkChain(broken);
          expect(check.whole).toBe(false);
          if (!check.whole) expect(check.sequence).toBe(how === 'drop' || how === 'swap' ? i + 2 : i + 1);
        },
      ),
    );
  });
});

describe('older events', () => {
  const reading = {
    versions: { 'lamp.lit': 3, 'lamp.out': 1 },
    lifts: {
      'lamp.lit': [
        (data: unknown) => ({ ...(data as object), colour: 'white' }),
        (data: unknown) => ({ ...(data as object), lumen: 800 }),
      ],
    },
  };

  it('are lifted to the present version of their type when they are read', () => {
    expect(lifted(reading, 'lamp.lit', 1, { tower: 4 })).toEqual({ tower: 4, colour: 'white', lumen: 800 });
    expect(lifted(reading, 'lamp.lit', 2, { tower: 4, colour: 'red' })).toEqual({
      tower: 4,
      colour: 'red',
      lumen: 800,
    });
    expect(lifted(reading, 'lamp.lit', 3, { tower: 4 })).toEqual({ tower: 4 });
    expect(lifted(reading, 'lamp.out', 1, {})).toEqual({});
  });

  it('are refused when their type is unknown or their version is from the future', () => {
    expect(() => lifted(reading, 'lamp.gone', 1, {})).toThrow('unknown event lamp.gone');
    expect(() => lifted(reading, 'lamp.out', 2, {})).toThrow('unknown event lamp.out version 2');
    expect(() => lifted({ ...reading, lifts: {} }, 'lamp.lit', 1, {})).toThrow('cannot be lifted');
  });
});
