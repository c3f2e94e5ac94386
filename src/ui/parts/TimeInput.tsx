'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { Time } from '@/core/route/route';
import { type Clock, timeFor } from '@/core/time/due';
import { durationText, saidTime } from '@/core/time/moment';
import { datedIn, momentIn } from '@/core/time/zone';
import { useTimes } from '../data/use';
import { WordButton } from './buttons';
import { TextInput } from './form';
import { MomentInput } from './MomentInput';
import { partWords } from './words';

const words = partWords.times;

/** A time as it stands in the field that it was typed in. */
function textOf(time: Time | null, zone: string, now: number): string {
  if (time === null) return '';
  return time.kind === 'after' ? durationText(time) : momentIn(zone, time.at, now);
}

/**
 * A time of a plan, typed as one says it or picked from a calendar. What was understood stands beside it with weekday and
 * zone; what could mean two things is asked back, and what means nothing stays as it was typed, with what would help.
 */
export function TimeInput({
  value,
  onChange,
  clock,
  plain = false,
  begins = false,
  focused = false,
  id,
  'aria-label': label,
}: {
  readonly value: Time | null;
  readonly onChange: (time: Time | null) => void;
  /** Whose clock it would count on, for what it means if they were asked now. */
  readonly clock: Clock;
  /** Only a moment, no stretch of time. */
  readonly plain?: boolean;
  /** Whether something begins then: a day that is named without an hour begins with it. */
  readonly begins?: boolean;
  /** Whether one goes on typing in it. */
  readonly focused?: boolean;
  readonly id?: string | undefined;
  readonly 'aria-label'?: string | undefined;
  readonly 'aria-describedby'?: string | undefined;
}) {
  const { zone, now } = useTimes();
  const shown = textOf(value, zone, now());
  const [typed, setTyped] = useState(shown);
  const [asked, setAsked] = useState<readonly Time[] | 'none' | null>(null);
  const [picking, setPicking] = useState(false);
  useEffect(() => {
    setTyped(shown);
    setAsked(null);
  }, [shown]);
  const take = () => {
    if (typed.trim() === shown) return;
    if (typed.trim() === '') {
      setAsked(null);
      onChange(null);
      return;
    }
    const said = saidTime(typed, { now: now(), zone, usual: begins ? words.usualBegin : words.usual });
    const fits = (time: Time) => !plain || time.kind === 'instant';
    if (said.kind === 'time' && fits(said.time)) {
      setAsked(null);
      onChange(said.time);
    } else setAsked(said.kind === 'unclear' ? said.options.filter(fits) : 'none');
  };
  const at = timeFor(value, now(), clock);
  const own = at === null ? '' : momentIn(clock.zone, at, now());
  return (
    <Box>
      <TextInput
        id={id}
        aria-label={label}
        autoFocus={focused}
        placeholder={plain ? words.hintPlain : words.hint}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          take();
        }}
      />
      <Flex gap="8px" minH="22px" fontSize="13px" color="quiet" align="baseline" flexWrap="wrap" aria-live="polite">
        {asked === 'none' && <chakra.span color="oxblood">{plain ? words.unclearPlain : words.unclear}</chakra.span>}
        {Array.isArray(asked) && (
          <>
            {words.which}
            {(asked as readonly Time[]).map((time) => (
              <WordButton
                key={JSON.stringify(time)}
                onClick={() => {
                  setAsked(null);
                  onChange(time);
                }}
              >
                {textOf(time, zone, now())}
              </WordButton>
            ))}
          </>
        )}
        {asked === null && at !== null && value && (
          <span title={datedIn(clock.zone, at)}>
            {value.kind === 'after' ? words.ifAskedNow : ''}
            <chakra.span fontWeight={600} color="ink">
              {own}
            </chakra.span>
            {`, ${placeOf(clock.zone)}`}
          </span>
        )}
        {asked === null && value === null && !picking && (
          <WordButton fontSize="13px" fontWeight={500} onClick={() => setPicking(true)}>
            {words.pick}
          </WordButton>
        )}
      </Flex>
      {picking && value === null && (
        <MomentInput
          aria-label={label ?? words.pick}
          value={null}
          onChange={(instant) => {
            setPicking(false);
            onChange(instant === null ? null : { kind: 'instant', at: instant });
          }}
        />
      )}
    </Box>
  );
}

/** The place that a zone is called after. */
function placeOf(zone: string): string {
  return (zone.split('/').pop() ?? zone).replace(/_/g, ' ');
}
