import { assign, createActor, setup } from 'xstate';
import type { CirculationEvent } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import type { Circulation } from '@/core/circulation/run/state';
import { drawsFrom, finish, hash, randomCommand, randomRoute, sentRun, step } from '../properties/arbitrary';

/** Events of long circulations, as the engine itself made them. */
function eventStreams(count: number): CirculationEvent[][] {
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

/** One circulation with comments and reminders up to so many events: what a stream grows by while nobody decides. */
export function longStream(events: number): CirculationEvent[] {
  const run = sentRun(randomRoute(drawsFrom(7), 12));
  const asked = [...(run.state as Circulation).seats.values()].find((seat) => seat.status === 'asked');
  const file = run.state?.versions[0]?.files[0]?.file ?? '';
  const note = { type: 'comment', comment: 'first', thread: null, file, spot: null, note: hash(5) } as const;
  step(run, note, 'ines', 1000);
  step(run, { type: 'remind', seat: asked?.id ?? '' }, 'ines', 1000);
  const grown = run.events.slice();
  const [comment, reminder] = grown.slice(-2);
  if (comment?.type !== 'comment.made' || reminder?.type !== 'seat.reminded')
    throw new Error('the stream did not grow');
  for (let n = 0; grown.length < events; n += 1)
    grown.push(
      n % 2 === 0
        ? { ...comment, at: reminder.at + n, data: { ...comment.data, comment: `c${n}` } }
        : { ...reminder, at: reminder.at + n },
    );
  return grown;
}

/** Runs `work`, which does so many `things`, and gives how many it does a second. */
function rate(things: number, work: () => void): number {
  const began = process.hrtime.bigint();
  work();
  return things / (Number(process.hrtime.bigint() - began) / 1e9);
}

/** A measurement of events folded a second by the engine. */
export function foldingRate(): () => number {
  const streams = eventStreams(40);
  const events = streams.reduce((sum, stream) => sum + stream.length, 0);
  const times = 5;
  return () =>
    rate(events * times, () => {
      for (let i = 0; i < times; i += 1)
        for (const stream of streams) if (!fold(stream)) throw new Error('an empty fold');
    });
}

/**
 * A measurement of the transitions a second of an actor of the state machine library `xstate` on a machine of the same shape: forty seats
 * as parallel regions, each idle, asked, decided and asked again in the next round, with who and when assigned.
 */
export function actorRate(): () => number {
  const seat = (i: number) => ({
    initial: 'idle',
    states: {
      idle: { on: { [`ask${i}`]: { target: 'asked', actions: 'put' as const } } },
      asked: { on: { [`decide${i}`]: { target: 'decided', actions: 'put' as const } } },
      decided: { on: { [`ask${i}`]: { target: 'asked', actions: 'put' as const } } },
    },
  });
  const machine = setup({
    types: { context: {} as { seats: { at: number }[] }, events: {} as { type: string; seat: number; at: number } },
    actions: {
      put: assign({
        seats: ({ context, event }) => context.seats.map((own, i) => (i === event.seat ? { at: event.at } : own)),
      }),
    },
  }).createMachine({
    type: 'parallel',
    context: { seats: Array.from({ length: 40 }, () => ({ at: 0 })) },
    states: Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`seat${i}`, seat(i)])),
  });
  const transitions = 4000;
  return () =>
    rate(transitions, () => {
      const actor = createActor(machine).start();
      for (let i = 0; i < transitions; i += 1) {
        const own = (i >> 1) % 40;
        actor.send({ type: `${i % 2 === 0 ? 'ask' : 'decide'}${own}`, seat: own, at: i });
      }
      if (!actor.getSnapshot().matches({ seat0: 'decided' })) throw new Error('the actor stands elsewhere');
      actor.stop();
    });
}
