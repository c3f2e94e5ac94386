'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { Cause } from '@/core/forecast/causes';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { forecastWords as words } from './forecastWords';
import { useSeatNames } from './SeatPerson';

/** The forecast in one line, for where there is no room for more; null where none is to be told. */
export function useForecastFact(view: CirculationView): string | null {
  const times = useTimes();
  const { forecast, missing } = view.forecast ?? {};
  if (missing) return words.missing[missing];
  if (!forecast) return null;
  return forecast.unreliable
    ? words.unreliable[forecast.unreliable as 'wide']
    : words.mostBy(times.day(forecast.dates[1]));
}

/** When it will be released, what decides that, and what has changed since the day before, side by side. */
export function ForecastBand({ view }: { readonly view: CirculationView }) {
  const times = useTimes();
  const { name } = usePeople();
  const seatName = useSeatNames(view);
  const given = view.forecast;
  if (!given) return null;
  const { forecast, shift } = given;
  const who = (id: string): string => {
    const seat = view.seats.find((one) => one.id === id);
    // A member of a group whose seats are made when its stage is reached stands behind it.
    return seat ? seatName(seat) : name(id.slice(id.indexOf('/') + 1));
  };
  const verb = (id: string): string => {
    const seat = view.seats.find((one) => one.id === id || one.id === id.split('/')[0]);
    return seat ? `${who(id)}, ${verbWords[seat.verb]}` : who(id);
  };
  const causeWords = (cause: Cause): string => {
    if (cause.kind === 'waited') return words.waited(listed(cause.seats.map(who)));
    if (cause.kind === 'away') return words.away(name(cause.person));
    if (cause.kind === 'happened') return words.happened(cause.what, cause.seat === null ? '' : who(cause.seat));
    return words[cause.kind];
  };
  if (!forecast || forecast.unreliable)
    return (
      <Band>
        <Column title={words.title}>
          <Box color="quiet">
            {forecast ? words.unreliable[forecast.unreliable as 'wide'] : given.missing && words.missing[given.missing]}
          </Box>
        </Column>
      </Band>
    );
  const whole = shift?.causes.reduce((sum, { days }) => sum + days, 0) ?? 0;
  return (
    <Band>
      <Column title={words.title}>
        {forecast.dates.map((date, i) => (
          <Line key={words.by[i]} lead={words.by[i] ?? ''} strong={i === 1}>
            {times.day(date)}
          </Line>
        ))}
        {forecast.chance !== null && view.due !== null && (
          <Box color="quiet">{words.due(times.day(view.due), forecast.chance)}</Box>
        )}
        {!given.current && <Box color="quiet">{words.stale}</Box>}
      </Column>
      {view.steers && (
        <Column title={words.decides}>
          {forecast.decides.length === 0 && <Box color="quiet">{words.decidesNone}</Box>}
          {forecast.decides.slice(0, 4).map(({ seat, percent }) => (
            <Box key={seat}>{words.decidesOf(verb(seat), percent)}</Box>
          ))}
        </Column>
      )}
      {shift && (
        <Column title={`${words.since(times.day(shift.since))}: ${words.shift(whole)}`}>
          {shift.causes.slice(0, 5).map(({ cause, days }) => (
            <Line key={JSON.stringify(cause)} lead={causeWords(cause)}>
              {words.shift(days)}
            </Line>
          ))}
        </Column>
      )}
    </Band>
  );
}

/** A few names as in a sentence. */
function listed(names: readonly string[]): string {
  const some = [...new Set(names)];
  if (some.length > 3) return `${some.slice(0, 2).join(', ')} and ${some.length - 2} more`;
  return some.length < 2 ? (some[0] ?? '') : `${some.slice(0, -1).join(', ')} and ${some[some.length - 1]}`;
}

function Band({ children }: { readonly children: ReactNode }) {
  return (
    <Grid
      templateColumns={{ base: '1fr', md: 'repeat(3, 1fr)' }}
      gap={{ base: '14px', md: '32px' }}
      pb="12px"
      mb="12px"
      borderBottom="1px solid"
      borderColor="hairline"
      fontSize="13.5px"
      lineHeight="22px"
    >
      {children}
    </Grid>
  );
}

function Column({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <Box minW={0}>
      <chakra.h2 fontSize="13.5px" mb="4px">
        {title}
      </chakra.h2>
      {children}
    </Box>
  );
}

function Line({
  lead,
  children,
  strong = false,
}: {
  readonly lead: string;
  readonly children: ReactNode;
  readonly strong?: boolean;
}) {
  return (
    <Flex gap="12px" justify="space-between">
      <Box minW={0}>{lead}</Box>
      <Box flex="none" fontWeight={strong ? 600 : 400} fontVariantNumeric="tabular-nums">
        {children}
      </Box>
    </Flex>
  );
}
