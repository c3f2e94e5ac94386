'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { OutputOf } from '../data/client';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, TextField } from '../parts/form';
import { Tile } from '../parts/Tile';
import { Frame, useAtEntrance, useEntrance } from './entrance';
import { SetUp } from './SetUp';
import { adminWords } from './words';

type Look = OutputOf<'auth.look'>;

/** Only addresses of our own: a link may not use signing in to lead elsewhere. */
function safe(to: string | null): string {
  if (to === null || typeof location === 'undefined') return '/desk';
  const url = URL.canParse(to, location.origin) ? new URL(to, location.origin) : null;
  return url?.origin === location.origin && url.protocol.startsWith('http') ? url.pathname + url.search : '/desk';
}

export function SignInPage({ look }: { readonly look: Look }) {
  return <Frame>{look.empty && look.mode === 'real' ? <SetUp /> : <SignIn look={look} />}</Frame>;
}

function SignIn({ look }: { readonly look: Look }) {
  const to = safe(useSearchParams().get('to'));
  const words = adminWords.signIn;
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const signIn = useEntrance('auth.signIn', to);
  const [forgotten, setForgotten] = useState(false);
  const enter = useEntrance('auth.enterAs', to);
  if (forgotten) return <Forgotten email={email} onEmail={setEmail} onDone={() => setForgotten(false)} />;
  return (
    <>
      {look.people.length > 0 && (
        <Box w="100%" maxW="640px" mb="28px">
          <chakra.h1 fontSize="19px">{words.demo}</chakra.h1>
          <Box color="quiet" mb="12px">
            {words.demoMore}
          </Box>
          <Box borderTop="1px solid" borderColor="hairline">
            {look.people.map((person) => (
              <chakra.button
                key={person.id}
                type="button"
                display="grid"
                gridTemplateColumns="34px minmax(0, 1fr) minmax(0, 1fr)"
                alignItems="center"
                gap="8px"
                w="100%"
                textAlign="start"
                h="40px"
                px="8px"
                borderBottom="1px solid"
                borderColor="hairline"
                cursor="pointer"
                _hover={{ bg: 'sunk' }}
                aria-label={words.as(person.name)}
                disabled={enter.isPending}
                onClick={() => enter.mutate({ person: person.id })}
              >
                <Tile person={person.id} letters={person.tile} size={26} />
                <chakra.span fontWeight={600}>{person.name}</chakra.span>
                <chakra.span color="quiet">{person.work}</chakra.span>
              </chakra.button>
            ))}
          </Box>
          <Fault error={enter.error} />
        </Box>
      )}
      <chakra.form
        w="100%"
        maxW={look.people.length > 0 ? '640px' : '380px'}
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ email, password });
        }}
      >
        <chakra.h2 fontSize={look.people.length > 0 ? '14px' : '19px'} mb="10px">
          {look.people.length > 0 ? words.orMail : words.title}
        </chakra.h2>
        <Flex gap="12px" direction={look.people.length > 0 ? { base: 'column', md: 'row' } : 'column'} align="stretch">
          <Box flex="1">
            <TextField
              label={words.email}
              type="email"
              autoComplete="username"
              required
              maxLength={254}
              value={email}
              onChange={(event) => setEmail(event.target.value)}
            />
          </Box>
          <Box flex="1">
            <TextField
              label={words.password}
              type="password"
              autoComplete="current-password"
              required
              maxLength={200}
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
          </Box>
        </Flex>
        <Fault error={signIn.error} />
        <Flex justify="flex-end" align="center" gap="18px">
          <WordButton onClick={() => setForgotten(true)}>{words.forgotten}</WordButton>
          {look.people.length > 0 ? (
            <SideButton type="submit" busy={signIn.isPending}>
              {words.do}
            </SideButton>
          ) : (
            <DueButton type="submit" busy={signIn.isPending}>
              {words.do}
            </DueButton>
          )}
        </Flex>
      </chakra.form>
    </>
  );
}

/** Asks for a link by which a new password is chosen. Says the same whether the address is known. */
function Forgotten({
  email,
  onEmail,
  onDone,
}: {
  readonly email: string;
  readonly onEmail: (email: string) => void;
  readonly onDone: () => void;
}) {
  const words = adminWords.signIn;
  const ask = useAtEntrance('auth.forgotPassword');
  return (
    <chakra.form
      w="100%"
      maxW="380px"
      onSubmit={(event) => {
        event.preventDefault();
        ask.mutate({ email });
      }}
    >
      <chakra.h1 fontSize="19px">{words.forgottenTitle}</chakra.h1>
      {ask.isSuccess ? (
        <Box role="status" my="12px">
          {words.forgottenDone(ask.variables.email)}
        </Box>
      ) : (
        <>
          <Box color="quiet" mb="16px">
            {words.forgottenMore}
          </Box>
          <TextField
            label={words.email}
            type="email"
            autoComplete="username"
            autoFocus
            required
            maxLength={254}
            value={email}
            onChange={(event) => onEmail(event.target.value)}
          />
          <Fault error={ask.error} />
        </>
      )}
      <Flex justify="flex-end" align="center" gap="18px">
        <WordButton onClick={onDone}>{words.back}</WordButton>
        {!ask.isSuccess && (
          <DueButton type="submit" busy={ask.isPending}>
            {words.forgottenDo}
          </DueButton>
        )}
      </Flex>
    </chakra.form>
  );
}
