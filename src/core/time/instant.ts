/** An instant in whole milliseconds since 1970, UTC. */
export type Instant = number;
