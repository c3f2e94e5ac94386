'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { BackRow } from '@/server/desk/notes';
import { useTell } from '../data/use';
import { WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Link } from '../parts/Link';
import { deskWords } from './words';

const words = deskWords.back;

/** What one wanted to come back to by today, with what one noted of it. */
export function BackTo({ rows }: { readonly rows: readonly BackRow[] }) {
  const keep = useTell('notes.keep');
  if (rows.length === 0) return null;
  return (
    <Box as="section" aria-label={words.title} fontSize="13.5px" pb="6px">
      <chakra.h2 fontSize="13.5px">{words.title}</chakra.h2>
      {rows.slice(0, 5).map(({ circulation, number, title, text }) => (
        <Flex key={circulation} gap="14px" minH="30px" align="center">
          <chakra.span color="pine" flex="none" w="92px" lineHeight="28px" asChild>
            <Link href={`/circulations/${circulation}`}>{number}</Link>
          </chakra.span>
          <Box minW={0} maxW="40%" truncate title={title}>
            {title}
          </Box>
          <Box flex="1" minW={0} color="quiet" truncate title={text} dir="auto">
            {text}
          </Box>
          <WordButton
            aria-label={words.doneWith(number)}
            disabled={keep.isPending}
            onClick={() => keep.mutate({ circulation, text, back: null })}
          >
            {words.done}
          </WordButton>
        </Flex>
      ))}
      {rows.length > 5 && <Box color="quiet">{words.more(rows.length - 5)}</Box>}
      <Fault error={keep.error} />
    </Box>
  );
}
