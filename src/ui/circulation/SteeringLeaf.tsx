'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/people';
import { useGround } from '../data/useGround';
import { useKeptText } from '../data/useKept';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { ReminderForm } from '../parts/ReminderForm';
import { may } from './offers';
import { useAct } from './useAct';
import { circulationWords, toldWords } from './words';

const words = circulationWords.steering;

/** How those who are asked in this circulation are reminded. */
function Reminding({ view }: { readonly view: CirculationView }) {
  const [plan, setPlan] = useState(view.reminders);
  const put = useAct('circulation.setReminders', words.remindersDone);
  const changed = JSON.stringify(plan) !== JSON.stringify(view.reminders);
  return (
    <Box flex="1" minW="280px">
      <Box fontWeight={600}>{words.remindersTitle}</Box>
      <Box mb="6px">{words.remindersWhat}</Box>
      <ReminderForm plan={plan} onPlan={setPlan} />
      <Fault error={put.error} />
      <Flex justify="flex-end" mt="8px">
        <SideButton
          busy={put.isPending}
          disabled={!changed}
          onClick={() => put.mutate({ circulation: view.id, plan: { ...plan, left: [...plan.left] } })}
        >
          {words.remindersDo}
        </SideButton>
      </Flex>
    </Box>
  );
}

/** What a controller seldom does with the whole: stopping it for a while, and handing it to somebody else. */
export function SteeringLeaf({ view, onDone }: { readonly view: CirculationView; readonly onDone: () => void }) {
  const { name } = usePeople();
  const [why, setWhy] = useKeptText(`pause.${view.id}`);
  const [message, setMessage] = useKeptText(`handControl.${view.id}`);
  const [to, setTo] = useState<string | null>(null);
  const pause = useAct('circulation.pause', toldWords.paused, {
    after: () => {
      setWhy('');
      onDone();
    },
  });
  const hand = useAct('circulation.handControl', (input) => toldWords.handedOn(name(input.to)), {
    after: () => {
      setMessage('');
      onDone();
    },
  });
  useGround(may(view, 'handControl'), hand, onDone);
  return (
    <Leaf label={words.action}>
      <Flex gap="36px" flexWrap="wrap" align="flex-start">
        {may(view, 'pause') && (
          <Box flex="1" minW="280px">
            <Box fontWeight={600}>{words.pauseTitle}</Box>
            <Box mb="6px">{words.pauseWhat}</Box>
            <WordsField label={words.pauseNote} text={why} onText={setWhy} />
            <Fault error={pause.error} />
            <Flex justify="flex-end" mt="8px">
              <SideButton
                busy={pause.isPending}
                onClick={() => pause.mutate({ circulation: view.id, note: why.trim() || null })}
              >
                {words.pauseDo}
              </SideButton>
            </Flex>
          </Box>
        )}
        {may(view, 'setReminders') && <Reminding view={view} />}
        <Box flex="1" minW="280px">
          <Box fontWeight={600}>{words.handTitle}</Box>
          <Box mb="6px">{words.handWhat}</Box>
          <OnePerson
            label={words.handTo}
            insideOnly
            person={to}
            exclude={[view.controller]}
            why={(person) => words.not(name(person))}
            onPerson={(who) => setTo(who?.person ?? null)}
          />
          <Box mt="10px">
            <WordsField label={words.handNote} text={message} onText={setMessage} />
          </Box>
          <Fault error={hand.error} />
          <Flex justify="flex-end" gap="10px" mt="8px">
            <WordButton onClick={onDone}>{circulationWords.leave}</WordButton>
            <DueButton
              busy={hand.isPending}
              disabled={to === null}
              onClick={() =>
                to && hand.mutate({ circulation: view.id, to, note: message.trim() === '' ? null : message.trim() })
              }
            >
              {to === null ? words.handNobody : words.handDo(name(to))}
            </DueButton>
          </Flex>
        </Box>
      </Flex>
    </Leaf>
  );
}
