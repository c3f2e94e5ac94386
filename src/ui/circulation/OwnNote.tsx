'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault, TextArea } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { circulationWords } from './words';

const words = circulationWords.ownNote;

/** What one notes of a circulation for oneself, and when one wants to come back to it. */
export function OwnNote({ circulation }: { readonly circulation: string }) {
  const { data } = useAsk('notes.view', { circulation });
  const [form, change, forget] = useKeptForm<{ text: string; back: number | null }>(
    `note.${circulation}`,
    data ?? { text: '', back: null },
  );
  const keep = useTell('notes.keep', { answered: () => say(words.kept), after: forget });
  if (!data) return null;
  const changed = form.text.trim() !== data.text || form.back !== data.back;
  return (
    <Box mt="14px" fontSize="13.5px">
      <Flex gap="10px" align="baseline">
        <chakra.label htmlFor="own-note" fontWeight={600}>
          {words.title}
        </chakra.label>
        <Box color="quiet" fontSize="13px">
          {words.hint}
        </Box>
      </Flex>
      <TextArea
        id="own-note"
        rows={2}
        maxLength={2000}
        value={form.text}
        onChange={(event) => change({ text: event.target.value })}
      />
      <Flex gap="10px" mt="6px" align="center" flexWrap="wrap">
        <Box color="quiet">{words.back}</Box>
        <MomentInput aria-label={words.back} usual="08:00" value={form.back} onChange={(back) => change({ back })} />
        {changed && (
          <>
            <SideButton busy={keep.isPending} onClick={() => keep.mutate({ circulation, ...form })}>
              {words.keep}
            </SideButton>
            <WordButton onClick={forget}>{words.leave}</WordButton>
          </>
        )}
      </Flex>
      <Fault error={keep.error} />
    </Box>
  );
}
