'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useMemo, useRef, useState } from 'react';
import { outline, storyText } from '@/core/text/story';
import type { DraftView } from '@/server/drafting/view';
import { useTell, useTimes } from '../data/use';
import { useAlive } from '../data/useAlive';
import { Answered } from '../parts/Answered';
import { DueButton, SideButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { Link } from '../parts/Link';
import { PageHead } from '../parts/parts';
import { useOpenComments } from './DraftComments';
import { DraftDocuments } from './DraftDocuments';
import { DraftFile } from './DraftFile';
import { HowItStands, Progress } from './DraftState';
import { DraftTray } from './DraftTray';
import { Editor } from './Editor';
import { OtherText } from './OtherText';
import { SubmitLeaf } from './SubmitLeaf';
import { TextRuler } from './TextRuler';
import { UnsetLetters } from './UnsetLetters';
import { useDraftFiles } from './useDraftFiles';
import { useSavedText } from './useSavedText';
import { draftWords as words } from './words';

type DraftDocument = DraftView['documents'][number];

export function DraftPage({ change }: { readonly change: string }) {
  const [shown, setShown] = useState<string | null>(null);
  // What this device has kept of the text is read when the page is alive; its HTML knows nothing of it.
  const alive = useAlive();
  return (
    <Answered name="draft.view" input={{ change }}>
      {(data) => {
        const document = data.documents.find(({ id }) => id === shown) ?? data.documents[0];
        if (!document) return null;
        if (!alive)
          return <PageHead above={words.above(data.record.number, data.revision)} title={data.record.title} />;
        return <Draft key={`${change} ${document.id}`} data={data} document={document} onShow={setShown} />;
      }}
    </Answered>
  );
}

/** Where the author writes or loads the documents of a draft and submits it; saved as it is typed. */
function Draft({
  data,
  document,
  onShow,
}: {
  readonly data: DraftView;
  readonly document: DraftDocument;
  readonly onShow: (document: string | null) => void;
}) {
  const times = useTimes();
  const attacher = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const [submitting, setSubmitting] = useState(false);
  const text = useSavedText(data, document.id, times.now);
  const files = useDraftFiles(data, document.id, text);
  const keep = useTell('draft.makeVersion');
  const comments = useOpenComments(data.circulation, data.submitted !== null);
  const { story, settle } = text;
  const writes = data.maySubmit;
  const next = (data.versions[data.versions.length - 1]?.number ?? 0) + 1;
  const rendering = data.versions.findLast((version) => version.pages === 'waited for');
  const sections = useMemo(() => outline(story), [story]);
  const ready = data.documents.every((one) =>
    one.source === 'file'
      ? one.file !== null
      : storyText(one.id === document.id ? story : (one.story ?? story)).trim() !== '',
  );
  // What stands in the editor is newer than what the page was answered.
  const documents = data.documents.map((one) =>
    one.id === document.id && one.source === 'text' ? { ...one, story, unset: text.unset } : one,
  );
  const unset = documents.some((one) => one.unset.length > 0);
  const texts = data.documents.some((one) => one.source === 'text');

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
        below={<HowItStands data={data} />}
      >
        {writes && document.source === 'text' && (
          <chakra.span color={text.state === 'saved' ? 'quiet' : 'copperText'} fontSize="13px" aria-live="polite">
            {text.state === 'saved'
              ? words.saved(times.moment(text.savedAt ?? data.saved))
              : text.state === 'saving'
                ? words.saving
                : words.notSaved}
          </chakra.span>
        )}
        {writes && texts && ready && (
          <SideButton
            busy={keep.isPending}
            onClick={() => void settle().then((fine) => fine && keep.mutate({ change: data.change, note: null }))}
          >
            {words.keep}
          </SideButton>
        )}
        {writes && (
          <DueButton
            disabled={!ready || rendering?.submits || text.conflict !== null || unset}
            onClick={() => setSubmitting(true)}
          >
            {words.submit(next)}
          </DueButton>
        )}
      </PageHead>
      <Box px={{ base: '16px', md: '24px' }} flex="none">
        <Fault error={files.fault ?? keep.error} />
        {text.putBack && <Box color="copperText">{words.local}</Box>}
        {text.conflict && <OtherText text={text} />}
        {writes && <UnsetLetters documents={documents} />}
        <Progress data={data} rendering={rendering} kept={keep.data?.version ?? null} />
        {submitting && (
          <Box pb="10px">
            <SubmitLeaf
              change={data.change}
              next={next}
              open={comments.open.length}
              settle={settle}
              onDone={() => setSubmitting(false)}
            />
          </Box>
        )}
        <DraftDocuments
          data={data}
          document={document}
          writes={writes}
          files={files}
          onShow={(id) => void settle().then(() => onShow(id))}
          onAdded={onShow}
        />
      </Box>
      <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
        {document.source === 'text' && <TextRuler sections={sections} scroller={scroller} />}
        <Box ref={scroller} flex="1" minW={0} overflowY="auto" tabIndex={0} role="region" aria-label={words.editor}>
          <Box maxW="780px" mx="auto" px={{ base: '16px', md: '24px' }} pb="40px">
            {document.source === 'text' ? (
              <Editor
                key={`${document.id} ${writes} ${text.generation}`}
                story={story}
                readOnly={!writes}
                unset={text.unset.map(({ letter }) => letter)}
                onChange={text.change}
              />
            ) : (
              <DraftFile change={data.change} document={document} writes={writes} files={files} />
            )}
          </Box>
        </Box>
      </Flex>
      <chakra.input
        ref={attacher}
        type="file"
        display="none"
        aria-label={words.attach}
        onChange={(event) => void files.attach(event.target.files?.[0])}
      />
      <DraftTray
        data={data}
        comments={comments}
        writes={writes}
        busy={files.progress !== null}
        onAttach={() => attacher.current?.click()}
        onTravel={files.travel}
      />
    </>
  );
}
