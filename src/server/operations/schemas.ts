import Joi from 'joi';
import type { Spot } from '@/core/circulation/events';
import { fieldKinds, fieldLimits } from '@/core/page/fields';
import { routeLimits, verbs } from '@/core/route/route';

/** Pieces of input schemas that several operations share. Limits of size, depth and count stand here. */
export const id = Joi.string().pattern(/^[A-Za-z0-9_-]{1,64}$/);
export const hash = Joi.string().pattern(/^[0-9a-f]{64}$/);
export const title = Joi.string().trim().min(1).max(200);
export const note = Joi.string().trim().max(4000).allow('', null).default(null);
export const reason = Joi.string().trim().min(1).max(4000).required();
export const instant = Joi.number().integer().min(0).max(8_640_000_000_000_000);
export const instantOrNone = instant.allow(null).default(null);
export const email = Joi.string().trim().lowercase().email({ tlds: false }).max(254);

const rule = Joi.alternatives(
  Joi.object({ kind: Joi.valid('all', 'any').required() }),
  Joi.object({
    kind: Joi.valid('atLeast').required(),
    k: Joi.number().integer().min(1).max(routeLimits.seats).required(),
  }),
);

export const who = Joi.object({ kind: Joi.valid('person', 'outside').required(), person: id.required() });

const stage = Joi.object({
  kind: Joi.valid('stage').required(),
  id: id.required(),
  verb: Joi.valid(...verbs).required(),
  seats: Joi.array()
    .max(routeLimits.seats)
    .items(Joi.object({ id: id.required(), who: who.required() }))
    .required(),
  order: Joi.valid('together', 'oneByOne').required(),
  rule: rule.required(),
  due: instant.allow(null).required(),
  closes: instant.allow(null).required(),
  onDecline: Joi.valid('stop', 'count').required(),
  delegate: Joi.boolean().required(),
});

const series = (depth: number): Joi.ObjectSchema =>
  Joi.object({
    kind: Joi.valid('series').required(),
    id: id.required(),
    parts: Joi.array()
      .max(routeLimits.stages)
      .items(...(depth > 0 ? [stage, parallel(depth - 1), series(depth - 1)] : [stage]))
      .required(),
  });

const parallel = (depth: number): Joi.ObjectSchema =>
  Joi.object({
    kind: Joi.valid('parallel').required(),
    id: id.required(),
    name: Joi.string().max(80).allow('').required(),
    join: rule.required(),
    branches: Joi.array()
      .min(2)
      .max(12)
      .items(Joi.object({ name: Joi.string().max(80).allow('').required(), route: series(depth).required() }))
      .required(),
  });

export const route = series(3);

// Hundredths of a point: finer says nothing on paper, and the numbers of a PDF have no exponents.
const points = Joi.number().precision(2);

export const fields = Joi.array()
  .max(fieldLimits.count)
  .items(
    Joi.object({
      id: id.required(),
      seat: id.required(),
      kind: Joi.valid(...fieldKinds).required(),
      page: Joi.number().integer().min(0).max(10_000).required(),
      x: points.min(-1).max(20_000).required(),
      y: points.min(-1).max(20_000).required(),
      width: points.min(1).max(5000).required(),
      height: points.min(1).max(5000).required(),
      needed: Joi.boolean().required(),
      label: Joi.string().max(fieldLimits.label).allow('').required(),
    }),
  );

const coordinate = points.min(-10_000).max(100_000);
export const fieldValue = Joi.alternatives(
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
  Joi.object({ kind: Joi.valid('ticked').required(), ticked: Joi.boolean().required() }),
);

export interface CommentInput {
  readonly comment: string;
  readonly thread: string | null;
  readonly file: string;
  readonly spot: Spot | null;
  readonly note: string;
}

/** A comment or an answer in a thread, on a spot of a page (in points) or on the whole. */
export const comment = {
  comment: id.required(),
  thread: id.allow(null).default(null),
  file: hash.required(),
  spot: Joi.object({
    page: Joi.number().integer().min(0).max(10_000).required(),
    x: Joi.number().min(0).max(20_000).required(),
    y: Joi.number().min(0).max(20_000).required(),
  })
    .allow(null)
    .default(null),
  note: Joi.string().trim().min(1).max(4000).required(),
};
