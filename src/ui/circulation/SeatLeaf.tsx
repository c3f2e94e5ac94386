'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Who } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { ask, type Refusal } from '../data/client';
import { useMe, usePeople, useTell, useTimes } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, FormField, WordsField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Leaf, PersonName } from '../parts/parts';
import { isDeserted } from './Actions';
import type { SeatRow } from './seatColumns';
import { circulationWords, outcomeWords, statusWords } from './words';

const words = circulationWords.seat;

/** A seat opened: what its holder did and wrote, and what the controller can do about it. */
export function SeatLeaf({
  view,
  seat,
  steers,
}: {
  readonly view: CirculationView;
  readonly seat: SeatRow;
  readonly steers: boolean;
}) {
  const { name, person } = usePeople();
  const { data: me } = useMe();
  const times = useTimes();
  const router = useRouter();
  const stopped = view.stops.some((stop) => 'seat' in stop && stop.seat === seat.id);
  const [doing, setDoing] = useState<'extend' | 'give' | 'second' | null>(
    steers && (stopped || isDeserted(seat, person)) ? (seat.status === 'missed' ? 'extend' : 'give') : null,
  );
  const [copied, setCopied] = useState(false);
  const [fault, setFault] = useState<Refusal | null>(null);
  const remind = useTell<object>('circulation.remind');
  const drop = useTell<object>('circulation.dropSecondHolder');
  const base = { circulation: view.id, seat: seat.id };
  const mine = seat.status === 'asked' && me && (seat.holder === me.me.id || seat.secondHolders.includes(me.me.id));
  const movable = view.phase === 'running' || view.phase === 'rework';
  const canGive =
    movable &&
    !['decided', 'released'].includes(seat.status) &&
    !(seat.status === 'returned' && view.phase === 'running');
  const copyLink = async () => {
    setFault(null);
    try {
      const { address } = await ask<{ address: string }>('circulation.copyLink', base);
      await navigator.clipboard.writeText(address);
      setCopied(true);
    } catch (error) {
      setFault(error as Refusal);
    }
  };
  return (
    <Leaf label={name(seat.holder)} tone={stopped ? 'oxblood' : 'pine'}>
      <Flex gap="20px" align="flex-start" flexWrap="wrap">
        <Box flex="1" minW="260px">
          <Box>
            {seat.decision
              ? `${outcomeWords[seat.decision.outcome]}, ${times.moment(seat.decision.at)}, ${circulationWords.version(seat.decision.version)}, ${circulationWords.round(seat.decision.round)}`
              : statusWords[seat.status]}
            {seat.outside && <chakra.span color="quiet"> · {words.outside}</chakra.span>}
          </Box>
          {seat.decision?.note && (
            <chakra.blockquote
              borderLeft="2px solid"
              borderColor="hairline"
              pl="14px"
              my="8px"
              fontFamily="serif"
              fontSize="15px"
              whiteSpace="pre-wrap"
            >
              {seat.decision.note}
            </chakra.blockquote>
          )}
          {seat.decision?.onBehalfOf && <Box color="quiet">{words.held(name(seat.decision.onBehalfOf))}</Box>}
          {steers &&
            seat.secondHolders.map((person) => (
              <Flex key={person} gap="10px" align="center" mt="4px">
                <PersonName id={person} />
                {movable && (
                  <WordButton onClick={() => drop.mutate({ ...base, person })}>{words.drop(name(person))}</WordButton>
                )}
              </Flex>
            ))}
        </Box>
        <Flex gap="8px" flexWrap="wrap" justify="flex-end">
          {steers && seat.outside && view.sent !== null && (
            <SideButton onClick={() => void copyLink()}>{copied ? words.copied : words.copyLink}</SideButton>
          )}
          {steers && movable && ['asked', 'idle', 'suspended'].includes(seat.status) && (
            <SideButton onClick={() => setDoing(doing === 'second' ? null : 'second')}>{words.second}</SideButton>
          )}
          {steers && view.phase === 'running' && ['asked', 'missed'].includes(seat.status) && (
            <SideButton onClick={() => setDoing(doing === 'extend' ? null : 'extend')}>{words.extend}</SideButton>
          )}
          {steers && canGive && (
            <SideButton onClick={() => setDoing(doing === 'give' ? null : 'give')}>{words.give}</SideButton>
          )}
          {steers && view.phase === 'running' && seat.status === 'asked' && !mine && (
            <DueButton busy={remind.isPending} onClick={() => remind.mutate(base)}>
              {remind.isSuccess ? words.reminded : words.remind}
            </DueButton>
          )}
          {mine && (
            <DueButton
              tone={seat.verb === 'sign' ? 'iris' : 'pine'}
              onClick={() => router.push(`/circulations/${view.id}/act/${seat.id}`)}
            >
              {circulationWords.due.act[seat.verb]}
            </DueButton>
          )}
        </Flex>
      </Flex>
      <Fault error={remind.error ?? drop.error ?? fault} />
      {doing === 'extend' && <Extend base={base} seat={seat} onDone={() => setDoing(null)} />}
      {doing === 'give' && <Give base={base} seat={seat} view={view} onDone={() => setDoing(null)} />}
      {doing === 'second' && <Second base={base} seat={seat} onDone={() => setDoing(null)} />}
    </Leaf>
  );
}

interface Base {
  readonly circulation: string;
  readonly seat: string;
}

function Extend({ base, seat, onDone }: { readonly base: Base; readonly seat: SeatRow; readonly onDone: () => void }) {
  const times = useTimes();
  const start = Math.max(times.now(), seat.due ?? 0) + 2 * 86_400_000;
  const [due, setDue] = useState<number | null>(start - (start % 3_600_000));
  const [closes, setCloses] = useState<number | null>(
    seat.closes !== null && seat.closes > times.now() ? seat.closes : null,
  );
  const extend = useTell<object>('circulation.extend', { after: onDone });
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
          {words.extendDo}
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
  const [to, setTo] = useState<Who | null>(null);
  const [text, setText] = useKeptText(`reassign.${seat.id}.${seat.epoch}`);
  const past = seat.due !== null && seat.due <= times.now();
  const start = times.now() + 2 * 86_400_000;
  const [due, setDue] = useState<number | null>(
    past || seat.status === 'missed' ? start - (start % 3_600_000) : seat.due,
  );
  const give = useTell<object>('circulation.reassign', {
    after: () => {
      setText('');
      onDone();
    },
  });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <OnePerson
            label={words.giveTo}
            exclude={[seat.holder, ...(seat.verb === 'approve' ? [view.author] : [])]}
            person={to?.person ?? null}
            onPerson={setTo}
          />
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

function Second({ base, seat, onDone }: { readonly base: Base; readonly seat: SeatRow; readonly onDone: () => void }) {
  const add = useTell<object>('circulation.addSecondHolder', { after: onDone });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline" maxW="420px">
      <PeoplePicker
        label={words.secondWho}
        insideOnly
        exclude={[seat.holder, ...seat.secondHolders]}
        onPick={({ person }) => add.mutate({ ...base, person })}
      />
      <Fault error={add.error} />
    </Box>
  );
}
