'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { type ReactNode, useState } from 'react';
import type { Spot } from '@/core/circulation/events';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/sign';
import { RemarkForm, remarkWords } from '../circulation/Remarks';
import { useEscape } from '../data/useEscape';
import { SideButton, WordButton } from '../parts/buttons';
import { Slip } from '../parts/parts';
import { AtSpot, RemarkMark } from './RemarkMark';
import { signingWords as words } from './words';

/**
 * The remarks of somebody who reads through a link: theirs and what was answered, each where it stands. Gives what the
 * pages need: what a press on a spot does, what lies over a page, and what stands above them all. A signer makes none:
 * who cannot sign what is written declines and says why.
 */
export function useOwnRemarks(
  view: SeatView,
  base: string,
): {
  readonly onSpot: ((spot: Spot) => void) | undefined;
  readonly onPage: (page: number, scale: number) => ReactNode;
  readonly onWhole: ReactNode;
} {
  const [making, setMaking] = useState<Spot | 'whole' | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  useEscape(() => {
    setMaking(null);
    setOpened(null);
  });
  const file = view.document?.file;
  if (view.verb === 'sign' || base === '' || !file) return { onSpot: undefined, onPage: () => null, onWhole: null };

  const threads = view.remarks.filter((remark) => !remark.thread);
  const form = (spot: Spot | null) => (
    <RemarkForm
      kept={`remark.${file}.${view.seat}`}
      title={spot ? remarkWords.onSpot(spot.page + 1) : remarkWords.onWhole}
      label={remarkWords.what}
      action={remarkWords.make}
      operation="seat.remark"
      base={base}
      input={{ thread: null, file, spot }}
      onDone={() => setMaking(null)}
    />
  );
  const thread = (remark: SeatView['remarks'][number]) => (
    <OwnThread key={remark.id} view={view} base={base} thread={remark} />
  );
  const onPages = (remark: SeatView['remarks'][number]) => remark.spot !== null && remark.file === file;

  return {
    onSpot: (spot) => {
      setOpened(null);
      setMaking(spot);
    },
    onPage: (page, scale) => (
      <>
        {threads.map((remark, i) =>
          remark.spot && onPages(remark) && remark.spot.page === page ? (
            <RemarkMark
              key={remark.id}
              n={i + 1}
              spot={remark.spot}
              scale={scale}
              settled={remark.settled}
              label={`${remark.by}: ${remark.words ?? ''}`}
              open={opened === remark.id}
              onToggle={() => {
                setMaking(null);
                setOpened(opened === remark.id ? null : remark.id);
              }}
            >
              {thread(remark)}
            </RemarkMark>
          ) : null,
        )}
        {making && making !== 'whole' && making.page === page && (
          <AtSpot spot={making} scale={scale}>
            <Slip label={words.remarkHere}>{form(making)}</Slip>
          </AtSpot>
        )}
      </>
    ),
    onWhole: (
      <Box px="16px" pb="12px" maxW="820px" mx="auto">
        {threads.filter((remark) => !onPages(remark)).map(thread)}
        {making === 'whole' ? (
          <Slip label={words.remarkHere}>{form(null)}</Slip>
        ) : (
          <Flex gap="12px" align="center" flexWrap="wrap" mt="6px">
            <SideButton onClick={() => setMaking('whole')}>{words.remarkHere}</SideButton>
            <Box color="quiet" fontSize="13px">
              {words.remarkHelp}
            </Box>
          </Flex>
        )}
      </Box>
    ),
  };
}

function OwnThread({
  view,
  base,
  thread,
}: {
  readonly view: SeatView;
  readonly base: string;
  readonly thread: SeatView['remarks'][number];
}) {
  const [answering, setAnswering] = useState(false);
  const when = (at: number) => momentIn(view.me?.zone ?? 'UTC', at, Date.now());
  return (
    <Box py="6px">
      {[thread, ...view.remarks.filter((remark) => remark.thread === thread.id)].map((remark) => (
        <Box key={remark.id} pl={remark.thread ? '14px' : 0} mt={remark.thread ? '6px' : 0}>
          <chakra.span fontWeight={600}>{remark.by}</chakra.span>{' '}
          <chakra.span color="quiet" fontSize="13px">
            {when(remark.at)}
          </chakra.span>
          <Box whiteSpace="pre-wrap" css={{ overflowWrap: 'anywhere' }}>
            {remark.words}
          </Box>
        </Box>
      ))}
      {answering ? (
        <RemarkForm
          kept={`answer.${thread.id}.${view.seat}`}
          label={remarkWords.answerTo}
          action={remarkWords.sayAnswer}
          operation="seat.remark"
          base={base}
          input={{ thread: thread.id, file: thread.file, spot: null }}
          onDone={() => setAnswering(false)}
        />
      ) : (
        <WordButton onClick={() => setAnswering(true)}>{remarkWords.sayAnswer}</WordButton>
      )}
    </Box>
  );
}
