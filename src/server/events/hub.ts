import { listen } from '../db/connect';

type Hear = (hint: string) => void;

interface Told {
  readonly at: number;
  readonly hint: string;
}

interface Hub {
  readonly ears: Map<string, Set<Hear>>;
  /** What each organization was told lately, oldest first. */
  readonly recent: Map<string, Told[]>;
  started: Promise<unknown> | null;
}
// One listening connection a process, however many copies of this module a bundler makes.
const scope = globalThis as { avendaHub?: Hub };
scope.avendaHub ??= { ears: new Map(), recent: new Map(), started: null };
const hub = scope.avendaHub;

/** How long a page may take from its first question until it hears; a hint from that time is told when it begins to. */
const latelyMs = 30_000;
const most = 500;

function tell(organization: string, hint: string): void {
  const at = performance.now();
  const recent = (hub.recent.get(organization) ?? []).filter((told) => at - told.at < latelyMs && told.hint !== hint);
  recent.push({ at, hint });
  // Whoever was told last stands last, so what is over stands first.
  hub.recent.delete(organization);
  for (const [known, list] of hub.recent) {
    if (at - (list[list.length - 1] as Told).at < latelyMs) break;
    hub.recent.delete(known);
  }
  hub.recent.set(organization, recent.length > most ? [{ at, hint: 'everything' }] : recent);
  for (const ear of hub.ears.get(organization) ?? []) ear(hint);
}

/**
 * Hears the hints of one organization until the function it gives is called: first those of the last half minute,
 * because a page asks its questions before it hears.
 */
export async function hearHints(organization: string, hear: Hear): Promise<() => void> {
  const first = !hub.started;
  hub.started ??= listen(
    'avenda_hint',
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
  for (const told of hub.recent.get(organization) ?? []) if (now - told.at < latelyMs) hear(told.hint);
  return () => {
    ears.delete(hear);
    if (ears.size === 0) hub.ears.delete(organization);
  };
}
