'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { type ReminderPlan, reminderLimits } from '@/core/time/reminders';
import { WordButton } from './buttons';
import { TextField, Tick } from './form';
import { OnePerson } from './OnePerson';

const words = {
  left: 'Remind when so much of the working time is left, in percent (such as 50, 20)',
  leftMore: 'In the working hours of whoever is asked; several reminders to one person come in one message.',
  none: 'Nobody is reminded before the due time.',
  lastMorning: 'Also on the morning of the day it is due',
  controller: 'Tell the controller when it is late',
  third: 'Then tell somebody else',
  who: 'Who',
  days: 'Working days late',
};

/** When people are reminded, and who is told of silence. What cannot be kept is told by `onPlan` not being called. */
export function ReminderForm({
  plan,
  onPlan,
}: {
  readonly plan: ReminderPlan;
  readonly onPlan: (plan: ReminderPlan) => void;
}) {
  const [typed, setTyped] = useState(plan.left.join(', '));
  const [naming, setNaming] = useState(plan.third !== null);
  const shares = sharesIn(typed);
  return (
    <Box>
      <TextField
        label={words.left}
        help={shares?.length === 0 ? words.none : words.leftMore}
        fault={shares === null ? words.left : null}
        w="200px"
        inputMode="numeric"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          const left = sharesIn(event.target.value);
          if (left) onPlan({ ...plan, left });
        }}
      />
      <Tick checked={plan.lastMorning} onChecked={(lastMorning) => onPlan({ ...plan, lastMorning })}>
        {words.lastMorning}
      </Tick>
      <Box />
      <Tick checked={plan.controller} onChecked={(controller) => onPlan({ ...plan, controller })}>
        {words.controller}
      </Tick>
      {naming ? (
        <Flex gap="14px" align="flex-end" flexWrap="wrap" mt="4px">
          <Box minW="240px">
            <OnePerson
              label={words.who}
              insideOnly
              person={plan.third?.person ?? null}
              onPerson={(who) => {
                onPlan({ ...plan, third: who ? { person: who.person, days: plan.third?.days ?? 2 } : null });
                if (!who) setNaming(false);
              }}
            />
          </Box>
          {plan.third && (
            <Box w="140px">
              <TextField
                label={words.days}
                type="number"
                min={0}
                max={reminderLimits.days}
                value={plan.third?.days ?? 2}
                onChange={(event) => {
                  const days = Math.min(reminderLimits.days, Math.max(0, Math.floor(Number(event.target.value))));
                  if (plan.third) onPlan({ ...plan, third: { ...plan.third, days } });
                }}
              />
            </Box>
          )}
        </Flex>
      ) : (
        <Box>
          <WordButton onClick={() => setNaming(true)}>{words.third} …</WordButton>
        </Box>
      )}
    </Box>
  );
}

/** The shares in what was typed, the larger first; null where it is none. */
function sharesIn(text: string): readonly number[] | null {
  const parts = text.split(/[\s,;%]+/).filter(Boolean);
  const shares = [...new Set(parts.map(Number))].sort((a, b) => b - a);
  const fit = shares.every((one) => Number.isInteger(one) && one >= 1 && one <= 99);
  return fit && shares.length <= reminderLimits.points ? shares : null;
}
