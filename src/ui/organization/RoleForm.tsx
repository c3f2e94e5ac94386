'use client';

import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import type { Office } from '@/server/organization/roles';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { OnePerson } from '../parts/OnePerson';
import { PartForm } from './PartForm';
import { organizationWords as words } from './words';

/** A role and who fills it. */
export function RoleForm({
  role,
  editable,
  onDone,
}: {
  readonly role: Office | null;
  readonly editable: boolean;
  readonly onDone: (() => void) | null;
}) {
  const [id] = useState(() => role?.id ?? crypto.randomUUID());
  const [input, setInput] = useState({ name: role?.name ?? '', person: role?.person ?? null });
  const save = useTell('roles.save', { answered: () => say(words.saved(input.name)), after: () => onDone?.() });
  const remove = useTell('roles.remove', { answered: () => say(words.removed(input.name)) });
  return (
    <PartForm
      label={role?.name ?? words.add.roles}
      name={input.name}
      onName={(name) => setInput({ ...input, name })}
      editable={editable}
      changed={!role || input.name !== role.name || input.person !== role.person}
      busy={save.isPending}
      error={save.error ?? remove.error}
      onSave={() => save.mutate({ id, ...input })}
      onRemove={role ? () => remove.mutate({ id }) : null}
      onDone={onDone}
    >
      <Box w="320px">
        <OnePerson
          label={words.filledBy}
          person={input.person}
          onPerson={(who) => setInput({ ...input, person: who?.person ?? null })}
        />
      </Box>
    </PartForm>
  );
}
