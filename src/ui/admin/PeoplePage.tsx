'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { Role } from '@/core/access/may';
import type { Person } from '@/server/admin/people';
import { useMe, usePages, useTell } from '../data/use';
import { useSettled } from '../data/useSettled';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, FormField, TextInput, Tick } from '../parts/form';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { Tile } from '../parts/Tile';
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
  const [adding, setAdding] = useState(false);
  const [filter, setFilter] = useState(find);
  const administers = me?.mayManagePeople ?? false;
  const list = usePages('people.list', { filter: useSettled(filter) });
  const counts = list.first?.counts;
  const columns: Column<Person>[] = [
    {
      name: words.columns.name,
      width: 'minmax(0, 1fr)',
      cell: (person) => (
        <Flex align="center" gap="8px" minW={0}>
          <Tile person={person.id} letters={person.tile} size={24} />
          <Box truncate>{person.name}</Box>
        </Flex>
      ),
    },
    {
      name: words.columns.work,
      width: 'minmax(0, 1fr)',
      wide: true,
      cell: (person) => (
        <chakra.span color="quiet">
          {[person.work, person.company].filter(Boolean).join(', ') || words.none}
        </chakra.span>
      ),
    },
    {
      name: words.columns.email,
      width: 'minmax(0, 1fr)',
      wide: true,
      cell: (person) => <chakra.span color="quiet">{person.email}</chakra.span>,
    },
    {
      name: words.columns.roles,
      width: '170px',
      wide: true,
      cell: (person) => (
        <chakra.span color="quiet">
          {person.roles.map((role) => words.roles[role]).join(', ') || words.none}
        </chakra.span>
      ),
    },
    {
      name: words.columns.state,
      width: '110px',
      align: 'end',
      cell: (person) => (
        <chakra.span color={person.unreached ? 'copperText' : 'quiet'}>
          {person.unreached ? words.unreached : words.states[person.state]}
        </chakra.span>
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
      form={adding && <AddPerson onDone={() => setAdding(false)} />}
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
          leaf={(person) => <PersonLeaf person={person} administers={administers && person.id !== me?.me.id} />}
          empty={<Empty title={words.empty} />}
        />
      )}
    </ListPage>
  );
}

function PersonLeaf({ person, administers }: { readonly person: Person; readonly administers: boolean }) {
  const router = useRouter();
  const again = useTell('people.inviteAgain');
  const leave = useTell('people.leave');
  return (
    <Leaf label={person.name}>
      <Flex gap="16px" align="center" flexWrap="wrap">
        <Box flex="1" minW="220px">
          <Box>{[person.work, person.company].filter(Boolean).join(', ')}</Box>
          <Box color="quiet">
            {person.email} · {person.zone}
          </Box>
          {person.unreached && <Box color="copperText">{words.unreachedMore}</Box>}
        </Box>
        {administers && person.kind === 'member' && (
          <>
            {person.state === 'invited' && (
              <SideButton busy={again.isPending} onClick={() => again.mutate({ person: person.id })}>
                {again.isSuccess ? words.sent : words.again}
              </SideButton>
            )}
            {person.state === 'left' && (
              <SideButton onClick={() => leave.mutate({ person: person.id, left: false })}>{words.back}</SideButton>
            )}
          </>
        )}
        <SideButton onClick={() => router.push(`/people/${person.id}`)}>{words.open}</SideButton>
      </Flex>
      <Fault error={again.error ?? leave.error} />
    </Leaf>
  );
}

function AddPerson({ onDone }: { readonly onDone: () => void }) {
  const { data: me } = useMe();
  const [input, setInput] = useState({ name: '', email: '', work: '' });
  const [roles, setRoles] = useState<readonly Role[]>([]);
  const add = useTell('people.add', { after: onDone });
  const zone = me?.organization.zone ?? 'UTC';
  return (
    <Leaf label={words.add}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate({ ...input, zone, roles });
        }}
      >
        <Flex gap="16px" flexWrap="wrap">
          {(['name', 'email', 'work'] as const).map((key) => (
            <Box key={key} flex="1" minW="200px">
              <FormField label={words[key]}>
                {(props) => (
                  <TextInput
                    {...props}
                    type={key === 'email' ? 'email' : 'text'}
                    required={key !== 'work'}
                    maxLength={key === 'email' ? 254 : 120}
                    autoFocus={key === 'name'}
                    value={input[key]}
                    onChange={(event) => setInput({ ...input, [key]: event.target.value })}
                  />
                )}
              </FormField>
            </Box>
          ))}
        </Flex>
        <Flex gap="20px" flexWrap="wrap" align="center">
          {(['controller', 'administrator'] as const).map((role) => (
            <Tick
              key={role}
              checked={roles.includes(role)}
              onChecked={(given) => setRoles(given ? [...roles, role] : roles.filter((other) => other !== role))}
            >
              {words[role]}
            </Tick>
          ))}
          <Box flex="1" />
          <WordButton onClick={onDone}>{words.cancel}</WordButton>
          <DueButton type="submit" busy={add.isPending}>
            {words.addDo}
          </DueButton>
        </Flex>
        <Fault error={add.error} />
      </chakra.form>
    </Leaf>
  );
}
