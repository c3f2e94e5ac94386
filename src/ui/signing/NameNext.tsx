'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Needs } from '@/core/circulation/acts/act';
import type { Verb } from '@/core/route/verbs';
import type { SeatView } from '@/server/signing/view';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { OutsiderForm } from './OutsiderForm';
import { useHolderActs, useLinkActs } from './useHolderActs';
import { signingWords as words } from './words';

/** A seat whose holder is named from another one, and who that is so far. */
export interface Named {
  readonly seat: string;
  readonly verb: Verb;
  readonly person: string | null;
}

/** A member names who is asked later: one picker for each seat that waits for a name. */
export function NameNext({
  own,
  names,
  needs,
  onDone,
}: {
  readonly own: Pick<SeatView, 'circulation' | 'seat' | 'epoch'>;
  readonly names: readonly Named[];
  readonly needs: Needs | null;
  /** Everybody is named, or it is left for now. */
  readonly onDone: () => void;
}) {
  const acts = useHolderActs(own);
  const open = names.some(({ person }) => person === null);
  return (
    <Leaf label={words.nameTitle}>
      <Box mb="8px">{words.nameWhat}</Box>
      <Flex gap="20px" flexWrap="wrap">
        {names.map(({ seat, verb, person }) => (
          <Box key={seat} flex="1" minW="260px">
            <OnePerson
              label={words.nameFor[verb]}
              focused
              exclude={needs?.names?.find((one) => one.seat === seat)?.not ?? []}
              person={person}
              onPerson={(who) => who && acts.nameFor(seat, who)}
              again
            />
          </Box>
        ))}
      </Flex>
      <Fault error={acts.error} />
      <Flex justify="flex-end" mt="10px" gap="14px" align="center">
        {open ? (
          <WordButton onClick={onDone}>{words.leave}</WordButton>
        ) : (
          <DueButton onClick={onDone}>{words.nameDone}</DueButton>
        )}
      </Flex>
    </Leaf>
  );
}

/** Somebody outside names who is asked later, by name and address. */
export function NameNextOutside({
  view,
  base,
  onDone,
}: {
  readonly view: SeatView;
  readonly base: string;
  readonly onDone: () => void;
}) {
  const acts = useLinkActs(base);
  return (
    <Box mb="10px">
      <Box mb="8px">{words.nameWhat}</Box>
      {view.names.map(({ seat, verb, address }) => (
        <Box key={seat} mb="6px">
          {address !== null && (
            <Box mb="4px">
              {words.nameFor[verb]}: <b>{address}</b>
            </Box>
          )}
          <OutsiderForm
            label={words.nameFor[verb]}
            does={address === null ? words.nameDo : words.nameOther}
            busy={acts.busy}
            onWho={(who) => acts.nameFor(seat, who, onDone)}
          />
        </Box>
      ))}
      <Fault error={acts.error} />
    </Box>
  );
}
