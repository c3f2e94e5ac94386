'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignee } from '@/core/route/route';
import type { Person } from '@/server/admin/people';
import { useAsk, useMe, useTell } from '../data/use';
import { useSettled } from '../data/useSettled';
import { SideButton, WordButton } from './buttons';
import { Finder } from './Finder';
import { Fault, TextField } from './form';
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
  offer: (name: string) => `Add ${name}`,
  leave: 'Cancel',
};

/** Whether every word of a text stands in what is known of a person, as the server finds them. */
function fits(person: Person, text: string): boolean {
  return saysAll(`${person.name} ${person.email} ${person.work} ${person.company}`, text);
}

function saysAll(known: string, text: string): boolean {
  return text.split(/\s+/).every((word) => known.toLowerCase().includes(word));
}

/** The letters of what is no person, in a plain frame. */
function OpenTileMark({ letters }: { readonly letters: string }) {
  return (
    <chakra.span
      flex="none"
      w="22px"
      h="22px"
      lineHeight="20px"
      textAlign="center"
      fontSize="10px"
      fontWeight={700}
      border="1px dashed"
      borderColor="edge"
      borderRadius="5px"
      aria-hidden
    >
      {letters}
    </chakra.span>
  );
}

/** People who can be added with one press. Whoever uses the keyboard types their names. */
function Offers({ people, onPick }: { readonly people: readonly Person[]; readonly onPick: (person: Person) => void }) {
  return (
    <Flex gap="2px 4px" flexWrap="wrap" mt="4px" mb="2px">
      {people.map((person) => (
        <chakra.button
          key={person.id}
          type="button"
          tabIndex={-1}
          title={person.name}
          aria-label={words.offer(person.name)}
          display="flex"
          alignItems="center"
          gap="5px"
          px="5px"
          minH="26px"
          fontSize="13px"
          color="quiet"
          cursor="pointer"
          borderRadius="5px"
          _hover={{ bg: 'pineSoft', color: 'ink' }}
          onClick={() => onPick(person)}
        >
          <Tile person={person.id} letters={person.tile} size={18} />
          {person.name.split(' ')[0]}
        </chakra.button>
      ))}
    </Flex>
  );
}

/** Something other than a person that can be chosen in their place. */
export interface Choice<T> {
  readonly key: string;
  readonly label: string;
  readonly side: string;
  readonly letters: string;
  readonly value: T;
}

/** Finds one person by typing: members, known outside people, or somebody new by an email address. */
export function PeoplePicker<T = never>({
  label,
  exclude = [],
  insideOnly = false,
  why = () => null,
  choices = [],
  onChoose = () => {},
  focused = false,
  offers = false,
  onPick,
}: {
  readonly label: string;
  readonly exclude?: readonly string[];
  readonly insideOnly?: boolean;
  /** Why somebody who is left out is, as a sentence; said when they are typed. */
  readonly why?: (person: string) => string | null;
  /** What else can be chosen, found by the same words, and what becomes of it. */
  readonly choices?: readonly Choice<T>[];
  readonly onChoose?: (value: T) => void;
  /** Whether one goes on typing in it. */
  readonly focused?: boolean;
  /** Whether the people whom one works with most can be pressed before anything is typed. */
  readonly offers?: boolean;
  readonly onPick: (who: Assignee) => void;
}) {
  const { data: me } = useMe();
  const [text, setText] = useState('');
  const [fresh, setFresh] = useState<{ email: string; name: string; company: string } | null>(null);
  const pick = (who: Assignee) => {
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
  const free = fitting.filter((person) => !exclude.includes(person.id));
  const found = free.slice(0, 8);
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
  // Nothing that is being pressed moves away under the hand: groups and roles come behind the people.
  const others =
    wanted === '' || searching
      ? []
      : choices.filter(({ label: called, side }) => saysAll(`${called} ${side}`, wanted)).slice(0, 6);
  const options = [
    ...found.map((person) => ({
      value: person.id,
      label: person.name,
      face: <Tile person={person.id} letters={person.tile} size={22} />,
      side: person.kind === 'outside' ? person.company || words.outside : person.work,
    })),
    ...others.map((choice) => ({
      value: choice.key,
      label: choice.label,
      face: <OpenTileMark letters={choice.letters} />,
      side: choice.side,
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
        <TextField
          label={words.name}
          required
          minLength={2}
          maxLength={120}
          autoFocus
          value={fresh.name}
          onChange={(event) => setFresh({ ...fresh, name: event.target.value })}
        />
        <TextField
          label={words.company}
          maxLength={120}
          value={fresh.company}
          onChange={(event) => setFresh({ ...fresh, company: event.target.value })}
        />
        <Fault error={add.error} />
        <Flex gap="8px">
          <SideButton type="submit" busy={add.isPending}>
            {words.add}
          </SideButton>
          <WordButton onClick={() => setFresh(null)}>{words.leave}</WordButton>
        </Flex>
      </chakra.form>
    );
  const pickPerson = (person: Person) =>
    pick({ kind: person.kind === 'outside' ? 'outside' : 'person', person: person.id });
  return (
    <>
      <Finder
        label={label}
        placeholder={insideOnly ? words.inside : words.anybody}
        text={text}
        focused={focused}
        searching={searching}
        onText={setText}
        found={options}
        none={reason ?? (searching ? words.searching : insideOnly ? words.nobodyInside : words.nobody)}
        onPick={(value) => {
          const person = found.find(({ id }) => id === value);
          const other = others.find(({ key }) => key === value);
          if (other) {
            setText('');
            onChoose(other.value);
          } else if (person) pickPerson(person);
          else if (email) setFresh({ email, name: '', company: '' });
        }}
      />
      {offers && wanted === '' && !searching && free.length > 0 && (
        <Offers people={free.slice(0, 12)} onPick={pickPerson} />
      )}
    </>
  );
}
