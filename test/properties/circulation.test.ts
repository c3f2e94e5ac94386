import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isPositive } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import {
  type Circulation,
  currentScope,
  holdersOf,
  newest,
  type SeatState,
  scopeOf,
  seatAt,
  stageNodes,
} from '@/core/circulation/state';
import { derivationWanted, tasksOf, timersOf } from '@/core/circulation/tasks';
import { needed, type Parallel } from '@/core/route/route';
import {
  author,
  crew,
  drawsFrom,
  finish,
  hour,
  lastEvents,
  type Run,
  randomCommand,
  randomRoute,
  scenario,
  sentRun,
  step,
} from './arbitrary';

const runs = Number(process.env.AVENDA_RUNS ?? 600);

/** Plays random commands on a random route and shows every accepted one to `watch`. */
function play(
  seed: number,
  seats: number,
  watch: (before: Circulation, run: Run, asked: ReturnType<typeof randomCommand>) => void,
): Run {
  const draws = drawsFrom(seed);
  const run = sentRun(randomRoute(draws, seats));
  const steps = draws.below(200);
  for (let i = 0; i < steps; i += 1) {
    const before = run.state as Circulation;
    const asked = randomCommand(draws, before);
    const result = step(run, asked.command, asked.actor, draws.chance(0.3) ? draws.below(20) * hour : 1000);
    if (result.ok) watch(before, run, asked);
    else if (run.state !== before) throw new Error('a refusal changed the state');
  }
  return run;
}

const plain = (state: Circulation | null) => state && { ...state, index: [...state.index] };

describe('a circulation under random routes and commands', () => {
  it('replays to the same state, and sensible people finish whatever random ones began', () => {
    const seen = { completed: 0, rework: 0, stopped: 0, held: 0, rounds: 0 };
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const run = play(seed, seats, () => {});
        expect(plain(fold(run.events))).toEqual(plain(run.state));
        const state = run.state as Circulation;
        if (state.phase === 'rework') seen.rework += 1;
        if (tasksOf(state).some((task) => task.doing === 'resolveStop')) seen.stopped += 1;
        if (stageNodes(state).some((stage) => stage.status === 'held')) seen.held += 1;
        if (state.round > 1) seen.rounds += 1;
        finish(run);
        expect(run.state?.phase).toBe('completed');
        seen.completed += 1;
        expect(plain(fold(run.events))).toEqual(plain(run.state));
      }),
      { numRuns: runs },
    );
    // The runs must have met the interesting states, or the property proves little.
    for (const [what, count] of Object.entries(seen)) expect(count, what).toBeGreaterThan(0);
  });

  it('keeps its promises at every step', () => {
    let watched = 0;
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        play(seed, seats, (before, run, { command, actor }) => {
          const after = run.state as Circulation;
          const hold = (holds: boolean, what: string) => {
            if (!holds) throw new Error(`${what}\n${lastEvents(run)}`);
          };

          // Decisions are append-only, and nobody but a holder makes one, on the newest version, while running.
          hold(
            before.decisions.every((decision, i) => after.decisions[i] === decision),
            'an earlier decision changed',
          );
          if (after.decisions.length > before.decisions.length) {
            hold(after.decisions.length === before.decisions.length + 1, 'one command made two decisions');
            if (command.type !== 'decide') throw new Error(`${command.type} made a decision`);
            const seat = seatAt(before, command.seat);
            hold(seat !== null && holdersOf(seat).includes(actor), 'somebody else decided');
            hold(seat?.epoch === command.epoch, 'an old page decided');
            hold(before.phase === 'running', `decided in ${before.phase}`);
            const version = newest(before);
            hold(version !== null && command.scope === scopeOf(version), 'decided on an older version');
            const stage = before.nodes[seat?.stage ?? 0];
            hold(stage?.kind !== 'stage' || stage.plan.verb !== 'approve' || actor !== author, 'the author approved');
          }

          // Each seat's counted decision is its own, and belongs to one seat only.
          const counted = after.seats.filter((seat) => seat.decision !== null).map((seat) => seat.decision);
          hold(new Set(counted).size === counted.length, 'a decision is counted twice');
          for (const seat of after.seats) {
            const decision = seat.decision === null ? null : after.decisions[seat.decision];
            hold(!decision || decision.seat === seat.id, 'a decision counts for another seat');
            hold(seat.status !== 'decided' || (!!decision && isPositive(decision.outcome)), 'decided without a yes');
          }

          // A stage is done exactly when its rule says so.
          for (const stage of stageNodes(after)) {
            const own = stage.seats.map((at) => after.seats[at] as SeatState);
            const yes = own.filter((seat) => seat.status === 'decided').length;
            const asked = own.filter((seat) => seat.status === 'asked').length;
            const quota = needed(stage.plan.rule, own.length);
            const live = stage.status === 'open' && after.phase === 'running';
            hold(stage.status !== 'done' || yes >= quota, 'a stage was closed too early');
            hold(!live || yes < quota, 'a stage stays open although its rule is met');
            hold(
              !live || stage.plan.verb !== 'sign' || after.frozen?.file === newest(after)?.files[0]?.file,
              'signing on loose pages',
            );
            hold(stage.status === 'open' || asked === 0, 'asked in a stage that is not open');
            // Reopened seats (extended or reassigned) may stand beside the one in turn, but never an untouched pair.
            const touched = run.events.some(
              (event) =>
                (event.type === 'seat.extended' || event.type === 'seat.reassigned') &&
                own.some((seat) => seat.id === event.data.seat),
            );
            hold(stage.plan.order === 'together' || touched || asked <= 1, 'two at once, one by one');
          }

          // Nothing still asked has closed: every command catches up, before and after.
          for (const timer of timersOf(after)) hold(timer.at > run.now, 'asked after it closed');

          // A signature never outlives a change of the bytes it covers.
          for (const seat of after.seats) {
            const decision = seat.decision === null ? null : after.decisions[seat.decision];
            hold(
              decision?.outcome !== 'signed' || after.phase === 'rework' || decision.scope === currentScope(after),
              'a signature outlived a change',
            );
          }

          // Somebody, or the system, can always move what has not ended.
          if (after.phase !== 'completed' && after.phase !== 'withdrawn')
            hold(tasksOf(after).length > 0 || derivationWanted(after) !== null, 'nobody can move it');

          // Time does not run back.
          hold(after.last >= before.last, 'time ran back');
          watched += 1;
        });
      }),
      { numRuns: runs },
    );
    expect(watched).toBeGreaterThan(runs);
  });

  it('opens a stage only after everything before it in its series is done', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        play(seed, seats, (_, run) => {
          const state = run.state as Circulation;
          const over = (at: number): boolean => {
            const node = state.nodes[at];
            if (!node) return true;
            if (node.kind === 'stage') return node.status === 'done' || node.status === 'released';
            if (node.kind === 'series') return node.children.every(over);
            return node.children.filter(over).length >= needed((node.plan as Parallel).join, node.children.length);
          };
          const begun = (at: number): boolean => {
            const node = state.nodes[at];
            if (!node) return false;
            return node.kind === 'stage' ? node.status !== 'idle' : node.children.some(begun);
          };
          for (const node of state.nodes)
            if (node.kind === 'series')
              node.children.forEach((child, i) => {
                if (begun(child)) expect(node.children.slice(0, i).every(over)).toBe(true);
              });
        });
      }),
      { numRuns: Math.ceil(runs / 3) },
    );
  });

  it('changes nothing when a timer is late, doubled or lost', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const quiet = drawsFrom(seed);
        const noisy = drawsFrom(seed);
        const a = sentRun(randomRoute(quiet, seats));
        const b = sentRun(randomRoute(noisy, seats));
        for (let i = 0; i < 60; i += 1) {
          const askedA = randomCommand(quiet, a.state as Circulation);
          const askedB = randomCommand(noisy, b.state as Circulation);
          const forward = quiet.below(30) * hour;
          noisy.below(30);
          step(b, { type: 'wake' }, 'system', forward);
          step(b, { type: 'wake' }, 'system');
          const one = step(a, askedA.command, askedA.actor, forward);
          const two = step(b, askedB.command, askedB.actor);
          expect(two.ok).toBe(one.ok);
          // A refused command leaves what was due to the timer, so bring both to the same moment.
          if (!one.ok) step(a, { type: 'wake' }, 'system');
          const strip = (state: Circulation | null) => JSON.stringify(state && { ...plain(state), last: 0 });
          expect(strip(b.state)).toBe(strip(a.state));
        }
      }),
      { numRuns: Math.ceil(runs / 4) },
    );
  });

  it('never asks for what the crew cannot finish, even on the largest routes', () => {
    for (let seed = 1; seed <= 20; seed += 1) {
      const run = sentRun(randomRoute(drawsFrom(seed), 40));
      expect(finish(run)).toBeGreaterThan(0);
      expect(crew.length).toBeGreaterThan(2);
    }
  });
});
