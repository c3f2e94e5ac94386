'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { DraftView } from '@/server/drafting/view';
import { useTimes } from '../data/use';
import { SideButton, WordButton } from '../parts/buttons';
import { Fact, Tray } from '../parts/parts';
import { DraftComments, type OpenComments } from './DraftComments';
import type { Attached } from './useDraftFiles';
import { draftWords as words } from './words';

/** The files that travel with a draft, and its versions so far. */
export function DraftTray({
  data,
  comments,
  writes,
  busy,
  onAttach,
  onTravel,
}: {
  readonly data: DraftView;
  readonly comments: OpenComments;
  readonly writes: boolean;
  readonly busy: boolean;
  readonly onAttach: () => void;
  readonly onTravel: (files: readonly Attached[]) => Promise<void>;
}) {
  const times = useTimes();
  const [open, setOpen] = useState(false);
  const [taken, setTaken] = useState<DraftView['attachments'][number] | null>(null);
  return (
    <Tray
      label={words.tray}
      open={open}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          {comments.open.length > 0 && <Fact name={words.openComments(comments.open.length)} />}
          <Fact name={words.attachments}>{data.attachments.length}</Fact>
          <Fact name={words.versions}>{data.versions.length}</Fact>
        </>
      }
    >
      <Flex gap="40px" flexWrap="wrap">
        {comments.open.length > 0 && <DraftComments comments={comments} />}
        <Box flex="1" minW="280px">
          {data.attachments.length === 0 && <Box color="quiet">{words.noAttachments}</Box>}
          {data.attachments.map((file) => (
            <Flex key={file.file} gap="12px" py="3px" align="center">
              <chakra.span color="pine" truncate asChild>
                <a href={`/file/draft/${data.change}/${file.file}?download`}>{file.name}</a>
              </chakra.span>
              {writes && (
                <WordButton
                  onClick={() => {
                    setTaken(file);
                    void onTravel(data.attachments.filter((other) => other !== file));
                  }}
                >
                  {words.remove}
                </WordButton>
              )}
            </Flex>
          ))}
          {writes && taken && !data.attachments.some((file) => file.file === taken.file) && (
            <Flex gap="12px" py="3px" color="quiet">
              <Box truncate>{words.taken(taken.name)}</Box>
              <WordButton
                onClick={() => {
                  setTaken(null);
                  void onTravel([...data.attachments, taken]);
                }}
              >
                {words.putBack}
              </WordButton>
            </Flex>
          )}
          {writes && (
            <SideButton mt="8px" busy={busy} onClick={onAttach}>
              {words.attach}
            </SideButton>
          )}
        </Box>
        <Box flex="1" minW="280px">
          {data.versions
            .slice()
            .reverse()
            .map((version) => (
              <Flex key={version.number} gap="12px" py="3px">
                <Box w="30px" fontWeight={600}>
                  v{version.number}
                </Box>
                <Box color="quiet">{times.moment(version.at)}</Box>
                <Box flex="1" truncate>
                  {version.note}
                </Box>
                {version.file && (
                  <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
                    <a href={`/file/draft/${data.change}/${version.file}`} target="_blank" rel="noreferrer">
                      PDF
                    </a>
                  </chakra.span>
                )}
              </Flex>
            ))}
        </Box>
      </Flex>
    </Tray>
  );
}
