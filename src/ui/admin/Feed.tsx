'use client';

import { Box, Flex } from '@chakra-ui/react';
import { say } from '../data/said';
import { useAsk, useTell } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Fault, TextField } from '../parts/form';
import { adminWords } from './words';

const words = adminWords.feed;

/** One's dues for a calendar outside: a secret address that can be renewed and ended. */
export function Feed() {
  const { data } = useAsk('feed.view');
  const renew = useTell('feed.renew', { answered: () => say(words.made) });
  const stop = useTell('feed.stop', { answered: () => say(words.stopped) });
  const address = data?.address ?? null;
  return (
    <>
      <Box mb="8px">{words.what}</Box>
      {address && (
        <TextField
          label={words.address}
          help={words.secret}
          readOnly
          value={address}
          onFocus={(event) => event.currentTarget.select()}
        />
      )}
      <Fault error={renew.error ?? stop.error} />
      <Flex gap="14px" justify="flex-end" align="center">
        {address && <WordButton onClick={() => stop.mutate({})}>{words.stop}</WordButton>}
        <SideButton busy={renew.isPending} onClick={() => renew.mutate({})}>
          {address ? words.renew : words.make}
        </SideButton>
      </Flex>
    </>
  );
}
