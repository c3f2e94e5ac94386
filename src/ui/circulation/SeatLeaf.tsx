'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Act } from '@/core/circulation/commands';
import type { Assignment } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { ask, type Refusal } from '../data/client';
import { usePeople, useTell, useTimes } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, FormField, WordsField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Leaf, PersonName, Quote } from '../parts/parts';
import { may, needsOf } from './offers';
import type { SeatRow } from './seatColumns';
import { circulationWords, outcomeWords, statusWords } from './words';

const words = circulationWords.seat;

/** A seat opened: what its holder did and wrote, and what the controller can do about it. */
export function SeatLeaf({ view, seat }: { readonly view: CirculationView; readonly seat: SeatRow }) {
  const { name } = usePeople();
  const times = useTimes();
  const router = useRouter();
  const stop = view.stops.find((one) => 'seat' in one && one.seat === seat.id);
  const [doing, setDoing] = useState<'extend' | 'askAgain' | 'give' | 'second' | null>(
    stop || seat.deserted ? firstAct(view, seat, stop?.kind === 'missed') : null,
  );
  const [copied, setCopied] = useState(false);
  const [fault, setFault] = useState<Refusal | null>(null);
  const remind = useTell('circulation.remind');
  const drop = useTell('circulation.dropSecondHolder');
  const base = { circulation: view.id, seat: seat.id };
  const can = (act: Act) => may(view, act, seat.id);
  const pass = useTell('circulation.pass');
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
    <Leaf label={name(seat.holder)} tone={stop ? 'oxblood' : 'pine'}>
      <Flex gap="20px" align="flex-start" flexWrap="wrap">
        <Box flex="1" minW="260px">
          <Box>
            {seat.decision
              ? `${outcomeWords[seat.decision.outcome]}, ${times.moment(seat.decision.at)}, ${circulationWords.version(seat.decision.version)}, ${circulationWords.round(seat.decision.round)}`
              : statusWords[seat.status]}
            {seat.outside && <chakra.span color="quiet"> · {words.outside}</chakra.span>}
          </Box>
          {seat.decision?.note && <Quote>{seat.decision.note}</Quote>}
          {seat.decision?.onBehalfOf && <Box color="quiet">{words.held(name(seat.decision.onBehalfOf))}</Box>}
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
          {can('addSecondHolder') && (
            <SideButton onClick={() => setDoing(doing === 'second' ? null : 'second')}>{words.second}</SideButton>
          )}
          {can('extend') && (
            <SideButton onClick={() => setDoing(doing === 'extend' ? null : 'extend')}>{words.extend}</SideButton>
          )}
          {can('pass') && (
            <SideButton onClick={() => pass.mutate(base)}>
              {words.pass(name(seat.holder).split(' ')[0] ?? '')}
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
              tone={seat.verb === 'sign' ? 'iris' : 'pine'}
              onClick={() => router.push(`/circulations/${view.id}/act/${seat.id}`)}
            >
              {circulationWords.due.act[seat.verb]}
            </DueButton>
          )}
        </Flex>
      </Flex>
      <Fault error={remind.error ?? drop.error ?? pass.error ?? fault} />
      {(doing === 'extend' || doing === 'askAgain') && (
        <Extend base={base} seat={seat} again={doing === 'askAgain'} onDone={() => setDoing(null)} />
      )}
      {doing === 'give' && <Give base={base} seat={seat} view={view} onDone={() => setDoing(null)} />}
      {doing === 'second' && <Second base={base} view={view} seat={seat} onDone={() => setDoing(null)} />}
    </Leaf>
  );
}

interface Base {
  readonly circulation: string;
  readonly seat: string;
}

/** What helps most with a seat that stopped: more time for one that missed its own, else somebody else. */
function firstAct(view: CirculationView, seat: SeatRow, missed: boolean): 'extend' | 'give' | null {
  if (missed && may(view, 'extend', seat.id)) return 'extend';
  return may(view, 'reassign', seat.id) ? 'give' : null;
}

function Extend({
  base,
  seat,
  again,
  onDone,
}: {
  readonly base: Base;
  readonly seat: SeatRow;
  /** They declined and are asked once more. */
  readonly again: boolean;
  readonly onDone: () => void;
}) {
  const times = useTimes();
  const start = Math.max(times.now(), seat.due ?? 0) + 2 * 86_400_000;
  const [due, setDue] = useState<number | null>(start - (start % 3_600_000));
  const [closes, setCloses] = useState<number | null>(
    seat.closes !== null && seat.closes > times.now() ? seat.closes : null,
  );
  const extend = useTell(again ? 'circulation.askAgain' : 'circulation.extend', { after: onDone });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <FormField label={words.newDue}>
          {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
        </FormField>
        <FormField label={words.newCloses}>
          {(props) => <MomentInput {...props} value={closes} onChange={setCloses} />}
        </FormField>
        <DueButton mb="14px" busy={extend.isPending} onClick={() => extend.mutate({ ...base, due, closes })}>
          {again ? words.askAgainDo : words.extendDo}
        </DueButton>
      </Flex>
      <Fault error={extend.error} />
    </Box>
  );
}

function Give({
  base,
  seat,
  view,
  onDone,
}: {
  readonly base: Base;
  readonly seat: SeatRow;
  readonly view: CirculationView;
  readonly onDone: () => void;
}) {
  const { name } = usePeople();
  const times = useTimes();
  const [to, setTo] = useState<Assignment | null>(null);
  const [text, setText] = useKeptText(`reassign.${seat.id}.${seat.epoch}`);
  const needs = needsOf(view, 'reassign', seat.id);
  const past = seat.due !== null && seat.due <= times.now();
  const start = times.now() + 2 * 86_400_000;
  const [due, setDue] = useState<number | null>(past || needs?.timeNeeded ? start - (start % 3_600_000) : seat.due);
  const give = useTell('circulation.reassign', {
    after: () => {
      setText('');
      onDone();
    },
  });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <OnePerson label={words.giveTo} exclude={needs?.not ?? []} person={to?.person ?? null} onPerson={setTo} />
          <Box color="quiet" fontSize="13px" mt="8px">
            {words.giveWhat(name(seat.holder))}
          </Box>
        </Box>
        <Box flex="1" minW="240px">
          <FormField label={words.newDue}>
            {(props) => <MomentInput {...props} value={due} onChange={setDue} />}
          </FormField>
          <WordsField label={words.giveWords} text={text} onText={setText} />
        </Box>
      </Flex>
      <Fault error={give.error} />
      <Flex justify="flex-end" mt="10px">
        <DueButton
          busy={give.isPending}
          disabled={!to}
          onClick={() => to && give.mutate({ ...base, to, due, note: text })}
        >
          {to ? words.giveDo(name(to.person)) : words.choose}
        </DueButton>
      </Flex>
    </Box>
  );
}

function Second({
  base,
  view,
  seat,
  onDone,
}: {
  readonly base: Base;
  readonly view: CirculationView;
  readonly seat: SeatRow;
  readonly onDone: () => void;
}) {
  const add = useTell('circulation.addSecondHolder', { after: onDone });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline" maxW="420px">
      <PeoplePicker
        label={words.secondWho}
        insideOnly
        exclude={needsOf(view, 'addSecondHolder', seat.id)?.not ?? []}
        onPick={({ person }) => add.mutate({ ...base, person })}
      />
      <Fault error={add.error} />
    </Box>
  );
}
