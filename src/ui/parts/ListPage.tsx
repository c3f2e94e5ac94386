'use client';

import { Box } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { Refusal } from '../data/client';
import { look } from '../theme/look';
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
      <div className={look('head')}>
        <h1 className={look('title')}>{title}</h1>
        <div className={look('besideTitle')}>{beside}</div>
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
      </div>
      {form && (
        <Box px={{ base: '12px', md: '24px' }} pb="12px">
          {form}
        </Box>
      )}
      <div className={look('margin')}>
        <Fault error={error} />
      </div>
      {children ?? <div className={look('onItsWay')}>{error ? null : partWords.loading}</div>}
    </>
  );
}
