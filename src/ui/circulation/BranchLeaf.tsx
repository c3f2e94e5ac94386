'use client';

import { Box, Flex } from '@chakra-ui/react';
import { type Branch, freshStage, type Parallel, partsOf, type Series, stagesOf } from '@/core/route/route';
import { WordButton } from '../parts/buttons';
import { TextField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { ConditionForm } from './ConditionForm';
import { useConditionWords } from './conditionWords';
import type { StagePanel } from './StageLeaf';
import { RuleField } from './StageRules';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan;

/** The branch whose series has this id, with the parallel it belongs to. */
export function branchIn(route: Series, id: string | null): { parallel: Parallel; branch: Branch } | null {
  for (const part of partsOf(route)) {
    if (part.kind !== 'parallel') continue;
    const branch = part.branches.find((one) => one.route.id === id);
    if (branch) return { parallel: part, branch };
  }
  return null;
}

/** A branch opened under the line: what it is called, when it is taken, and how many of its fork are needed. */
export function BranchLeaf({
  parallel,
  branch,
  planning,
  panel,
  onPanel,
}: {
  readonly parallel: Parallel;
  readonly branch: Branch;
  readonly planning: Planning;
  readonly panel: StagePanel;
  readonly onPanel: (panel: StagePanel) => void;
}) {
  const { route, edit } = planning;
  const say = useConditionWords(planning.view, route);
  const { id } = branch.route;
  const [first] = stagesOf(parallel);
  const stages = stagesOf(route);
  const before = stages.slice(0, first ? stages.indexOf(first) : 0);
  return (
    <Leaf label={words.branch}>
      <Flex gap="28px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="220px" maxW="360px">
          <TextField
            label={words.branchName}
            maxLength={80}
            value={branch.name}
            onChange={(event) => edit({ do: 'changeBranch', branch: id, with: { name: event.target.value } })}
          />
        </Box>
        <Box flex="1" minW="220px" maxW="360px">
          <RuleField
            label={words.join}
            rule={parallel.join}
            n={parallel.branches.length}
            words={[words.joinAll, words.joinAny, words.joinAtLeast]}
            onRule={(join) => edit({ do: 'changeParallel', parallel: parallel.id, with: { join } })}
          />
        </Box>
        {branch.condition && panel !== 'condition' && (
          <Box flex="1" minW="220px" pt="24px">
            {say(branch.condition)} <WordButton onClick={() => onPanel('condition')}>{words.change}</WordButton>
          </Box>
        )}
      </Flex>
      {panel === 'condition' && (
        <Box pt="12px" borderTop="1px solid" borderColor="hairline">
          <ConditionForm
            condition={branch.condition}
            before={before}
            planning={planning}
            onChange={(condition) => edit({ do: 'changeBranch', branch: id, with: { condition } })}
            onDone={() => onPanel(null)}
          />
        </Box>
      )}
      <Flex gap="20px" mt="6px" pt="10px" borderTop="1px solid" borderColor="hairline" flexWrap="wrap">
        <WordButton
          onClick={() => {
            const stage = freshStage(crypto.randomUUID(), 'review');
            const series = { kind: 'series' as const, id: crypto.randomUUID(), parts: [stage] };
            edit({ do: 'addBranch', parallel: parallel.id, branch: { name: '', condition: null, route: series } });
            planning.select(stage.id);
          }}
        >
          {words.anotherBranch}
        </WordButton>
        <WordButton onClick={() => onPanel(panel === 'condition' ? null : 'condition')}>{words.onlyWhen}</WordButton>
        <Box flex="1" />
        <WordButton color="oxblood" onClick={() => planning.remove(id)}>
          {words.removeBranch}
        </WordButton>
      </Flex>
    </Leaf>
  );
}
