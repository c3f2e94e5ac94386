import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawsFrom, factTypes, randomRoute, scenario, start, subjectFor } from '../../../test/properties/arbitrary';
import { fork, route, stage } from '../../../test/properties/scene';
import { runsOf } from '../../../test/setting';
import type { Field } from '../page/fields';
import { edited } from './edit';
import { type Finding, mended, mendingOf, nameKey, type PreflightSubject, preflight } from './preflight';
import {
  type Assignment,
  atInstant,
  type Copies,
  freshSeat,
  freshStage,
  type Route,
  type Stage,
  seatsOf,
  stagesOf,
} from './route';

const check = (parts: Route[], more: Partial<PreflightSubject> = {}) => preflight(subjectFor(route(...parts), more));
const codes = (...given: Parameters<typeof check>) => check(...given).map(({ code, severity }) => [code, severity]);
const now = start;
const field = (seat: string, file = 'f1') =>
  ({ id: `f-${seat}`, seat, file, kind: 'signature', needed: true }) as Field;
const over = (thousandths: number) =>
  ({
    kind: 'fact',
    fact: 'amount',
    is: 'over',
    value: { kind: 'amount', thousandths, currency: 'NOK' },
  }) as const;
const seatIn = (own: Stage, i: number, assignment: Stage['seats'][number]['assignment']): Stage => ({
  ...own,
  seats: own.seats.map((seat, at) => (at === i ? { ...seat, assignment } : seat)),
});

describe('the check before sending', () => {
  it('stops what would go wrong', () => {
    expect(codes([])).toEqual([['no-stage', 'stops']]);
    expect(codes([stage('a', 'review', [])])).toEqual([['nobody', 'stops']]);
    expect(codes([stage('a', 'approve', ['rufus'])])).toEqual([['author-decides', 'stops']]);
    expect(codes([stage('a', 'approve', ['rufus'])], { authorApproves: true })).toEqual([]);
    expect(codes([stage('a', 'review', ['rufus', 'yuki'])])).toEqual([]);
    expect(codes([stage('a', 'review', ['yuki'])], { hasVersion: false })).toEqual([['no-version', 'stops']]);
    expect(codes([fork({ kind: 'all' }, [stage('a', 'review', ['yuki'])], [])])).toEqual([['empty-branch', 'stops']]);
    expect(codes([fork({ kind: 'any' }, [stage('a', 'sign', ['yuki'])], [stage('b', 'read', ['noor'])])])[0]).toEqual([
      'sign-under-partial-join',
      'stops',
    ]);
    const left = (id: string) => ({ name: id, active: id !== 'yuki', outside: false });
    expect(codes([stage('a', 'review', ['yuki'])], { person: left })).toEqual([['person-left', 'stops']]);
  });

  it('stops times that cannot be kept, and doubts those that are hardly meant', () => {
    const day = 86_400_000;
    const monday = now + 7 * day;
    const a = (more: Parameters<typeof stage>[3]) => [stage('a', 'review', ['yuki'], more)];
    expect(codes(a({ due: now }))).toEqual([['due-past', 'stops']]);
    expect(codes(a({ due: now + 1 }))).toEqual([]);
    expect(codes(a({ closes: now }))).toEqual([['closes-past', 'stops']]);
    expect(codes(a({ closes: now + 1 }))).toEqual([]);
    const earliest = { kind: 'date', at: monday } as const;
    expect(codes(a({ due: monday - 1, earliest }))).toEqual([['due-before-earliest', 'warns']]);
    expect(codes(a({ due: monday, earliest }))).toEqual([]);
    expect(codes(a({ closes: monday, earliest }))).toEqual([['closes-before-earliest', 'stops']]);
    expect(codes(a({ closes: monday + 1, earliest }))).toEqual([]);
    // 7 November 2026 is a Saturday.
    expect(codes(a({ due: now + 5 * day }))).toEqual([['day-off', 'warns']]);
    expect(codes(a({ due: now + 4 * day }))).toEqual([]);
    const whole = {
      due: { kind: 'instant', at: now + 2 * day },
      closes: { kind: 'instant', at: now + 3 * day },
    } as const;
    expect(codes(a({ due: now + 2 * day }), { whole })).toEqual([]);
    expect(codes(a({ due: now + 2 * day + 1, closes: now + 3 * day + 1 }), { whole })).toEqual([
      ['due-after-whole', 'warns'],
      ['closes-after-whole', 'warns'],
    ]);
    expect(codes(a({}), { whole: { due: null, closes: { kind: 'instant', at: now } } })).toEqual([
      ['whole-past', 'stops'],
    ]);
    const later = { kind: 'wait', from: { stage: 'b' }, again: false, amount: 1, unit: 'days' } as const;
    expect(codes([...a({ earliest: later }), stage('b', 'read', ['noor'])])).toEqual([['earliest-late', 'stops']]);
    expect(codes([stage('b', 'read', ['noor']), ...a({ earliest: later })])).toEqual([]);
    // A time of one seat is told with the seat.
    const own = stage('a', 'review', ['yuki']);
    const seats = own.seats.map((seat) => ({ ...seat, due: { kind: 'instant', at: now } as const }));
    expect(check([{ ...own, seats }])).toMatchObject([{ code: 'due-past', stage: 'a', seat: 'a-yuki' }]);
  });

  it('names the seat of somebody who stands twice in a stage, by name or by role', () => {
    const twice = seatIn(stage('a', 'review', ['yuki', 'petra']), 1, { kind: 'person', person: 'yuki' });
    expect(check([twice])).toEqual([
      { code: 'twice-in-stage', severity: 'stops', stage: 'a', seat: 'a-petra', about: null },
    ]);
    expect(codes([stage('a', 'review', ['petra', 'role:safety'])])).toEqual([['twice-in-stage', 'stops']]);
  });

  it('looks behind groups and roles', () => {
    expect(codes([stage('a', 'approve', ['role:owner'])])).toEqual([['author-decides', 'stops']]);
    expect(codes([stage('a', 'approve', ['role:nobody'])])).toEqual([['role-unknown', 'stops']]);
    const roles = new Map([['safety', { person: null }]]);
    expect(codes([stage('a', 'approve', ['role:safety'])], { roles })).toEqual([['role-unfilled', 'stops']]);
    expect(codes([stage('a', 'approve', ['group:writers'])])).toEqual([]);
    const groups = new Map([
      ['writers', { members: ['rufus'] }],
      ['nobody', { members: [] as string[] }],
      ['all', { members: Array.from({ length: 201 }, (_, i) => `p${i}`) }],
    ]);
    expect(codes([stage('a', 'approve', ['group:writers'])], { groups })).toEqual([['author-decides', 'stops']]);
    expect(codes([stage('a', 'review', ['group:writers'])], { groups })).toEqual([]);
    expect(codes([stage('a', 'review', ['group:nobody'])], { groups })).toEqual([['group-empty', 'stops']]);
    expect(codes([stage('a', 'review', ['group:elsewhere'])], { groups })).toEqual([['group-unknown', 'stops']]);
    expect(codes([stage('a', 'read', ['every:all'])], { groups })).toEqual([['group-crowd', 'stops']]);
    expect(codes([stage('a', 'read', ['group:all'])], { groups })).toEqual([]);
    expect(codes([stage('a', 'sign', ['every:board'])])[0]).toEqual(['every-signs', 'stops']);
  });

  it('follows who names whom', () => {
    const b = stage('b', 'approve', ['named:a-yuki']);
    expect(codes([stage('a', 'review', ['yuki']), b])).toEqual([]);
    expect(codes([b, stage('a', 'review', ['yuki'])])).toEqual([['naming-late', 'stops']]);
    expect(codes([b])).toEqual([['naming-nobody', 'stops']]);
    const fresh = freshStage('c', 'review', [
      freshSeat('one', { kind: 'person', person: 'yuki' }),
      freshSeat('two', { kind: 'named', by: 'one' }),
    ]);
    expect(codes([fresh])).toEqual([['naming-late', 'stops']]);
    expect(codes([{ ...fresh, order: 'oneByOne' }])).toEqual([]);
    const side = fork({ kind: 'all' }, [stage('a', 'review', ['yuki'])], [b]);
    expect(codes([side])).toEqual([['naming-late', 'stops']]);
    const circle = freshStage('d', 'review', [
      freshSeat('one', { kind: 'named', by: 'two' }),
      freshSeat('two', { kind: 'named', by: 'one' }),
    ]);
    expect(codes([{ ...circle, order: 'oneByOne' }])).toEqual([
      ['naming-circle', 'stops'],
      ['naming-circle', 'stops'],
    ]);
  });

  it('asks for the values that its conditions need', () => {
    const a = stage('a', 'approve', ['yuki'], { condition: over(0) });
    const always = stage('z', 'read', ['noor']);
    expect(codes([a, always])).toEqual([]);
    expect(check([a, always], { facts: {} })).toMatchObject([{ code: 'fact-missing', about: 'amount' }]);
    expect(codes([always], { facts: {} })).toEqual([]);
    const needed = factTypes.map((type) => ({ ...type, needed: type.id === 'urgent' }));
    expect(check([always], { factTypes: needed })).toMatchObject([{ code: 'fact-missing', about: 'urgent' }]);
    expect(codes([a, always], { factTypes: [] })).toEqual([['fact-unknown', 'stops']]);
    const odd = { amount: { kind: 'amount', thousandths: -5, currency: 'NOK' } } as const;
    expect(codes([always], { facts: odd })).toEqual([['fact-unfit', 'stops']]);
    // With what is given everything would be skipped.
    expect(codes([stage('a', 'approve', ['yuki'], { condition: over(900_000_000) })])).toEqual([
      ['nobody-asked', 'stops'],
    ]);
    const outcome = { kind: 'outcome', stage: 'b', outcome: 'declined' } as const;
    expect(codes([stage('a', 'read', ['yuki'], { condition: outcome }), stage('b', 'read', ['noor'])])).toEqual([
      ['outcome-late', 'stops'],
    ]);
    expect(codes([stage('b', 'read', ['noor']), stage('a', 'read', ['yuki'], { condition: outcome })])).toEqual([]);
  });

  it('warns of a signer without a field and of a field for nobody, after what stops', () => {
    const signed = [stage('s', 'sign', ['benedikt'])];
    expect(check(signed)).toMatchObject([{ code: 'field-missing', severity: 'warns', stage: 's', seat: 's-benedikt' }]);
    expect(check(signed, { fields: [field('s-benedikt')] })).toEqual([]);
    expect(codes([...signed, stage('a', 'review', [])])).toEqual([
      ['nobody', 'stops'],
      ['field-missing', 'warns'],
    ]);
    expect(check([stage('a', 'read', ['noor'])], { fields: [field('s-benedikt')] })).toMatchObject([
      { code: 'field-nobody', about: 'f1' },
    ]);
  });

  it('knows the files: who is asked about each, and which can take no fields', () => {
    const files = [
      { id: 'f1', takesFields: true },
      { id: 'f2', takesFields: false },
    ];
    const only = (own: Stage, file: string): Stage => ({
      ...own,
      seats: own.seats.map((seat) => ({ ...seat, files: [file] })),
    });
    const [a, s] = [stage('a', 'review', ['yuki']), stage('s', 'sign', ['noor'])];
    expect(codes([only(a, 'f1')], { files })).toEqual([['file-unasked', 'warns']]);
    expect(codes([a], { files })).toEqual([]);
    const fields = [field('s-noor')];
    expect(codes([a, s], { files, fields })).toEqual([]);
    expect(codes([a, only(s, 'f2')], { files, fields })).toEqual([['file-no-fields', 'stops']]);
    expect(codes([a, only(s, 'f1')], { files, fields })).toEqual([]);
    const board: Copies = { kind: 'copies', id: 'c', to: [], hidden: false };
    expect(check([a, board])).toMatchObject([{ code: 'copies-nobody', severity: 'warns', about: 'c' }]);
    const to = (...assignments: Assignment[]) => ({
      ...board,
      to: assignments.map((assignment, i) => ({ id: `t${i}`, assignment })),
    });
    const noor = { kind: 'person', person: 'noor' } as const;
    expect(codes([a, to(noor, { kind: 'role', role: 'safety' })])).toEqual([]);
    expect(codes([a, to(noor, { kind: 'role', role: 'vacant' })])).toEqual([['copies-lost', 'warns']]);
    const left = (id: string) => ({ name: id, active: id !== 'noor', outside: false });
    expect(codes([a, to(noor)], { person: left })).toEqual([['copies-lost', 'warns']]);
  });

  it('doubts people who are easily taken for one another', () => {
    const names: Record<string, string> = { noor: 'Noor Castellan', nils: 'Nils Castellán', petra: 'Petra Novak' };
    const person = (id: string) => ({ name: names[id] ?? id, active: true, outside: false });
    const both = [stage('a', 'review', ['noor']), stage('b', 'approve', ['nils', 'petra'])];
    expect(check(both, { person })).toMatchObject([{ code: 'alike', stage: 'b', seat: 'b-nils', about: 'noor' }]);
    expect(codes(both, { person, same: () => true })).not.toContainEqual(['alike', 'warns']);
    expect([nameKey('Noor  Castellán'), nameKey('Ines'), nameKey('')]).toEqual(['n castellan', 'ines', '']);
  });
});

describe('the mending of a finding', () => {
  it('removes its finding and adds none, and comes to a route that may be sent', () => {
    const met = new Set<string>();
    const none = new Set<string>();
    fc.assert(
      fc.property(scenario, fc.nat(), ({ seed, seats }, more) => {
        const draws = drawsFrom(more);
        // A route that is fit, then spoilt at random.
        let plan = randomRoute(drawsFrom(seed), Math.min(seats, 14));
        const spoil = (change: (own: Stage) => Partial<Stage>) => {
          const own = draws.pick(stagesOf(plan));
          plan = {
            ...plan,
            parts: edited(plan, { do: 'change', stage: own.id, with: change(own) as never }).parts,
          };
        };
        for (let i = 0; i < 4; i += 1) {
          const seat = draws.pick(seatsOf(plan));
          switch (draws.below(9)) {
            case 8:
              // Somebody once more, in the stage in which they stand already.
              if (seat)
                plan = edited(plan, {
                  do: 'addSeat',
                  stage: seat.stage.id,
                  seat: { ...seat.seat, id: `again${i}`, assignment: { kind: 'role', role: 'safety' } },
                });
              if (seat)
                plan = edited(plan, {
                  do: 'addSeat',
                  stage: seat.stage.id,
                  seat: { ...seat.seat, id: `twice${i}`, assignment: { kind: 'person', person: 'petra' } },
                });
              break;
            case 0:
              spoil(() => ({ due: { kind: 'instant', at: start - 5 } }));
              break;
            case 1:
              spoil(() => ({ closes: { kind: 'instant', at: start - 5 } }));
              break;
            case 2:
              spoil((own) => ({ rule: { kind: 'atLeast', k: own.seats.length + 3 } }));
              break;
            case 3:
              spoil(() => ({
                condition: { kind: 'outcome', stage: draws.pick(stagesOf(plan)).id, outcome: 'missed' },
              }));
              break;
            case 4:
              if (seat)
                plan = edited(plan, {
                  do: 'changeSeat',
                  seat: seat.seat.id,
                  with: { assignment: { kind: 'named', by: draws.pick(seatsOf(plan))?.seat.id ?? '' } },
                });
              break;
            case 5:
              if (seat)
                plan = edited(plan, {
                  do: 'changeSeat',
                  seat: seat.seat.id,
                  with: { assignment: { kind: 'group', group: draws.pick(['gone', 'board']), members: 'every' } },
                });
              break;
            case 6:
              if (seat)
                plan = edited(plan, {
                  do: 'changeSeat',
                  seat: seat.seat.id,
                  with: { assignment: { kind: 'role', role: draws.pick(['owner', 'gone']) } },
                });
              break;
            default:
              spoil(() => ({ due: { kind: 'instant', at: start + 5 * 86_400_000 } }));
          }
        }
        const subject = subjectFor(plan);
        const key = ({ code, stage: at, seat, about }: Finding) => [code, at, seat, about].join(' ');
        const before = preflight(subject);
        for (const finding of before) {
          const mending = mendingOf(subject, finding);
          if (!mending) {
            none.add(finding.code);
            continue;
          }
          met.add(finding.code);
          const after = preflight(mended(subject, mending)).map(key);
          expect(after).not.toContain(key(finding));
          // Who is away when something is due changes with the dates.
          for (const one of after) if (!one.startsWith('away ')) expect(before.map(key)).toContain(one);
        }
      }),
      { numRuns: runsOf(250) },
    );
    for (const code of [
      'due-past',
      'closes-past',
      'outcome-late',
      'naming-late',
      'every-signs',
      'group-unknown',
      'role-unknown',
      'twice-in-stage',
      'author-decides',
      'day-off',
    ])
      expect(met, code).toContain(code);
  });

  it('is offered for every kind of finding that a change of the plan can mend', () => {
    const offered = (parts: Route[], more: Partial<PreflightSubject> = {}) => {
      const subject = subjectFor(route(...parts), more);
      return preflight(subject).map((finding) => [finding.code, mendingOf(subject, finding)?.kind ?? null]);
    };
    const always = stage('z', 'read', ['noor']);
    expect(offered([stage('a', 'review', []), always])).toEqual([['nobody', 'route']]);
    expect(offered([fork({ kind: 'all' }, [stage('a', 'review', ['yuki'])], [])])).toEqual([['empty-branch', 'route']]);
    expect(
      offered([fork({ kind: 'any' }, [stage('s', 'sign', ['yuki'])], [always])], { fields: [field('s-yuki')] }),
    ).toEqual([['sign-under-partial-join', 'route']]);
    expect(offered([always], { fields: [field('gone')] })).toEqual([['field-nobody', 'fields']]);
    expect(offered([always], { whole: { due: { kind: 'instant', at: 1 }, closes: null } })).toEqual([
      ['whole-past', 'whole'],
    ]);
    expect(offered([stage('a', 'approve', ['yuki'], { condition: over(0) }), always], { factTypes: [] })).toEqual([
      ['fact-unknown', 'route'],
    ]);
    const narrow = { ...always, seats: always.seats.map((seat) => ({ ...seat, files: ['f2'] })) };
    expect(
      offered([narrow], {
        files: [
          { id: 'f1', takesFields: true },
          { id: 'f2', takesFields: true },
        ],
      }),
    ).toEqual([['file-unasked', 'route']]);
    expect(offered([stage('a', 'review', ['yuki'], { closes: start + 5, due: start + 9 }), always])).toEqual([
      ['closes-before-due', 'route'],
    ]);
    // The first that mends without removing anybody.
    const first = (parts: Route[], more: Partial<PreflightSubject> = {}) => {
      const subject = subjectFor(route(...parts), more);
      const [finding] = preflight(subject);
      const mending = finding && mendingOf(subject, finding);
      return mending?.kind === 'route' ? mending.edits : null;
    };
    const every = { kind: 'group', group: 'rescue', members: 'every' } as const;
    expect(first([stage('s', 'sign', ['every:rescue'])])).toEqual([
      { do: 'changeSeat', seat: 's-every', with: { assignment: { ...every, members: 'any' } } },
    ]);
    const [monday, saturday] = [Date.UTC(2026, 10, 9), Date.UTC(2026, 10, 7)];
    const endOfMonday = { kind: 'instant', at: Date.UTC(2026, 10, 9, 15) };
    const early = stage('a', 'review', ['yuki'], { earliest: { kind: 'date', at: saturday }, due: saturday - 1 });
    expect(first([early])).toEqual([{ do: 'change', stage: 'a', with: { due: endOfMonday } }]);
    const weekend = stage('a', 'review', ['yuki'], { due: saturday + 3_600_000, closes: saturday + 7_200_000 });
    expect(first([weekend])).toEqual([{ do: 'change', stage: 'a', with: { due: endOfMonday, closes: endOfMonday } }]);
    expect(first([stage('a', 'review', ['yuki'], { due: monday, closes: saturday + 7_200_000 })])).not.toBeNull();
    const dueOnly = stage('a', 'review', ['yuki'], { due: saturday + 3_600_000 });
    expect(first([dueOnly])).toEqual([{ do: 'change', stage: 'a', with: { due: endOfMonday } }]);
    const closesOnly = stage('a', 'review', ['yuki'], { closes: saturday + 3_600_000 });
    expect(first([closesOnly])).toEqual([{ do: 'change', stage: 'a', with: { closes: endOfMonday } }]);
    const whole = { due: { kind: 'instant', at: monday }, closes: null } as const;
    expect(first([stage('a', 'review', ['yuki'], { due: monday + 3_600_000 })], { whole })).toEqual([
      { do: 'change', stage: 'a', with: { due: null } },
    ]);
    // A closing that comes too early goes where it stands; where it is the stage's and only one seat's due is later, that goes.
    const closing = (times: Parameters<typeof stage>[3], seatDue: number | null = null) => {
      const own = stage('a', 'review', ['yuki'], times);
      return { ...own, seats: own.seats.map((seat) => ({ ...seat, due: atInstant(seatDue) })) };
    };
    const noon = Date.UTC(2026, 10, 9, 12);
    expect(first([closing({ due: noon, closes: noon - 1 })])).toEqual([
      { do: 'change', stage: 'a', with: { closes: null } },
    ]);
    expect(first([closing({ closes: noon }, noon + 1)])).toEqual([
      { do: 'changeSeat', seat: 'a-yuki', with: { due: null } },
    ]);
    const late = stage('a', 'review', ['yuki'], {
      earliest: { kind: 'wait', amount: 1, unit: 'days', from: { stage: 'z' }, again: false },
    });
    expect(offered([late, always])).toEqual([['earliest-late', 'route']]);
    expect(first([late, always])).toEqual([{ do: 'change', stage: 'a', with: { earliest: null } }]);
    expect(offered([always, late])).toEqual([]);
    const yuki = [{ by: 'yuki', verbs: 'all', types: 'all' }] as const;
    const absences = [{ id: 'oskar away', person: 'oskar', from: start - 1, to: start + 9e9, covers: yuki }];
    const person = (id: string) => ({ name: id, active: id !== 'yuki', outside: false });
    const found = (more: Partial<PreflightSubject>) =>
      preflight(subjectFor(route(stage('a', 'approve', ['oskar'])), more)).map(({ code, about }) => [code, about]);
    expect(found({ absences })).toEqual([]);
    expect(found({ absences, person }), 'whoever covers has left').toEqual([['away', 'oskar away']]);
    // Only a person can say what is meant.
    expect(offered([always], { hasVersion: false })).toEqual([['no-version', null]]);
  });
});
