/** Ends a switch over a union: whoever adds a case is led here by the compiler, and what comes from elsewhere is a fault. */
export function unreachable(value: never, what: string): never {
  throw new Error(`nobody knows the ${what} ${JSON.stringify(value)}`);
}
