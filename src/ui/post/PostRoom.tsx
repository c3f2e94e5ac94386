'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { WholeMail } from '@/simulators/post/postbox';
import { usePages, useTimes } from '../data/use';
import { useSettled } from '../data/useSettled';
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

/** The simulated post, readable in the browser. */
export function PostRoom() {
  const [filter, setFilter] = useState('');
  const list = usePages('post.list', { filter: useSettled(filter) });
  const times = useTimes();
  const columns: Column<WholeMail>[] = [
    { name: words.columns.to, width: '200px', cell: (mail) => mail.to },
    { name: words.columns.subject, width: 'minmax(0, 1fr)', cell: (mail) => mail.subject },
    {
      name: words.columns.from,
      width: '200px',
      wide: true,
      cell: (mail) => <chakra.span color="quiet">{mail.from}</chakra.span>,
    },
    {
      name: words.columns.date,
      width: '150px',
      align: 'end',
      wide: true,
      cell: (mail) => <chakra.span color="quiet">{times.moment(mail.date)}</chakra.span>,
    },
  ];
  return (
    <ListPage
      title={words.title}
      beside={words.more}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={list.error}
    >
      {list.rows ? (
        <Rows
          label={words.title}
          columns={columns}
          groups={[{ title: null, rows: list.rows }]}
          onEnd={list.more}
          keyOf={(mail) => mail.id}
          nameOf={(mail) => `${mail.to}: ${mail.subject}`}
          leaf={(mail) => (
            <Leaf label={mail.subject}>
              <Box color="quiet" fontSize="13px" mb="8px">
                {mail.to} &lt;{mail.toAddress}&gt;
              </Box>
              <Box whiteSpace="pre-wrap" maxW="640px" css={{ overflowWrap: 'anywhere' }}>
                {mail.link
                  ? mail.text.replace(`${mail.linkText}:\n${mail.link}`, '').replace(/\n{3,}/g, '\n\n')
                  : mail.text}
              </Box>
              {mail.link && (
                <Flex mt="12px">
                  <DueButton onClick={() => window.open(mail.link ?? '', '_blank', 'noopener')}>
                    {mail.linkText}
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
