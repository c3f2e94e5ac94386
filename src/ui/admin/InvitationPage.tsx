'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { ask, type OutputOf, type Refusal } from '../data/client';
import { DueButton } from '../parts/buttons';
import { Fault, TextField } from '../parts/form';
import { Frame, useEntrance } from './entrance';
import { adminWords } from './words';

/** Somebody who was invited, or has forgotten theirs, chooses a password and is in. */
export function InvitationPage({ code }: { readonly code: string }) {
  return (
    <Frame>
      <Invitation code={code} />
    </Frame>
  );
}

function Invitation({ code }: { readonly code: string }) {
  const words = adminWords.invitation;
  const [invited, setInvited] = useState<OutputOf<'auth.invitation'> | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const [password, setPassword] = useState('');
  const accept = useEntrance('auth.acceptInvitation', '/desk');
  useEffect(() => {
    ask('auth.invitation', { invitation: code }).then(setInvited, setFault);
  }, [code]);
  if (fault)
    return (
      <Box textAlign="center">
        <chakra.h1 fontSize="19px">{words.over}</chakra.h1>
        <Box color="quiet">{fault.message}</Box>
      </Box>
    );
  if (!invited) return null;
  return (
    <chakra.form
      w="100%"
      maxW="380px"
      onSubmit={(event) => {
        event.preventDefault();
        accept.mutate({ invitation: code, password });
      }}
    >
      <chakra.h1 fontSize="19px">{invited.purpose === 'password' ? words.again : words.title(invited.name)}</chakra.h1>
      <Box color="quiet" mb="16px">
        {invited.purpose === 'password'
          ? words.againMore(invited.name, invited.organization)
          : words.more(invited.organization)}
      </Box>
      <TextField
        label={words.password}
        type="password"
        autoComplete="new-password"
        autoFocus
        required
        minLength={12}
        maxLength={200}
        value={password}
        onChange={(event) => setPassword(event.target.value)}
      />
      <Fault error={accept.error} />
      <Flex justify="flex-end">
        <DueButton type="submit" busy={accept.isPending}>
          {words.do}
        </DueButton>
      </Flex>
    </chakra.form>
  );
}
