'use client';

import { chakra } from '@chakra-ui/react';
import { lineFrom } from '@/core/line/compact';
import type { Times } from '../data/use';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { NewDot, PersonName } from '../parts/parts';
import type { Column } from '../parts/Rows';
import type { Row } from './useDesk';
import { doWords, deskWords as words } from './words';

/** The columns of the Desk; documents among `news` are marked as new. */
export function deskColumns(times: Times, news: ReadonlySet<string>): Column<Row>[] {
  const now = times.now();
  return [
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
      cell: ({ task, others, covers }) => (
        <>
          {news.has(task.circulation) && <NewDot />}
          <chakra.span fontWeight={news.has(task.circulation) ? 600 : 400}>{task.title}</chakra.span>
          {covers && (
            <chakra.span color="quiet" ml="8px" fontSize="13px">
              {words.covered}
            </chakra.span>
          )}
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
      cell: ({ task, waits, covers }) => <PersonName id={waits || covers ? task.person : task.about} />,
    },
    {
      name: words.columns.when,
      width: '170px',
      align: 'end',
      cell: ({ task }) =>
        task.notBefore !== null && task.notBefore > now ? (
          <chakra.span color="quiet">{words.from(times.moment(task.notBefore))}</chakra.span>
        ) : task.due !== null ? (
          <chakra.span color={task.due < now ? 'copperText' : 'quiet'} fontWeight={task.due < now ? 600 : 400}>
            {words.due(times.moment(task.due))}
          </chakra.span>
        ) : (
          <chakra.span color="quiet">{words.since(times.day(task.since))}</chakra.span>
        ),
    },
  ];
}
