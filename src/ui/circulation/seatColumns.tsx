'use client';

import { isLate } from '@/core/time/press';
import { daysBetween } from '@/core/time/zone';
import type { CirculationView } from '@/server/circulation/view';
import type { useTimes } from '../data/use';
import { ruleWords, verbThird } from '../line/words';
import { NewDot } from '../parts/parts';
import type { Column } from '../parts/Rows';
import { look } from '../theme/look';
import { forecastWords } from './forecastWords';
import { personOfSeat, SeatPerson } from './SeatPerson';
import { heldWords, outcomeWords, statusOf, statusWords, circulationWords as words } from './words';

export type SeatRow = CirculationView['seats'][number];
type StageRow = CirculationView['stages'][number];
type Times = ReturnType<typeof useTimes>;

/** The columns of the seats of a circulation: who, how it stands, since when, due and reminded. */
export function seatColumns({
  view,
  name,
  called,
  times,
  now,
  news,
  stageOf,
}: {
  readonly view: CirculationView;
  readonly name: (person: string) => string;
  /** What somebody was called at a moment. */
  readonly called: (person: string, at: number) => string;
  readonly times: Times;
  readonly now: number;
  /** The seats that have changed since the page was opened. */
  readonly news: ReadonlySet<string>;
  readonly stageOf: ReadonlyMap<string, StageRow>;
}): Column<SeatRow>[] {
  return [
    {
      name: words.seatColumns.seat,
      width: 'minmax(0, 1.4fr)',
      cell: (seat) => (
        <SeatPerson
          view={view}
          seat={seat}
          called={called(personOfSeat(seat), seat.decision?.at ?? Number.MAX_SAFE_INTEGER)}
          quiet={[
            verbThird[seat.verb],
            ...(seat.taken ? [words.fromGroup] : []),
            ...(seat.status === 'asked' && seat.covers.length > 0
              ? [words.coveredBy(seat.covers.map(({ person }) => name(person)).join(', '))]
              : []),
            ...(seat.secondHolders.length > 0 ? [words.withCo(seat.secondHolders.map(name).join(', '))] : []),
          ].join(', ')}
        />
      ),
    },
    {
      name: words.seatColumns.state,
      width: 'minmax(0, 1fr)',
      cell: (seat) => (
        <>
          {news.has(seat.id) && <NewDot />}
          <SeatState seat={seat} paused={view.paused !== null} now={now} moment={times.moment} />
        </>
      ),
    },
    {
      name: words.seatColumns.asked,
      width: '128px',
      wide: true,
      cell: (seat) => (
        <span className={look('quiet')}>{seat.since !== null ? times.moment(seat.since) : words.none}</span>
      ),
    },
    {
      name: words.seatColumns.due,
      width: '210px',
      wide: true,
      cell: (seat) => {
        const due = seat.due ?? stageOf.get(seat.stage)?.due ?? null;
        const late = seat.status === 'asked' && isLate(due, now) && view.paused === null;
        // A kept response was given in another round, for another due time.
        const answered = seat.kept ? null : (seat.decision?.at ?? null);
        return (
          <span className={look(late ? 'late' : 'quiet')}>
            {due === null ? words.none : times.moment(due)}
            {due !== null &&
              answered !== null &&
              ` · ${answered <= due ? words.inTime : words.lateBy(daysBetween(times.zone, due, answered))}`}
          </span>
        );
      },
    },
    {
      name: words.seatColumns.reminded,
      width: '130px',
      wide: true,
      cell: (seat) => (
        <span className={look('quiet')}>
          {seat.reminded.length > 0
            ? seat.reminded
                .map((at) => times.day(at))
                .slice(-2)
                .join(', ')
            : words.none}
        </span>
      ),
    },
  ];
}

/** The fact that stands over a stage's span of the line, in its tone. */
export function stageFact(stage: StageRow | undefined, view: CirculationView, times: Times, now: number) {
  if (!stage) return null;
  const rule = stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length);
  if (stage.skipped) return { text: words.skipped };
  if (stage.gathering) return { text: words.gatheringFact, tone: 'copperText' as const };
  if (stage.status === 'done') return { text: `done ${stage.ended ? times.day(stage.ended) : ''}` };
  if (stage.status === 'released') return { text: statusWords.released };
  if (stage.held !== null) return { text: heldWords[stage.held], tone: 'copperText' as const };
  if (view.stops.some((stop) => stop.stage === stage.id)) return { text: 'stopped', tone: 'oxblood' as const };
  const dues = view.seats
    .filter((seat) => seat.stage === stage.id && seat.status === 'asked')
    .flatMap((seat) => (seat.due === null ? [] : [seat.due]));
  const due = dues.length > 0 ? Math.max(...dues) : stage.due;
  const late = stage.status === 'open' && view.paused === null && dues.some((candidate) => candidate < now);
  const expected = view.forecast?.forecast?.unreliable === null ? view.forecast.forecast.stages : [];
  const to = expected.find((one) => one.stage === stage.id)?.to ?? null;
  // What is not reached has no due yet, mostly; the forecast says when it will be over.
  if (due === null || (stage.status === 'idle' && to !== null && to > due))
    return to === null ? (rule ? { text: rule } : null) : { text: forecastWords.expected(times.day(to)) };
  return {
    text: [`due ${times.day(due)}`, rule].filter(Boolean).join(', '),
    tone: late ? ('copperText' as const) : ('quiet' as const),
  };
}

/** How a seat stands, in a word and its time. */
export function SeatState({
  seat,
  paused,
  now,
  moment,
}: {
  readonly seat: SeatRow;
  /** Whether the circulation is paused: nothing is late then. */
  readonly paused: boolean;
  readonly now: number;
  readonly moment: (at: number) => string;
}) {
  if (seat.decision && ['decided', 'declined', 'returned'].includes(seat.status))
    return (
      <span className={look(seat.status === 'declined' && 'grave')}>
        {outcomeWords[seat.decision.outcome]}, {moment(seat.decision.at)}
        {seat.kept && <span className={look('quiet')}> · {words.keptFrom(seat.decision.round)}</span>}
      </span>
    );
  if (seat.status === 'asked' && paused) return <span className={look('quiet')}>{words.pausedSeat}</span>;
  if (seat.status === 'asked') {
    const late = isLate(seat.due, now);
    return (
      <span className={look(late && 'late')}>
        {late ? `${words.late}, ` : ''}
        {seat.notBefore !== null && seat.notBefore > now ? `${words.mayFrom(moment(seat.notBefore))}, ` : ''}
        {seat.waitsForOpening ? `${words.mayOpened}, ` : ''}
        {seat.seen ? `${words.seen} ${moment(seat.seen.at)}` : words.notSeen}
      </span>
    );
  }
  return <span className={look(seat.status === 'missed' ? 'lost' : 'quiet')}>{statusOf(seat)}</span>;
}
