'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useId, useState } from 'react';
import type { Who } from '@/core/route/route';
import { useMe, usePeople, useTell } from '../data/use';
import { SideButton, WordButton } from './buttons';
import { Fault, FormField, TextInput } from './form';
import { Tile } from './Tile';

const words = {
  inside: 'Type a name',
  anybody: 'Type a name, or a mail address of somebody outside',
  outside: 'outside',
  newOutside: (email: string) => `Somebody outside: ${email}`,
  nobodyInside: 'Nobody by that name.',
  nobody: 'Nobody by that name. Somebody outside is added by their mail address.',
  name: 'Their name',
  company: 'Their company (may stay empty)',
  add: 'Add them',
  leave: 'Leave it',
};

/** Finds one person by typing: members, known outside people, or somebody new by a mail address. */
export function PeoplePicker({
  label,
  exclude = [],
  insideOnly = false,
  onPick,
}: {
  readonly label: string;
  readonly exclude?: readonly string[];
  readonly insideOnly?: boolean;
  readonly onPick: (who: Who) => void;
}) {
  const id = useId();
  const { list } = usePeople();
  const { data: me } = useMe();
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const [fresh, setFresh] = useState<{ email: string; name: string; company: string } | null>(null);
  const pick = (who: Who) => {
    setText('');
    setOpen(false);
    setFresh(null);
    onPick(who);
  };
  const add = useTell<{ email: string; name: string; company: string; zone: string }, { person: string }>(
    'people.addOutside',
    {
      after: ({ person }) => pick({ kind: 'outside', person }),
    },
  );
  const wanted = text.trim().toLowerCase();
  const found = list
    .filter(
      (person) => person.state !== 'left' && !exclude.includes(person.id) && (!insideOnly || person.kind === 'member'),
    )
    .filter((person) =>
      `${person.name} ${person.email} ${person.work} ${person.company}`.toLowerCase().includes(wanted),
    )
    .slice(0, 8);
  const email =
    /^\S+@\S+\.\S+$/.test(wanted) && !insideOnly && !list.some((person) => person.email === wanted) ? wanted : null;
  const options = [
    ...found.map((person) => ({
      key: person.id,
      choose: () => pick({ kind: person.kind === 'outside' ? 'outside' : 'person', person: person.id }),
    })),
    ...(email ? [{ key: 'new', choose: () => setFresh({ email, name: '', company: '' }) }] : []),
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
    <Box position="relative">
      <TextInput
        aria-label={label}
        role="combobox"
        aria-expanded={open}
        aria-controls={`${id}-list`}
        aria-activedescendant={open && options[at] ? `${id}-${options[at].key}` : undefined}
        placeholder={insideOnly ? words.inside : words.anybody}
        value={text}
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        onChange={(event) => {
          setText(event.target.value);
          setOpen(true);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt((n) => Math.min(n + 1, options.length - 1));
          else if (event.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          else if (event.key === 'Enter' && open) options[at]?.choose();
          else if (event.key === 'Escape' && open) setOpen(false);
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
      {open && (
        <Box
          id={`${id}-list`}
          role="listbox"
          aria-label={label}
          position="absolute"
          top="40px"
          left={0}
          right={0}
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderRadius="6px"
          zIndex={15}
          maxH="260px"
          overflowY="auto"
          py="4px"
        >
          {options.length === 0 && (
            <Box px="12px" py="8px" color="quiet">
              {insideOnly ? words.nobodyInside : words.nobody}
            </Box>
          )}
          {found.map((person, i) => (
            <Flex
              key={person.id}
              id={`${id}-${person.id}`}
              role="option"
              aria-selected={i === at}
              px="12px"
              py="5px"
              gap="10px"
              align="center"
              cursor="pointer"
              bg={i === at ? 'pineSoft' : undefined}
              onMouseDown={(event) => {
                event.preventDefault();
                options[i]?.choose();
              }}
            >
              <Tile person={person.id} letters={person.tile} size={22} />
              <Box flex="1" truncate>
                {person.name}
              </Box>
              <Box color="quiet" fontSize="13px" truncate>
                {person.kind === 'outside' ? person.company || words.outside : person.work}
              </Box>
            </Flex>
          ))}
          {email && (
            <Box
              id={`${id}-new`}
              role="option"
              aria-selected={at === found.length}
              px="12px"
              py="6px"
              cursor="pointer"
              bg={at === found.length ? 'pineSoft' : undefined}
              onMouseDown={(event) => {
                event.preventDefault();
                setFresh({ email, name: '', company: '' });
              }}
            >
              {words.newOutside(email)}
            </Box>
          )}
        </Box>
      )}
    </Box>
  );
}
