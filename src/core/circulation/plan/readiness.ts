import { type Refusal, refusal } from '../../refusals';
import type { PreflightSubject } from '../../route/preflight';
import type { Context } from '../run/context';
import { samePerson } from '../run/holders';
import type { Version } from '../run/shapes';
import { type Circulation, documentsOf, newest, presentFields } from '../run/state';
import { clockOf } from '../run/times';

/** What the check before sending looks at: a circulation as it is planned, and what its context knows. */
export function subjectOf(state: Circulation, context: Context): PreflightSubject {
  const version = newest(state);
  return {
    route: state.plan,
    whole: state.whole,
    author: state.author,
    hasVersion: version !== null,
    fields: presentFields(state),
    files: (version ? documentsOf(version) : []).map(({ id, file }) => ({
      id,
      takesFields: !context.withoutFields.has(file),
    })),
    facts: state.facts,
    factTypes: context.factTypes,
    record: context.record,
    groups: context.groups,
    roles: context.roles,
    now: context.now,
    person: (id) => {
      const facts = context.people.get(id);
      return facts ? { name: facts.name ?? '', active: facts.active, outside: facts.outside } : null;
    },
    clock: (person) => clockOf(context, person),
    same: (a, b) => samePerson(context, a, b),
    authorApproves: context.rules.authorApproves,
    absences: context.absences,
    // Nothing is mended here.
    standIn: () => null,
  };
}

/** Why a version cannot follow: it is not newer, has no document, or holds a file twice or of another record. */
export function unfitVersion(state: Circulation, version: Version): Refusal | null {
  if (version.number <= (newest(state)?.number ?? 0)) return refusal('version-order');
  if (documentsOf(version).length === 0) return refusal('no-document');
  const ids = new Set(version.files.map(({ id }) => id));
  const strange = version.files.some(({ record }) => !state.records.includes(record));
  return ids.size < version.files.length || strange ? refusal('version-unfit') : null;
}
