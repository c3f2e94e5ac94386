'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Unit } from '@/server/organization/units';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { OnePerson } from '../parts/OnePerson';
import { PartForm } from './PartForm';
import { organizationWords as words } from './words';

/** A unit with its lead and deputy. */
export function UnitForm({
  unit,
  editable,
  removable,
  onDone,
}: {
  readonly unit: Unit | null;
  readonly editable: boolean;
  readonly removable: boolean;
  readonly onDone: (() => void) | null;
}) {
  const [id] = useState(() => unit?.id ?? crypto.randomUUID());
  const [input, setInput] = useState({
    name: unit?.name ?? '',
    lead: unit?.lead ?? null,
    deputy: unit?.deputy ?? null,
  });
  const set = (part: Partial<typeof input>) => setInput({ ...input, ...part });
  const save = useTell('units.save', {
    answered: () => say(words.saved(input.name)),
    after: () => onDone?.(),
  });
  const remove = useTell('units.remove', { answered: () => say(words.removed(input.name)) });
  return (
    <PartForm
      label={unit?.name ?? words.add.units}
      name={input.name}
      onName={(name) => set({ name })}
      editable={editable}
      changed={!unit || input.name !== unit.name || input.lead !== unit.lead || input.deputy !== unit.deputy}
      busy={save.isPending}
      error={save.error ?? remove.error}
      onSave={() => save.mutate({ id, ...input })}
      onRemove={unit && removable ? () => remove.mutate({ id }) : null}
      onDone={onDone}
    >
      <Flex gap="28px" flexWrap="wrap">
        <Box w="320px">
          <OnePerson
            label={words.lead}
            insideOnly
            person={input.lead}
            onPerson={(who) => set({ lead: who?.person ?? null })}
          />
        </Box>
        <Box w="320px">
          <OnePerson
            label={words.deputy}
            insideOnly
            person={input.deputy}
            onPerson={(who) => set({ deputy: who?.person ?? null })}
          />
        </Box>
      </Flex>
      <Box color="quiet" fontSize="13px" mt="8px">
        {words.unitMore}
      </Box>
    </PartForm>
  );
}
