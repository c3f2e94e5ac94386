'use client';

import { Box } from '@chakra-ui/react';
import { useState } from 'react';
import { unreachable } from '@/core/unreachable';
import { usePeople } from '../data/people';
import { useAsk, useMe } from '../data/use';
import { DueButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { ListPage } from '../parts/ListPage';
import { Empty } from '../parts/parts';
import { Rows } from '../parts/Rows';
import { Tile } from '../parts/Tile';
import { CalendarForm, hoursInShort } from './CalendarForm';
import { GroupForm } from './GroupForm';
import { ImportTable } from './ImportTable';
import { RoleForm } from './RoleForm';
import { Rules } from './Rules';
import { UnitForm } from './UnitForm';
import { organizationWords as words } from './words';

type Part = keyof typeof words.parts;
const lists = ['units', 'groups', 'roles', 'calendars'] as const;
type List = (typeof lists)[number];

/** The organization as an administrator arranges it: units, groups, roles, calendars, rules, and tables that bring them in. */
export function OrganizationPage() {
  const { data: me } = useMe();
  const { data, error } = useAsk('organization.view');
  const [part, setPart] = useState<Part>('units');
  const [adding, setAdding] = useState(false);
  const [filter, setFilter] = useState('');
  const administers = me?.mayManagePeople ?? false;
  const parts = (Object.keys(words.parts) as Part[]).filter((key) => administers || key !== 'import');
  const list = lists.find((one) => one === part) ?? null;
  return (
    <ListPage
      title={words.title}
      beside={
        <ChoiceRow
          label={words.part}
          choices={parts.map((key) => ({ key, name: words.parts[key] }))}
          chosen={part}
          onChoose={(next) => {
            setPart(next);
            setAdding(false);
            setFilter('');
          }}
        />
      }
      find={list && words.find}
      filter={filter}
      onFilter={setFilter}
      error={error}
      action={
        administers && list && !adding && <DueButton onClick={() => setAdding(true)}>{words.add[list]}</DueButton>
      }
      form={adding && list && <Form list={list} id={null} administers onDone={() => setAdding(false)} />}
    >
      {data && list && <Entries list={list} filter={filter} administers={administers} />}
      {data && part === 'rules' && <Rules rules={data.rules} administers={administers} />}
      {part === 'import' && (
        <Box px="24px" overflowY="auto" flex="1" minH={0} pb="24px">
          <ImportTable />
        </Box>
      )}
      {!administers && part !== 'import' && (
        <Box px="24px" pb="10px" color="quiet" fontSize="13px">
          {words.readOnly}
        </Box>
      )}
    </ListPage>
  );
}

interface Entry {
  readonly id: string;
  readonly name: string;
  readonly facts: string;
  readonly people: readonly string[];
}

/** One list: a line each, that opens to be changed. */
function Entries({
  list,
  filter,
  administers,
}: {
  readonly list: List;
  readonly filter: string;
  readonly administers: boolean;
}) {
  const { data } = useAsk('organization.view');
  const { name, person } = usePeople();
  const entries = data ? entriesOf(list, data, name) : [];
  const found = entries.filter((entry) => entry.name.toLowerCase().includes(filter.trim().toLowerCase()));
  return (
    <Rows
      label={words.parts[list]}
      columns={[
        { name: words.name, width: 'minmax(0, 1.2fr)', cell: (entry: Entry) => entry.name },
        {
          name: '',
          width: 'minmax(0, 1.6fr)',
          wide: true,
          cell: (entry: Entry) => <Box color="quiet">{entry.facts}</Box>,
        },
        {
          name: { units: words.leads, groups: words.members, roles: words.filledBy, calendars: '' }[list],
          width: '220px',
          wide: true,
          cell: (entry: Entry) => (
            <Box display="flex" gap="4px">
              {entry.people.slice(0, 7).map((id) => (
                <Tile key={id} person={id} letters={person(id)?.tile ?? '··'} size={24} />
              ))}
              {entry.people.length > 7 && <Box color="quiet">+{entry.people.length - 7}</Box>}
            </Box>
          ),
        },
      ]}
      groups={[{ title: '', rows: found }]}
      keyOf={(entry) => entry.id}
      nameOf={(entry) => entry.name}
      leaf={(entry) => <Form list={list} id={entry.id} administers={administers} onDone={null} />}
      empty={<Empty title={words.empty[list]}>{words.emptyMore[list]}</Empty>}
    />
  );
}

type View = NonNullable<ReturnType<typeof useAsk<'organization.view'>>['data']>;

function entriesOf(list: List, view: View, name: (id: string) => string): Entry[] {
  const there = (people: readonly (string | null)[]) => people.filter((one) => one !== null);
  switch (list) {
    case 'units':
      return view.units.map(({ id, name: called, lead, deputy, people }) => ({
        id,
        name: called,
        facts: [
          lead ? `${words.lead} ${name(lead)}` : '',
          deputy ? `${words.deputy} ${name(deputy)}` : '',
          words.unitPeople(people),
        ]
          .filter(Boolean)
          .join(' · '),
        people: there([lead, deputy]),
      }));
    case 'groups':
      return view.groups.map(({ id, name: called, members }) => ({
        id,
        name: called,
        facts: words.unitPeople(members.length),
        people: members,
      }));
    case 'roles':
      return view.roles.map(({ id, name: called, person }) => ({
        id,
        name: called,
        facts: person ? name(person) : words.nobody,
        people: there([person]),
      }));
    case 'calendars':
      return view.calendars.map((calendar) => ({
        id: calendar.id,
        name: calendar.name,
        facts: [
          hoursInShort(calendar.week),
          words.holidays(calendar.holidays.length),
          calendar.usual ? words.usual : '',
        ]
          .filter(Boolean)
          .join(' · '),
        people: [],
      }));
    default:
      return unreachable(list, 'list');
  }
}

function Form({
  list,
  id,
  administers,
  onDone,
}: {
  readonly list: List;
  readonly id: string | null;
  readonly administers: boolean;
  readonly onDone: (() => void) | null;
}) {
  const { data } = useAsk('organization.view');
  const { data: me } = useMe();
  if (!data) return null;
  const chosen = <T extends { readonly id: string }>(rows: readonly T[]) => rows.find((one) => one.id === id) ?? null;
  switch (list) {
    case 'units': {
      const unit = chosen(data.units);
      const leads = unit !== null && [unit.lead, unit.deputy].includes(me?.me.id ?? '');
      return (
        <UnitForm
          key={JSON.stringify(unit)}
          unit={unit}
          editable={administers || leads}
          removable={administers}
          onDone={onDone}
        />
      );
    }
    case 'groups': {
      const group = chosen(data.groups);
      return <GroupForm key={JSON.stringify(group)} group={group} editable={administers} onDone={onDone} />;
    }
    case 'roles': {
      const role = chosen(data.roles);
      return <RoleForm key={JSON.stringify(role)} role={role} editable={administers} onDone={onDone} />;
    }
    case 'calendars': {
      const calendar = chosen(data.calendars);
      return <CalendarForm key={JSON.stringify(calendar)} calendar={calendar} editable={administers} onDone={onDone} />;
    }
    default:
      return unreachable(list, 'list');
  }
}
