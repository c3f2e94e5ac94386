'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { useRouter } from '../data/ahead';
import { usePageKeys } from '../data/pageKeys';
import { useTimes } from '../data/use';
import { useLineWords } from '../line/LineParts';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Empty } from '../parts/parts';
import { Rows } from '../parts/Rows';
import { partWords } from '../parts/words';
import { look } from '../theme/look';
import { BackTo } from './BackTo';
import { deskColumns } from './columns';
import { FirstSteps } from './FirstSteps';
import { pathOf } from './paths';
import { Quick } from './Quick';
import { TaskLeaf } from './TaskLeaf';
import { useDesk } from './useDesk';
import { WaitingLeaf } from './WaitingLeaf';
import { Waits } from './Waits';
import { doWords, deskWords as words } from './words';

export function Desk() {
  const times = useTimes();
  const lineWords = useLineWords();
  const router = useRouter();
  const quick = useSearchParams().has('send');
  usePageKeys(words.keys);
  const [dropped, setDropped] = useState<File | null>(null);
  const { tasks, groups, counts, needed, news, waits, back, incomplete, steps } = useDesk();
  return (
    <Flex
      direction="column"
      flex="1"
      minH={0}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const file = event.dataTransfer.files[0];
        if (!file) return;
        setDropped(file);
        router.replace('/desk?send');
      }}
    >
      <div className={look('head')}>
        <h1 className={look('title')}>{tasks.rows ? words.title(needed) : words.desk}</h1>
        <div className={look('grow', 'quiet')}>{counts.join(', ')}</div>
        {groups.some((group) => group.key === 'others' && group.rows.length > 0) && (
          <SideButton onClick={() => router.push('/desk/late')}>{words.chase.open}</SideButton>
        )}
        {!quick && <SideButton onClick={() => router.replace('/desk?send')}>{words.send}</SideButton>}
      </div>
      {quick && (
        <Box px={{ base: '12px', md: '24px' }} pb="12px" flex="none" maxH="72vh" overflowY="auto">
          <Quick
            key={dropped?.name}
            dropped={dropped}
            onDone={() => {
              setDropped(null);
              router.replace('/desk');
            }}
          />
        </Box>
      )}
      <div className={look('margin')}>
        <Fault error={tasks.error} />
        <BackTo rows={back} />
        {incomplete.slice(0, 3).map((record) => (
          <Flex key={record.record} gap="10px" align="center" py="6px" fontSize="13.5px">
            <chakra.span color="quiet">{record.number}</chakra.span>
            <Box truncate>{record.title}</Box>
            <WordButton onClick={() => router.push(`/register/${record.record}`)}>{words.complete}</WordButton>
          </Flex>
        ))}
      </div>
      {steps && <FirstSteps steps={steps} />}
      {!tasks.rows && <div className={look('onItsWay')}>{tasks.error ? null : partWords.loading}</div>}
      {tasks.rows && steps && tasks.rows.length === 0 && <div className={look('grow')} />}
      {tasks.rows && !(steps && tasks.rows.length === 0) && (
        <Rows
          label={words.title(needed)}
          onEnd={tasks.more}
          onFollow={({ task }) => router.push(pathOf(task))}
          columns={deskColumns(times, news, lineWords)}
          groups={groups}
          keyOf={(row) => row.key}
          nameOf={({ task }) =>
            `${doWords[task.doing]}: ${task.number} ${task.title}${task.due !== null ? `, ${words.due(times.moment(task.due))}` : ''}`
          }
          leaf={(row) => (row.waits ? <WaitingLeaf task={row.task} /> : <TaskLeaf row={row} />)}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      )}
      {/* While anything is still on its way, nothing is claimed. */}
      <Waits waits={tasks.rows ? waits : null} />
    </Flex>
  );
}
