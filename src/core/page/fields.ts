/**
 * Where something is filled in on a page (the trade's "field"). Coordinates are displayed points: 1/72 inch from
 * the top left corner of the page as it is shown, after rotation and cropping.
 */
export const fieldKinds = [
  'signature',
  'initials',
  /** The day of signing, filled in by the signing itself. */
  'signedOn',
  'date',
  'name',
  'jobTitle',
  'company',
  'email',
  'text',
  'tick',
] as const;
export type FieldKind = (typeof fieldKinds)[number];

export interface Field {
  readonly id: string;
  readonly seat: string;
  /** The file of the bundle it stands on, by its id. */
  readonly file: string;
  readonly kind: FieldKind;
  /** From 0. */
  readonly page: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly needed: boolean;
  readonly label: string;
}

export interface PageSize {
  readonly width: number;
  readonly height: number;
}

/** What a signer put into a place. A hand mark is drawn strokes or a typed name. */
export type FieldValue =
  | { readonly kind: 'drawn'; readonly strokes: readonly Stroke[]; readonly width: number; readonly height: number }
  | { readonly kind: 'typed'; readonly text: string }
  | { readonly kind: 'text'; readonly text: string }
  /** An ISO 8601 date. */
  | { readonly kind: 'day'; readonly day: string }
  | { readonly kind: 'ticked'; readonly ticked: boolean };

/** Points of one stroke: x0, y0, x1, y1, ... in the drawing's own units. */
type Stroke = readonly number[];

/** The size a new place of each kind gets, in points. */
export const fieldSizes: { readonly [K in FieldKind]: { readonly width: number; readonly height: number } } = {
  signature: { width: 168, height: 46 },
  initials: { width: 64, height: 34 },
  name: { width: 168, height: 22 },
  signedOn: { width: 110, height: 22 },
  date: { width: 110, height: 22 },
  jobTitle: { width: 168, height: 22 },
  company: { width: 168, height: 22 },
  email: { width: 210, height: 22 },
  text: { width: 210, height: 22 },
  tick: { width: 18, height: 18 },
};

export const fieldLimits = { count: 400, label: 80, text: 500, strokes: 400, points: 20_000 } as const;

/** The smallest size at which a person can still fill and read a place. */
const smallest = 12;

type FieldFinding =
  | { readonly code: 'off-page' | 'too-small' | 'nobody'; readonly field: string }
  | { readonly code: 'overlap'; readonly field: string; readonly other: string };

/** What is wrong with a set of places on pages of these sizes, for the seats that may have places. */
export function lintFields(
  fields: readonly Field[],
  pages: readonly PageSize[],
  seats: ReadonlySet<string>,
): FieldFinding[] {
  const findings: FieldFinding[] = [];
  fields.forEach((field, i) => {
    const page = pages[field.page];
    const slack = 0.5;
    if (
      !page ||
      field.x < -slack ||
      field.y < -slack ||
      field.x + field.width > page.width + slack ||
      field.y + field.height > page.height + slack
    )
      findings.push({ code: 'off-page', field: field.id });
    if (field.width < smallest || field.height < smallest) findings.push({ code: 'too-small', field: field.id });
    if (!seats.has(field.seat)) findings.push({ code: 'nobody', field: field.id });
    for (const other of fields.slice(i + 1))
      if (overlaps(field, other)) findings.push({ code: 'overlap', field: field.id, other: other.id });
  });
  return findings;
}

function overlaps(a: Field, b: Field): boolean {
  return (
    a.file === b.file &&
    a.page === b.page &&
    a.x < b.x + b.width &&
    b.x < a.x + a.width &&
    a.y < b.y + b.height &&
    b.y < a.y + a.height
  );
}

/** Those of the given signing seats that have no needed signature place. */
export function fieldsMissing(signing: readonly string[], fields: readonly Field[]): string[] {
  const have = new Set(fields.filter((field) => field.kind === 'signature' && field.needed).map((field) => field.seat));
  return signing.filter((seat) => !have.has(seat));
}

/** A seat's places in reading order: by page, then from top to bottom in lines, then from left to right. */
export function inReadingOrder(fields: readonly Field[]): Field[] {
  const line = (field: Field) => Math.round((field.y + field.height / 2) / 14);
  return fields.slice().sort((a, b) => a.page - b.page || line(a) - line(b) || a.x - b.x || (a.id < b.id ? -1 : 1));
}

type ValueFault = {
  readonly field: string;
  readonly code: 'missing' | 'wrong-kind' | 'too-long' | 'not-a-day' | 'not-an-email' | 'not-a-field';
};

/**
 * Checks what a signer filled in against the fields of their seat: everything needed, nothing else, each what its kind says.
 * The day of signing is nobody's to fill in.
 */
export function valueFaults(fields: readonly Field[], values: ReadonlyMap<string, FieldValue>): ValueFault[] {
  const faults: ValueFault[] = [];
  const theirs = fields.filter((field) => field.kind !== 'signedOn');
  for (const field of theirs) {
    const value = values.get(field.id);
    if (!value || isBlank(value)) {
      if (field.needed) faults.push({ field: field.id, code: 'missing' });
      continue;
    }
    if (!fits(field.kind, value)) faults.push({ field: field.id, code: 'wrong-kind' });
    else if (tooLong(value)) faults.push({ field: field.id, code: 'too-long' });
    else if (value.kind === 'day' && !isDay(value.day)) faults.push({ field: field.id, code: 'not-a-day' });
    else if (field.kind === 'email' && value.kind === 'text' && !/^\S+@\S+$/.test(value.text.trim()))
      faults.push({ field: field.id, code: 'not-an-email' });
  }
  const known = new Set(theirs.map((field) => field.id));
  for (const id of values.keys()) if (!known.has(id)) faults.push({ field: id, code: 'not-a-field' });
  return faults;
}

function isBlank(value: FieldValue): boolean {
  if (value.kind === 'drawn') return value.strokes.every((stroke) => stroke.length < 4);
  if (value.kind === 'ticked') return !value.ticked;
  // What shows nothing on a page is nothing, whatever letters it has.
  return /^[\s\p{Default_Ignorable_Code_Point}]*$/u.test(value.kind === 'day' ? value.day : value.text);
}

function fits(kind: FieldKind, value: FieldValue): boolean {
  if (kind === 'signature' || kind === 'initials') return value.kind === 'drawn' || value.kind === 'typed';
  if (kind === 'tick') return value.kind === 'ticked';
  if (kind === 'date' || kind === 'signedOn') return value.kind === 'day';
  return value.kind === 'text';
}

function tooLong(value: FieldValue): boolean {
  if (value.kind === 'drawn')
    return (
      value.strokes.length > fieldLimits.strokes ||
      value.strokes.reduce((sum, stroke) => sum + stroke.length, 0) > fieldLimits.points
    );
  return 'text' in value && value.text.length > fieldLimits.text;
}

/** Whether a text is a day that there is, as ISO 8601 writes it. */
function isDay(text: string): boolean {
  const date = new Date(`${text}T00:00:00Z`);
  return /^\d{4}-\d{2}-\d{2}$/.test(text) && !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text);
}

/** A day as it is written on a page: "3 Dec 2026". Takes an ISO date. */
export function dayOnPage(day: string): string {
  const date = new Date(`${day}T00:00:00Z`);
  const month = new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' }).format(date).slice(0, 3);
  return `${date.getUTCDate()} ${month} ${date.getUTCFullYear()}`;
}

/** The ids of a seat's fields, in reading order. */
export function fieldIdsOf(fields: readonly Field[], seat: string): string[] {
  return inReadingOrder(fields.filter((field) => field.seat === seat)).map((field) => field.id);
}
