'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { useAsk, useMe, useTell } from '../data/use';
import { useGround } from '../data/useGround';
import { useKeptForm } from '../data/useKept';
import { useSettled } from '../data/useSettled';
import { DueButton, WordButton } from '../parts/buttons';
import { Finder } from '../parts/Finder';
import { AreaField, Fault } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { registerWords as words } from './words';

/** A document that is changed together with the one whose page this is. */
interface Other {
  readonly record: string;
  readonly number: string;
  readonly title: string;
}

/** Starts a change of a document, or of several together: why, and who writes it. */
export function StartChange({
  record,
  coming,
  owner,
  stands,
  onDone,
}: {
  readonly record: string;
  readonly coming: string;
  readonly owner: string;
  /** Nobody else has started one meanwhile. */
  readonly stands: boolean;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const { data: me } = useMe();
  const [{ reason, author, others }, change, forget] = useKeptForm<{
    reason: string;
    author: string | null;
    others: readonly Other[];
  }>(`change.${record}`, { reason: '', author: owner, others: [] });
  const start = useTell('change.start', {
    after: ({ circulation }) => {
      forget();
      router.push(`/circulations/${circulation}/plan`);
    },
  });
  useGround(stands, start, onDone);
  return (
    <Leaf label={words.startTitle(coming)}>
      <Box fontWeight={600} mb="8px">
        {words.startTitle(coming)}
      </Box>
      <Flex gap="24px" flexWrap="wrap" align="flex-start">
        <Box flex="1.3" minW="280px">
          <AreaField
            label={words.reason}
            autoFocus
            required
            maxLength={4000}
            value={reason}
            onChange={(event) => change({ reason: event.target.value })}
          />
        </Box>
        <Box flex="1" minW="260px">
          <OnePerson
            label={words.author}
            insideOnly
            person={author}
            onPerson={(who) => change({ author: who?.person ?? null })}
          />
          <OtherRecords record={record} others={others} onOthers={(chosen) => change({ others: chosen })} />
        </Box>
      </Flex>
      <Fault error={start.error} />
      <Flex mt="16px" gap="14px" align="center" justify="flex-end" flexWrap="wrap">
        <Box color="quiet" fontSize="13px">
          {words.startWhat}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={start.isPending}
          disabled={!author || reason.trim() === ''}
          onClick={() =>
            author && start.mutate({ records: [record, ...others.map((other) => other.record)], reason, author })
          }
        >
          {author ? (author === me?.me.id ? words.startOwn : words.startDo(name(author))) : words.authorPick}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

function OtherRecords({
  record,
  others,
  onOthers,
}: {
  readonly record: string;
  readonly others: readonly Other[];
  readonly onOthers: (others: readonly Other[]) => void;
}) {
  const [text, setText] = useState('');
  const wanted = useSettled(text.trim());
  const { data } = useAsk('desk.find', { text: wanted }, { enabled: wanted !== '' });
  const taken = new Set([record, ...others.map((other) => other.record)]);
  // What is being changed already waits for its own end.
  const free = (data?.records ?? []).filter((row) => !taken.has(row.record) && row.inProgress === null).slice(0, 8);
  return (
    <Box mt="14px">
      <Box fontSize="13px" color="quiet" mb="4px">
        {words.others}
      </Box>
      {others.map((other) => (
        <Flex key={other.record} gap="10px" align="center" py="3px">
          <Box color="quiet">{other.number}</Box>
          <Box flex="1" truncate>
            {other.title}
          </Box>
          <WordButton onClick={() => onOthers(others.filter((one) => one !== other))}>
            {words.otherOut(other.number)}
          </WordButton>
        </Flex>
      ))}
      <Finder
        label={words.others}
        placeholder={words.othersFind}
        text={text}
        onText={setText}
        found={free.map((row) => ({ value: row.record, label: row.title, side: row.number }))}
        none={wanted === '' ? words.othersFind : words.othersNone}
        onPick={(value) => {
          const row = free.find((one) => one.record === value);
          if (row) onOthers([...others, row]);
          setText('');
        }}
      />
    </Box>
  );
}
