'use client';

import { Box, Flex } from '@chakra-ui/react';
import { atInstant, instantOf, type Stage } from '@/core/route/route';
import { verbWords } from '../line/words';
import { SideButton, WordButton } from '../parts/buttons';
import { FormField, Tick } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf } from '../parts/parts';
import { StagePeople } from './StagePeople';
import { StageRules } from './StageRules';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** A stage opened under the line: its people, what they do, by which rule and until when. */
export function StageLeaf({
  stage,
  n,
  author,
  last,
  onChange,
  onMove,
  onRemove,
  onAdd,
}: {
  readonly stage: Stage;
  readonly n: number;
  readonly author: string;
  readonly last: boolean;
  readonly onChange: (update: (stage: Stage) => Stage) => void;
  readonly onMove: (by: -1 | 1) => void;
  readonly onRemove: () => void;
  readonly onAdd: () => void;
}) {
  const set = (part: Partial<Stage>) => onChange((before) => ({ ...before, ...part }));
  return (
    <Leaf label={words.stageOf(verbWords[stage.verb], n)} tone={stage.verb === 'sign' ? 'iris' : 'pine'}>
      <Flex gap="28px" flexWrap="wrap" align="flex-start">
        <StagePeople stage={stage} author={author} set={set} />
        <StageRules stage={stage} set={set} />
        <Box flex="1" minW="230px">
          <FormField label={words.due}>
            {(props) => (
              <MomentInput {...props} value={instantOf(stage.due)} onChange={(due) => set({ due: atInstant(due) })} />
            )}
          </FormField>
          <FormField label={words.closes}>
            {(props) => (
              <MomentInput
                {...props}
                value={instantOf(stage.closes)}
                onChange={(closes) => set({ closes: atInstant(closes) })}
              />
            )}
          </FormField>
          <Tick checked={stage.delegate} onChecked={(delegate) => set({ delegate })}>
            {words.delegate}
          </Tick>
        </Box>
      </Flex>
      <Flex gap="8px" mt="14px" pt="12px" borderTop="1px solid" borderColor="hairline" flexWrap="wrap">
        <SideButton disabled={n === 1} onClick={() => onMove(-1)}>
          ← {words.earlier}
        </SideButton>
        <SideButton disabled={last} onClick={() => onMove(1)}>
          {words.later} →
        </SideButton>
        <WordButton ml="8px" onClick={onRemove}>
          {words.removeStage}
        </WordButton>
        <Box flex="1" />
        <SideButton onClick={onAdd}>{words.addAfter(verbWords[stage.verb])}</SideButton>
      </Flex>
    </Leaf>
  );
}
