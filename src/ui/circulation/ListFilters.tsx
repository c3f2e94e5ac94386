'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { type ListFilter, noFilter } from '../data/noFilter';
import { useAsk, useTell } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Choose, Fault, TextInput, Tick } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { listWords as words } from './listWords';

/** Filters by whom it waits for, by type and by lateness, and those one keeps under a name. */
export function ListFilters({
  value,
  onValue,
}: {
  readonly value: ListFilter;
  readonly onValue: (value: ListFilter) => void;
}) {
  const { data: types = [] } = useAsk('register.types');
  const { data: kept = [] } = useAsk('filters.view');
  const [name, setName] = useState<string | null>(null);
  const keep = useTell('filters.keep', { answered: () => setName(null) });
  const current = kept.find((one) => same(one, value));
  const narrowed = value.holder !== null || value.documentType !== null || value.late;
  return (
    <Flex gap="18px" align="flex-end" flexWrap="wrap" fontSize="13.5px">
      <Box w="280px">
        <OnePerson
          label={words.holder}
          person={value.holder}
          onPerson={(who) => onValue({ ...value, holder: who?.person ?? null })}
        />
      </Box>
      <OneOf
        label={words.type}
        value={value.documentType}
        none={words.allTypes}
        choices={types.map(({ code, name: called }) => [code, called] as const)}
        onValue={(documentType) => onValue({ ...value, documentType })}
      />
      <Box pb="4px">
        <Tick checked={value.late} onChecked={(late) => onValue({ ...value, late })}>
          {words.late}
        </Tick>
      </Box>
      {kept.length > 0 && (
        <OneOf
          label={words.kept}
          value={current?.name ?? null}
          none={words.choose}
          free={false}
          choices={kept.map((one) => [one.name, one.name] as const)}
          onValue={(of) => {
            const chosen = kept.find((one) => one.name === of);
            if (chosen) onValue(bare(chosen));
          }}
        />
      )}
      <Flex gap="14px" align="center" minH="36px" flex="1">
        {name !== null ? (
          <>
            <TextInput
              w="200px"
              autoFocus
              placeholder={words.keepAs}
              aria-label={words.keepAs}
              value={name}
              maxLength={60}
              onChange={(event) => setName(event.target.value)}
            />
            <SideButton
              disabled={name.trim() === '' || keep.isPending}
              onClick={() => {
                const own = { ...value, name: name.trim() };
                keep.mutate({ filters: [...kept.filter((one) => one.name !== own.name), own] });
              }}
            >
              {words.keepNow}
            </SideButton>
            <WordButton onClick={() => setName(null)}>{words.cancel}</WordButton>
          </>
        ) : current ? (
          <WordButton onClick={() => keep.mutate({ filters: kept.filter((one) => one !== current) })}>
            {words.forget(current.name)}
          </WordButton>
        ) : (
          (narrowed || value.filter.trim() !== '') && <WordButton onClick={() => setName('')}>{words.keep}</WordButton>
        )}
        {narrowed && name === null && (
          <WordButton onClick={() => onValue({ ...noFilter, state: value.state })}>{words.clear}</WordButton>
        )}
      </Flex>
      <Fault error={keep.error} />
    </Flex>
  );
}

/** A choice of one; of none again where that is a choice. */
function OneOf({
  label,
  value,
  none,
  free = true,
  choices,
  onValue,
}: {
  readonly label: string;
  readonly value: string | null;
  readonly none: string;
  readonly free?: boolean;
  readonly choices: readonly (readonly [string, string])[];
  readonly onValue: (value: string | null) => void;
}) {
  return (
    <Box w="180px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {label}
      </Box>
      <Choose aria-label={label} value={value ?? ''} onChange={(event) => onValue(event.target.value || null)}>
        <option value="" disabled={!free}>
          {none}
        </option>
        {choices.map(([key, called]) => (
          <option key={key} value={key}>
            {called}
          </option>
        ))}
      </Choose>
    </Box>
  );
}

const bare = ({ state, filter, holder, documentType, late }: ListFilter): ListFilter => ({
  state,
  filter,
  holder,
  documentType,
  late,
});

function same(one: ListFilter, other: ListFilter): boolean {
  return JSON.stringify(bare(one)) === JSON.stringify(bare({ ...other, filter: other.filter.trim() }));
}
