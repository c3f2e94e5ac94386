'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/fields';
import { OnePerson } from '../parts/OnePerson';
import { Slip } from '../parts/parts';
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
          <OnePerson
            label={words.handOverWho}
            insideOnly
            exclude={[seat.holder, ...seat.coHolders, ...(seat.verb === 'approve' ? [view.author] : [])]}
            person={to}
            onPerson={(who) => setTo(who?.person ?? null)}
          />
        </Box>
        <Box flex="1" minW="260px">
          <WordsField label={words.handOverWords} text={text} onText={setText} />
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
