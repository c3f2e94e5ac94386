'use client';

import { chakra } from '@chakra-ui/react';
import { useState } from 'react';
import { numberOf } from '@/core/record/numbering';
import type { DocumentType } from '@/server/admin/documentTypes';
import { useAsk, useMe } from '../data/use';
import { DueButton } from '../parts/buttons';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { TypeForm } from './TypeForm';
import { adminWords } from './words';

const words = adminWords.types;

const columns: Column<DocumentType>[] = [
  { name: words.name, width: 'minmax(0, 1fr)', cell: (type) => type.name },
  { name: words.code, width: '110px', cell: (type) => <chakra.span color="quiet">{type.code}</chakra.span> },
  {
    name: words.numbered,
    width: 'minmax(0, 1fr)',
    wide: true,
    cell: (type) => <chakra.span color="quiet">{numberOf(type.scheme, 1)}</chakra.span>,
  },
  {
    name: words.use,
    width: '220px',
    wide: true,
    align: 'end',
    cell: (type) => <chakra.span color="quiet">{type.usual ? words.usual : ''}</chakra.span>,
  },
];

/** The document types of the organization: their names, how they are numbered, and which are offered. */
export function TypesPage() {
  const { data: me } = useMe();
  const { data: types, error } = useAsk('register.types');
  const [adding, setAdding] = useState(false);
  const [filter, setFilter] = useState('');
  const administers = me?.mayManagePeople ?? false;
  const found = types?.filter((type) =>
    `${type.code} ${type.name} ${type.scheme}`.toLowerCase().includes(filter.trim().toLowerCase()),
  );
  return (
    <ListPage
      title={words.title}
      beside={administers ? '' : words.readOnly}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={error}
      action={administers && !adding && <DueButton onClick={() => setAdding(true)}>{words.add}</DueButton>}
      form={
        adding && (
          <TypeForm
            type={null}
            prefix={types?.[0]?.scheme.split('-')[0] ?? ''}
            label={words.add}
            onDone={() => setAdding(false)}
          />
        )
      }
    >
      {found && (
        <Rows
          label={words.title}
          columns={columns}
          groups={[
            { title: words.offered, rows: found.filter((type) => type.active) },
            { title: words.off, rows: found.filter((type) => !type.active) },
          ]}
          keyOf={(type) => type.code}
          nameOf={(type) => `${type.name}, ${words.states(type.active)}`}
          leaf={(type) =>
            administers ? (
              <TypeForm key={JSON.stringify(type)} type={type} prefix="" label={type.name} onDone={null} />
            ) : (
              <Leaf label={type.name}>{words.example(numberOf(type.scheme, 1))}</Leaf>
            )
          }
          empty={<Empty title={words.empty} />}
        />
      )}
    </ListPage>
  );
}
