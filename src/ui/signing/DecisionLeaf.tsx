'use client';

import { Box, Flex } from '@chakra-ui/react';
import { type Outcome, verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useRouter } from '../data/ahead';
import { useMe } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, GraveButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { DecidesOn } from './DecidesOn';
import { signingWords as words } from './words';

/** Decides a seat: what follows is said before, a return or decline wants a reason, an approval may carry a comment. */
export function DecisionLeaf({
  circulation,
  seat,
  scope,
  outcome,
  onDecided,
  onDone,
}: {
  readonly circulation: string;
  readonly seat: CirculationView['seats'][number];
  /** The content that is decided on. */
  readonly scope: string;
  readonly outcome: Outcome;
  /** It was accepted; the page is being left. */
  readonly onDecided: () => void;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { data: me } = useMe();
  const refuses = outcome === 'returned' || outcome === 'declined';
  // A reason that was begun and left does not become a word with an approval.
  const [text, setText] = useKeptText(`${refuses ? 'refuse' : 'decide'}.${seat.id}.${seat.epoch}.${me?.me.id}`);
  const decide = useAct('seat.decideMine', (input) => toldWords.outcomes[input.outcome], {
    answered: () => {
      setText('');
      onDecided();
      router.push('/desk');
    },
  });
  const speaks = refuses || verbFacts[seat.verb].speaks;
  const said: Outcome = outcome === 'approved' && text.trim() ? 'approvedWithComments' : outcome;
  const put = () =>
    decide.mutate({
      circulation,
      seat: seat.id,
      epoch: seat.epoch,
      scope,
      outcome: said,
      note: speaks ? text : null,
      values: {},
    });
  const label = refuses ? words.reason : words.comment;
  return (
    <Leaf
      label={words.outcomes[outcome]}
      tone={outcome === 'declined' ? 'oxblood' : outcome === 'returned' ? 'copper' : 'pine'}
    >
      <DecidesOn on={seat.decidesOn} />
      {refuses && <Box mb="8px">{outcome === 'returned' ? words.returnWhat : words.declineWhat}</Box>}
      <Flex gap="14px" align="flex-end" flexWrap="wrap">
        {speaks ? (
          <Box flex="1" minW="260px">
            <WordsField
              label={label}
              text={text}
              onText={setText}
              autoFocus
              onKeyDown={(event) => {
                if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
                event.preventDefault();
                if (!decide.isPending && !(refuses && text.trim() === '')) put();
              }}
            />
          </Box>
        ) : (
          <Box flex="1" />
        )}
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        {refuses ? (
          <GraveButton
            borderColor="oxblood"
            minH="40px"
            busy={decide.isPending}
            disabled={text.trim() === ''}
            onClick={put}
          >
            {outcome === 'returned' ? words.doReturn : words.doDecline}
          </GraveButton>
        ) : (
          <DueButton busy={decide.isPending} autoFocus={!speaks} onClick={put}>
            {words.outcomes[said]}
          </DueButton>
        )}
      </Flex>
      <Fault error={decide.error} />
    </Leaf>
  );
}
