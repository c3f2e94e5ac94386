'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Unit } from '@/server/organization/units';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { Fault } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Member } from './Member';
import { PartForm } from './PartForm';
import { organizationWords as words } from './words';

/** Who belongs to a unit, saved as they are added and removed. */
function UnitPeople({
  unit,
  editable,
  administers,
}: {
  readonly unit: string;
  readonly editable: boolean;
  readonly administers: boolean;
}) {
  const { name } = usePeople();
  const people = useAsk('units.people', { units: [unit] }).data?.[unit] ?? [];
  const place = useTell('people.place', { answered: (_value, sent) => say(words.saved(name(sent.person))) });
  return (
    <Box mt="14px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.unitHas}
      </Box>
      {people.length === 0 && <Box>{words.unitNobody}</Box>}
      <Flex columnGap="24px" rowGap="2px" flexWrap="wrap" mb="8px">
        {people.map((person) => (
          <Member
            key={person}
            person={person}
            onRemove={editable ? () => place.mutate({ person, unit: null }) : null}
          />
        ))}
      </Flex>
      {administers && (
        <Box maxW="420px">
          <PeoplePicker
            label={words.unitAdd}
            insideOnly
            exclude={people}
            why={(person) => words.unitIn(name(person))}
            onPick={({ person }) => place.mutate({ person, unit })}
          />
        </Box>
      )}
      <Fault error={place.error} />
    </Box>
  );
}

/** A unit with its lead and deputy, and who belongs to it. */
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
      {unit && <UnitPeople unit={unit.id} editable={editable} administers={removable} />}
    </PartForm>
  );
}
