'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { Fragment } from 'react';
import { sentence } from '@/core/circulation/telling/sentences';
import type { CirculationView } from '@/server/circulation/view';
import { useNamesThen, usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { Link } from '../parts/Link';
import { Notices } from '../parts/Notices';
import { barOf } from '../signing/barOf';
import { signingWords } from '../signing/words';
import { Comments } from './Comments';
import { useValueWords } from './conditionWords';
import { Following } from './Following';
import { ForecastBand } from './ForecastBand';
import { OwnNote } from './OwnNote';
import { circulationWords as words } from './words';

/** The forecast of a circulation, and below it trail, files and comments side by side. */
export function TrayContent({ view }: { readonly view: CirculationView }) {
  return (
    <>
      <ForecastBand view={view} />
      <Grid templateColumns={{ base: '1fr', md: '1.3fr 1fr 1fr' }} gap="32px">
        <Trail view={view} />
        <Box minW={0}>
          <Files view={view} />
          <Following circulation={view.id} />
          <OwnNote circulation={view.id} />
        </Box>
        <Box>
          <chakra.h2 fontSize="13.5px" mb="6px">
            {words.tray.comments}
          </chakra.h2>
          <Comments view={view} />
        </Box>
      </Grid>
    </>
  );
}

function Trail({ view }: { readonly view: CirculationView }) {
  const name = useNamesThen(view.past);
  const times = useTimes();
  const value = useValueWords();
  return (
    <Box>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.tray.trail}
      </chakra.h2>
      {view.trail
        .slice()
        .reverse()
        .map((line) => (
          <Flex key={line.sequence} gap="12px" py="1px" fontSize="13.5px" lineHeight="24px">
            <Box w="30px" color="quiet" textAlign="end" flex="none">
              {line.sequence}
            </Box>
            <Box w="124px" color="quiet" flex="none">
              <chakra.span display="block" textDecoration="underline" textUnderlineOffset="2px" asChild>
                <Link
                  href={`/circulations/${view.id}?at=${line.sequence}`}
                  title={words.asItWas.open}
                  aria-label={`${times.moment(line.at)}: ${words.asItWas.open}`}
                >
                  {times.moment(line.at)}
                </Link>
              </chakra.span>
            </Box>
            <Box minW={0}>
              {sentence(line, { name, moment: times.moment, value })}
              {line.note && (
                <chakra.span color="quiet">
                  {' '}
                  “<bdi>{line.note}</bdi>”
                </chakra.span>
              )}
            </Box>
          </Flex>
        ))}
      <Box color="quiet" fontSize="13px" mt="8px">
        {words.number(view.number)}
      </Box>
    </Box>
  );
}

function Files({ view }: { readonly view: CirculationView }) {
  const { name } = usePeople();
  const file = (hash: string, name: string, note: string) => (
    <Flex key={`${hash} ${note}`} gap="10px" fontSize="13.5px" lineHeight="24px">
      {view.sight[hash]?.download === null ? (
        <chakra.span color="pine" truncate lineHeight="24px" asChild>
          <a href={`/file/circulation/${view.id}/${hash}`} target="_blank" rel="noreferrer">
            {name}
          </a>
        </chakra.span>
      ) : (
        <chakra.span truncate>{name}</chakra.span>
      )}
      <Box color="quiet" flex="none">
        {note}
      </Box>
      {/\.pdf$/i.test(name) && view.sight[hash]?.print === null && (
        <chakra.span color="pine" flex="none" lineHeight="24px" display="block" asChild>
          <a href={`/file/circulation/${view.id}/${hash}?print`} target="_blank" rel="noreferrer">
            {words.print}
          </a>
        </chakra.span>
      )}
    </Flex>
  );
  const newest = view.versions[view.versions.length - 1];
  const bar = barOf(view, newest?.files ?? []);
  const nameOf = (id: string) => newest?.files.find((entry) => entry.id === id)?.name ?? words.final;
  return (
    <Box minW={0}>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.tray.files}
      </chakra.h2>
      {bar && (
        <Box color="quiet" fontSize="13px" mb="4px">
          {signingWords.noDownload[bar]}
        </Box>
      )}
      {(view.finals?.files ?? []).map((final) => file(final.file, nameOf(final.id), words.final))}
      {view.evidence && file(view.evidence, words.evidence, words.evidenceNote)}
      {view.copies
        .filter((board) => board.status === 'sent')
        .map((board) => (
          <Box key={board.id} color="quiet" fontSize="13px" mb="4px">
            {words.copiesSent(board.to.map(({ person }) => name(person)).join(', '), board.version ?? 0)}
          </Box>
        ))}
      {view.versions
        .slice()
        .reverse()
        .map((version) => (
          <Box key={version.number} mb="6px">
            {version.files.map((entry) => (
              <Fragment key={entry.id}>
                {file(
                  entry.file,
                  entry.name,
                  `${words.version(version.number)}, ${entry.role === 'document' ? words.main : words.attachment}`,
                )}
                <Notices notices={entry.notices} noFields={entry.noFields} />
              </Fragment>
            ))}
          </Box>
        ))}
    </Box>
  );
}
