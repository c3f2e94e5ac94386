'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { useAsk, useMe, usePeople, useTell, useTimes } from '../data/use';
import { useNews } from '../data/useNews';
import { LineDrawing } from '../line/LineDrawing';
import { ruleWords, verbThird, verbWords } from '../line/words';
import { Answered } from '../parts/Answered';
import {
  DueButton,
  Fact,
  Fault,
  GraveButton,
  NewDot,
  PageHead,
  PersonName,
  SideButton,
  Slip,
  TextArea,
  Tray,
  WordButton,
} from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { useWidth } from '../parts/useWidth';
import { RoundSlip } from './RoundSlip';
import { SeatSlip } from './SeatSlip';
import { TrayContent } from './TrayContent';
import { outcomeWords, statusWords, circulationWords as words } from './words';

export type SeatRow = CirculationView['seats'][number];
export type StageRow = CirculationView['stages'][number];

type Asking = 'withdraw' | 'release' | 'round' | null;

/** The control view of one circulation: its line, every seat, what is due now, and all that happened. */
export function Control({ circulation }: { readonly circulation: string }) {
  return (
    <Answered<CirculationView> name="circulation.view" input={{ circulation }}>
      {(view) => <Page view={view} />}
    </Answered>
  );
}

function Page({ view }: { readonly view: CirculationView }) {
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const now = times.now();
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const [open, setOpen] = useState<string | null>(null);
  const [asking, setAsking] = useState<Asking>(null);
  const [tray, setTray] = useState(false);
  const steers = me?.me.id === view.controller;
  const news = useNews(
    new Map(
      view.seats.map((seat) => [
        seat.id,
        [seat.status, seat.holder, seat.seen?.at, seat.decision?.at, seat.due].join(),
      ]),
    ),
  );
  const stageOf = new Map(view.stages.map((stage) => [stage.id, stage]));

  const columns: Column<SeatRow>[] = [
    {
      name: words.seatColumns.seat,
      width: 'minmax(0, 1.4fr)',
      cell: (seat) => (
        <PersonName
          id={seat.holder}
          quiet={[
            verbThird[seat.verb],
            ...(seat.coHolders.length > 0 ? [words.withCo(seat.coHolders.map(name).join(', '))] : []),
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
          <SeatState seat={seat} now={now} moment={times.moment} />
        </>
      ),
    },
    {
      name: words.seatColumns.asked,
      width: '128px',
      wide: true,
      cell: (seat) => (
        <chakra.span color="quiet">{seat.since !== null ? times.moment(seat.since) : words.none}</chakra.span>
      ),
    },
    {
      name: words.seatColumns.due,
      width: '150px',
      wide: true,
      cell: (seat) => {
        const due = seat.due ?? stageOf.get(seat.stage)?.due ?? null;
        const late = seat.status === 'asked' && due !== null && due < now;
        return (
          <chakra.span color={late ? 'copperText' : 'quiet'} fontWeight={late ? 600 : 400}>
            {due !== null && seat.status !== 'decided' ? times.moment(due) : words.none}
          </chakra.span>
        );
      },
    },
    {
      name: words.seatColumns.reminded,
      width: '130px',
      wide: true,
      cell: (seat) => (
        <chakra.span color="quiet">
          {seat.reminded.length > 0
            ? seat.reminded
                .map((at) => times.day(at))
                .slice(-2)
                .join(', ')
            : words.none}
        </chakra.span>
      ),
    },
  ];
  // What is under way stands first, what is still to come next, what is done last; numbers say the order of the route.
  const rank = (stage: StageRow) =>
    stage.status === 'open' || stage.status === 'held' ? 0 : stage.status === 'idle' ? 1 : 2;
  const groups = view.stages
    .map((stage, i) => ({
      stage,
      title: [
        `${i + 1}  ${verbWords[stage.verb]}`,
        stage.seats.length > 1 && stage.order === 'oneByOne' ? words.plan.oneByOne : '',
        ruleWords(stage.rule, stage.seats.length),
      ]
        .filter(Boolean)
        .join(' · '),
      rows: view.seats.filter((seat) => seat.stage === stage.id),
    }))
    .sort((a, b) => rank(a.stage) - rank(b.stage));
  const openRemarks = view.remarks.filter((remark) => !remark.thread && !remark.settled).length;
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
        below={<Now view={view} steers={steers} />}
      >
        <Actions view={view} steers={steers} me={me?.me.id ?? ''} onOpen={setOpen} onAsk={setAsking} />
      </PageHead>
      {asking && (
        <Box px={{ base: '12px', md: '24px' }} pb="10px" flex="none" maxH="60vh" overflowY="auto">
          {asking === 'round' && <RoundSlip view={view} onDone={() => setAsking(null)} />}
          {asking === 'withdraw' && <Withdraw view={view} onDone={() => setAsking(null)} />}
          {asking === 'release' && <Release view={view} onDone={() => setAsking(null)} />}
        </Box>
      )}
      <Box
        ref={ref}
        mx={{ base: '8px', md: '24px' }}
        mb="10px"
        flex="none"
        overflow="hidden"
        // What is being looked at needs the room; the line comes back when it is closed.
        display={asking || tray ? 'none' : 'block'}
      >
        <LineDrawing
          model={view.line}
          width={width}
          selected={open ? (view.seats.find((seat) => seat.id === open)?.stage ?? null) : null}
          labels={{ fact: (stage) => stageFact(stageOf.get(stage), view, times, now) }}
          onStage={(stage, seat) => setOpen(seat ?? stageOf.get(stage)?.seats[0] ?? null)}
        />
      </Box>
      <Rows
        label={words.seatColumns.seat}
        columns={columns}
        groups={groups}
        keyOf={(seat) => seat.id}
        nameOf={(seat) => `${name(seat.holder)} ${verbThird[seat.verb]}, ${statusWords[seat.status]}`}
        opened={open}
        onOpened={setOpen}
        slip={(seat) => <SeatSlip key={seat.id} view={view} seat={seat} steers={steers} />}
        empty={
          <Box p="24px" color="quiet">
            {words.plan.emptyMore}
          </Box>
        }
      />
      <Tray
        label={words.tray.label}
        open={tray}
        onToggle={() => setTray(!tray)}
        facts={
          <>
            <Fact name={words.tray.trail}>{last ? `${times.moment(last.at)} · ${view.trail.length}` : ''}</Fact>
            <Fact name={words.tray.files}>{view.versions[view.versions.length - 1]?.files.length ?? 0}</Fact>
            <Fact name={words.tray.remarks}>
              {words.tray.openOf(view.remarks.filter((remark) => !remark.thread).length, openRemarks)}
            </Fact>
          </>
        }
      >
        <TrayContent view={view} />
      </Tray>
    </>
  );
}

function stageFact(
  stage: StageRow | undefined,
  view: CirculationView,
  times: ReturnType<typeof useTimes>,
  now: number,
) {
  if (!stage) return null;
  const rule = stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length);
  if (stage.status === 'done') return { text: `done ${stage.ended ? times.day(stage.ended) : ''}` };
  if (stage.status === 'released') return { text: statusWords.released };
  if (stage.status === 'held') return { text: 'waits for places', tone: 'copperText' as const };
  if (view.stops.some((stop) => stop.stage === stage.id)) return { text: 'stopped', tone: 'oxblood' as const };
  const dues = view.seats
    .filter((seat) => seat.stage === stage.id && seat.status === 'asked')
    .flatMap((seat) => (seat.due === null ? [] : [seat.due]));
  const due = dues.length > 0 ? Math.max(...dues) : stage.due;
  const late = stage.status === 'open' && dues.some((candidate) => candidate < now);
  if (due === null) return rule ? { text: rule } : null;
  return {
    text: [`due ${times.day(due)}`, rule].filter(Boolean).join(', '),
    tone: late ? ('copperText' as const) : ('quiet' as const),
  };
}

function SeatState({
  seat,
  now,
  moment,
}: {
  readonly seat: SeatRow;
  readonly now: number;
  readonly moment: (at: number) => string;
}) {
  if (seat.decision && ['decided', 'declined', 'returned'].includes(seat.status))
    return (
      <chakra.span
        color={seat.status === 'declined' ? 'oxblood' : undefined}
        fontWeight={seat.status === 'declined' ? 600 : 400}
      >
        {outcomeWords[seat.decision.outcome]}, {moment(seat.decision.at)}
        {seat.kept && <chakra.span color="quiet"> · {words.keptFrom(seat.decision.round)}</chakra.span>}
      </chakra.span>
    );
  if (seat.status === 'asked') {
    const late = seat.due !== null && seat.due < now;
    return (
      <chakra.span color={late ? 'copperText' : undefined} fontWeight={late ? 600 : 400}>
        {late ? `${words.late}, ` : ''}
        {seat.seen ? `${words.seen} ${moment(seat.seen.at)}` : words.notSeen}
      </chakra.span>
    );
  }
  return <chakra.span color={seat.status === 'missed' ? 'oxblood' : 'quiet'}>{statusWords[seat.status]}</chakra.span>;
}

/** One sentence: how things stand and whom they wait for. */
function Now({ view, steers }: { readonly view: CirculationView; readonly steers: boolean }) {
  const { name } = usePeople();
  const times = useTimes();
  const now = times.now();
  const said = words.now;
  if (view.phase === 'new') return <>{said.new}</>;
  if (view.phase === 'withdrawn')
    return (
      <>
        {said.withdrawn(times.day(view.ended ?? now))}{' '}
        {view.withdrawn?.words && <chakra.span color="quiet">“{view.withdrawn.words}”</chakra.span>}
      </>
    );
  if (view.phase === 'completed') return <>{said.completed(view.revision, times.day(view.ended ?? now))}</>;
  if (view.phase === 'sealing') return <>{view.final ? said.ready : said.sealing}</>;
  if (view.phase === 'rework') {
    const waiting = view.tasks.some((task) => task.doing === 'confirmRound');
    return (
      <>
        {waiting ? said.reworkIn : said.rework(name(view.author))}{' '}
        {view.rework?.words && <chakra.span color="quiet">“{view.rework.words}”</chakra.span>}
      </>
    );
  }
  if (view.stops.length > 0)
    return (
      <chakra.span color="oxblood" fontWeight={600}>
        {steers ? said.stopped : said.stoppedOther(name(view.controller))}
      </chakra.span>
    );
  const asked = view.seats.filter((seat) => seat.status === 'asked');
  if (asked.length === 0 && view.placesWanted) return <>{said.held}</>;
  return <>{said.runningAll(asked.length, asked.filter((seat) => seat.due !== null && seat.due < now).length)}</>;
}

/** The act that helps most now, and what stands beside it. */
function Actions({
  view,
  steers,
  me,
  onOpen,
  onAsk,
}: {
  readonly view: CirculationView;
  readonly steers: boolean;
  readonly me: string;
  readonly onOpen: (seat: string) => void;
  readonly onAsk: (what: Asking) => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const times = useTimes();
  const remind = useTell<{ circulation: string; seat: string }>('circulation.remind');
  const afresh = useTell<{ circulation: string }, { circulation: string }>('circulation.startAfresh', {
    after: (made) => router.push(`/circulations/${made.circulation}`),
  });
  const first = (id: string) => name(id).split(' ')[0] ?? '';
  const { circulation } = { circulation: view.id };
  const mine = view.seats.find(
    (seat) => seat.status === 'asked' && (seat.holder === me || seat.coHolders.includes(me)),
  );
  const task = (doing: string) => view.tasks.some((candidate) => candidate.person === me && candidate.doing === doing);
  const live = view.phase === 'running' || view.phase === 'rework' || view.phase === 'new' || view.phase === 'sealing';
  const late = view.seats.find(
    (seat) =>
      seat.status === 'asked' &&
      seat.due !== null &&
      seat.due < times.now() &&
      (seat.reminded.length === 0 || times.now() - (seat.reminded[seat.reminded.length - 1] ?? 0) > 3_600_000),
  );

  const due = () => {
    if (steers) {
      const stop = view.stops.find((candidate) => 'seat' in candidate);
      if (stop && 'seat' in stop) {
        const seat = view.seats.find((candidate) => candidate.id === stop.seat);
        return (
          <DueButton onClick={() => onOpen(stop.seat)}>
            {stop.kind === 'missed'
              ? words.due.extendSeat(first(seat?.holder ?? ''))
              : words.due.give(first(seat?.holder ?? ''))}
          </DueButton>
        );
      }
      if (task('confirmRound')) return <DueButton onClick={() => onAsk('round')}>{words.due.round}</DueButton>;
      if (task('release'))
        return <DueButton onClick={() => onAsk('release')}>{words.due.release(view.revision)}</DueButton>;
      if (task('putPlaces'))
        return (
          <DueButton onClick={() => router.push(`/circulations/${circulation}/places`)}>{words.due.places}</DueButton>
        );
      if (task('send'))
        return <DueButton onClick={() => router.push(`/circulations/${circulation}/plan`)}>{words.due.send}</DueButton>;
      if (view.phase === 'new')
        return <DueButton onClick={() => router.push(`/circulations/${circulation}/plan`)}>{words.due.plan}</DueButton>;
    }
    if (mine)
      return (
        <DueButton
          tone={mine.verb === 'sign' ? 'iris' : 'pine'}
          onClick={() => router.push(`/circulations/${circulation}/act/${mine.id}`)}
        >
          {words.due.act[mine.verb]}
        </DueButton>
      );
    if (view.author === me && (task('rework') || task('write')))
      return <DueButton onClick={() => router.push(`/draft/${view.change}`)}>{words.due.draft}</DueButton>;
    if (steers && view.phase === 'withdrawn' && !view.inWork)
      return (
        <DueButton busy={afresh.isPending} onClick={() => afresh.mutate({ circulation })}>
          {words.due.afresh}
        </DueButton>
      );
    if (steers && late)
      return (
        <DueButton busy={remind.isPending} onClick={() => remind.mutate({ circulation, seat: late.id })}>
          {words.due.remind(first(late.holder))}
        </DueButton>
      );
    if (view.phase === 'completed')
      return <DueButton onClick={() => router.push(`/register/${view.record.id}`)}>{words.due.released}</DueButton>;
    return null;
  };
  return (
    <>
      {steers && live && view.phase !== 'sealing' && (
        <GraveButton onClick={() => onAsk('withdraw')}>{words.withdraw}</GraveButton>
      )}
      {view.newest !== null && (
        <SideButton onClick={() => router.push(`/circulations/${circulation}/read`)}>{words.read}</SideButton>
      )}
      {steers && view.phase === 'rework' && !task('confirmRound') && (
        <SideButton onClick={() => onAsk('round')}>{words.overrule}</SideButton>
      )}
      {due()}
      <Fault error={remind.error ?? afresh.error} />
    </>
  );
}

function Withdraw({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const [reason, setReason] = useState('');
  const withdraw = useTell<{ circulation: string; reason: string }>('circulation.withdraw', { after: onDone });
  const asked = new Set(view.seats.filter((seat) => seat.since !== null || seat.decision).map((seat) => seat.holder))
    .size;
  return (
    <Slip label={words.withdrawTitle} tone="oxblood">
      <Box fontWeight={600}>{words.withdrawTitle}</Box>
      <Box my="6px">{words.withdrawWhat(asked)}</Box>
      <TextArea
        aria-label={words.withdrawReason}
        placeholder={words.withdrawReason}
        maxLength={4000}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        autoFocus
      />
      <Fault error={withdraw.error} />
      <Flex gap="10px" mt="10px" justify="flex-end">
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <GraveButton
          borderColor="oxblood"
          busy={withdraw.isPending}
          disabled={reason.trim() === ''}
          onClick={() => withdraw.mutate({ circulation: view.id, reason })}
        >
          {words.withdrawDo}
        </GraveButton>
      </Flex>
    </Slip>
  );
}

function Release({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const release = useTell<{ circulation: string }>('circulation.release', { after: onDone });
  const { data: record } = useAsk<{ revisions: { revision: string }[] }>('record.view', { record: view.record.id });
  const before = record?.revisions[record.revisions.length - 1]?.revision ?? null;
  const copies = new Set([
    view.controller,
    view.author,
    ...view.seats.filter((seat) => seat.status === 'decided').map((seat) => seat.decision?.by ?? seat.holder),
  ]).size;
  const open = view.remarks.filter((remark) => !remark.thread && !remark.settled).length;
  return (
    <Slip label={words.releaseTitle(view.revision, view.record.number)}>
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="300px">
          <Box fontWeight={600}>{words.releaseTitle(view.revision, view.record.number)}</Box>
          <Box mt="6px">{words.releaseWhat(copies, before)}</Box>
          {open > 0 && (
            <Box color="copperText" mt="4px">
              {words.openRemarks(open)}
            </Box>
          )}
          <Fault error={release.error} />
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <chakra.span color="pine" fontWeight={600} asChild>
          <a href={`/file/circulation/${view.id}/${view.final?.file}`} target="_blank" rel="noreferrer">
            {words.lookFinal}
          </a>
        </chakra.span>
        <DueButton busy={release.isPending} onClick={() => release.mutate({ circulation: view.id })}>
          {words.releaseDo}
        </DueButton>
      </Flex>
    </Slip>
  );
}
