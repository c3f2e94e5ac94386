'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { RegisterRow } from '@/server/register/act';
import { useRouter } from '../data/ahead';
import { useAsk, usePages, useTimes } from '../data/use';
import { useSettled } from '../data/useSettled';
import { DueButton, SideButton } from '../parts/buttons';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf, PersonName } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { look } from '../theme/look';
import { registerWords as words } from './words';

/** Every document by number: what is current, and that something is in progress. */
export function RegisterList() {
  const [filter, setFilter] = useState('');
  const list = usePages('register.list', { filter: useSettled(filter) });
  const { data: kinds } = useAsk('register.types');
  const times = useTimes();
  const router = useRouter();
  const typeName = (code: string) => kinds?.find((kind) => kind.code === code)?.name ?? code;
  const columns: Column<RegisterRow>[] = [
    {
      name: words.columns.number,
      width: '112px',
      wide: true,
      cell: (row) => <span className={look('quiet')}>{row.number}</span>,
    },
    {
      name: words.columns.title,
      width: 'minmax(0, 1fr)',
      cell: (row) => (
        <>
          {row.title}
          <div className={look('phoneOnly', 'cut', 'small', 'quiet')}>{row.number}</div>
        </>
      ),
    },
    {
      name: words.columns.kind,
      width: '140px',
      wide: true,
      cell: (row) => <span className={look('quiet')}>{typeName(row.documentType)}</span>,
    },
    { name: words.columns.owner, width: '180px', wide: true, cell: (row) => <PersonName id={row.owner} /> },
    {
      name: words.columns.revision,
      width: '70px',
      align: 'end',
      cell: (row) => <span className={look('strong')}>{row.revision ?? words.none}</span>,
    },
    {
      name: words.columns.effective,
      width: '120px',
      wide: true,
      align: 'end',
      cell: (row) => (
        <span className={look('quiet')}>{row.effective !== null ? times.day(row.effective) : words.none}</span>
      ),
    },
    {
      name: words.columns.work,
      width: '150px',
      wide: true,
      align: 'end',
      cell: (row) => (row.coming ? <span className={look('quiet')}>{words.inProgress(row.coming)}</span> : null),
    },
  ];
  return (
    <ListPage
      title={words.title}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={list.error}
      action={<SideButton onClick={() => router.push('/register/new')}>{words.create}</SideButton>}
    >
      {list.rows ? (
        <Rows
          label={words.title}
          columns={columns}
          groups={[{ title: null, rows: list.rows }]}
          onEnd={list.more}
          keyOf={(row) => row.record}
          nameOf={(row) => `${row.number} ${row.title}, ${row.revision ?? words.notReleased}`}
          leaf={(row) => (
            <Leaf label={row.title}>
              <Flex gap="16px" align="center" flexWrap="wrap">
                <Box flex="1" color="quiet">
                  {[
                    row.revision ? `${words.columns.revision} ${row.revision}` : words.notReleased,
                    row.coming ? words.inProgress(row.coming) : '',
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </Box>
                <SideButton onClick={() => router.push(`/register/${row.record}`)}>{words.open}</SideButton>
                {row.revision && (
                  <DueButton
                    onClick={() => window.open(`/file/record/${row.record}/${row.revision}`, '_blank', 'noopener')}
                  >
                    {words.read(row.revision)}
                  </DueButton>
                )}
              </Flex>
            </Leaf>
          )}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      ) : null}
    </ListPage>
  );
}
