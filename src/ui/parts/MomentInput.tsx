'use client';

import { Box, type chakra } from '@chakra-ui/react';
import type { ComponentProps } from 'react';
import { instantOf, wallClock } from '@/core/time/zone';
import { useTimes } from '../data/use';
import { TextInput } from './form';

/** A date and time field in the reader's zone, for an instant in milliseconds; empty is null. */
export function MomentInput({
  value,
  onChange,
  ...props
}: Omit<ComponentProps<typeof chakra.input>, 'value' | 'onChange'> & {
  readonly value: number | null;
  readonly onChange: (instant: number | null) => void;
}) {
  const { zone, moment } = useTimes();
  return (
    <Box>
      <TextInput
        type="datetime-local"
        w="210px"
        {...props}
        value={value === null ? '' : wallClock(zone, value)}
        onChange={(event) => onChange(event.target.value ? instantOf(zone, event.target.value) : null)}
      />
      {/* Browsers write dates in many ways; this line says it in ours. */}
      {value !== null && (
        <Box fontSize="12.5px" color="quiet" mt="2px">
          {moment(value)}
        </Box>
      )}
    </Box>
  );
}
