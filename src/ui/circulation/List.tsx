'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { Phase } from '@/core/circulation/state';
import type { LineModel } from '@/core/line/line';
import type { CirculationView } from '@/server/circulation/view';
import { useAsk, useMe, usePeople, useTimes } from '../data/use';
import { TinyLine } from '../line/LineDrawing';
import { toneOf } from '../line/tone';
import { Answered } from '../parts/Answered';
import { WordButton } from '../parts/buttons';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf, PersonName } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { DueAction, Now, Troubles } from './Actions';
import { SeatState } from './seatColumns';
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
          leaf={(row) => (
            <Leaf label={row.title} tone={row.stops > 0 ? 'oxblood' : 'pine'}>
              <Answered<CirculationView> name="circulation.view" input={{ circulation: row.id }}>
                {(view) => <RowLeaf view={view} />}
              </Answered>
            </Leaf>
          )}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      ) : null}
    </ListPage>
  );
}

/** A row opened: how it stands, whom it waits for, and the act that helps most now. */
function RowLeaf({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const steers = me?.me.id === view.controller;
  const page = `/circulations/${view.id}`;
  const stopped = new Set(view.stops.flatMap((stop) => (stop.kind === 'stuck' ? [] : [stop.seat])));
  const open = view.seats.filter((seat) => seat.status === 'asked' || stopped.has(seat.id));
  return (
    <Flex align="flex-start" gap="20px" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
      <Box flex="1" minW="240px">
        <Now view={view} steers={steers} />
        {steers && <Troubles view={view} />}
        {open.slice(0, 5).map((seat) => (
          <Flex key={seat.id} columnGap="14px" mt="4px" align="center" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
            <Box w="200px" flex="none">
              <PersonName id={seat.holder} />
            </Box>
            <Box minW={0}>
              <SeatState seat={seat} now={times.now()} moment={times.moment} />
              {(seat.due ?? seat.since) !== null && (
                <chakra.span color="quiet">
                  {' · '}
                  {seat.due !== null
                    ? words.dueAt(times.moment(seat.due))
                    : words.askedAt(times.moment(seat.since ?? 0))}
                </chakra.span>
              )}
            </Box>
          </Flex>
        ))}
        {open.length > 5 && (
          <Box mt="4px" color="quiet">
            {words.moreAsked(open.length - 5)}
          </Box>
        )}
        <Box color="quiet" fontSize="13px" mt="8px">
          {[
            phaseWords[view.phase],
            view.revision ? words.revision(view.revision) : '',
            view.newest !== null ? words.version(view.newest) : '',
            words.round(view.round),
            words.draftOf(name(view.author)),
          ]
            .filter(Boolean)
            .join(' · ')}
        </Box>
      </Box>
      <Flex direction="column" gap="8px" align="flex-end">
        <DueAction
          view={view}
          onOpen={(seat) => router.push(`${page}?seat=${seat}`)}
          onAsk={(what) => router.push(`${page}?ask=${what}`)}
        />
        <WordButton onClick={() => router.push(page)}>{words.open}</WordButton>
      </Flex>
    </Flex>
  );
}
