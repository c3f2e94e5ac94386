'use client';

import { Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { typedTime } from '@/core/time/typed';
import { instantAtWall, wallClock } from '@/core/time/zone';
import { useTimes } from '../data/use';
import { DayInput } from './DayInput';
import { TextInput } from './form';
import { partWords } from './words';

/**
 * A day and a time in the reader's zone, for an instant in milliseconds; empty is null. Both can be typed as people write
 * them; the day can be picked from a calendar as well.
 */
export function MomentInput({
  value,
  onChange,
  id,
  'aria-label': label,
  'aria-describedby': describedBy,
  usual = '16:00',
}: {
  readonly value: number | null;
  readonly onChange: (instant: number | null) => void;
  readonly id?: string;
  readonly 'aria-label'?: string;
  readonly 'aria-describedby'?: string | undefined;
  /** The time of day where only the day was chosen. */
  readonly usual?: string;
}) {
  const { zone, now } = useTimes();
  const wall = value === null ? null : wallClock(zone, value);
  const day = wall?.slice(0, 10) ?? null;
  const time = wall?.slice(11, 16) ?? '';
  const [typed, setTyped] = useState(time);
  useEffect(() => setTyped(time), [time]);
  const put = (nextDay: string | null, nextTime: string) =>
    onChange(nextDay === null ? null : instantAtWall(zone, `${nextDay}T${nextTime || usual}`));
  const takeTime = () => {
    const found = typedTime(typed);
    if (found !== null && day !== null) put(day, found);
    else setTyped(time);
  };
  return (
    <Flex gap="6px" align="center">
      <DayInput
        id={id}
        aria-label={label}
        aria-describedby={describedBy}
        value={day}
        today={wallClock(zone, now()).slice(0, 10)}
        onChange={(next) => put(next, time)}
      />
      <TextInput
        w="68px"
        flex="none"
        aria-label={label ? partWords.timeOf(label) : partWords.time}
        placeholder={day === null ? '' : usual}
        disabled={day === null}
        opacity={day === null ? 0.5 : 1}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={takeTime}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          takeTime();
        }}
      />
    </Flex>
  );
}
