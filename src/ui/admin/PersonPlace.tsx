'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Person } from '@/server/admin/people';
import { useOrganization } from '../data/organization';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { ChoiceField, Fault } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.people;

/** To which unit somebody belongs, and by whose calendar they work; saved as it is chosen. A lead may let them go. */
export function PersonPlace({ person, administers }: { readonly person: Person; readonly administers: boolean }) {
  const { units, calendars } = useOrganization();
  const place = useTell('people.place', { answered: () => say(words.saved(person.name)) });
  const put = (part: { unit?: string | null; calendar?: string | null }) =>
    place.mutate({ person: person.id, ...part });
  const offered = units.filter(({ id }) => administers || id === person.unit);
  return (
    <Flex gap="16px" mt="10px" flexWrap="wrap">
      <Box w="220px">
        <ChoiceField
          label={words.unit}
          value={person.unit ?? ''}
          onChange={(event) => put({ unit: event.target.value || null })}
        >
          <option value="">{words.noUnit}</option>
          {offered.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </ChoiceField>
      </Box>
      <Box w="220px">
        <ChoiceField
          label={words.calendar}
          value={person.calendar ?? ''}
          onChange={(event) => put({ calendar: event.target.value || null })}
        >
          <option value="">{words.usualCalendar}</option>
          {calendars.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </ChoiceField>
      </Box>
      <Fault error={place.error} />
    </Flex>
  );
}
