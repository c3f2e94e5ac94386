'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useState } from 'react';
import { isLate } from '@/core/time/press';
import { daysBetween } from '@/core/time/zone';
import type { WaitRow } from '@/server/desk/view';
import { usePeople } from '../data/people';
import { useAsk, useTimes } from '../data/use';
import { Link } from '../parts/Link';
import { PersonName, Tray } from '../parts/parts';
import { look } from '../theme/look';
import { ToldList } from './ToldList';
import { doWords, deskWords as words } from './words';

/** The tray of the Desk: for whom what this person sent is waiting, and what has happened in it. */
export function Waits({ waits: known }: { readonly waits: readonly WaitRow[] | null }) {
  const times = useTimes();
  const { name } = usePeople();
  const [open, setOpen] = useState(false);
  const now = times.now();
  const waits = known ?? [];
  const longest = waits[0];
  const fresh = useAsk('told.list', { all: false }).data?.fresh ?? 0;
  return (
    <Tray
      label={words.tray}
      open={open}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          {known && (
            <span className={look('strong')}>
              {waits.length > 0
                ? words.waits(
                    new Set(waits.map((wait) => `${wait.circulation} ${wait.seat || wait.doing}`)).size,
                    new Set(waits.map((wait) => wait.circulation)).size,
                  )
                : words.waitsNone}
            </span>
          )}
          {fresh > 0 && <span className={look('strong')}>{words.told.fresh(fresh)}</span>}
          {longest && (
            <span className={look('quiet', 'cut')}>
              {words.longest(name(longest.person), Math.max(0, daysBetween(times.zone, longest.since, now)))}
            </span>
          )}
        </>
      }
    >
      <Grid templateColumns={{ base: '1fr', lg: '1.25fr 1fr' }} gap="16px 40px">
        <Box as="section" aria-label={words.waitsLabel} minW={0}>
          <chakra.h2 fontSize="13.5px" mb="4px">
            {words.waitsLabel}
          </chakra.h2>
          {known && waits.length === 0 && <Box color="quiet">{words.waitsNone}.</Box>}
          {waits.map((wait) => (
            <Flex
              key={`${wait.circulation} ${wait.person} ${wait.doing} ${wait.seat}`}
              gap="14px"
              minH="32px"
              align="center"
            >
              <Box w="150px" flex="none" truncate>
                <PersonName id={wait.person} />
              </Box>
              <Box w="88px" flex="none">
                {doWords[wait.doing].toLowerCase()}
              </Box>
              <chakra.span color="pine" flex="none" w="92px" lineHeight="28px" asChild>
                <Link href={`/circulations/${wait.circulation}`}>{wait.number}</Link>
              </chakra.span>
              <Box flex="1" minW={0} truncate title={wait.title}>
                {wait.title}
              </Box>
              <Box flex="none" color={isLate(wait.due, now) ? 'copperText' : 'quiet'}>
                {wait.due !== null ? words.due(times.moment(wait.due)) : words.since(times.day(wait.since))}
              </Box>
            </Flex>
          ))}
        </Box>
        <ToldList />
      </Grid>
    </Tray>
  );
}
