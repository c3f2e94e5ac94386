'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { Answered } from '../parts/Answered';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { AreaField, Fault, FormField } from '../parts/form';
import { Link } from '../parts/Link';
import { Empty, Leaf, PageHead } from '../parts/parts';
import { TimeInput } from '../parts/TimeInput';
import { useWidth } from '../parts/useWidth';
import { BranchLeaf, branchIn } from './BranchLeaf';
import { CopiesLeaf } from './CopiesLeaf';
import { FactsRow } from './FactsRow';
import { LinePlan } from './LinePlan';
import { PlanTray } from './PlanTray';
import { SendLeaf } from './SendLeaf';
import { StageLeaf, type StagePanel } from './StageLeaf';
import { usePlanKeys } from './usePlanKeys';
import { type Planning, usePlanning } from './usePlanning';
import { useClock } from './useSubject';
import { circulationWords } from './words';

const words = circulationWords.plan;

export function Planner({ circulation }: { readonly circulation: string }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Plan key={view.id} view={view} />}
    </Answered>
  );
}

/** Planning on the line: the route is drawn as it is made; what is pressed opens as a leaf beneath it. */
function Plan({ view }: { readonly view: CirculationView }) {
  const { name } = usePeople();
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const [sending, setSending] = useState(false);
  const [panel, setPanel] = useState<{ of: string | null; panel: StagePanel }>({ of: null, panel: null });
  const planning = usePlanning(view);
  const { stages, stops, first, editable, state, moved } = planning;
  const shown = panel.of === planning.open ? panel.panel : null;
  const onPanel = (next: StagePanel) => setPanel({ of: planning.open, panel: next });
  const sendable = stops.length === 0 && state === 'saved';
  usePlanKeys(planning, onPanel, () => sendable && setSending(true));

  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/circulations/${view.id}`}>{view.number}</Link>
            </chakra.span>
            {` · ${view.record.number} · ${circulationWords.revision(view.revision)} · ${circulationWords.draftOf(name(view.author))}`}
          </>
        }
        title={words.title(view.record.title)}
        below={
          <chakra.span color="quiet">
            {view.newest === null ? words.waitsFor(name(view.author)) : view.reason}
          </chakra.span>
        }
      >
        {planning.undo && <WordButton onClick={planning.undo}>{words.undo}</WordButton>}
        {planning.redo && <WordButton onClick={planning.redo}>{words.redo}</WordButton>}
        <chakra.span color="quiet" fontSize="13px" aria-live="polite">
          {state === 'saved' ? words.saved : state === 'saving' ? words.saving : words.notSaved}
        </chakra.span>
        {editable && (
          <DueButton
            disabled={!sendable}
            title={view.newest === null ? words.noVersion : undefined}
            onClick={() => setSending(true)}
          >
            {words.sendTo(first.length)}
          </DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto">
        {moved && (
          <Box px={{ base: '12px', md: '24px' }} pb="12px">
            <Leaf label={words.moved} tone="copper">
              <Flex gap="14px" align="center" flexWrap="wrap">
                <Box flex="1" minW="260px">
                  {words.moved}
                </Box>
                <SideButton onClick={moved.takeTheirs}>{words.takeTheirs}</SideButton>
                <SideButton onClick={moved.keepMine}>{words.keepMine}</SideButton>
              </Flex>
            </Leaf>
          </Box>
        )}
        {sending && (
          <Box px={{ base: '12px', md: '24px' }} pb="12px">
            <SendLeaf planning={planning} onDone={() => setSending(false)} />
          </Box>
        )}
        {/* The line stays in sight while what stands beneath it is filled in. */}
        <Box
          ref={ref}
          mx={{ base: '8px', md: '24px' }}
          position="sticky"
          top={0}
          zIndex={2}
          bg="ground"
          maxH="42vh"
          overflowY="auto"
        >
          <LinePlan planning={planning} width={width} />
        </Box>
        <Box px={{ base: '12px', md: '24px' }} pt="10px" pb="24px">
          <Fault error={planning.error} />
          {stages.length === 0 && (
            <Empty title={words.empty}>
              {words.emptyMore}
              <Flex justify="center" mt="14px">
                <DueButton onClick={() => planning.add(null)}>{words.add}</DueButton>
              </Flex>
            </Empty>
          )}
          {editable && <Opened planning={planning} panel={shown} onPanel={onPanel} />}
          {view.factTypes.length > 0 && (
            <Box mt="16px">
              <FactsRow planning={planning} />
            </Box>
          )}
          {stages.length > 0 && <Words planning={planning} />}
        </Box>
      </Box>
      <PlanTray planning={planning} />
    </>
  );
}

/** What is open under the line: a stage, a board, or a branch. */
function Opened({
  planning,
  panel,
  onPanel,
}: {
  readonly planning: Planning;
  readonly panel: StagePanel;
  readonly onPanel: (panel: StagePanel) => void;
}) {
  const { selected, open, route } = planning;
  if (selected?.kind === 'stage')
    return <StageLeaf key={selected.id} stage={selected} planning={planning} panel={panel} onPanel={onPanel} />;
  if (selected?.kind === 'copies') return <CopiesLeaf key={selected.id} board={selected} planning={planning} />;
  const branch = branchIn(route, open);
  if (!branch) return null;
  return <BranchLeaf key={open} {...branch} planning={planning} panel={panel} onPanel={onPanel} />;
}

/** The words to everybody who is asked, and the times of the whole. */
function Words({ planning }: { readonly planning: Planning }) {
  const { text, whole, editable, view } = planning;
  const clock = useClock()(view.controller);
  return (
    <Flex mt="16px" gap="28px" flexWrap="wrap" align="flex-start">
      <Box flex="2" minW="320px">
        <AreaField
          label={words.words}
          rows={2}
          maxLength={4000}
          value={text}
          disabled={!editable}
          onChange={(event) => planning.write(event.target.value)}
        />
      </Box>
      {editable && (
        <>
          <Box flex="1" minW="220px">
            <FormField label={words.wholeDue}>
              {(props) => (
                <TimeInput {...props} value={whole.due} clock={clock} onChange={(due) => planning.setWhole({ due })} />
              )}
            </FormField>
          </Box>
          <Box flex="1" minW="220px">
            <FormField label={words.wholeCloses}>
              {(props) => (
                <TimeInput
                  {...props}
                  value={whole.closes}
                  clock={clock}
                  onChange={(closes) => planning.setWhole({ closes })}
                />
              )}
            </FormField>
          </Box>
        </>
      )}
    </Flex>
  );
}
