import { hash, verify } from '@node-rs/argon2';
import { refuse } from '../refused';

/** argon2id (RFC 9106) with the parameters of its second recommendation; about 60 ms and 64 MB each. */
const parameters = { memoryCost: 65_536, timeCost: 3, parallelism: 1 } as const;

// Few at a time, so that a burst of sign-ins cannot take all memory, and no endless queue behind them.
const atOnce = 4;
const mostWaiting = 64;
let busy = 0;
const waiting: (() => void)[] = [];

async function inTurn<T>(work: () => Promise<T>): Promise<T> {
  if (busy >= atOnce) {
    if (waiting.length >= mostWaiting) refuse('busy');
    await new Promise<void>((resolve) => waiting.push(resolve));
  }
  busy += 1;
  try {
    return await work();
  } finally {
    busy -= 1;
    waiting.shift()?.();
  }
}

/** The form in which a password is compared (RFC 8265, OpaqueString): spaces of any kind alike, Normalization Form C. */
function passwordForm(password: string): string {
  return password.replace(/\p{Zs}/gu, ' ').normalize('NFC');
}

export function hashPassword(password: string): Promise<string> {
  return inTurn(() => hash(passwordForm(password), parameters));
}

// A hash that no password has, so that an unknown address takes as long to refuse as a wrong password.
let nobody: Promise<string> | null = null;

/** Whether the password is the one that was hashed; false for people without one, after the same work. */
export async function passwordFits(hashed: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword(`${Math.random()}`);
  const against = hashed ?? (await nobody);
  const fits = await inTurn(() => verify(against, passwordForm(password)));
  return hashed !== null && fits;
}
