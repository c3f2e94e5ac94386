'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { Phase } from '@/core/circulation/state';
import type { LineModel } from '@/core/route/line';
import { useAsk, usePeople, useTimes } from '../data/use';

import { TinyLine } from '../line/LineDrawing';
import { toneOf } from '../line/tone';
import { ListPage } from '../parts/ListPage';
import { DueButton, Empty, PersonName, Slip } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { phaseWords, circulationWords as words } from './words';

interface Row {
  readonly id: string;
  readonly number: string;
  readonly document: string;
  readonly title: string;
  readonly revision: string | null;
  readonly phase: Phase;
  readonly round: number;
  readonly version: number;
  readonly stops: number;
  readonly seats: number;
  readonly decided: number;
  readonly nextDue: number | null;
  readonly last: number;
  readonly line: LineModel;
  readonly controller: string;
  readonly author: string;
}

const order = ['stopped', 'late', 'rework', 'sealing', 'running', 'new', 'completed', 'withdrawn'] as const;

/** All circulations one may see, grouped by what they need. */
export function CirculationList() {
  const [state, setState] = useState<'live' | 'ended' | 'all'>('live');
  const [filter, setFilter] = useState('');
  const { data, error } = useAsk<Row[]>('circulation.list', { state });
  const times = useTimes();
  const { name } = usePeople();
  const router = useRouter();
  const now = times.now();
  const groupOf = (row: Row): (typeof order)[number] =>
    row.stops > 0
      ? 'stopped'
      : row.phase === 'running' && row.nextDue !== null && row.nextDue < now
        ? 'late'
        : row.phase;
  const shown = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return (data ?? []).filter(
      (row) =>
        !wanted ||
        `${row.number} ${row.document} ${row.title} ${name(row.controller)} ${name(row.author)}`
          .toLowerCase()
          .includes(wanted),
    );
  }, [data, filter, name]);
  const groups = order.map((key) => {
    const rows = shown.filter((row) => groupOf(row) === key);
    return { title: rows.length > 0 ? `${words.groups[key]}  ${rows.length}` : null, rows };
  });
  const columns: Column<Row>[] = [
    {
      name: words.columns.number,
      width: '62px',
      wide: true,
      cell: (row) => <chakra.span color="quiet">{row.number}</chakra.span>,
    },
    {
      name: words.columns.document,
      width: '104px',
      cell: (row) => <chakra.span color="quiet">{row.document}</chakra.span>,
    },
    { name: words.columns.title, width: 'minmax(0, 1fr)', cell: (row) => row.title },
    {
      name: words.columns.where,
      width: '140px',
      wide: true,
      cell: (row) => <TinyLine model={row.line} tone={toneOf(row, now)} />,
    },
    {
      name: words.columns.seats,
      width: '72px',
      wide: true,
      align: 'end',
      cell: (row) => <chakra.span color="quiet">{words.decided(row.decided, row.seats)}</chakra.span>,
    },
    { name: words.columns.controller, width: '180px', wide: true, cell: (row) => <PersonName id={row.controller} /> },
    {
      name: words.columns.moved,
      width: '130px',
      align: 'end',
      cell: (row) => <chakra.span color="quiet">{times.moment(row.last)}</chakra.span>,
    },
  ];
  return (
    <ListPage
      title={words.listTitle}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={error}
      beside={
        <Flex role="group" aria-label={words.stateLabel} gap="14px">
          {(['live', 'ended', 'all'] as const).map((key) => (
            <chakra.button
              key={key}
              type="button"
              minH="28px"
              cursor="pointer"
              aria-pressed={state === key}
              color={state === key ? 'ink' : 'quiet'}
              fontWeight={state === key ? 600 : 400}
              borderBottom="2px solid"
              borderColor={state === key ? 'pine' : 'transparent'}
              onClick={() => setState(key)}
            >
              {words.states[key]}
            </chakra.button>
          ))}
        </Flex>
      }
    >
      {data ? (
        <Rows
          label={words.listTitle}
          columns={columns}
          groups={groups}
          keyOf={(row) => row.id}
          nameOf={(row) => `${row.number}: ${row.document} ${row.title}, ${phaseWords[row.phase]}`}
          slip={(row) => (
            <Slip label={row.title} tone={row.stops > 0 ? 'oxblood' : 'pine'}>
              <Flex align="center" gap="20px">
                <Box flex="1" color="quiet">
                  {[
                    phaseWords[row.phase],
                    row.revision ? words.revision(row.revision) : '',
                    row.version > 0 ? words.version(row.version) : '',
                    words.round(row.round),
                    words.draftOf(name(row.author)),
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </Box>
                <DueButton onClick={() => router.push(`/circulations/${row.id}`)}>{words.open}</DueButton>
              </Flex>
            </Slip>
          )}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      ) : null}
    </ListPage>
  );
}
