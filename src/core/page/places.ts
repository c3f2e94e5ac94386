/**
 * Where something is filled in on a page (the trade's "field"). Coordinates are displayed points: 1/72 inch from
 * the top left corner of the page as it is shown, after rotation and cropping.
 */
export type PlaceKind = 'signature' | 'initials' | 'name' | 'date' | 'words' | 'choice';

export interface Place {
  readonly id: string;
  readonly seat: string;
  readonly kind: PlaceKind;
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
export type PlaceValue =
  | { readonly kind: 'drawn'; readonly strokes: readonly Stroke[]; readonly width: number; readonly height: number }
  | { readonly kind: 'typed'; readonly text: string }
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'ticked'; readonly ticked: boolean };

/** Points of one stroke: x0, y0, x1, y1, ... in the drawing's own units. */
export type Stroke = readonly number[];

export const placeKinds: readonly PlaceKind[] = ['signature', 'initials', 'name', 'date', 'words', 'choice'];

/** The size a new place of each kind gets, in points. */
export const placeSizes: { readonly [K in PlaceKind]: { readonly width: number; readonly height: number } } = {
  signature: { width: 168, height: 46 },
  initials: { width: 64, height: 34 },
  name: { width: 168, height: 22 },
  date: { width: 110, height: 22 },
  words: { width: 210, height: 22 },
  choice: { width: 18, height: 18 },
};

export const placeLimits = { count: 400, label: 80, text: 500, strokes: 400, points: 20_000 } as const;

/** The smallest size at which a person can still fill and read a place. */
const smallest = 12;

export type PlaceFinding =
  | { readonly code: 'off-page' | 'too-small' | 'nobody'; readonly place: string }
  | { readonly code: 'overlap'; readonly place: string; readonly other: string };

/** What is wrong with a set of places on pages of these sizes, for the seats that may have places. */
export function lintPlaces(
  places: readonly Place[],
  pages: readonly PageSize[],
  seats: ReadonlySet<string>,
): PlaceFinding[] {
  const findings: PlaceFinding[] = [];
  places.forEach((place, i) => {
    const page = pages[place.page];
    const slack = 0.5;
    if (
      !page ||
      place.x < -slack ||
      place.y < -slack ||
      place.x + place.width > page.width + slack ||
      place.y + place.height > page.height + slack
    )
      findings.push({ code: 'off-page', place: place.id });
    if (place.width < smallest || place.height < smallest) findings.push({ code: 'too-small', place: place.id });
    if (!seats.has(place.seat)) findings.push({ code: 'nobody', place: place.id });
    for (const other of places.slice(i + 1))
      if (overlaps(place, other)) findings.push({ code: 'overlap', place: place.id, other: other.id });
  });
  return findings;
}

export function overlaps(a: Place, b: Place): boolean {
  return (
    a.page === b.page && a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
  );
}

/** Those of the given signing seats that have no needed signature place. */
export function placesMissing(signing: readonly string[], places: readonly Place[]): string[] {
  const have = new Set(places.filter((place) => place.kind === 'signature' && place.needed).map((place) => place.seat));
  return signing.filter((seat) => !have.has(seat));
}

/** A seat's places in reading order: by page, then from top to bottom in lines, then from left to right. */
export function inReadingOrder(places: readonly Place[]): Place[] {
  const line = (place: Place) => Math.round((place.y + place.height / 2) / 14);
  return places.slice().sort((a, b) => a.page - b.page || line(a) - line(b) || a.x - b.x || (a.id < b.id ? -1 : 1));
}

export type ValueFault = {
  readonly place: string;
  readonly code: 'missing' | 'wrong-kind' | 'too-long' | 'not-a-place';
};

/** Checks what a signer filled in against the places of their seat: everything needed, nothing else, the right kinds. */
export function valueFaults(places: readonly Place[], values: ReadonlyMap<string, PlaceValue>): ValueFault[] {
  const faults: ValueFault[] = [];
  for (const place of places) {
    const value = values.get(place.id);
    if (!value || isBlank(value)) {
      if (place.needed) faults.push({ place: place.id, code: 'missing' });
      continue;
    }
    if (!fits(place.kind, value)) faults.push({ place: place.id, code: 'wrong-kind' });
    else if (tooLong(value)) faults.push({ place: place.id, code: 'too-long' });
  }
  const known = new Set(places.map((place) => place.id));
  for (const id of values.keys()) if (!known.has(id)) faults.push({ place: id, code: 'not-a-place' });
  return faults;
}

function isBlank(value: PlaceValue): boolean {
  if (value.kind === 'drawn') return value.strokes.every((stroke) => stroke.length < 4);
  if (value.kind === 'ticked') return !value.ticked;
  return value.text.trim() === '';
}

function fits(kind: PlaceKind, value: PlaceValue): boolean {
  if (kind === 'signature' || kind === 'initials') return value.kind === 'drawn' || value.kind === 'typed';
  if (kind === 'choice') return value.kind === 'ticked';
  return value.kind === 'text';
}

function tooLong(value: PlaceValue): boolean {
  if (value.kind === 'drawn')
    return (
      value.strokes.length > placeLimits.strokes ||
      value.strokes.reduce((sum, stroke) => sum + stroke.length, 0) > placeLimits.points
    );
  return value.kind !== 'ticked' && value.text.length > placeLimits.text;
}
