'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useRouter } from '../data/ahead';
import { useKeysOfPage } from '../data/pageKeys';
import { useKept } from '../data/useKept';
import { Tick } from './form';
import { Key } from './parts';
import { places } from './places';
import { partWords as words } from './words';

const asked = 'avenda-shortcuts';

/** Opens the list of shortcuts, for whoever has no key for it. */
export function showShortcuts(): void {
  window.dispatchEvent(new Event(asked));
}

/** The shortcuts of the application and their list. Single keys can be turned off (WCAG 2.2, 2.1.4). */
export function Shortcuts() {
  const router = useRouter();
  const [help, setHelp] = useState(false);
  const [off, setOff] = useKept<boolean>('singleKeysOff');
  useEffect(() => {
    const open = () => setHelp(true);
    const onKey = (event: globalThis.KeyboardEvent) => {
      const writing = (event.target as HTMLElement).closest('input, textarea, select, [contenteditable=true]');
      if (writing || event.metaKey || event.ctrlKey || event.altKey) return;
      if (event.key === 'Escape') setHelp(false);
      if (off) return;
      if (event.key === '?') setHelp((shown) => !shown);
      const page = places[Number(event.key) - 1];
      if (page) router.push(page[0]);
    };
    window.addEventListener('keydown', onKey);
    window.addEventListener(asked, open);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener(asked, open);
    };
  }, [router, off]);
  const own = useKeysOfPage();
  if (!help) return null;
  return (
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
      role="region"
      aria-label={words.shortcuts}
    >
      <Box fontWeight={600} mb="8px">
        {words.shortcuts}
      </Box>
      {own.length > 0 && (
        <Box mb="8px" pb="8px" borderBottom="1px solid" borderColor="hairline">
          {own.map(([key, what]) => (
            <Flex key={key} gap="12px" py="3px">
              <Box w="64px">
                <Key>{key}</Key>
              </Box>
              {what}
            </Flex>
          ))}
        </Box>
      )}
      {[
        [words.findKey, words.keys.find],
        ...places.map(([, name], i) => [String(i + 1), name] as const),
        ['↑ ↓', words.keys.move],
        ['Enter', words.keys.open],
        ['Esc', words.keys.close],
        [words.undoKey, words.keys.undo],
        ['?', words.keys.help],
      ].map(([key, what]) => (
        <Flex key={key} gap="12px" py="3px">
          <Box w="64px">
            <Key>{key}</Key>
          </Box>
          {what}
        </Flex>
      ))}
      <Box mt="8px" pt="8px" borderTop="1px solid" borderColor="hairline">
        <Tick checked={off !== true} onChecked={(on) => setOff(on ? null : true)}>
          {words.keys.single}
        </Tick>
      </Box>
    </Box>
  );
}
