'use client';

import { chakra } from '@chakra-ui/react';
import type { ComponentProps } from 'react';
import { instantOf, wallClock } from '@/core/time/zone';
import { useTimes } from '../data/use';
import { TextInput } from './parts';

/** A date and time field in the reader's zone, for an instant in milliseconds; empty is null. */
export function MomentInput({ value, onChange, ...props }: Omit<ComponentProps<typeof chakra.input>, 'value' | 'onChange'> & { readonly value: number | null; readonly onChange: (instant: number | null) => void }) {
  const { zone } = useTimes();
  return (
    <TextInput
      type="datetime-local"
      w="210px"
      {...props}
      value={value === null ? '' : wallClock(zone, value)}
      onChange={(event) => onChange(event.target.value ? instantOf(zone, event.target.value) : null)}
    />
  );
}
