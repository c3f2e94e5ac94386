'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import type { SpotGiven } from '@/server/operations/pieces';
import type { InputOf } from '../data/client';
import { useNamesThen } from '../data/people';
import { useMe, useTell, useTimes } from '../data/use';
import { useKeptText } from '../data/useKept';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { PersonName } from '../parts/parts';
import { may } from './offers';
import { circulationWords as words } from './words';

export const commentWords = {
  none: 'No comment yet.',
  whole: 'whole document',
  answerTo: 'Your reply',
  sayAnswer: 'Reply',
  make: 'Comment',
  onSpot: (page: number) => `Comment on this spot of page ${page}`,
  onWhole: 'Comment on the whole document',
  what: 'Your comment',
  leave: 'Cancel',
} as const;

/** The words of the document that a comment is about. */
export function Passage({ children }: { readonly children: string }) {
  return (
    <Box dir="auto" fontFamily="serif" color="quiet" my="4px" lineClamp={3}>
      “{children}”
    </Box>
  );
}

/** The comments of a circulation in threads. `focus` shows one thread only, opened where it stands. */
export function Comments({
  view,
  focus = null,
  onSpot,
}: {
  readonly view: CirculationView;
  readonly focus?: string | null;
  readonly onSpot?: (page: number) => void;
}) {
  const threads = view.comments.filter((comment) => !comment.thread && (focus === null || comment.id === focus));
  if (threads.length === 0) return <Box color="quiet">{commentWords.none}</Box>;
  return (
    <>
      {threads.map((thread) => (
        <Thread key={thread.id} view={view} thread={thread} onSpot={onSpot} />
      ))}
    </>
  );
}

type Comment = CirculationView['comments'][number];

function Thread({
  view,
  thread,
  onSpot,
}: {
  readonly view: CirculationView;
  readonly thread: Comment;
  readonly onSpot: ((page: number) => void) | undefined;
}) {
  const name = useNamesThen(view.past);
  const { data: me } = useMe();
  const times = useTimes();
  const [answering, setAnswering] = useState(false);
  const resolve = useTell('circulation.resolveComment');
  const reopen = useTell('circulation.reopenComment');
  const on = { circulation: view.id, comment: thread.id };
  const answers = view.comments.filter((comment) => comment.thread === thread.id);
  const mayAnswer = may(view, 'comment');
  return (
    <Box borderBottom="1px solid" borderColor="hairline" py="8px" opacity={thread.resolved ? 0.75 : 1}>
      <Flex gap="8px" align="center" flexWrap="wrap">
        <PersonName id={thread.by} called={name(thread.by, thread.at)} size={20} />
        <chakra.span color="quiet" fontSize="13px">
          {times.moment(thread.at)} · {thread.spot ? words.onPage(thread.spot.page + 1) : commentWords.whole} ·{' '}
          {words.version(thread.version)}
          {thread.resolved ? ` · ${words.resolved}` : ''}
        </chakra.span>
        {thread.spot && onSpot && (
          <WordButton onClick={() => onSpot(thread.spot?.page ?? 0)}>{words.onPage(thread.spot.page + 1)}</WordButton>
        )}
      </Flex>
      {thread.spot?.quote && <Passage>{thread.spot.quote}</Passage>}
      <Box dir="auto" mt="3px" whiteSpace="pre-wrap" css={{ overflowWrap: 'anywhere' }}>
        {thread.note}
      </Box>
      {answers.map((entry) => (
        <Box key={entry.id} pl="14px" borderLeft="2px solid" borderColor="hairline" mt="6px">
          <chakra.bdi fontWeight={600}>{name(entry.by, entry.at)}</chakra.bdi>{' '}
          <chakra.span color="quiet" fontSize="13px">
            {times.moment(entry.at)}
          </chakra.span>
          <Box dir="auto" whiteSpace="pre-wrap">
            {entry.note}
          </Box>
        </Box>
      ))}
      {mayAnswer && (
        <Flex gap="12px" mt="4px">
          {!answering && <WordButton onClick={() => setAnswering(true)}>{words.answer}</WordButton>}
          {may(view, 'resolveComment', thread.id) && (
            <WordButton onClick={() => resolve.mutate(on)}>{words.resolve}</WordButton>
          )}
          {may(view, 'reopenComment', thread.id) && (
            <WordButton onClick={() => reopen.mutate(on)}>{words.reopen}</WordButton>
          )}
        </Flex>
      )}
      {answering && (
        <CommentForm
          kept={`answer.${thread.id}.${me?.me.id}`}
          label={commentWords.answerTo}
          action={commentWords.sayAnswer}
          operation="circulation.comment"
          input={{ circulation: view.id, thread: thread.id, file: thread.file, spot: null }}
          onDone={() => setAnswering(false)}
        />
      )}
      <Fault error={resolve.error ?? reopen.error} />
    </Box>
  );
}

/** Writes a new comment, on a spot of a page or on the whole. */
export function NewComment({
  view,
  file,
  spot,
  onDone,
}: {
  readonly view: CirculationView;
  readonly file: string;
  readonly spot: SpotGiven | null;
  readonly onDone: () => void;
}) {
  const { data: me } = useMe();
  return (
    <CommentForm
      kept={`comment.${file}.${me?.me.id}`}
      title={spot ? commentWords.onSpot(spot.page + 1) : commentWords.onWhole}
      quote={spot?.quote}
      label={commentWords.what}
      action={commentWords.make}
      operation="circulation.comment"
      input={{ circulation: view.id, thread: null, file, spot }}
      onDone={onDone}
    />
  );
}

/** Where a comment or an answer is typed: kept on this device until it is made, once however often one presses. */
export function CommentForm<N extends 'circulation.comment' | 'seat.comment'>({
  kept,
  title,
  quote,
  label,
  action,
  operation,
  base = '',
  input,
  onDone,
}: {
  readonly kept: string;
  readonly title?: string;
  /** The words that it is about. */
  readonly quote?: string | undefined;
  readonly label: string;
  readonly action: string;
  readonly operation: N;
  /** The path of a link, for people without an account. */
  readonly base?: string;
  /** What the comment belongs to. */
  readonly input: Omit<InputOf<N>, 'comment' | 'note'>;
  readonly onDone: () => void;
}) {
  const [text, setText] = useKeptText(kept);
  const [comment] = useState(() => crypto.randomUUID());
  const make = useTell(operation, {
    base,
    after: () => {
      setText('');
      onDone();
    },
  });
  return (
    <Box mt="6px">
      {title && (
        <Box fontWeight={600} mb="6px">
          {title}
        </Box>
      )}
      {quote && <Passage>{quote}</Passage>}
      <WordsField label={label} text={text} onText={setText} rows={title ? 3 : 2} autoFocus />
      <Fault error={make.error} />
      <Flex gap="8px" mt="8px">
        <SideButton
          busy={make.isPending}
          disabled={text.trim() === ''}
          onClick={() => make.mutate({ ...input, comment, note: text } as unknown as Parameters<typeof make.mutate>[0])}
        >
          {action}
        </SideButton>
        <WordButton onClick={onDone}>{commentWords.leave}</WordButton>
      </Flex>
    </Box>
  );
}
