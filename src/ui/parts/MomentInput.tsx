'use client';

import { DatePicker, Flex, Portal } from '@chakra-ui/react';
import { type CalendarDate, parseDate } from '@internationalized/date';
import { CalendarDays } from 'lucide-react';
import { useEffect, useState } from 'react';
import { dayText, typedDay, typedTime } from '@/core/time/typed';
import { instantOf, wallClock } from '@/core/time/zone';
import { useTimes } from '../data/use';
import { TextInput } from './form';
import { partWords } from './words';

/** The time of day that a day begins with when only the day was chosen. */
const usualTime = '16:00';

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
}: {
  readonly value: number | null;
  readonly onChange: (instant: number | null) => void;
  readonly id?: string;
  readonly 'aria-label'?: string;
  readonly 'aria-describedby'?: string | undefined;
}) {
  const { zone, now } = useTimes();
  const wall = value === null ? null : wallClock(zone, value);
  const day = wall?.slice(0, 10) ?? null;
  const time = wall?.slice(11, 16) ?? '';
  const [typed, setTyped] = useState(time);
  useEffect(() => setTyped(time), [time]);
  const [typedAs, setTypedAs] = useState(dayText(day));
  useEffect(() => setTypedAs(dayText(day)), [day]);
  const put = (nextDay: string | null, nextTime: string) =>
    onChange(nextDay === null ? null : instantOf(zone, `${nextDay}T${nextTime || usualTime}`));
  // What is no day is taken back.
  const takeDay = () => {
    const found = typedDay(typedAs, wallClock(zone, now()).slice(0, 10));
    if (typedAs.trim() === '' && day !== null) put(null, time);
    else if (found !== null && found !== day) put(found, time);
    else setTypedAs(dayText(day));
  };
  const takeTime = () => {
    const found = typedTime(typed);
    if (found !== null && day !== null) put(day, found);
    else setTyped(time);
  };
  return (
    <Flex gap="6px" align="center">
      <DatePicker.Root
        width="196px"
        flex="none"
        locale="en-GB"
        startOfWeek={1}
        value={day === null ? [] : [parseDate(day)]}
        onValueChange={({ value: [picked] }) => put(picked ? (picked as CalendarDate).toString() : null, time)}
      >
        <DatePicker.Control>
          {/* The picker's own field takes digits only; people write "15 Jan". */}
          <TextInput
            id={id}
            pr="36px"
            placeholder={partWords.dayHint}
            aria-label={label}
            aria-describedby={describedBy}
            value={typedAs}
            onChange={(event) => setTypedAs(event.target.value)}
            onBlur={takeDay}
            onKeyDown={(event) => {
              if (event.key !== 'Enter') return;
              event.preventDefault();
              takeDay();
            }}
          />
          <DatePicker.IndicatorGroup>
            <DatePicker.Trigger aria-label={partWords.calendar} color="quiet" minW="28px" minH="28px">
              <CalendarDays size={16} />
            </DatePicker.Trigger>
          </DatePicker.IndicatorGroup>
        </DatePicker.Control>
        <Portal>
          <DatePicker.Positioner>
            <DatePicker.Content
              bg="surface"
              border="1px solid"
              borderColor="edge"
              borderRadius="6px"
              boxShadow="none"
              css={{ '& [data-part=table-cell-trigger][data-selected]': { bg: 'pine', color: 'onPine' } }}
            >
              <DatePicker.View view="day">
                <DatePicker.Header />
                <DatePicker.DayTable />
              </DatePicker.View>
              <DatePicker.View view="month">
                <DatePicker.Header />
                <DatePicker.MonthTable />
              </DatePicker.View>
              <DatePicker.View view="year">
                <DatePicker.Header />
                <DatePicker.YearTable />
              </DatePicker.View>
            </DatePicker.Content>
          </DatePicker.Positioner>
        </Portal>
      </DatePicker.Root>
      <TextInput
        w="68px"
        flex="none"
        aria-label={label ? partWords.timeOf(label) : partWords.time}
        placeholder={day === null ? '' : usualTime}
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
