import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clientAddress } from './address';
import { fromOurPages } from './origin';

describe('the client’s address', () => {
  it('is the peer’s whatever a client writes, when no proxy is configured', () => {
    fc.assert(
      fc.property(fc.ipV4(), fc.option(fc.string(), { nil: undefined }), (peer, forwarded) => {
        expect(clientAddress(`::ffff:${peer}`, forwarded, [])).toBe(peer);
        expect(
          clientAddress(
            peer,
            forwarded,
            ['192.0.2.1'].filter((proxy) => proxy !== peer),
          ),
        ).toBe(peer);
      }),
    );
  });

  it('is the last one a configured proxy added; what a client put before it is not believed', () => {
    fc.assert(
      fc.property(fc.array(fc.ipV4(), { maxLength: 4 }), fc.ipV4(), (forged, real) => {
        fc.pre(real !== '192.0.2.1' && real !== '192.0.2.2');
        const header = [...forged, real].join(', ');
        expect(clientAddress('192.0.2.1', header, ['192.0.2.1'])).toBe(real);
        // Through two proxies the inner one's own address stands last.
        expect(clientAddress('192.0.2.1', `${header}, 192.0.2.2`, ['192.0.2.1', '192.0.2.2'])).toBe(real);
      }),
    );
  });

  it('is the proxy’s own when its header holds no address', () => {
    for (const header of [undefined, '', 'unknown', 'a, b', '_hidden', '192.0.2.1'])
      expect(clientAddress('192.0.2.1', header, ['192.0.2.1'])).toBe('192.0.2.1');
  });
});

describe('a request from our own pages', () => {
  const own = 'https://avenda.marrowfell.example';
  it('says our origin, or at least the browser’s word for it', () => {
    expect(fromOurPages({ origin: own, site: null }, own)).toBe(true);
    expect(fromOurPages({ origin: own, site: 'same-origin' }, own)).toBe(true);
    expect(fromOurPages({ origin: null, site: 'same-origin' }, own)).toBe(true);
  });

  it('is none when the browser says another site, whatever the origin', () => {
    fc.assert(
      fc.property(fc.constantFrom('cross-site', 'same-site', 'none', 'anything'), (site) => {
        expect(fromOurPages({ origin: own, site }, own)).toBe(false);
      }),
    );
  });

  it('is none from any other address, whatever host a request was sent to', () => {
    fc.assert(
      fc.property(fc.oneof(fc.webUrl(), fc.string()), (origin) => {
        fc.pre(!origin.startsWith(own));
        expect(fromOurPages({ origin, site: null }, own)).toBe(false);
      }),
    );
    expect(fromOurPages({ origin: `${own}.elsewhere.example`, site: null }, own)).toBe(false);
    expect(fromOurPages({ origin: null, site: null }, own)).toBe(false);
  });
});
