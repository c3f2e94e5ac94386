'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { CirculationView } from '@/server/circulation/view';
import { useNamesThen } from '../data/people';
import { useTimes } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Questions } from '../signing/Questions';
import { may } from './offers';
import { useAct } from './useAct';
import { circulationWords, toldWords } from './words';

const words = circulationWords.questions;

/** The questions of one seat where they were asked, to be answered there by whoever may. */
export function SeatQuestions({ view, seat }: { readonly view: CirculationView; readonly seat: string }) {
  const times = useTimes();
  const name = useNamesThen(view.past);
  return (
    <Questions
      questions={view.questions
        .filter((question) => question.seat === seat)
        .map(({ note, answer, ...question }) => ({
          ...question,
          text: note,
          answer: answer && { ...answer, text: answer.note },
        }))}
      moment={times.moment}
      asker={({ by, at }) => words.asks(name(by ?? '', at))}
      answerer={(answer) => words.answers(name(answer.by ?? '', answer.at))}
      answer={({ id }) =>
        may(view, 'answerQuestion', id) ? <Answer circulation={view.id} question={id} /> : undefined
      }
    />
  );
}

function Answer({ circulation, question }: { readonly circulation: string; readonly question: string }) {
  const [text, setText] = useKeptText(`answer.${question}`);
  const answer = useAct('circulation.answerQuestion', toldWords.answered, { after: () => setText('') });
  return (
    <Box ml="16px">
      <WordsField label={words.answer} text={text} onText={setText} autoFocus />
      <Fault error={answer.error} />
      <Flex justify="flex-end" mt="6px">
        <DueButton
          busy={answer.isPending}
          disabled={text.trim() === ''}
          onClick={() => answer.mutate({ circulation, question, text })}
        >
          {words.send}
        </DueButton>
      </Flex>
    </Box>
  );
}
