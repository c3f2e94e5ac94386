'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { Role } from '@/core/access/may';
import type { Person } from '@/server/admin/people';
import type { OutputOf } from '../data/client';
import { say } from '../data/said';
import { useMe, usePages, useTell, useTimes } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { useSettled } from '../data/useSettled';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, FormField, TextInput } from '../parts/form';
import { ListPage } from '../parts/ListPage';
import { Empty, Leaf } from '../parts/parts';
import { type Column, Rows } from '../parts/Rows';
import { Tile } from '../parts/Tile';
import { faultIn, PersonFields, type PersonWords, RoleTicks } from './PersonForm';
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

function PersonLeaf({
  person,
  administers,
  self,
}: {
  readonly person: Person;
  readonly administers: boolean;
  readonly self: boolean;
}) {
  const router = useRouter();
  const times = useTimes();
  const [editing, setEditing] = useState(false);
  const [address, setAddress] = useState<string | null>(null);
  const again = useTell('people.inviteAgain');
  const leave = useTell('people.leave');
  const copy = useTell('people.copyAccess', {
    answered: async ({ address, until }) => {
      // A browser that gives no access to the clipboard shows what is to be copied.
      const copied = await navigator.clipboard.writeText(address).then(
        () => true,
        () => false,
      );
      if (copied) say(words.copied(times.moment(until)));
      else setAddress(address);
    },
  });
  const { data: me } = useMe();
  if (editing) return <EditPerson person={person} self={self} onDone={() => setEditing(false)} />;
  const invited = person.state === 'invited';
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
        {administers && <SideButton onClick={() => setEditing(true)}>{words.edit}</SideButton>}
        {administers && !self && person.kind === 'member' && (
          <>
            {invited && (
              <SideButton busy={again.isPending} onClick={() => again.mutate({ person: person.id })}>
                {again.isSuccess ? words.sent : words.again}
              </SideButton>
            )}
            {(invited || (person.state === 'active' && me?.mailQueued !== null)) && (
              <SideButton busy={copy.isPending} onClick={() => copy.mutate({ person: person.id })}>
                {invited ? words.copy : words.copyPassword}
              </SideButton>
            )}
            {person.state === 'left' && (
              <SideButton onClick={() => leave.mutate({ person: person.id, left: false })}>{words.back}</SideButton>
            )}
          </>
        )}
        <SideButton onClick={() => router.push(`/people/${person.id}`)}>{words.open}</SideButton>
      </Flex>
      {address && (
        <Box mt="10px">
          <FormField label={words.notCopied}>
            {(props) => (
              <TextInput {...props} readOnly value={address} onFocus={(event) => event.currentTarget.select()} />
            )}
          </FormField>
        </Box>
      )}
      {copy.isSuccess && <Box mt="8px">{words.copiedMore(person.name)}</Box>}
      <Fault error={again.error ?? leave.error ?? copy.error} />
    </Leaf>
  );
}

/** Mends what is known of a person. Their email address stays: links and sign-in go by it. */
function EditPerson({
  person,
  self,
  onDone,
}: {
  readonly person: Person;
  readonly self: boolean;
  readonly onDone: () => void;
}) {
  const { name, email, work, company, roles: given } = person;
  const [{ roles, ...input }, change, forget] = useKeptForm<PersonWords & { roles: readonly Role[] }>(
    `person.${person.id}`,
    { name, email, work, company, roles: given },
  );
  const describe = useTell('people.describe', {
    answered: (_value, sent) => {
      forget();
      say(words.saved(sent.name));
    },
    after: onDone,
  });
  const member = person.kind === 'member';
  return (
    <Leaf label={words.editTitle(person.name)}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          const { email: _, ...rest } = input;
          describe.mutate({ person: person.id, ...rest, roles });
        }}
      >
        <PersonFields
          keys={member ? ['name', 'work'] : ['name', 'work', 'company']}
          input={input}
          onInput={change}
          error={describe.error}
        />
        <Box color="quiet" fontSize="13px" mb="8px">
          {words.editMore}
        </Box>
        <Flex gap="20px" flexWrap="wrap" align="center">
          {member && <RoleTicks roles={roles} onRoles={(next) => change({ roles: next })} fixed={self} />}
          <Box flex="1" />
          <WordButton
            onClick={() => {
              forget();
              onDone();
            }}
          >
            {words.cancel}
          </WordButton>
          <DueButton type="submit" busy={describe.isPending}>
            {words.save}
          </DueButton>
        </Flex>
        {describe.error && !describe.error.facts.field && <Fault error={describe.error} />}
      </chakra.form>
    </Leaf>
  );
}

const nobody = { name: '', email: '', work: '', company: '', roles: [] as readonly Role[] };

/** A member who is added and invited; what was typed is kept until they are. */
function AddPerson({ me, onDone }: { readonly me: OutputOf<'session.me'>; readonly onDone: () => void }) {
  const [input, change, forget] = useKeptForm('addPerson', nobody);
  const add = useTell('people.add', {
    answered: forget,
    after: onDone,
  });
  const { zone } = me.organization;
  return (
    <Leaf label={words.add}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          const { name, email, work, roles } = input;
          add.mutate({ name, email, work, zone, roles });
        }}
      >
        <PersonFields keys={['name', 'email', 'work']} input={input} onInput={change} error={add.error} />
        <Flex gap="20px" flexWrap="wrap" align="center">
          <RoleTicks roles={input.roles} onRoles={(roles) => change({ roles })} />
          <Box flex="1" />
          <WordButton
            onClick={() => {
              forget();
              onDone();
            }}
          >
            {words.cancel}
          </WordButton>
          <DueButton type="submit" busy={add.isPending}>
            {words.addDo}
          </DueButton>
        </Flex>
        {add.error && !faultIn(add.error, 'email') && !add.error.facts.field && <Fault error={add.error} />}
      </chakra.form>
    </Leaf>
  );
}
