import Joi from 'joi';
import type { StageTimes, Whole } from '@/core/circulation/run/shapes';
import { conditionLimits, recordFacts, stageOutcomes } from '@/core/route/condition';
import { type FactKind, type FactType, type FactValue, factKinds } from '@/core/route/facts';
import { type Assignee, availabilities, routeLimits, type Series, units } from '@/core/route/route';
import { verbs } from '@/core/route/verbs';
import { type ReminderPlan, reminderLimits } from '@/core/time/reminders';
import type { AmendedFile } from '../circulation/amend';
import type { OrganizationCalendar } from '../organization/calendars';
import { freePiece, listOf, piece } from './input';
import { idSchema, instantSchema, oneLine } from './pieces';

// The input of what a controller plans, and of the facts and calendars that it stands on.

const amount = Joi.number().integer().min(0).max(routeLimits.amount).required();
const unit = Joi.valid(...units).required();
const timeSchema = Joi.alternatives(
  Joi.object({ kind: Joi.valid('instant').required(), at: instantSchema.required() }),
  Joi.object({ kind: Joi.valid('after').required(), amount, unit }),
);
const timeOrNone = timeSchema.allow(null);
const earliest = Joi.alternatives(
  Joi.object({ kind: Joi.valid('date').required(), at: instantSchema.required() }),
  Joi.object({
    kind: Joi.valid('wait').required(),
    from: Joi.alternatives(Joi.valid('asked', 'opened'), Joi.object({ stage: idSchema.required() })).required(),
    again: Joi.boolean().required(),
    amount,
    unit,
  }),
).allow(null);

const thousandths = Joi.number().integer().min(-1e15).max(1e15).required();
const text = oneLine(200).required();
/** What a value of each kind is. */
const factValueParts: { readonly [K in FactKind]: Joi.SchemaMap } = {
  amount: {
    thousandths,
    currency: Joi.string()
      .pattern(/^[A-Z]{3}$/)
      .required(),
  },
  number: { thousandths },
  choice: { text },
  party: { text },
  yesNo: { yes: Joi.boolean().required() },
  date: { day: Joi.string().max(10).required() },
  person: { person: idSchema.required() },
};
const factValueSchema = Joi.alternatives(
  ...factKinds.map((kind) => Joi.object({ kind: Joi.valid(kind).required(), ...factValueParts[kind] })),
);
/** Values by the ids of their facts; null empties one. */
export const factValues = piece<Readonly<Record<string, FactValue | null>>>(
  Joi.object().pattern(idSchema, factValueSchema.allow(null)).max(40),
);
const bound = Joi.number().integer().min(-1e15).max(1e15).allow(null).required();
export const factTypes = listOf(
  piece<FactType>(
    Joi.object({
      id: idSchema.required(),
      name: oneLine(60).min(1).required(),
      kind: Joi.valid(...factKinds).required(),
      needed: Joi.boolean().required(),
      choices: Joi.array().max(60).items(oneLine(120).min(1)).unique().required(),
      currency: Joi.string().max(3).allow('').required(),
      least: bound,
      most: bound,
      standard: factValueSchema.allow(null).required(),
    }),
  ),
  { most: 40 },
);

const comparisons = ['is', 'isNot', 'over', 'atLeast', 'under', 'atMost'] as const;
const condition = (depth: number): Joi.Schema => {
  const compared = [
    Joi.object({
      kind: Joi.valid('fact').required(),
      fact: idSchema.required(),
      is: Joi.valid(...comparisons).required(),
      value: factValueSchema.required(),
    }),
    Joi.object({
      kind: Joi.valid('record').required(),
      field: Joi.valid(...recordFacts).required(),
      is: Joi.valid('is', 'isNot').required(),
      value: Joi.string().max(120).required(),
    }),
    Joi.object({
      kind: Joi.valid('outcome').required(),
      stage: idSchema.required(),
      outcome: Joi.valid(...stageOutcomes).required(),
    }),
  ];
  if (depth === 0) return Joi.alternatives(...compared);
  const inner = condition(depth - 1);
  return Joi.alternatives(
    ...compared,
    Joi.object({
      kind: Joi.valid('all', 'any').required(),
      of: Joi.array().min(1).max(conditionLimits.parts).items(inner).required(),
    }),
    Joi.object({ kind: Joi.valid('not').required(), of: inner.required() }),
  );
};
const conditionOrNone = condition(conditionLimits.depth - 1).allow(null);

export const whole = piece<Whole>(Joi.object({ due: timeOrNone.required(), closes: timeOrNone.required() }));

/** Due and closing of the whole as instants; null leaves them. */
export const wholeInstants = piece<{ readonly due: number | null; readonly closes: number | null } | null>(
  Joi.object({ due: instantSchema.allow(null).required(), closes: instantSchema.allow(null).required() }).allow(null),
);

/** Every file of an amended version. */
export const amendedFiles = listOf(
  piece<AmendedFile>(
    Joi.object({
      id: idSchema.allow(null).required(),
      file: Joi.string()
        .pattern(/^[0-9a-f]{64}$/)
        .required(),
      name: oneLine(200).min(1).required(),
      role: Joi.valid('document', 'attachment').required(),
    }),
  ),
  { least: 1, most: 60 },
);

/** When people are reminded, and who is told of silence. */
const reminderSchema = Joi.object({
  left: Joi.array().max(reminderLimits.points).items(Joi.number().integer().min(1).max(99)).required(),
  lastMorning: Joi.boolean().required(),
  controller: Joi.boolean().required(),
  third: Joi.object({
    person: idSchema.required(),
    days: Joi.number().integer().min(0).max(reminderLimits.days).required(),
  })
    .allow(null)
    .required(),
});
export const reminderPlan = piece<ReminderPlan>(reminderSchema);
export const reminderPlanOrNone = freePiece<ReminderPlan | null, ReminderPlan | null | undefined>(
  reminderSchema.allow(null).optional().default(null),
);

/** A working calendar: hours in minutes after midnight, Monday first. */
export const calendarFacts = piece<OrganizationCalendar>(
  Joi.object({
    id: idSchema.required(),
    name: oneLine(80).min(1).required(),
    week: Joi.array()
      .length(7)
      .items(
        Joi.array()
          .max(6)
          .items(
            Joi.object({
              from: Joi.number().integer().min(0).max(1440).required(),
              to: Joi.number().integer().min(0).max(1440).required(),
            }),
          ),
      )
      .required(),
    holidays: Joi.array()
      .max(2000)
      .items(
        Joi.object({
          day: Joi.string()
            .pattern(/^\d{4}-\d{2}-\d{2}$/)
            .required(),
          name: oneLine(120).allow('').required(),
        }),
      )
      .required(),
    usual: Joi.boolean().required(),
  }),
);

const rule = Joi.alternatives(
  Joi.object({ kind: Joi.valid('all', 'any').required() }),
  Joi.object({
    kind: Joi.valid('atLeast').required(),
    k: Joi.number().integer().min(1).max(routeLimits.seats).required(),
  }),
);

const assigneeSchema = Joi.object({ kind: Joi.valid('person', 'outside').required(), person: idSchema.required() });
/** Somebody by name. */
export const assignee = piece<Assignee>(assigneeSchema);
const assignmentSchema = Joi.alternatives(
  assigneeSchema,
  Joi.object({
    kind: Joi.valid('group').required(),
    group: idSchema.required(),
    members: Joi.valid('any', 'every').required(),
  }),
  Joi.object({
    kind: Joi.valid('unit').required(),
    unit: idSchema.required(),
    members: Joi.valid('any', 'every', 'lead').required(),
  }),
  Joi.object({ kind: Joi.valid('role').required(), role: idSchema.required() }),
  Joi.object({ kind: Joi.valid('named').required(), by: idSchema.required() }),
);

const stage = Joi.object({
  kind: Joi.valid('stage').required(),
  id: idSchema.required(),
  verb: Joi.valid(...verbs).required(),
  seats: Joi.array()
    .max(routeLimits.seats)
    .items(
      Joi.object({
        id: idSchema.required(),
        assignment: assignmentSchema.required(),
        files: Joi.alternatives(Joi.valid('all'), Joi.array().min(1).max(routeLimits.files).items(idSchema)).required(),
        pages: Joi.array()
          .max(routeLimits.pages)
          .items(
            Joi.object({
              file: idSchema.required(),
              from: Joi.number().integer().min(1).max(100_000).required(),
              to: Joi.number().integer().min(Joi.ref('from')).max(100_000).required(),
            }),
          )
          .required(),
        facts: Joi.array().max(routeLimits.facts).unique().items(idSchema).required(),
        due: timeOrNone.required(),
        closes: timeOrNone.required(),
      }),
    )
    .required(),
  order: Joi.valid('together', 'oneByOne').required(),
  rule: rule.required(),
  due: timeOrNone.required(),
  closes: timeOrNone.required(),
  earliest: earliest.required(),
  condition: conditionOrNone.required(),
  onReturn: Joi.valid('atOnce', 'gather').required(),
  onDecline: Joi.valid('stop', 'count').required(),
  independentOf: Joi.array().items(idSchema).max(routeLimits.stages).unique().required(),
  allows: Joi.object({
    comment: Joi.boolean().required(),
    delegate: Joi.valid('no', 'freely', 'agreed').required(),
    print: Joi.valid(...availabilities).required(),
    download: Joi.valid(...availabilities).required(),
    changes: Joi.boolean().required(),
  }).required(),
});

const copies = Joi.object({
  kind: Joi.valid('copies').required(),
  id: idSchema.required(),
  to: Joi.array()
    .max(routeLimits.seats)
    .items(Joi.object({ id: idSchema.required(), assignment: assignmentSchema.required() }))
    .required(),
  hidden: Joi.boolean().required(),
});

const series = (depth: number): Joi.ObjectSchema =>
  Joi.object({
    kind: Joi.valid('series').required(),
    id: idSchema.required(),
    parts: Joi.array()
      .max(routeLimits.stages)
      .items(...(depth > 0 ? [stage, copies, parallel(depth - 1), series(depth - 1)] : [stage, copies]))
      .required(),
  });

const parallel = (depth: number): Joi.ObjectSchema =>
  Joi.object({
    kind: Joi.valid('parallel').required(),
    id: idSchema.required(),
    name: oneLine(80).allow('').required(),
    join: rule.required(),
    branches: Joi.array()
      .min(1)
      .max(12)
      .items(
        Joi.object({
          name: oneLine(80).allow('').required(),
          condition: conditionOrNone.required(),
          route: series(depth).required(),
        }),
      )
      .required(),
  });

export const route = piece<Series>(series(3));

export const stageTimes = listOf(
  piece<StageTimes>(
    Joi.object({ stage: idSchema.required(), due: timeOrNone.required(), closes: timeOrNone.required() }),
  ),
  { most: routeLimits.stages },
);
