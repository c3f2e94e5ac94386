'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { stageNouns } from '@/core/circulation/telling/nouns';
import { afterWorkingDays } from '@/core/time/zone';
import type { CirculationView } from '@/server/circulation/view';
import { useTimes } from '../data/use';
import { useGround } from '../data/useGround';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceField, Fault, FormField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf } from '../parts/parts';
import { may, needsOf } from './offers';
import { useSeatNames } from './SeatPerson';
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
  return (
    <Times
      title={words.due.times(verbWords[stage.verb])}
      what={words.now.time}
      does={words.timesDo}
      set={set}
      {...{ due, setDue, closes, setCloses, onDone }}
      onSet={() => set.mutate({ circulation: view.id, stage: stage.id, due, closes })}
    />
  );
}

/** More time for the circulation as a whole; after its closing time nobody can respond before that. */
export function WholeTimesLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const times = useTimes();
  const needs = needsOf(view, 'extendWhole');
  const now = times.now();
  const [due, setDue] = useState<number | null>(afterWorkingDays(times.zone, Math.max(now, view.due ?? 0), 3));
  const [closes, setCloses] = useState<number | null>(
    view.closes === null ? null : view.closes > now ? view.closes : afterWorkingDays(times.zone, now, 5),
  );
  const extend = useAct('circulation.extendWhole', toldWords.extended, { after: onDone });
  useGround(needs !== null, extend, onDone);
  return (
    <Times
      title={words.wholeTitle}
      what={view.closed === null ? words.wholeWhat : words.wholeClosed}
      does={words.seat.extendDo}
      set={extend}
      {...{ due, setDue, closes, setCloses, onDone }}
      onSet={() => extend.mutate({ circulation: view.id, due, closes })}
    />
  );
}

/** Two times and the act that sets them. */
function Times({
  title,
  what,
  does,
  due,
  setDue,
  closes,
  setCloses,
  set,
  onSet,
  onDone,
}: {
  readonly title: string;
  readonly what: string;
  readonly does: string;
  readonly due: number | null;
  readonly setDue: (at: number | null) => void;
  readonly closes: number | null;
  readonly setCloses: (at: number | null) => void;
  readonly set: { readonly isPending: boolean; readonly error: Parameters<typeof Fault>[0]['error'] };
  readonly onSet: () => void;
  readonly onDone: () => void;
}) {
  return (
    <Leaf label={title}>
      <Box fontWeight={600}>{title}</Box>
      <Box color="quiet" mb="8px">
        {what}
      </Box>
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <FormField label={words.seat.newDue}>
          {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
        </FormField>
        <FormField label={words.seat.newCloses}>
          {(props) => <MomentInput {...props} value={closes} onChange={setCloses} />}
        </FormField>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton mb="14px" busy={set.isPending} onClick={onSet}>
          {does}
        </DueButton>
      </Flex>
      <Fault error={set.error} />
    </Leaf>
  );
}

/** Returns are gathered in a stage: the controller can end that, and what has come goes back together. */
export function GatheringLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const seatName = useSeatNames(view);
  const stage = view.stages.find((candidate) => may(view, 'endGathering', candidate.id));
  const end = useAct('circulation.endGathering', toldWords.gatheringEnded, { after: onDone });
  useGround(stage !== undefined, end, onDone);
  if (!stage) return null;
  const seats = view.seats.filter((seat) => seat.stage === stage.id);
  const named = (status: 'returned' | 'asked') => seats.filter((seat) => seat.status === status).map(seatName);
  return (
    <Leaf label={words.gathering.title} tone="copper">
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="300px">
          <Box fontWeight={600}>{words.gathering.title}</Box>
          <Box mt="4px">{words.gathering.what(named('returned').join(', '), named('asked').join(', '))}</Box>
          <Fault error={end.error} />
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton busy={end.isPending} onClick={() => end.mutate({ circulation: view.id, stage: stage.id })}>
          {words.gathering.end}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

/** Fewer are left in a stage than its rule asks for: the controller says how many are enough. */
export function EnoughLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const stage = view.stages.find((candidate) => may(view, 'setEnough', candidate.id));
  const most = (stage && needsOf(view, 'setEnough', stage.id)?.most) ?? 1;
  const [chosen, setChosen] = useState<number | null>(null);
  const k = Math.min(chosen ?? most, most);
  const set = useAct('circulation.setEnough', toldWords.enough, { after: onDone });
  useGround(stage !== undefined, set, onDone);
  if (!stage) return null;
  const yes = view.seats.filter((seat) => seat.stage === stage.id && seat.status === 'decided').length;
  return (
    <Leaf label={words.enough.title} tone="oxblood">
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="300px">
          <Box fontWeight={600}>{words.enough.title}</Box>
          <Box mt="4px">{words.enough.what(stageNouns[stage.verb], yes, most)}</Box>
          <Fault error={set.error} />
        </Box>
        <Box w="180px">
          <ChoiceField label={words.enough.label} value={k} onChange={(event) => setChosen(Number(event.target.value))}>
            {Array.from({ length: most }, (_, i) => i + 1).map((n) => (
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </ChoiceField>
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          mb="14px"
          busy={set.isPending}
          onClick={() => set.mutate({ circulation: view.id, stage: stage.id, k })}
        >
          {words.enough.does(k)}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
