'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { needsOf } from '../circulation/offers';
import { SideButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Quote } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { DecidesOn } from './DecidesOn';
import { FieldOnPage } from './FieldOnPage';
import { useOwnComments } from './OwnComments';
import { Questions } from './Questions';
import { Receipt } from './Receipt';
import { SigningBar } from './SigningBar';
import { seatRules } from './seatRules';
import { type Signing, useSigning } from './useSigning';
import { Viewer } from './Viewer';
import { signingWords as words } from './words';

/**
 * Where somebody reads and signs: made for a phone and one thumb. The pages stand at the screen's width, each field
 * comes up large above the bar under the thumb, which always says what remains and what comes next.
 */
export function SigningPage({
  view,
  base,
  fileUrl,
  onLeave,
}: {
  readonly view: SeatView;
  readonly base: string;
  readonly fileUrl: (hash: string) => string;
  readonly onLeave?: (() => void) | undefined;
}) {
  const { ref, width } = useWidth<HTMLDivElement>(390);
  const scroller = useRef<HTMLDivElement>(null);
  const signing = useSigning(view, base, scroller);
  const [zoom, setZoom] = useState(1);
  const { content, document, stale, fields, left } = signing;
  const comments = useOwnComments(view, base, document?.content ?? null);
  const decides = (content?.decidesOn.pages.length ?? 0) + (content?.decidesOn.values.length ?? 0) > 0;
  if (!content || !document || !view.content) return <Receipt view={view} base={base} fileUrl={fileUrl} />;

  return (
    <Flex direction="column" h="100%" minH={0} bg="ground">
      <Head view={view} signing={signing} />
      {stale && (
        <Box role="alert" px="16px" py="10px" bg="copperSoft" color="ink">
          {words.stale(view.content.version)}
        </Box>
      )}
      <Box
        ref={scroller}
        flex="1"
        minH={0}
        overflow="auto"
        position="relative"
        tabIndex={0}
        role="region"
        aria-label={view.title}
      >
        {(view.note || content.attachments.length > 0 || decides) && (
          <Box px="16px" py="12px" maxW="820px" mx="auto">
            {view.note && <Quote>{view.note}</Quote>}
            <DecidesOn on={content.decidesOn} />
            {content.attachments.map((file) => (
              <Box key={file.file} mt="6px">
                <chakra.span color="quiet">{words.attachments}: </chakra.span>
                {file.download === null ? (
                  <chakra.span color="pine" fontWeight={600} asChild>
                    <a href={`${fileUrl(file.file)}?download`}>{file.name}</a>
                  </chakra.span>
                ) : (
                  <>
                    {file.name} <chakra.span color="quiet">{words.noDownload[file.download]}</chakra.span>
                  </>
                )}
              </Box>
            ))}
          </Box>
        )}
        {content.documents.length > 1 && (
          <Box px="16px" pt="10px" pb="6px" maxW="820px" mx="auto">
            <ChoiceRow
              label={words.documents(content.documents.length)}
              choices={content.documents.map((one) => ({
                key: one.id,
                name: `${documentName(one.name, view.number)}${left.some((field) => field.file === one.id) ? words.open : ''}`,
              }))}
              chosen={document.id}
              onChoose={signing.showDocument}
            />
          </Box>
        )}
        {!stale && comments.onWhole}
        <Box ref={ref} px={{ base: 0, md: '24px' }} pb="200px" maxW="900px" mx="auto">
          <Viewer
            key={document.file}
            url={fileUrl(document.file)}
            pages={document.pages}
            width={(Math.min(width, 820) - 2) * zoom}
            onSpot={stale ? undefined : comments.onSpot}
            overlay={(page, scale) => (
              <>
                {comments.onPage(page, scale)}
                {fields
                  .filter((field) => field.file === document.id && field.page === page)
                  .map((field) => (
                    <FieldOnPage
                      key={field.id}
                      field={field}
                      scale={scale}
                      value={signing.values[field.id]}
                      active={signing.current === field}
                      me={view.me}
                      base={base}
                      onOpen={() => signing.goTo(field)}
                    />
                  ))}
              </>
            )}
          />
        </Box>
      </Box>
      <SigningBar view={view} signing={signing} base={base} zoom={zoom} onZoom={setZoom} onLeave={onLeave} />
    </Flex>
  );
}

/** What is to be signed, who asks and until when; who they are on request. */
function Head({ view, signing: { panel, setPanel } }: { readonly view: SeatView; readonly signing: Signing }) {
  const zone = view.me?.zone ?? 'UTC';
  const rules = seatRules({ ...view, notBefore: needsOf(view, 'decide')?.notBefore, covers: null }, (at) =>
    momentIn(zone, at, Date.now()),
  );
  return (
    <>
      <Box as="header" px="16px" py="12px" borderBottom="1px solid" borderColor="hairline" flex="none">
        <Flex align="flex-start" gap="12px">
          <Box flex="1" minW={0}>
            <Box fontSize="13px" color="quiet">
              {words.which(view.number, view.revision)}
            </Box>
            <chakra.h1 fontSize="15px" lineHeight="1.35" lineClamp={2}>
              {view.title}
            </chakra.h1>
          </Box>
          <SideButton aria-expanded={panel === 'who'} onClick={() => setPanel(panel === 'who' ? null : 'who')}>
            {words.who}
          </SideButton>
        </Flex>
        <Box fontSize="13px" color="quiet">
          {view.asker ? words.asksYou(view.asker.name, view.organization, view.verb) : view.organization}
          {view.due !== null && (
            <>. {(view.due < Date.now() ? words.wasDue : words.due)(momentIn(zone, view.due, Date.now()))}</>
          )}
        </Box>
        {view.paused !== null && (
          <Box fontSize="13px" color="copperText" fontWeight={600}>
            {words.paused(momentIn(zone, view.paused, Date.now()))}
          </Box>
        )}
        {rules.length > 0 && (
          <Box fontSize="13px" color="quiet">
            {rules.join(' ')}
          </Box>
        )}
        <Questions
          questions={view.questions}
          moment={(at) => momentIn(zone, at, Date.now())}
          asker={() => words.questions.mine}
          answerer={() => words.questions.answered}
        />
      </Box>
      {panel === 'who' && view.asker && (
        <Box px="16px" py="10px" bg="surface" borderBottom="1px solid" borderColor="hairline">
          {words.whoMore(view.asker.name, view.asker.work, view.asker.email, view.organization)}
        </Box>
      )}
    </>
  );
}
