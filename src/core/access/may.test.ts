import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sentRun } from '../../../test/properties/arbitrary';
import { attach, decide as decideSeat, nextRound, route, stage } from '../../../test/properties/scene';
import type { Circulation } from '../circulation/run/state';
import { type Action, type Actor, covers, inScope, involvedIn, may, type Subject, visibilityOf } from './may';

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
  leads: fc.subarray(people, { maxLength: 2 }),
});
const everyAction: Action[] = [
  'session.own',
  'desk.read',
  'people.read',
  'people.manage',
  'people.addOutside',
  'types.manage',
  'organization.manage',
  'unit.manage',
  'register.read',
  'record.read',
  'record.create',
  'record.describe',
  'change.start',
  'draft.read',
  'draft.write',
  'circulation.begin',
  'circulation.read',
  'circulation.steer',
  'circulation.value',
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

  it('gives nobody and the system nothing, and a link nothing but its own circulation', () => {
    const demo: Subject = { kind: 'demo', on: false };
    fc.assert(
      fc.property(actor, circulation, fc.constantFrom(...everyAction), (who, subject, action) => {
        for (const about of [subject, { kind: 'organization' } as const, demo]) {
          const allowed = may(who, action, about);
          if (who.kind === 'nobody' || who.kind === 'system') expect(allowed).toBe(false);
          if (who.kind === 'link' && allowed) {
            expect(action).toBe('seat.act');
            expect(about.kind === 'circulation' && about.id).toBe(who.circulation);
          }
          if (action === 'demo.use' || action === 'post.read') expect(allowed).toBe(false);
          if (action === 'people.manage' && allowed)
            expect(who.kind === 'member' && who.roles).toContain('administrator');
          if (action === 'circulation.steer' && allowed)
            expect(
              who.kind === 'member' &&
                about.kind === 'circulation' &&
                [about.controller, ...about.leads].includes(who.person),
            ).toBe(true);
        }
      }),
    );
  });

  it('of a token are those of its person within its scopes, and of public operations alone', () => {
    const scopes = ['read', 'start', 'steer'] as const;
    const petra = { kind: 'member', person: 'petra', roles: ['controller'] } as const;
    fc.assert(
      fc.property(fc.subarray([...scopes]), fc.constantFrom(null, ...scopes), (own, scope) => {
        expect(inScope(petra, scope)).toBe(true);
        expect(inScope({ ...petra, scopes: own }, scope)).toBe(scope !== null && own.includes(scope));
      }),
    );
    expect(inScope({ kind: 'link', person: 'p', circulation: 'c1', seat: 's', epoch: 1 }, null)).toBe(true);
  });

  it('lets exactly the people of a thing at it', () => {
    const member = (person: string, ...roles: ('administrator' | 'controller')[]): Actor => ({
      kind: 'member',
      person,
      roles,
    });
    const record = (controller: string | null): Subject => ({ kind: 'record', owner: 'rufus', controller });
    expect(may(member('rufus'), 'record.describe', record(null))).toBe(true);
    expect(may(member('ines'), 'record.describe', record('ines'))).toBe(true);
    expect(may(member('ines', 'controller'), 'record.describe', record(null))).toBe(true);
    expect(may(member('petra', 'administrator'), 'record.describe', record('ines'))).toBe(false);
    expect(may(member('petra', 'administrator'), 'change.start', { kind: 'organization' })).toBe(false);
    expect(may(member('petra', 'controller'), 'change.start', { kind: 'organization' })).toBe(true);
    const draft: Subject = { kind: 'draft', author: 'rufus', controller: 'ines' };
    const access = (who: Actor) => [may(who, 'draft.read', draft), may(who, 'draft.write', draft)];
    expect(access(member('rufus'))).toEqual([true, true]);
    expect(access(member('ines'))).toEqual([true, false]);
    expect(access(member('petra', 'administrator', 'controller'))).toEqual([false, false]);
    const own: Subject = {
      kind: 'circulation',
      id: 'c1',
      controller: 'ines',
      author: 'rufus',
      involved: ['ines', 'rufus', 'petra'],
      leads: [],
    };
    expect(may(member('petra'), 'circulation.act', own)).toBe(true);
    expect(may(member('yuki'), 'circulation.act', own)).toBe(false);
    expect(may(member('yuki'), 'circulation.comment', own)).toBe(false);
    expect(may(member('yuki', 'controller'), 'circulation.comment', own)).toBe(true);
    expect(may(member('yuki', 'controller'), 'circulation.steer', own)).toBe(false);
    const demo: Subject = { kind: 'demo', on: true };
    expect(may(member('petra'), 'demo.use', demo)).toBe(true);
    expect(may({ kind: 'link', person: 'p', circulation: 'c1', seat: 's', epoch: 1 }, 'post.read', demo)).toBe(false);
  });

  it('grants each action to these and nobody else, about a subject of its own kind and no other', () => {
    const person = 'petra';
    const actors = {
      member: { kind: 'member', person, roles: [] },
      controller: { kind: 'member', person, roles: ['controller'] },
      administrator: { kind: 'member', person, roles: ['administrator'] },
      link: { kind: 'link', person, circulation: 'c1', seat: 's', epoch: 1 },
      otherLink: { kind: 'link', person, circulation: 'c2', seat: 's', epoch: 1 },
      system: { kind: 'system' },
      nobody: { kind: 'nobody' },
    } as const satisfies Record<string, Actor>;
    // In every subject it is this person who may have a part in it, or nobody.
    const subjects = {
      organization: { kind: 'organization' },
      recordOwned: { kind: 'record', owner: person, controller: null },
      recordControlled: { kind: 'record', owner: 'rufus', controller: person },
      record: { kind: 'record', owner: 'rufus', controller: null },
      controlled: { kind: 'circulation', id: 'c1', controller: person, author: 'rufus', involved: [person], leads: [] },
      written: { kind: 'circulation', id: 'c1', controller: 'ines', author: person, involved: [person], leads: [] },
      led: { kind: 'circulation', id: 'c1', controller: 'ines', author: 'rufus', involved: [], leads: [person] },
      involved: { kind: 'circulation', id: 'c1', controller: 'ines', author: 'rufus', involved: [person], leads: [] },
      circulation: { kind: 'circulation', id: 'c1', controller: 'ines', author: 'rufus', involved: [], leads: [] },
      draftControlled: { kind: 'draft', controller: person, author: 'rufus' },
      draftWritten: { kind: 'draft', controller: 'ines', author: person },
      draft: { kind: 'draft', controller: 'ines', author: 'rufus' },
      unitLed: { kind: 'unit', lead: person, deputy: 'ines', there: true },
      unitDeputy: { kind: 'unit', lead: 'ines', deputy: person, there: true },
      unit: { kind: 'unit', lead: 'ines', deputy: null, there: true },
      unitNew: { kind: 'unit', lead: null, deputy: null, there: false },
      demo: { kind: 'demo', on: true },
      demoOff: { kind: 'demo', on: false },
    } as const satisfies Record<string, Subject>;
    type Who = keyof typeof actors;
    type What = keyof typeof subjects;
    const members: readonly Who[] = ['member', 'controller', 'administrator'];
    const anything = Object.keys(subjects) as What[];
    const records: What[] = ['recordOwned', 'recordControlled', 'record'];
    const every = (who: readonly Who[], what: readonly What[]) =>
      who.flatMap((one) => what.map((of) => `${one} ${of}`));
    const reading = [
      ...every(members, ['controlled', 'written', 'involved', 'led']),
      ...every(['controller'], ['circulation']),
    ];
    const expected: Readonly<Record<Action, readonly string[]>> = {
      'session.own': every(members, anything),
      'desk.read': every(members, anything),
      'people.read': every(members, anything),
      'people.manage': every(['administrator'], anything),
      'people.addOutside': every(members, anything),
      'types.manage': every(['administrator'], anything),
      'organization.manage': every(['administrator'], anything),
      'unit.manage': [...every(members, ['unitLed', 'unitDeputy']), ...every(['administrator'], ['unit', 'unitNew'])],
      'register.read': every(members, anything),
      'record.read': every(members, records),
      'record.create': every(members, anything),
      'record.describe': [...every(members, ['recordOwned', 'recordControlled']), ...every(['controller'], records)],
      'change.start': every(['controller'], anything),
      'draft.read': every(members, ['draftControlled', 'draftWritten']),
      'draft.write': every(members, ['draftWritten']),
      'circulation.begin': every(members, anything),
      'circulation.read': reading,
      'circulation.steer': every(members, ['controlled', 'led']),
      'circulation.value': every(members, ['controlled', 'written', 'led']),
      'circulation.act': every(members, ['controlled', 'written', 'involved']),
      'circulation.comment': reading,
      'seat.act': every(['link'], ['controlled', 'written', 'involved', 'led', 'circulation']),
      'post.read': every(members, ['demo']),
      'demo.use': every(members, ['demo']),
    };
    for (const action of everyAction) {
      const granted = (Object.keys(actors) as Who[]).flatMap((who) =>
        anything.filter((of) => may(actors[who], action, subjects[of])).map((of) => `${who} ${of}`),
      );
      expect([...new Set(granted)].sort(), action).toEqual([...new Set(expected[action])].sort());
    }
  });
});

describe('the people a circulation concerns', () => {
  it('are not those whose turn has not come, but are those who decided in an earlier round', () => {
    const run = sentRun(route(stage('a', 'review', ['petra']), stage('b', 'approve', ['oskar'])));
    expect(involvedIn(run.state as Circulation)).toEqual(['ines', 'petra', 'rufus']);
    expect(decideSeat(run, 'a-petra', 'petra', 'done')).toBe('ok');
    expect(involvedIn(run.state as Circulation)).toEqual(['ines', 'oskar', 'petra', 'rufus']);
    // Returned: the round begins anew, and who decided in it still sees what became of that.
    expect(decideSeat(run, 'b-oskar', 'oskar', 'returned')).toBe('ok');
    attach(run, 2);
    nextRound(run);
    expect(involvedIn(run.state as Circulation)).toContain('oskar');
  });
});
