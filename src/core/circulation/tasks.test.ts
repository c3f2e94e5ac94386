import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  author,
  controller,
  drawsFrom,
  finish,
  hour,
  randomCommand,
  randomRoute,
  scenario,
  sentRun,
  step,
} from '../../../test/properties/arbitrary';
import { involvedIn } from '../access/may';
import { decide } from './decide';
import { outcomesOf } from './events';
import { proposedLines, samePlan } from './round';
import { type Circulation, currentScope, decisionOf, holdersOf, seatAt, stageOf } from './state';
import { tasksOf, timersOf } from './tasks';

/** A circulation after random commands, as it stands at a random moment of its life. */
function somewhere(seed: number, seats: number): { state: Circulation; now: number } {
  const draws = drawsFrom(seed);
  const run = sentRun(randomRoute(draws, seats));
  const steps = draws.below(120);
  for (let i = 0; i < steps; i += 1) {
    const { command, actor } = randomCommand(draws, run.state as Circulation);
    step(run, command, actor, draws.chance(0.3) ? draws.below(20) * hour : 1000);
  }
  if (draws.chance(0.15)) finish(run);
  return { state: run.state as Circulation, now: run.now };
}
const moments = (check: (state: Circulation, now: number) => void, numRuns = 300) =>
  fc.assert(
    fc.property(scenario, ({ seed, seats }) => {
      const { state, now } = somewhere(seed, seats);
      check(state, now);
    }),
    { numRuns },
  );

describe('tasks', () => {
  it('are for somebody whom the circulation concerns, and none is left when it has ended', () => {
    const met = { ended: 0, tasks: 0 };
    moments((state) => {
      const tasks = tasksOf(state);
      if (state.ended !== null) {
        met.ended += 1;
        expect(tasks).toEqual([]);
      }
      met.tasks += tasks.length;
      for (const task of tasks) expect(involvedIn(state)).toContain(task.person);
    });
    expect(met.ended).toBeGreaterThan(0);
    expect(met.tasks).toBeGreaterThan(100);
  });

  it('of a seat stand on every holder’s Desk while it is asked, with its own times, and on nobody else’s', () => {
    moments((state) => {
      const asked = tasksOf(state).filter((task) => task.seat !== null && task.doing in outcomesOf);
      const expected =
        state.phase === 'running'
          ? state.seats
              .filter((seat) => seat.status === 'asked')
              .flatMap((seat) => holdersOf(seat).map((person) => `${person} ${seat.id} ${seat.due} ${seat.closes}`))
          : [];
      expect(asked.map((task) => `${task.person} ${task.seat} ${task.due} ${task.closes}`).sort()).toEqual(
        expected.sort(),
      );
    });
  });

  it('can be done: whoever has a seat’s task is let through with any of its outcomes, and a stranger is not', () => {
    let done = 0;
    moments((state, now) => {
      for (const task of tasksOf(state)) {
        if (task.seat === null || !(task.doing in outcomesOf)) continue;
        const seat = seatAt(state, task.seat);
        if (!seat || (seat.closes !== null && seat.closes <= now + 1)) continue;
        const { verb } = stageOf(state, seat).plan;
        for (const outcome of outcomesOf[verb]) {
          const command = {
            type: 'decide' as const,
            seat: seat.id,
            epoch: seat.epoch,
            scope: currentScope(state) ?? '',
            outcome,
            note: 'w',
            filled:
              outcome === 'signed'
                ? state.fields
                    .filter((field) => field.seat === seat.id)
                    .map((field) => ({ field: field.id, value: 'v' }))
                : [],
            evidence: null,
          };
          const own = decide(state, command, { now: now + 1, actor: task.person });
          const refused = own.ok ? 'ok' : own.refusal.code;
          // The one exception is the author, who cannot approve their own text.
          expect(task.person === author && verb === 'approve' ? 'ok' : refused).toBe('ok');
          const other = decide(state, command, { now: now + 1, actor: 'a stranger' });
          expect(other.ok ? 'ok' : other.refusal.code).toBe('not-holder');
          done += 1;
        }
      }
    });
    expect(done).toBeGreaterThan(50);
  });

  it('put something to the controller or the author whenever nobody is asked, so that nothing lies forgotten', () => {
    const met = { waiting: 0 };
    moments((state) => {
      if (state.ended !== null) return;
      const tasks = tasksOf(state);
      if (tasks.length > 0) {
        if (!tasks.some((task) => task.seat !== null && task.doing in outcomesOf)) {
          met.waiting += 1;
          expect(tasks.every((task) => task.person === controller || task.person === author)).toBe(true);
        }
        return;
      }
      // Only the making of the final file is waited for without a person.
      expect([state.phase, state.final]).toEqual(['sealing', null]);
    });
    expect(met.waiting).toBeGreaterThan(10);
  });

  it('say whom they have to do with: who asks, or whose act or absence they answer', () => {
    const met = { asked: 0, resolveStop: 0, rework: 0 };
    moments((state) => {
      for (const task of tasksOf(state)) {
        const seat = task.seat ? seatAt(state, task.seat) : null;
        if (task.doing in outcomesOf) {
          met.asked += 1;
          expect(task.about).toBe(controller);
        } else if (task.doing === 'resolveStop' && seat) {
          met.resolveStop += 1;
          expect(task.about).toBe(seat.holder);
        } else if (task.doing === 'rework' && seat) {
          met.rework += 1;
          expect(
            state.decisions.some(
              ({ by, outcome, seat: on }) => by === task.about && outcome === 'returned' && on === seat.id,
            ),
          ).toBe(true);
        } else expect(involvedIn(state).concat(state.seats.map(({ holder }) => holder))).toContain(task.about);
      }
    });
    for (const [what, count] of Object.entries(met)) expect(count, what).toBeGreaterThan(0);
  });

  it('have a timer for every closing time that is still to come, and none beside', () => {
    moments((state) => {
      const expected =
        state.phase === 'running'
          ? state.seats.filter((seat) => seat.status === 'asked' && seat.closes !== null).map((seat) => seat.id)
          : [];
      expect(timersOf(state).map((timer) => timer.seat)).toEqual(expected);
    });
  });
});

describe('the proposal of a next round', () => {
  it('keeps a decision exactly when its seat would see again what it decided on', () => {
    const met = { kept: 0, again: 0 };
    moments((state) => {
      const scope = currentScope(state);
      for (const line of proposedLines(state)) {
        const seat = seatAt(state, line.seat);
        if (!seat) throw new Error('a line without a seat');
        const decision = decisionOf(state, seat);
        expect(line.keep).toBe(
          !!decision && decision.outcome !== 'returned' && decision.outcome !== 'declined' && decision.scope === scope,
        );
        met[line.keep ? 'kept' : 'again'] += 1;
      }
    });
    expect(met.kept).toBeGreaterThan(20);
    expect(met.again).toBeGreaterThan(20);
  });

  it('names each seat once, and is the same as itself but not as one in which anything differs', () => {
    moments((state) => {
      const lines = proposedLines(state);
      expect(new Set(lines.map((line) => line.seat)).size).toBe(lines.length);
      const plan = { version: 1, decisions: 2, lines };
      expect(samePlan(plan, { ...plan, lines: lines.map((line) => ({ ...line })) })).toBe(true);
      expect(samePlan(plan, { ...plan, version: 2 })).toBe(false);
      expect(samePlan(plan, { ...plan, decisions: 3 })).toBe(false);
      const [first, ...rest] = lines;
      if (!first) return;
      expect(samePlan(plan, { ...plan, lines: rest })).toBe(false);
      const why = first.why === 'missed' ? 'open' : 'missed';
      expect(samePlan(plan, { ...plan, lines: [{ ...first, why }, ...rest] })).toBe(false);
    }, 150);
  });
});
