import { freshRuns } from '../circulation/run/runs';
import type { Facts } from '../route/facts';
import type { Series } from '../route/route';
import type { Instant } from '../time/instant';
import { courseOf, type Surroundings } from './compile';
import type { Course } from './course';
import { atShare, type Forecast, forecastOf, type Tracking } from './forecast';
import { simulate } from './simulate';
import type { Ticks } from './ticks';

/** A route that nobody has been sent along yet, as it would be sent now. */
export interface Variant {
  readonly plan: Series;
  readonly facts: Facts;
  readonly due: Instant | null;
  readonly author: string;
  readonly controller: string;
}

/** What is known of a variant once it was played. */
interface Foreseen {
  readonly forecast: Forecast;
  readonly course: Course;
  readonly home: Ticks;
}

/** What a variant saves beside another, in quarter hours of the organization's working time; less than nothing is a loss. */
export interface Saving {
  readonly median: number;
  /** Between these lie eight of ten cases. */
  readonly low: number;
  readonly high: number;
  /** In how many per cent of cases it is done earlier; in how many later. */
  readonly gains: number;
  readonly loses: number;
}

/** The course of a route as it would be sent at the context's moment. */
export function plannedCourse({ plan, facts, author, controller }: Variant, around: Surroundings) {
  return courseOf(
    {
      ...freshRuns(plan),
      plan,
      facts,
      factNames: {},
      author,
      controller,
      phase: 'running',
      rework: null,
      decisions: [],
      last: around.context.now,
      releasesItself: false,
    },
    around,
  );
}

/** The forecast of a route as it would be sent at the context's moment. */
export function foreseen(variant: Variant, around: Surroundings, tracking: Tracking, runs: number): Foreseen {
  const { course, home } = plannedCourse(variant, around);
  const reading = { now: around.context.now, due: variant.due, tracking, home, runs };
  return { course, home, forecast: forecastOf(course, reading) };
}

/**
 * What `after` saves beside `before`, subtracted run by run: what is the same in both draws the same, so that a sure saving
 * is sure.
 */
export function savingOf(before: Course, after: Course, { workAt }: Ticks, runs: number): Saving {
  const [was, is] = [simulate(before, runs).ends, simulate(after, runs).ends];
  const saved = was.map((end, run) => (workAt[end] as number) - (workAt[is[run] as number] as number)).sort();
  const percent = (holds: (saving: number) => boolean) => Math.round((100 * saved.filter(holds).length) / runs);
  return {
    median: atShare(saved, 0.5),
    low: atShare(saved, 0.1),
    high: atShare(saved, 0.9),
    gains: percent((saving) => saving > 0),
    loses: percent((saving) => saving < 0),
  };
}
