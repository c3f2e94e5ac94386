'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { textOfBytes } from '@/core/formats/csv';
import { type HolidaysRead, holidaysOut } from '@/core/formats/ics';
import { type Holiday, type Hours, usualCalendar } from '@/core/time/calendar';
import { dayText } from '@/core/time/typed';
import { wallClock } from '@/core/time/zone';
import type { OrganizationCalendar } from '@/server/organization/calendars';
import { ask, type Refusal } from '../data/client';
import { download } from '../data/download';
import { say } from '../data/said';
import { useTell, useTimes } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { DayInput } from '../parts/DayInput';
import { Fault, TextField, TextInput, Tick } from '../parts/form';
import { PartForm } from './PartForm';
import { organizationWords as words } from './words';

const clock = (minutes: number) =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

/** Hours as they are written: "07:30-12:00, 12:30-16:00". */
function hoursText(hours: readonly Hours[]): string {
  return hours.map(({ from, to }) => `${clock(from)}-${clock(to)}`).join(', ');
}

/** Hours that were written, or null when they are none. */
function hoursIn(text: string): Hours[] | null {
  if (text.trim() === '') return [];
  const found: Hours[] = [];
  for (const part of text.split(',')) {
    const parts = /^\s*(\d{1,2})[:.]?(\d{2})?\s*[-–]\s*(\d{1,2})[:.]?(\d{2})?\s*$/.exec(part);
    if (!parts) return null;
    const from = Number(parts[1]) * 60 + Number(parts[2] ?? 0);
    const to = Number(parts[3]) * 60 + Number(parts[4] ?? 0);
    if (from >= to || to > 1440 || from < (found[found.length - 1]?.to ?? 0)) return null;
    found.push({ from, to });
  }
  return found;
}

/** The hours of a week in a line: days of the same hours together. */
export function hoursInShort(week: readonly (readonly Hours[])[]): string {
  const runs: { from: number; to: number; text: string }[] = [];
  week.forEach((hours, day) => {
    const text = hoursText(hours);
    const last = runs[runs.length - 1];
    if (last && last.text === text && last.to === day - 1) last.to = day;
    else runs.push({ from: day, to: day, text });
  });
  return runs
    .filter((run) => run.text !== '')
    .map(({ from, to, text }) => `${words.short[from]}${to > from ? `–${words.short[to]}` : ''} ${text}`)
    .join(', ');
}

/** A working calendar: hours of each weekday, holidays by hand and as iCalendar. */
export function CalendarForm({
  calendar,
  editable,
  onDone,
}: {
  readonly calendar: OrganizationCalendar | null;
  readonly editable: boolean;
  readonly onDone: (() => void) | null;
}) {
  const begin = calendar ?? { ...usualCalendar, id: '', name: '', usual: false };
  const [id] = useState(() => calendar?.id ?? crypto.randomUUID());
  const [name, setName] = useState(begin.name);
  const [typed, setTyped] = useState(begin.week.map(hoursText));
  const [holidays, setHolidays] = useState<readonly Holiday[]>(begin.holidays);
  const [usual, setUsual] = useState(begin.usual);
  const save = useTell('calendars.save', { answered: () => say(words.saved(name)), after: () => onDone?.() });
  const remove = useTell('calendars.remove', { answered: () => say(words.removed(name)) });
  const week = typed.map(hoursIn);
  const fit = week.every((hours) => hours !== null);
  const next = { id, name, week: week.map((hours) => hours ?? []), holidays: [...holidays], usual };
  const changed =
    !calendar ||
    JSON.stringify({ ...calendar, holidays: [...calendar.holidays] }) !== JSON.stringify({ ...calendar, ...next });
  return (
    <PartForm
      label={calendar?.name ?? words.add.calendars}
      name={name}
      onName={setName}
      editable={editable}
      changed={changed && fit}
      busy={save.isPending}
      error={save.error ?? remove.error}
      onSave={() => save.mutate(next)}
      onRemove={calendar && !calendar.usual ? () => remove.mutate({ id }) : null}
      onDone={onDone}
    >
      <Flex gap="12px" flexWrap="wrap">
        {words.weekdays.map((day, i) => (
          <Box key={day} w="158px">
            <TextField
              label={day}
              fault={week[i] === null ? words.hoursBad : null}
              value={typed[i]}
              onChange={(event) => setTyped(typed.map((text, at) => (at === i ? event.target.value : text)))}
            />
          </Box>
        ))}
      </Flex>
      <Box color="quiet" fontSize="13px" mb="8px">
        {words.hoursMore}
      </Box>
      <Tick checked={usual} disabled={calendar?.usual ?? false} onChecked={setUsual}>
        {words.usualTick}
      </Tick>
      <Holidays name={name} id={id} holidays={holidays} onHolidays={setHolidays} />
    </PartForm>
  );
}

function Holidays({
  name,
  id,
  holidays,
  onHolidays,
}: {
  readonly name: string;
  readonly id: string;
  readonly holidays: readonly Holiday[];
  readonly onHolidays: (holidays: readonly Holiday[]) => void;
}) {
  const { zone, now } = useTimes();
  const file = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<HolidaysRead | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const [called, setCalled] = useState('');
  const add = (more: readonly Holiday[]) => {
    const all = new Map([...more, ...holidays].map((one) => [one.day, one]));
    onHolidays([...all.values()].sort((a, b) => (a.day < b.day ? -1 : 1)));
  };
  const take = async (picked: File) => {
    setError(null);
    setRead(null);
    try {
      const { text } = textOfBytes(new Uint8Array(await picked.arrayBuffer()));
      const found = await ask('calendars.readHolidays', { content: text.slice(0, 500_000) });
      setRead(found);
      add(found.holidays);
    } catch (fault) {
      setError(fault as Refusal);
    }
  };
  return (
    <Box mt="12px">
      <Box fontWeight={600}>{words.holidaysTitle}</Box>
      <Box maxH="180px" overflowY="auto" my="6px">
        {holidays.map((holiday) => (
          <Flex key={holiday.day} gap="14px" py="2px">
            <Box w="150px">{dayText(holiday.day)}</Box>
            <Box flex="1" color="quiet">
              {holiday.name}
            </Box>
            <WordButton
              color="oxblood"
              fontWeight={500}
              aria-label={`${words.remove}: ${dayText(holiday.day)}`}
              onClick={() => onHolidays(holidays.filter((one) => one !== holiday))}
            >
              {words.remove}
            </WordButton>
          </Flex>
        ))}
      </Box>
      <Flex gap="12px" align="center" flexWrap="wrap">
        <TextInput
          w="220px"
          aria-label={words.holidayName}
          placeholder={words.holidayName}
          maxLength={120}
          value={called}
          onChange={(event) => setCalled(event.target.value)}
        />
        <DayInput
          key={holidays.length}
          aria-label={words.holidayDay}
          value={null}
          today={wallClock(zone, now()).slice(0, 10)}
          onChange={(day) => {
            if (day === null) return;
            add([{ day, name: called.trim() }]);
            setCalled('');
          }}
        />
        <SideButton onClick={() => file.current?.click()}>{words.icsIn}</SideButton>
        {holidays.length > 0 && (
          <WordButton
            onClick={() => download(`${name || 'holidays'}.ics`, holidaysOut(name, id, holidays), 'text/calendar')}
          >
            {words.icsOut}
          </WordButton>
        )}
        <input
          ref={file}
          type="file"
          accept=".ics,text/calendar"
          hidden
          onChange={(event) => {
            const [picked] = event.target.files ?? [];
            event.target.value = '';
            if (picked) void take(picked);
          }}
        />
      </Flex>
      <Fault error={error} />
      {read && (
        <Box mt="8px" role="status">
          {words.icsFound(read.holidays.length)}
          {read.leftOut.length > 0 && (
            <Box color="copperText">
              {words.icsLeft(read.leftOut.length)}{' '}
              {read.leftOut
                .slice(0, 8)
                .map(({ name: entry, why }) => `${entry || words.unnamed} ${words.icsFaults[why]}`)
                .join('; ')}
            </Box>
          )}
        </Box>
      )}
    </Box>
  );
}
