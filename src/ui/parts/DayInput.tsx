'use client';

import { DatePicker, Portal } from '@chakra-ui/react';
import { type CalendarDate, parseDate } from '@internationalized/date';
import { CalendarDays } from 'lucide-react';
import { useEffect, useState } from 'react';
import { dayText, typedDay } from '@/core/time/typed';
import { TextInput } from './form';
import { partWords } from './words';

/** A day as an ISO 8601 date, typed as people write it or picked from a calendar; empty is null. */
export function DayInput({
  value,
  today,
  onChange,
  id,
  'aria-label': label,
  'aria-describedby': describedBy,
}: {
  readonly value: string | null;
  /** The reader's day, from which a day without a year counts. */
  readonly today: string;
  readonly onChange: (day: string | null) => void;
  readonly id?: string | undefined;
  readonly 'aria-label'?: string | undefined;
  readonly 'aria-describedby'?: string | undefined;
}) {
  const [typed, setTyped] = useState(dayText(value));
  useEffect(() => setTyped(dayText(value)), [value]);
  // What is no day is taken back.
  const take = () => {
    const found = typedDay(typed, today);
    if (typed.trim() === '' && value !== null) onChange(null);
    else if (found !== null && found !== value) onChange(found);
    else setTyped(dayText(value));
  };
  return (
    <DatePicker.Root
      width="196px"
      flex="none"
      locale="en-GB"
      startOfWeek={1}
      value={value === null ? [] : [parseDate(value)]}
      onValueChange={({ value: [picked] }) => onChange(picked ? (picked as CalendarDate).toString() : null)}
    >
      <DatePicker.Control>
        {/* The picker's own field takes digits only; people write "15 Jan". */}
        <TextInput
          id={id}
          pr="36px"
          placeholder={partWords.dayHint}
          aria-label={label}
          aria-describedby={describedBy}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={take}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            event.preventDefault();
            take();
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
          <DatePicker.Content bg="surface" border="1px solid" borderColor="edge" borderRadius="6px" boxShadow="none">
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
  );
}
