'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { Refusal } from '../data/client';
import { Fault, TextInput } from './form';
import { partWords } from './words';

/** The page of a list: its name, what else stands in its head, the filter, and the rows once they are there. */
export function ListPage({
  title,
  beside,
  find,
  filter,
  onFilter,
  action,
  form,
  error,
  children,
}: {
  readonly title: string;
  /** Beside the name: a choice, or a quiet line. */
  readonly beside?: ReactNode;
  /** What the filter looks for; null where there is nothing to filter. */
  readonly find: string | null;
  readonly filter: string;
  readonly onFilter: (filter: string) => void;
  readonly action?: ReactNode;
  /** What opens beneath the head. */
  readonly form?: ReactNode;
  readonly error: Refusal | null;
  /** The rows; null while they are on their way. */
  readonly children: ReactNode;
}) {
  return (
    <>
      <Flex px={{ base: '16px', md: '24px' }} pt="14px" pb="10px" gap="18px" align="center" flexWrap="wrap" minH="64px">
        <chakra.h1 fontSize="20px">{title}</chakra.h1>
        <Box flex="1" color="quiet">
          {beside}
        </Box>
        {find !== null && (
          <TextInput
            w="260px"
            placeholder={find}
            aria-label={find}
            value={filter}
            onChange={(event) => onFilter(event.target.value)}
          />
        )}
        {action}
      </Flex>
      {form && (
        <Box px={{ base: '12px', md: '24px' }} pb="12px">
          {form}
        </Box>
      )}
      <Box px="24px">
        <Fault error={error} />
      </Box>
      {children ?? (
        <Box px="24px" color="quiet">
          {partWords.loading}
        </Box>
      )}
    </>
  );
}
