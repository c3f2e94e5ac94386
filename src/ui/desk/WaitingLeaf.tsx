'use client';

import { Box, Flex } from '@chakra-ui/react';
import { isLate } from '@/core/time/press';
import type { TaskRow } from '@/server/desk/view';
import { needsOf } from '../circulation/offers';
import { useAct } from '../circulation/useAct';
import { toldWords } from '../circulation/words';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { useAsk, useTimes } from '../data/use';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Leaf } from '../parts/parts';
import { deskWords as words } from './words';

/** What waits for somebody else: since when, whether they have looked, and a reminder where one may send it. */
export function WaitingLeaf({ task }: { readonly task: TaskRow }) {
  const router = useRouter();
  const { name } = usePeople();
  const times = useTimes();
  const { data } = useAsk('circulation.view', { circulation: task.circulation });
  const seat = data?.seats.find((candidate) => candidate.id === task.seat);
  const remind = useAct('circulation.remind', toldWords.reminded(name(task.person)));
  const last = seat?.reminded[seat.reminded.length - 1];
  return (
    <Leaf label={task.title} tone="copper">
      <Flex gap="20px" align="center" flexWrap="wrap">
        <Box flex="1" minW="240px">
          {words.waitingSince(name(task.person), times.moment(task.since), isLate(task.due, times.now()))}
          <Box color="quiet" fontSize="13px" mt="4px">
            {seat &&
              [
                seat.seen ? words.opened(times.moment(seat.seen.at)) : words.notOpened,
                last === undefined ? words.notReminded : words.reminded(times.moment(last)),
              ].join(' · ')}
          </Box>
          <Fault error={remind.error} />
        </Box>
        <SideButton
          onClick={() => router.push(`/circulations/${task.circulation}${task.seat ? `?seat=${task.seat}` : ''}`)}
        >
          {words.openCirculation}
        </SideButton>
        {data && needsOf(data, 'remind', task.seat) && (
          <DueButton
            busy={remind.isPending}
            onClick={() => remind.mutate({ circulation: task.circulation, seat: task.seat })}
          >
            {words.remind(name(task.person))}
          </DueButton>
        )}
      </Flex>
    </Leaf>
  );
}
