import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { involvedIn, may } from '@/core/access/may';
import type { Act, Command } from '@/core/circulation/acts/commands';
import { caughtUp } from '@/core/circulation/acts/decide';
import { type Offer, offers } from '@/core/circulation/acts/offers';
import { previewOf } from '@/core/circulation/plan/preview';
import { countedTwice, proposedLines } from '@/core/circulation/rounds/round';
import { system } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import { holders } from '@/core/circulation/run/holders';
import { unnamedBy } from '@/core/circulation/run/naming';
import type { SeatRun } from '@/core/circulation/run/shapes';
import {
  baseHolder,
  type Circulation,
  type DecisionRecord,
  dueOf,
  filesToFreeze,
  newest,
  plannedStages,
  scopeIn,
  scopeOf,
  seatsOfStage,
  stagePlanOf,
} from '@/core/circulation/run/state';
import { messagesOf } from '@/core/circulation/telling/messages';
import {
  finalsWanted,
  freezeWanted,
  releaseWanted,
  type Task,
  tasksOf,
  timersOf,
} from '@/core/circulation/telling/tasks';
import { atInstant, type Route } from '@/core/route/route';
import { isPositive } from '@/core/route/verbs';
import { alike } from '@/core/trail/canonical';
import { expectMet, runsOf } from '../setting';
import {
  absences,
  acts,
  author,
  contextOf,
  controller,
  crew,
  drawsFrom,
  finish,
  hour,
  lastEvents,
  outsiders,
  play,
  type Run,
  randomCommand,
  randomRoute,
  scenario,
  sentRun,
  step,
  versionOf,
} from './arbitrary';

/** What can be compared of a state: its maps as lists. */
const plain = (state: Circulation | null) =>
  state &&
  Object.fromEntries(Object.entries(state).map(([key, value]) => [key, value instanceof Map ? [...value] : value]));

/** Whether one person's cover leads to another at an instant, along absences that run then. */
const leadsTo = (from: string, to: string, now: number): boolean => {
  const next = absences.find((one) => one.person === from && one.from <= now && now < one.to)?.covers[0]?.by;
  return next !== undefined && (next === to || leadsTo(next, to, now));
};

/** Who has responded in a stage that takes part, by responses that stand. */
const respondedIn = (state: Circulation, stage: string) =>
  state.stages.get(stage)?.gone
    ? []
    : [...state.seats.values()]
        .filter(
          (seat) => seat.stage === stage && !seat.gone && ['decided', 'returned', 'declined'].includes(seat.status),
        )
        .map((seat) => state.decisions[seat.decision ?? -1]?.by);

const plannedIn = (state: Circulation, id: string) => plannedStages(state).find((one) => one.id === id);

describe('a circulation under random routes and commands', () => {
  it('replays to the same state, and sensible people finish whatever random ones began', () => {
    const seen = { completed: 0, rework: 0, stopped: 0, held: 0, rounds: 0, withdrawn: 0 };
    fc.assert(
      fc.property(scenario, (given) => {
        const run = play(given);
        expect(plain(fold(run.events))).toEqual(plain(run.state));
        const state = run.state as Circulation;
        if (state.phase === 'rework') seen.rework += 1;
        if (tasksOf(state).some((task) => task.doing === 'resolveStop')) seen.stopped += 1;
        if ([...state.stages.values()].some((stage) => stage.held !== null)) seen.held += 1;
        if (state.round > 1) seen.rounds += 1;
        if (state.phase === 'withdrawn') {
          seen.withdrawn += 1;
          return;
        }
        finish(run);
        expect(run.state?.phase).toBe('completed');
        seen.completed += 1;
        expect(plain(fold(run.events))).toEqual(plain(run.state));
        expect(plain(fold(run.events.slice(7), fold(run.events.slice(0, 7))))).toEqual(plain(run.state));
      }),
      { numRuns: runsOf(500) },
    );
    // The runs must have met the interesting states, or the property proves little.
    expectMet(seen);
  });

  it('keeps its promises at every step', () => {
    let watched = 0;
    let covered = 0;
    let apart = 0;
    let amended = 0;
    fc.assert(
      fc.property(scenario, (given) => {
        play(given, (before, run, { command, actor }, result) => {
          const after = run.state as Circulation;
          const hold = (holds: boolean, what: string) => {
            if (!holds) throw new Error(`${what} (${command.type})\n${lastEvents(run)}`);
          };
          if (!result.ok) {
            hold(after === before, 'a refusal changed the state');
            return;
          }
          hold(result.events.length > 0 || command.type === 'wake', 'a command was accepted without effect');
          hold(before.ended === null, 'something happened after the end');

          // Decisions are append-only, and nobody but a holder makes one, on the present content, while running.
          hold(
            before.decisions.every((decision, i) => after.decisions[i] === decision),
            'an earlier decision changed',
          );
          if (after.decisions.length > before.decisions.length) {
            hold(after.decisions.length === before.decisions.length + 1, 'one command made two decisions');
            if (command.type !== 'decide') throw new Error(`${command.type} made a decision`);
            const seat = before.seats.get(command.seat) as SeatRun;
            hold(acts(before, seat, actor, run.now), 'somebody else decided');
            hold(after.closed === null, 'decided though closed as a whole');
            const { earliest } = stagePlanOf(before, seat);
            const early = earliest?.kind === 'date' && earliest.at > run.now && command.outcome !== 'declined';
            hold(!early, 'decided before the earliest date');
            hold(!isPositive(command.outcome) || unnamedBy(before, seat).length === 0, 'decided without naming');
            hold(seat.epoch === command.epoch, 'an old page decided');
            hold(before.phase === 'running', `decided in ${before.phase}`);
            const version = newest(before);
            hold(version !== null && command.scope === scopeIn(before, seat, version), 'decided on other content');
            hold(stagePlanOf(before, seat).verb !== 'approve' || actor !== author, 'the author approved');
            // Whoever holds no part of it covers for somebody who is away, and it is recorded for whom.
            const { onBehalfOf } = after.decisions.at(-1) as DecisionRecord;
            const group = contextOf(run.now, '').groups.get(seat.group ?? '')?.members ?? [];
            const own = [...seat.holders.map(({ person }) => person), ...group];
            if (!own.includes(actor)) {
              hold(onBehalfOf !== null && own.includes(onBehalfOf), 'covered for nobody who is asked');
              hold(leadsTo(onBehalfOf ?? '', actor, run.now), 'responded without covering');
              hold(!seat.barred.includes(actor), 'somebody who was replaced covered');
              covered += 1;
            }
          }

          // What would ask nobody is never begun.
          const begins = command.type === 'send' || command.type === 'confirmRound';
          hold(!begins || after.rework?.cause !== 'nobody', 'begun though it asks nobody');

          // Nobody has responded in two stages that need different people.
          for (const stage of plannedStages(after))
            for (const other of stage.independentOf) {
              const [one, two] = [stage.id, other].map((id) => respondedIn(after, id));
              const both = one?.filter((person) => two?.includes(person)) ?? [];
              hold(both.length === 0, `${both} responded in two stages that need different people`);
              if (one?.length && two?.length) apart += 1;
            }

          // Each seat's counted decision is its own, and belongs to one seat only.
          const seats = [...after.seats.values()];
          const counted = seats.filter((seat) => seat.decision !== null).map((seat) => seat.decision);
          hold(new Set(counted).size === counted.length, 'a decision is counted twice');
          for (const seat of seats) {
            const decision = seat.decision === null ? null : after.decisions[seat.decision];
            hold(!decision || decision.seat === seat.id, 'a decision counts for another seat');
            hold(seat.status !== 'decided' || (!!decision && isPositive(decision.outcome)), 'decided without a yes');
          }

          for (const stage of after.stages.values()) {
            const plan = stagePlanOf(after, { stage: stage.id });
            const own = seatsOfStage(after, stage).filter((seat) => !seat.gone);
            if (stage.gone) continue;
            const returned = own.some((seat) => seat.status === 'returned');
            hold(stage.status !== 'done' || !returned || after.phase !== 'running', 'done with a return standing');
            const yes = own.filter((seat) => seat.status === 'decided').length;
            const asked = own.filter((seat) => seat.status === 'asked').length;
            const quota = plan.rule.kind === 'all' ? own.length : plan.rule.kind === 'any' ? 1 : plan.rule.k;
            const stopped = plan.onDecline === 'stop' && own.some((seat) => seat.status === 'declined' && !seat.passed);
            const due = own.every((seat) => seat.due === null || seat.closes === null || seat.due <= seat.closes);
            hold(due, 'due after it closes');
            const moving = after.phase === 'running' && after.closed === null && after.paused === null;
            const live = stage.status === 'open' && moving;
            // In rework seats may change hands; the next round walks the route anew.
            hold(
              stage.status !== 'done' || ['rework', 'withdrawn'].includes(after.phase) || (yes >= quota && !stopped),
              'a stage was closed too early',
            );
            hold(!live || yes < quota || stopped || returned, 'a stage stays open although its rule is met');
            const waits = own.some((seat) => {
              return seat.status === 'asked' && holders(after, seat, contextOf(run.now, '')).length > 0;
            });
            hold(!live || !returned || waits || after.closed !== null, 'gathers although there is nobody to wait for');
            hold(
              !live || plan.verb !== 'sign' || filesToFreeze(after).length === 0,
              'signing on pages that are not frozen',
            );
            hold(stage.status === 'open' || asked === 0, 'asked in a stage that is not open');
            // A person counts once in a stage.
            const acting = own.flatMap((seat) =>
              seat.status === 'decided' ? [after.decisions[seat.decision ?? -1]?.by] : [],
            );
            hold(new Set(acting).size === acting.length, 'a person counts twice in a stage');
            const reopened = run.events.some(
              (event) =>
                ['seat.extended', 'seat.reassigned', 'seat.askedAgain'].includes(event.type) &&
                own.some((seat) => 'seat' in event.data && seat.id === event.data.seat),
            );
            hold(plan.order === 'together' || reopened || asked <= 1, 'two at once, one by one');
          }

          // Nobody is asked and missed in one step, nor asked after the closing time.
          const fresh = result.events.filter((event) => event.type === 'seat.asked').map((event) => event.data.seat);
          hold(new Set(fresh).size === fresh.length, 'asked twice in one step');
          for (const event of result.events)
            if (event.type === 'seat.missed' || event.type === 'seat.released')
              hold(!fresh.includes(event.data.seat), `asked and ${event.type} in one step`);
          for (const timer of timersOf(after)) hold(timer.at > run.now, 'asked after it closed');

          // A signature never outlives a change of the bytes it covers, nor of the fields it was given on.
          for (const seat of seats) {
            const decision = seat.decision === null ? null : after.decisions[seat.decision];
            hold(
              decision?.outcome !== 'signed' ||
                seat.status !== 'decided' ||
                ['rework', 'withdrawn'].includes(after.phase) ||
                decision.scope === scopeOf(after, seat),
              'a signature outlived a change',
            );
          }

          // What has been reached stays as it was walked: amending moves, empties and undoes nothing of it.
          if (command.type === 'amend') {
            amended += 1;
            for (const run of before.stages.values()) {
              if (before.phase === 'rework' || run.gone === 'removed') continue;
              const [was, is] = [plannedIn(before, run.id), plannedIn(after, run.id)];
              const begun = run.status !== 'idle' || run.held !== null || run.gone !== null;
              if (!begun) continue;
              const own = seatsOfStage(before, run);
              const recalled = !is && own.every((seat) => seat.gone || seat.decision === null);
              hold(
                recalled || (is?.verb === was?.verb && is?.order === was?.order),
                'a stage that was reached changed',
              );
              hold(
                recalled || run.status !== 'done' || after.stages.get(run.id)?.status === 'done',
                'a done stage reopened',
              );
            }
            for (const seat of before.seats.values())
              hold(
                before.phase === 'rework' ||
                  seat.decision === null ||
                  (after.seats.get(seat.id)?.decision === seat.decision &&
                    after.seats.get(seat.id)?.gone === seat.gone),
                'a decision was amended away',
              );
            const shown = previewOf(before, command, contextOf(run.now, actor));
            hold(shown.ok, 'an amendment was made that its preview refuses');
            if (shown.ok) {
              const keys = (tasks: readonly Task[]) =>
                tasks.map(({ person, doing, seat, stage }) => [person, doing, seat, stage].join(' '));
              const context = contextOf(run.now, actor);
              const made = result.events.slice(result.events.findIndex(({ type }) => type === 'circulation.amended'));
              const [had, has] = [keys(tasksOf(caughtUp(before, context), context)), keys(tasksOf(after, context))];
              const { added, removed, messages, times } = shown.preview;
              hold(
                alike(
                  keys(added),
                  has.filter((key) => !had.includes(key)),
                ),
                'other tasks came than previewed',
              );
              hold(
                alike(
                  keys(removed),
                  had.filter((key) => !has.includes(key)),
                ),
                'other tasks went than previewed',
              );
              hold(
                alike(messages, messagesOf(caughtUp(before, context), { state: after, events: made }, context)),
                'other messages',
              );
              for (const { seat, due } of times)
                hold(dueOf(after, after.seats.get(seat) as SeatRun) === due, 'another time than previewed');
            }
          }

          // A round asks nobody but those on the list that was confirmed.
          if (command.type === 'confirmRound')
            for (const id of fresh)
              hold(
                proposedLines(before, contextOf(0, controller)).some(
                  (line) => line.seat === id || id.startsWith(`${line.seat}__`),
                ),
                'asked though not on the list',
              );

          // Second holders are the controller's and stay until they are dropped.
          for (const seat of before.seats.values())
            for (const holder of seat.holders)
              hold(
                holder.via !== 'second' ||
                  command.type === 'dropSecondHolder' ||
                  (command.type === 'reassign' && command.to.person === holder.person) ||
                  (command.type === 'plan' && before.phase === 'new') ||
                  !!after.seats.get(seat.id)?.holders.some((own) => own.person === holder.person),
                'a second holder was lost',
              );

          // Somebody, or the system, can always move what has not ended.
          if (after.ended === null)
            hold(
              tasksOf(after).length > 0 ||
                finalsWanted(after) ||
                freezeWanted(after).length > 0 ||
                releaseWanted(after),
              'nobody can move it',
            );
          hold(after.last >= before.last, 'time ran back');
          watched += 1;
        });
      }),
      { numRuns: runsOf(500) },
    );
    expectMet({ watched }, 500);
    expectMet({ covered, apart, amended });
  });

  it('opens a stage only after everything before it in its series is done', () => {
    fc.assert(
      fc.property(scenario, (given) => {
        play(given, (_, run) => {
          const state = run.state as Circulation;
          // In rework the route may be amended anywhere; the next round walks it from its root.
          if (state.phase === 'rework' || state.phase === 'withdrawn') return;
          const over = (part: Route): boolean => {
            if (part.kind === 'copies') return true;
            if (part.kind === 'stage') {
              const stage = state.stages.get(part.id);
              return stage?.gone === 'skipped' || ['done', 'released'].includes(stage?.status ?? 'idle');
            }
            if (state.blocks.get(part.id)?.gone) return true;
            if (part.kind === 'series') return part.parts.every(over);
            const there = part.branches.filter((branch) => !state.blocks.get(branch.route.id)?.gone);
            const done = there.filter((branch) => over(branch.route)).length;
            const n = there.length;
            return (
              done >=
              (part.join.kind === 'all' ? n : part.join.kind === 'any' ? Math.min(1, n) : Math.min(n, part.join.k))
            );
          };
          const begun = (part: Route): boolean => {
            // A copy that went in an earlier round is not taken back.
            if (part.kind === 'copies') return false;
            if (part.kind === 'stage') {
              const stage = state.stages.get(part.id);
              return stage !== undefined && (stage.status !== 'idle' || stage.held !== null);
            }
            return part.kind === 'series'
              ? part.parts.some(begun)
              : part.branches.some((branch) => begun(branch.route));
          };
          const check = (part: Route): void => {
            if (part.kind === 'stage' || part.kind === 'copies') return;
            if (part.kind === 'parallel') for (const branch of part.branches) check(branch.route);
            else
              part.parts.forEach((inner, i) => {
                if (begun(inner)) expect(part.parts.slice(0, i).every(over)).toBe(true);
                check(inner);
              });
          };
          check(state.plan);
        });
      }),
      { numRuns: runsOf(60) },
    );
  });

  it('changes nothing when a timer is late, doubled or lost', () => {
    fc.assert(
      fc.property(scenario, ({ seed: own, seats, files, steps }) => {
        const a = sentRun(randomRoute(drawsFrom(own), seats, files), files);
        const b = sentRun(randomRoute(drawsFrom(own), seats, files), files);
        for (const each of steps.slice(0, 60)) {
          const draws = drawsFrom(each);
          const asked = randomCommand(draws, a.state as Circulation, files);
          const forward = draws.below(30) * hour;
          step(b, { type: 'wake' }, system, forward);
          step(b, { type: 'wake' }, system);
          const one = step(a, asked.command, asked.actor, forward);
          const two = step(b, asked.command, asked.actor);
          expect(two.ok).toBe(one.ok);
          // A refused command leaves what was due to the timer, so bring both to the same moment; an accepted one leaves nothing.
          const told = a.events.length;
          step(a, { type: 'wake' }, system);
          if (one.ok) expect(a.events.length).toBe(told);
          const strip = (state: Circulation | null) => JSON.stringify({ ...plain(state), last: 0 });
          expect(strip(b.state)).toBe(strip(a.state));
        }
      }),
      { numRuns: runsOf(60) },
    );
  });

  it('never asks for what the crew cannot finish, even on the largest routes', () => {
    for (let own = 1; own <= 20; own += 1)
      expect(finish(sentRun(randomRoute(drawsFrom(own), 40, 3), 3))).toBeGreaterThan(0);
  });
});

describe('offers', () => {
  const actors = [controller, author, ...crew.slice(0, 4), ...outsiders, system, 'a stranger'];
  const onOf = (command: Command): string | null =>
    'seat' in command
      ? command.seat
      : 'stage' in command
        ? command.stage
        : command.type === 'resolveComment' || command.type === 'reopenComment'
          ? command.comment
          : command.type === 'putFields' || command.type === 'keepFrozen'
            ? command.file
            : null;
  const find = (all: readonly Offer[], act: Act, on: string | null) =>
    all.find((offer) => offer.act === act && offer.on === on);

  it('hold every command that is accepted, and refuse as the engine does', () => {
    const met = { accepted: 0, refused: 0 };
    fc.assert(
      fc.property(scenario, (given) => {
        play({ ...given, steps: given.steps.slice(0, 60) }, (before, run, { command, actor }, result) => {
          if (before.ended !== null) return;
          const offer = find(offers(before, contextOf(run.now, actor)), command.type, onOf(command));
          if (result.ok) {
            expect(offer?.refusal ?? null, `${command.type} was accepted and not offered`).toBe(null);
            met.accepted += 1;
          } else if (offer?.refusal && !('epoch' in command && result.refusal.code === 'stale-seat')) {
            expect(result.refusal).toEqual(offer.refusal);
            met.refused += 1;
          }
        });
      }),
      { numRuns: runsOf(30) },
    );
    expectMet(met, 60);
  });

  it('each give a command that the engine accepts', () => {
    const met = new Set<Act>();
    fc.assert(
      fc.property(scenario, fc.oneof(fc.constant(controller), fc.constantFrom(...actors)), (given, actor) => {
        const run = play({ ...given, steps: given.steps.slice(0, 25) });
        const state = run.state as Circulation;
        const asked = [...state.seats.values()].filter(({ status }) => status === 'asked');
        // Anybody, and those who are asked: they have most to do.
        for (const one of new Set([
          actor === controller ? state.controller : actor,
          ...asked.slice(0, 4).flatMap((seat) => baseHolder(seat)?.person ?? []),
        ]))
          for (const offer of offers(state, contextOf(run.now, one))) {
            if (offer.refusal) continue;
            const commands = commandsOf(offer, state, run);
            for (const command of commands) {
              const result = step({ ...run, events: [] }, command, one);
              if (!result.ok)
                throw new Error(`${offer.act} was offered and refused: ${result.refusal.code}\n${lastEvents(run)}`);
            }
            if (commands.length > 0) met.add(offer.act);
          }
      }),
      { numRuns: runsOf(120) },
    );
    // What random people seldom come to (going on without somebody) has its examples in decide.test.ts.
    for (const act of ['decide', 'extend', 'reassign', 'attach', 'putFields', 'confirmRound'] as const)
      expect(met, act).toContain(act);
  });

  it('give somebody outside nothing but what the link of a seat of theirs lets them do', () => {
    // What an operation for links can be asked for; everything else needs a member.
    const throughLinks: readonly Act[] = ['see', 'decide', 'comment', 'delegate', 'name', 'askQuestion'];
    let met = 0;
    fc.assert(
      fc.property(scenario, fc.constantFrom(...outsiders), (given, person) => {
        const run = play({ ...given, steps: given.steps.slice(0, 40) });
        const state = run.state as Circulation;
        const subject = {
          kind: 'circulation',
          id: 'this',
          controller: state.controller,
          author: state.author,
          involved: involvedIn(state),
          leads: [],
        } as const;
        for (const { act, on, refusal } of offers(state, contextOf(run.now, person))) {
          if (refusal) continue;
          const comment =
            act === 'resolveComment' || act === 'reopenComment' ? state.comments.get(on ?? '') : undefined;
          if (comment) {
            expect(comment.by).toBe(person);
            continue;
          }
          expect(throughLinks).toContain(act);
          const seat = on === null ? null : (state.seats.get(on) as SeatRun);
          if (seat) expect(acts(state, seat, person, run.now)).toBe(true);
          const link = { kind: 'link', person, circulation: 'this', seat: on ?? '', epoch: seat?.epoch ?? 0 } as const;
          expect(may(link, 'seat.act', subject)).toBe(true);
          for (const action of ['circulation.steer', 'circulation.act', 'circulation.read', 'draft.write'] as const)
            expect(may(link, action, subject)).toBe(false);
          met += 1;
        }
      }),
      { numRuns: runsOf(120) },
    );
    expectMet({ met }, 25);
  });

  /** The commands an offer promises: what it says it needs, filled in sensibly. */
  function commandsOf({ act, on, needs }: Offer, state: Circulation, run: Run): Command[] {
    const seat = on ?? '';
    const later = run.now + 100 * hour;
    const times = { due: needs.timeNeeded ? later : null, closes: null };
    const free = [...crew, ...outsiders].filter((person) => !needs.not?.includes(person));
    const members = free.filter((person) => crew.includes(person));
    const file = newest(state)?.files.find((candidate) => candidate.id === on);
    switch (act) {
      case 'plan':
        return [{ type: 'plan', plan: state.plan, note: `other than ${state.note}`, whole: state.whole }];
      case 'attach':
        return [{ type: 'attach', version: versionOf((newest(state)?.number ?? 0) + 1, 77, run.files) }];
      case 'send':
        return [{ type: act, releasesItself: false }];
      case 'wake':
        return [{ type: act }];
      case 'comment':
        return [
          {
            type: act,
            comment: 'a new one',
            thread: null,
            file: newest(state)?.files[0]?.file ?? '',
            spot: null,
            note: 'w',
          },
        ];
      case 'confirmRound': {
        const basis = {
          type: act,
          basis: needs.basis ?? '',
          times: needs.times ?? [],
        };
        const [left] = needs.leavable ?? [];
        // One person counts once: of two responses of theirs one is kept.
        const kept = new Map(
          needs.lines?.flatMap(({ seat, decision }) => (decision === null ? [] : [[seat, decision]])),
        );
        const twice = countedTwice(state, kept, contextOf(run.now, controller));
        const keep = (needs.keepable ?? []).filter((id) => id !== left && !twice.includes(id));
        return [{ ...basis, keep, leave: [] }, ...(left ? [{ ...basis, keep, leave: [left] }] : [])];
      }
      case 'askQuestion':
        return [{ type: act, question: 'a new one', seat, epoch: needs.epoch ?? 0, note: 'w' }];
      case 'answerQuestion':
        return [{ type: act, question: seat, note: 'w' }];
      case 'pause':
        return [{ type: act, note: null }];
      case 'goOn':
        return [{ type: act }];
      case 'correctAddress':
        return free.filter((person) => outsiders.includes(person)).map((to) => ({ type: act, seat, to, note: 'w' }));
      case 'giveNotice':
        return [
          {
            type: act,
            seat,
            epoch: state.seats.get(seat)?.epoch ?? 0,
            to: 'holder',
            person: '',
            point: run.now + hour,
          },
        ];
      case 'setReminders':
        return [{ type: act, plan: { left: [7], lastMorning: false, controller: false, third: null } }];
      case 'amend':
        return [
          {
            type: act,
            basis: needs.basis ?? '',
            plan: state.plan,
            note: `other than ${state.note}`,
            whole: null,
            version: null,
            reason: null,
          },
        ];
      case 'handControl':
        return members.map((to) => ({ type: act, to, note: null }));
      case 'setEnough':
        return Array.from({ length: needs.most ?? 0 }, (_, i) => ({ type: act, stage: seat, k: i + 1 }));
      case 'withdraw':
        return [{ type: act, note: 'w' }];
      case 'keepFinals':
        return [{ type: act, files: [], identifier: 'i' }];
      case 'complete':
        return [
          {
            type: act,
            revisions: state.records.map((record) => ({ record, revision: 'B' })),
            effective: 1,
            evidence: 'e',
          },
        ];
      case 'putFields':
        // None are others than those that are there, or, where none are, one of somebody who signs.
        return alike(
          state.fields.filter((field) => field.file === seat),
          [],
        ) && state.fieldsOn.has(seat)
          ? []
          : [{ type: act, file: seat, content: file?.file ?? '', fields: [] }];
      case 'keepFrozen':
        // Whether the frozen bytes are of the present content only the freezing itself can know.
        return freezeWanted(state)
          .filter((wanted) => wanted.file === on)
          .map((wanted) => ({ type: act, ...wanted, frozen: 'f' }));
      case 'see':
        return [{ type: act, seat, epoch: needs.epoch ?? 0, scope: needs.scope ?? '' }];
      case 'decide':
        return (needs.outcomes ?? [])
          .filter((outcome) => !needs.unnamed || !isPositive(outcome))
          .map((outcome) => ({
            type: act,
            seat,
            epoch: needs.epoch ?? 0,
            scope: needs.scope ?? '',
            outcome,
            note: needs.reasonFor?.includes(outcome) ? 'w' : null,
            filled: outcome === 'signed' ? (needs.fields ?? []).map((field) => ({ field, value: 'v' })) : [],
            evidence: null,
          }));
      case 'giveFacts':
        return [
          { type: act, facts: { ...state.facts, urgent: { kind: 'yesNo', yes: !state.facts.urgent } }, names: {} },
        ];
      case 'extendWhole':
        return [{ type: act, due: null, closes: run.now + 4321 * hour }];
      case 'take':
      case 'giveBack':
        return [{ type: act, seat, epoch: needs.epoch ?? 0 }];
      case 'name':
        return (needs.names ?? []).flatMap(({ seat: names, not }) =>
          (needs.outside ? outsiders : [...crew, ...outsiders])
            .filter((to) => !not.includes(to))
            .map((to) => ({ type: act, seat, epoch: needs.epoch ?? 0, names, to })),
        );
      case 'agree':
        return [{ type: act, seat, epoch: needs.epoch ?? 0, agreed: false, note: null }];
      case 'endGathering':
        return [{ type: act, stage: seat }];
      case 'delegate':
        return (needs.outside ? free.filter((person) => outsiders.includes(person)) : members).map((to) => ({
          type: act,
          seat,
          epoch: needs.epoch ?? 0,
          to,
          note: null,
        }));
      case 'extend':
        return [{ type: act, seat, due: later, closes: null }];
      case 'askAgain':
        return [{ type: act, seat, ...times }];
      case 'reassign':
        return free.map((person) => ({
          type: act,
          seat,
          to: outsiders.includes(person) ? { kind: 'outside', person } : { kind: 'person', person },
          ...times,
          note: null,
        }));
      case 'addSecondHolder':
        return members.map((person) => ({ type: act, seat, person }));
      case 'dropSecondHolder':
        return (state.seats.get(seat)?.holders ?? [])
          .filter((holder) => holder.via === 'second')
          .map((holder) => ({ type: act, seat, person: holder.person }));
      case 'pass':
        return [{ type: act, seat, note: null }];
      case 'remind':
      case 'copyLink':
        return [{ type: act, seat }];
      case 'setTimes':
        return [{ type: act, stage: seat, due: atInstant(later), closes: null }];
      case 'resolveComment':
      case 'reopenComment':
        return [{ type: act, comment: seat }];
    }
  }
});
