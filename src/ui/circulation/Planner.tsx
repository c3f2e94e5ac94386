'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { LineDrawing } from '../line/LineDrawing';
import { ruleWords } from '../line/words';
import { Answered } from '../parts/Answered';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, FormField, TextArea } from '../parts/form';
import { Empty, PageHead } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { PlanTray } from './PlanTray';
import { SendLeaf } from './SendLeaf';
import { StageLeaf } from './StageLeaf';
import { usePlanning } from './usePlanning';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

export function Planner({ circulation }: { readonly circulation: string }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Plan key={view.id} view={view} />}
    </Answered>
  );
}

/** Planning on the line: the route is drawn as it is made; a span opens as a leaf beneath it. */
function Plan({ view }: { readonly view: CirculationView }) {
  const { name } = usePeople();
  const times = useTimes();
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const [sending, setSending] = useState(false);
  const planning = usePlanning(view);
  const { text, stages, stops, first, editable, state, selected } = planning;

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
        <chakra.span color="quiet" fontSize="13px" aria-live="polite">
          {state === 'saved' ? words.saved : state === 'saving' ? words.saving : words.notSaved}
        </chakra.span>
        {editable && (
          <DueButton disabled={stops.length > 0 || state !== 'saved'} onClick={() => setSending(true)}>
            {view.newest === null ? words.noVersion : words.sendTo(first.length)}
          </DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto">
        {sending && (
          <Box px={{ base: '12px', md: '24px' }} pb="12px">
            <SendLeaf circulation={view.id} first={first} text={text} onDone={() => setSending(false)} />
          </Box>
        )}
        <Box ref={ref} mx={{ base: '8px', md: '24px' }}>
          <LineDrawing
            model={planning.model}
            width={width}
            selected={selected?.id ?? null}
            labels={{
              fact: (id) => {
                const stage = stages.find((candidate) => candidate.id === id);
                if (!stage) return null;
                if (stage.seats.length === 0) return { text: findingWords.nobody, tone: 'oxblood' };
                const parts = [
                  stage.due !== null ? `due ${times.day(stage.due.at)}` : '',
                  stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length),
                ].filter(Boolean);
                return parts.length > 0 ? { text: parts.join(', ') } : null;
              },
            }}
            onStage={planning.select}
          />
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
          {selected && editable && (
            <StageLeaf
              key={selected.id}
              stage={selected}
              n={stages.indexOf(selected) + 1}
              author={view.author}
              last={stages.indexOf(selected) === stages.length - 1}
              onChange={(update) => planning.change(selected.id, update)}
              onMove={(by) => planning.move(selected.id, by)}
              onRemove={() => planning.remove(selected.id)}
              onAdd={() => planning.add(selected.id)}
            />
          )}
          {stages.length > 0 && (
            <Box mt="16px" maxW="720px">
              <FormField label={words.words}>
                {(props) => (
                  <TextArea
                    {...props}
                    rows={2}
                    maxLength={4000}
                    value={text}
                    disabled={!editable}
                    onChange={(event) => planning.write(event.target.value)}
                  />
                )}
              </FormField>
            </Box>
          )}
        </Box>
      </Box>
      <PlanTray view={view} planning={planning} />
    </>
  );
}
