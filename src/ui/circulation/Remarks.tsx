'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { useMe, usePeople, useTell, useTimes } from '../data/use';
import { Fault, PersonName, SideButton, TextArea, WordButton } from '../parts/parts';
import { circulationWords as words } from './words';

export const remarkWords = {
  none: 'No remark yet.',
  whole: 'on the whole',
  answerTo: 'Your answer',
  sayAnswer: 'Answer',
  make: 'Make the remark',
  onSpot: (page: number) => `Remark on this spot of page ${page}`,
  onWhole: 'A remark on the whole',
  what: 'What do you want to say?',
  leave: 'Leave it',
} as const;

/** The remarks of a circulation in threads. `focus` shows one thread only, opened where it stands. */
export function Remarks({
  view,
  focus = null,
  onSpot,
}: {
  readonly view: CirculationView;
  readonly focus?: string | null;
  readonly onSpot?: (page: number) => void;
}) {
  const threads = view.remarks.filter((remark) => !remark.thread && (focus === null || remark.id === focus));
  if (threads.length === 0) return <Box color="quiet">{remarkWords.none}</Box>;
  return (
    <>
      {threads.map((thread) => (
        <Thread key={thread.id} view={view} thread={thread} onSpot={onSpot} />
      ))}
    </>
  );
}

type Remark = CirculationView['remarks'][number];

function Thread({
  view,
  thread,
  onSpot,
}: {
  readonly view: CirculationView;
  readonly thread: Remark;
  readonly onSpot: ((page: number) => void) | undefined;
}) {
  const { name } = usePeople();
  const { data: me } = useMe();
  const times = useTimes();
  const [answering, setAnswering] = useState(false);
  const [text, setText] = useState('');
  const settle = useTell<object>('circulation.settleRemark');
  const answer = useTell<object>('circulation.remark', {
    after: () => {
      setText('');
      setAnswering(false);
    },
  });
  const answers = view.remarks.filter((remark) => remark.thread === thread.id);
  const live = view.phase !== 'completed' && view.phase !== 'withdrawn';
  const maySettle = live && me && [view.author, view.controller, thread.by].includes(me.me.id);
  return (
    <Box borderBottom="1px solid" borderColor="hairline" py="8px" opacity={thread.settled ? 0.75 : 1}>
      <Flex gap="8px" align="center" flexWrap="wrap">
        <PersonName id={thread.by} size={20} />
        <chakra.span color="quiet" fontSize="13px">
          {times.moment(thread.at)} · {thread.spot ? words.onPage(thread.spot.page + 1) : remarkWords.whole} ·{' '}
          {words.version(thread.version)}
          {thread.settled ? ` · ${words.settled}` : ''}
        </chakra.span>
        {thread.spot && onSpot && (
          <WordButton onClick={() => onSpot(thread.spot?.page ?? 0)}>{words.onPage(thread.spot.page + 1)}</WordButton>
        )}
      </Flex>
      <Box mt="3px" whiteSpace="pre-wrap" css={{ overflowWrap: 'anywhere' }}>
        {thread.words}
      </Box>
      {answers.map((entry) => (
        <Box key={entry.id} pl="14px" borderLeft="2px solid" borderColor="hairline" mt="6px">
          <chakra.span fontWeight={600}>{name(entry.by)}</chakra.span>{' '}
          <chakra.span color="quiet" fontSize="13px">
            {times.moment(entry.at)}
          </chakra.span>
          <Box whiteSpace="pre-wrap">{entry.words}</Box>
        </Box>
      ))}
      {live && (
        <Flex gap="12px" mt="4px">
          {!answering && <WordButton onClick={() => setAnswering(true)}>{words.answer}</WordButton>}
          {maySettle && !thread.settled && (
            <WordButton onClick={() => settle.mutate({ circulation: view.id, remark: thread.id })}>
              {words.settle}
            </WordButton>
          )}
        </Flex>
      )}
      {answering && (
        <Box mt="6px">
          <TextArea
            aria-label={remarkWords.answerTo}
            placeholder={remarkWords.answerTo}
            rows={2}
            maxLength={4000}
            value={text}
            onChange={(event) => setText(event.target.value)}
            autoFocus
          />
          <Flex gap="8px" mt="6px">
            <SideButton
              busy={answer.isPending}
              disabled={text.trim() === ''}
              onClick={() =>
                answer.mutate({
                  circulation: view.id,
                  remark: crypto.randomUUID(),
                  thread: thread.id,
                  file: thread.file,
                  spot: null,
                  words: text,
                })
              }
            >
              {remarkWords.sayAnswer}
            </SideButton>
            <WordButton onClick={() => setAnswering(false)}>{remarkWords.leave}</WordButton>
          </Flex>
        </Box>
      )}
      <Fault error={settle.error ?? answer.error} />
    </Box>
  );
}

/** Writes a new remark, on a spot of a page or on the whole. */
export function NewRemark({
  view,
  file,
  spot,
  onDone,
}: {
  readonly view: CirculationView;
  readonly file: string;
  readonly spot: { page: number; x: number; y: number } | null;
  readonly onDone: () => void;
}) {
  const [text, setText] = useState('');
  const make = useTell<object>('circulation.remark', { after: onDone });
  return (
    <Box>
      <Box fontWeight={600} mb="6px">
        {spot ? remarkWords.onSpot(spot.page + 1) : remarkWords.onWhole}
      </Box>
      <TextArea
        aria-label={remarkWords.what}
        placeholder={remarkWords.what}
        maxLength={4000}
        value={text}
        onChange={(event) => setText(event.target.value)}
        autoFocus
      />
      <Fault error={make.error} />
      <Flex gap="8px" mt="8px">
        <SideButton
          busy={make.isPending}
          disabled={text.trim() === ''}
          onClick={() =>
            make.mutate({ circulation: view.id, remark: crypto.randomUUID(), thread: null, file, spot, words: text })
          }
        >
          {remarkWords.make}
        </SideButton>
        <WordButton onClick={onDone}>{remarkWords.leave}</WordButton>
      </Flex>
    </Box>
  );
}
