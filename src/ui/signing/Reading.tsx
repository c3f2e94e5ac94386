'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useRef } from 'react';
import type { CirculationView } from '@/server/circulation/view';
import { Comments, NewComment } from '../circulation/Comments';
import { may, needsOf } from '../circulation/offers';
import { SeatQuestions } from '../circulation/SeatQuestions';
import { circulationWords } from '../circulation/words';
import { useOrganization } from '../data/organization';
import { usePageKeys } from '../data/pageKeys';
import { usePeople } from '../data/people';
import { useMe, useTimes } from '../data/use';
import { useFirstFocus } from '../data/useFirstFocus';
import { useLineWords } from '../line/LineParts';
import { TinyLine } from '../line/TinyLine';
import { toneOf } from '../line/tone';
import { DueButton, GraveButton, SideButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Link } from '../parts/Link';
import { Leaf, PageHead } from '../parts/parts';
import { AtSpot, CommentMark, SpotRing } from './CommentMark';
import { DecisionLeaf } from './DecisionLeaf';
import { Delegate } from './Delegate';
import { DocumentPages } from './DocumentPages';
import { type Named, NameNext } from './NameNext';
import { AskForm } from './Questions';
import { ReadingTray } from './ReadingTray';
import { seatRules } from './seatRules';
import { TakeOrGiveBack } from './TakeOrGiveBack';
import { type Reader, useReading } from './useReading';
import { signingWords as words } from './words';

/** The pages of a version with the comments on them, and the acts of whoever is asked. */
export function Reading({ view, seat: seatId }: { readonly view: CirculationView; readonly seat: string | null }) {
  const { name } = usePeople();
  const scroller = useRef<HTMLDivElement>(null);
  const reading = useReading(view, seatId);
  const { version, documents, document, here, spot, acting, panel } = reading;
  if (!version) return <Box p="24px">{circulationWords.plan.noVersion}</Box>;

  return (
    <>
      <Head view={view} reading={reading} />
      {reading.stale && <Stale view={view} reading={reading} />}
      {panel && acting && (
        <Box px={{ base: '12px', md: '24px' }} pb="10px" flex="none">
          {panel === 'name' ? (
            <NameNext
              own={{ circulation: view.id, seat: acting.id, epoch: acting.epoch }}
              names={namesOf(view, acting.id)}
              needs={needsOf(view, 'name', acting.id)}
              onDone={() => reading.setPanel(reading.needs?.unnamed ? null : reading.positive)}
            />
          ) : panel === 'ask' ? (
            <Leaf label={words.questions.title}>
              <AskForm
                own={{ circulation: view.id, seat: acting.id, epoch: acting.epoch }}
                base=""
                onDone={() => reading.setPanel(null)}
              />
            </Leaf>
          ) : panel === 'delegate' ? (
            <Delegate view={view} seat={acting} onDecided={reading.leave} onDone={() => reading.setPanel(null)} />
          ) : (
            <DecisionLeaf
              circulation={view.id}
              seat={acting}
              scope={reading.scope ?? ''}
              outcome={panel}
              onDecided={reading.leave}
              onDone={() => reading.setPanel(null)}
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
              reading.showDocument(id);
              scroller.current?.scrollTo({ top: 0 });
            }}
          />
        </Box>
      )}
      {document && (
        <DocumentPages
          label={view.record.title}
          url={`/file/circulation/${view.id}/${document.file}`}
          pages={document.pages ?? []}
          ticks={here.flatMap(({ id, spot: at, resolved }) =>
            at ? [{ key: id, page: at.page, y: at.y, tone: resolved ? ('ahead' as const) : ('pine' as const) }] : [],
          )}
          widest={860}
          scroller={scroller}
          onSpot={may(view, 'comment') && !reading.stale ? reading.commentAt : undefined}
          overlay={(page, scale) => (
            <>
              {here.map((comment, i) =>
                comment.spot?.page === page ? (
                  <CommentMark
                    key={comment.id}
                    n={i + 1}
                    spot={comment.spot}
                    scale={scale}
                    settled={comment.resolved}
                    label={`${name(comment.by)}: ${comment.note ?? ''}`}
                    open={reading.opened === comment.id}
                    onToggle={() => reading.toggle(comment.id)}
                  >
                    <Comments view={view} focus={comment.id} />
                  </CommentMark>
                ) : null,
              )}
              {spot !== null && spot !== 'whole' && spot.page === page && (
                <>
                  <SpotRing spot={spot} scale={scale} strong />
                  <AtSpot spot={spot} scale={scale}>
                    <Leaf label={words.commentHere}>
                      <NewComment view={view} file={document.file} spot={spot} onDone={() => reading.commentAt(null)} />
                    </Leaf>
                  </AtSpot>
                </>
              )}
            </>
          )}
        />
      )}
      <ReadingTray
        view={view}
        reading={reading}
        onPage={(page) => scroller.current?.querySelector(`[data-page="${page}"]`)?.scrollIntoView()}
      />
    </>
  );
}

/** The seats whose holder is named from a seat, and who that is so far. */
function namesOf(view: CirculationView, seat: string): Named[] {
  return (needsOf(view, 'name', seat)?.names ?? []).flatMap(({ seat: id }) => {
    const other = view.seats.find((one) => one.id === id);
    return other ? [{ seat: id, verb: other.verb, person: other.holder || null }] : [];
  });
}

/** How one's response counts, in plain sentences. */
function useRules(view: CirculationView, { seat, needs }: Reader): string[] {
  const times = useTimes();
  const { groups } = useOrganization();
  const { name } = usePeople();
  const { data: me } = useMe();
  const stage = view.stages.find(({ id }) => id === seat?.stage);
  if (!seat || !stage || !needs) return [];
  const covered = seat.covers.find(({ person }) => person === me?.me.id);
  const group = seat.group === null ? null : groups.find(({ id }) => id === seat.group);
  return seatRules(
    {
      stage: { rule: stage.rule, order: stage.order, gathers: stage.onReturn === 'gather', of: stage.seats.length },
      group: group ? { name: group.name, taken: seat.taken } : null,
      notBefore: needs.notBefore,
      covers: covered ? { name: name(covered.for), until: covered.until } : null,
    },
    times.moment,
  );
}

/** What is read, where its circulation stands, and the acts of whoever is asked. */
function Head({ view, reading }: { readonly view: CirculationView; readonly reading: Reader }) {
  const { name } = usePeople();
  const lineWords = useLineWords();
  const times = useTimes();
  const { seat, asked, acting, positive, offered, setPanel, panel, respond } = reading;
  const rules = useRules(view, reading);
  const due = useRef<HTMLButtonElement>(null);
  useFirstFocus(due, acting !== null);
  usePageKeys(acting ? words.keys : []);
  // What was decided leaves the page; that the task is over is no news to who ended it.
  const standing = reading.left
    ? ''
    : asked
      ? seat?.due
        ? (seat.due < times.now() ? words.wasDue : words.due)(times.moment(seat.due))
        : ''
      : view.paused !== null && view.ended === null
        ? words.paused(times.moment(view.paused))
        : seat?.mine
          ? words.notYours
          : words.readOnly;
  return (
    <PageHead
      above={[
        view.record.number,
        circulationWords.revision(view.revision),
        words.version(reading.version?.number ?? 0),
        circulationWords.round(view.round),
        circulationWords.draftOf(name(view.author)),
      ].join(' · ')}
      title={view.record.title}
      below={
        <>
          <Flex gap="16px" align="center" flexWrap="wrap">
            <TinyLine
              model={view.line}
              tone={toneOf({ stops: view.stops.length, nextDue: nextDueOf(view) }, times.now())}
              words={lineWords}
            />
            <chakra.span color="quiet">{standing}</chakra.span>
            <chakra.span color="pine" fontWeight={600} asChild>
              <Link href={`/circulations/${view.id}`}>{words.toCirculation}</Link>
            </chakra.span>
          </Flex>
          {rules.length > 0 && <Box color="quiet">{rules.join(' ')}</Box>}
          {seat && <SeatQuestions view={view} seat={seat.id} />}
        </>
      }
    >
      {acting && (
        <>
          <TakeOrGiveBack
            own={{ circulation: view.id, seat: acting.id, epoch: acting.epoch }}
            take={may(view, 'take', acting.id)}
            giveBack={may(view, 'giveBack', acting.id)}
          />
          {may(view, 'name', acting.id) && (
            <SideButton onClick={() => setPanel(panel === 'name' ? null : 'name')}>{words.nameNext}</SideButton>
          )}
          {may(view, 'askQuestion', acting.id) && (
            <SideButton onClick={() => setPanel(panel === 'ask' ? null : 'ask')}>{words.questions.action}</SideButton>
          )}
          {may(view, 'delegate', acting.id) && (
            <SideButton onClick={() => setPanel(panel === 'delegate' ? null : 'delegate')}>{words.delegate}</SideButton>
          )}
          {offered('declined') && <GraveButton onClick={() => setPanel('declined')}>{words.decline}</GraveButton>}
          {offered('returned') && <SideButton onClick={() => setPanel('returned')}>{words.return}</SideButton>}
          {offered(positive) && (
            <DueButton ref={due} onClick={() => respond(positive)}>
              {acting.verb === 'contribute' ? words.contributeDone : words.outcomes[positive]}
            </DueButton>
          )}
        </>
      )}
    </PageHead>
  );
}

function Stale({ view, reading }: { readonly view: CirculationView; readonly reading: Reader }) {
  return (
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
      <DueButton onClick={() => reading.showVersion(view.newest)}>{words.staleGo}</DueButton>
    </Flex>
  );
}

/** The soonest due time of all who are asked now, whoever looks: the line says the same to everybody. */
function nextDueOf(view: CirculationView): number | null {
  const dues = view.seats.flatMap((seat) => (seat.status === 'asked' && seat.due !== null ? [seat.due] : []));
  return dues.length > 0 ? Math.min(...dues) : null;
}
