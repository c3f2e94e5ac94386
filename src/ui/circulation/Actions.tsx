'use client';

import { Box, chakra } from '@chakra-ui/react';
import type { ComponentProps } from 'react';
import type { Doing } from '@/core/circulation/telling/tasks';
import { verbFacts } from '@/core/route/verbs';
import { isLate } from '@/core/time/press';
import type { CirculationView } from '@/server/circulation/view';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useMe, useTell, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { DueButton, GraveButton, SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { may } from './offers';
import { useSeatNames } from './SeatPerson';
import { useAct } from './useAct';
import { toldWords, circulationWords as words } from './words';

/** What the controller can ask about before it is done. */
export type Asking =
  | 'withdraw'
  | 'release'
  | 'round'
  | 'times'
  | 'whole'
  | 'gathering'
  | 'values'
  | 'steering'
  | 'enough'
  | 'amend'
  | null;

/** One sentence: how things stand and whom they wait for. */
export function Now({ view }: { readonly view: CirculationView }) {
  const { name } = usePeople();
  const times = useTimes();
  const now = view.asOf?.at ?? times.now();
  const said = words.now;
  if (view.phase === 'new') return <>{said.new}</>;
  if (view.phase === 'withdrawn')
    return (
      <>
        {said.withdrawn(times.day(view.ended ?? now))}{' '}
        {view.withdrawn?.note && (
          <chakra.span color="quiet">
            “<bdi>{view.withdrawn.note}</bdi>”
          </chakra.span>
        )}
      </>
    );
  if (view.phase === 'completed') return <>{said.completed(view.revision, times.day(view.ended ?? now))}</>;
  if (view.phase === 'finishing') {
    const open = view.comments.filter((comment) => !comment.thread && !comment.resolved).length;
    if (!view.finals) return <>{said.finishing}</>;
    if (!view.releasesItself) return <>{said.ready}</>;
    return <>{open > 0 ? said.keeps(open) : said.releasing}</>;
  }
  if (view.phase === 'rework') {
    const waiting = view.tasks.some((task) => task.doing === 'confirmRound');
    return (
      <>
        {waiting ? said.reworkIn : said.rework(name(view.author))}{' '}
        {view.rework?.note && (
          <chakra.span color="quiet">
            “<bdi>{view.rework.note}</bdi>”
          </chakra.span>
        )}
      </>
    );
  }
  if (view.paused !== null)
    return (
      <chakra.span color="copperText" fontWeight={600}>
        {said.paused(times.moment(view.paused))}
      </chakra.span>
    );
  const [stop] = view.stops;
  if (view.steers && (stop?.kind === 'closed' || stop?.kind === 'crowd' || stop?.kind === 'time'))
    return (
      <chakra.span color="oxblood" fontWeight={600}>
        {said[stop.kind]}
      </chakra.span>
    );
  if (stop)
    return (
      <chakra.span color="oxblood" fontWeight={600}>
        {view.steers ? said.stopped : said.stoppedOther(name(view.controller))}
      </chakra.span>
    );
  const asked = view.seats.filter((seat) => seat.status === 'asked');
  if (asked.length === 0 && view.freezing.length > 0) return <>{said.freezing}</>;
  if (asked.length === 0 && view.fieldsWanted) return <>{said.held}</>;
  return <>{said.runningAll(asked.length, asked.filter((seat) => isLate(seat.due, now)).length)}</>;
}

/** What stands in the way behind the page: somebody who left, mail that does not arrive, a file that could not be made. */
export function Troubles({
  view,
  px,
}: {
  readonly view: CirculationView;
  readonly px?: ComponentProps<typeof Box>['px'];
}) {
  const { name } = usePeople();
  const times = useTimes();
  const say = ({ kind, person: to, over, again }: CirculationView['troubles'][number]) => {
    if (kind !== 'mail') return words.trouble.final(times.moment(again));
    return over ? words.trouble.mailOver(name(to ?? '')) : words.trouble.mail(name(to ?? ''), times.moment(again));
  };
  const gone = view.seats.filter((seat) => seat.deserted);
  const lines = [
    ...new Set([...gone.map(({ holder }) => words.trouble.gone(name(holder))), ...view.troubles.map(say)]),
  ];
  if (lines.length === 0 || view.ended !== null) return null;
  return (
    <Box role="status" px={px} pb="8px" flex="none" color="copperText">
      {lines.slice(0, 3).map((line) => (
        <Box key={line}>{line}</Box>
      ))}
      {lines.length > 3 && <Box>{words.trouble.more(lines.length - 3)}</Box>}
    </Box>
  );
}

/** What can be done with the circulation as a whole; the act that is due stands last and largest. */
export function Actions({
  view,
  asking,
  onOpen,
  onAsk,
}: {
  readonly view: CirculationView;
  /** What is being asked about just now: the act that is due stands in its leaf then. */
  readonly asking: Asking;
  readonly onOpen: (seat: string) => void;
  readonly onAsk: (what: Asking) => void;
}) {
  const router = useRouter();
  const confirms = view.tasks.some((task) => task.doing === 'confirmRound');
  return (
    <>
      {may(view, 'withdraw') && <GraveButton onClick={() => onAsk('withdraw')}>{words.withdraw}</GraveButton>}
      {view.newest !== null && (
        <SideButton onClick={() => router.push(`/circulations/${view.id}/read`)}>{words.read}</SideButton>
      )}
      {may(view, 'confirmRound') && !confirms && (
        <SideButton onClick={() => onAsk('round')}>{words.overrule}</SideButton>
      )}
      {view.phase !== 'new' && view.factTypes.length > 0 && may(view, 'giveFacts') && (
        <SideButton onClick={() => onAsk(asking === 'values' ? null : 'values')}>{words.values.action}</SideButton>
      )}
      {may(view, 'amend') && (
        <SideButton onClick={() => onAsk(asking === 'amend' ? null : 'amend')}>{words.amend.action}</SideButton>
      )}
      {view.stages.some((stage) => may(view, 'endGathering', stage.id)) && (
        <SideButton onClick={() => onAsk('gathering')}>{words.gathering.action}</SideButton>
      )}
      {may(view, 'extendWhole') && view.closed === null && (view.due !== null || view.closes !== null) && (
        <SideButton onClick={() => onAsk('whole')}>{words.extendWhole}</SideButton>
      )}
      {may(view, 'handControl') && view.phase !== 'new' && (
        <SideButton onClick={() => onAsk(asking === 'steering' ? null : 'steering')}>
          {words.steering.action}
        </SideButton>
      )}
      {asking === null && <DueAction view={view} onOpen={onOpen} onAsk={onAsk} />}
    </>
  );
}

/** The one act that helps most now, of whoever looks: the controller, a holder, the author. */
export function DueAction({
  view,
  onOpen,
  onAsk,
}: {
  readonly view: CirculationView;
  readonly onOpen: (seat: string) => void;
  readonly onAsk: (what: Asking) => void;
}) {
  const router = useRouter();
  const { data } = useMe();
  const { name } = usePeople();
  const seatName = useSeatNames(view);
  const times = useTimes();
  const now = times.now();
  const remind = useAct('circulation.remind', (input) => toldWords.reminded(first(input.seat)));
  const goOn = useAct('circulation.goOn', toldWords.wentOn);
  const remindAll = useTell('circulation.remindLate', {
    answered: ({ reminded }) => say(toldWords.remindedAll(reminded.length)),
  });
  const afresh = useTell('circulation.startAfresh', {
    after: (made) => router.push(`/circulations/${made.circulation}`),
  });
  const me = data?.me.id ?? '';
  const circulation = view.id;
  const first = (of: string) => {
    const seat = view.seats.find((candidate) => candidate.id === of);
    // A person is called by their first name; a group or a role by all of its own.
    return seat?.holder ? (name(seat.holder).split(' ')[0] ?? '') : seat ? seatName(seat) : '';
  };
  const task = (doing: Doing) => view.tasks.some((candidate) => candidate.person === me && candidate.doing === doing);
  const page = (said: string, path: string, tone: 'pine' | 'iris' = 'pine') => (
    <DueButton tone={tone} onClick={() => router.push(path)}>
      {said}
    </DueButton>
  );

  // The author answers as well as the controller.
  const question = view.questions.find(({ id }) => may(view, 'answerQuestion', id));
  const answer = question && (
    <DueButton onClick={() => onOpen(question.seat)}>{words.due.answer(first(question.seat))}</DueButton>
  );

  if (view.steers) {
    if (view.closed !== null && may(view, 'extendWhole'))
      return <DueButton onClick={() => onAsk('whole')}>{words.due.extendWhole}</DueButton>;
    if (may(view, 'goOn'))
      return (
        <>
          <DueButton busy={goOn.isPending} onClick={() => goOn.mutate({ circulation })}>
            {words.due.goOn}
          </DueButton>
          <Fault error={goOn.error} />
        </>
      );
    const held = view.stages.find((stage) => may(view, 'setTimes', stage.id));
    if (held) return <DueButton onClick={() => onAsk('times')}>{words.due.times(verbWords[held.verb])}</DueButton>;
    const stop = view.stops.find((candidate) => 'seat' in candidate);
    if (stop && 'seat' in stop)
      return (
        <DueButton onClick={() => onOpen(stop.seat)}>
          {stop.kind === 'missed' ? words.due.extendSeat(first(stop.seat)) : words.due.give(first(stop.seat))}
        </DueButton>
      );
    if (view.stages.some((stage) => may(view, 'setEnough', stage.id)))
      return <DueButton onClick={() => onAsk('enough')}>{words.due.enough}</DueButton>;
    if (answer) return answer;
    const asks = view.seats.find((seat) => may(view, 'agree', seat.id));
    if (asks) return <DueButton onClick={() => onOpen(asks.id)}>{words.due.agree(first(asks.id))}</DueButton>;
    const deserted = view.seats.find((seat) => seat.deserted && seat.since !== null);
    if (deserted)
      return <DueButton onClick={() => onOpen(deserted.id)}>{words.due.give(first(deserted.id))}</DueButton>;
    if (task('confirmRound')) return <DueButton onClick={() => onAsk('round')}>{words.due.round}</DueButton>;
    if (task('release'))
      return <DueButton onClick={() => onAsk('release')}>{words.due.release(view.revision)}</DueButton>;
    if (task('putFields')) return page(words.due.fields, `/circulations/${circulation}/fields`);
    if (task('send')) return page(words.due.send, `/circulations/${circulation}/plan`);
    if (task('plan')) return page(words.due.plan, `/circulations/${circulation}/plan`);
  }
  const mine = view.seats.find((seat) => may(view, 'decide', seat.id));
  if (mine)
    return page(
      words.due.act[mine.verb],
      `/circulations/${circulation}/act/${mine.id}`,
      verbFacts[mine.verb].signs ? 'iris' : 'pine',
    );
  if (answer) return answer;
  if (task('rework') || task('write')) return page(words.due.draft, `/draft/${view.change}`);
  if (view.phase === 'completed') return page(words.due.released, `/register/${view.record.id}`);
  if (view.mayStartAfresh)
    return (
      <>
        <DueButton busy={afresh.isPending} onClick={() => afresh.mutate({ circulation })}>
          {words.due.afresh}
        </DueButton>
        <Fault error={afresh.error} />
      </>
    );
  const [late, ...more] = view.seats.filter((seat) => isLate(seat.due, now) && may(view, 'remind', seat.id));
  if (!late) return null;
  if (more.length > 0)
    return (
      <>
        <DueButton busy={remindAll.isPending} onClick={() => remindAll.mutate({ circulation })}>
          {words.due.remindAll(more.length + 1)}
        </DueButton>
        <Fault error={remindAll.error} />
      </>
    );
  return (
    <>
      <DueButton busy={remind.isPending} onClick={() => remind.mutate({ circulation, seat: late.id })}>
        {words.due.remind(first(late.id))}
      </DueButton>
      <Fault error={remind.error} />
    </>
  );
}
