'use client';

import { Box, Flex } from '@chakra-ui/react';
import { type Earliest, type Stage, stagesOf, units } from '@/core/route/route';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { ChoiceField, FormField, TextField, Tick, WordedChoice } from '../parts/form';
import { TimeInput } from '../parts/TimeInput';
import type { Planning } from './usePlanning';
import { useClock } from './useSubject';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** From when the people of a stage may respond: a date, or so long after something. */
export function EarliestForm({
  stage,
  planning,
  onDone,
}: {
  readonly stage: Stage;
  readonly planning: Planning;
  readonly onDone: () => void;
}) {
  const { route, edit } = planning;
  const clock = useClock()(null);
  const { earliest } = stage;
  const set = (next: Earliest | null) => edit({ do: 'change', stage: stage.id, with: { earliest: next } });
  const stages = stagesOf(route);
  const before = stages.slice(
    0,
    stages.findIndex((own) => own.id === stage.id),
  );
  const kind =
    earliest === null || earliest.kind === 'date'
      ? 'date'
      : typeof earliest.from === 'string'
        ? earliest.from
        : earliest.from.stage;
  const wait = earliest?.kind === 'wait' ? earliest : null;
  const choose = (value: string) => {
    if (value === 'date') return set(null);
    const from = value === 'asked' || value === 'opened' ? value : { stage: value };
    set({
      kind: 'wait',
      from,
      again: wait?.again ?? false,
      amount: wait?.amount ?? 2,
      unit: wait?.unit ?? 'workingDays',
    });
  };
  return (
    <Box
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        onDone();
      }}
    >
      <Flex gap="14px" align="flex-start" flexWrap="wrap">
        <Box w="270px">
          <ChoiceField label={words.earliestFrom} value={kind} onChange={(event) => choose(event.target.value)}>
            <option value="date">{words.earliestDate}</option>
            <option value="asked">{words.earliestAsked}</option>
            <option value="opened">{words.earliestOpened}</option>
            {before.map((own, i) => (
              <option key={own.id} value={own.id}>
                {words.earliestStage(words.stageOf(verbWords[own.verb], i + 1))}
              </option>
            ))}
          </ChoiceField>
        </Box>
        {wait ? (
          <>
            <Box w="90px">
              <TextField
                label={words.howLong}
                type="number"
                min={1}
                max={1000}
                value={wait.amount}
                onChange={(event) =>
                  set({ ...wait, amount: Math.max(1, Math.min(1000, Number(event.target.value) || 1)) })
                }
              />
            </Box>
            <Box w="160px">
              <WordedChoice
                label={words.unit}
                of={units}
                words={words.units}
                value={wait.unit}
                onValue={(unit) => set({ ...wait, unit })}
              />
            </Box>
          </>
        ) : (
          <Box w="220px">
            <FormField label={words.earliestAt}>
              {(props) => (
                <TimeInput
                  {...props}
                  plain
                  begins
                  focused={earliest === null}
                  clock={clock}
                  value={earliest?.kind === 'date' ? { kind: 'instant', at: earliest.at } : null}
                  onChange={(time) => set(time?.kind === 'instant' ? { kind: 'date', at: time.at } : null)}
                />
              )}
            </FormField>
          </Box>
        )}
      </Flex>
      {wait && (
        <Tick checked={wait.again} onChecked={(again) => set({ ...wait, again })}>
          {words.earliestAgain}
        </Tick>
      )}
      <Box color="quiet" fontSize="13px">
        {words.earliestMore}
      </Box>
      <Flex gap="14px" mt="6px">
        {earliest && <WordButton onClick={() => set(null)}>{words.earliestRemove}</WordButton>}
        <WordButton onClick={onDone}>{words.done}</WordButton>
      </Flex>
    </Box>
  );
}
