'use client';

import { Box, Combobox, createListCollection, Flex, useCombobox } from '@chakra-ui/react';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';

/** Something that can be found by typing. */
interface Found {
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
  searching = false,
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
  /** Whether what is found is still awaited. */
  readonly searching?: boolean;
  readonly onPick: (value: string) => void;
}) {
  const collection = useMemo(() => createListCollection({ items: [...found] }), [found]);
  const input = useRef<HTMLInputElement>(null);
  // Enter takes the first that is found, also when it is pressed before the answer has come.
  const [taking, setTaking] = useState<string | null>(null);
  const first = found[0]?.value;
  useEffect(() => {
    if (taking === null || searching) return;
    setTaking(null);
    if (taking === text && first !== undefined) onPick(first);
  }, [taking, searching, text, first, onPick]);
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
  useEffect(() => {
    // What is looked at does not move away when one begins to type.
    if (focused) input.current?.focus({ preventScroll: true });
  }, [focused]);
  return (
    <Combobox.RootProvider value={combobox} width="100%">
      <Combobox.Control>
        <Combobox.Input
          ref={input}
          aria-label={label}
          onKeyDownCapture={(event) => {
            if (event.key !== 'Enter' || text.trim() === '') return;
            event.preventDefault();
            event.stopPropagation();
            const marked = found.find(({ value }) => combobox.open && value === combobox.highlightedValue);
            if (marked && !searching) onPick(marked.value);
            else setTaking(text);
          }}
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
              fontSize="14px"
              // A tile keeps its own size.
              _icon={{ boxSize: 'auto' }}
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
