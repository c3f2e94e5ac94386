import { useMemo } from 'react';
import { type Assignment, type documentRoles, groupAsked, personOf, unitGroup } from '@/core/route/route';
import type { OutputOf } from './client';
import { usePeople } from './people';
import { useAsk } from './use';

type View = OutputOf<'organization.view'>;

const empty: View = { units: [], groups: [], roles: [], calendars: [], rules: [], absences: [] };

const documentRoleNames: { readonly [R in (typeof documentRoles)[number]]: string } = {
  owner: 'owner of the document',
  author: 'author',
  unitLead: 'lead of the author’s unit',
  custodian: 'custodian of the document type',
};

const words = {
  any: (group: string) => `anyone of ${group}`,
  every: (group: string) => `everyone of ${group}`,
  lead: (unit: string) => `lead of ${unit}`,
  named: (name: string) => (name ? `named by ${name}` : 'still to be named'),
  gone: 'removed',
};

/** The units, groups, roles, calendars and rules of the organization, once for the whole window. */
export function useOrganization(): View {
  return useAsk('organization.view').data ?? empty;
}

/** A group or a unit any or every one of which is asked, and how many that are. */
interface Members {
  readonly name: string;
  readonly people: number;
  readonly members: 'any' | 'every';
}

/** Any or every one of whom an assignment asks; null where it asks no group. */
export function useMembers(): (assignment: Assignment) => Members | null {
  const { units, groups } = useOrganization();
  const all = [
    ...groups.map(({ id, name, members }) => ({ id, name, people: members.length })),
    ...units.map(({ id, name, people }) => ({ id: unitGroup(id), name, people })),
  ];
  return (assignment) => {
    const asked = groupAsked(assignment);
    if (!asked) return null;
    const { name = words.gone, people = 0 } = all.find(({ id }) => id === asked.group) ?? {};
    return { name, people, members: asked.members };
  };
}

/** What a seat is called that has no person: its group, its role, that somebody is still to be named. */
export function useAssignments(): {
  readonly called: (assignment: Assignment, namer?: (seat: string) => string) => string;
  readonly letters: (assignment: Assignment) => string;
  readonly roleName: (role: string) => string;
} {
  const { units, groups, roles: offices } = useOrganization();
  const { name, person } = usePeople();
  return useMemo(() => {
    const group = (id: string) => groups.find((one) => one.id === id)?.name ?? words.gone;
    const unit = (id: string) => units.find((one) => one.id === id)?.name ?? words.gone;
    const roleName = (id: string) =>
      offices.find((one) => one.id === id)?.name ??
      documentRoleNames[id as keyof typeof documentRoleNames] ??
      words.gone;
    const called = (assignment: Assignment, namer: (seat: string) => string = () => '') => {
      if (assignment.kind === 'group') return words[assignment.members](group(assignment.group));
      if (assignment.kind === 'unit') return words[assignment.members](unit(assignment.unit));
      if (assignment.kind === 'role') return roleName(assignment.role);
      if (assignment.kind === 'named') return words.named(namer(assignment.by));
      return name(assignment.person);
    };
    const initials = (text: string) => {
      const [first = '', second = ''] = text.split(/\s+/).filter((word) => /^\p{L}/u.test(word));
      return `${[...first][0] ?? '?'}${[...second][0] ?? [...first][1] ?? ''}`.toUpperCase();
    };
    const letters = (assignment: Assignment) => {
      const id = personOf(assignment);
      if (id !== null) return person(id)?.tile ?? '··';
      if (assignment.kind === 'group') return initials(group(assignment.group));
      if (assignment.kind === 'unit') return initials(unit(assignment.unit));
      return assignment.kind === 'role' ? initials(roleName(assignment.role)) : '?';
    };
    return { called, letters, roleName };
  }, [units, groups, offices, name, person]);
}
