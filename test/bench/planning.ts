import { DateTime } from 'luxon';
import { layoutLine } from '@/core/line/layout';
import { lineOf } from '@/core/line/line';
import { edited } from '@/core/route/edit';
import { preflight } from '@/core/route/preflight';
import { type Branch, freshSeat, freshStage, type Series, type Stage } from '@/core/route/route';
import { type Calendar, usualCalendar } from '@/core/time/calendar';
import { after } from '@/core/time/due';
import { crew, drawsFrom, start, subjectFor } from '../properties/arbitrary';

const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;
const milliseconds = (work: () => void): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};

/** A route of 200 seats: eight branches side by side, each of stages with conditions, times and groups. */
function largeRoute(): Series {
  let n = 0;
  const stage = (verb: Stage['verb']): Stage => {
    n += 1;
    const seats = crew.map((person, i) => freshSeat(`s${n}-${i}`, { kind: 'person', person }));
    return {
      ...freshStage(`g${n}`, verb, seats),
      due: { kind: 'after', amount: 3, unit: 'workingDays' },
      condition:
        n % 3 === 0
          ? { kind: 'fact', fact: 'amount', is: 'over', value: { kind: 'amount', thousandths: 0, currency: 'NOK' } }
          : null,
    };
  };
  const branch = (b: number): Branch => ({
    name: `branch ${b}`,
    condition: null,
    route: { kind: 'series', id: `b${b}`, parts: [stage('review'), stage('approve'), stage('read')] },
  });
  const branches = Array.from({ length: 8 }, (_, b) => branch(b));
  return {
    kind: 'series',
    id: 'root',
    parts: [{ kind: 'parallel', id: 'p', name: '', join: { kind: 'all' }, branches }, stage('sign')],
  };
}

/** What a keystroke costs in the planner besides drawing: the checks, the model and its layout, in milliseconds. */
function keystroke(): number {
  const route = largeRoute();
  const once = (i: number) =>
    milliseconds(() => {
      const due = { kind: 'after', amount: 1 + (i % 30), unit: 'workingDays' } as const;
      const changed = edited(route, { do: 'change', stage: 'g4', with: { due } });
      const found = preflight(subjectFor(changed));
      const drawn = layoutLine(lineOf(changed, null, 0), { width: 1232, density: 'large' });
      if (found.length === 0 || drawn.seats.length === 0) throw new Error('nothing was checked or drawn');
    });
  for (let i = 0; i < 20; i += 1) once(i);
  return median(Array.from({ length: 101 }, (_, i) => once(100 + i)));
}

/** Adding working days on a calendar with holidays, beside luxon stepping day by day over the same; both a second. */
function workingTime(): { ours: number; theirs: number; ratio: number } {
  const calendar: Calendar = {
    ...usualCalendar,
    id: 'house',
    name: 'House',
    holidays: Array.from({ length: 60 }, (_, i) => ({
      day: DateTime.fromMillis(start, { zone: 'Europe/Oslo' })
        .plus({ days: i * 13 })
        .toISODate() as string,
      name: 'off',
    })),
  };
  const zone = 'Europe/Oslo';
  const clock = { zone, own: calendar, common: calendar };
  const off = new Set(calendar.holidays.map(({ day }) => day));
  const [last] = usualCalendar.week[0]?.slice(-1) ?? [];
  const draws = drawsFrom(11);
  const cases = Array.from({ length: 400 }, () => ({
    from: start + draws.below(300) * 3_600_000,
    amount: 1 + draws.below(60),
  }));
  const stepping = (from: number, amount: number): number => {
    let at = DateTime.fromMillis(from, { zone });
    for (let left = amount; left > 0; ) {
      at = at.plus({ days: 1 });
      if (at.weekday <= 5 && !off.has(at.toISODate() as string)) left -= 1;
    }
    return at
      .startOf('day')
      .plus({ minutes: last?.to ?? 0 })
      .toMillis();
  };
  for (const { from, amount } of cases)
    if (after(from, { amount, unit: 'workingDays' }, clock) !== stepping(from, amount))
      throw new Error(`they do not agree: ${amount} working days after ${from}`);
  const rate = (one: (from: number, amount: number) => number | null) =>
    cases.length /
    (milliseconds(() => {
      for (const { from, amount } of cases) one(from, amount);
    }) /
      1000);
  const ours: number[] = [];
  const theirs: number[] = [];
  for (let round = 0; round < 15; round += 1) {
    ours.push(rate((from, amount) => after(from, { amount, unit: 'workingDays' }, clock)));
    theirs.push(rate(stepping));
  }
  return {
    ours: median(ours),
    theirs: median(theirs),
    ratio: median(ours.map((own, i) => own / (theirs[i] as number))),
  };
}

process.stdout.write(`${JSON.stringify({ keystroke: keystroke(), working: workingTime() })}\n`);
process.exit(0);
