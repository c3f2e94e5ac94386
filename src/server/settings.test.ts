import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readSettings } from './settings';

const least = {
  AVENDA_SECRET: 'thirty-two characters or more of secret',
  AVENDA_URL: 'https://avenda.marrowfell.example/',
  DATABASE_URL: 'postgres://owner@127.0.0.1/avenda',
};

describe('settings', () => {
  it('need a secret, an address and a database, and say which of them is missing', () => {
    expect(readSettings(least)).toMatchObject({ mode: 'real', url: 'https://avenda.marrowfell.example', port: 3000 });
    for (const name of Object.keys(least)) {
      expect(() => readSettings({ ...least, [name]: undefined })).toThrow(name);
      expect(() => readSettings({ ...least, [name]: '' })).toThrow(name);
    }
  });

  it('refuse a secret that is too short, of whatever length below 32', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 31 }), (secret) => {
        expect(() => readSettings({ ...least, AVENDA_SECRET: secret })).toThrow(/at least 32 characters/);
      }),
    );
  });

  it('refuse numbers that are none, and take megabytes and seconds as such', () => {
    for (const name of ['PORT', 'AVENDA_UPLOAD_MB', 'AVENDA_LEASE_SECONDS'])
      for (const value of ['0', '-5', 'many', 'NaN', 'Infinity'])
        expect(() => readSettings({ ...least, [name]: value }), `${name}=${value}`).toThrow(/must be a number above 0/);
    expect(readSettings({ ...least, AVENDA_UPLOAD_MB: '20' }).uploadLimit).toBe(20 * 1024 * 1024);
    expect(readSettings({ ...least, AVENDA_LEASE_SECONDS: '6' }).leaseSeconds).toBe(6);
  });

  it('believe no proxy unless it is named, and are the demonstration only when they say so exactly', () => {
    expect(readSettings(least).proxies).toEqual([]);
    expect(readSettings({ ...least, AVENDA_PROXIES: ' 192.0.2.1, ,192.0.2.2 ' }).proxies).toEqual([
      '192.0.2.1',
      '192.0.2.2',
    ]);
    fc.assert(
      fc.property(fc.string(), (mode) => {
        expect(readSettings({ ...least, AVENDA_MODE: mode }).mode).toBe(mode === 'demo' ? 'demo' : 'real');
      }),
    );
    // The Post room exists only in the demonstration.
    expect(readSettings({ ...least, AVENDA_POST: '/tmp/post' }).postFolder).toBeNull();
    expect(readSettings({ ...least, AVENDA_MODE: 'demo', AVENDA_POST: '/tmp/post' }).postFolder).toBe('/tmp/post');
  });
});
