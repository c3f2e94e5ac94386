'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type Verb, verbFacts } from '@/core/route/verbs';
import { Tick, WordsField } from '../parts/form';
import { signingWords as words } from './words';

/** What is asked once before deciding: what signing means and the consent to it, or a word with an approval. */
export function Confirm({
  title,
  verb,
  agreed,
  onAgreed,
  text,
  onText,
}: {
  readonly title: string;
  readonly verb: Verb;
  readonly agreed: boolean;
  readonly onAgreed: (agreed: boolean) => void;
  readonly text: string;
  readonly onText: (text: string) => void;
}) {
  if (verbFacts[verb].speaks)
    return (
      <Box mb="10px">
        <WordsField label={words.comment} text={text} onText={onText} />
      </Box>
    );
  if (!verbFacts[verb].signs) return null;
  return (
    <Box mb="10px">
      <Box>{words.signWhat(title)}</Box>
      <chakra.details my="6px">
        <chakra.summary color="pine" fontWeight={600} cursor="pointer" minH="24px">
          {words.meaning}
        </chakra.summary>
        <Box fontSize="13.5px" color="quiet">
          {words.meaningMore}
        </Box>
      </chakra.details>
      <Tick checked={agreed} onChecked={onAgreed}>
        {words.consent}
      </Tick>
    </Box>
  );
}
