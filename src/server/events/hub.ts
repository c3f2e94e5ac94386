import { listen } from '../db/connect';

type Hear = (hint: string) => void;

interface Hub {
  readonly ears: Map<string, Set<Hear>>;
  started: Promise<unknown> | null;
}
// One listening connection a process, however many copies of this module a bundler makes.
const scope = globalThis as { avendaHub?: Hub };
scope.avendaHub ??= { ears: new Map(), started: null };
const hub = scope.avendaHub;

/** Hears the hints of one organization until the function it gives is called. */
export async function hearHints(organization: string, hear: Hear): Promise<() => void> {
  hub.started ??= listen(
    'avenda_hint',
    (payload) => {
      const space = payload.indexOf(' ');
      for (const ear of hub.ears.get(payload.slice(0, space)) ?? []) ear(payload.slice(space + 1));
    },
    () => {
      for (const ears of hub.ears.values()) for (const ear of ears) ear('everything');
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
  return () => {
    ears.delete(hear);
    if (ears.size === 0) hub.ears.delete(organization);
  };
}
