'use client';

import { Box, Combobox, createListCollection, Flex, useCombobox } from '@chakra-ui/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useRouter } from '../data/ahead';
import { useAsk, useMe } from '../data/use';
import { useSettled } from '../data/useSettled';
import { finderLine } from './finderLine';
import { places } from './places';
import { partWords as words } from './words';

/** One thing that the box leads to. */
interface Found {
  readonly value: string;
  readonly label: string;
  readonly side: string;
  readonly group: string;
}

/** What the box finds for a text: documents, circulations and people in the database, and what can be done. */
function useFound(text: string, enabled: boolean): readonly Found[] {
  const { data } = useAsk('desk.find', { text: useSettled(text) }, { enabled });
  const { data: me } = useMe();
  return useMemo(() => {
    const wanted = text.trim().toLowerCase();
    const does = [
      [words.doSend, '/desk?send'],
      [words.doNew, '/register/new'],
      ...places.map(([href, name]) => [name, href]),
      [words.late, '/circulations?find=late'],
      [words.stopped, '/circulations?find=stopped'],
      [words.chase, '/desk/late'],
      [words.load, '/circulations/load'],
      [words.people, '/people'],
      [words.ownPage, '/me'],
      [words.organization, '/organization'],
      ...(me?.mayManagePeople ? [[words.types, '/types']] : []),
      ...(me?.mode === 'demo' ? [[words.postRoom, '/post']] : []),
    ] as const;
    return [
      ...(data?.records ?? []).map((row) => ({
        value: `/register/${row.record}`,
        label: row.title,
        side: row.number,
        group: words.records,
      })),
      ...(data?.circulations ?? []).map((row) => ({
        value: `/circulations/${row.id}`,
        label: row.title,
        side: `${row.number} · ${row.document}`,
        group: words.circulationsFound,
      })),
      ...(data?.people ?? []).map((row) => ({
        value: `/people/${row.id}`,
        label: row.name,
        side: row.work,
        group: words.peopleFound,
      })),
      ...(data?.people ?? []).map((row) => ({
        value: `/circulations?find=${encodeURIComponent(row.name)}`,
        label: words.heldBy(row.name),
        side: '',
        group: words.circulationsFound,
      })),
      ...does
        .filter(([name]) => name?.toLowerCase().includes(wanted))
        .map(([name = '', href = '']) => ({ value: href, label: name, side: '', group: words.actions })),
    ];
  }, [data, me?.mode, text, me?.mayManagePeople]);
}

/** The line in use, with what it finds. */
export function Finding({ text, onText }: { readonly text: string; readonly onText: (text: string) => void }) {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(true);
  const found = useFound(text, open);
  const collection = useMemo(() => createListCollection({ items: [...found], groupBy: (item) => item.group }), [found]);
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      input.current?.focus();
      input.current?.select();
      setOpen(true);
    };
    input.current?.focus();
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const combobox = useCombobox({
    collection,
    open,
    onOpenChange: (details) => setOpen(details.open),
    value: [],
    inputValue: text,
    onInputValueChange: (details) => onText(details.inputValue),
    onValueChange: ({ value: [href] }) => {
      if (href === undefined) return;
      onText('');
      input.current?.blur();
      router.push(href);
    },
    selectionBehavior: 'clear',
    inputBehavior: 'autohighlight',
    openOnClick: true,
    openOnChange: true,
    openOnKeyPress: true,
    positioning: { placement: 'bottom-end', gutter: 8, sameWidth: false },
  });
  return (
    <Combobox.RootProvider value={combobox} lazyMount unmountOnExit width="100%">
      <Combobox.Control>
        <Combobox.Input ref={input} unstyled {...finderLine} />
      </Combobox.Control>
      <Combobox.Positioner>
        <Combobox.Content
          aria-label={words.findLabel}
          w={{ base: '88vw', md: '520px' }}
          maxH="70vh"
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderLeft="3px solid"
          borderLeftColor="pine"
          borderRadius="4px"
          boxShadow="none"
          p="0"
          py="6px"
        >
          {found.length === 0 && (
            <Box px="14px" py="10px" color="quiet">
              {words.findEmpty}
            </Box>
          )}
          {collection.group().map(([group, items]) => (
            <Combobox.ItemGroup key={group}>
              <Combobox.ItemGroupLabel fontSize="12.5px" fontWeight={400} color="quiet" px="14px" pt="6px" pb="0">
                {group}
              </Combobox.ItemGroupLabel>
              {items.map((item) => (
                <Combobox.Item
                  key={item.value}
                  item={item}
                  px="14px"
                  py="6px"
                  borderRadius="0"
                  cursor="pointer"
                  fontSize="inherit"
                  _highlighted={{ bg: 'pineSoft' }}
                >
                  <Flex gap="10px" w="100%" minW={0}>
                    <Box flex="1" truncate>
                      {item.label}
                    </Box>
                    <Box color="quiet" flex="none">
                      {item.side}
                    </Box>
                  </Flex>
                </Combobox.Item>
              ))}
            </Combobox.ItemGroup>
          ))}
        </Combobox.Content>
      </Combobox.Positioner>
    </Combobox.RootProvider>
  );
}
