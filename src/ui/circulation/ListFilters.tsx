'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { KeptFilter } from '@/server/desk/filters';
import { useAsk, useTell } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Choose, Fault, TextInput, Tick } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { listWords as words } from './listWords';

/** What a list of circulations is narrowed to. */
export type ListFilter = Omit<KeptFilter, 'name'>;
export const noFilter: ListFilter = { state: 'live', filter: '', holder: null, documentType: null, late: false };

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
      <Box w="180px">
        <Box fontSize="13px" color="quiet" mb="4px">
          {words.type}
        </Box>
        <Choose
          aria-label={words.type}
          value={value.documentType ?? ''}
          onChange={(event) => onValue({ ...value, documentType: event.target.value || null })}
        >
          <option value="">{words.allTypes}</option>
          {types.map((type) => (
            <option key={type.code} value={type.code}>
              {type.name}
            </option>
          ))}
        </Choose>
      </Box>
      <Box pb="4px">
        <Tick checked={value.late} onChecked={(late) => onValue({ ...value, late })}>
          {words.late}
        </Tick>
      </Box>
      {kept.length > 0 && (
        <Box w="180px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.kept}
          </Box>
          <Choose
            aria-label={words.kept}
            value={current?.name ?? ''}
            onChange={(event) => {
              const chosen = kept.find((one) => one.name === event.target.value);
              if (chosen) onValue(bare(chosen));
            }}
          >
            <option value="" disabled>
              {words.choose}
            </option>
            {kept.map((one) => (
              <option key={one.name} value={one.name}>
                {one.name}
              </option>
            ))}
          </Choose>
        </Box>
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
