/** Brings the data of an event from one version of its type to the next. */
export type Lift = (data: unknown) => unknown;

/** The kinds of event that are read: for each the version it is written in now, and how older ones are lifted. */
interface Reading {
  readonly versions: Readonly<Record<string, number>>;
  /** For each type the lifts from version 1 to 2, from 2 to 3, and so on. */
  readonly lifts: Readonly<Record<string, readonly Lift[]>>;
}

/**
 * The data of an event as its type is written now, lifted from whatever version they are kept in. What is kept, and its
 * hash, stays as it is. Throws on a type that is not known and on a version from the future.
 */
export function lifted(reading: Reading, type: string, version: number, data: unknown): unknown {
  const present = reading.versions[type];
  if (present === undefined || version > present || version < 1)
    throw new Error(`unknown event ${type} version ${version}`);
  let current = data;
  for (let from = version; from < present; from += 1) {
    const lift = reading.lifts[type]?.[from - 1];
    if (!lift) throw new Error(`event ${type} cannot be lifted from version ${from}`);
    current = lift(current);
  }
  return current;
}
