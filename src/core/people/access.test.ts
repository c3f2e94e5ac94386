import { describe, expect, it } from 'vitest';
import { sharedAccessAt } from './access';
import type { AdministrationEvent } from './events';

const copied = (at: number, person = 'oskar', by = 'thea'): AdministrationEvent => ({
  type: 'access.copied',
  at,
  actor: by,
  onBehalfOf: null,
  data: { person, purpose: 'password' },
});
const set = (at: number, how: 'invitation' | 'password' | 'own', person = 'oskar'): AdministrationEvent => ({
  type: 'password.set',
  at,
  actor: person,
  onBehalfOf: null,
  data: { person, how },
});
const thea = (at: number) => ({ by: 'thea', at });

describe('who else could have been in an account', () => {
  const cases: [string, AdministrationEvent[], ReturnType<typeof sharedAccessAt>][] = [
    ['nobody, where no link was copied', [set(1, 'invitation'), set(2, 'password')], null],
    ['whoever copied the link by which it was set', [copied(1), set(2, 'invitation')], thea(1)],
    ['nobody while a copied link was not used', [set(1, 'invitation'), copied(2)], null],
    ['nobody once its owner changed it', [copied(1), set(2, 'invitation'), set(3, 'own')], null],
    ['nobody once it was set by a link that was mailed', [copied(1), set(2, 'invitation'), set(3, 'password')], null],
    ['whoever copied again', [set(1, 'invitation'), set(2, 'own'), copied(3), set(4, 'password')], thea(3)],
    ['nobody, when the link was somebody else’s', [copied(1, 'petra'), set(2, 'invitation')], null],
    ['nobody before it happened', [copied(11), set(12, 'password')], null],
  ];
  it.each(cases)('is %s', (_name, events, expected) => {
    expect(sharedAccessAt(events, 'oskar', 10)).toEqual(expected);
  });
  it('is told from the moment on at which it was set', () => {
    const events = [copied(1), set(5, 'password')];
    expect([4, 5, 6].map((at) => sharedAccessAt(events, 'oskar', at))).toEqual([null, thea(1), thea(1)]);
  });
});
