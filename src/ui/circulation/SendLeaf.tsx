'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { firstAsked } from '@/core/route/edit';
import { verbThird } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, Tick } from '../parts/form';
import { Leaf, PersonName, Quote } from '../parts/parts';
import { useAct } from './useAct';
import { circulationWords, toldWords } from './words';

const words = circulationWords.plan;

/** What is sent, to whom, with which words: asked once, because it cannot be undone. */
export function SendLeaf({
  circulation,
  first,
  text,
  onDone,
}: {
  readonly circulation: string;
  readonly first: ReturnType<typeof firstAsked>;
  readonly text: string;
  readonly onDone: () => void;
}) {
  const router = useRouter();
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
              <PersonName key={seat.id} id={seat.assignment.person} quiet={verbThird[stage.verb]} />
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
        <DueButton busy={send.isPending} onClick={() => send.mutate({ circulation, releasesItself })}>
          {words.sendDo(first.length)}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
