'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { Comments, NewComment } from '../circulation/Comments';
import { may } from '../circulation/offers';
import { circulationWords } from '../circulation/words';
import { SideButton } from '../parts/buttons';
import { Choose } from '../parts/form';
import { Fact, Tray } from '../parts/parts';
import { barOf } from './barOf';
import type { Reader } from './useReading';
import { signingWords as words } from './words';

/** The tray under the pages: all comments, what goes with the documents, and earlier versions. */
export function ReadingTray({
  view,
  reading,
  onPage,
}: {
  readonly view: CirculationView;
  readonly reading: Reader;
  readonly onPage: (page: number) => void;
}) {
  const [open, setOpen] = useState(false);
  const { threads, attachments, document, version } = reading;
  const unresolved = threads.filter((comment) => !comment.resolved).length;
  const mayComment = may(view, 'comment');
  const bar = barOf(view, document ? [...attachments, document] : attachments);
  return (
    <Tray
      label={circulationWords.tray.label}
      open={open}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          <Fact name={circulationWords.tray.comments}>{circulationWords.tray.openOf(threads.length, unresolved)}</Fact>
          <Fact name={circulationWords.tray.files}>{attachments.length}</Fact>
          {mayComment && <chakra.span color="quiet">{words.commentHelp}</chakra.span>}
        </>
      }
    >
      <Flex gap="40px" flexWrap="wrap">
        <Box flex="1.4" minW="300px">
          {mayComment &&
            !reading.stale &&
            document &&
            (reading.spot === 'whole' ? (
              <NewComment view={view} file={document.file} spot={null} onDone={() => reading.commentAt(null)} />
            ) : (
              <SideButton mb="6px" onClick={() => reading.commentAt('whole')}>
                {words.commentHere}
              </SideButton>
            ))}
          <Comments view={view} onSpot={onPage} />
        </Box>
        <Box flex="1" minW="240px">
          {attachments.map((file) => (
            <Box key={file.file} py="3px">
              {view.sight[file.file]?.download === null ? (
                <chakra.span color="pine" fontWeight={600} asChild>
                  <a href={`/file/circulation/${view.id}/${file.file}?download`}>{file.name}</a>
                </chakra.span>
              ) : (
                file.name
              )}
            </Box>
          ))}
          {bar && (
            <Box color="quiet" fontSize="13px">
              {words.noDownload[bar]}
            </Box>
          )}
          {view.versions.length > 1 && version && (
            <Box mt="10px" maxW="220px">
              <Choose
                aria-label={words.versionLabel}
                value={version.number}
                onChange={(event) => reading.showVersion(Number(event.target.value))}
              >
                {view.versions.map((entry) => (
                  <option key={entry.number} value={entry.number}>
                    {entry.number === view.newest ? words.version(entry.number) : words.fromBefore(entry.number)}
                  </option>
                ))}
              </Choose>
            </Box>
          )}
        </Box>
      </Flex>
    </Tray>
  );
}
