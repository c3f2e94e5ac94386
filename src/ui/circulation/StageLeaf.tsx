'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { StageChange } from '@/core/route/edit';
import { personOf, type Stage, stagesOf } from '@/core/route/route';
import { verbFacts } from '@/core/route/verbs';
import { verbWords } from '../line/words';
import { WordButton } from '../parts/buttons';
import { FormField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { TimeInput } from '../parts/TimeInput';
import { ConditionForm } from './ConditionForm';
import { useConditionWords } from './conditionWords';
import { EarliestForm } from './EarliestForm';
import { useEarliestWords } from './earliestWords';
import { StagePeople } from './StagePeople';
import { StageAllows, StageRules } from './StageRules';
import type { Planning } from './usePlanning';
import { useClock } from './useSubject';
import { circulationWords } from './words';

const words = circulationWords.plan;

export type StagePanel = 'condition' | 'earliest' | null;

/** A stage opened under the line: its people, what they do, by which rule, until when; and what can be put beside it. */
export function StageLeaf({
  stage,
  planning,
  panel,
  onPanel,
}: {
  readonly stage: Stage;
  readonly planning: Planning;
  readonly panel: StagePanel;
  readonly onPanel: (panel: StagePanel) => void;
}) {
  const { route, edit } = planning;
  const stages = stagesOf(route);
  const at = stages.indexOf(stage);
  const set = (part: StageChange) => edit({ do: 'change', stage: stage.id, with: part });
  const say = useConditionWords(planning.view, route);
  const sayEarliest = useEarliestWords(route);
  const people = stage.seats.flatMap((seat) => personOf(seat.assignment) ?? []);
  const clock = useClock()(people.length === 1 ? (people[0] ?? null) : null);
  const [more, setMore] = useState(stage.closes !== null);
  const started = planning.started(stage.id);
  if (started === 'over')
    return (
      <Leaf label={words.stageOf(verbWords[stage.verb], at + 1)}>
        <Flex gap="20px" align="center">
          <Box flex="1">{circulationWords.amend.over}</Box>
          <WordButton onClick={() => planning.add(stage.id)}>{words.stageAfter}</WordButton>
        </Flex>
      </Leaf>
    );
  return (
    <Leaf label={words.stageOf(verbWords[stage.verb], at + 1)} tone={verbFacts[stage.verb].signs ? 'iris' : 'pine'}>
      <Flex gap="20px" mt="-4px" mb="10px" pb="8px" borderBottom="1px solid" borderColor="hairline" flexWrap="wrap">
        <WordButton onClick={() => planning.add(stage.id)}>{words.stageAfter}</WordButton>
        {!started && (
          <>
            <WordButton onClick={() => planning.branch(stage.id)}>{words.branchBeside}</WordButton>
            <WordButton
              aria-expanded={panel === 'condition'}
              onClick={() => onPanel(panel === 'condition' ? null : 'condition')}
            >
              {words.onlyWhen}
            </WordButton>
            <WordButton
              aria-expanded={panel === 'earliest'}
              onClick={() => onPanel(panel === 'earliest' ? null : 'earliest')}
            >
              {words.notBefore}
            </WordButton>
          </>
        )}
        <WordButton onClick={() => planning.copy(stage.id)}>{words.copyTo}</WordButton>
        <Box flex="1" />
        {started ? (
          <Box color="quiet" fontSize="13px" maxW="520px">
            {circulationWords.amend.open}
          </Box>
        ) : (
          <WordButton color="oxblood" onClick={() => planning.remove(stage.id)}>
            {words.removeStage}
          </WordButton>
        )}
      </Flex>
      {/* What is being said of the stage needs the room; the rest comes back when it is closed. */}
      <Flex columnGap="22px" flexWrap="wrap" align="flex-start" display={panel ? 'none' : 'flex'}>
        <StagePeople stage={stage} planning={planning} />
        <StageRules stage={stage} set={set} started={started !== null} />
        <Box flex="1" minW="220px">
          <FormField label={words.due}>
            {(props) => <TimeInput {...props} value={stage.due} clock={clock} onChange={(due) => set({ due })} />}
          </FormField>
          {more || stage.closes ? (
            <FormField label={words.closes}>
              {(props) => (
                <TimeInput {...props} value={stage.closes} clock={clock} onChange={(closes) => set({ closes })} />
              )}
            </FormField>
          ) : (
            <WordButton onClick={() => setMore(true)}>{words.addClosing}</WordButton>
          )}
          {stage.earliest && panel !== 'earliest' && (
            <Box mt="10px">
              {sayEarliest(stage.earliest)} <WordButton onClick={() => onPanel('earliest')}>{words.change}</WordButton>
            </Box>
          )}
          {stage.condition && panel !== 'condition' && (
            <Box mt="10px">
              {say(stage.condition)} <WordButton onClick={() => onPanel('condition')}>{words.change}</WordButton>
            </Box>
          )}
        </Box>
      </Flex>
      {!panel && <StageAllows stage={stage} planning={planning} started={started !== null} />}
      {panel === 'condition' && (
        <Box>
          <ConditionForm
            condition={stage.condition}
            before={stages.slice(0, at)}
            planning={planning}
            onChange={(condition) => set({ condition })}
            onDone={() => onPanel(null)}
          />
        </Box>
      )}
      {panel === 'earliest' && (
        <Box>
          <EarliestForm stage={stage} planning={planning} onDone={() => onPanel(null)} />
        </Box>
      )}
    </Leaf>
  );
}
