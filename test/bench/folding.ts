import { assign, createActor, setup } from 'xstate';
import type { CirculationEvent } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import type { Circulation } from '@/core/circulation/state';
import { drawsFrom, finish, randomCommand, randomRoute, sentRun, step } from '../properties/arbitrary';

/** Events of long circulations, as the engine itself made them. */
export function eventStreams(count: number): CirculationEvent[][] {
  const streams: CirculationEvent[][] = [];
  for (let seed = 1; streams.length < count; seed += 1) {
    const draws = drawsFrom(seed);
    const run = sentRun(randomRoute(draws, 40));
    for (let i = 0; i < 150; i += 1) {
      const { command, actor } = randomCommand(draws, run.state as Circulation);
      step(run, command, actor, 1000);
    }
    finish(run);
    streams.push(run.events);
  }
  return streams;
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;

/** Runs `work` several times and gives how many `things` a second it does, at the median. */
export function rate(things: number, work: () => void, times = 7): number {
  const seconds: number[] = [];
  work();
  for (let i = 0; i < times; i += 1) {
    const began = process.hrtime.bigint();
    work();
    seconds.push(Number(process.hrtime.bigint() - began) / 1e9);
  }
  return things / median(seconds);
}

/** Events folded a second by the engine. */
export function foldingRate(): number {
  const streams = eventStreams(40);
  const events = streams.reduce((sum, stream) => sum + stream.length, 0);
  return rate(events, () => {
    for (const stream of streams) if (!fold(stream)) throw new Error('an empty fold');
  });
}

/**
 * Transitions a second of an actor of the state machine library `xstate` on a machine of the same shape but less work:
 * one seat asked, decided and asked again, with its data assigned at every step.
 */
export function actorRate(): number {
  const machine = setup({
    types: {
      context: {} as { seats: { status: string; at: number }[] },
      events: {} as { type: 'ask' | 'decide'; seat: number; at: number },
    },
    actions: {
      put: assign({
        seats: ({ context, event }) =>
          context.seats.map((seat, i) => (i === event.seat ? { status: event.type, at: event.at } : seat)),
      }),
    },
  }).createMachine({
    context: { seats: Array.from({ length: 40 }, () => ({ status: 'idle', at: 0 })) },
    initial: 'idle',
    states: {
      idle: { on: { ask: { target: 'asked', actions: 'put' } } },
      asked: { on: { decide: { target: 'idle', actions: 'put' } } },
    },
  });
  const transitions = 4000;
  return rate(transitions, () => {
    const actor = createActor(machine).start();
    for (let i = 0; i < transitions; i += 1) actor.send({ type: i % 2 === 0 ? 'ask' : 'decide', seat: i % 40, at: i });
    if (actor.getSnapshot().value !== 'idle') throw new Error('the actor stands elsewhere');
    actor.stop();
  });
}
