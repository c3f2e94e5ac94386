'use client';

import { Box, Combobox, createListCollection, Flex, useCombobox } from '@chakra-ui/react';
import { type ReactNode, useMemo } from 'react';

/** Something that can be found by typing. */
export interface Found {
  readonly value: string;
  readonly label: string;
  /** What stands before and after its name. */
  readonly face?: ReactNode;
  readonly side?: string;
}

/** A field in which one types and chooses one of what is found; choosing empties it for the next. */
export function Finder({
  label,
  placeholder,
  text,
  onText,
  found,
  none,
  focused = false,
  onPick,
}: {
  readonly label: string;
  readonly placeholder: string;
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly found: readonly Found[];
  /** What is said when nothing is found. */
  readonly none: string;
  /** Whether one goes on typing in it as soon as it is there. */
  readonly focused?: boolean;
  readonly onPick: (value: string) => void;
}) {
  const collection = useMemo(() => createListCollection({ items: [...found] }), [found]);
  const combobox = useCombobox({
    collection,
    value: [],
    inputValue: text,
    onInputValueChange: (details) => onText(details.inputValue),
    onValueChange: (details) => details.value[0] !== undefined && onPick(details.value[0]),
    selectionBehavior: 'clear',
    inputBehavior: 'autohighlight',
    openOnClick: true,
    openOnChange: true,
    positioning: { sameWidth: true, gutter: 4 },
  });
  return (
    <Combobox.RootProvider value={combobox} width="100%">
      <Combobox.Control>
        <Combobox.Input
          aria-label={label}
          autoFocus={focused}
          placeholder={placeholder}
          bg="surface"
          borderColor="edge"
          borderRadius="6px"
          px="10px"
          h="36px"
          fontSize="inherit"
          color="ink"
          _placeholder={{ color: 'quiet' }}
        />
      </Combobox.Control>
      <Combobox.Positioner>
        <Combobox.Content
          aria-label={label}
          bg="surface"
          border="1px solid"
          borderColor="edge"
          borderRadius="6px"
          boxShadow="none"
          maxH="260px"
          p="0"
          py="4px"
        >
          {found.length === 0 && (
            <Box px="12px" py="8px" color="quiet">
              {none}
            </Box>
          )}
          {found.map((item) => (
            <Combobox.Item
              key={item.value}
              item={item}
              px="12px"
              py="5px"
              borderRadius="0"
              cursor="pointer"
              fontSize="inherit"
              _highlighted={{ bg: 'pineSoft' }}
            >
              <Flex gap="10px" align="center" w="100%" minW={0}>
                {item.face}
                <Box flex="1" truncate>
                  {item.label}
                </Box>
                {item.side && (
                  <Box color="quiet" fontSize="13px" truncate>
                    {item.side}
                  </Box>
                )}
              </Flex>
            </Combobox.Item>
          ))}
        </Combobox.Content>
      </Combobox.Positioner>
    </Combobox.RootProvider>
  );
}
