'use client';

/** Reads what this device kept under a key; null when there is nothing, or nothing that can be read. */
export function readDevice<T>(key: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null') as T | null;
  } catch {
    return null;
  }
}

/** Keeps a value on this device, or forgets it (null). A device that has no room keeps nothing and says nothing. */
export function keepOnDevice(key: string, value: unknown): void {
  try {
    if (value === null) localStorage.removeItem(key);
    else localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // What cannot be kept is still there until the page is left.
  }
}
