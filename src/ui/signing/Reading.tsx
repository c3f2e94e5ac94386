'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import type { Outcome } from '@/core/circulation/events';
import type { CirculationView } from '@/server/circulation/view';
import { Comments, NewComment } from '../circulation/Comments';
import { may, needsOf } from '../circulation/offers';
import { circulationWords } from '../circulation/words';
import { usePeople, useTell, useTimes } from '../data/use';
import { useEscape } from '../data/useEscape';

import { TinyLine } from '../line/LineDrawing';
import { toneOf } from '../line/tone';
import { DueButton, GraveButton, SideButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Choose } from '../parts/form';
import { Fact, Leaf, PageHead, Tray } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { AtSpot, CommentMark } from './CommentMark';
import { DecisionLeaf } from './DecisionLeaf';
import { Delegate } from './Delegate';
import { Ruler, Viewer } from './Viewer';
import { signingWords as words } from './words';

type Panel = Outcome | 'delegate' | null;

/** The pages of a version with the comments on them, and the acts of whoever is asked. */
export function Reading({ view, seat: seatId }: { readonly view: CirculationView; readonly seat: string | null }) {
  const { name } = usePeople();
  const times = useTimes();
  const scroller = useRef<HTMLDivElement>(null);
  const { ref, width } = useWidth<HTMLDivElement>(860);
  // The version that was opened stays; a newer one is told, and nothing can be decided on the old one.
  const [shown, setShown] = useState(view.newest);
  const version =
    view.versions.find((candidate) => candidate.number === shown) ?? view.versions[view.versions.length - 1];
  const [panel, setPanel] = useState<Panel>(null);
  const [spot, setSpot] = useState<{ page: number; x: number; y: number } | 'whole' | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const [tray, setTray] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const see = useTell('circulation.see');
  const seat = view.seats.find((candidate) => candidate.id === seatId) ?? null;
  const needs = seat && needsOf(view, 'decide', seat.id);
  const asked = seat !== null && needs !== null;
  const offered = (outcome: Outcome) => needs?.outcomes?.includes(outcome) ?? false;
  const stale = shown !== null && view.newest !== null && view.newest > shown;

  const { mutate: tellSeen } = see;
  const scope = version && seat ? version.scopes[seat.id] : undefined;
  const unseen = asked && !stale && seat.seen?.scope !== scope;
  const [id, epoch] = [seat?.id, seat?.epoch];
  useEffect(() => {
    if (unseen && scope && id !== undefined && epoch !== undefined)
      tellSeen({ circulation: view.id, seat: id, epoch, scope });
  }, [unseen, scope, tellSeen, view.id, id, epoch]);
  useEscape(() => {
    setSpot(null);
    setOpened(null);
    setPanel(null);
  });

  if (!version) return <Box p="24px">{circulationWords.plan.noVersion}</Box>;
  const documents = version.files.filter((file) => file.role === 'document');
  const document = documents.find((file) => file.id === chosen) ?? documents[0];
  const attachments = version.files.filter((file) => file.role === 'attachment');
  const threads = view.comments.filter((comment) => !comment.thread && comment.file === document?.file);
  const others = view.comments.filter((comment) => !comment.thread && comment.file !== document?.file).length;
  const open = view.comments.filter((comment) => !comment.thread && !comment.resolved).length;
  const positive: Outcome = seat?.verb === 'approve' ? 'approved' : seat?.verb === 'read' ? 'confirmed' : 'done';
  const mayComment = may(view, 'comment');

  return (
    <>
      <PageHead
        above={
          <>
            {view.record.number} · {circulationWords.revision(view.revision)} · {words.version(version.number)} ·{' '}
            {circulationWords.round(view.round)} · {circulationWords.draftOf(name(view.author))}
          </>
        }
        title={view.record.title}
        below={
          <Flex gap="16px" align="center" flexWrap="wrap">
            <TinyLine
              model={view.line}
              tone={toneOf({ stops: view.stops.length, nextDue: nextDueOf(view) }, times.now())}
            />
            <chakra.span color="quiet">
              {asked && seat.due !== null
                ? (seat.due < times.now() ? words.wasDue : words.due)(times.moment(seat.due))
                : asked
                  ? ''
                  : seat?.mine
                    ? words.notYours
                    : words.readOnly}
            </chakra.span>
            <chakra.span color="pine" fontWeight={600} asChild>
              <Link href={`/circulations/${view.id}`}>{words.toCirculation}</Link>
            </chakra.span>
          </Flex>
        }
      >
        {asked && !stale && (
          <>
            {may(view, 'delegate', seat.id) && (
              <SideButton onClick={() => setPanel(panel === 'delegate' ? null : 'delegate')}>
                {words.delegate}
              </SideButton>
            )}
            {offered('declined') && <GraveButton onClick={() => setPanel('declined')}>{words.decline}</GraveButton>}
            {offered('returned') && <SideButton onClick={() => setPanel('returned')}>{words.return}</SideButton>}
            <DueButton onClick={() => setPanel(positive)}>
              {seat.verb === 'contribute' ? words.contributeDone : words.outcomes[positive]}
            </DueButton>
          </>
        )}
      </PageHead>
      {stale && (
        <Flex
          role="alert"
          mx="24px"
          mb="10px"
          px="14px"
          py="10px"
          bg="copperSoft"
          borderLeft="3px solid"
          borderColor="copper"
          borderRadius="4px"
          align="center"
          gap="16px"
        >
          <Box flex="1">{words.stale(view.newest ?? 0)}</Box>
          <DueButton
            onClick={() => {
              setShown(view.newest);
              setPanel(null);
            }}
          >
            {words.staleGo}
          </DueButton>
        </Flex>
      )}
      {panel && asked && !stale && (
        <Box px={{ base: '12px', md: '24px' }} pb="10px" flex="none">
          {panel === 'delegate' ? (
            <Delegate view={view} seat={seat} onDone={() => setPanel(null)} />
          ) : (
            <DecisionLeaf
              circulation={view.id}
              seat={seat}
              scope={scope ?? ''}
              outcome={panel}
              onDone={() => setPanel(null)}
            />
          )}
        </Box>
      )}
      {documents.length > 1 && document && (
        <Box px={{ base: '16px', md: '24px' }} pb="8px" flex="none">
          <ChoiceRow
            label={words.documents(documents.length)}
            choices={documents.map((file) => ({ key: file.id, name: documentName(file.name, view.record.number) }))}
            chosen={document.id}
            onChoose={(id) => {
              setChosen(id);
              setSpot(null);
              setOpened(null);
              scroller.current?.scrollTo({ top: 0 });
            }}
          />
        </Box>
      )}
      <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
        <Box pl="16px" display="flex">
          <Ruler
            pages={document?.pages ?? []}
            scroller={scroller}
            ticks={threads.flatMap((comment) =>
              comment.spot
                ? [
                    {
                      key: comment.id,
                      page: comment.spot.page,
                      y: comment.spot.y,
                      tone: comment.resolved ? ('ahead' as const) : ('pine' as const),
                    },
                  ]
                : [],
            )}
          />
        </Box>
        <Box
          ref={scroller}
          flex="1"
          minW={0}
          overflowY="auto"
          position="relative"
          py="14px"
          tabIndex={0}
          role="region"
          aria-label={view.record.title}
        >
          <Box ref={ref} px="12px">
            {document && (
              <Viewer
                key={document.file}
                url={`/file/circulation/${view.id}/${document.file}`}
                pages={document?.pages ?? []}
                width={Math.min(860, width - 24)}
                onSpot={
                  !mayComment || stale
                    ? undefined
                    : (at) => {
                        setOpened(null);
                        setSpot(at);
                      }
                }
                overlay={(page, scale) => (
                  <>
                    {threads.map((comment, i) =>
                      comment.spot?.page === page ? (
                        <CommentMark
                          key={comment.id}
                          n={i + 1}
                          spot={comment.spot}
                          scale={scale}
                          settled={comment.resolved}
                          label={`${name(comment.by)}: ${comment.note ?? ''}`}
                          open={opened === comment.id}
                          onToggle={() => {
                            setSpot(null);
                            setOpened(opened === comment.id ? null : comment.id);
                          }}
                        >
                          <Comments view={view} focus={comment.id} />
                        </CommentMark>
                      ) : null,
                    )}
                    {spot !== null && spot !== 'whole' && spot.page === page && (
                      <AtSpot spot={spot} scale={scale}>
                        <Leaf label={words.commentHere}>
                          <NewComment view={view} file={document.file} spot={spot} onDone={() => setSpot(null)} />
                        </Leaf>
                      </AtSpot>
                    )}
                  </>
                )}
              />
            )}
          </Box>
        </Box>
      </Flex>
      <Tray
        label={circulationWords.tray.label}
        open={tray}
        onToggle={() => setTray(!tray)}
        facts={
          <>
            <Fact name={circulationWords.tray.comments}>
              {circulationWords.tray.openOf(threads.length + others, open)}
            </Fact>
            <Fact name={circulationWords.tray.files}>{attachments.length}</Fact>
            {mayComment && <chakra.span color="quiet">{words.commentHelp}</chakra.span>}
          </>
        }
      >
        <Flex gap="40px" flexWrap="wrap">
          <Box flex="1.4" minW="300px">
            {mayComment &&
              !stale &&
              document &&
              (spot === 'whole' ? (
                <NewComment view={view} file={document.file} spot={null} onDone={() => setSpot(null)} />
              ) : (
                <SideButton mb="6px" onClick={() => setSpot('whole')}>
                  {words.commentHere}
                </SideButton>
              ))}
            <Comments
              view={view}
              onSpot={(page) => scroller.current?.querySelector(`[data-page="${page}"]`)?.scrollIntoView()}
            />
          </Box>
          <Box flex="1" minW="240px">
            {attachments.map((file) => (
              <Box key={file.file} py="3px">
                <chakra.span color="pine" fontWeight={600} asChild>
                  <a href={`/file/circulation/${view.id}/${file.file}?download`}>{file.name}</a>
                </chakra.span>
              </Box>
            ))}
            {view.versions.length > 1 && (
              <Box mt="10px" maxW="220px">
                <Choose
                  aria-label={words.versionLabel}
                  value={version.number}
                  onChange={(event) => setShown(Number(event.target.value))}
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
    </>
  );
}

/** The soonest due time of all who are asked now, whoever looks: the line says the same to everybody. */
function nextDueOf(view: CirculationView): number | null {
  const dues = view.seats.flatMap((seat) => (seat.status === 'asked' && seat.due !== null ? [seat.due] : []));
  return dues.length > 0 ? Math.min(...dues) : null;
}
