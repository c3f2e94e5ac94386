'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { useOrganization } from '../data/organization';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useMe, useTell, useTimes } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { AbsenceForm } from './AbsenceForm';
import { useCoverWords } from './coverWords';
import { adminWords } from './words';

const words = adminWords.away;

/** When somebody is away and who covers for them; `changes` says whether the reader may set it. */
export function Absences({ person, changes }: { readonly person: string; readonly changes: boolean }) {
  const { absences } = useOrganization();
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const said = useCoverWords();
  const [adding, setAdding] = useState(false);
  const end = useTell('absences.end', { answered: () => say(words.ended) });
  const own = absences.filter((absence) => absence.person === person);
  const self = me?.me.id === person;
  const now = times.now();
  return (
    <>
      {own.length === 0 && !adding && <Box color="quiet">{self ? words.noneOwn : words.none(name(person))}</Box>}
      {own.map((absence) => (
        <Flex key={absence.id} py="5px" gap="14px" align="baseline" flexWrap="wrap">
          <Box flex="1" minW="220px">
            <Box fontWeight={600}>
              {absence.from <= now
                ? words.until(times.moment(absence.to))
                : words.span(times.moment(absence.from), times.moment(absence.to))}
            </Box>
            <Box color={absence.covers.length > 0 ? 'quiet' : 'copperText'}>
              {absence.covers.length > 0 ? absence.covers.map(said).join('; ') : words.nobody}
            </Box>
          </Box>
          {changes && (
            <WordButton onClick={() => end.mutate({ id: absence.id })}>
              {absence.from <= now ? words.end : words.remove}
            </WordButton>
          )}
        </Flex>
      ))}
      <Fault error={end.error} />
      {changes &&
        (adding ? (
          <AbsenceForm person={person} onDone={() => setAdding(false)} />
        ) : (
          <Flex justify="flex-end" mt="8px">
            <SideButton onClick={() => setAdding(true)}>{self ? words.addOwn : words.add}</SideButton>
          </Flex>
        ))}
    </>
  );
}
