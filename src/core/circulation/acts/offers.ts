import type { Refusal } from '../../refusals';
import type { Context } from '../run/context';
import { type Circulation, documentsOf, newest } from '../run/state';
import type { ActOn, Needs, On, Targets } from './act';
import { acts } from './acts';
import type { Act } from './commands';
import { caughtUp } from './decide';

/** One act that this actor may do now, or the refusal it would meet. `on` is the seat, stage, file, question or comment. */
export interface Offer {
  readonly act: Act;
  readonly on: string | null;
  readonly refusal: Refusal | null;
  readonly needs: Needs;
}

/** What there is to act on, by kind, each with its id. */
const targetsIn: { readonly [K in On]: (state: Circulation) => readonly (readonly [string | null, Targets[K]])[] } = {
  whole: () => [[null, null]],
  file: (state) => {
    const version = newest(state);
    return version ? documentsOf(version).map(({ id }) => [id, id]) : [];
  },
  seat: ({ seats }) => [...seats.values()].filter(({ gone }) => !gone).map((seat) => [seat.id, seat]),
  stage: ({ stages }) => [...stages.values()].filter(({ gone }) => !gone).map((stage) => [stage.id, stage]),
  question: ({ questions }) => [...questions.values()].map((question) => [question.id, question]),
  comment: ({ comments }) => [...comments.values()].filter(({ thread }) => !thread).map((own) => [own.id, own]),
};

/** The acts by what they are done to. */
const kinds = (Object.keys(targetsIn) as On[]).map((on) => ({
  on,
  acts: (Object.keys(acts) as Act[]).flatMap((act) =>
    acts[act].on === on ? [[act, acts[act] as ActOn<On>] as const] : [],
  ),
}));

/** Everything this actor may do now, each with what it needs, and everything else with the reason why not. */
export function offers(given: Circulation, context: Context): Offer[] {
  const now = Math.max(context.now, given.last);
  const at = { ...context, now };
  const state = caughtUp(given, at);
  if (state.ended !== null) return [];
  return kinds.flatMap(({ on: kind, acts: own }) =>
    targetsIn[kind](state).flatMap(([on, target]) =>
      own.map(([act, { guard, needs }]) => {
        const refusal = guard(state, at, target);
        return { act, on, refusal, needs: refusal ? {} : (needs?.(state, at, target) ?? {}) };
      }),
    ),
  );
}

/** The offers among them, without what is refused. */
export function allowed(all: readonly Offer[]): Offer[] {
  return all.filter((offer) => offer.refusal === null);
}
