'use client';

import { Box, chakra } from '@chakra-ui/react';
import { Comments } from '../circulation/Comments';
import { useAsk } from '../data/use';
import { draftWords as words } from './words';

/** The open comments on what was submitted, for the author who works them in. */
export function useOpenComments(circulation: string, sent: boolean) {
  const { data } = useAsk('circulation.view', { circulation }, { enabled: sent });
  return { view: data ?? null, open: data?.comments.filter((comment) => !comment.thread && !comment.resolved) ?? [] };
}

export type OpenComments = ReturnType<typeof useOpenComments>;

/** The comments in the tray of a draft: answered and resolved where one writes. */
export function DraftComments({ comments: { view, open } }: { readonly comments: OpenComments }) {
  if (!view) return null;
  return (
    <Box flex="1.4" minW="320px">
      <chakra.h2 fontSize="13.5px" mb="4px">
        {words.openComments(open.length)}
      </chakra.h2>
      {open.map((comment) => (
        <Comments key={comment.id} view={view} focus={comment.id} />
      ))}
    </Box>
  );
}
