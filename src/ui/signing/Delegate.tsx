'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { CirculationView } from '@/server/circulation/view';
import { needsOf } from '../circulation/offers';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { useKeptForm } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { signingWords as words } from './words';

/** Passes one's own task on to somebody else. */
export function Delegate({
  view,
  seat,
  onDecided,
  onDone,
}: {
  readonly view: CirculationView;
  readonly seat: CirculationView['seats'][number];
  /** It was accepted; the page is being left. */
  readonly onDecided: () => void;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const needs = needsOf(view, 'delegate', seat.id);
  const [{ to, text }, change, forget] = useKeptForm<{ to: string | null; text: string }>(
    `delegate.${seat.id}.${seat.epoch}`,
    { to: null, text: '' },
  );
  const hand = useAct(
    'circulation.delegate',
    (input) => (needs?.agreed ? toldWords.delegationAsked : toldWords.delegated)(name(input.to)),
    {
      answered: () => {
        forget();
        onDecided();
        router.push('/desk');
      },
    },
  );
  return (
    <Leaf label={words.delegate}>
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <OnePerson
            label={words.delegateWho}
            insideOnly
            exclude={needs?.not ?? []}
            person={to}
            onPerson={(who) => change({ to: who?.person ?? null })}
          />
        </Box>
        <Box flex="1" minW="260px">
          <WordsField label={words.delegateWords} text={text} onText={(typed) => change({ text: typed })} />
        </Box>
      </Flex>
      <Fault error={hand.error} />
      <Flex gap="14px" justify="flex-end" align="center" mt="8px">
        <Box color="quiet" fontSize="13px">
          {needs?.agreed ? words.delegateAsks : words.delegateWhat}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={hand.isPending}
          disabled={!to}
          onClick={() => to && hand.mutate({ circulation: view.id, seat: seat.id, epoch: seat.epoch, to, note: text })}
        >
          {to ? words.delegateDo(name(to)) : words.delegate}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
