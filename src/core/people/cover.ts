import type { Verb } from '../route/verbs';
import type { Instant } from '../time/instant';

/** Who acts for somebody while they are away, and on which kinds of work: everything, or some verbs and document types. */
export interface Cover {
  readonly by: string;
  readonly verbs: readonly Verb[] | 'all';
  readonly types: readonly string[] | 'all';
}

/** Somebody is away from one instant up to another, with who covers for them; it may be nobody. */
export interface Absence {
  readonly id: string;
  readonly person: string;
  readonly from: Instant;
  readonly to: Instant;
  readonly covers: readonly Cover[];
}

/** A kind of work: what a stage asks, of which type of document. */
export interface Work {
  readonly verb: Verb;
  readonly type: string | null;
}

/** One step of a chain: who covers for whom, by which absence. */
export interface CoverLink {
  readonly absence: string;
  readonly person: string;
  readonly by: string;
  readonly from: Instant;
  readonly to: Instant;
}

/** Whether somebody is away at an instant: from the first up to, and no longer at, the last. */
export function isAway(absences: readonly Absence[], person: string, at: Instant): boolean {
  return absenceAt(absences, person, at) !== null;
}

/** The absence of a person that runs at an instant; there is one at most. */
export function absenceAt(absences: readonly Absence[], person: string, at: Instant): Absence | null {
  return absences.find((absence) => absence.person === person && absence.from <= at && at < absence.to) ?? null;
}

function isFor({ verbs, types }: Cover, { verb, type }: Work): boolean {
  return (verbs === 'all' || verbs.includes(verb)) && (types === 'all' || (type !== null && types.includes(type)));
}

/** Whether somebody covers for a kind of work in an absence. */
export function isCovered({ covers }: Absence, work: Work): boolean {
  return covers.some((cover) => isFor(cover, work));
}

/**
 * The chain of cover that begins with a person at an instant, each link for this kind of work; only its end acts. Empty where
 * nobody covers; null where it adds nobody because it runs in a circle, or through somebody who is cut: it is cut there and
 * not led past them, or they would choose who acts in their place.
 */
export function coverChain(
  absences: readonly Absence[],
  person: string,
  work: Work,
  at: Instant,
  isCut: (person: string) => boolean,
): readonly CoverLink[] | null {
  const links: CoverLink[] = [];
  const met = new Set([person]);
  for (let away = person; ; ) {
    const absence = absenceAt(absences, away, at);
    const cover = absence?.covers.find((one) => isFor(one, work));
    if (!absence || !cover) return links;
    if (met.has(cover.by) || isCut(cover.by)) return null;
    links.push({ absence: absence.id, person: away, by: cover.by, from: absence.from, to: absence.to });
    met.add(cover.by);
    away = cover.by;
  }
}

/** The people, in order, of a circle of cover that a person stands in or leads to at an instant; null where there is none. */
export function coverCircle(
  absences: readonly Absence[],
  person: string,
  work: Work,
  at: Instant,
): readonly string[] | null {
  const met = [person];
  for (let away = person; ; ) {
    const by = absenceAt(absences, away, at)?.covers.find((one) => isFor(one, work))?.by;
    if (by === undefined) return null;
    if (met.includes(by)) return [...met.slice(met.indexOf(by)), by];
    met.push(by);
    away = by;
  }
}

type AbsenceFault = 'absence-past' | 'absence-long' | 'absence-overlaps' | 'cover-self' | 'cover-twice';

const year = 366 * 86_400_000;

/** What is wrong with an absence beside a person's others, or null. One absence at a time, one cover for each kind of work. */
export function absenceFault(absence: Absence, others: readonly Absence[], now: Instant): AbsenceFault | null {
  const { person, from, to, covers } = absence;
  if (to <= now || to <= from) return 'absence-past';
  if (to - from > 2 * year) return 'absence-long';
  const overlaps = others.some(
    (other) => other.id !== absence.id && other.person === person && other.from < to && from < other.to,
  );
  if (overlaps) return 'absence-overlaps';
  if (covers.some((cover) => cover.by === person)) return 'cover-self';
  return covers.some((one, i) => covers.slice(0, i).some((other) => overlap(one, other))) ? 'cover-twice' : null;
}

function overlap(a: Cover, b: Cover): boolean {
  const meet = <T>(one: readonly T[] | 'all', other: readonly T[] | 'all') =>
    one === 'all' || other === 'all' || one.some((item) => other.includes(item));
  return meet(a.verbs, b.verbs) && meet(a.types, b.types);
}

/** Work of somebody away that comes to one person at the end of a chain. */
interface WorkCovered {
  readonly person: string;
  readonly verb: Verb;
  readonly type: string;
  /** Everybody in the chain but the person away: whom a rule keeps from a seat cuts it there. */
  readonly chain: readonly string[];
  readonly from: Instant;
  readonly to: Instant;
}

/** Everything that one person covers at an instant, for these types of documents; who is cut depends on each seat. */
export function workCoveredBy(
  absences: readonly Absence[],
  by: string,
  verbs: readonly Verb[],
  types: readonly string[],
  at: Instant,
): WorkCovered[] {
  const running = absences.filter((absence) => absence.from <= at && at < absence.to && absence.covers.length > 0);
  return running.flatMap(({ person }) =>
    verbs.flatMap((verb) =>
      types.flatMap((type): WorkCovered[] => {
        const links = coverChain(running, person, { verb, type }, at, () => false) ?? [];
        return links.at(-1)?.by === by
          ? [{ person, verb, type, chain: links.map((link) => link.by), ...spanOf(links) }]
          : [];
      }),
    ),
  );
}

/** From when until when every link of a chain holds. */
export function spanOf(links: readonly CoverLink[]): { readonly from: Instant; readonly to: Instant } {
  return { from: Math.max(...links.map((link) => link.from)), to: Math.min(...links.map((link) => link.to)) };
}
