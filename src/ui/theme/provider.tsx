'use client';

import { ChakraProvider } from '@chakra-ui/react';
import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import { useServerInsertedHTML } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import { system } from './system';

/** The theme's own sheet is a file that comes before (entry/look); made anew with every page it would cost more than the page. */
const dressed: typeof system = { ...system, _config: { ...system._config, disableLayers: true }, _global: [] };

/** Styles of the first page arrive with it, under the page's nonce; without this the browser would draw twice. */
export function Look({ nonce, children }: { readonly nonce: string | undefined; readonly children: ReactNode }) {
  const [{ cache, flush }] = useState(() => {
    const made = createCache({ key: 'av', ...(nonce ? { nonce } : {}) });
    made.compat = true;
    const insert = made.insert;
    let inserted: string[] = [];
    made.insert = (...args) => {
      const serialized = args[1];
      if (made.inserted[serialized.name] === undefined) inserted.push(serialized.name);
      return insert(...args);
    };
    return {
      cache: made,
      flush: () => {
        const names = inserted;
        inserted = [];
        return names;
      },
    };
  });
  useServerInsertedHTML(() => {
    const names = flush();
    if (names.length === 0) return null;
    const styles = names.map((name) => cache.inserted[name]).filter((style) => typeof style === 'string');
    return (
      <style
        key={cache.key}
        data-emotion={`${cache.key} ${names.join(' ')}`}
        nonce={nonce}
        // biome-ignore lint/security/noDangerouslySetInnerHtml: these are the style sheet's own rules, made by this program
        dangerouslySetInnerHTML={{ __html: styles.join('') }}
      />
    );
  });
  return (
    <CacheProvider value={cache}>
      <ChakraProvider value={dressed}>{children}</ChakraProvider>
    </CacheProvider>
  );
}
