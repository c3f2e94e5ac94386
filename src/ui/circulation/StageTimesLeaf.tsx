'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { afterWorkingDays } from '@/core/time/zone';
import type { CirculationView } from '@/server/circulation/view';
import { useTimes } from '../data/use';
import { useGround } from '../data/useGround';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, FormField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf } from '../parts/parts';
import { may } from './offers';
import { useAct } from './useAct';
import { toldWords, circulationWords as words } from './words';

/** A stage that was reached after its closing time: the controller gives it a new one, or none, and it asks. */
export function StageTimesLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const times = useTimes();
  const stage = view.stages.find((candidate) => may(view, 'setTimes', candidate.id));
  const [due, setDue] = useState<number | null>(afterWorkingDays(times.zone, times.now(), 3));
  const [closes, setCloses] = useState<number | null>(null);
  const set = useAct('circulation.setTimes', toldWords.timed, { after: onDone });
  useGround(stage !== undefined, set, onDone);
  if (!stage) return null;
  const title = words.due.times(verbWords[stage.verb]);
  return (
    <Leaf label={title}>
      <Box fontWeight={600}>{title}</Box>
      <Box color="quiet" mb="8px">
        {words.now.time}
      </Box>
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <FormField label={words.seat.newDue}>
          {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
        </FormField>
        <FormField label={words.seat.newCloses}>
          {(props) => <MomentInput {...props} value={closes} onChange={setCloses} />}
        </FormField>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          mb="14px"
          busy={set.isPending}
          onClick={() => set.mutate({ circulation: view.id, stage: stage.id, due, closes })}
        >
          {words.timesDo}
        </DueButton>
      </Flex>
      <Fault error={set.error} />
    </Leaf>
  );
}
