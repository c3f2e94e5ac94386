'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter, useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { Doing } from '@/core/circulation/tasks';
import { lineFrom } from '@/core/line/compact';
import { daysBetween } from '@/core/time/zone';
import type { TaskRow } from '@/server/desk/view';
import { useAsk, useMe, usePages, usePeople, useTimes } from '../data/use';
import { useNews } from '../data/useNews';
import { TinyLine } from '../line/LineDrawing';
import { toneOf } from '../line/tone';
import { verbWords } from '../line/words';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Empty, Leaf, NewDot, PersonName, Quote, Tray } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { partWords } from '../parts/words';
import { Quick } from './Quick';
import { doWords, deskWords as words } from './words';

/** One row a document: what it needs of this person, the most urgent first, and what else. */
interface Row {
  readonly key: string;
  readonly task: TaskRow;
  readonly others: readonly TaskRow[];
}

/** Where a task is done: one step from the Desk. */
export function pathOf(task: Pick<TaskRow, 'doing' | 'circulation' | 'seat' | 'change'>): string {
  switch (task.doing) {
    case 'write':
    case 'rework':
      return `/draft/${task.change}`;
    case 'plan':
    case 'send':
      return `/circulations/${task.circulation}/plan`;
    case 'putFields':
      return `/circulations/${task.circulation}/fields`;
    case 'resolveStop':
      return `/circulations/${task.circulation}${task.seat ? `?seat=${task.seat}` : ''}`;
    case 'confirmRound':
      return `/circulations/${task.circulation}?ask=round`;
    case 'release':
      return `/circulations/${task.circulation}?ask=release`;
    default:
      return `/circulations/${task.circulation}/act/${task.seat}`;
  }
}

const urgency: readonly Doing[] = [
  'resolveStop',
  'sign',
  'approve',
  'review',
  'contribute',
  'confirmRound',
  'release',
  'putFields',
  'rework',
  'read',
  'send',
  'write',
  'plan',
];

export function Desk() {
  const tasks = usePages('desk.tasks', { filter: '' });
  const { data } = useAsk('desk.view');
  const times = useTimes();
  const { name } = usePeople();
  const router = useRouter();
  const quick = useSearchParams().has('send');
  const [trayOpen, setTrayOpen] = useState(false);
  const [dropped, setDropped] = useState<File | null>(null);
  const now = times.now();

  const news = useNews(
    tasks.rows
      ? new Map(tasks.rows.map((task) => [task.circulation, `${task.doing} ${task.seat} ${task.since}`]))
      : null,
  );
  const rows = useMemo(() => {
    const byDocument = new Map<string, TaskRow[]>();
    for (const task of tasks.rows ?? [])
      byDocument.set(task.circulation, [...(byDocument.get(task.circulation) ?? []), task]);
    return [...byDocument.values()].map((tasks): Row => {
      const [task, ...others] = tasks
        .slice()
        .sort(
          (a, b) =>
            (a.due ?? Number.MAX_SAFE_INTEGER) - (b.due ?? Number.MAX_SAFE_INTEGER) ||
            urgency.indexOf(a.doing) - urgency.indexOf(b.doing),
        ) as [TaskRow, ...TaskRow[]];
      const stop = tasks.find((candidate) => candidate.doing === 'resolveStop');
      return stop
        ? {
            key: stop.circulation,
            task: stop,
            others: tasks.filter((candidate) => candidate !== stop && candidate.doing !== 'resolveStop'),
          }
        : { key: task.circulation, task, others };
    });
  }, [tasks.rows]);

  const bucket = (row: Row): 'stopped' | 'late' | 'today' | 'week' | 'later' => {
    if (row.task.doing === 'resolveStop') return 'stopped';
    if (row.task.due === null) return 'later';
    if (row.task.due < now) return 'late';
    const days = daysBetween(times.zone, now, row.task.due);
    return days === 0 ? 'today' : days < 7 ? 'week' : 'later';
  };
  const groups = (['stopped', 'late', 'today', 'week', 'later'] as const).map((key) => ({
    key,
    title: words.groups[key],
    rows: rows.filter((row) => bucket(row) === key),
  }));
  // While there are more pages, the first one says how many there are.
  const all = tasks.hasMore ? tasks.first?.counts : null;
  const needed = all?.all ?? rows.length;
  const counts = (['stopped', 'late', 'today'] as const).flatMap((key) => {
    const n = all?.[key] ?? groups.find((group) => group.key === key)?.rows.length ?? 0;
    return n > 0 ? [`${n} ${words.counts[key]}`] : [];
  });

  const columns: Column<Row>[] = [
    {
      name: words.columns.do,
      width: '116px',
      cell: ({ task }) => <chakra.span fontWeight={600}>{doWords[task.doing]}</chakra.span>,
    },
    {
      name: words.columns.number,
      width: '104px',
      wide: true,
      cell: ({ task }) => <chakra.span color="quiet">{task.number}</chakra.span>,
    },
    {
      name: words.columns.document,
      width: 'minmax(0, 1fr)',
      cell: ({ task, others }) => (
        <>
          {news.has(task.circulation) && <NewDot />}
          <chakra.span fontWeight={news.has(task.circulation) ? 600 : 400}>{task.title}</chakra.span>
          {others.length > 0 && (
            <chakra.span color="quiet" ml="8px" fontSize="13px">
              {words.alsoDoing(others.map((other) => doWords[other.doing].toLowerCase()).join(', '))}
            </chakra.span>
          )}
        </>
      ),
    },
    {
      name: words.columns.where,
      width: '140px',
      wide: true,
      cell: ({ task }) => <TinyLine model={lineFrom(task.line)} tone={toneOf(task, now)} />,
    },
    {
      name: words.columns.concerns,
      width: '190px',
      wide: true,
      cell: ({ task }) => <PersonName id={task.about} />,
    },
    {
      name: words.columns.when,
      width: '170px',
      align: 'end',
      cell: ({ task }) =>
        task.due !== null ? (
          <chakra.span color={task.due < now ? 'copperText' : 'quiet'} fontWeight={task.due < now ? 600 : 400}>
            {words.due(times.moment(task.due))}
          </chakra.span>
        ) : (
          <chakra.span color="quiet">{words.since(times.day(task.since))}</chakra.span>
        ),
    },
  ];

  const waits = data?.waits ?? [];
  const longest = waits[0];
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
      <Flex px={{ base: '16px', md: '24px' }} pt="14px" pb="10px" align="center" gap="14px" flexWrap="wrap">
        <chakra.h1 fontSize="20px">{tasks.rows ? words.title(needed) : partWords.loading}</chakra.h1>
        <Box color="quiet">{counts.join(', ')}</Box>
        <Box flex="1" />
        {!quick && <SideButton onClick={() => router.replace('/desk?send')}>{words.send}</SideButton>}
      </Flex>
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
      <Box px={{ base: '16px', md: '24px' }}>
        <Fault error={tasks.error} />
        {(data?.incomplete ?? []).slice(0, 3).map((record) => (
          <Flex key={record.record} gap="10px" align="center" py="6px" fontSize="13.5px">
            <chakra.span color="quiet">{record.number}</chakra.span>
            <Box truncate>{record.title}</Box>
            <WordButton onClick={() => router.push(`/register/${record.record}`)}>{words.complete}</WordButton>
          </Flex>
        ))}
      </Box>
      {tasks.rows && (
        <Rows
          label={words.title(needed)}
          onEnd={tasks.more}
          columns={columns}
          groups={groups}
          keyOf={(row) => row.key}
          nameOf={({ task }) =>
            `${doWords[task.doing]}: ${task.number} ${task.title}${task.due !== null ? `, ${words.due(times.moment(task.due))}` : ''}`
          }
          leaf={(row) => <TaskLeaf row={row} />}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      )}
      <Tray
        label={words.waitsNone}
        open={trayOpen}
        onToggle={() => setTrayOpen(!trayOpen)}
        facts={
          <>
            <chakra.span fontWeight={600}>
              {waits.length > 0
                ? words.waits(waits.length, new Set(waits.map((wait) => wait.circulation)).size)
                : words.waitsNone}
            </chakra.span>
            {longest && (
              <chakra.span color="quiet" truncate>
                {words.longest(name(longest.person), Math.max(0, daysBetween(times.zone, longest.since, now)))}
              </chakra.span>
            )}
          </>
        }
      >
        {waits.length > 0 &&
          waits.map((wait) => (
            <Flex key={`${wait.circulation} ${wait.person} ${wait.doing}`} gap="16px" py="4px" align="center">
              <Box w="200px">
                <PersonName id={wait.person} />
              </Box>
              <Box w="110px">{doWords[wait.doing].toLowerCase()}</Box>
              <Box w="110px" color="quiet">
                {wait.number}
              </Box>
              <Box flex="1" truncate>
                {wait.title}
              </Box>
              <Box color={wait.due !== null && wait.due < now ? 'copperText' : 'quiet'}>
                {wait.due !== null ? words.due(times.moment(wait.due)) : words.since(times.day(wait.since))}
              </Box>
              <WordButton onClick={() => router.push(`/circulations/${wait.circulation}`)}>
                {words.openCirculation}
              </WordButton>
            </Flex>
          ))}
      </Tray>
    </Flex>
  );
}

function TaskLeaf({ row: { task, others } }: { readonly row: Row }) {
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
    <Leaf label={task.title} tone={task.doing === 'resolveStop' ? 'oxblood' : task.doing === 'sign' ? 'iris' : 'pine'}>
      <Flex gap="20px" align="flex-start" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
        <Box flex="1" minW="240px">
          <Box>
            {words.says[task.doing]} {data?.reason && <chakra.span color="quiet">{data.reason}</chakra.span>}
          </Box>
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
          <DueButton tone={task.doing === 'sign' ? 'iris' : 'pine'} onClick={() => router.push(pathOf(task))}>
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
