'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Act } from '@/core/circulation/acts/commands';
import { verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import { useRouter } from '../data/ahead';
import { ask, type Refusal } from '../data/client';
import { useNamesThen, usePeople } from '../data/people';
import { useTell, useTimes } from '../data/use';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Leaf, PersonName, Quote } from '../parts/parts';
import { may } from './offers';
import { CorrectAddress, Extend, Give, Proposal, Second } from './SeatForms';
import { useSeatNames } from './SeatPerson';
import { SeatQuestions } from './SeatQuestions';
import type { SeatRow } from './seatColumns';
import { useAct } from './useAct';
import { circulationWords, outcomeWords, statusOf, toldWords } from './words';

const words = circulationWords.seat;

type Form = 'extend' | 'askAgain' | 'give' | 'second' | 'correct';

/** A seat opened: what its holder did and wrote, and what the controller can do about it. */
export function SeatLeaf({ view, seat }: { readonly view: CirculationView; readonly seat: SeatRow }) {
  const { name } = usePeople();
  const called = useSeatNames(view)(seat);
  const then = useNamesThen(view.past);
  const times = useTimes();
  const router = useRouter();
  const stop = view.stops.find((one) => 'seat' in one && one.seat === seat.id);
  const [doing, setDoing] = useState<Form | null>(
    stop || seat.deserted ? firstAct(view, seat, stop?.kind === 'missed') : null,
  );
  // An answer closes its own form, not one that was opened meanwhile.
  const done = (form: Form) => () => setDoing((now) => (now === form ? null : now));
  const [copied, setCopied] = useState(false);
  const [fault, setFault] = useState<Refusal | null>(null);
  const remind = useAct('circulation.remind', () => toldWords.reminded(called));
  const drop = useAct('circulation.dropSecondHolder', (input) => toldWords.removed(name(input.person)));
  const base = { circulation: view.id, seat: seat.id };
  const can = (act: Act) => may(view, act, seat.id);
  const pass = useAct('circulation.pass', () => toldWords.passed(called));
  const back = useAct('circulation.giveBack', toldWords.givenBack);
  const copy = useTell('circulation.copyLink');
  const copyLink = async () => {
    setFault(null);
    try {
      await copy.mutateAsync(base);
      const { address } = await ask('circulation.linkAddress', base);
      await navigator.clipboard.writeText(address);
      setCopied(true);
    } catch (error) {
      setFault(error as Refusal);
    }
  };
  return (
    <Leaf label={called} tone={stop ? 'oxblood' : 'pine'}>
      <Flex gap="20px" align="flex-start" flexWrap="wrap">
        <Box flex="1" minW="260px">
          <Box>
            {seat.decision
              ? `${outcomeWords[seat.decision.outcome]}, ${times.moment(seat.decision.at)}, ${circulationWords.version(seat.decision.version)}, ${circulationWords.round(seat.decision.round)}`
              : statusOf(seat)}
            {seat.outside && <chakra.span color="quiet"> · {words.outside}</chakra.span>}
          </Box>
          {seat.decision?.note && <Quote>{seat.decision.note}</Quote>}
          {seat.decision?.onBehalfOf && (
            <Box color="quiet">{words.held(then(seat.decision.onBehalfOf, seat.decision.at))}</Box>
          )}
          {seat.decision === null &&
            seat.covers.map((cover) => (
              <Box key={cover.person} color="quiet">
                {words.covered(name(cover.person), name(cover.for), times.moment(cover.until))}
              </Box>
            ))}
          {seat.group !== null && seat.decision === null && (
            <Box color="quiet">
              {seat.taken
                ? circulationWords.group.taken(name(seat.holder))
                : circulationWords.group.open(seat.members.map(name).join(', '))}
            </Box>
          )}
          {can('dropSecondHolder') &&
            seat.secondHolders.map((person) => (
              <Flex key={person} gap="10px" align="center" mt="4px">
                <PersonName id={person} />
                <WordButton onClick={() => drop.mutate({ ...base, person })}>{words.drop(name(person))}</WordButton>
              </Flex>
            ))}
        </Box>
        <Flex gap="8px" flexWrap="wrap" justify="flex-end">
          {seat.outside && view.sent !== null && (can('copyLink') || can('remind')) && (
            <SideButton onClick={() => void copyLink()}>{copied ? words.copied : words.copyLink}</SideButton>
          )}
          {can('correctAddress') && view.sent !== null && (
            <SideButton onClick={() => setDoing(doing === 'correct' ? null : 'correct')}>{words.correct}</SideButton>
          )}
          {can('addSecondHolder') && (
            <SideButton onClick={() => setDoing(doing === 'second' ? null : 'second')}>{words.second}</SideButton>
          )}
          {can('extend') && (
            <SideButton onClick={() => setDoing(doing === 'extend' ? null : 'extend')}>{words.extend}</SideButton>
          )}
          {can('giveBack') && (
            <SideButton busy={back.isPending} onClick={() => back.mutate({ ...base, epoch: seat.epoch })}>
              {circulationWords.group.giveBack}
            </SideButton>
          )}
          {can('pass') && (
            <SideButton onClick={() => pass.mutate(base)}>
              {words.pass(seat.holder ? (name(seat.holder).split(' ')[0] ?? '') : called)}
            </SideButton>
          )}
          {can('askAgain') && (
            <SideButton onClick={() => setDoing(doing === 'askAgain' ? null : 'askAgain')}>{words.askAgain}</SideButton>
          )}
          {can('reassign') && (
            <SideButton onClick={() => setDoing(doing === 'give' ? null : 'give')}>{words.give}</SideButton>
          )}
          {can('remind') && !can('decide') && (
            <DueButton busy={remind.isPending} onClick={() => remind.mutate(base)}>
              {words.remind}
            </DueButton>
          )}
          {remind.isSuccess && !can('remind') && <chakra.span color="quiet">{words.reminded}</chakra.span>}
          {can('decide') && (
            <DueButton
              tone={verbFacts[seat.verb].signs ? 'iris' : 'pine'}
              onClick={() => router.push(`/circulations/${view.id}/act/${seat.id}`)}
            >
              {circulationWords.due.act[seat.verb]}
            </DueButton>
          )}
        </Flex>
      </Flex>
      <Fault error={remind.error ?? drop.error ?? pass.error ?? back.error ?? fault} />
      <SeatQuestions view={view} seat={seat.id} />
      {can('agree') && <Proposal view={view} seat={seat} />}
      {(doing === 'extend' || doing === 'askAgain') && (
        <Extend base={base} seat={seat} view={view} again={doing === 'askAgain'} onDone={done(doing)} />
      )}
      {doing === 'give' && <Give base={base} seat={seat} view={view} onDone={done('give')} />}
      {doing === 'correct' && <CorrectAddress base={base} view={view} seat={seat} onDone={done('correct')} />}
      {doing === 'second' && <Second base={base} view={view} seat={seat} onDone={done('second')} />}
    </Leaf>
  );
}

/** What helps most with a seat that stopped: more time for one that missed its own, else somebody else. */
function firstAct(view: CirculationView, seat: SeatRow, missed: boolean): 'extend' | 'give' | null {
  if (missed && may(view, 'extend', seat.id)) return 'extend';
  return may(view, 'reassign', seat.id) ? 'give' : null;
}
