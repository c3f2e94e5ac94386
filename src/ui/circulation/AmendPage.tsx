'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { instantOf } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { SideButton, WordButton } from '../parts/buttons';
import { AreaField, FormField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { Leaf } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { AmendEffects } from './AmendEffects';
import { AmendFiles } from './AmendFiles';
import { BranchLeaf, branchIn } from './BranchLeaf';
import { CopiesLeaf } from './CopiesLeaf';
import { LinePlan } from './LinePlan';
import { StageLeaf, type StagePanel } from './StageLeaf';
import { type Amending, useAmending } from './useAmending';
import { useDifferenceWords } from './useDifferenceWords';
import { circulationWords } from './words';

const words = circulationWords.amend;

/** Amending on the line in place: what is pressed opens beneath it, and what it would change for whom stands below. */
export function AmendPage({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const amending = useAmending(view);
  const { planning } = amending;
  const [panel, setPanel] = useState<{ of: string | null; panel: StagePanel }>({ of: null, panel: null });
  const shown = panel.of === planning.open ? panel.panel : null;
  return (
    <Box flex="1" minH={0} overflowY="auto" aria-label={words.title} role="region">
      <Moved amending={amending} onDone={onDone} />
      <Box
        ref={ref}
        mx={{ base: '8px', md: '24px' }}
        position="sticky"
        top={0}
        zIndex={2}
        bg="ground"
        maxH="38vh"
        overflowY="auto"
      >
        <LinePlan planning={planning} width={width} />
      </Box>
      <Box px={{ base: '12px', md: '24px' }} pt="10px" pb="24px">
        {!amending.moved && (
          <Opened amending={amending} panel={shown} onPanel={(next) => setPanel({ of: planning.open, panel: next })} />
        )}
        {!planning.selected && !amending.moved && (
          <Box color="quiet" mb="10px">
            {words.press}
          </Box>
        )}
        <Flex gap="12px" mb="4px">
          {planning.undo && <WordButton onClick={planning.undo}>{circulationWords.plan.undo}</WordButton>}
          {planning.redo && <WordButton onClick={planning.redo}>{circulationWords.plan.redo}</WordButton>}
        </Flex>
        <AmendEffects amending={amending} onDone={onDone} />
        {!amending.moved && (
          <Box mt="16px">
            <Words amending={amending} />
            <AmendFiles amending={amending} />
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** What has changed since it was drafted: it is made anew on that, or given up. */
function Moved({ amending, onDone }: { readonly amending: Amending; readonly onDone: () => void }) {
  const say = useDifferenceWords();
  const { moved } = amending;
  if (!moved) return null;
  return (
    <Box px={{ base: '12px', md: '24px' }} pb="12px">
      <Leaf label={words.moved} tone="copper">
        <Flex gap="14px" align="center" flexWrap="wrap">
          <Box flex="1" minW="260px">
            <Box fontWeight={600}>{words.moved}</Box>
            <Box color="quiet">
              {moved.differences.length > 0 ? moved.differences.map(say).join('; ') : words.movedOtherwise}
            </Box>
          </Box>
          <WordButton
            onClick={() => {
              amending.forget();
              onDone();
            }}
          >
            {words.giveUp}
          </WordButton>
          <SideButton onClick={moved.again}>{words.again}</SideButton>
        </Flex>
      </Leaf>
    </Box>
  );
}

function Opened({
  amending,
  panel,
  onPanel,
}: {
  readonly amending: Amending;
  readonly panel: StagePanel;
  readonly onPanel: (panel: StagePanel) => void;
}) {
  const { planning } = amending;
  const { selected, open, route } = planning;
  if (selected?.kind === 'stage')
    return <StageLeaf key={selected.id} stage={selected} planning={planning} panel={panel} onPanel={onPanel} />;
  if (selected?.kind === 'copies') return <CopiesLeaf key={selected.id} board={selected} planning={planning} />;
  const branch = branchIn(route, open);
  return branch ? <BranchLeaf key={open} {...branch} planning={planning} panel={panel} onPanel={onPanel} /> : null;
}

/** The words to everybody, and the times of the whole. */
function Words({ amending }: { readonly amending: Amending }) {
  const { planning } = amending;
  const { whole } = planning;
  return (
    <Flex gap="28px" flexWrap="wrap" align="flex-start">
      <Box flex="2" minW="320px">
        <AreaField
          label={circulationWords.plan.words}
          rows={2}
          maxLength={4000}
          value={planning.text}
          onChange={(event) => planning.write(event.target.value)}
        />
      </Box>
      <Box w="280px">
        <FormField label={circulationWords.plan.wholeDue}>
          {(props) => (
            <MomentInput
              {...props}
              aria-label={circulationWords.plan.wholeDue}
              value={instantOf(whole.due)}
              onChange={(due) => amending.setWhole({ due })}
            />
          )}
        </FormField>
      </Box>
      <Box w="280px">
        <FormField label={circulationWords.plan.wholeCloses}>
          {(props) => (
            <MomentInput
              {...props}
              aria-label={circulationWords.plan.wholeCloses}
              value={instantOf(whole.closes)}
              onChange={(closes) => amending.setWhole({ closes })}
            />
          )}
        </FormField>
      </Box>
    </Flex>
  );
}
