'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import type { FirstSteps as Steps } from '@/server/admin/firstSteps';
import { useRouter } from '../data/ahead';
import { useMe, useTell } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { deskWords } from './words';

const words = deskWords.steps;

/** What an administrator does first in an empty installation; each step says by itself that it is done. */
export function FirstSteps({ steps }: { readonly steps: Steps }) {
  const router = useRouter();
  const { data: me } = useMe();
  const done = useTell('steps.done');
  return (
    <Box as="section" aria-label={words.title} px={{ base: '16px', md: '24px' }} pb="14px" flex="none">
      <Flex align="baseline" gap="14px" mb="4px">
        <chakra.h2 fontSize="15px" flex="1">
          {words.title}
        </chakra.h2>
        <WordButton color="quiet" onClick={() => done.mutate({ step: 'all' })}>
          {words.hide}
        </WordButton>
      </Flex>
      <Step done={steps.people} title={words.people} more={words.peopleMore}>
        <SideButton onClick={() => router.push('/people?add')}>{words.peopleDo}</SideButton>
      </Step>
      <Step done={steps.types} title={words.types} more={words.typesMore}>
        <SideButton onClick={() => router.push('/types')}>{words.typesDo}</SideButton>
        <WordButton onClick={() => done.mutate({ step: 'types' })}>{words.typesKeep}</WordButton>
      </Step>
      <Step done={steps.mail} title={words.mail} more={steps.mail ? '' : words.mailMore(me?.mailQueued ?? 0)} />
      <Step done={steps.document} title={words.document} more={words.documentMore}>
        <SideButton onClick={() => router.replace('/desk?send')}>{words.documentSend}</SideButton>
        <WordButton onClick={() => router.push('/register/new')}>{words.documentNew}</WordButton>
      </Step>
      <Fault error={done.error} />
    </Box>
  );
}

function Step({
  done,
  title,
  more,
  children,
}: {
  readonly done: boolean;
  readonly title: string;
  readonly more: string;
  readonly children?: ReactNode;
}) {
  return (
    <Flex
      borderTop="1px solid"
      borderColor="hairline"
      py="9px"
      gap="12px"
      align="center"
      flexWrap={{ base: 'wrap', md: 'nowrap' }}
      color={done ? 'quiet' : 'ink'}
    >
      <Box w="92px" flex="none" fontSize="13px" color={done ? 'pine' : 'quiet'} fontWeight={done ? 600 : 400}>
        {done ? `✓ ${words.done}` : words.open}
      </Box>
      <Box flex="1" minW="220px">
        <chakra.span fontWeight={600}>{title}</chakra.span>
        {!done && more && <Box color="quiet">{more}</Box>}
      </Box>
      {!done && children}
    </Flex>
  );
}
