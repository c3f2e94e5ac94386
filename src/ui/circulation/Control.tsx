'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { sentence } from '@/core/circulation/telling/sentences';
import type { CirculationView } from '@/server/circulation/view';
import { useNamesThen, usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useNews } from '../data/useNews';
import { LineDrawing } from '../line/LineDrawing';
import { ruleWords, verbThird, verbWords } from '../line/words';
import { Answered } from '../parts/Answered';
import { Link } from '../parts/Link';
import { Fact, PageHead, Tray } from '../parts/parts';
import { Rows } from '../parts/Rows';
import { useWidth } from '../parts/useWidth';
import { Actions, type Asking, Now, Troubles } from './Actions';
import { AmendPage } from './AmendPage';
import { useValueWords } from './conditionWords';
import { Release, Withdraw } from './EndLeaves';
import { useForecastFact } from './ForecastBand';
import { forecastWords } from './forecastWords';
import { useLineLabels } from './lineLabels';
import { may } from './offers';
import { RoundLeaf } from './RoundLeaf';
import { SeatLeaf } from './SeatLeaf';
import { useSeatNames } from './SeatPerson';
import { EnoughLeaf, GatheringLeaf, StageTimesLeaf, WholeTimesLeaf } from './StageLeaves';
import { SteeringLeaf } from './SteeringLeaf';
import { seatColumns, stageFact } from './seatColumns';
import { TrayContent } from './TrayContent';
import { ValuesLeaf } from './ValuesLeaf';
import { statusOf, circulationWords as words } from './words';

/** The control view of one circulation: its line, every seat, what is due now, and all that happened. */
export function Control({ circulation }: { readonly circulation: string }) {
  const at = Number(useSearchParams().get('at'));
  if (Number.isInteger(at) && at > 0)
    return (
      <Answered name="circulation.asItWas" input={{ circulation, sequence: at }}>
        {(view) => <Page key={at} view={view} />}
      </Answered>
    );
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Page view={view} />}
    </Answered>
  );
}

/** How long each stage took, or is expected to take: what its span is as wide as. Nothing without a forecast. */
function spansOf(view: CirculationView): ReadonlyMap<string, number> {
  const spans = new Map<string, number>();
  const expected = view.forecast?.forecast?.stages;
  if (!expected) return spans;
  for (const { id, status, since, ended } of view.stages) {
    if (status === 'done' && since !== null && ended !== null) spans.set(id, ended - since);
    const ahead = expected.find(({ stage }) => stage === id);
    // A stage under way is as long as what has gone by and what is left.
    if (ahead && status === 'open') spans.set(id, ahead.to - (since ?? ahead.from));
    if (ahead && status === 'idle') spans.set(id, ahead.to - ahead.from);
  }
  return spans;
}

/** What an address asks about, while it can still be asked. */
function askingIn(asked: string | null, view: CirculationView): Asking {
  const wanted = (doing: string) => view.tasks.some((task) => task.doing === doing);
  if (asked === 'round' && wanted('confirmRound')) return 'round';
  if (asked === 'amend' && may(view, 'amend')) return 'amend';
  return asked === 'release' && wanted('release') ? 'release' : null;
}

/** That this is how it stood at a moment, what had just happened, and the ways to what came before, after, and to now. */
function AsItWas({ view }: { readonly view: CirculationView }) {
  const times = useTimes();
  const name = useNamesThen(view.past);
  const value = useValueWords();
  const line = view.trail[view.trail.length - 1];
  if (!view.asOf || !line) return null;
  const { sequence, events, at } = view.asOf;
  const to = (next: number) => `/circulations/${view.id}?at=${next}`;
  return (
    <Flex
      role="status"
      mx={{ base: '12px', md: '24px' }}
      mb="10px"
      px="14px"
      py="8px"
      bg="copperSoft"
      borderLeft="3px solid"
      borderColor="copper"
      borderRadius="4px"
      gap="16px"
      align="center"
      flexWrap="wrap"
      flex="none"
    >
      <Box flex="1" minW="260px">
        <b>{words.asItWas.stood(times.moment(at))}</b> {sentence(line, { name, moment: times.moment, value })}.
      </Box>
      {sequence > 1 && <Step href={to(sequence - 1)}>{words.asItWas.before}</Step>}
      {sequence < events && <Step href={to(sequence + 1)}>{words.asItWas.after}</Step>}
      <Step href={`/circulations/${view.id}`}>{words.asItWas.now}</Step>
    </Flex>
  );
}

const placeIn = ({ seats }: CirculationView['stages'][number], { id }: { readonly id: string }) =>
  seats.includes(id) ? seats.indexOf(id) : seats.length;

function Step({ href, children }: { readonly href: string; readonly children: string }) {
  return (
    <chakra.span color="pine" fontWeight={600} asChild>
      <Link href={href}>{children}</Link>
    </chakra.span>
  );
}

function Page({ view }: { readonly view: CirculationView }) {
  const today = usePeople();
  const then = useNamesThen(view.past);
  const { asOf } = view;
  // What stood then is told with the names and the lateness of then.
  const name = asOf ? (id: string) => then(id, asOf.at) : today.name;
  const times = useTimes();
  const now = asOf?.at ?? times.now();
  const seatName = useSeatNames(view);
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  // Lists lead here with the seat or the question already open.
  const opening = useSearchParams();
  const [open, setOpen] = useState<string | null>(opening.get('seat'));
  const [asking, setAsking] = useState<Asking>(askingIn(opening.get('ask'), view));
  const [tray, setTray] = useState(false);
  // What is begun needs the room that the tray has.
  const ask = (next: Asking) => {
    if (next) setTray(false);
    setAsking(next);
  };
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const labels = useLineLabels(view, view.route, view.copies);
  const news = useNews(
    new Map(
      view.seats.map((seat) => [
        seat.id,
        [seat.status, seat.holder, seat.seen?.at, seat.decision?.at, seat.due].join(),
      ]),
    ),
  );
  const stageOf = new Map(view.stages.map((stage) => [stage.id, stage]));

  const columns = seatColumns({
    view,
    name,
    called: asOf ? (id: string) => then(id, asOf.at) : then,
    times,
    now,
    news,
    stageOf,
  });
  const groups = view.stages.map((stage, i) => ({
    stage,
    title: [
      stage.removed ? words.removedStage(verbWords[stage.verb]) : `${i + 1}  ${verbWords[stage.verb]}`,
      stage.seats.length > 1 && stage.order === 'oneByOne' ? words.plan.oneByOne : '',
      stage.removed ? '' : ruleWords(stage.rule, stage.seats.length),
    ]
      .filter(Boolean)
      .join(' · '),
    // In the order in which they are asked; whoever was removed comes last.
    rows: view.seats
      .filter((seat) => seat.stage === stage.id)
      .toSorted((a, b) => placeIn(stage, a) - placeIn(stage, b)),
  }));
  const forecast = useForecastFact(view);
  const spans = useMemo(() => spansOf(view), [view]);
  const certain = view.forecast?.forecast?.unreliable === null ? view.forecast.forecast : null;
  const openComments = view.comments.filter((comment) => !comment.thread && !comment.resolved).length;
  const last = view.trail[view.trail.length - 1];

  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/register/${view.record.id}`}>{view.record.number}</Link>
            </chakra.span>
            {` · ${words.revision(view.revision)} · ${view.newest ? words.version(view.newest) : words.now.new.split('.')[0]} · ${words.round(view.round)} · ${words.draftOf(name(view.author))} · ${view.number}`}
          </>
        }
        title={view.record.title}
        below={<Now view={view} />}
      >
        {!asOf && <Actions view={view} asking={asking} onOpen={setOpen} onAsk={ask} />}
      </PageHead>
      {asOf && <AsItWas view={view} />}
      {view.steers && <Troubles view={view} px={{ base: '16px', md: '24px' }} />}
      {asking === 'amend' && <AmendPage view={view} onDone={() => setAsking(null)} />}
      {asking && asking !== 'amend' && (
        <Box px={{ base: '12px', md: '24px' }} pb="10px" flex="none" maxH="60vh" overflowY="auto">
          {asking === 'round' && <RoundLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'withdraw' && <Withdraw view={view} onDone={() => setAsking(null)} />}
          {asking === 'times' && <StageTimesLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'whole' && <WholeTimesLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'enough' && <EnoughLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'gathering' && <GatheringLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'steering' && <SteeringLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'values' && <ValuesLeaf view={view} onDone={() => setAsking(null)} />}
          {asking === 'release' && <Release view={view} onDone={() => setAsking(null)} />}
        </Box>
      )}
      <Box
        ref={ref}
        mx={{ base: '8px', md: '24px' }}
        mb="10px"
        flex="none"
        maxH={{ base: 'none', md: '58vh' }}
        overflowX="hidden"
        overflowY="auto"
        // What is being looked at needs the room; the line comes back when it is closed.
        display={asking || tray ? 'none' : { base: open ? 'none' : 'block', md: 'block' }}
      >
        <LineDrawing
          model={view.line}
          width={width}
          spans={spans}
          {...(certain ? { end: forecastWords.released(times.day(certain.dates[1])) } : {})}
          selected={open ? (view.seats.find((seat) => seat.id === open)?.stage ?? null) : null}
          labels={{
            fact: (stage) => stageFact(stageOf.get(stage), view, times, now),
            ...labels,
          }}
          open={unfolded}
          onPlace={(place) => {
            if (place.kind === 'stage') setOpen(place.seat ?? stageOf.get(place.stage)?.seats[0] ?? null);
            if (place.kind === 'parallel') setUnfolded(new Set([...unfolded, place.parallel]));
          }}
        />
      </Box>
      {asking !== 'amend' && (
        <Rows
          label={words.seatColumns.seat}
          columns={columns}
          groups={groups}
          keyOf={(seat) => seat.id}
          nameOf={(seat) => `${seatName(seat)} ${verbThird[seat.verb]}, ${statusOf(seat)}`}
          opened={open}
          onOpened={setOpen}
          leaf={(seat) => <SeatLeaf key={seat.id} view={view} seat={seat} />}
          empty={
            <Box p="24px" color="quiet">
              {words.plan.emptyMore}
            </Box>
          }
        />
      )}
      <Tray
        label={words.tray.label}
        open={tray}
        onToggle={() => setTray(!tray)}
        facts={
          <>
            {forecast && <Fact name={forecastWords.title}>{forecast}</Fact>}
            <Fact name={words.tray.trail}>{last ? `${times.moment(last.at)} · ${view.trail.length}` : ''}</Fact>
            <Fact name={words.tray.files}>{view.versions[view.versions.length - 1]?.files.length ?? 0}</Fact>
            <Fact name={words.tray.comments}>
              {words.tray.openOf(view.comments.filter((comment) => !comment.thread).length, openComments)}
            </Fact>
          </>
        }
      >
        <TrayContent view={view} />
      </Tray>
    </>
  );
}
