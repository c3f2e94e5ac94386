'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { lineFrom } from '@/core/line/compact';
import { phaseWords } from '../circulation/words';
import type { OutputOf } from '../data/client';
import { usePeople } from '../data/people';
import { useTimes } from '../data/use';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { WordButton } from '../parts/buttons';
import { Leaf, PersonName } from '../parts/parts';
import { registerWords as words } from './words';

type RecordView = OutputOf<'record.view'>;

/** What a document is: its type, its owner, why its current revision was made and who approved it. */
export function RecordFacts({ data }: { readonly data: RecordView }) {
  const { name } = usePeople();
  const facts = [
    [words.kind, data.typeName],
    [words.owner, name(data.owner)],
    ...(data.approvers.length > 0 ? [[words.approvedBy, data.approvers.map(name).join(', ')]] : []),
    ...(data.reason ? [[words.reasonFact, data.reason]] : []),
  ] as const;
  return (
    <Flex
      as="dl"
      columnGap="36px"
      rowGap="6px"
      flexWrap="wrap"
      py="8px"
      borderBottom="1px solid"
      borderColor="hairline"
    >
      {facts.map(([label, value]) => (
        <Box key={label} maxW="460px">
          <chakra.dt fontSize="12.5px" color="quiet">
            {label}
          </chakra.dt>
          <chakra.dd>{value}</chakra.dd>
        </Box>
      ))}
    </Flex>
  );
}

/** The revisions of a document, the current one first, with their files. A superseded one is opened with a word about that. */
export function Revisions({ data, open: opened }: { readonly data: RecordView; readonly open: string | null }) {
  const times = useTimes();
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
                <PersonName id={revision.by} />
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

/** The circulations of a document; those that one may open are buttons. */
export function RecordCirculations({ data }: { readonly data: RecordView }) {
  const router = useRouter();
  const times = useTimes();
  return (
    <Box>
      <chakra.h2 fontSize="13.5px" mb="6px">
        {words.circulations}
      </chakra.h2>
      {data.circulations.map((circulation) => {
        const cells = (
          <>
            <Box w="56px" color="quiet">
              {circulation.number}
            </Box>
            <Box flex="1">{phaseWords[circulation.phase]}</Box>
            {circulation.mine && (
              <TinyLine
                model={lineFrom(circulation.line)}
                tone={toneOf({ stops: circulation.stops ?? 0, nextDue: circulation.nextDue ?? null }, times.now())}
              />
            )}
          </>
        );
        return circulation.id ? (
          <chakra.button
            key={circulation.number}
            type="button"
            display="flex"
            w="100%"
            gap="14px"
            alignItems="center"
            textAlign="start"
            h="38px"
            borderBottom="1px solid"
            borderColor="hairline"
            cursor="pointer"
            _hover={{ bg: 'sunk' }}
            onClick={() => router.push(`/circulations/${circulation.id}`)}
          >
            {cells}
          </chakra.button>
        ) : (
          <Flex
            key={circulation.number}
            gap="14px"
            align="center"
            h="38px"
            borderBottom="1px solid"
            borderColor="hairline"
          >
            {cells}
          </Flex>
        );
      })}
    </Box>
  );
}
