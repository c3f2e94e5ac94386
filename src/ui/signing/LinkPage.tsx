'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useState } from 'react';
import type { Refusal } from '../data/client';
import { useAsk } from '../data/use';
import { Mark } from '../parts/Shell';
import { SigningPage } from './SigningPage';
import { signingWords as words } from './words';

/** The Signing page behind a link: no account, its own cookie, nothing of the rest of Avenda. */
export function LinkPage({ handle }: { readonly handle: string }) {
  const [client] = useState(
    () => new QueryClient({ defaultOptions: { queries: { retry: false, refetchInterval: 15_000 } } }),
  );
  return (
    <QueryClientProvider client={client}>
      <chakra.main h="100dvh" overflow="hidden">
        <Opened base={`/sign/${handle}`} />
      </chakra.main>
    </QueryClientProvider>
  );
}

/** Why a link shows nothing, and how to go on. */
function whyNot(error: Refusal | null): { title: string; more: string } | null {
  switch (error?.code) {
    case undefined:
      return null;
    case 'link-delegated':
      return { title: error?.message ?? words.moved, more: words.delegatedMore };
    case 'link-moved':
      return { title: words.moved, more: words.movedMore };
    case 'link-elsewhere':
      return { title: words.elsewhere, more: words.elsewhereMore };
    case 'offline':
      return { title: error?.message ?? '', more: '' };
    default:
      return { title: words.unknown, more: words.unknownMore };
  }
}

function Opened({ base }: { readonly base: string }) {
  const { data, error } = useAsk('seat.view', {}, { base });
  const why = whyNot(error);
  if (why && !data)
    return (
      <Flex direction="column" align="center" justify="center" minH="80vh" px="24px" textAlign="center" gap="10px">
        <Mark />
        <chakra.h1 fontSize="19px">{why.title}</chakra.h1>
        <Box color="quiet" maxW="420px">
          {why.more}
        </Box>
      </Flex>
    );
  if (!data) return null;
  // A seat that was taken away while its page was open shows no document any more.
  if (error?.code === 'link-moved' || error?.code === 'link-delegated')
    return (
      <Box p="40px" textAlign="center">
        {why?.title}
      </Box>
    );
  return <SigningPage view={data} base={base} fileUrl={(hash) => `${base}/file/${hash}`} />;
}
