'use client';

import { Box, chakra } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell, useTimes } from '../data/use';
import { DueButton, Fault, GraveButton, SideButton } from '../parts/parts';
import { circulationWords as words } from './words';

/** What the controller can ask about before it is done. */
export type Asking = 'withdraw' | 'release' | 'round' | null;

/** One sentence: how things stand and whom they wait for. */
export function Now({ view, steers }: { readonly view: CirculationView; readonly steers: boolean }) {
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

/** What stands in the way behind the page: somebody who left, letters that do not arrive, a final file not made. */
export function Troubles({ view }: { readonly view: CirculationView }) {
  const { name, person } = usePeople();
  const times = useTimes();
  const say = ({ kind, person: to, over, again }: CirculationView['troubles'][number]) => {
    if (kind === 'derive') return words.trouble.final(times.moment(again));
    return over ? words.trouble.mailOver(name(to ?? '')) : words.trouble.mail(name(to ?? ''), times.moment(again));
  };
  const gone = view.seats.filter(
    ({ holder, status }) => ['asked', 'idle', 'suspended'].includes(status) && person(holder)?.state === 'left',
  );
  const lines = [
    ...new Set([...gone.map(({ holder }) => words.trouble.gone(name(holder))), ...view.troubles.map(say)]),
  ];
  if (lines.length === 0 || view.phase === 'withdrawn' || view.phase === 'completed') return null;
  return (
    <Box role="status" px={{ base: '16px', md: '24px' }} pb="8px" flex="none" color="copperText">
      {lines.slice(0, 3).map((line) => (
        <Box key={line}>{line}</Box>
      ))}
      {lines.length > 3 && <Box>{words.trouble.more(lines.length - 3)}</Box>}
    </Box>
  );
}

/** The act that helps most now, and what stands beside it. */
export function Actions({
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
  const circulation = view.id;
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
