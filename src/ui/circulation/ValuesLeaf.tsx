'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { holds } from '@/core/route/condition';
import { findPart } from '@/core/route/edit';
import type { FactValue } from '@/core/route/facts';
import { conditionsOf, stagesOf } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { useGround } from '../data/useGround';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Leaf } from '../parts/parts';
import { useConditionWords } from './conditionWords';
import { FactField } from './FactInput';
import { may } from './offers';
import { useAct } from './useAct';
import { toldWords, circulationWords as words } from './words';

/** The values of a circulation under way: changing one decides anew only about what has not been reached, and says what. */
export function ValuesLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const [changed, setChanged] = useState<Readonly<Record<string, FactValue | null>>>({});
  const give = useAct('circulation.giveFacts', toldWords.valuesGiven, { after: onDone });
  useGround(may(view, 'giveFacts'), give, onDone);
  const say = useConditionWords(view, view.route);
  const values = Object.fromEntries(
    Object.entries({ ...view.facts, ...changed }).flatMap(([id, value]) => (value ? [[id, value] as const] : [])),
  );
  const waiting = conditionsOf(view.route).filter(({ part }) => view.undecided.includes(part));
  const outcome = (condition: (typeof waiting)[number]['condition']) =>
    holds(condition, { facts: values, names: {}, record: view.recordFacts, outcomes: () => null }).holds;
  return (
    <Leaf label={words.values.title}>
      <Box fontWeight={600} mb="8px">
        {words.values.title}
      </Box>
      <Flex gap="16px" flexWrap="wrap">
        {view.factTypes.map((type) => (
          <Box key={type.id} w={type.kind === 'person' ? '260px' : '210px'}>
            <FactField
              type={type}
              value={values[type.id] ?? null}
              onChange={(value) => setChanged({ ...changed, [type.id]: value })}
            />
          </Box>
        ))}
      </Flex>
      <Box>{waiting.length === 0 ? words.values.nothingWaits : words.values.waits}</Box>
      {waiting.map(({ part, condition }) => (
        <Box key={part}>
          {partName(view, part)}: <b>{outcome(condition) ? words.values.asked : words.values.skipped}</b>,{' '}
          {say(condition)}
        </Box>
      ))}
      <Fault error={give.error} />
      <Flex gap="12px" justify="flex-end" align="center" mt="8px">
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={give.isPending}
          disabled={Object.keys(changed).length === 0}
          onClick={() => give.mutate({ circulation: view.id, facts: changed })}
        >
          {words.values.save}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

/** What a part with a condition is called: its stage, or the stages of its branch. */
function partName(view: CirculationView, part: string): string {
  const found = findPart(view.route, part)?.part;
  if (found) return stagesOf(found)[0] ? verbWords[stagesOf(found)[0]?.verb ?? 'read'] : '';
  return words.plan.aBranch;
}
