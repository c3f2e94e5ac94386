'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { OutputOf } from '../data/client';
import { useNamesThen } from '../data/people';
import { useTimes } from '../data/use';
import { WordButton } from '../parts/buttons';
import { Leaf, PersonName } from '../parts/parts';
import { registerWords as words } from './words';

type RecordView = OutputOf<'record.view'>;

/** The revisions of a document, the current one first, with their files. A superseded one is opened with a word about that. */
export function Revisions({ data, open: opened }: { readonly data: RecordView; readonly open: string | null }) {
  const times = useTimes();
  const then = useNamesThen(data.past);
  const [open, setOpen] = useState(opened);
  const newest = data.revisions[data.revisions.length - 1];
  return (
    <Box>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.revisions}
      </chakra.h2>
      {data.revisions.length === 0 && <Box color="quiet">{words.noRevisions}</Box>}
      {data.revisions
        .slice()
        .reverse()
        .map((revision, i) => (
          <Box key={revision.revision} borderBottom="1px solid" borderColor="hairline">
            <Flex gap="14px" align="center" minH="38px" flexWrap="wrap">
              <Box w="34px" fontWeight={600}>
                {revision.revision}
              </Box>
              <Box w="88px" color={i === 0 ? 'ink' : 'quiet'}>
                {i === 0 ? words.current : words.superseded}
              </Box>
              <Box w="96px" color="quiet">
                {times.day(revision.effective)}
              </Box>
              <Box flex="1" minW={0}>
                <PersonName id={revision.by} called={then(revision.by, revision.released)} />
              </Box>
              {i === 0 ? (
                <RevisionFiles data={data} revision={revision} old={false} />
              ) : (
                <WordButton
                  aria-expanded={open === revision.revision}
                  onClick={() => setOpen(open === revision.revision ? null : revision.revision)}
                >
                  {words.openOld}
                </WordButton>
              )}
            </Flex>
            {revision.title !== data.title && (
              <Box pl="48px" pb="6px" mt={{ base: 0, md: '-4px' }} color="quiet" fontSize="13px">
                {words.asTitle(revision.title)}
              </Box>
            )}
            {i > 0 && open === revision.revision && newest && (
              <Box pb="10px">
                <Leaf label={words.oldTitle(revision.revision)} tone="copper">
                  <Box fontWeight={600}>{words.oldTitle(revision.revision)}</Box>
                  <Box mb="8px">{words.oldMore(newest.revision, times.day(newest.effective))}</Box>
                  {[newest, revision].map((one) => (
                    <Flex key={one.revision} gap="16px" flexWrap="wrap" align="center" minH="28px">
                      <RevisionFiles data={data} revision={one} old={one === revision} which />
                    </Flex>
                  ))}
                </Leaf>
              </Box>
            )}
          </Box>
        ))}
    </Box>
  );
}

/** The files of one revision, as they are, and as copies that say how the revision stands. */
function RevisionFiles({
  data,
  revision,
  old,
  which = false,
}: {
  readonly data: RecordView;
  readonly revision: RecordView['revisions'][number];
  /** Superseded: asked for knowingly. */
  readonly old: boolean;
  /** Says of which revision it is. */
  readonly which?: boolean;
}) {
  const base = `/file/record/${data.record}/${revision.revision}`;
  const more = old ? '&superseded' : '';
  const several = revision.files.length > 1;
  const link = (key: string, href: string, text: string, tab = false) => (
    <chakra.span key={key} color={old ? 'quiet' : 'pine'} fontWeight={600} truncate asChild>
      <a href={href} {...(tab ? { target: '_blank', rel: 'noreferrer' } : {})}>
        {which && !several ? `${text} ${words.ofRevision(revision.revision)}` : text}
      </a>
    </chakra.span>
  );
  return (
    <>
      {revision.files.map((file) =>
        link(file.id, `${base}/${file.id}?download${more}`, several ? file.name : words.download),
      )}
      {revision.files.map((file) =>
        link(
          `print ${file.id}`,
          `${base}/${file.id}?print${more}`,
          several ? words.printOf(file.name) : words.print,
          true,
        ),
      )}
      {revision.evidence && (
        <chakra.span color={old ? 'quiet' : 'pine'} asChild>
          <a href={`${base}/evidence?download`}>{words.evidence}</a>
        </chakra.span>
      )}
    </>
  );
}
