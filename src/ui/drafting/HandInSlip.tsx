'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/fields';
import { Slip } from '../parts/parts';
import { draftWords as words } from './words';

/** Hands in the next version, with a word on what is new. What is typed into the draft is saved first. */
export function HandInSlip({
  change,
  next,
  settle,
  onDone,
}: {
  readonly change: string;
  readonly next: number;
  readonly settle: () => Promise<boolean>;
  readonly onDone: () => void;
}) {
  const [note, setNote] = useKeptText(`handIn.${change}`);
  const handIn = useTell<object, { version: number; rendering: boolean }>('draft.handIn', {
    after: () => {
      setNote('');
      onDone();
    },
  });
  return (
    <Slip label={words.handInTitle(next)}>
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="280px">
          <Box fontWeight={600}>{words.handInTitle(next)}</Box>
          <Box color="quiet" mb="8px">
            {words.handInWhat}
          </Box>
          <WordsField label={words.handInWords} text={note} onText={setNote} autoFocus />
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={handIn.isPending}
          onClick={() => void settle().then((fine) => fine && handIn.mutate({ change, words: note }))}
        >
          {words.handInDo}
        </DueButton>
      </Flex>
      <Fault error={handIn.error} />
    </Slip>
  );
}
