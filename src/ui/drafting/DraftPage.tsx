'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Phase } from '@/core/circulation/state';
import type { PageSize } from '@/core/page/places';
import { emptyStory, outline, type Story, storyText } from '@/core/text/story';
import { type Refusal, tell, type Uploaded, upload } from '../data/client';
import { useMe, usePeople, useTell, useTimes } from '../data/use';
import { Answered } from '../parts/Answered';
import { DueButton, Fact, Fault, PageHead, SideButton, Slip, TextArea, Tray, WordButton } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { Viewer } from '../signing/Viewer';
import { Editor } from './Editor';
import { TextRuler } from './TextRuler';
import { draftWords as words } from './words';

interface DraftView {
  readonly change: string;
  readonly circulation: string;
  readonly record: { id: string; number: string; title: string };
  readonly revision: string;
  readonly reason: string | null;
  readonly author: string;
  readonly controller: string;
  readonly phase: Phase;
  readonly handedIn: number | null;
  readonly returned: { by: string; words: string | null; at: number } | null;
  readonly source: 'text' | 'file';
  readonly story: Story | null;
  readonly main: { file: string; name: string; bytes: number; pages: readonly PageSize[] } | null;
  readonly attachments: readonly { file: string; name: string; bytes: number }[];
  readonly draftRevision: number;
  readonly saved: number;
  readonly versions: readonly {
    number: number;
    source: string;
    at: number;
    by: string;
    words: string | null;
    rendered: boolean;
    file: string | null;
  }[];
  readonly fault: string | null;
}

export function DraftPage({ change }: { readonly change: string }) {
  return (
    <Answered<DraftView> name="draft.view" input={{ change }}>
      {(data) => <Draft key={data.change} data={data} />}
    </Answered>
  );
}

/** Where the author writes or loads a draft and hands it in; saved as it is typed. */
function Draft({ data }: { readonly data: DraftView }) {
  const client = useQueryClient();
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const { ref, width } = useWidth<HTMLDivElement>(760);
  const chooser = useRef<HTMLInputElement>(null);
  const attacher = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [fault, setFault] = useState<Refusal | null>(null);
  const [handing, setHanding] = useState(false);
  const [note, setNote] = useState('');
  const [tray, setTray] = useState(false);
  const revision = useRef(data.draftRevision);
  revision.current = Math.max(revision.current, data.draftRevision);
  const mine = me?.me.id === data.author;
  const open = data.phase === 'new' || data.phase === 'running' || data.phase === 'rework';
  const writes = mine && open;
  const key = `avenda.draft.${data.change}`;

  const { story, state, savedAt, putBack, change: changed, settle } = useSavedText(data, key, revision, times.now);

  const apply = async (operation: string, input: object) => {
    setFault(null);
    try {
      const answer = await tell<{ revision: number }>(operation, {
        change: data.change,
        revision: revision.current,
        ...input,
      });
      revision.current = answer.revision;
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

  const handIn = useTell<object, { version: number; rendering: boolean }>('draft.handIn', {
    after: () => setHanding(false),
  });
  const keep = useTell<object, { version: number }>('draft.makeVersion');
  const next = (data.versions[data.versions.length - 1]?.number ?? 0) + 1;
  const rendering = data.versions.find((version) => version.source === 'text' && !version.rendered);
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
              “{data.returned.words}”
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
            onClick={() => void settle().then((fine) => fine && keep.mutate({ change: data.change, words: null }))}
          >
            {words.keep}
          </SideButton>
        )}
        {writes && (
          <DueButton disabled={!ready || !!rendering} onClick={() => setHanding(true)}>
            {words.handIn(next)}
          </DueButton>
        )}
      </PageHead>
      <Box px={{ base: '16px', md: '24px' }} flex="none">
        <Fault error={fault ?? keep.error} />
        {data.fault && <Fault error={{ message: `${words.fault} ${data.fault}` }} />}
        {putBack && <Box color="copperText">{words.local}</Box>}
        {rendering && (
          <Box role="status" bg="pineSoft" px="14px" py="8px" borderRadius="4px" mb="8px">
            {words.rendering(rendering.number)}
          </Box>
        )}
        {!rendering && keep.data && (
          <Box role="status" color="quiet">
            {words.kept(keep.data.version)}
          </Box>
        )}
        {!rendering && data.handedIn !== null && !data.returned && (
          <Box role="status" color="quiet" pb="6px">
            {words.handedIn(data.handedIn)}
          </Box>
        )}
        {handing && (
          <Box pb="10px">
            <Slip label={words.handInTitle(next)}>
              <Flex gap="16px" align="flex-end" flexWrap="wrap">
                <Box flex="1" minW="280px">
                  <Box fontWeight={600}>{words.handInTitle(next)}</Box>
                  <Box color="quiet" mb="8px">
                    {words.handInWhat}
                  </Box>
                  <TextArea
                    rows={2}
                    aria-label={words.handInWords}
                    placeholder={words.handInWords}
                    maxLength={4000}
                    autoFocus
                    value={note}
                    onChange={(event) => setNote(event.target.value)}
                  />
                </Box>
                <WordButton onClick={() => setHanding(false)}>{words.leave}</WordButton>
                <DueButton
                  busy={handIn.isPending}
                  onClick={() =>
                    void settle().then((fine) => fine && handIn.mutate({ change: data.change, words: note }))
                  }
                >
                  {words.handInDo}
                </DueButton>
              </Flex>
              <Fault error={handIn.error} />
            </Slip>
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
              <Editor key={`${data.change} ${writes}`} story={story} readOnly={!writes} onChange={changed} />
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
      <Tray
        label={words.tray}
        open={tray}
        onToggle={() => setTray(!tray)}
        facts={
          <>
            <Fact name={words.attachments}>{data.attachments.length}</Fact>
            <Fact name={words.versions}>{data.versions.length}</Fact>
          </>
        }
      >
        <Flex gap="40px" flexWrap="wrap">
          <Box flex="1" minW="280px">
            {data.attachments.length === 0 && <Box color="quiet">{words.noAttachments}</Box>}
            {data.attachments.map((file) => (
              <Flex key={file.file} gap="12px" py="3px" align="center">
                <chakra.span color="pine" truncate asChild>
                  <a href={`/file/draft/${data.change}/${file.file}?download`}>{file.name}</a>
                </chakra.span>
                {writes && (
                  <WordButton
                    onClick={() =>
                      void apply('draft.setAttachments', {
                        files: data.attachments
                          .filter((other) => other !== file)
                          .map(({ file: hash, name: called }) => ({ file: hash, name: called })),
                      })
                    }
                  >
                    {words.remove}
                  </WordButton>
                )}
              </Flex>
            ))}
            {writes && (
              <SideButton mt="8px" busy={progress !== null} onClick={() => attacher.current?.click()}>
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
                    {version.words}
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
    </>
  );
}

/**
 * The text, saved as one types: to this device at once, to the server after a short pause. What the server has not
 * taken (no connection, a reload) is put back when the page opens again.
 */
function useSavedText(data: DraftView, key: string, revision: { current: number }, now: () => number) {
  const [savedAt, setSavedAt] = useState<number | null>(null);
  const clock = useRef(now);
  clock.current = now;
  const [{ story, putBack }, setInitial] = useState(() => {
    const saved = data.story ?? emptyStory('b1');
    try {
      const local = JSON.parse(localStorage.getItem(key) ?? 'null') as { revision: number; story: Story } | null;
      if (local && local.revision === data.draftRevision) return { story: local.story, putBack: true };
    } catch {
      // Nothing usable on this device; the server's text stands.
    }
    return { story: saved, putBack: false };
  });
  const [state, setState] = useState<'saved' | 'saving' | 'unsaved'>(putBack ? 'unsaved' : 'saved');
  const latest = useRef(story);
  const dirty = useRef(putBack);
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const running = useRef<Promise<boolean> | null>(null);

  const push = useCallback(async (): Promise<boolean> => {
    while (dirty.current) {
      dirty.current = false;
      setState('saving');
      try {
        const answer = await tell<{ revision: number }>('draft.saveText', {
          change: data.change,
          revision: revision.current,
          story: latest.current,
        });
        revision.current = answer.revision;
      } catch {
        dirty.current = true;
        setState('unsaved');
        return false;
      }
    }
    localStorage.removeItem(key);
    setState('saved');
    setSavedAt(clock.current());
    return true;
  }, [data.change, key, revision]);

  const settle = useCallback(async (): Promise<boolean> => {
    if (timer.current) clearTimeout(timer.current);
    if (running.current) await running.current;
    running.current = push();
    const fine = await running.current;
    running.current = null;
    return fine;
  }, [push]);

  const change = useCallback(
    (next: Story) => {
      latest.current = next;
      dirty.current = true;
      setState('saving');
      setInitial((before) => ({ ...before, story: next }));
      try {
        localStorage.setItem(key, JSON.stringify({ revision: revision.current, story: next }));
      } catch {
        // Too much for this device: the server's copy follows in a moment.
      }
      if (timer.current) clearTimeout(timer.current);
      timer.current = setTimeout(() => void settle(), 600);
    },
    [key, revision, settle],
  );

  useEffect(() => {
    if (dirty.current) void settle();
    const again = setInterval(() => dirty.current && !running.current && void settle(), 5000);
    return () => clearInterval(again);
  }, [settle]);
  return { story, state, savedAt, putBack, change, settle };
}
