import { useMemo } from 'react';
import type { Whole } from '@/core/circulation/run/shapes';
import type { Facts } from '@/core/route/facts';
import type { PreflightSubject } from '@/core/route/preflight';
import { assignedIn, groupAsked, type Series, unitGroup } from '@/core/route/route';
import { usualCalendar } from '@/core/time/calendar';
import type { CirculationView } from '@/server/circulation/view';
import { useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { useAsk, useMe } from '../data/use';

const minute = 60_000;

/** Whose clock and calendar a time counts on: a person's, or the organization's. */
export function useClock() {
  const { calendars } = useOrganization();
  const { person } = usePeople();
  const { data: me } = useMe();
  return useMemo(() => {
    const common = calendars.find((calendar) => calendar.usual) ?? usualCalendar;
    return (id: string | null) => {
      const known = id === null ? null : person(id);
      const own = calendars.find((calendar) => calendar.id === known?.calendar) ?? common;
      return { zone: known?.zone ?? me?.organization.zone ?? 'UTC', own, common };
    };
  }, [calendars, person, me?.organization.zone]);
}

/** The units any or every one of which a route asks. */
function unitsAsked(route: Series): string[] {
  const asked = assignedIn(route).flatMap(({ assignment }) =>
    assignment.kind === 'unit' && groupAsked(assignment) !== null ? [assignment.unit] : [],
  );
  return [...new Set(asked)];
}

/** What the check before sending looks at, as far as the page knows it; the server looks again when it is sent. */
export function useSubject(
  view: CirculationView,
  given: { readonly route: Series; readonly whole: Whole; readonly facts: Facts; readonly now: number },
): PreflightSubject {
  const { groups, roles, rules, absences, units } = useOrganization();
  const { person } = usePeople();
  const clock = useClock();
  const { route, whole, facts } = given;
  const asked = useMemo(() => unitsAsked(route), [route]);
  const people = useAsk('units.people', { units: asked }, { enabled: asked.length > 0 }).data;
  // The checks run anew when something is changed, and once a minute, because times pass.
  const now = Math.floor(given.now / minute) * minute;
  return useMemo(() => {
    const newest = view.versions[view.versions.length - 1];
    const contents = new Map(newest?.files.map((file) => [file.id, file.file]));
    const offices = roles.map((role) => [role.id, { person: role.person }] as const);
    return {
      route,
      whole,
      facts,
      author: view.author,
      hasVersion: view.newest !== null,
      fields: view.fields.filter((field) => view.fieldsOn[field.file] === contents.get(field.file)),
      files: view.documents.map((id) => ({ id, takesFields: !view.withoutFields.includes(contents.get(id) ?? '') })),
      factTypes: view.factTypes,
      record: view.recordFacts,
      groups: new Map<string, { readonly members: readonly string[] }>([
        ...groups.map((group) => [group.id, group] as const),
        // Until they are known there is somebody, whoever that is.
        ...units
          .filter(({ id }) => asked.includes(id))
          .map(
            ({ id, people: n }) =>
              [unitGroup(id), { members: people?.[id] ?? (n > 0 ? [unitGroup(id)] : []) }] as const,
          ),
      ]),
      roles: new Map([...view.roles.map((one) => [one.role, { person: one.person }] as const), ...offices]),
      now,
      person: (id) => {
        const known = person(id);
        return known ? { name: known.name, active: known.state !== 'left', outside: known.kind === 'outside' } : null;
      },
      clock,
      same: (a, b) => a === b || (person(a)?.email !== undefined && person(a)?.email === person(b)?.email),
      authorApproves: rules.includes('authorApproves'),
      absences,
      standIn: (id) => {
        const unit = units.find((one) => one.id === person(id)?.unit);
        return [unit?.deputy, unit?.lead].find((one) => one && one !== id) ?? null;
      },
    };
  }, [view, route, whole, facts, groups, roles, rules, absences, units, asked, people, person, clock, now]);
}
