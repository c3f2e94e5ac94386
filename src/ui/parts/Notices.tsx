'use client';

import { Box } from '@chakra-ui/react';
import { noticeWords } from './words';

/** What is worth knowing of a PDF that was taken in: what was repaired, what it carries, and whether it can be signed. */
export function Notices({
  notices,
  noFields,
}: {
  readonly notices: readonly string[];
  readonly noFields: string | null;
}) {
  const said = [
    ...notices.flatMap((notice) => noticeWords.notices[notice as keyof typeof noticeWords.notices] ?? []),
    ...(noFields ? [noticeWords.noFields(noFields)] : []),
  ];
  if (said.length === 0) return null;
  return (
    <Box fontSize="13px" color="quiet" pb="8px">
      {said.map((sentence) => (
        <Box key={sentence}>{sentence}</Box>
      ))}
    </Box>
  );
}
