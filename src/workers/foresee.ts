import { bareContext, type Context } from '@/core/circulation/run/context';
import type { Surroundings } from '@/core/forecast/compile';
import type { Forecast, Tracking } from '@/core/forecast/forecast';
import { foreseen, plannedCourse, type Saving, savingOf, type Variant } from '@/core/forecast/variants';

/** How often each variant is played. */
const runs = 1000;

/** A plan to be foreseen, and the one beside which it is looked at. */
export interface Foresight {
  readonly variant: Variant;
  readonly beside: Variant | null;
  readonly context: Partial<Context> & Pick<Context, 'now'>;
  readonly model: Surroundings['model'];
  readonly tracking: Tracking;
}

export interface ForesightAnswer {
  readonly forecast: Forecast;
  readonly saving: Saving | null;
}

self.addEventListener('message', ({ data }: MessageEvent<Foresight>) => {
  const { variant, beside, model, tracking } = data;
  const context = { ...bareContext(data.context.now, variant.controller), ...data.context };
  // Other people's figures never come here: how long somebody takes is what everybody takes for such work.
  const around = { context, model, open: null };
  const now = foreseen(variant, around, tracking, runs);
  const saving = beside ? savingOf(plannedCourse(beside, around).course, now.course, now.home, runs) : null;
  self.postMessage({ forecast: now.forecast, saving } satisfies ForesightAnswer);
});
