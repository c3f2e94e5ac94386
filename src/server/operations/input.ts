import Joi from 'joi';

/**
 * Input schemas that are their own types: a piece checks a value with Joi and says in TypeScript what comes out of it,
 * and what may be given. One value declares both, so that they cannot drift apart.
 */
export interface Piece<Out, In = Out> {
  readonly schema: Joi.Schema;
  /** Whether it may be left out of a shape. */
  readonly free?: true;
  /** Never there at run time; only types. */
  readonly types?: { readonly out: Out; readonly in: In };
}

// biome-ignore lint/suspicious/noExplicitAny: any piece, whatever its types
type AnyPiece = Piece<any, any>;
type Fields = Readonly<Record<string, AnyPiece>>;

export type Out<P extends AnyPiece> = NonNullable<P['types']>['out'];
export type In<P extends AnyPiece> = NonNullable<P['types']>['in'];

type OutOf<F extends Fields> = { readonly [K in keyof F]: Out<F[K]> };
type OptionalKeys<F extends Fields> = { [K in keyof F]: undefined extends In<F[K]> ? K : never }[keyof F];
type InOf<F extends Fields> = { readonly [K in Exclude<keyof F, OptionalKeys<F>>]: In<F[K]> } & {
  readonly [K in OptionalKeys<F>]?: In<F[K]>;
};

/** A piece of a given schema, for what has no simpler way. The schema must say what the type says. */
export function piece<Out, In = Out>(schema: Joi.Schema): Piece<Out, In> {
  return { schema };
}

/** A piece that may be left out, of a schema that says what stands for it then. */
export function freePiece<Out, In = Out>(schema: Joi.Schema): Piece<Out, In> {
  return { schema, free: true };
}

export function shape<F extends Fields>(fields: F): Piece<OutOf<F>, InOf<F>> {
  const keys = Object.entries(fields).map(([key, { schema, free }]) => [key, free ? schema : schema.required()]);
  return { schema: Joi.object(Object.fromEntries(keys)) };
}

export function text(most: number, least = 1): Piece<string> {
  const schema = Joi.string().trim().max(most);
  return { schema: least > 0 ? schema.min(least) : schema.allow('') };
}

export function optional<T>(inner: Piece<T>, otherwise: T): Piece<T, T | undefined> {
  return freePiece(inner.schema.optional().default(otherwise as never));
}

export function orNull<T>(inner: Piece<T>): Piece<T | null, T | null | undefined> {
  return freePiece(inner.schema.allow(null).optional().default(null));
}

/** For changing a part of something: null says none, and what is left out stays as it is. */
export function asItIs<T>(inner: Piece<T>): Piece<T | null | undefined> {
  return freePiece(inner.schema.allow(null).optional());
}

export function oneOf<const T extends readonly (string | number)[]>(...values: T): Piece<T[number]> {
  return { schema: Joi.valid(...values) };
}

export function listOf<T, I>(
  inner: Piece<T, I>,
  { most, least = 0 }: { most: number; least?: number },
): Piece<readonly T[], readonly I[]> {
  return { schema: Joi.array().min(least).max(most).items(inner.schema) };
}

export function whole(least: number, most: number): Piece<number> {
  return { schema: Joi.number().integer().min(least).max(most) };
}

export const flag: Piece<boolean> = { schema: Joi.boolean() };

/** How far a value is nested and how many members it has; looked at before any schema walks through it. */
export function withinBounds(value: unknown, bounds: { readonly depth: number; readonly members: number }): boolean {
  let left = bounds.members;
  const visit = (inner: unknown, depth: number): boolean => {
    if (typeof inner !== 'object' || inner === null) return true;
    if (depth === 0) return false;
    const members = Array.isArray(inner) ? inner : Object.values(inner);
    left -= members.length;
    return left >= 0 && members.every((member) => visit(member, depth - 1));
  };
  return visit(value, bounds.depth);
}

/** Lone surrogates cannot be written as UTF-8, and PostgreSQL keeps no NUL. */
const isKept = (text: string) => text.isWellFormed() && !text.includes('\0');

/**
 * The value with every text in it, keys too, in Normalization Form C (Unicode Standard Annex 15), so that what looks the
 * same is the same. Null when one holds what cannot be kept: a lone surrogate or a NUL.
 */
export function normalized(value: unknown): { readonly value: unknown } | null {
  let good = true;
  const visit = (inner: unknown): unknown => {
    if (typeof inner === 'string') {
      if (!isKept(inner)) good = false;
      return inner.normalize('NFC');
    }
    if (Array.isArray(inner)) return inner.map(visit);
    if (typeof inner === 'object' && inner !== null)
      return Object.fromEntries(Object.entries(inner).map(([key, member]) => [visit(key) as string, visit(member)]));
    return inner;
  };
  const result = visit(value);
  return good ? { value: result } : null;
}
