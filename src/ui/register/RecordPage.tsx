'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { lineFrom } from '@/core/line/compact';
import { nextRevision } from '@/core/record/numbering';
import { useRouter } from '../data/ahead';
import type { OutputOf } from '../data/client';
import { useNamesThen, usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { useLineWords } from '../line/LineParts';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { Answered } from '../parts/Answered';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Leaf, PageHead } from '../parts/parts';
import { Describe } from './Describe';
import { RecordCirculations, RecordFacts } from './RecordParts';
import { Revisions } from './Revisions';
import { StartChange } from './StartChange';
import { registerWords as words } from './words';

type RecordView = OutputOf<'record.view'>;

/** One document: its current revision first, then what is in progress, then what came before. */
export function RecordPage({ record }: { readonly record: string }) {
  return (
    <Answered name="record.view" input={{ record }}>
      {(data) => <Whole data={data} />}
    </Answered>
  );
}

function Whole({ data }: { readonly data: RecordView }) {
  const { record } = data;
  const { name } = usePeople();
  const then = useNamesThen(data.past);
  const times = useTimes();
  const lineWords = useLineWords();
  const router = useRouter();
  // An old address of a superseded revision leads here with it open.
  const asked = useSearchParams().get('revision');
  const [starting, setStarting] = useState(false);
  const [describing, setDescribing] = useState(false);
  const current = data.revisions[data.revisions.length - 1];
  const live = data.circulations.find(
    (circulation): circulation is Extract<typeof circulation, { mine: true }> =>
      circulation.mine && circulation.id === data.inProgress?.circulation,
  );
  const coming = nextRevision(current?.revision ?? null);
  const change = data.changes.find((candidate) => candidate.state === 'inProgress');
  return (
    <>
      <PageHead
        above={data.number}
        title={data.title}
        below={
          current ? (
            <chakra.span color="quiet">
              {words.released(current.revision, times.day(current.effective), then(current.by, current.released))}
            </chakra.span>
          ) : (
            <chakra.span color="quiet">{words.notReleased}</chakra.span>
          )
        }
      >
        {data.may.describe && <SideButton onClick={() => setDescribing(!describing)}>{words.describe}</SideButton>}
        {current && (
          <SideButton onClick={() => window.open(`/file/record/${record}/${current.revision}`, '_blank', 'noopener')}>
            {words.read(current.revision)}
          </SideButton>
        )}
        {data.may.startChange && (
          <DueButton onClick={() => setStarting(true)}>{current ? words.start : words.startFirst}</DueButton>
        )}
        {live?.id && (
          <DueButton onClick={() => router.push(`/circulations/${live.id}`)}>{words.toCirculation}</DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '16px', md: '24px' }} pb="24px">
        <RecordFacts data={data} />
        {!data.complete && data.may.describe && !describing && (
          <Flex gap="12px" py="8px" color="copperText">
            {words.completeNow}
            <WordButton onClick={() => setDescribing(true)}>{words.describe}</WordButton>
          </Flex>
        )}
        {describing && <Describe data={data} onDone={() => setDescribing(false)} />}
        {starting && (
          <StartChange
            record={record}
            coming={coming}
            owner={data.owner}
            stands={data.may.startChange}
            onDone={() => setStarting(false)}
          />
        )}
        {data.inProgress && (
          <Box my="10px">
            <Leaf label={words.inProgress(data.inProgress.revision)}>
              <Flex gap="20px" align="center" flexWrap="wrap">
                <Box flex="1" minW="240px">
                  {words.change(
                    data.inProgress.revision,
                    data.inProgress.author && name(data.inProgress.author),
                    times.day(data.inProgress.since),
                  )}{' '}
                  <chakra.span color="quiet">{change?.reason}</chakra.span>
                </Box>
                {live?.line ? (
                  <TinyLine
                    model={lineFrom(live.line)}
                    tone={toneOf({ stops: live.stops ?? 0, nextDue: live.nextDue ?? null }, times.now())}
                    words={lineWords}
                  />
                ) : (
                  <Box color="quiet">{words.notYours}</Box>
                )}
              </Flex>
            </Leaf>
          </Box>
        )}
        <Grid templateColumns={{ base: '1fr', md: '1.7fr 1fr' }} gap="40px" mt="12px">
          <Revisions data={data} open={asked} />
          <RecordCirculations data={data} />
        </Grid>
      </Box>
    </>
  );
}
