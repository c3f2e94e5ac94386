'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Person } from '@/server/admin/people';
import { useOrganization } from '../data/organization';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { Choose, Fault, FormField } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.people;

/** To which unit somebody belongs, and by whose calendar they work; saved as it is chosen. */
export function PersonPlace({ person }: { readonly person: Person }) {
  const { units, calendars } = useOrganization();
  const place = useTell('people.place', { answered: () => say(words.saved(person.name)) });
  const put = (part: { unit?: string | null; calendar?: string | null }) =>
    place.mutate({ person: person.id, unit: person.unit, calendar: person.calendar, ...part });
  return (
    <Flex gap="16px" mt="10px" flexWrap="wrap">
      <Box w="220px">
        <FormField label={words.unit}>
          {(props) => (
            <Choose
              {...props}
              value={person.unit ?? ''}
              onChange={(event) => put({ unit: event.target.value || null })}
            >
              <option value="">{words.noUnit}</option>
              {units.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Choose>
          )}
        </FormField>
      </Box>
      <Box w="220px">
        <FormField label={words.calendar}>
          {(props) => (
            <Choose
              {...props}
              value={person.calendar ?? ''}
              onChange={(event) => put({ calendar: event.target.value || null })}
            >
              <option value="">{words.usualCalendar}</option>
              {calendars.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Choose>
          )}
        </FormField>
      </Box>
      <Fault error={place.error} />
    </Flex>
  );
}
