'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { type Assignment, personOf, roleAsked } from '@/core/route/route';
import { useRouter } from '../data/ahead';
import { useAssignments } from '../data/organization';
import { verbThird } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, Tick } from '../parts/form';
import { Leaf, PersonName, Quote } from '../parts/parts';
import { useEarliestWords } from './earliestWords';
import { useAct } from './useAct';
import type { Planning } from './usePlanning';
import { circulationWords, toldWords } from './words';

const words = circulationWords.plan;

/** What is sent, to whom, with which words: asked once, because it cannot be undone. */
export function SendLeaf({ planning, onDone }: { readonly planning: Planning; readonly onDone: () => void }) {
  const { first, text, view, route } = planning;
  const circulation = view.id;
  const router = useRouter();
  const sayEarliest = useEarliestWords(route);
  const [releasesItself, setReleasesItself] = useState(false);
  const send = useAct('circulation.send', toldWords.sent, {
    after: () => router.push(`/circulations/${circulation}`),
  });
  return (
    <Leaf label={words.sendTitle}>
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="280px">
          <Box fontWeight={600}>{words.sendTitle}</Box>
          <Flex gap="18px" my="8px" flexWrap="wrap">
            {first.map(({ seat, stage }) => (
              <Asked
                key={seat.id}
                assignment={seat.assignment}
                planning={planning}
                what={[verbThird[stage.verb], stage.earliest && sayEarliest(stage.earliest)].filter(Boolean).join(', ')}
              />
            ))}
          </Flex>
          {text.trim() && <Quote>{text}</Quote>}
          <Box color="quiet" mt="6px">
            {words.sendAlso}
          </Box>
          <Box mt="8px">
            <Tick checked={releasesItself} onChecked={setReleasesItself}>
              {words.releasesItself}
            </Tick>
          </Box>
          <Fault error={send.error} />
        </Box>
        <WordButton onClick={onDone}>{circulationWords.leave}</WordButton>
        <DueButton autoFocus busy={send.isPending} onClick={() => send.mutate({ circulation, releasesItself })}>
          {words.sendDo(first.length)}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

/** Somebody who is asked at once, a role by who fills it. */
function Asked({
  assignment,
  planning,
  what,
}: {
  readonly assignment: Assignment;
  readonly planning: Planning;
  readonly what: string;
}) {
  const { called } = useAssignments();
  const role = roleAsked(assignment);
  const person = role === null ? personOf(assignment) : planning.personIn(role);
  if (person !== null) return <PersonName id={person} quiet={what} />;
  return (
    <span>
      {called(assignment)} {what}
    </span>
  );
}
