'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Phase } from '@/core/circulation/state';
import { nextRevision } from '@/core/record/numbering';
import type { LineModel } from '@/core/line/line';
import { phaseWords } from '../circulation/words';
import { useMe, usePeople, useTimes } from '../data/use';

import { TinyLine } from '../line/LineDrawing';
import { toneOf } from '../line/tone';
import { Answered } from '../parts/Answered';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Leaf, PageHead, PersonName } from '../parts/parts';
import { Describe } from './Describe';
import { StartChange } from './StartChange';
import { registerWords as words } from './words';

interface RecordView {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly kind: string;
  readonly owner: string;
  readonly complete: boolean;
  readonly revisions: readonly { revision: string; effective: number; released: number; by: string }[];
  readonly changes: readonly {
    id: string;
    revision: string;
    reason: string | null;
    author: string;
    started: number;
    state: string;
    circulation: string;
  }[];
  readonly inWork: { circulation: string; revision: string; author: string; since: number } | null;
  readonly circulations: readonly {
    id: string | null;
    number: string;
    phase: Phase;
    line?: LineModel;
    nextDue?: number | null;
    stops?: number;
  }[];
}

/** One document: its current revision first, then what is in work, then what came before. */
export function RecordPage({ record }: { readonly record: string }) {
  return (
    <Answered<RecordView> name="record.view" input={{ record }}>
      {(data) => <Whole data={data} />}
    </Answered>
  );
}

function Whole({ data }: { readonly data: RecordView }) {
  const { record } = data;
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const router = useRouter();
  const [starting, setStarting] = useState(false);
  const [describing, setDescribing] = useState(false);
  const current = data.revisions[data.revisions.length - 1];
  const controls = me?.me.roles.includes('controller') ?? false;
  const mayDescribe = controls || me?.me.id === data.owner;
  const live = data.circulations.find(
    (circulation) => circulation.id !== null && circulation.id === data.inWork?.circulation,
  );
  const coming = nextRevision(current?.revision ?? null);
  const change = data.changes.find((candidate) => candidate.state === 'inWork');
  return (
    <>
      <PageHead
        above={data.number}
        title={data.title}
        below={
          current ? (
            <chakra.span color="quiet">
              {words.released(current.revision, times.day(current.effective), name(current.by))}
            </chakra.span>
          ) : (
            <chakra.span color="quiet">{words.notReleased}</chakra.span>
          )
        }
      >
        {mayDescribe && <SideButton onClick={() => setDescribing(!describing)}>{words.describe}</SideButton>}
        {current && (
          <SideButton onClick={() => window.open(`/file/record/${record}/${current.revision}`, '_blank', 'noopener')}>
            {words.read(current.revision)}
          </SideButton>
        )}
        {!data.inWork && controls && (
          <DueButton onClick={() => setStarting(true)}>{current ? words.start : words.startFirst}</DueButton>
        )}
        {live?.id && (
          <DueButton onClick={() => router.push(`/circulations/${live.id}`)}>{words.toCirculation}</DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '16px', md: '24px' }} pb="24px">
        {!data.complete && mayDescribe && !describing && (
          <Flex gap="12px" py="8px" color="copperText">
            {words.completeNow}
            <WordButton onClick={() => setDescribing(true)}>{words.describe}</WordButton>
          </Flex>
        )}
        {describing && <Describe data={data} onDone={() => setDescribing(false)} />}
        {starting && (
          <StartChange record={record} coming={coming} owner={data.owner} onDone={() => setStarting(false)} />
        )}
        {data.inWork && change && (
          <Box my="10px">
            <Leaf label={words.inWork(data.inWork.revision)}>
              <Flex gap="20px" align="center" flexWrap="wrap">
                <Box flex="1" minW="240px">
                  {words.change(data.inWork.revision, name(data.inWork.author), times.day(data.inWork.since))}{' '}
                  <chakra.span color="quiet">{change.reason}</chakra.span>
                </Box>
                {live?.line ? (
                  <TinyLine
                    model={live.line}
                    tone={toneOf({ stops: live.stops ?? 0, nextDue: live.nextDue ?? null }, times.now())}
                  />
                ) : (
                  <Box color="quiet">{words.notYours}</Box>
                )}
              </Flex>
            </Leaf>
          </Box>
        )}
        <Grid templateColumns={{ base: '1fr', md: '1.2fr 1fr' }} gap="40px" mt="12px">
          <Box>
            <chakra.h2 fontSize="13.5px" mb="6px">
              {words.revisions}
            </chakra.h2>
            {data.revisions.length === 0 && <Box color="quiet">{words.noRevisions}</Box>}
            {data.revisions
              .slice()
              .reverse()
              .map((revision, i) => (
                <Flex
                  key={revision.revision}
                  gap="14px"
                  align="center"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                >
                  <Box w="34px" fontWeight={600}>
                    {revision.revision}
                  </Box>
                  <Box w="100px" color={i === 0 ? 'ink' : 'quiet'}>
                    {i === 0 ? words.current : words.superseded}
                  </Box>
                  <Box w="120px" color="quiet">
                    {times.day(revision.effective)}
                  </Box>
                  <Box flex="1">
                    <PersonName id={revision.by} />
                  </Box>
                  <chakra.span color="pine" fontWeight={600} asChild>
                    <a href={`/file/record/${record}/${revision.revision}?download`}>{words.download}</a>
                  </chakra.span>
                </Flex>
              ))}
          </Box>
          <Box>
            <chakra.h2 fontSize="13.5px" mb="6px">
              {words.circulations}
            </chakra.h2>
            {data.circulations.map((circulation) => {
              const cells = (
                <>
                  <Box w="56px" color="quiet">
                    {circulation.number}
                  </Box>
                  <Box flex="1">{phaseWords[circulation.phase]}</Box>
                  {circulation.line && (
                    <TinyLine
                      model={circulation.line}
                      tone={toneOf(
                        { stops: circulation.stops ?? 0, nextDue: circulation.nextDue ?? null },
                        times.now(),
                      )}
                    />
                  )}
                </>
              );
              return circulation.id ? (
                <chakra.button
                  key={circulation.number}
                  type="button"
                  display="flex"
                  w="100%"
                  gap="14px"
                  alignItems="center"
                  textAlign="start"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                  cursor="pointer"
                  _hover={{ bg: 'sunk' }}
                  onClick={() => router.push(`/circulations/${circulation.id}`)}
                >
                  {cells}
                </chakra.button>
              ) : (
                <Flex
                  key={circulation.number}
                  gap="14px"
                  align="center"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                >
                  {cells}
                </Flex>
              );
            })}
          </Box>
        </Grid>
      </Box>
    </>
  );
}
