'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { SeatView } from '@/server/signing/view';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Quote } from '../parts/parts';
import { signingWords } from './words';

const words = signingWords.questions;

interface Asked {
  readonly id: string;
  /** Not there where only one person could have asked. */
  readonly by?: string;
  readonly at: number;
  readonly text: string | null;
  readonly answer: { readonly by?: string; readonly at: number; readonly text: string | null } | null;
}

/** What somebody asked before responding, each with its answer beneath; `answer` puts a form where one is missing. */
export function Questions({
  questions,
  moment,
  asker,
  answerer,
  answer,
}: {
  readonly questions: readonly Asked[];
  readonly moment: (at: number) => string;
  readonly asker: (question: Asked) => string;
  readonly answerer: (answer: NonNullable<Asked['answer']>) => string;
  readonly answer?: (question: Asked) => React.ReactNode;
}) {
  if (questions.length === 0) return null;
  return (
    <Box as="section" aria-label={words.title} mt="10px">
      {questions.map((question) => (
        <Box key={question.id} mb="8px">
          <Said who={asker(question)} when={moment(question.at)} text={question.text} />
          {question.answer ? (
            <Box ml="16px">
              <Said who={answerer(question.answer)} when={moment(question.answer.at)} text={question.answer.text} />
            </Box>
          ) : (
            (answer?.(question) ?? (
              <Box ml="16px" fontSize="13px" color="quiet">
                {words.waits}
              </Box>
            ))
          )}
        </Box>
      ))}
    </Box>
  );
}

/** What somebody wrote, with who and when above it. */
function Said({ who, when, text }: { readonly who: string; readonly when: string; readonly text: string | null }) {
  return (
    <>
      <Box fontSize="13px">
        <chakra.span fontWeight={600}>{who}</chakra.span> <chakra.span color="quiet">{when}</chakra.span>
      </Box>
      <Quote>{text ?? words.erased}</Quote>
    </>
  );
}

/** Asks the sender something before responding: as a member, or through a link where `base` is one. */
export function AskForm({
  own: { circulation, seat, epoch },
  base,
  onDone,
}: {
  readonly own: Pick<SeatView, 'circulation' | 'seat' | 'epoch'>;
  readonly base: string;
  readonly onDone: () => void;
}) {
  // The same press is the same question, however often it is sent.
  const [question] = useState(() => crypto.randomUUID());
  const [text, setText] = useKeptText(`question.${seat}.${epoch}`);
  const after = () => {
    setText('');
    onDone();
  };
  const asMember = useAct('circulation.askQuestion', toldWords.asked, { after });
  const byLink = useTell('seat.askQuestion', { base, after });
  const put = () =>
    base === '' ? asMember.mutate({ circulation, seat, epoch, question, text }) : byLink.mutate({ question, text });
  return (
    <Box mb="8px">
      <Box mb="6px">{words.what}</Box>
      <WordsField label={words.label} text={text} onText={setText} autoFocus />
      <Fault error={asMember.error ?? byLink.error} />
      <Flex gap="10px" justify="flex-end" mt="8px">
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton busy={asMember.isPending || byLink.isPending} disabled={text.trim() === ''} onClick={put}>
          {words.send}
        </DueButton>
      </Flex>
    </Box>
  );
}
