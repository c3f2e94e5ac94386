'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { draftWords as words } from './words';

/** Hands in the next version, with a word on what is new. What is typed into the draft is saved first. */
export function SubmitLeaf({
  change,
  next,
  open,
  settle,
  onDone,
}: {
  readonly change: string;
  readonly next: number;
  /** How many comments are still open. */
  readonly open: number;
  readonly settle: () => Promise<boolean>;
  readonly onDone: () => void;
}) {
  const [note, setNote] = useKeptText(`submit.${change}`);
  const submit = useTell('draft.submit', {
    after: () => {
      setNote('');
      onDone();
    },
  });
  return (
    <Leaf label={words.submitTitle(next)}>
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="280px">
          <Box fontWeight={600}>{words.submitTitle(next)}</Box>
          <Box color="quiet" mb="8px">
            {words.submitWhat}
          </Box>
          {open > 0 && (
            <Box color="copperText" mb="8px">
              {words.openOnSubmit(open)}
            </Box>
          )}
          <WordsField label={words.submitWords} text={note} onText={setNote} autoFocus />
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={submit.isPending}
          onClick={() => void settle().then((fine) => fine && submit.mutate({ change, note }))}
        >
          {words.submitDo}
        </DueButton>
      </Flex>
      <Fault error={submit.error} />
    </Leaf>
  );
}
