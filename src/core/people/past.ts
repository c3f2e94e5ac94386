import type { Instant } from '../time/instant';

/** How somebody was called, and what they were, until a moment. */
export interface Past {
  readonly person: string;
  readonly until: Instant;
  readonly name: string;
  readonly work: string;
  readonly company: string;
}

/** What was true of a person at a moment, where it has changed since; null where today's words still hold. */
export function pastAt(past: readonly Past[], person: string, at: Instant): Past | null {
  let found: Past | null = null;
  for (const entry of past)
    if (entry.person === person && at < entry.until && (found === null || entry.until < found.until)) found = entry;
  return found;
}
