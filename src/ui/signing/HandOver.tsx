'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { PeoplePicker } from '../parts/PeoplePicker';
import { DueButton, Fault, PersonName, Slip, TextArea, WordButton } from '../parts/parts';
import { signingWords as words } from './words';

/** Passes one's own task on to somebody else. */
export function HandOver({
  view,
  seat,
  onDone,
}: {
  readonly view: CirculationView;
  readonly seat: CirculationView['seats'][number];
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const [to, setTo] = useState<string | null>(null);
  const [text, setText] = useKeptText(`handOver.${seat.id}.${seat.epoch}`);
  const hand = useTell<object>('circulation.handOver', {
    after: () => {
      setText('');
      router.push('/desk');
    },
  });
  return (
    <Slip label={words.handOver}>
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.handOverWho}
          </Box>
          {to ? (
            <Flex gap="10px" align="center">
              <PersonName id={to} />
              <WordButton onClick={() => setTo(null)}>×</WordButton>
            </Flex>
          ) : (
            <PeoplePicker
              label={words.handOverWho}
              insideOnly
              exclude={[seat.holder, ...seat.coHolders, ...(seat.verb === 'approve' ? [view.author] : [])]}
              onPick={({ person }) => setTo(person)}
            />
          )}
        </Box>
        <Box flex="1" minW="260px">
          <TextArea
            aria-label={words.handOverWords}
            placeholder={words.handOverWords}
            rows={2}
            maxLength={4000}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </Box>
      </Flex>
      <Fault error={hand.error} />
      <Flex gap="14px" justify="flex-end" align="center" mt="8px">
        <Box color="quiet" fontSize="13px">
          {words.handOverWhat}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={hand.isPending}
          disabled={!to}
          onClick={() => to && hand.mutate({ circulation: view.id, seat: seat.id, epoch: seat.epoch, to, words: text })}
        >
          {to ? words.handOverDo(name(to)) : words.handOver}
        </DueButton>
      </Flex>
    </Slip>
  );
}
