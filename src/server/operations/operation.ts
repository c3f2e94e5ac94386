import type Joi from 'joi';
import type { Action, Actor, Scope, Subject } from '@/core/access/may';
import type { Change, Tx } from '../db/connect';
import type { In, Out, Piece } from './input';

/** What an operation knows of the request besides its input. */
export interface Caller {
  /** The client's address as our own server saw it. */
  readonly address: string;
  readonly agent: string;
  /** By what they are let in. */
  readonly by: Credential;
  /** The page that asks, so that it is not told of what it did itself. */
  readonly page: string | undefined;
  readonly setCookie: (cookie: Cookie) => void;
}

/**
 * By what somebody is let in: the cookie of a session, the handle of a link with the code in its cookie, or a token (RFC
 * 6750) that stands for a person within its scopes. Made at the edge, and nowhere else.
 */
export type Credential =
  | { readonly kind: 'session'; readonly secret: string | undefined }
  | { readonly kind: 'link'; readonly handle: string; readonly secret: string | undefined }
  | { readonly kind: 'token'; readonly secret: string };

/** The cookie of a caller's session; undefined where they have none. */
export function sessionOf({ by }: Pick<Caller, 'by'>): string | undefined {
  return by.kind === 'session' ? by.secret : undefined;
}

export interface Cookie {
  readonly name: string;
  readonly value: string;
  readonly path: string;
  /** Seconds; 0 removes it. */
  readonly maxAge: number;
}

/** What must hold before an operation runs: an action of the table of rights, and to what. Null: there is no such thing. */
export interface Claim {
  readonly action: Action;
  readonly subject: Subject;
  /** Refuses it in other words to whom it concerned before: they know that it exists. */
  readonly refuseFormer?: () => Promise<void>;
}

export type Member = Extract<Actor, { kind: 'member' }>;
export type LinkActor = Extract<Actor, { kind: 'link' }>;
type ActorOf = { readonly member: Member; readonly link: LinkActor };

// biome-ignore lint/suspicious/noExplicitAny: any input piece, whatever its types
type AnyPiece = Piece<any, any>;

/** Commands change something and are applied once per command id; queries only look. */
type Kind = 'command' | 'query';

/** What makes an operation public: programs may put it by a token of this scope, and its answer keeps to a schema. */
export interface Public {
  readonly scope: Scope;
  /** Raised when the schema changes in a way that a program must know of. */
  readonly version: number;
  readonly answer: Joi.Schema;
}

interface Common<N extends string, P extends AnyPiece> {
  readonly name: N;
  readonly kind: Kind;
  readonly input: P;
  /** The largest body in bytes; otherwise what is usual for who may call. */
  readonly limit?: number;
  readonly public?: Public;
  /** What others may be told has changed; telling of anything else is a fault. */
  readonly changes?: readonly Change['topic'][];
}

/** An operation inside one organization, run in its transaction. `prepare` runs before it, once rights were checked. */
export interface InsideOperation<
  W extends 'member' | 'link' = 'member' | 'link',
  N extends string = string,
  P extends AnyPiece = AnyPiece,
  O = unknown,
  Prepared = unknown,
> extends Common<N, P> {
  readonly who: W;
  readonly claim: (tx: Tx, input: Out<P>, actor: ActorOf[W]) => Promise<Claim | null> | Claim | null;
  /** What has to be durable before the transaction begins: a number that is taken, a file that is made. */
  readonly prepare?: (organization: string, input: Out<P>, actor: ActorOf[W]) => Promise<Prepared>;
  readonly run: (tx: Tx, input: Out<P>, actor: ActorOf[W], caller: Caller, prepared: Prepared) => Promise<O>;
}

/** An operation before anybody is known: signing in and setting up. It opens its own transactions. */
interface AnyoneOperation<N extends string = string, P extends AnyPiece = AnyPiece, O = unknown> extends Common<N, P> {
  readonly who: 'anyone';
  /** Why it needs no right: said here, because a rights test asks every operation. */
  readonly open: string;
  readonly run: (input: Out<P>, caller: Caller) => Promise<O>;
}

export type Operation = InsideOperation<'member'> | InsideOperation<'link'> | AnyoneOperation;

/** Declares an operation of members. Its input's type is its schema's, its output what `run` gives. */
export function memberOperation<
  const N extends string,
  const K extends Kind,
  P extends AnyPiece,
  O,
  Prepared = undefined,
>(spec: Omit<InsideOperation<'member', N, P, O, Prepared>, 'who' | 'kind'> & { readonly kind: K }) {
  return { ...spec, who: 'member' as const };
}

/** Declares an operation of people outside, through the link of their seat. */
export function linkOperation<const N extends string, const K extends Kind, P extends AnyPiece, O>(
  spec: Omit<InsideOperation<'link', N, P, O, undefined>, 'who' | 'kind'> & { readonly kind: K },
) {
  return { ...spec, who: 'link' as const };
}

export function anyoneOperation<const N extends string, const K extends Kind, P extends AnyPiece, O>(
  spec: Omit<AnyoneOperation<N, P, O>, 'who' | 'kind'> & { readonly kind: K },
) {
  return { ...spec, who: 'anyone' as const };
}

/** What callers see of an operation: its name, what it takes and what it gives. */
type Signature<O> = O extends {
  readonly name: infer N;
  readonly kind: infer K;
  readonly who: infer W;
  readonly input: infer P extends AnyPiece;
  readonly run: (...args: never[]) => Promise<infer V>;
}
  ? { readonly name: N; readonly kind: K; readonly who: W; readonly input: In<P>; readonly output: V }
  : never;

/** The contract of a list of operations, by name. */
export type ContractOf<L extends readonly unknown[]> = {
  readonly [S in Signature<L[number]> as S['name'] & string]: S;
};

/** The claim of an operation on what belongs to the whole organization. */
export function inGeneral(action: Action) {
  return (): Claim => ({ action, subject: { kind: 'organization' } });
}
