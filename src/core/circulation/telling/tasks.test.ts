import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  author,
  contextOf,
  controller,
  finish,
  play,
  type Scenario,
  scenario,
} from '../../../../test/properties/arbitrary';
import { decide as returned } from '../../../../test/properties/scene';
import { expectMet, runsOf } from '../../../../test/setting';
import { involvedIn } from '../../access/may';
import { fieldIdsOf } from '../../page/fields';
import { independentStages } from '../../route/route';
import { isPositive, outcomesFor, verbFacts } from '../../route/verbs';
import { caughtUp, decide } from '../acts/decide';
import { proposedLines, roundBasis } from '../rounds/round';
import { holders } from '../run/holders';
import { unnamedBy } from '../run/naming';
import type { SeatRun } from '../run/shapes';
import {
  baseHolder,
  type Circulation,
  closesOf,
  dueOf,
  newest,
  presentFields,
  scopeOf,
  stagePlanOf,
  waitOf,
} from '../run/state';
import { waitsUntil } from '../run/times';
import { finalsWanted, freezeWanted, releaseWanted, tasksOf, timersOf } from './tasks';

/** A circulation after random commands, as it stands at a random moment of its life. */
function somewhere(given: Scenario): { state: Circulation; now: number } {
  const run = play({ ...given, steps: given.steps.slice(0, 120) });
  if (given.seed % 7 === 0 && run.state?.ended === null) finish(run);
  // Walks rarely stop just where somebody has returned it.
  else if (given.seed % 5 === 1)
    for (const seat of seatsOf(run.state as Circulation))
      for (const { person } of holders(run.state as Circulation, seat, contextOf(run.now, controller)))
        returned(run, seat.id, person, 'returned');
  return { state: run.state as Circulation, now: run.now };
}
const seatsOf = (state: Circulation) => [...state.seats.values()];
const moments = (check: (state: Circulation, now: number) => void, usual = 110) =>
  fc.assert(
    fc.property(scenario, (given) => {
      const { state, now } = somewhere(given);
      check(state, now);
    }),
    { numRuns: runsOf(usual) },
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
    expectMet({ ended: met.ended });
    expectMet({ tasks: met.tasks }, 20);
  });

  it('of a seat stand on every holder’s Desk while it is asked, with its own times, and on nobody else’s', () => {
    moments((state) => {
      const asked = tasksOf(state, contextOf(0, '')).filter((task) => task.seat !== null && task.doing in verbFacts);
      const expected =
        state.phase === 'running' && state.closed === null && state.paused === null
          ? seatsOf(state)
              .filter((seat) => seat.status === 'asked')
              .flatMap((seat) =>
                holders(state, seat, contextOf(0, '')).map(
                  ({ person }) => `${person} ${seat.id} ${dueOf(state, seat)} ${closesOf(state, seat)}`,
                ),
              )
          : [];
      expect(asked.map((task) => `${task.person} ${task.seat} ${task.due} ${task.closes}`).sort()).toEqual(
        expected.sort(),
      );
    });
  });

  it('can be done: whoever has a seat’s task is let through with any of its outcomes, and a stranger is not', () => {
    let done = 0;
    moments((given, now) => {
      // What is due by then has happened: a closing may have ended the waiting of a whole stage.
      const state = caughtUp(given, contextOf(now + 1, ''));
      for (const task of tasksOf(state, contextOf(now + 1, ''))) {
        if (task.seat === null || !(task.doing in verbFacts)) continue;
        const seat = state.seats.get(task.seat);
        if (!seat) continue;
        const { verb } = stagePlanOf(state, seat);
        for (const outcome of outcomesFor({ verb, allows: { changes: false } })) {
          const command = {
            type: 'decide' as const,
            seat: seat.id,
            epoch: seat.epoch,
            scope: scopeOf(state, seat) ?? '',
            outcome,
            note: 'w',
            filled:
              outcome === 'signed'
                ? fieldIdsOf(presentFields(state), seat.id).map((field) => ({ field, value: 'v' }))
                : [],
            evidence: null,
          };
          const own = decide(state, command, contextOf(now + 1, task.person));
          const refused = own.ok ? 'ok' : own.refusal.code;
          // Who has to wait, or to name somebody first, is told so, and may decline all the same.
          const waits = waitsUntil(state, seat, task.person, contextOf(now + 1, task.person));
          const early = waits === 'opened' ? 'open-first' : waits !== null ? 'too-early' : null;
          const unnamed = isPositive(outcome) && unnamedBy(state, seat).length > 0 ? 'name-missing' : null;
          expect(refused).toBe(outcome === 'declined' ? 'ok' : (early ?? unnamed ?? 'ok'));
          expect(verb === 'approve' && task.person === author).toBe(false);
          const other = decide(state, command, contextOf(now + 1, 'a stranger'));
          expect(other.ok ? 'ok' : other.refusal.code).toBe('not-holder');
          done += 1;
        }
      }
    });
    expectMet({ done }, 15);
  });

  it('put something to the controller or the author whenever nobody is asked, so that nothing lies forgotten', () => {
    const met = { waiting: 0 };
    moments((state) => {
      if (state.ended !== null) return;
      const tasks = tasksOf(state);
      if (tasks.length > 0) {
        if (!tasks.some((task) => task.seat !== null && task.doing in verbFacts)) {
          met.waiting += 1;
          expect(tasks.every((task) => task.person === state.controller || task.person === author)).toBe(true);
        }
        return;
      }
      // Only files that are being made, and a release by itself, are waited for without a person.
      expect(finalsWanted(state) || freezeWanted(state).length > 0 || releaseWanted(state)).toBe(true);
    });
    expectMet(met, 3);
  });

  it('say whom they have to do with: who asks, or whose act or absence they answer', () => {
    const met = { asked: 0, resolveStop: 0, rework: 0 };
    moments((state) => {
      for (const task of tasksOf(state)) {
        const seat = task.seat ? state.seats.get(task.seat) : undefined;
        if (task.doing in verbFacts) {
          met.asked += 1;
          expect(task.about).toBe(state.controller);
        } else if (task.doing === 'resolveStop' && seat) {
          met.resolveStop += 1;
          expect(task.about).toBe(baseHolder(seat)?.person ?? author);
        } else if (task.doing === 'rework' && seat) {
          met.rework += 1;
          expect(
            state.decisions.some(
              ({ by, outcome, seat: on }) => by === task.about && outcome === 'returned' && on === seat.id,
            ),
          ).toBe(true);
        } else
          expect([
            ...involvedIn(state),
            ...[...state.questions.values()].map(({ by }) => by),
            ...seatsOf(state).map((own) => baseHolder(own)?.person),
          ]).toContain(task.about);
      }
    });
    expectMet(met);
  });

  it('have a timer for every closing time and every wait that is still to come, and none beside', () => {
    const met = { closes: 0, freed: 0, whole: 0 };
    moments((state) => {
      const moving = state.closed === null && (state.phase === 'running' || state.phase === 'rework');
      const running = moving && state.phase === 'running' && state.paused === null;
      const asked = running ? seatsOf(state).filter((seat) => seat.status === 'asked') : [];
      const timers = timersOf(state);
      const at = (kind: string) => timers.filter((timer) => timer.kind === kind).map((timer) => timer.key);
      expect(at('closes')).toEqual(asked.filter((seat) => seat.closes !== null).map((seat) => seat.id));
      expect(at('whole')).toEqual(moving && state.closes !== null ? [''] : []);
      for (const timer of timers) {
        met[timer.kind] += 1;
        expect(timer.at).toBeGreaterThan(0);
        if (timer.kind !== 'freed') continue;
        const [seat = '', person = ''] = timer.key.split(' ');
        expect(asked.some((own) => own.id === seat)).toBe(true);
        expect(waitOf(state.seats.get(seat) as SeatRun, person)?.from).toBe(timer.at);
      }
      expect(new Set(timers.map(({ kind, key }) => `${kind} ${key}`)).size).toBe(timers.length);
    }, 600);
    expectMet(met);
  });
});

describe('the proposal of a next round', () => {
  it('keeps a decision exactly when its holder would see again what they last decided on with a yes, once a person', () => {
    const met = { kept: 0, again: 0 };
    moments((state) => {
      const lines = proposedLines(state, contextOf(0, controller));
      const apart = independentStages(state.plan);
      const kept = lines.flatMap(({ seat, decision, keep }) =>
        keep ? [{ stage: state.seats.get(seat)?.stage ?? '', by: state.decisions[decision ?? -1]?.by }] : [],
      );
      for (const line of lines) {
        const seat = state.seats.get(line.seat) as SeatRun;
        const scope = scopeOf(state, seat);
        const same = state.decisions.findLast(
          (decision, i) =>
            decision.seat === seat.id &&
            (seat.group !== null || decision.holder === baseHolder(seat)?.person) &&
            (decision.scope === scope ||
              state.acceptances.some((entry) => entry.decision === i && entry.accepted === scope)),
        );
        const yes = same !== undefined && same.outcome !== 'returned' && same.outcome !== 'declined';
        // Who covered for two, or came back by another way, is kept in one of them.
        const twice = kept.some(
          ({ stage, by }) => by === same?.by && (stage === seat.stage || apart.get(seat.stage)?.includes(stage)),
        );
        expect(line.keep || (line.reason === 'twice' && twice)).toBe(yes);
        if (line.keep) expect(state.decisions[line.decision ?? -1]).toBe(same);
        met[line.keep ? 'kept' : 'again'] += 1;
      }
    });
    expectMet(met, 5);
  });

  it('names each seat once, and is called otherwise as soon as anything of it differs', () => {
    const named = new Map<string, string>();
    moments((state) => {
      const lines = proposedLines(state, contextOf(0, controller));
      expect(lines.map((line) => line.seat)).toEqual(
        seatsOf(state)
          .filter((seat) => !seat.gone)
          .map((seat) => seat.id),
      );
      const says = JSON.stringify([newest(state)?.number, state.decisions.length, lines]);
      const basis = roundBasis(state, contextOf(0, controller));
      expect(named.get(basis) ?? says).toBe(says);
      named.set(basis, says);
    }, 150);
    expectMet({ named: named.size }, 30);
  });
});
