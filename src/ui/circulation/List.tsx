'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { lineFrom } from '@/core/line/compact';
import { isLate, pressBounds, pressOf } from '@/core/time/press';
import { daysBetween } from '@/core/time/zone';
import type { CirculationOrder, CirculationRow } from '@/server/circulation/list';
import type { CirculationView } from '@/server/circulation/view';
import { useRouter } from '../data/ahead';
import { type ListFilter, noFilter } from '../data/noFilter';
import { usePeople } from '../data/people';
import { type Times, useMe, usePages, useTimes } from '../data/use';
import { useSettled } from '../data/useSettled';
import { useLineWords } from '../line/LineParts';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { Answered } from '../parts/Answered';
import { SideButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf, PersonName } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import type { Group } from '../parts/useRows';
import { look } from '../theme/look';
import { DueAction, Now, Troubles } from './Actions';
import { ListFilters } from './ListFilters';
import { ManyActs } from './ManyActs';
import { SeatPerson } from './SeatPerson';
import { SeatState } from './seatColumns';
import { phaseWords, circulationWords as words } from './words';

const states = ['live', 'ended', 'all'] as const;

/** All circulations one may see, grouped by what they need. */
export function CirculationList() {
  // The find box leads here with the filter already set.
  const asked = useSearchParams().get('find') ?? '';
  const [filter, setFilter] = useState<ListFilter>({ ...noFilter, filter: asked });
  useEffect(() => setFilter((now) => ({ ...now, filter: asked })), [asked]);
  const [narrowing, setNarrowing] = useState(false);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  // By what they need, until a column's head is pressed; pressed again, by what they need.
  const [order, setOrder] = useState<CirculationOrder>('need');
  const list = usePages('circulation.list', { ...filter, order, filter: useSettled(filter.filter) });
  const router = useRouter();
  const times = useTimes();
  const lineWords = useLineWords();
  const { name } = usePeople();
  const me = useMe().data?.me.id ?? null;
  const now = times.now();
  const bounds = pressBounds(times.zone, now);
  // The list comes in this order, so that what is loaded later never stands before what is there.
  const groupOf = (row: CirculationRow): keyof typeof words.groups => {
    if (row.stops > 0) return 'stopped';
    if (row.ended !== null) return 'ended';
    const press = pressOf(row.nextDue, bounds);
    return press === 'late' || press === 'today' ? press : 'underWay';
  };
  const all = list.rows ?? [];
  const steerable = all.filter((row) => row.controller === me && row.ended === null);
  const chosen = all.filter((row) => selected.has(row.id));
  const acting = chosen.length > 0;
  // A column that says the same in every row says nothing.
  const oneController = new Set(all.map((row) => row.controller)).size < 2;
  const byNeed = (['stopped', 'late', 'today', 'underWay', 'ended'] as const).map((key) => {
    const rows = all.filter((row) => groupOf(row) === key);
    const count = list.hasMore ? undefined : rows.length;
    return {
      title: rows.length > 0 ? [words.groups[key], count].filter(Boolean).join('  ') : null,
      tone: key === 'stopped' ? ('oxblood' as const) : key === 'late' ? ('copperText' as const) : undefined,
      rows,
    };
  });
  const groups: Group<CirculationRow>[] = order === 'need' ? byNeed : [{ title: null, rows: all }];
  const columns: Column<CirculationRow>[] = [
    {
      name: words.columns.number,
      order: 'number',
      width: '62px',
      wide: true,
      cell: (row) => <span className={look('quiet')}>{row.number}</span>,
    },
    {
      name: words.columns.title,
      order: 'title',
      width: 'minmax(0, 1fr)',
      cell: (row) => (
        <>
          <div className={look('titleLine')}>
            <span className={look('documentNumber')}>{row.document}</span>
            <span className={look('cut')}>{row.title}</span>
            {/* What is said beside a title is never cut off for it. */}
            {row.phase !== 'running' && <Beside>{phaseWords[row.phase]}</Beside>}
            {(row.note !== '' || row.back !== null) && (
              <Beside title={row.note}>{row.back === null ? words.noted : words.backOn(times.day(row.back))}</Beside>
            )}
          </div>
          <div className={look('phoneOnly', 'cut', 'small', isLate(row.nextDue, now) ? 'troubled' : 'quiet')}>
            {[
              row.holders[0] && name(row.holders[0]),
              isLate(row.nextDue, now) && words.lateBy(daysBetween(times.zone, row.nextDue, now)),
            ]
              .filter(Boolean)
              .join(', ')}
          </div>
        </>
      ),
    },
    {
      name: words.columns.where,
      width: '140px',
      cell: (row) => <TinyLine model={lineFrom(row.line)} tone={toneOf(row, now)} words={lineWords} />,
    },
    {
      name: words.columns.seats,
      width: '84px',
      wide: true,
      align: 'end',
      cell: (row) => <span className={look('quiet')}>{words.decided(row.decided, row.seats)}</span>,
    },
    {
      name: words.columns.with,
      order: 'with',
      width: '190px',
      wide: true,
      cell: (row) => <With people={row.holders} />,
    },
    {
      name: words.columns.due,
      order: 'due',
      width: '150px',
      wide: true,
      cell: (row) => <Due row={row} times={times} />,
    },
    ...(oneController
      ? []
      : [
          {
            name: words.columns.controller,
            width: '170px',
            wide: true,
            cell: (row: CirculationRow) => <PersonName id={row.controller} />,
          },
        ]),
    {
      name: words.columns.moved,
      order: 'activity',
      width: '120px',
      align: 'end',
      wide: true,
      cell: (row) => <span className={look('quiet')}>{times.moment(row.last)}</span>,
    },
  ];
  return (
    <ListPage
      title={words.listTitle}
      find={words.find}
      filter={filter.filter}
      onFilter={(text) => setFilter({ ...filter, filter: text })}
      error={list.error}
      action={
        <>
          <SideButton onClick={() => router.push('/circulations/load')}>{words.load}</SideButton>
          <SideButton aria-expanded={narrowing} onClick={() => setNarrowing(!narrowing)}>
            {words.filters}
          </SideButton>
        </>
      }
      form={
        narrowing || acting ? (
          <>
            {narrowing && <ListFilters value={filter} onValue={setFilter} />}
            {acting && (
              <Box mt={narrowing ? '12px' : 0}>
                <ManyActs rows={chosen} all={steerable} onKeys={setSelected} />
              </Box>
            )}
          </>
        ) : null
      }
      beside={
        <ChoiceRow
          label={words.stateLabel}
          choices={states.map((key) => ({ key, name: words.states[key] }))}
          chosen={filter.state}
          onChoose={(state) => setFilter({ ...filter, state })}
        />
      }
    >
      {list.rows ? (
        <Rows
          label={words.listTitle}
          columns={columns}
          groups={groups}
          keyOf={(row) => row.id}
          onEnd={list.more}
          {...(steerable.length > 0
            ? {
                selection: {
                  keys: selected,
                  onKeys: setSelected,
                  may: (row: CirculationRow) => steerable.includes(row),
                },
              }
            : {})}
          order={order}
          onOrder={(next) => setOrder(next === order ? 'need' : (next as CirculationOrder))}
          nameOf={(row) => `${row.number}: ${row.document} ${row.title}, ${phaseWords[row.phase]}`}
          leaf={(row) => (
            <Leaf label={row.title} tone={row.stops > 0 ? 'oxblood' : 'pine'}>
              <Answered name="circulation.view" input={{ circulation: row.id }}>
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

/** What is said in a word beside a title; a phone has no room for it. */
function Beside({ title, children }: { readonly title?: string; readonly children: string }) {
  return (
    <span className={look('beside')} title={title || undefined}>
      {children}
    </span>
  );
}

/** Whom a circulation waits for: the first by name, the others counted. */
function With({ people }: { readonly people: readonly string[] }) {
  const [first, ...more] = people;
  if (first === undefined) return <span className={look('quiet')}>{words.none}</span>;
  return <PersonName id={first} {...(more.length > 0 ? { quiet: words.andMore(more.length) } : {})} />;
}

/** When the next response is due, and by how much it is late. */
function Due({ row, times }: { readonly row: CirculationRow; readonly times: Times }) {
  const now = times.now();
  if (row.nextDue === null) return <span className={look('quiet')}>{words.none}</span>;
  if (!isLate(row.nextDue, now)) return <span className={look('quiet')}>{times.moment(row.nextDue)}</span>;
  return <span className={look('late')}>{words.lateBy(daysBetween(times.zone, row.nextDue, now))}</span>;
}

/** A row opened: how it stands, whom it waits for, and the act that helps most now. */
function RowLeaf({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { name } = usePeople();
  const times = useTimes();
  const page = `/circulations/${view.id}`;
  const stopped = new Set(view.stops.flatMap((stop) => ('seat' in stop ? [stop.seat] : [])));
  const open = view.seats.filter((seat) => seat.status === 'asked' || stopped.has(seat.id));
  return (
    <Flex align="flex-start" gap="20px" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
      <Box flex="1" minW="240px">
        <Now view={view} />
        {view.steers && <Troubles view={view} />}
        {open.slice(0, 5).map((seat) => (
          <Flex key={seat.id} columnGap="14px" mt="4px" align="center" flexWrap={{ base: 'wrap', md: 'nowrap' }}>
            <Box w="200px" flex="none">
              <SeatPerson view={view} seat={seat} />
            </Box>
            <Box minW={0}>
              <SeatState seat={seat} paused={view.paused !== null} now={times.now()} moment={times.moment} />
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
