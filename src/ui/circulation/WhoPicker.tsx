'use client';

import { useState } from 'react';
import { type Assignment, documentRoles } from '@/core/route/route';
import { useAssignments, useOrganization } from '../data/organization';
import { type Choice, PeoplePicker } from '../parts/PeoplePicker';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** Finds who is asked by typing: people, and the groups, units, roles and earlier seats that a route may name instead. */
export function WhoPicker({
  label,
  exclude,
  why,
  namers = [],
  insideOnly = false,
  focused = false,
  onPick,
}: {
  readonly label: string;
  readonly exclude: readonly string[];
  readonly why?: (person: string) => string | null;
  /** Earlier seats that could name somebody, and what each is called. */
  readonly namers?: readonly { readonly seat: string; readonly name: string }[];
  readonly insideOnly?: boolean;
  readonly focused?: boolean;
  readonly onPick: (assignment: Assignment) => void;
}) {
  const { units, groups, roles } = useOrganization();
  const { called, letters, roleName } = useAssignments();
  const [count, setCount] = useState(0);
  const choices: readonly Choice<Assignment>[] = [
    ...groups.map((group) => ({
      key: `group ${group.id}`,
      label: group.name,
      side: words.groupOf(group.members.length),
      letters: letters({ kind: 'group', group: group.id, members: 'any' }),
      value: { kind: 'group', group: group.id, members: 'any' } as const,
    })),
    ...units.flatMap(({ id: unit, name, people }) => [
      {
        key: `unit ${unit}`,
        label: name,
        side: words.unitOf(people),
        letters: letters({ kind: 'unit', unit, members: 'any' }),
        value: { kind: 'unit', unit, members: 'any' } as const,
      },
      {
        key: `lead ${unit}`,
        label: called({ kind: 'unit', unit, members: 'lead' }),
        side: words.role,
        letters: letters({ kind: 'unit', unit, members: 'lead' }),
        value: { kind: 'unit', unit, members: 'lead' } as const,
      },
    ]),
    ...[...roles.map((role) => role.id), ...documentRoles].map((role) => ({
      key: `role ${role}`,
      label: roleName(role),
      side: words.role,
      letters: letters({ kind: 'role', role }),
      value: { kind: 'role', role } as const,
    })),
    ...namers.map(({ seat, name }) => ({
      key: `named ${seat}`,
      label: words.namedBy(name),
      side: words.namedLater,
      letters: '?',
      value: { kind: 'named', by: seat } as const,
    })),
  ];
  return (
    <PeoplePicker
      key={count}
      label={label}
      exclude={exclude}
      insideOnly={insideOnly}
      {...(why ? { why } : {})}
      choices={choices}
      focused={focused || count > 0}
      offers={focused}
      onChoose={(value) => {
        setCount(count + 1);
        onPick(value);
      }}
      onPick={onPick}
    />
  );
}
