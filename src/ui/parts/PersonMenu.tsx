'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { useMe, useTell, useTimes } from '../data/use';
import { currentMode, setMode } from '../theme/mode';
import { Fault } from './form';
import { Link } from './Link';
import { showShortcuts } from './Shortcuts';
import { Tile } from './Tile';
import { partWords as words } from './words';

/** What stands under one's own tile: people, Post room, light and dark, the demonstration's clock, signing out. */
export function PersonMenu() {
  const { data } = useMe();
  const times = useTimes();
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const signOut = useTell('session.end', { after: () => location.assign('/sign-in') });
  const forward = useTell('clock.forward');
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
            <Link href="/me" onClick={() => setOpen(false)}>
              {words.ownPage}
            </Link>
          </chakra.span>
          <chakra.span {...item} asChild>
            <Link href="/people" onClick={() => setOpen(false)}>
              {words.people}
            </Link>
          </chakra.span>
          <chakra.span {...item} asChild>
            <Link href="/organization" onClick={() => setOpen(false)}>
              {words.organization}
            </Link>
          </chakra.span>
          {data.mayManagePeople && (
            <chakra.span {...item} asChild>
              <Link href="/types" onClick={() => setOpen(false)}>
                {words.types}
              </Link>
            </chakra.span>
          )}
          {data.mode === 'demo' && (
            <chakra.span {...item} asChild>
              <Link href="/post" onClick={() => setOpen(false)}>
                {words.postRoom}
              </Link>
            </chakra.span>
          )}
          <chakra.button
            type="button"
            {...item}
            onClick={() => {
              setOpen(false);
              showShortcuts();
            }}
          >
            {words.shortcuts}
          </chakra.button>
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
