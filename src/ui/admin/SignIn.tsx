'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { QueryClient, QueryClientProvider, useMutation } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { type ReactNode, useEffect, useState } from 'react';
import { ask, type CommandName, type InputOf, type OutputOf, type Refusal, tell } from '../data/client';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault, FormField, TextInput } from '../parts/form';
import { Mark } from '../parts/Shell';
import { Tile } from '../parts/Tile';
import { adminWords } from './words';

type Look = OutputOf<'auth.look'>;

function Frame({ children }: { readonly children: ReactNode }) {
  const [client] = useState(() => new QueryClient());
  return (
    <QueryClientProvider client={client}>
      <chakra.main
        minH="100dvh"
        display="flex"
        flexDirection="column"
        alignItems="center"
        px="20px"
        pt={{ base: '32px', md: '8vh' }}
        pb="40px"
      >
        <Flex align="center" gap="10px" fontSize="22px" fontWeight={700} mb="28px">
          <Mark />
          Avenda
        </Flex>
        {children}
      </chakra.main>
    </QueryClientProvider>
  );
}

/** Puts a command by which somebody becomes known, and goes on where they wanted to go. */
function useEntrance<N extends CommandName>(name: N, to: string) {
  return useMutation<unknown, Refusal, InputOf<N>>({
    mutationFn: (input) => tell(name, input),
    onSuccess: () => location.assign(to),
  });
}

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
  const enter = useEntrance('auth.enterAs', to);
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
            <FormField label={words.email}>
              {(props) => (
                <TextInput
                  {...props}
                  type="email"
                  autoComplete="username"
                  required
                  maxLength={254}
                  value={email}
                  onChange={(event) => setEmail(event.target.value)}
                />
              )}
            </FormField>
          </Box>
          <Box flex="1">
            <FormField label={words.password}>
              {(props) => (
                <TextInput
                  {...props}
                  type="password"
                  autoComplete="current-password"
                  required
                  maxLength={200}
                  value={password}
                  onChange={(event) => setPassword(event.target.value)}
                />
              )}
            </FormField>
          </Box>
        </Flex>
        <Fault error={signIn.error} />
        <Flex justify="flex-end">
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

function SetUp() {
  const words = adminWords.setUp;
  const setUp = useEntrance('auth.setUp', '/desk');
  const [input, setInput] = useState({
    code: '',
    organization: '',
    prefix: '',
    zone: '',
    name: '',
    email: '',
    password: '',
  });
  useEffect(
    () => setInput((before) => ({ ...before, zone: before.zone || Intl.DateTimeFormat().resolvedOptions().timeZone })),
    [],
  );
  const field = (key: keyof typeof input, more: object = {}) => (
    <FormField label={words[key]}>
      {(props) => (
        <TextInput
          {...props}
          required
          maxLength={key === 'email' ? 254 : 120}
          value={input[key]}
          onChange={(event) => setInput({ ...input, [key]: event.target.value })}
          {...more}
        />
      )}
    </FormField>
  );
  return (
    <chakra.form
      w="100%"
      maxW="460px"
      onSubmit={(event) => {
        event.preventDefault();
        setUp.mutate(input);
      }}
    >
      <chakra.h1 fontSize="19px">{words.title}</chakra.h1>
      <Box color="quiet" mb="16px">
        {words.more}
      </Box>
      {field('code', { autoComplete: 'off', autoFocus: true })}
      {field('organization')}
      {field('prefix', { maxLength: 5 })}
      {field('zone')}
      {field('name', { autoComplete: 'name' })}
      {field('email', { type: 'email', autoComplete: 'username' })}
      {field('password', { type: 'password', autoComplete: 'new-password', minLength: 12, maxLength: 200 })}
      <Fault error={setUp.error} />
      <Flex justify="flex-end">
        <DueButton type="submit" busy={setUp.isPending}>
          {words.do}
        </DueButton>
      </Flex>
    </chakra.form>
  );
}

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
      <chakra.h1 fontSize="19px">{words.title(invited.name)}</chakra.h1>
      <Box color="quiet" mb="16px">
        {words.more(invited.organization)}
      </Box>
      <FormField label={words.password}>
        {(props) => (
          <TextInput
            {...props}
            type="password"
            autoComplete="new-password"
            autoFocus
            required
            minLength={12}
            maxLength={200}
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        )}
      </FormField>
      <Fault error={accept.error} />
      <Flex justify="flex-end">
        <DueButton type="submit" busy={accept.isPending}>
          {words.do}
        </DueButton>
      </Flex>
    </chakra.form>
  );
}
