'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useMemo, useState } from 'react';
import { useAsk, useTimes } from '../data/use';
import { DueButton } from '../parts/buttons';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';

const words = {
  title: 'Post room',
  more: 'Every message of the demonstration, as its reader gets it. Nothing leaves this machine.',
  columns: { to: 'to', subject: 'message', from: 'from', date: 'when' },
  find: 'Filter by person or subject',
  empty: 'No message yet',
  emptyMore: 'What is sent to people stands here, inside and outside.',
};

interface Letter {
  readonly id: string;
  readonly to: string;
  readonly toAddress: string;
  readonly from: string;
  readonly subject: string;
  readonly date: number;
  readonly text: string;
  readonly link: string | null;
  readonly linkText: string | null;
}

/** The simulated post, readable in the browser. */
export function PostRoom() {
  const { data, error } = useAsk<Letter[]>('post.list');
  const times = useTimes();
  const [filter, setFilter] = useState('');
  const shown = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return (data ?? []).filter((letter) =>
      `${letter.to} ${letter.toAddress} ${letter.subject} ${letter.from}`.toLowerCase().includes(wanted),
    );
  }, [data, filter]);
  const columns: Column<Letter>[] = [
    { name: words.columns.to, width: '200px', cell: (letter) => letter.to },
    { name: words.columns.subject, width: 'minmax(0, 1fr)', cell: (letter) => letter.subject },
    {
      name: words.columns.from,
      width: '200px',
      wide: true,
      cell: (letter) => <chakra.span color="quiet">{letter.from}</chakra.span>,
    },
    {
      name: words.columns.date,
      width: '150px',
      align: 'end',
      wide: true,
      cell: (letter) => <chakra.span color="quiet">{times.moment(letter.date)}</chakra.span>,
    },
  ];
  return (
    <ListPage
      title={words.title}
      beside={words.more}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={error}
    >
      {data ? (
        <Rows
          label={words.title}
          columns={columns}
          groups={[{ title: null, rows: shown }]}
          keyOf={(letter) => letter.id}
          nameOf={(letter) => `${letter.to}: ${letter.subject}`}
          leaf={(letter) => (
            <Leaf label={letter.subject}>
              <Box color="quiet" fontSize="13px" mb="8px">
                {letter.to} &lt;{letter.toAddress}&gt;
              </Box>
              <Box whiteSpace="pre-wrap" maxW="640px" css={{ overflowWrap: 'anywhere' }}>
                {letter.link
                  ? letter.text.replace(`${letter.linkText}:\n${letter.link}`, '').replace(/\n{3,}/g, '\n\n')
                  : letter.text}
              </Box>
              {letter.link && (
                <Flex mt="12px">
                  <DueButton onClick={() => window.open(letter.link ?? '', '_blank', 'noopener')}>
                    {letter.linkText}
                  </DueButton>
                </Flex>
              )}
            </Leaf>
          )}
          empty={<Empty title={words.empty}>{words.emptyMore}</Empty>}
        />
      ) : null}
    </ListPage>
  );
}
