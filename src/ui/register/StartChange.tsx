'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { useMe, usePeople, useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, FormField, TextArea } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { registerWords as words } from './words';

/** Starts a change of a document: why, and who writes it. */
export function StartChange({
  record,
  coming,
  owner,
  onDone,
}: {
  readonly record: string;
  readonly coming: string;
  readonly owner: string;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const { data: me } = useMe();
  const [reason, setReason] = useKeptText(`change.${record}.${me?.me.id}`);
  const [author, setAuthor] = useState<string | null>(owner);
  const start = useTell<object, { circulation: string }>('change.start', {
    after: ({ circulation }) => {
      setReason('');
      router.push(`/circulations/${circulation}/plan`);
    },
  });
  return (
    <Leaf label={words.startTitle(coming)}>
      <Box fontWeight={600} mb="8px">
        {words.startTitle(coming)}
      </Box>
      <Flex gap="24px" flexWrap="wrap" align="flex-start">
        <Box flex="1.3" minW="280px">
          <FormField label={words.reason}>
            {(props) => (
              <TextArea
                {...props}
                autoFocus
                required
                maxLength={4000}
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
            )}
          </FormField>
        </Box>
        <Box flex="1" minW="260px">
          <OnePerson
            label={words.author}
            insideOnly
            person={author}
            onPerson={(who) => setAuthor(who?.person ?? null)}
          />
        </Box>
      </Flex>
      <Fault error={start.error} />
      <Flex gap="14px" align="center" justify="flex-end" flexWrap="wrap">
        <Box color="quiet" fontSize="13px">
          {words.startWhat}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={start.isPending}
          disabled={!author || reason.trim() === ''}
          onClick={() => author && start.mutate({ record, reason, author })}
        >
          {author ? (author === me?.me.id ? words.startOwn : words.startDo(name(author))) : words.authorPick}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
