'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Seat, Stage } from '@/core/route/route';
import { usePeople } from '../data/people';
import { SideButton, WordButton } from '../parts/buttons';
import { PeoplePicker } from '../parts/PeoplePicker';
import { PersonName } from '../parts/parts';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** Who is asked in a stage, in their order. */
export function StagePeople({
  stage,
  author,
  set,
}: {
  readonly stage: Stage;
  readonly author: string;
  readonly set: (part: Partial<Stage>) => void;
}) {
  const { name } = usePeople();
  const moveSeat = (at: number, by: -1 | 1) => {
    const seats = stage.seats.slice();
    const [moved] = seats.splice(at, 1);
    if (moved) seats.splice(at + by, 0, moved);
    set({ seats });
  };
  const setSeats = (seats: readonly Seat[]) =>
    set({ seats, rule: stage.rule.kind === 'atLeast' && stage.rule.k > seats.length ? { kind: 'all' } : stage.rule });
  return (
    <Box flex="1.2" minW="300px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.people}
      </Box>
      {stage.seats.map((seat, i) => (
        <Flex key={seat.id} align="center" gap="8px" py="3px">
          <Box flex="1" minW={0}>
            <PersonName id={seat.assignment.person} />
          </Box>
          <SideButton
            minH="28px"
            px="8px"
            disabled={i === 0}
            aria-label={words.personEarlier(name(seat.assignment.person))}
            onClick={() => moveSeat(i, -1)}
          >
            ↑
          </SideButton>
          <SideButton
            minH="28px"
            px="8px"
            disabled={i === stage.seats.length - 1}
            aria-label={words.personLater(name(seat.assignment.person))}
            onClick={() => moveSeat(i, 1)}
          >
            ↓
          </SideButton>
          <WordButton
            aria-label={`${words.remove}: ${name(seat.assignment.person)}`}
            onClick={() => setSeats(stage.seats.filter((other) => other !== seat))}
          >
            {words.remove}
          </WordButton>
        </Flex>
      ))}
      <PeoplePicker
        label={words.addPerson}
        exclude={[...stage.seats.map((seat) => seat.assignment.person), ...(stage.verb === 'approve' ? [author] : [])]}
        why={(person) =>
          stage.seats.some((seat) => seat.assignment.person === person)
            ? words.inStage(name(person))
            : words.isAuthor(name(person))
        }
        onPick={(assignment) => setSeats([...stage.seats, { id: crypto.randomUUID(), assignment, files: 'all' }])}
      />
    </Box>
  );
}
