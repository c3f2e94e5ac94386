'use client';

import { Box } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { InputOf, OutputOf, QueryName } from '../data/client';
import { useAnswer } from '../data/use';
import { Fault } from './form';
import { partWords } from './words';

/**
 * A page that stands on the answer to one question: until it is there, that it is on its way, or why it does not come.
 * A page that stands stays when only the connection fails, with a line that says so; a refusal takes its place.
 */
export function Answered<N extends QueryName>({
  name,
  input,
  children,
}: {
  readonly name: N;
  readonly input: InputOf<N>;
  readonly children: (answer: OutputOf<N>) => ReactNode;
}) {
  const { data, error } = useAnswer(name, input);
  const refused = error !== null && error.status >= 400 && error.status < 500;
  if (refused || (error && data === undefined))
    return (
      <Box p="24px">
        <Fault error={error} />
      </Box>
    );
  if (data === undefined)
    return (
      <Box p="24px" color="quiet">
        {partWords.loading}
      </Box>
    );
  return (
    <>
      {error && (
        <Box px={{ base: '16px', md: '24px' }} pt="8px">
          <Fault error={error} />
        </Box>
      )}
      {children(data)}
    </>
  );
}
