import { describe, expect, it } from 'vitest';
import type { CirculationEvent } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import { holders } from '@/core/circulation/run/holders';
import { unnamedBy } from '@/core/circulation/run/naming';
import type { Circulation } from '@/core/circulation/run/state';
import { preflight } from '@/core/route/preflight';
import { type Assignment, freshSeat, freshStage, type Series, type Stage, seatsOf, stagesOf } from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import type { Verb } from '@/core/route/verbs';
import { usualReminders } from '@/core/time/reminders';
import { roleFilled } from '../../src/core/circulation/run/context';
import { roleAsked } from '../../src/core/route/route';
import { contextOf, controller, created, crew, type Run, step, subjectFor, versionOf } from './arbitrary';
import { decide, fork, put, route, state } from './scene';

// The check before sending, both ways: over all small routes of a kind, what it lets pass comes to its end as planned, and
// what it stops could not, however long everybody is asked.

const choices: readonly Assignment[] = [
  { kind: 'person', person: 'petra' },
  { kind: 'person', person: 'rufus' },
  { kind: 'group', group: 'writers', members: 'any' },
  { kind: 'group', group: 'board', members: 'every' },
  { kind: 'group', group: 'gone', members: 'any' },
  { kind: 'role', role: 'safety' },
  { kind: 'role', role: 'owner' },
  { kind: 'role', role: 'gone' },
  { kind: 'named', by: 'a-0' },
];

const made = (id: string, verb: Verb, who: readonly Assignment[], rule: Rule = { kind: 'all' }): Stage => ({
  ...freshStage(
    id,
    verb,
    who.map((assignment, i) => freshSeat(`${id}-${i}`, assignment)),
  ),
  rule,
});

/** Sends a route whatever the checks say: as if they did not exist. */
function forced(plan: Series): Run {
  const run = created(plan);
  put(run, { type: 'attach', version: versionOf(1, 1) }, 'rufus');
  const context = contextOf(run.now, controller);
  const roles = seatsOf(plan).flatMap(({ seat: { id, assignment } }) => {
    const role = roleAsked(assignment);
    return role === null ? [] : [roleFilled(id, role, context)];
  });
  const sent: CirculationEvent = {
    at: run.now,
    actor: controller,
    onBehalfOf: null,
    type: 'circulation.sent',
    data: { version: 1, releasesItself: false, reminders: usualReminders, due: null, closes: null, roles },
  };
  run.events.push(sent);
  run.state = fold(run.events) as Circulation;
  step(run, { type: 'wake' }, 'system');
  return run;
}

/** Everybody who is asked says yes and names whom they have to, and nobody else does anything. Whether that is all it takes. */
function finishes(run: Run): boolean {
  for (let n = 0; n < 60; n += 1) {
    const now = state(run);
    if (now.phase === 'finishing') return true;
    const asked = [...now.seats.values()].filter((seat) => seat.status === 'asked');
    const moved = asked.some((seat) =>
      holders(now, seat, contextOf(run.now, '')).some(({ person }) => {
        for (const other of unnamedBy(now, seat))
          if (
            !crew.some(
              (to) =>
                put(run, { type: 'name', seat: seat.id, epoch: seat.epoch, names: other.id, to }, person) === 'ok',
            )
          )
            return false;
        const verb = stageVerb(now, seat.stage);
        return decide(run, seat.id, person, verb === 'approve' ? 'approved' : 'done') === 'ok';
      }),
    );
    if (!moved) return false;
  }
  return false;
}

const stageVerb = (now: Circulation, id: string) => stagesOf(now.plan).find((own) => own.id === id)?.verb;

const stageOf = (now: Circulation, seat: string) => now.seats.get(seat)?.stage;

const stopsOf = (plan: Series) => preflight(subjectFor(plan)).filter((finding) => finding.severity === 'stops');

describe('the check before sending, over all small routes', () => {
  const seats: (readonly Assignment[])[] = [
    [],
    ...choices.map((one) => [one]),
    ...choices.flatMap((one) => choices.map((two) => [one, two])),
  ];

  it('lets pass exactly what comes to its end as planned, when everybody has to respond', () => {
    const met = { passed: 0, stopped: new Map<string, number>() };
    const judge = (plan: Series) => {
      const stops = stopsOf(plan);
      const run = forced(plan);
      // Nobody counts twice in a stage.
      const counted = () =>
        new Set(state(run).decisions.map(({ seat, by }) => `${stageOf(state(run), seat)} ${by}`)).size;
      const end = finishes(run) && counted() === state(run).decisions.length;
      expect(end, `${stops.map(({ code }) => code).join() || 'passed'} ${JSON.stringify(plan)}`).toBe(
        stops.length === 0,
      );
      if (end) met.passed += 1;
      for (const { code } of stops) met.stopped.set(code, (met.stopped.get(code) ?? 0) + 1);
    };
    for (const verb of ['review', 'approve'] as const)
      for (const who of seats) {
        judge(route(made('a', verb, who)));
        judge(route(made('b', verb, who)));
        judge(route(made('a', 'review', [{ kind: 'person', person: 'yuki' }]), made('b', verb, who)));
        judge(route(made('b', verb, who), made('a', 'review', [{ kind: 'person', person: 'yuki' }])));
        judge(
          route(
            fork({ kind: 'all' }, [made('a', 'review', [{ kind: 'person', person: 'yuki' }])], [made('b', verb, who)]),
          ),
        );
      }
    expect(met.passed).toBeGreaterThan(100);
    for (const code of [
      'nobody',
      'author-decides',
      'twice-in-stage',
      'group-short',
      'group-unknown',
      'role-unknown',
      'naming-late',
      'naming-nobody',
    ])
      expect(met.stopped.get(code) ?? 0, code).toBeGreaterThan(5);
  });

  it('stops no rule that can be met, and every one that cannot', () => {
    const people = ['petra', 'oskar', 'yuki'].map((person) => ({ kind: 'person', person }) as const);
    for (let n = 1; n <= 3; n += 1)
      for (let k = 1; k <= 5; k += 1) {
        const plan = route(made('a', 'review', people.slice(0, n), { kind: 'atLeast', k }));
        const stops = stopsOf(plan).map(({ code }) => code);
        expect(stops, `${k} of ${n}`).toEqual(k <= n ? [] : ['rule-out-of-reach']);
        if (k <= n) expect(finishes(forced(plan)), `${k} of ${n}`).toBe(true);
      }
  });
});
