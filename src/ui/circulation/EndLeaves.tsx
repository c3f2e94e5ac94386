'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { CirculationView } from '@/server/circulation/view';
import { useAsk } from '../data/use';
import { useGround } from '../data/useGround';
import { useKeptText } from '../data/useKept';
import { DueButton, GraveButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Leaf } from '../parts/parts';
import { Comments } from './Comments';
import { may } from './offers';
import { useAct } from './useAct';
import { toldWords, circulationWords as words } from './words';

/** Takes the circulation back, with a reason that everybody asked is told. */
export function Withdraw({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const [reason, setReason] = useKeptText(`withdraw.${view.id}`);
  const withdraw = useAct('circulation.withdraw', toldWords.withdrawn, {
    after: () => {
      setReason('');
      onDone();
    },
  });
  useGround(may(view, 'withdraw'), withdraw, onDone);
  const asked = new Set(view.seats.filter((seat) => seat.since !== null || seat.decision).map((seat) => seat.holder))
    .size;
  return (
    <Leaf label={words.withdrawTitle} tone="oxblood">
      <Box fontWeight={600}>{words.withdrawTitle}</Box>
      <Box my="6px">{words.withdrawWhat(asked)}</Box>
      <WordsField label={words.withdrawReason} text={reason} onText={setReason} autoFocus />
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
    </Leaf>
  );
}

/** Releases the revision: says what becomes current and who is told. */
export function Release({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const release = useAct('circulation.release', toldWords.released, { after: onDone });
  useGround(
    view.tasks.some((task) => task.doing === 'release'),
    release,
    onDone,
  );
  const { data: record } = useAsk('record.view', { record: view.record.id });
  const before = record?.revisions[record.revisions.length - 1]?.revision ?? null;
  const copies = new Set([
    view.controller,
    view.author,
    ...view.seats.filter((seat) => seat.status === 'decided').map((seat) => seat.decision?.by ?? seat.holder),
  ]).size;
  const open = view.comments.filter((comment) => !comment.thread && !comment.resolved).length;
  return (
    <Leaf label={words.releaseTitle(view.revision, view.record.number)}>
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="300px">
          <Box fontWeight={600}>{words.releaseTitle(view.revision, view.record.number)}</Box>
          <Box mt="6px">{words.releaseWhat(copies, before)}</Box>
          {open > 0 && (
            <Box mt="8px">
              <Box color="copperText">{words.openComments(open)}</Box>
              {view.comments
                .filter((comment) => !comment.thread && !comment.resolved)
                .map((comment) => (
                  <Comments key={comment.id} view={view} focus={comment.id} />
                ))}
            </Box>
          )}
          <Fault error={release.error} />
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <chakra.span color="pine" fontWeight={600} asChild>
          <a href={`/file/circulation/${view.id}/${view.finals?.files[0]?.file}`} target="_blank" rel="noreferrer">
            {words.lookFinal}
          </a>
        </chakra.span>
        <DueButton busy={release.isPending} onClick={() => release.mutate({ circulation: view.id })}>
          {words.releaseDo}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
