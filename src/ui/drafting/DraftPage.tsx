'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { useMemo, useRef, useState } from 'react';
import { outline, storyText } from '@/core/text/story';
import { type Refusal, tell, type Uploaded, upload } from '../data/client';
import { useMe, usePeople, useTell, useTimes } from '../data/use';
import { Answered } from '../parts/Answered';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { PageHead } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { Viewer } from '../signing/Viewer';
import { DraftTray } from './DraftTray';
import type { DraftView } from './draftView';
import { Editor } from './Editor';
import { OtherText } from './OtherText';
import { SubmitLeaf } from './SubmitLeaf';
import { TextRuler } from './TextRuler';
import { useSavedText } from './useSavedText';
import { draftWords as words } from './words';

export function DraftPage({ change }: { readonly change: string }) {
  const { data: me } = useMe();
  return (
    <Answered<DraftView> name="draft.view" input={{ change }}>
      {(data) => me && <Draft key={data.change} data={data} mine={me.me.id === data.author} />}
    </Answered>
  );
}

/** Where the author writes or loads a draft and hands it in; saved as it is typed. */
function Draft({ data, mine }: { readonly data: DraftView; readonly mine: boolean }) {
  const client = useQueryClient();
  const { name } = usePeople();
  const times = useTimes();
  const { ref, width } = useWidth<HTMLDivElement>(760);
  const chooser = useRef<HTMLInputElement>(null);
  const attacher = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const [submitting, setSubmitting] = useState(false);
  const open = data.phase === 'new' || data.phase === 'running' || data.phase === 'rework';
  const writes = mine && open;
  const text = useSavedText(data, mine, times.now);
  const { story, state, savedAt, settle, moved } = text;

  const apply = async (operation: string, input: object) => {
    setFault(null);
    try {
      const answer = await tell<{ revision: number }>(operation, {
        change: data.change,
        revision: text.revision(),
        ...input,
      });
      moved(answer.revision);
      await client.invalidateQueries({ queryKey: ['ask', 'draft.view'] });
    } catch (error) {
      setFault(error as Refusal);
    }
  };
  const take = async (chosen: File | undefined, after: (file: Uploaded) => Promise<void>) => {
    if (!chosen) return;
    setFault(null);
    setProgress(0);
    try {
      await after(await upload(chosen, setProgress));
    } catch (error) {
      setFault(error as Refusal);
    }
    setProgress(null);
  };
  const setFile = (file: Uploaded) => apply('draft.setFile', { file: file.file, name: file.name });
  const attach = (file: Uploaded) =>
    apply('draft.setAttachments', {
      files: [
        ...data.attachments.map(({ file: hash, name: called }) => ({ file: hash, name: called })),
        { file: file.file, name: file.name },
      ],
    });

  const keep = useTell<object, { version: number }>('draft.makeVersion');
  const next = (data.versions[data.versions.length - 1]?.number ?? 0) + 1;
  const rendering = data.versions.findLast((version) => version.pages === 'waited for');
  const last = data.versions[data.versions.length - 1];
  const ready = data.source === 'file' ? data.main !== null : storyText(story).trim() !== '';
  const sections = useMemo(() => outline(story), [story]);
  const saying =
    state === 'saved'
      ? words.saved(times.moment(savedAt ?? data.saved))
      : state === 'saving'
        ? words.saving
        : words.notSaved;

  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/circulations/${data.circulation}`}>{words.above(data.record.number, data.revision)}</Link>
            </chakra.span>
            {data.reason ? ` · ${data.reason}` : ''}
          </>
        }
        title={data.record.title}
        below={
          data.returned ? (
            <>
              <chakra.span color="copperText" fontWeight={600}>
                {words.returned(name(data.returned.by), times.moment(data.returned.at))}
              </chakra.span>{' '}
              “{data.returned.note}”
            </>
          ) : (
            <chakra.span color="quiet">
              {!open
                ? data.phase === 'sealing'
                  ? words.sealing
                  : words.closed
                : !mine
                  ? words.reader
                  : data.phase === 'running'
                    ? words.inRound
                    : data.author !== data.controller
                      ? words.asked(name(data.controller))
                      : ''}
            </chakra.span>
          )
        }
      >
        {writes && data.source === 'text' && (
          <chakra.span color={state === 'saved' ? 'quiet' : 'copperText'} fontSize="13px" aria-live="polite">
            {saying}
          </chakra.span>
        )}
        {writes && data.source === 'text' && ready && (
          <SideButton
            busy={keep.isPending}
            onClick={() => void settle().then((fine) => fine && keep.mutate({ change: data.change, note: null }))}
          >
            {words.keep}
          </SideButton>
        )}
        {writes && (
          <DueButton
            disabled={!ready || rendering?.submits || text.conflict !== null}
            onClick={() => setSubmitting(true)}
          >
            {words.submit(next)}
          </DueButton>
        )}
      </PageHead>
      <Box px={{ base: '16px', md: '24px' }} flex="none">
        <Fault error={fault ?? keep.error} />
        {last?.pages === 'failed' && <Fault error={{ message: words.fault(last.number) }} />}
        {text.putBack && <Box color="copperText">{words.local}</Box>}
        {text.conflict && <OtherText text={text} />}
        {rendering && (
          <Box role="status" bg="pineSoft" px="14px" py="8px" borderRadius="4px" mb="8px">
            {rendering.submits ? words.renderingToSubmit(rendering.number) : words.rendering(rendering.number)}
          </Box>
        )}
        {!rendering && keep.data && (
          <Box role="status" color="quiet">
            {words.kept(keep.data.version)}
          </Box>
        )}
        {!rendering && data.submitted !== null && !data.returned && (
          <Box role="status" color="quiet" pb="6px">
            {words.submitted(data.submitted)}
          </Box>
        )}
        {submitting && (
          <Box pb="10px">
            <SubmitLeaf change={data.change} next={next} settle={settle} onDone={() => setSubmitting(false)} />
          </Box>
        )}
        {writes && (
          <Flex role="radiogroup" aria-label={words.source} gap="8px" pb="8px">
            {(['text', 'file'] as const).map((source) => (
              <chakra.button
                key={source}
                type="button"
                role="radio"
                aria-checked={data.source === source}
                minH="30px"
                px="12px"
                borderRadius="15px"
                border="1px solid"
                borderColor={data.source === source ? 'pine' : 'hairline'}
                bg={data.source === source ? 'pineSoft' : 'transparent'}
                fontWeight={data.source === source ? 600 : 400}
                cursor="pointer"
                onClick={() => data.source !== source && void settle().then(() => apply('draft.choose', { source }))}
              >
                {words[source]}
              </chakra.button>
            ))}
          </Flex>
        )}
      </Box>
      <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
        {data.source === 'text' && <TextRuler sections={sections} scroller={scroller} />}
        <Box ref={scroller} flex="1" minW={0} overflowY="auto" tabIndex={0} role="region" aria-label={words.editor}>
          <Box ref={ref} maxW="780px" mx="auto" px={{ base: '16px', md: '24px' }} pb="40px">
            {data.source === 'text' ? (
              <Editor
                key={`${data.change} ${writes} ${text.generation}`}
                story={story}
                readOnly={!writes}
                onChange={text.change}
              />
            ) : data.main ? (
              <Box pt="14px">
                <Flex gap="12px" align="center" pb="10px">
                  <Box fontWeight={600} truncate>
                    {data.main.name}
                  </Box>
                  <Box color="quiet">{words.pages(data.main.pages.length)}</Box>
                  {writes && <WordButton onClick={() => chooser.current?.click()}>{words.another}</WordButton>}
                </Flex>
                {progress !== null && (
                  <Box color="quiet" pb="8px">
                    {progress < 1 ? words.uploading(progress) : words.checking}
                  </Box>
                )}
                <Viewer
                  key={data.main.file}
                  url={`/file/draft/${data.change}/${data.main.file}`}
                  pages={data.main.pages}
                  width={Math.min(740, width - 32)}
                />
              </Box>
            ) : (
              <chakra.button
                type="button"
                mt="24px"
                w="100%"
                minH="180px"
                border="1.5px dashed"
                borderColor="edge"
                borderRadius="6px"
                cursor="pointer"
                color="quiet"
                _hover={{ borderColor: 'pine', color: 'ink' }}
                disabled={!writes}
                onClick={() => chooser.current?.click()}
                onDragOver={(event) => event.preventDefault()}
                onDrop={(event) => {
                  event.preventDefault();
                  void take(event.dataTransfer.files[0], setFile);
                }}
              >
                <span aria-live="polite">
                  {progress === null ? words.drop : progress < 1 ? words.uploading(progress) : words.checking}
                </span>
              </chakra.button>
            )}
          </Box>
        </Box>
      </Flex>
      <chakra.input
        ref={chooser}
        type="file"
        accept="application/pdf,.pdf"
        display="none"
        aria-label={words.choose}
        onChange={(event) => void take(event.target.files?.[0], setFile)}
      />
      <chakra.input
        ref={attacher}
        type="file"
        display="none"
        aria-label={words.attach}
        onChange={(event) => void take(event.target.files?.[0], attach)}
      />
      <DraftTray
        data={data}
        writes={writes}
        busy={progress !== null}
        onAttach={() => attacher.current?.click()}
        onApply={apply}
      />
    </>
  );
}
