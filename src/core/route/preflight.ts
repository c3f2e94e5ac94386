import { type Field, fieldsMissing } from '../page/fields';
import {
  emptySeries,
  type Instant,
  instantOf,
  type RouteFault,
  routeFaults,
  type Series,
  seatsOf,
  stagesOf,
} from './route';

export type FindingCode =
  | RouteFault['code']
  | 'no-stage'
  | 'nobody'
  | 'author-decides'
  | 'twice-in-stage'
  | 'field-missing'
  | 'due-past'
  | 'closes-past'
  | 'no-version';

/** One thing the check before sending found. What `stops` is required; what `warns` may be sent all the same. */
export interface Finding {
  readonly code: FindingCode;
  readonly severity: 'stops' | 'warns';
  readonly stage: string | null;
  readonly seat: string | null;
}

export interface PreflightSubject {
  readonly route: Series;
  readonly author: string;
  readonly hasVersion: boolean;
  /** Fields on the newest version. */
  readonly fields: readonly Field[];
  readonly now: Instant;
  /** Whether two entries are one person; by their ids where nothing more is known. */
  readonly same?: (a: string, b: string) => boolean;
}

/** Everything that would go wrong, or probably is not meant, if the route were sent now; worst first. */
export function preflight(subject: PreflightSubject): Finding[] {
  const { route, author, hasVersion, fields, now, same = (a, b) => a === b } = subject;
  const findings: Finding[] = [];
  const add = (
    code: FindingCode,
    severity: Finding['severity'],
    stage: string | null = null,
    seat: string | null = null,
  ) => findings.push({ code, severity, stage, seat });

  for (const fault of routeFaults(route)) add(fault.code, 'stops', 'id' in fault ? fault.id : null);
  const stages = stagesOf(route);
  if (stages.length === 0) add('no-stage', 'stops');
  for (const id of emptySeries(route)) add('empty-branch', 'stops', id);
  if (!hasVersion) add('no-version', 'stops');

  for (const stage of stages) {
    if (stage.seats.length === 0) add('nobody', 'stops', stage.id);
    const met: string[] = [];
    for (const seat of stage.seats) {
      const { person } = seat.assignment;
      if (met.some((other) => same(other, person))) add('twice-in-stage', 'stops', stage.id, seat.id);
      met.push(person);
      if (stage.verb === 'approve' && same(person, author)) add('author-decides', 'stops', stage.id, seat.id);
    }
    const [due, closes] = [instantOf(stage.due), instantOf(stage.closes)];
    if (closes !== null && closes <= now) add('closes-past', 'stops', stage.id);
    if (due !== null && due <= now) add('due-past', 'stops', stage.id);
  }

  // What only warns comes last.
  const signing = seatsOf(route).filter(({ stage }) => stage.verb === 'sign');
  for (const seat of fieldsMissing(
    signing.map(({ seat: { id } }) => id),
    fields,
  ))
    add('field-missing', 'warns', signing.find((entry) => entry.seat.id === seat)?.stage.id ?? null, seat);

  return findings;
}
