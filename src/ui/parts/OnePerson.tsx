'use client';

import { Box, Flex } from '@chakra-ui/react';
import { type ComponentProps, useState } from 'react';
import type { Assignee } from '@/core/route/route';
import { WordButton } from './buttons';
import { PeoplePicker } from './PeoplePicker';
import { PersonName } from './parts';
import { partWords } from './words';

/** One person to be chosen: the picker until somebody is, then who it is and a way to choose somebody else. */
export function OnePerson({
  person,
  onPerson,
  again = false,
  ...picker
}: Omit<ComponentProps<typeof PeoplePicker>, 'onPick'> & {
  readonly person: string | null;
  readonly onPerson: (who: Assignee | null) => void;
  /** Whether somebody who is chosen stays so until another one is. */
  readonly again?: boolean;
}) {
  const [changing, setChanging] = useState(false);
  const pick = (who: Assignee | null) => {
    setChanging(false);
    onPerson(who);
  };
  return (
    <>
      <Box fontSize="13px" color="quiet" mb="4px">
        {picker.label}
      </Box>
      {person && !changing ? (
        <Flex gap="10px" align="center" minH="36px">
          <PersonName id={person} />
          <WordButton onClick={() => (again ? setChanging(true) : onPerson(null))}>{partWords.somebodyElse}</WordButton>
        </Flex>
      ) : (
        <PeoplePicker {...picker} onPick={pick} />
      )}
    </>
  );
}
