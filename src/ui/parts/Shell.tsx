'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { QueryClient, QueryClientProvider, useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { followHints } from '../data/hints';
import { useAsk, useMe, useTell, useTimes } from '../data/use';
import { currentMode, setMode } from '../theme/mode';
import { ink } from '../theme/system';
import { Fault, Key } from './parts';
import { Tile } from './Tile';
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
  useEffect(() => followHints(client), [client]);
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

const pages = [
  ['/desk', words.pages.desk],
  ['/circulations', words.pages.circulations],
  ['/register', words.pages.register],
] as const;

function TopBar() {
  const path = usePathname();
  const [help, setHelp] = useState(false);
  const router = useRouter();
  useEffect(() => {
    let prefix = false;
    const onKey = (event: globalThis.KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        target.closest('input, textarea, select, [contenteditable=true]') ||
        event.metaKey ||
        event.ctrlKey ||
        event.altKey
      )
        return;
      if (event.key === '?') setHelp((shown) => !shown);
      if (event.key === 'Escape') setHelp(false);
      if (prefix) {
        const page = { d: '/desk', c: '/circulations', r: '/register' }[event.key];
        if (page) router.push(page);
      }
      prefix = event.key === 'g';
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [router]);
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
        <Box flex="1" />
        <FindBox />
        <PersonMenu />
      </Flex>
      {help && (
        <Box
          position="fixed"
          right="24px"
          top="56px"
          zIndex={20}
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderRadius="6px"
          p="16px"
          role="dialog"
          aria-label={words.shortcuts}
        >
          <Box fontWeight={600} mb="8px">
            {words.shortcuts}
          </Box>
          {(
            [
              [words.findKey, words.keys.find],
              ['g d', words.keys.desk],
              ['g c', words.keys.circulations],
              ['g r', words.keys.register],
              ['↑ ↓', words.keys.move],
              ['Enter', words.keys.open],
              ['Esc', words.keys.close],
              ['?', words.keys.help],
            ] as const
          ).map(([key, what]) => (
            <Flex key={key} gap="12px" py="3px">
              <Box w="64px">
                <Key>{key}</Key>
              </Box>
              {what}
            </Flex>
          ))}
        </Box>
      )}
    </>
  );
}

interface Found {
  readonly records: readonly { record: string; number: string; title: string; revision: string | null }[];
  readonly circulations: readonly { id: string; number: string; document: string; title: string; phase: string }[];
}

/** The one box that finds and does everything. */
function FindBox() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const { data } = useAsk<Found>('desk.find', { text }, { enabled: open });
  const { data: me } = useMe();
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      input.current?.focus();
      input.current?.select();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const matches = (name: string) => name.toLowerCase().includes(text.trim().toLowerCase());
  const actions = [
    { name: words.doSend, href: '/desk?send' },
    { name: words.doNew, href: '/register/new' },
    ...pages.map(([href, name]) => ({ name, href })),
    { name: words.people, href: '/people' },
    ...(me?.mode === 'demo' ? [{ name: words.postRoom, href: '/post' }] : []),
  ].filter((action) => matches(action.name));
  const sections = [
    {
      title: words.records,
      items: (data?.records ?? []).map((row) => ({
        key: row.record,
        href: `/register/${row.record}`,
        main: row.title,
        side: row.number,
      })),
    },
    {
      title: words.circulationsFound,
      items: (data?.circulations ?? []).map((row) => ({
        key: row.id,
        href: `/circulations/${row.id}`,
        main: row.title,
        side: `${row.number} · ${row.document}`,
      })),
    },
    {
      title: words.actions,
      items: actions.map((action) => ({ key: action.href, href: action.href, main: action.name, side: '' })),
    },
  ].filter((section) => section.items.length > 0);
  const flat = sections.flatMap((section) => section.items);
  const chosen = flat[Math.min(at, flat.length - 1)];
  const go = (href: string) => {
    setOpen(false);
    setText('');
    input.current?.blur();
    router.push(href);
  };
  return (
    <Box position="relative" w={{ base: '120px', md: '320px' }}>
      <chakra.input
        ref={input}
        value={text}
        placeholder={words.findLabel}
        aria-label={words.findLabel}
        role="combobox"
        aria-expanded={open}
        aria-controls="found"
        aria-activedescendant={open && chosen ? `found-${chosen.key}` : undefined}
        w="100%"
        h="32px"
        px="14px"
        bg="surface"
        border="1px solid"
        borderColor="hairline"
        borderRadius="16px"
        _placeholder={{ color: 'quiet' }}
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt((n) => Math.min(n + 1, flat.length - 1));
          else if (event.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          else if (event.key === 'Enter' && chosen) go(chosen.href);
          else if (event.key === 'Escape') {
            setText('');
            input.current?.blur();
          } else return;
          event.preventDefault();
        }}
      />
      {!open && (
        <Box
          position="absolute"
          right="12px"
          top="6px"
          color="quiet"
          fontSize="12.5px"
          pointerEvents="none"
          display={{ base: 'none', md: 'block' }}
          aria-hidden
        >
          {words.findKey}
        </Box>
      )}
      {open && (
        <Box
          id="found"
          role="listbox"
          aria-label={words.findLabel}
          position="absolute"
          right={0}
          top="38px"
          w={{ base: '88vw', md: '460px' }}
          maxH="70vh"
          overflowY="auto"
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderRadius="8px"
          zIndex={20}
          py="6px"
        >
          {flat.length === 0 && (
            <Box px="14px" py="10px" color="quiet">
              {words.findEmpty}
            </Box>
          )}
          {sections.map((section) => (
            <Box key={section.title} role="group" aria-label={section.title}>
              <Box fontSize="12.5px" color="quiet" px="14px" pt="6px">
                {section.title}
              </Box>
              {section.items.map((item) => (
                <Flex
                  key={item.key}
                  id={`found-${item.key}`}
                  role="option"
                  aria-selected={item === chosen}
                  px="14px"
                  py="6px"
                  gap="10px"
                  cursor="pointer"
                  bg={item === chosen ? 'pineSoft' : undefined}
                  onMouseDown={() => go(item.href)}
                >
                  <Box flex="1" truncate>
                    {item.main}
                  </Box>
                  <Box color="quiet">{item.side}</Box>
                </Flex>
              ))}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

function PersonMenu() {
  const { data } = useMe();
  const times = useTimes();
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const signOut = useTell('session.end', { after: () => location.assign('/sign-in') });
  const forward = useTell<{ hours: number }>('clock.forward');
  useEffect(() => {
    if (!open) return;
    const outside = (event: MouseEvent) => !box.current?.contains(event.target as Node) && setOpen(false);
    const onEscape = (event: globalThis.KeyboardEvent) => event.key === 'Escape' && setOpen(false);
    window.addEventListener('mousedown', outside);
    window.addEventListener('keydown', onEscape);
    return () => {
      window.removeEventListener('mousedown', outside);
      window.removeEventListener('keydown', onEscape);
    };
  }, [open]);
  if (!data) return <Box w="28px" />;
  const item = {
    display: 'block',
    w: '100%',
    textAlign: 'start',
    px: '14px',
    py: '7px',
    cursor: 'pointer',
    _hover: { bg: 'sunk' },
  } as const;
  return (
    <Box ref={box} position="relative">
      <chakra.button
        type="button"
        display="block"
        cursor="pointer"
        aria-label={`${data.me.name}: ${words.you}`}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <Tile person={data.me.id} letters={data.me.tile} size={28} />
      </chakra.button>
      {open && (
        <Box
          position="absolute"
          right={0}
          top="38px"
          w="250px"
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderRadius="8px"
          zIndex={20}
          py="6px"
        >
          <Box px="14px" py="6px" borderBottom="1px solid" borderColor="hairline" mb="4px">
            <Box fontWeight={600}>{data.me.name}</Box>
            <Box color="quiet" fontSize="13px">
              {data.me.work ? `${data.me.work}, ` : ''}
              {data.organization.name}
            </Box>
          </Box>
          <chakra.span {...item} asChild>
            <Link href="/people" onClick={() => setOpen(false)}>
              {words.people}
            </Link>
          </chakra.span>
          {data.mode === 'demo' && (
            <chakra.span {...item} asChild>
              <Link href="/post" onClick={() => setOpen(false)}>
                {words.postRoom}
              </Link>
            </chakra.span>
          )}
          <chakra.button type="button" {...item} onClick={() => setMode(currentMode() === 'dark' ? 'light' : 'dark')}>
            <chakra.span _dark={{ display: 'none' }}>{words.dark}</chakra.span>
            <chakra.span _light={{ display: 'none' }}>{words.light}</chakra.span>
          </chakra.button>
          {data.mode === 'demo' && (
            <Box px="14px" py="7px" borderTop="1px solid" borderColor="hairline" mt="4px">
              <Box fontSize="12.5px" color="quiet">
                {words.demoClock}: {times.moment(times.now())}
              </Box>
              <Flex gap="12px" mt="2px">
                {[4, 24, 168].map((hours) => (
                  <chakra.button
                    key={hours}
                    type="button"
                    color="pine"
                    fontWeight={600}
                    fontSize="13px"
                    cursor="pointer"
                    minH="24px"
                    disabled={forward.isPending}
                    onClick={() => forward.mutate({ hours })}
                  >
                    {words.forward(hours)}
                  </chakra.button>
                ))}
              </Flex>
              <Fault error={forward.error} />
            </Box>
          )}
          {data.mailQueued !== null && (
            <Box px="14px" py="7px" fontSize="13px" color="copperText">
              {words.queued(data.mailQueued)}
            </Box>
          )}
          <chakra.button
            type="button"
            {...item}
            borderTop="1px solid"
            borderColor="hairline"
            mt="4px"
            onClick={() => signOut.mutate({})}
          >
            {words.signOut}
          </chakra.button>
        </Box>
      )}
    </Box>
  );
}
