import type Joi from 'joi';
import type { Action, Actor, Subject } from '@/core/access/may';
import type { Tx } from '../db/connect';

/** What an operation knows of the request besides its input. */
export interface Caller {
  /** The client's address as our own server saw it. */
  readonly address: string;
  readonly agent: string;
  readonly sessionCookie: string | undefined;
  /** The handle of the link, for operations of outside people. */
  readonly handle: string | null;
  readonly setCookie: (cookie: Cookie) => void;
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
}

interface Common<I> {
  readonly name: string;
  /** Commands change something and are applied once per command id; queries only look. */
  readonly kind: 'command' | 'query';
  readonly input: Joi.ObjectSchema<I>;
}

/** An operation inside one organization, run in its transaction. */
export interface InsideOperation<I, O> extends Common<I> {
  readonly where: 'member' | 'link';
  readonly access: (tx: Tx, actor: Actor, input: I) => Promise<Claim | null> | Claim | null;
  readonly run: (tx: Tx, input: I, actor: Actor, caller: Caller) => Promise<O>;
}

/** An operation before anybody is known: signing in and setting up. It opens its own transactions. */
export interface OutsideOperation<I, O> extends Common<I> {
  readonly where: 'door';
  /** Why it needs no right: said here, because a rights test asks every operation. */
  readonly open: string;
  readonly run: (input: I, caller: Caller) => Promise<O>;
}

export type Operation<I = unknown, O = unknown> = InsideOperation<I, O> | OutsideOperation<I, O>;

/** Declares an operation; its input's type is its schema's. */
export function operation<I, O>(spec: Operation<I, O>): Operation {
  return spec as Operation;
}

/** The person who acts, where only a person can. */
export function personOf(actor: Actor): string {
  if (actor.kind === 'member' || actor.kind === 'link') return actor.person;
  throw new Error(`${actor.kind} is no person`);
}
