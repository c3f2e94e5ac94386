'use client';

import { Box, Flex } from '@chakra-ui/react';
import { personOf, type Seat, stagesOf } from '@/core/route/route';
import { verbWords } from '../line/words';
import { ChoiceField, FormField } from '../parts/form';
import { TimeInput } from '../parts/TimeInput';
import { SeatContent } from './SeatContent';
import type { Planning } from './usePlanning';
import { useClock } from './useSubject';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** What holds for one seat alone: its times, and what it decides on. */
export function SeatDetails({ seat, planning }: { readonly seat: Seat; readonly planning: Planning }) {
  const { edit } = planning;
  const clock = useClock()(personOf(seat.assignment));
  const set = (change: Partial<Pick<Seat, 'due' | 'closes'>>) =>
    edit({ do: 'changeSeat', seat: seat.id, with: change });
  const stages = stagesOf(planning.route);
  return (
    <Box pl="32px" pb="6px" borderLeft="2px solid" borderColor="hairline" ml="11px" mb="6px">
      <Flex gap="14px" flexWrap="wrap">
        <Box flex="1" minW="190px">
          <FormField label={words.ownDue}>
            {(props) => <TimeInput {...props} value={seat.due} clock={clock} onChange={(due) => set({ due })} />}
          </FormField>
        </Box>
        <Box flex="1" minW="190px">
          <FormField label={words.ownCloses}>
            {(props) => (
              <TimeInput {...props} value={seat.closes} clock={clock} onChange={(closes) => set({ closes })} />
            )}
          </FormField>
        </Box>
      </Flex>
      {stages.length > 1 && (
        <Box maxW="260px">
          <ChoiceField
            label={words.inStageOf}
            value={stages.find((stage) => stage.seats.some(({ id }) => id === seat.id))?.id ?? ''}
            onChange={(event) => {
              const to = stages.find((stage) => stage.id === event.target.value);
              if (to) edit({ do: 'moveSeat', seat: seat.id, to: { stage: to.id, at: to.seats.length } });
            }}
          >
            {stages.map((stage, i) => (
              <option key={stage.id} value={stage.id}>
                {words.stageOf(verbWords[stage.verb], i + 1)}
              </option>
            ))}
          </ChoiceField>
        </Box>
      )}
      <SeatContent seat={seat} planning={planning} />
    </Box>
  );
}
