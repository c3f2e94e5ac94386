'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { CirculationView } from '@/server/circulation/view';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { PersonName } from '../parts/parts';

type Seat = CirculationView['seats'][number];

/** What a seat is called: whoever holds it or responded, else the group, role or namer that will say who that is. */
export function useSeatNames(view: Pick<CirculationView, 'seats'>): (seat: Seat) => string {
  const { name } = usePeople();
  const { called } = useAssignments();
  const nameOf = (seat: Seat): string => {
    const person = personOfSeat(seat);
    if (person) return name(person);
    if (!seat.planned) return '';
    return called(seat.planned, (id) => {
      const namer = view.seats.find((one) => one.id === id);
      return namer && namer.id !== seat.id ? nameOf(namer) : '';
    });
  };
  return nameOf;
}

/** Who holds a seat, or responded for a group that nobody had taken it from; empty where it is nobody's yet. */
export function personOfSeat(seat: Seat): string {
  return seat.holder || (seat.decision?.by ?? '');
}

/** A seat by its person's tile and name, or in a plain frame what will say who that is. */
export function SeatPerson({
  view,
  seat,
  called,
  quiet,
}: {
  readonly view: Pick<CirculationView, 'seats'>;
  readonly seat: Seat;
  /** What the person was called, where that is told of an earlier moment. */
  readonly called?: string;
  readonly quiet?: string;
}) {
  const seatName = useSeatNames(view);
  const { letters } = useAssignments();
  const person = personOfSeat(seat);
  if (person) return <PersonName id={person} {...(called ? { called } : {})} quiet={quiet} />;
  return (
    <Flex align="center" gap="8px" minW={0}>
      <Box
        flex="none"
        w="24px"
        h="24px"
        lineHeight="22px"
        textAlign="center"
        fontSize="10.5px"
        fontWeight={700}
        border="1px dashed"
        borderColor="edge"
        borderRadius="5px"
        aria-hidden
      >
        {seat.planned ? letters(seat.planned) : '?'}
      </Box>
      <Box truncate>
        {seatName(seat)}
        {quiet && (
          <chakra.span color="quiet" ml="5px">
            {quiet}
          </chakra.span>
        )}
      </Box>
    </Flex>
  );
}
