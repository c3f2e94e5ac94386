'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { QueryClient, QueryClientProvider, useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { type ReactNode, useEffect, useState } from 'react';
import { followChanges } from '../data/changes';
import { useSaid } from '../data/said';
import { ink } from '../theme/system';
import { FindBox, pages } from './FindBox';
import { PersonMenu } from './PersonMenu';
import { Shortcuts } from './Shortcuts';
import { partWords as words } from './words';

/** What every page of a signed-in member stands in: data, hints, the top bar, and the page's own full height. */
export function Shell({ children }: { readonly children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            staleTime: 30_000,
            retry: (count, error) => count < 2 && (error as { status?: number }).status === 0,
            refetchOnWindowFocus: true,
          },
        },
      }),
  );
  return (
    <QueryClientProvider client={client}>
      <Hints />
      <Flex direction="column" h="100dvh" overflow="hidden">
        <TopBar />
        <chakra.main id="page" flex="1" minH={0} display="flex" flexDirection="column" tabIndex={-1} outline="none">
          {children}
        </chakra.main>
      </Flex>
    </QueryClientProvider>
  );
}

function Hints() {
  const client = useQueryClient();
  useEffect(() => followChanges(client), [client]);
  return null;
}

export function Mark() {
  return (
    <svg width={32} height={22} viewBox="0 0 32 22" aria-hidden>
      <path d="M1 3Q16 11 31 3" fill="none" stroke={ink('pine')} strokeWidth={2} strokeLinecap="round" />
      <path d="M16 7V12" stroke={ink('pine')} strokeWidth={1.8} />
      <rect x={9.5} y={12} width={13} height={8.5} rx={3} fill={ink('pine')} />
    </svg>
  );
}

/** One quiet line in the free part of the top bar: what the last act did, and who has it now. It goes by itself. */
function Said() {
  const { text, n } = useSaid();
  const [gone, setGone] = useState(0);
  useEffect(() => {
    const timer = setTimeout(() => setGone(n), 14_000);
    return () => clearTimeout(timer);
  }, [n]);
  const shown = n > gone ? text : '';
  return (
    <Box
      flex="1"
      minW={0}
      role="status"
      fontSize="13.5px"
      color="pine"
      truncate
      textAlign={{ md: 'end' }}
      position={{ base: 'absolute', md: 'static' }}
      top="48px"
      left={0}
      right={0}
      zIndex={15}
      px={{ base: '12px', md: 0 }}
      py={{ base: shown ? '6px' : 0, md: 0 }}
      bg={{ base: 'pineSoft', md: 'transparent' }}
    >
      {shown}
    </Box>
  );
}

function TopBar() {
  const path = usePathname();
  return (
    <>
      <chakra.a
        href="#page"
        position="absolute"
        left="-999px"
        _focus={{ left: '12px', top: '8px', zIndex: 30, bg: 'surface', px: '10px', py: '6px' }}
      >
        {words.skip}
      </chakra.a>
      <Flex
        as="header"
        h="48px"
        flex="none"
        align="center"
        gap={{ base: '14px', md: '28px' }}
        px={{ base: '12px', md: '24px' }}
        borderBottom="1px solid"
        borderColor="hairline"
      >
        <chakra.span display="flex" asChild>
          <Link href="/desk" aria-label="Avenda">
            <Flex align="center" gap="8px" fontWeight={700} fontSize="17px">
              <Mark />
              <chakra.span display={{ base: 'none', md: 'inline' }}>Avenda</chakra.span>
            </Flex>
          </Link>
        </chakra.span>
        <Flex as="nav" gap={{ base: '14px', md: '28px' }} h="100%" align="stretch">
          {pages.map(([href, name]) => {
            const here = path.startsWith(href);
            return (
              <chakra.span
                key={href}
                display="flex"
                alignItems="center"
                color={here ? 'ink' : 'quiet'}
                fontWeight={here ? 600 : 400}
                borderBottom="2px solid"
                borderColor={here ? 'pine' : 'transparent'}
                pt="2px"
                _hover={{ color: 'ink' }}
                asChild
              >
                <Link href={href} aria-current={here ? 'page' : undefined}>
                  {name}
                </Link>
              </chakra.span>
            );
          })}
        </Flex>
        <Said />
        <FindBox />
        <PersonMenu />
      </Flex>
      <Shortcuts />
    </>
  );
}
