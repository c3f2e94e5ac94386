'use client';

import type { RefusalCode } from '@/core/refusals';
import type { Contract as ServerContract } from '@/server/operations/registry';
import type { SimulatorContract } from '@/simulators/operations';

/** Every operation there is, as callers are checked against it. Types only: they vanish in the build. */
type Contract = ServerContract & SimulatorContract;
export type QueryName = { [N in keyof Contract]: Contract[N]['kind'] extends 'query' ? N : never }[keyof Contract];
export type CommandName = { [N in keyof Contract]: Contract[N]['kind'] extends 'command' ? N : never }[keyof Contract];
export type InputOf<N extends keyof Contract> = Contract[N]['input'];
export type OutputOf<N extends keyof Contract> = Contract[N]['output'];

/** The input of an operation as an argument: it may be left out where nothing is needed. */
export type InputArgument<N extends keyof Contract> =
  object extends InputOf<N> ? [input?: InputOf<N>] : [input: InputOf<N>];

/** A refusal as the server says it: a sentence for the person, a code and facts for the page. */
export class Refusal extends Error {
  constructor(
    /** A code of the catalogue, or that there was no answer. */
    readonly code: RefusalCode | 'offline',
    sentence: string,
    readonly facts: Readonly<Record<string, unknown>>,
    readonly status: number,
  ) {
    super(sentence);
  }
}

/** This page, so that it is not told of what it did itself. */
export const pageId = Math.random().toString(36).slice(2);

const offline = 'There is no connection to Avenda just now. What you typed is kept; try again in a moment.';

interface Body {
  readonly ok: boolean;
  readonly value?: unknown;
  readonly changed?: readonly string[];
  readonly refusal?: {
    readonly code: RefusalCode;
    readonly sentence: string;
    readonly facts: Readonly<Record<string, unknown>>;
  };
}

async function answered(response: Response): Promise<Body> {
  let body: Body;
  try {
    body = await response.json();
  } catch {
    throw new Refusal('fault', offline, {}, response.status);
  }
  if (body.ok) return body;
  const refusal = body.refusal ?? ({ code: 'fault', sentence: offline, facts: {} } as const);
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
export async function ask<N extends QueryName>(name: N, input: InputOf<N>, base = ''): Promise<OutputOf<N>> {
  const request = () =>
    fetch(`${base}/ask/${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(input),
    });
  return (await answered(await reached(request))).value as OutputOf<N>;
}

/** What a command gives, and what it has changed. */
export interface Told<N extends CommandName> {
  readonly value: OutputOf<N>;
  readonly changed: readonly string[];
}

/**
 * Puts a command. The id makes a second try after a lost answer the same command, not another one. With `keepalive` a
 * short one is still sent when the page is being left.
 */
export async function tell<N extends CommandName>(
  name: N,
  input: InputOf<N>,
  { base = '', id = crypto.randomUUID(), keepalive = false }: { base?: string; id?: string; keepalive?: boolean } = {},
): Promise<Told<N>> {
  const body = JSON.stringify({ ...(input as object), commandId: id });
  const send = () =>
    fetch(`${base}/do/${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-page': pageId },
      body,
      // Browsers refuse more than 64 kB in requests that outlive their page.
      keepalive: keepalive && body.length < 60_000,
    });
  const { value, changed = [] } = await answered(await reached(send));
  return { value: value as OutputOf<N>, changed };
}

export interface Uploaded {
  readonly file: string;
  readonly name: string;
  readonly bytes: number;
  readonly mediaType: string;
  readonly notices: readonly string[];
  readonly noFields: string | null;
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
