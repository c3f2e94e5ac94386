'use client';

import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { Person } from '@/server/admin/people';
import { useMe, usePages } from '../data/use';
import { useSettled } from '../data/useSettled';
import { DueButton } from '../parts/buttons';
import { ListPage } from '../parts/ListPage';
import { Empty } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { Tile } from '../parts/Tile';
import { look } from '../theme/look';
import { AddPerson } from './AddPerson';
import { PersonLeaf } from './PersonLeaf';
import { adminWords } from './words';

const words = adminWords.people;

/** Members and outside people. An administrator adds a person, who gets an invitation; others only look. */
export function PeoplePage() {
  // The find box leads here with a name; another name begins anew.
  const find = useSearchParams().get('find') ?? '';
  return <People key={find} find={find} />;
}

function People({ find }: { readonly find: string }) {
  const { data: me } = useMe();
  // First steps lead here to add somebody.
  const [adding, setAdding] = useState(useSearchParams().has('add'));
  const [filter, setFilter] = useState(find);
  const administers = me?.mayManagePeople ?? false;
  const list = usePages('people.list', { filter: useSettled(filter) });
  const counts = list.first?.counts;
  const columns: Column<Person>[] = [
    {
      name: words.columns.name,
      width: 'minmax(0, 1fr)',
      cell: (person) => (
        <span className={look('person')}>
          <Tile person={person.id} letters={person.tile} size={24} />
          <span className={look('cut')}>{person.name}</span>
        </span>
      ),
    },
    {
      name: words.columns.work,
      width: 'minmax(0, 1fr)',
      wide: true,
      cell: (person) => (
        <span className={look('quiet')}>{[person.work, person.company].filter(Boolean).join(', ') || words.none}</span>
      ),
    },
    {
      name: words.columns.email,
      width: 'minmax(0, 1fr)',
      wide: true,
      cell: (person) => <span className={look('quiet')}>{person.email}</span>,
    },
    {
      name: words.columns.roles,
      width: '170px',
      wide: true,
      cell: (person) => (
        <span className={look('quiet')}>{person.roles.map((role) => words.roles[role]).join(', ') || words.none}</span>
      ),
    },
    {
      name: words.columns.state,
      width: '110px',
      align: 'end',
      cell: (person) => (
        <span className={look(person.unreached ? 'troubled' : 'quiet')}>
          {person.unreached ? words.unreached : words.states[person.state]}
        </span>
      ),
    },
  ];
  return (
    <ListPage
      title={words.title}
      beside={administers ? '' : words.readOnly}
      find={words.find}
      filter={filter}
      onFilter={setFilter}
      error={list.error}
      action={administers && !adding && <DueButton onClick={() => setAdding(true)}>{words.add}</DueButton>}
      form={adding && me && <AddPerson me={me} onDone={() => setAdding(false)} />}
    >
      {list.rows && (
        <Rows
          label={words.title}
          columns={columns}
          groups={[
            { title: words.inside(counts?.members ?? 0), rows: list.rows.filter((person) => person.kind === 'member') },
            {
              title: words.outside(counts?.outside ?? 0),
              rows: list.rows.filter((person) => person.kind === 'outside'),
            },
          ]}
          onEnd={list.more}
          keyOf={(person) => person.id}
          nameOf={(person) => `${person.name}, ${words.states[person.state]}`}
          leaf={(person) => <PersonLeaf person={person} administers={administers} self={person.id === me?.me.id} />}
          empty={<Empty title={words.empty} />}
        />
      )}
    </ListPage>
  );
}
