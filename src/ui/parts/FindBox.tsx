'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { useAsk, useMe } from '../data/use';
import { useSettled } from '../data/useSettled';
import { partWords as words } from './words';

/** The pages of the top bar. */
export const pages = [
  ['/desk', words.pages.desk],
  ['/circulations', words.pages.circulations],
  ['/register', words.pages.register],
] as const;

/** The one box that finds and does everything. */
export function FindBox() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const { data } = useAsk('desk.find', { text: useSettled(text) }, { enabled: open });
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
      title: words.peopleFound,
      items: (data?.people ?? []).map((row) => ({
        key: row.id,
        href: `/people?find=${encodeURIComponent(row.name)}`,
        main: row.name,
        side: row.work,
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
