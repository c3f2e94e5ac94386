'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { type Level, levels } from '@/core/circulation/telling/preferences';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { Choose, Fault } from '../parts/form';
import { circulationWords } from './words';

const words = circulationWords.following;

/** How much of this circulation one wants to be told. */
export function Following({ circulation }: { readonly circulation: string }) {
  const { data: level } = useAsk('told.level', { circulation });
  const follow = useTell('told.follow', { answered: (_, input) => say(words.said[input.level]) });
  if (level === undefined) return null;
  return (
    <Box mt="12px">
      <Flex gap="10px" align="center" fontSize="13.5px">
        <chakra.label htmlFor="following" color="quiet" flex="none">
          {words.label}
        </chakra.label>
        <Choose
          id="following"
          w="230px"
          value={follow.isPending ? follow.variables.level : level}
          onChange={(event) => follow.mutate({ circulation, level: event.target.value as Level })}
        >
          {levels.map((one) => (
            <option key={one} value={one}>
              {words.levels[one]}
            </option>
          ))}
        </Choose>
      </Flex>
      <Fault error={follow.error} />
    </Box>
  );
}
