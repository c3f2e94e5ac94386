'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignment } from '@/core/route/route';
import type { Person } from '@/server/admin/people';
import { useAsk, useMe, useTell } from '../data/use';
import { useSettled } from '../data/useSettled';
import { SideButton, WordButton } from './buttons';
import { Finder } from './Finder';
import { Fault, FormField, TextInput } from './form';
import { Tile } from './Tile';

const words = {
  inside: 'Type a name',
  anybody: 'Type a name, or an email address of somebody outside',
  outside: 'outside',
  newOutside: (email: string) => `Somebody outside: ${email}`,
  searching: 'Searching',
  nobodyInside: 'Nobody by that name.',
  nobody: 'Nobody by that name. Somebody outside is added by their email address.',
  name: 'Name',
  company: 'Company (optional)',
  add: 'Add person',
  leave: 'Cancel',
};

/** Whether every word of a text stands in what is known of a person, as the server finds them. */
function fits(person: Person, text: string): boolean {
  const known = `${person.name} ${person.email} ${person.work} ${person.company}`.toLowerCase();
  return text.split(/\s+/).every((word) => known.includes(word));
}

/** Finds one person by typing: members, known outside people, or somebody new by an email address. */
export function PeoplePicker({
  label,
  exclude = [],
  insideOnly = false,
  why = () => null,
  onPick,
}: {
  readonly label: string;
  readonly exclude?: readonly string[];
  readonly insideOnly?: boolean;
  /** Why somebody who is left out is, as a sentence; said when they are typed. */
  readonly why?: (person: string) => string | null;
  readonly onPick: (who: Assignment) => void;
}) {
  const { data: me } = useMe();
  const [text, setText] = useState('');
  const [fresh, setFresh] = useState<{ email: string; name: string; company: string } | null>(null);
  const pick = (who: Assignment) => {
    setText('');
    setFresh(null);
    onPick(who);
  };
  const add = useTell('people.addOutside', {
    after: ({ person }) => pick({ kind: 'outside', person }),
  });
  const wanted = text.trim().toLowerCase();
  const settled = useSettled(wanted);
  const { data, isPlaceholderData } = useAsk(
    'people.find',
    { text: settled, who: insideOnly ? 'members' : 'anybody' },
    { keep: true },
  );
  // While an answer is awaited only what fits the present text stands, so that Enter never takes somebody else.
  const fitting = (data ?? []).filter((person) => fits(person, wanted));
  const searching = settled !== wanted || data === undefined || isPlaceholderData;
  const found = fitting.filter((person) => !exclude.includes(person.id)).slice(0, 8);
  // Whoever types a name that is left out learns why, instead of that there is nobody.
  const reason =
    wanted.length > 1
      ? fitting
          .filter((person) => exclude.includes(person.id))
          .map((person) => why(person.id))
          .find((said) => said !== null)
      : undefined;
  const email =
    !searching &&
    /^\S+@\S+\.\S+$/.test(wanted) &&
    !insideOnly &&
    !fitting.some((person) => person.email.toLowerCase() === wanted)
      ? wanted
      : null;
  const options = [
    ...found.map((person) => ({
      value: person.id,
      label: person.name,
      face: <Tile person={person.id} letters={person.tile} size={22} />,
      side: person.kind === 'outside' ? person.company || words.outside : person.work,
    })),
    ...(email ? [{ value: 'new', label: words.newOutside(email) }] : []),
  ];
  if (fresh)
    return (
      <chakra.form
        border="1px solid"
        borderColor="hairline"
        borderRadius="6px"
        p="12px"
        onSubmit={(event) => {
          event.preventDefault();
          event.stopPropagation();
          add.mutate({ ...fresh, zone: me?.me.zone ?? 'UTC' });
        }}
      >
        <Box mb="8px">{words.newOutside(fresh.email)}</Box>
        <FormField label={words.name}>
          {(props) => (
            <TextInput
              {...props}
              required
              minLength={2}
              maxLength={120}
              autoFocus
              value={fresh.name}
              onChange={(event) => setFresh({ ...fresh, name: event.target.value })}
            />
          )}
        </FormField>
        <FormField label={words.company}>
          {(props) => (
            <TextInput
              {...props}
              maxLength={120}
              value={fresh.company}
              onChange={(event) => setFresh({ ...fresh, company: event.target.value })}
            />
          )}
        </FormField>
        <Fault error={add.error} />
        <Flex gap="8px">
          <SideButton type="submit" busy={add.isPending}>
            {words.add}
          </SideButton>
          <WordButton onClick={() => setFresh(null)}>{words.leave}</WordButton>
        </Flex>
      </chakra.form>
    );
  return (
    <Finder
      label={label}
      placeholder={insideOnly ? words.inside : words.anybody}
      text={text}
      onText={setText}
      found={options}
      none={reason ?? (searching ? words.searching : insideOnly ? words.nobodyInside : words.nobody)}
      onPick={(value) => {
        const person = found.find(({ id }) => id === value);
        if (person) pick({ kind: person.kind === 'outside' ? 'outside' : 'person', person: person.id });
        else if (email) setFresh({ email, name: '', company: '' });
      }}
    />
  );
}
