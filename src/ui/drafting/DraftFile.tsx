'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef } from 'react';
import type { DraftView } from '@/server/drafting/view';
import { WordButton } from '../parts/buttons';
import { DropPdf } from '../parts/DropPdf';
import { Notices } from '../parts/Notices';
import { useWidth } from '../parts/useWidth';
import { Viewer } from '../signing/Viewer';
import type { useDraftFiles } from './useDraftFiles';
import { draftWords as words } from './words';

/** A document of a draft that is a PDF: its pages as they are, or where to put one. */
export function DraftFile({
  change,
  document: { file },
  writes,
  files,
}: {
  readonly change: string;
  readonly document: DraftView['documents'][number];
  readonly writes: boolean;
  readonly files: ReturnType<typeof useDraftFiles>;
}) {
  const { ref, width } = useWidth<HTMLDivElement>(760);
  const chooser = useRef<HTMLInputElement>(null);
  const { progress, setFile } = files;
  const coming = progress === null ? null : progress < 1 ? words.uploading(progress) : words.checking;
  return (
    <Box ref={ref}>
      {file ? (
        <Box pt="14px">
          <Flex gap="12px" align="center" pb="6px">
            <Box fontWeight={600} truncate>
              {file.name}
            </Box>
            <Box color="quiet">{words.pages(file.pages.length)}</Box>
            {writes && <WordButton onClick={() => chooser.current?.click()}>{words.another}</WordButton>}
          </Flex>
          <Notices notices={file.notices} noFields={file.noFields} />
          {coming && (
            <Box color="quiet" pb="8px">
              {coming}
            </Box>
          )}
          <Viewer
            key={file.file}
            url={`/file/draft/${change}/${file.file}`}
            pages={file.pages}
            width={Math.min(740, width - 32)}
          />
        </Box>
      ) : (
        <DropPdf
          mt="24px"
          minH="180px"
          disabled={!writes}
          saying={coming ?? words.drop}
          onChoose={() => chooser.current?.click()}
          onFile={(dropped) => void setFile(dropped)}
        />
      )}
      <chakra.input
        ref={chooser}
        type="file"
        accept="application/pdf,.pdf"
        display="none"
        aria-label={words.choose}
        onChange={(event) => void setFile(event.target.files?.[0])}
      />
    </Box>
  );
}
