import Joi from 'joi';
import type { Spot } from '@/core/circulation/run/shapes';
import { type Field, type FieldValue, fieldKinds, fieldLimits } from '@/core/page/fields';
import type { Cover } from '@/core/people/cover';
import { verbs } from '@/core/route/verbs';
import { isZone } from '@/core/time/zone';
import { freePiece, listOf, orNull, piece, text, whole } from './input';

// Pieces of input that several operations share. Limits of size, depth and count stand here.

export const idSchema = Joi.string().pattern(/^[A-Za-z0-9_-]{1,64}$/);
const hashSchema = Joi.string().pattern(/^[0-9a-f]{64}$/);
/** Names and titles stand in mail headers and file names: no control characters, no line ends. */
export const oneLine = (most: number) =>
  Joi.string()
    .trim()
    .max(most)
    .pattern(/^[^\p{Cc}\p{Zl}\p{Zp}]*$/u);

export const id = piece<string>(idSchema);
export const idOrNone = freePiece<string | null, string | null | undefined>(
  idSchema.allow(null).optional().default(null),
);
export const hash = piece<string>(hashSchema);
export const title = piece<string>(oneLine(200).min(1));
export const personName = piece<string>(oneLine(120).min(2));
export const shortText = piece<string>(oneLine(120).allow(''));
/** The code of a document type, and how its documents are numbered. */
export const typeCode = piece<string>(
  Joi.string()
    .trim()
    .uppercase()
    .pattern(/^[A-Z0-9]{2,6}$/),
);
export const numbering = piece<string>(oneLine(40).min(2));
export const fileName = piece<string>(oneLine(200).min(1));
export const note = freePiece<string | null, string | null | undefined>(
  Joi.string().trim().max(4000).allow('', null).optional().default(null),
);
export const reason = text(4000);
export const epoch = whole(1, 1_000_000);
export const instantSchema = Joi.number().integer().min(0).max(8_640_000_000_000_000);
export const instant = piece<number>(instantSchema);
export const instantOrNone = orNull(instant);
export const email = piece<string>(Joi.string().trim().lowercase().email({ tlds: false }).max(254));
export const zone = piece<string>(
  Joi.string()
    .max(60)
    .custom((value: string, helpers) => (isZone(value) ? value : helpers.error('zone.unknown')))
    .messages({ 'zone.unknown': 'Choose a time zone such as Europe/Oslo.' }),
);
/** Control characters have no place in a password (RFC 8265, OpaqueString); it is brought to its form when it is hashed. */
export const password = piece<string>(
  Joi.string()
    .min(1)
    .max(200)
    .pattern(/^[^\p{Cc}]*$/u),
);

// Hundredths of a point: finer says nothing on paper, and the numbers of a PDF have no exponents.
const points = Joi.number().precision(2);

export const fields = listOf(
  piece<Field>(
    Joi.object({
      id: idSchema.required(),
      seat: idSchema.required(),
      file: idSchema.required(),
      kind: Joi.valid(...fieldKinds).required(),
      page: Joi.number().integer().min(0).max(10_000).required(),
      x: points.min(-1).max(20_000).required(),
      y: points.min(-1).max(20_000).required(),
      width: points.min(1).max(5000).required(),
      height: points.min(1).max(5000).required(),
      needed: Joi.boolean().required(),
      label: oneLine(fieldLimits.label).allow('').required(),
    }),
  ),
  { most: fieldLimits.count },
);

const coordinate = points.min(-10_000).max(100_000);
const value = Joi.alternatives(
  Joi.object({
    kind: Joi.valid('drawn').required(),
    strokes: Joi.array()
      .max(fieldLimits.strokes)
      .items(Joi.array().max(fieldLimits.points).items(coordinate))
      .required(),
    width: Joi.number().min(1).max(10_000).required(),
    height: Joi.number().min(1).max(10_000).required(),
  }),
  Joi.object({
    kind: Joi.valid('typed', 'text').required(),
    text: Joi.string().max(fieldLimits.text).allow('').required(),
  }),
  Joi.object({ kind: Joi.valid('day').required(), day: Joi.string().max(10).required() }),
  Joi.object({ kind: Joi.valid('ticked').required(), ticked: Joi.boolean().required() }),
);

/** What a signer filled in, by field. */
export const values = freePiece<Readonly<Record<string, FieldValue>>, Readonly<Record<string, FieldValue>> | undefined>(
  Joi.object().pattern(idSchema, value).max(fieldLimits.count).optional().default({}),
);

const onPage = points.min(0).max(20_000).required();
const marks = Joi.array()
  .items(Joi.object({ x: onPage, y: onPage, width: onPage, height: onPage }))
  .max(120);

/** A spot as a browser names it: with the words that were selected there, if any. */
export type SpotGiven = Omit<Spot, 'quote'> & { readonly quote?: string };

const spot = piece<SpotGiven>(
  Joi.object({
    page: Joi.number().integer().min(0).max(10_000).required(),
    x: onPage,
    y: onPage,
    marks,
    quote: Joi.string().trim().max(500).allow(''),
  }),
);

/** A comment or an answer in a thread, on a spot of a page (in points) or on the whole. */
export const comment = {
  comment: id,
  thread: orNull(id),
  file: hash,
  spot: orNull(spot),
  note: text(4000),
} as const;

const everyOr = (item: Joi.Schema, most: number) =>
  Joi.alternatives(Joi.valid('all'), Joi.array().min(1).max(most).items(item).unique()).required();

/** Who covers for somebody away, on which kinds of work. */
export const covers = listOf(
  piece<Cover>(
    Joi.object({
      by: idSchema.required(),
      verbs: everyOr(Joi.valid(...verbs), verbs.length),
      types: everyOr(Joi.string().pattern(/^[A-Z0-9]{2,6}$/), 60),
    }),
  ),
  { most: 10 },
);

/** Where in a list one goes on; whatever the server gave. */
export const cursor = orNull(text(400));
export const filter = freePiece<string, string | undefined>(
  Joi.string().trim().max(200).allow('').optional().default(''),
);
