'use client';

import { Box } from '@chakra-ui/react';
import { pageRangesText } from '@/core/route/pageRanges';
import type { CirculationView } from '@/server/circulation/view';
import { useValueWords } from '../circulation/conditionWords';
import { signingWords as words } from './words';

/** What somebody decides on, where that is not the whole of every file. */
export function DecidesOn({ on }: { readonly on: CirculationView['seats'][number]['decidesOn'] }) {
  const value = useValueWords();
  const files = [...new Set(on.pages.map(({ file }) => file))];
  if (files.length === 0 && on.values.length === 0) return null;
  const pages = files.map((file) => words.pagesOf(pageRangesText(on.pages.filter((one) => one.file === file)), file));
  const values = on.values.map((one) => `${one.name}: ${one.value ? value(one.value) : words.noValue}`);
  return <Box mb="8px">{words.decidesOn([...pages, ...values])}</Box>;
}
