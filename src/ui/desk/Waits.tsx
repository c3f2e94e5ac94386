'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { daysBetween } from '@/core/time/zone';
import type { WaitRow } from '@/server/desk/view';
import { usePeople } from '../data/people';
import { useAsk, useTimes } from '../data/use';
import { WordButton } from '../parts/buttons';
import { PersonName, Tray } from '../parts/parts';
import { partWords } from '../parts/words';
import { ToldList } from './ToldList';
import { doWords, deskWords as words } from './words';

/** The tray of the Desk: for whom what this person sent is waiting, and what has happened in it. */
export function Waits({ waits: known }: { readonly waits: readonly WaitRow[] | null }) {
  const times = useTimes();
  const { name } = usePeople();
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const now = times.now();
  const waits = known ?? [];
  const longest = waits[0];
  const fresh = useAsk('told.list', { all: false }).data?.fresh ?? 0;
  return (
    <Tray
      label={words.waitsLabel}
      open={open}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          <chakra.span fontWeight={600}>
            {waits.length > 0
              ? words.waits(
                  new Set(waits.map((wait) => `${wait.circulation} ${wait.seat || wait.doing}`)).size,
                  new Set(waits.map((wait) => wait.circulation)).size,
                )
              : known
                ? words.waitsNone
                : partWords.loading}
          </chakra.span>
          {fresh > 0 && <chakra.span fontWeight={600}>{words.told.fresh(fresh)}</chakra.span>}
          {longest && (
            <chakra.span color="quiet" truncate>
              {words.longest(name(longest.person), Math.max(0, daysBetween(times.zone, longest.since, now)))}
            </chakra.span>
          )}
        </>
      }
    >
      <Grid templateColumns={{ base: '1fr', lg: '1.25fr 1fr' }} gap="16px 40px">
        <Box as="section" aria-label={words.waitsLabel} minW={0}>
          <chakra.h2 fontSize="13.5px" mb="4px">
            {words.waitsLabel}
          </chakra.h2>
          {waits.length === 0 && <Box color="quiet">{words.waitsNone}.</Box>}
          {waits.map((wait) => (
            <Flex
              key={`${wait.circulation} ${wait.person} ${wait.doing} ${wait.seat}`}
              gap="16px"
              py="4px"
              align="center"
            >
              <Box w="160px">
                <PersonName id={wait.person} />
              </Box>
              <Box w="80px">{doWords[wait.doing].toLowerCase()}</Box>
              <Box w="96px" color="quiet">
                {wait.number}
              </Box>
              <Box flex="1" truncate>
                {wait.title}
              </Box>
              <Box color={wait.due !== null && wait.due < now ? 'copperText' : 'quiet'}>
                {wait.due !== null ? words.due(times.moment(wait.due)) : words.since(times.day(wait.since))}
              </Box>
              <WordButton onClick={() => router.push(`/circulations/${wait.circulation}`)}>
                {words.openCirculation}
              </WordButton>
            </Flex>
          ))}
        </Box>
        <ToldList />
      </Grid>
    </Tray>
  );
}
