import { listen } from '../db/connect';

type Hear = (hint: string) => void;

interface Hub {
  readonly ears: Map<string, Set<Hear>>;
  /** What each organization was told lately, and when; both oldest first. */
  readonly recent: Map<string, Map<string, number>>;
  started: Promise<unknown> | null;
}
// One listening connection a process, however many copies of this module a bundler makes.
const scope = globalThis as { avendaHub?: Hub };
scope.avendaHub ??= { ears: new Map(), recent: new Map(), started: null };
const hub = scope.avendaHub;

/** How long a page may take from its first question until it hears; a hint from that time is told when it begins to. */
const latelyMs = 30_000;
const most = 500;

function forgetOld(told: Map<string, number>, now: number): void {
  for (const [hint, at] of told) {
    if (now - at < latelyMs) return;
    told.delete(hint);
  }
}

function tell(organization: string, hint: string): void {
  const at = performance.now();
  const told = hub.recent.get(organization) ?? new Map<string, number>();
  // What is told again moves to the end, so that what is over always stands first.
  told.delete(hint);
  told.set(hint, at);
  forgetOld(told, at);
  if (told.size > most) {
    told.clear();
    told.set('everything', at);
  }
  hub.recent.delete(organization);
  for (const [known, hints] of hub.recent) {
    forgetOld(hints, at);
    if (hints.size > 0) break;
    hub.recent.delete(known);
  }
  hub.recent.set(organization, told);
  for (const ear of hub.ears.get(organization) ?? []) ear(hint);
}

/**
 * Hears the hints of one organization until the function it gives is called: first those of the last half minute,
 * because a page asks its questions before it hears.
 */
export async function subscribe(organization: string, hear: Hear): Promise<() => void> {
  const first = !hub.started;
  hub.started ??= listen(
    'avenda_change',
    (payload) => {
      const space = payload.indexOf(' ');
      tell(payload.slice(0, space), payload.slice(space + 1));
    },
    () => {
      for (const known of hub.ears.keys()) tell(known, 'everything');
    },
  ).catch((error) => {
    // The next one who wants to hear tries again.
    hub.started = null;
    throw error;
  });
  await hub.started;
  const ears = hub.ears.get(organization) ?? new Set();
  ears.add(hear);
  hub.ears.set(organization, ears);
  // Nobody listened here before the first one came, so nobody knows what was told.
  if (first) hear('everything');
  const now = performance.now();
  for (const [hint, at] of hub.recent.get(organization) ?? []) if (now - at < latelyMs) hear(hint);
  return () => {
    ears.delete(hear);
    if (ears.size === 0) hub.ears.delete(organization);
  };
}
