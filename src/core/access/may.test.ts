import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Action, type Actor, covers, may, type Subject, visibilityOf } from './may';

const people = ['ines', 'rufus', 'petra', 'yuki'];
const actor: fc.Arbitrary<Actor> = fc.oneof(
  fc.record({
    kind: fc.constant('member' as const),
    person: fc.constantFrom(...people),
    roles: fc.subarray(['administrator', 'controller'] as const),
  }),
  fc.record({
    kind: fc.constant('link' as const),
    person: fc.constantFrom(...people),
    circulation: fc.constantFrom('c1', 'c2'),
    seat: fc.constant('s'),
    epoch: fc.constant(1),
  }),
  fc.constant({ kind: 'nobody' as const }),
  fc.constant({ kind: 'system' as const }),
);
const circulation = fc.record({
  kind: fc.constant('circulation' as const),
  id: fc.constantFrom('c1', 'c2'),
  controller: fc.constantFrom(...people),
  author: fc.constantFrom(...people),
  involved: fc.subarray(people),
});
const everyAction: Action[] = [
  'signIn',
  'desk.read',
  'people.read',
  'people.manage',
  'record.read',
  'record.create',
  'record.change',
  'draft.read',
  'draft.write',
  'circulation.read',
  'circulation.steer',
  'circulation.act',
  'circulation.comment',
  'seat.act',
  'post.read',
  'demo.use',
];

describe('rights', () => {
  it('answers for one circulation as the list does', () => {
    fc.assert(
      fc.property(actor, fc.array(circulation, { maxLength: 12 }), (who, all) => {
        const listed = all.filter((subject) => covers(visibilityOf(who, 'circulation.read'), subject));
        const opened = all.filter((subject) => may(who, 'circulation.read', subject));
        expect(listed).toEqual(opened);
      }),
    );
  });

  it('gives nobody anything but signing in, and a link nothing but its own circulation', () => {
    const demo: Subject = { kind: 'demo', on: false };
    fc.assert(
      fc.property(actor, circulation, fc.constantFrom(...everyAction), (who, subject, action) => {
        for (const about of [subject, { kind: 'organization' } as const, demo]) {
          const allowed = may(who, action, about);
          if (who.kind === 'nobody' && allowed) expect(action).toBe('signIn');
          if (who.kind === 'link' && allowed) {
            expect(action).toBe('seat.act');
            expect(about.kind === 'circulation' && about.id).toBe(who.circulation);
          }
          if (action === 'demo.use' || action === 'post.read') expect(allowed).toBe(false);
          if (action === 'people.manage' && allowed)
            expect(who.kind === 'member' && who.roles).toContain('administrator');
          if (action === 'circulation.steer' && allowed)
            expect(who.kind === 'member' && about.kind === 'circulation' && who.person === about.controller).toBe(true);
        }
      }),
    );
  });
});
