'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { Fragment } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { Notices } from '../parts/Notices';
import { Comments } from './Comments';
import { eventWords, heldWords, outcomeWords, circulationWords as words } from './words';

/** Trail, files and comments of a circulation, side by side. */
export function TrayContent({ view }: { readonly view: CirculationView }) {
  return (
    <Grid templateColumns={{ base: '1fr', md: '1.3fr 1fr 1fr' }} gap="32px">
      <Trail view={view} />
      <Files view={view} />
      <Box>
        <chakra.h2 fontSize="13.5px" mb="6px">
          {words.tray.comments}
        </chakra.h2>
        <Comments view={view} />
      </Box>
    </Grid>
  );
}

function Trail({ view }: { readonly view: CirculationView }) {
  const { name } = usePeople();
  const times = useTimes();
  const seats = new Map(view.seats.map((seat) => [seat.id, seat]));
  const stages = new Map(view.stages.map((stage) => [stage.id, stage]));
  return (
    <Box>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.tray.trail}
      </chakra.h2>
      {view.trail
        .slice()
        .reverse()
        .map((event) => {
          const data = event.data as Record<string, unknown>;
          const text = (key: string) => (typeof data[key] === 'string' ? (data[key] as string) : '');
          const seat = seats.get(text('seat'));
          const holder = text('holder') || text('from') || seat?.holder || '';
          const to =
            typeof data.to === 'object' && data.to
              ? ((data.to as { person?: string }).person ?? '')
              : text('to') || text('person');
          const version = (data.version as { number?: number } | undefined)?.number ?? data.version;
          return (
            <Flex key={event.sequence} gap="12px" py="2px" fontSize="13.5px">
              <Box w="30px" color="quiet" textAlign="end" flex="none">
                {event.sequence}
              </Box>
              <Box w="124px" color="quiet" flex="none">
                {times.moment(event.at)}
              </Box>
              <Box minW={0}>
                {eventWords(event.type, {
                  who: name(event.actor),
                  seat: holder ? name(holder) : '',
                  to: to ? name(to) : '',
                  verb: verbWords[stages.get(text('stage'))?.verb ?? 'review'],
                  outcome: data.outcome ? outcomeWords[data.outcome as keyof typeof outcomeWords] : '',
                  version: String(version ?? ''),
                  round: String(data.round ?? ''),
                  due: typeof data.due === 'number' ? times.moment(data.due) : '',
                  held: data.for ? heldWords[data.for as keyof typeof heldWords] : '',
                  onBehalfOf: event.onBehalfOf ? name(event.onBehalfOf) : null,
                })}
                {event.note && <chakra.span color="quiet"> “{event.note}”</chakra.span>}
              </Box>
            </Flex>
          );
        })}
      <Box color="quiet" fontSize="13px" mt="8px">
        {words.number(view.number)}
      </Box>
    </Box>
  );
}

function Files({ view }: { readonly view: CirculationView }) {
  const file = (hash: string, name: string, note: string) => (
    <Flex key={`${hash} ${note}`} gap="10px" py="2px" fontSize="13.5px">
      <chakra.span color="pine" truncate asChild>
        <a href={`/file/circulation/${view.id}/${hash}`} target="_blank" rel="noreferrer">
          {name}
        </a>
      </chakra.span>
      <Box color="quiet" flex="none">
        {note}
      </Box>
    </Flex>
  );
  const newest = view.versions[view.versions.length - 1];
  const nameOf = (id: string) => newest?.files.find((entry) => entry.id === id)?.name ?? words.final;
  return (
    <Box minW={0}>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.tray.files}
      </chakra.h2>
      {(view.finals?.files ?? []).map((final) => file(final.file, nameOf(final.id), words.final))}
      {view.finals && file(view.finals.evidence, words.evidence, words.evidenceNote)}
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
