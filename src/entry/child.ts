/** Reads the task that the parent hands over as JSON on standard input. */
export async function readTask<T>(): Promise<T> {
  const pieces: Buffer[] = [];
  for await (const piece of process.stdin) pieces.push(piece as Buffer);
  return JSON.parse(Buffer.concat(pieces).toString()) as T;
}
