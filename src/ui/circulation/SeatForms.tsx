'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignee } from '@/core/route/route';
import { afterWorkingDays } from '@/core/time/zone';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useGround } from '../data/useGround';
import { useKeptForm, useKeptText } from '../data/useKept';
import { DueButton, GraveButton } from '../parts/buttons';
import { Fault, FormField, TextField, WordsField } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { PeoplePicker } from '../parts/PeoplePicker';
import { Quote } from '../parts/parts';
import { may, needsOf } from './offers';
import { useSeatNames } from './SeatPerson';
import type { SeatRow } from './seatColumns';
import { useAct } from './useAct';
import { circulationWords, toldWords } from './words';

const words = circulationWords.seat;

interface Base {
  readonly circulation: string;
  readonly seat: string;
}

/** More time for a seat, or asking it again. */
export function Extend({
  base,
  seat,
  view,
  again,
  onDone,
}: {
  readonly base: Base;
  readonly seat: SeatRow;
  readonly view: CirculationView;
  /** They declined and are asked once more. */
  readonly again: boolean;
  readonly onDone: () => void;
}) {
  const times = useTimes();
  const [{ due, closes }, change, forget] = useKeptForm<{ due: number | null; closes: number | null }>(
    `extend.${seat.id}.${seat.epoch}.${again}`,
    {
      due: afterWorkingDays(times.zone, Math.max(times.now(), seat.due ?? 0), 2),
      closes: seat.closes !== null && seat.closes > times.now() ? seat.closes : null,
    },
  );
  const extend = useAct(
    again ? 'circulation.askAgain' : 'circulation.extend',
    again ? toldWords.askedAgain : toldWords.extended,
    { answered: forget, after: onDone },
  );
  useGround(may(view, again ? 'askAgain' : 'extend', seat.id), extend, onDone);
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <FormField label={words.newDue}>
          {(props) => <MomentInput {...props} value={due} onChange={(at) => change({ due: at })} />}
        </FormField>
        <FormField label={words.newCloses}>
          {(props) => <MomentInput {...props} value={closes} onChange={(at) => change({ closes: at })} />}
        </FormField>
        <DueButton mb="14px" busy={extend.isPending} onClick={() => extend.mutate({ ...base, due, closes })}>
          {again ? words.askAgainDo : words.extendDo}
        </DueButton>
      </Flex>
      <Fault error={extend.error} />
    </Box>
  );
}

/** Somebody else takes the seat. */
export function Give({
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
  const called = useSeatNames(view)(seat);
  const needs = needsOf(view, 'reassign', seat.id);
  const past = seat.due !== null && seat.due <= times.now();
  const [{ to, due, text }, change, forget] = useKeptForm<{ to: Assignee | null; due: number | null; text: string }>(
    `reassign.${seat.id}.${seat.epoch}`,
    {
      to: null,
      due: past || needs?.timeNeeded ? afterWorkingDays(times.zone, times.now(), 2) : seat.due,
      text: '',
    },
  );
  const give = useAct('circulation.reassign', (input) => toldWords.reassigned(name(input.to.person)), {
    answered: forget,
    after: onDone,
  });
  useGround(needs !== null, give, onDone);
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1" minW="260px">
          <OnePerson
            label={words.giveTo}
            exclude={needs?.not ?? []}
            person={to?.person ?? null}
            onPerson={(who) => change({ to: who })}
          />
          <Box color="quiet" fontSize="13px" mt="8px">
            {words.giveWhat(called)}
          </Box>
        </Box>
        <Box flex="1" minW="240px">
          <FormField label={words.newDue}>
            {(props) => <MomentInput {...props} value={due} onChange={(at) => change({ due: at })} />}
          </FormField>
          <WordsField label={words.giveWords} text={text} onText={(typed) => change({ text: typed })} />
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

/** Somebody asks to delegate their task, and the controller says whether it goes there. */
export function Proposal({ view, seat }: { readonly view: CirculationView; readonly seat: SeatRow }) {
  const { name } = usePeople();
  const [text, setText] = useKeptText(`agree.${seat.id}.${seat.epoch}`);
  const to = seat.proposal?.to ?? '';
  const agree = useAct(
    'circulation.agree',
    (input) => (input.agreed ? toldWords.agreed(name(to)) : toldWords.refused),
    {
      answered: () => setText(''),
    },
  );
  if (!seat.proposal) return null;
  const say = (agreed: boolean) =>
    agree.mutate({ circulation: view.id, seat: seat.id, epoch: seat.epoch, agreed, note: text });
  return (
    <Box mt="12px" pt="12px" borderTop="1px solid" borderColor="hairline">
      <Box>{circulationWords.proposal.says(name(seat.holder), name(to))}</Box>
      {seat.proposal.note && <Quote>{seat.proposal.note}</Quote>}
      <Flex gap="12px" align="flex-end" flexWrap="wrap" mt="6px">
        <Box flex="1" minW="240px">
          <WordsField label={circulationWords.proposal.reason} text={text} onText={setText} />
        </Box>
        <GraveButton mb="14px" busy={agree.isPending} onClick={() => say(false)}>
          {circulationWords.proposal.refuse}
        </GraveButton>
        <DueButton mb="14px" busy={agree.isPending} onClick={() => say(true)}>
          {circulationWords.proposal.agree(name(to))}
        </DueButton>
      </Flex>
      <Fault error={agree.error} />
    </Box>
  );
}

/** A second holder beside the first. */
export function Second({
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
  const { name } = usePeople();
  const add = useAct('circulation.addSecondHolder', (input) => toldWords.added(name(input.person)), { after: onDone });
  useGround(may(view, 'addSecondHolder', seat.id), add, onDone);
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

/** The right address of somebody outside; what was sent to the wrong one opens nothing any more. */
export function CorrectAddress({
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
  const { name, person } = usePeople();
  const [email, setEmail] = useState('');
  const correct = useAct('circulation.correctAddress', toldWords.corrected(name(seat.holder)), { after: onDone });
  useGround(may(view, 'correctAddress', seat.id), correct, onDone);
  return (
    <chakra.form
      mt="12px"
      pt="12px"
      borderTop="1px solid"
      borderColor="hairline"
      onSubmit={(event) => {
        event.preventDefault();
        correct.mutate({ ...base, email: email.trim() });
      }}
    >
      <Box mb="8px">{words.correctWhat(person(seat.holder)?.email ?? '')}</Box>
      <Flex gap="16px" align="flex-end" flexWrap="wrap">
        <Box w="320px">
          <TextField
            label={words.correctTo}
            type="email"
            required
            autoFocus
            maxLength={254}
            value={email}
            onChange={(event) => setEmail(event.target.value)}
          />
        </Box>
        <DueButton mb="14px" type="submit" busy={correct.isPending} disabled={email.trim() === ''}>
          {words.correctDo}
        </DueButton>
      </Flex>
      <Fault error={correct.error} />
    </chakra.form>
  );
}
