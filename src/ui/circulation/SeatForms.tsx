'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignment } from '@/core/route/route';
import { afterWorkingDays } from '@/core/time/zone';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton } from '../parts/buttons';
import { Fault, FormField, WordsField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { PeoplePicker } from '../parts/PeoplePicker';
import { needsOf } from './offers';
import type { SeatRow } from './seatColumns';
import { useAct } from './useAct';
import { circulationWords, toldWords } from './words';

const words = circulationWords.seat;

interface Base {
  readonly circulation: string;
  readonly seat: string;
}

/** More time for a seat, or asking it again. */
export function Extend({
  base,
  seat,
  again,
  onDone,
}: {
  readonly base: Base;
  readonly seat: SeatRow;
  /** They declined and are asked once more. */
  readonly again: boolean;
  readonly onDone: () => void;
}) {
  const times = useTimes();
  const [due, setDue] = useState<number | null>(afterWorkingDays(times.zone, Math.max(times.now(), seat.due ?? 0), 2));
  const [closes, setCloses] = useState<number | null>(
    seat.closes !== null && seat.closes > times.now() ? seat.closes : null,
  );
  const extend = useAct(
    again ? 'circulation.askAgain' : 'circulation.extend',
    again ? toldWords.askedAgain : toldWords.extended,
    { after: onDone },
  );
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <FormField label={words.newDue}>
          {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
        </FormField>
        <FormField label={words.newCloses}>
          {(props) => <MomentInput {...props} value={closes} onChange={setCloses} />}
        </FormField>
        <DueButton mb="14px" busy={extend.isPending} onClick={() => extend.mutate({ ...base, due, closes })}>
          {again ? words.askAgainDo : words.extendDo}
        </DueButton>
      </Flex>
      <Fault error={extend.error} />
    </Box>
  );
}

/** Somebody else takes the seat. */
export function Give({
  base,
  seat,
  view,
  onDone,
}: {
  readonly base: Base;
  readonly seat: SeatRow;
  readonly view: CirculationView;
  readonly onDone: () => void;
}) {
  const { name } = usePeople();
  const times = useTimes();
  const [to, setTo] = useState<Assignment | null>(null);
  const [text, setText] = useKeptText(`reassign.${seat.id}.${seat.epoch}`);
  const needs = needsOf(view, 'reassign', seat.id);
  const past = seat.due !== null && seat.due <= times.now();
  const [due, setDue] = useState<number | null>(
    past || needs?.timeNeeded ? afterWorkingDays(times.zone, times.now(), 2) : seat.due,
  );
  const give = useAct('circulation.reassign', (input) => toldWords.reassigned(name(input.to.person)), {
    after: () => {
      setText('');
      onDone();
    },
  });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <OnePerson label={words.giveTo} exclude={needs?.not ?? []} person={to?.person ?? null} onPerson={setTo} />
          <Box color="quiet" fontSize="13px" mt="8px">
            {words.giveWhat(name(seat.holder))}
          </Box>
        </Box>
        <Box flex="1" minW="240px">
          <FormField label={words.newDue}>
            {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
          </FormField>
          <WordsField label={words.giveWords} text={text} onText={setText} />
        </Box>
      </Flex>
      <Fault error={give.error} />
      <Flex justify="flex-end" mt="10px">
        <DueButton
          busy={give.isPending}
          disabled={!to}
          onClick={() => to && give.mutate({ ...base, to, due, note: text })}
        >
          {to ? words.giveDo(name(to.person)) : words.choose}
        </DueButton>
      </Flex>
    </Box>
  );
}

/** A second holder beside the first. */
export function Second({
  base,
  view,
  seat,
  onDone,
}: {
  readonly base: Base;
  readonly view: CirculationView;
  readonly seat: SeatRow;
  readonly onDone: () => void;
}) {
  const { name } = usePeople();
  const add = useAct('circulation.addSecondHolder', (input) => toldWords.added(name(input.person)), { after: onDone });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline" maxW="420px">
      <PeoplePicker
        label={words.secondWho}
        insideOnly
        exclude={needsOf(view, 'addSecondHolder', seat.id)?.not ?? []}
        onPick={({ person }) => add.mutate({ ...base, person })}
      />
      <Fault error={add.error} />
    </Box>
  );
}
