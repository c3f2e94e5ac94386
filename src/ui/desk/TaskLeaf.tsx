'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { Doing } from '@/core/circulation/telling/tasks';
import { type Verb, verbFacts } from '@/core/route/verbs';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { useAsk, useMe, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Leaf, Quote } from '../parts/parts';
import { pathOf } from './paths';
import type { Row } from './useDesk';
import { deskWords as words } from './words';

/** Signing alone has a colour of its own. */
const toneOf = (doing: Doing) => (doing in verbFacts && verbFacts[doing as Verb].signs ? 'iris' : 'pine');

/** What a row of the Desk asks for, what was said about it, and the act that is due. */
export function TaskLeaf({ row: { task, others, covers } }: { readonly row: Row }) {
  const router = useRouter();
  const { name } = usePeople();
  const { data: me } = useMe();
  const times = useTimes();
  const { data } = useAsk('circulation.view', { circulation: task.circulation });
  const newest = data?.versions[data.versions.length - 1];
  const attachments = newest?.files.filter((file) => file.role === 'attachment').length ?? 0;
  const open = data?.comments.filter((comment) => !comment.thread && !comment.resolved).length ?? 0;
  const returned = data?.rework?.note;
  const declined = data?.seats.find((seat) => seat.id === task.seat)?.decision;
  const said = task.doing === 'rework' ? returned : task.doing === 'resolveStop' ? declined?.note : data?.note;
  const theirs =
    task.about !== me?.me.id && (task.doing in verbWords || task.doing === 'rework' || task.doing === 'resolveStop');
  const facts = [
    task.version > 0 ? words.version(task.version, task.round) : words.noVersion,
    ...(attachments > 0 ? [words.attachments(attachments)] : []),
    ...(open > 0 ? [words.openComments(open)] : []),
    words.since(times.moment(task.since)),
  ];
  return (
    <Leaf label={task.title} tone={task.doing === 'resolveStop' ? 'oxblood' : toneOf(task.doing)}>
      <Flex gap="20px" align="flex-start" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
        <Box flex="1" minW="240px">
          <Box>
            {words.says[task.doing]} {data?.reason && <chakra.span color="quiet">{data.reason}</chakra.span>}
          </Box>
          {covers && <Box>{words.coversFor(name(task.person))}</Box>}
          {task.notBefore !== null && task.notBefore > times.now() && (
            <Box>
              {words.respondFrom(times.moment(task.notBefore))}
              {task.due !== null && ` ${words.wanted(times.moment(task.due))}`}
            </Box>
          )}
          {said && (
            <Quote>
              {theirs && (
                <Box fontFamily="body" fontSize="13px" color="quiet">
                  {words.writes(name(task.about))}
                </Box>
              )}
              {said}
            </Quote>
          )}
          <Box color="quiet" fontSize="13px" mt="8px">
            {facts.join(' · ')}
          </Box>
        </Box>
        <Flex direction="column" gap="8px" align="flex-end">
          <DueButton tone={toneOf(task.doing)} onClick={() => router.push(pathOf(task))}>
            {words.actions[task.doing]}
          </DueButton>
          {others.map((other) => (
            <SideButton key={`${other.doing} ${other.seat}`} onClick={() => router.push(pathOf(other))}>
              {words.actions[other.doing]}
            </SideButton>
          ))}
          <WordButton onClick={() => router.push(`/circulations/${task.circulation}`)}>
            {words.openCirculation}
          </WordButton>
        </Flex>
      </Flex>
    </Leaf>
  );
}
