import { type Axis, addWorking, nextWorking, workingBetween } from './calendar';
import type { Instant } from './instant';

/** From one instant up to another. */
export interface Span {
  readonly from: Instant;
  readonly to: Instant;
}

/** When somebody works: a calendar on their clock, without the spans in which they are away; those lie in order, apart. */
export interface Presence {
  readonly axis: Axis;
  readonly away: readonly Span[];
}

/** The presence of somebody on an axis, whatever spans of absence are given. */
export function presenceOf(axis: Axis, spans: readonly Span[]): Presence {
  const away: Span[] = [];
  for (const span of spans.slice().sort((a, b) => a.from - b.from)) {
    const last = away[away.length - 1];
    if (span.to <= span.from) continue;
    if (last && span.from <= last.to) away[away.length - 1] = { from: last.from, to: Math.max(last.to, span.to) };
    else away.push(span);
  }
  return { axis, away };
}

/** Milliseconds that somebody works between two instants, the second no earlier than the first. */
export function presentBetween({ axis, away }: Presence, from: Instant, to: Instant): number {
  let work = workingBetween(axis, from, to);
  for (const span of away)
    if (span.from < to && from < span.to)
      work -= workingBetween(axis, Math.max(from, span.from), Math.min(to, span.to));
  return work;
}

/** The first instant at which somebody has worked `work` milliseconds since `from`; null where that never comes. */
export function addPresent(presence: Presence, from: Instant, work: number): Instant | null {
  if (work <= 0) return from;
  let at: Instant = from;
  let left = work;
  for (const span of presence.away) {
    if (span.to <= at) continue;
    const before = workingBetween(presence.axis, at, Math.max(at, span.from));
    if (before >= left) break;
    left -= before;
    at = Math.max(at, span.to);
  }
  return addWorking(presence.axis, at, left);
}

/** The first instant at or after another at which somebody works; null where none comes. */
export function nextPresent({ axis, away }: Presence, from: Instant): Instant | null {
  let at = nextWorking(axis, from);
  for (const span of away) {
    if (at === null) return null;
    if (span.from <= at && at < span.to) at = nextWorking(axis, span.to);
  }
  return at;
}

/** Whether somebody works at an instant. */
export function isPresent(presence: Presence, at: Instant): boolean {
  return nextPresent(presence, at) === at;
}
