'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef } from 'react';
import type { DraftView } from '@/server/drafting/view';
import { WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import type { useDraftFiles } from './useDraftFiles';
import { draftWords as words } from './words';

/** Which document of a draft is open, whether it is written or loaded, and further ones. */
export function DraftDocuments({
  data,
  document,
  writes,
  files,
  onShow,
  onAdded,
}: {
  readonly data: DraftView;
  readonly document: DraftView['documents'][number];
  readonly writes: boolean;
  readonly files: ReturnType<typeof useDraftFiles>;
  /** Somebody wants to see another one. */
  readonly onShow: (document: string) => void;
  /** Another one was added, or this one removed and nothing is chosen. */
  readonly onAdded: (document: string | null) => void;
}) {
  const adder = useRef<HTMLInputElement>(null);
  if (!writes && data.documents.length < 2) return null;
  return (
    <Flex columnGap="24px" rowGap="4px" align="center" flexWrap="wrap" pb="8px">
      {data.documents.length > 1 && (
        <ChoiceRow
          label={words.documents}
          choices={data.documents.map((one) => ({
            key: one.id,
            name: documentName(one.name, data.record.number) || data.record.title,
          }))}
          chosen={document.id}
          onChoose={onShow}
        />
      )}
      <Box flex="1" />
      {writes && (
        <>
          <ChoiceRow
            label={words.source}
            choices={[
              { key: 'text', name: words.text },
              { key: 'file', name: words.file(document.marginLine) },
            ]}
            chosen={document.source}
            onChoose={(source) => void files.choose(source)}
          />
          <WordButton onClick={() => adder.current?.click()}>{words.addDocument}</WordButton>
          {data.documents.filter((one) => one.record === document.record).length > 1 && (
            <WordButton color="quiet" onClick={() => void files.removeDocument(() => onAdded(null))}>
              {words.removeDocument}
            </WordButton>
          )}
        </>
      )}
      <chakra.input
        ref={adder}
        type="file"
        accept="application/pdf,.pdf"
        display="none"
        aria-label={words.addDocument}
        onChange={(event) => void files.addDocument(event.target.files?.[0], onAdded)}
      />
    </Flex>
  );
}
