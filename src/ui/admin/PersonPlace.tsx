'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Person } from '@/server/admin/people';
import { useOrganization } from '../data/organization';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { Fault, NamedChoice } from '../parts/form';
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
        <NamedChoice
          label={words.unit}
          none={words.noUnit}
          of={offered}
          value={person.unit}
          onValue={(unit) => put({ unit })}
        />
      </Box>
      <Box w="220px">
        <NamedChoice
          label={words.calendar}
          none={words.usualCalendar}
          of={calendars}
          value={person.calendar}
          onValue={(calendar) => put({ calendar })}
        />
      </Box>
      <Fault error={place.error} />
    </Flex>
  );
}
