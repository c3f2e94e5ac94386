'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { type ReactNode, useState } from 'react';
import { verbFacts } from '@/core/route/verbs';
import { momentIn } from '@/core/time/zone';
import type { SpotGiven } from '@/server/operations/pieces';
import type { SeatView } from '@/server/signing/view';
import { CommentForm, commentWords, Passage } from '../circulation/Comments';
import { circulationWords } from '../circulation/words';
import { useTell } from '../data/use';
import { useEscape } from '../data/useEscape';
import { SideButton, WordButton } from '../parts/buttons';
import { Leaf } from '../parts/parts';
import { AtSpot, CommentMark, SpotRing } from './CommentMark';
import { signingWords as words } from './words';

/**
 * The comments of somebody who reads through a link: theirs and what was answered, each where it stands. Gives what the
 * pages of one document (by its content) need: what a press on a spot does, what lies over a page, and what stands above them all. A signer makes none:
 * who cannot sign what is written declines and says why.
 */
export function useOwnComments(
  view: SeatView,
  base: string,
  file: string | null,
): {
  readonly onSpot: ((spot: SpotGiven) => void) | undefined;
  readonly onPage: (page: number, scale: number) => ReactNode;
  readonly onWhole: ReactNode;
} {
  const [making, setMaking] = useState<SpotGiven | 'whole' | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  useEscape(() => {
    setMaking(null);
    setOpened(null);
  });
  if (verbFacts[view.verb].signs || base === '' || file === null)
    return { onSpot: undefined, onPage: () => null, onWhole: null };

  const threads = view.comments.filter((comment) => !comment.thread);
  const form = (spot: SpotGiven | null) => (
    <CommentForm
      kept={`comment.${file}.${view.seat}`}
      title={spot ? commentWords.onSpot(spot.page + 1) : commentWords.onWhole}
      quote={spot?.quote}
      label={commentWords.what}
      action={commentWords.make}
      operation="seat.comment"
      base={base}
      input={{ thread: null, file, spot }}
      onDone={() => setMaking(null)}
    />
  );
  const thread = (comment: SeatView['comments'][number]) => (
    <OwnThread key={comment.id} view={view} base={base} thread={comment} />
  );
  const onPages = (comment: SeatView['comments'][number]) => comment.spot !== null && comment.file === file;

  return {
    onSpot: (spot) => {
      setOpened(null);
      setMaking(spot);
    },
    onPage: (page, scale) => (
      <>
        {threads.map((comment, i) =>
          comment.spot && onPages(comment) && comment.spot.page === page ? (
            <CommentMark
              key={comment.id}
              n={i + 1}
              spot={comment.spot}
              scale={scale}
              settled={comment.resolved}
              label={`${comment.by}: ${comment.note ?? ''}`}
              open={opened === comment.id}
              onToggle={() => {
                setMaking(null);
                setOpened(opened === comment.id ? null : comment.id);
              }}
            >
              {thread(comment)}
            </CommentMark>
          ) : null,
        )}
        {making && making !== 'whole' && making.page === page && (
          <>
            <SpotRing spot={making} scale={scale} strong />
            <AtSpot spot={making} scale={scale}>
              <Leaf label={words.commentHere}>{form(making)}</Leaf>
            </AtSpot>
          </>
        )}
      </>
    ),
    onWhole: (
      <Box px="16px" pb="12px" maxW="820px" mx="auto">
        {threads.filter((comment) => !onPages(comment)).map(thread)}
        {making === 'whole' ? (
          <Leaf label={words.commentHere}>{form(null)}</Leaf>
        ) : (
          <Flex gap="12px" align="center" flexWrap="wrap" mt="6px">
            <SideButton onClick={() => setMaking('whole')}>{words.commentHere}</SideButton>
            <Box color="quiet" fontSize="13px">
              {words.commentHelp}
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
  readonly thread: SeatView['comments'][number];
}) {
  const [answering, setAnswering] = useState(false);
  const settle = useTell('seat.settleComment', { base });
  const when = (at: number) => momentIn(view.me?.zone ?? 'UTC', at, Date.now());
  return (
    <Box py="6px">
      {[thread, ...view.comments.filter((comment) => comment.thread === thread.id)].map((comment) => (
        <Box key={comment.id} pl={comment.thread ? '14px' : 0} mt={comment.thread ? '6px' : 0}>
          {comment.spot?.quote && <Passage>{comment.spot.quote}</Passage>}
          <chakra.bdi fontWeight={600}>{comment.by}</chakra.bdi>{' '}
          <chakra.span color="quiet" fontSize="13px">
            {when(comment.at)}
          </chakra.span>
          <Box dir="auto" whiteSpace="pre-wrap" css={{ overflowWrap: 'anywhere' }}>
            {comment.note}
          </Box>
        </Box>
      ))}
      {answering ? (
        <CommentForm
          kept={`answer.${thread.id}.${view.seat}`}
          label={commentWords.answerTo}
          action={commentWords.sayAnswer}
          operation="seat.comment"
          base={base}
          input={{ thread: thread.id, file: thread.file, spot: null }}
          onDone={() => setAnswering(false)}
        />
      ) : (
        <Flex gap="12px">
          <WordButton onClick={() => setAnswering(true)}>{commentWords.sayAnswer}</WordButton>
          <WordButton onClick={() => settle.mutate({ comment: thread.id, resolved: !thread.resolved })}>
            {thread.resolved ? circulationWords.reopen : circulationWords.resolve}
          </WordButton>
        </Flex>
      )}
    </Box>
  );
}
