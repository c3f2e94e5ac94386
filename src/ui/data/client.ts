'use client';

/** A refusal as the server says it: a sentence for the person, a code and facts for the page. */
export class Refusal extends Error {
  constructor(
    readonly code: string,
    sentence: string,
    readonly facts: Readonly<Record<string, unknown>>,
    readonly status: number,
  ) {
    super(sentence);
  }
}

const offline = 'There is no connection to Avenda just now. What you typed is kept; try again in a moment.';

async function answered<T>(response: Response): Promise<T> {
  let body: { ok: boolean; value?: T; refusal?: { code: string; sentence: string; facts: Record<string, unknown> } };
  try {
    body = await response.json();
  } catch {
    throw new Refusal('fault', offline, {}, response.status);
  }
  if (body.ok) return body.value as T;
  const refusal = body.refusal ?? { code: 'fault', sentence: offline, facts: {} };
  if (response.status === 401 && !location.pathname.startsWith('/sign')) {
    location.assign(`/sign-in?to=${encodeURIComponent(location.pathname + location.search)}`);
  }
  throw new Refusal(refusal.code, refusal.sentence, refusal.facts, response.status);
}

async function reached(request: () => Promise<Response>): Promise<Response> {
  try {
    return await request();
  } catch {
    throw new Refusal('offline', offline, {}, 0);
  }
}

/** Asks a question. `base` is the path of a link for people without an account. */
export async function ask<T>(name: string, input: object = {}, base = ''): Promise<T> {
  const query = new URLSearchParams({ input: JSON.stringify(input) });
  return answered<T>(
    await reached(() => fetch(`${base}/ask/${name}?${query}`, { headers: { accept: 'application/json' } })),
  );
}

/**
 * Puts a command. The id makes a second try after a lost answer the same command, not another one. With `keepalive` a
 * short one is still sent when the page is being left.
 */
export async function tell<T>(
  name: string,
  input: object = {},
  { base = '', id = crypto.randomUUID(), keepalive = false }: { base?: string; id?: string; keepalive?: boolean } = {},
): Promise<T> {
  const body = JSON.stringify({ ...input, commandId: id });
  const send = () =>
    fetch(`${base}/do/${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body,
      // Browsers refuse more than 64 kB in requests that outlive their page.
      keepalive: keepalive && body.length < 60_000,
    });
  return answered<T>(await reached(send));
}

export interface Uploaded {
  readonly file: string;
  readonly name: string;
  readonly bytes: number;
  readonly mediaType: string;
}

/** Sends a file with real progress (0 to 1). */
export function upload(file: File, progress: (share: number) => void): Promise<Uploaded> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/files?${new URLSearchParams({ name: file.name })}`);
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (event) => event.lengthComputable && progress(event.loaded / event.total);
    request.onerror = () => reject(new Refusal('offline', offline, {}, 0));
    request.onload = () => {
      try {
        const body = JSON.parse(request.responseText);
        if (body.ok) resolve({ ...body.value, name: file.name });
        else reject(new Refusal(body.refusal.code, body.refusal.sentence, body.refusal.facts, request.status));
      } catch {
        reject(new Refusal('fault', offline, {}, request.status));
      }
    };
    request.send(file);
  });
}
