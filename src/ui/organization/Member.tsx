'use client';

import { Box, Flex } from '@chakra-ui/react';
import { usePeople } from '../data/people';
import { WordButton } from '../parts/buttons';
import { PersonName } from '../parts/parts';
import { organizationWords as words } from './words';

/** One of the people of a group or a unit, to be removed where `onRemove` is given. */
export function Member({ person, onRemove }: { readonly person: string; readonly onRemove: (() => void) | null }) {
  const { name } = usePeople();
  return (
    <Flex gap="8px" align="center" w="270px">
      <Box flex="1" minW={0}>
        <PersonName id={person} />
      </Box>
      {onRemove && (
        <WordButton color="oxblood" fontWeight={500} aria-label={`${words.remove}: ${name(person)}`} onClick={onRemove}>
          {words.remove}
        </WordButton>
      )}
    </Flex>
  );
}
