'use client';

import { chakra, Flex } from '@chakra-ui/react';
import { QueryClient, QueryClientProvider, useMutation } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { type CommandName, type InputOf, type Refusal, tell } from '../data/client';
import { Mark } from '../parts/Shell';

/** The frame of pages for those who are not known yet. */
export function Frame({ children }: { readonly children: ReactNode }) {
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

/** Puts a command as somebody who is not known yet. */
export function useAtEntrance<N extends CommandName>(name: N) {
  return useMutation<unknown, Refusal, InputOf<N>>({ mutationFn: (input) => tell(name, input) });
}

/** Puts a command by which somebody becomes known, and goes on where they wanted to go. */
export function useEntrance<N extends CommandName>(name: N, to: string) {
  return useMutation<unknown, Refusal, InputOf<N>>({
    mutationFn: (input) => tell(name, input),
    onSuccess: () => location.assign(to),
  });
}
