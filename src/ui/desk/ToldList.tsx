'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { useAsk, useTell, useTimes } from '../data/use';
import { WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Link } from '../parts/Link';
import { deskWords } from './words';

const words = deskWords.told;

/** What has happened in one's circulations, the newest first, until one puts it away. */
export function ToldList() {
  const times = useTimes();
  const [all, setAll] = useState(false);
  const { data } = useAsk('told.list', { all });
  const putAway = useTell('told.putAway');
  if (!data) return null;
  const [newest] = data.rows;
  return (
    <Box as="section" aria-label={words.title} minW={0}>
      <Flex gap="16px" align="baseline" mb="4px">
        <chakra.h2 fontSize="13.5px" flex="1">
          {words.title}
        </chakra.h2>
        {data.fresh > 0 && newest && (
          <WordButton disabled={putAway.isPending} onClick={() => putAway.mutate({ until: newest.at })}>
            {words.putAway}
          </WordButton>
        )}
        <WordButton aria-pressed={all} onClick={() => setAll(!all)}>
          {all ? words.freshOnly : words.earlier}
        </WordButton>
      </Flex>
      {data.rows.length === 0 && <Box color="quiet">{words.none}</Box>}
      {data.rows.map((row) => (
        <Flex key={row.id} gap="14px" py="2px" lineHeight="24px">
          <Box w="124px" flex="none" color="quiet">
            {times.moment(row.at)}
          </Box>
          <chakra.span color={row.read ? 'quiet' : 'ink'} display="block" minW={0} asChild>
            <Link href={row.path || '/desk'} dir="auto">
              {row.text}
            </Link>
          </chakra.span>
        </Flex>
      ))}
      <Fault error={putAway.error} />
    </Box>
  );
}
