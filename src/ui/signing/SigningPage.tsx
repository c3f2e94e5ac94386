'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Outcome } from '@/core/circulation/events';
import { type Field, type FieldValue, valueFaults } from '@/core/page/fields';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { useTell } from '../data/use';
import { useKept, useKeptText } from '../data/useKept';
import { DueButton, GraveButton, SideButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Fault, WordsField } from '../parts/form';
import { useWidth } from '../parts/useWidth';
import { Confirm } from './Confirm';
import { FieldToFill } from './FieldToFill';
import { useOwnComments } from './OwnComments';
import { Receipt } from './Receipt';
import { Viewer } from './Viewer';
import { signingWords as words } from './words';

type Values = Readonly<Record<string, FieldValue>>;
type Panel = 'confirm' | 'decline' | 'return' | 'later' | 'who' | null;

/**
 * Where somebody reads and signs: made for a phone and one thumb. The pages stand at the screen's width, each place
 * opens where it is, and the bar under the thumb always says what remains and what comes next.
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
  // What was open when the page came: a newer version shows as a warning, never as a change under one's eyes.
  const [opened, setOpened] = useState(view.content);
  const content = opened ?? view.content;
  const [chosen, setChosen] = useState<string | null>(null);
  const document = content?.documents.find(({ id }) => id === chosen) ?? content?.documents[0] ?? null;
  const [kept, keep] = useKept<Values>(`values.${view.circulation}.${view.seat}.${content?.scope}`);
  const values = kept ?? {};
  const [active, setActive] = useState<string | null>(null);
  const [panel, setPanel] = useState<Panel>(null);
  // A reason that was begun and left does not become a word with a decision.
  const [reason, setReason] = useKeptText(`refuse.${view.seat}.${view.epoch}`);
  const [comment, setComment] = useKeptText(`decide.${view.seat}.${view.epoch}`);
  const [agreed, setAgreed] = useState(false);
  const { decide, see } = useActs(view, base);
  // What is told as seen is what stands on the screen, not what may have come meanwhile.
  const scope = content?.scope;
  useEffect(() => {
    if (scope) see(scope);
  }, [scope, see]);

  const comments = useOwnComments(view, base, document?.content ?? null);
  const order = (field: Field) => content?.documents.findIndex(({ id }) => id === field.file) ?? 0;
  const fields = view.fields.slice().sort((a, b) => order(a) - order(b));
  const faults = valueFaults(fields, new Map(Object.entries(pick(values, fields))));
  const left = fields.filter((field) => faults.some((fault) => fault.field === field.id));
  const newer = view.content;
  const stale = content !== null && newer !== null && content.scope !== newer.scope;

  if (!content || !document || !newer) return <Receipt view={view} base={base} fileUrl={fileUrl} />;

  const go = (field: Field) => {
    setPanel(null);
    setActive(field.id);
    setChosen(field.file);
    requestAnimationFrame(() => {
      const element = scroller.current?.querySelector<HTMLElement>(`[data-place="${field.id}"]`);
      if (!element || !scroller.current) return;
      const top =
        element.getBoundingClientRect().top - scroller.current.getBoundingClientRect().top + scroller.current.scrollTop;
      scroller.current.scrollTo({
        top: Math.max(0, top - 90),
        behavior: matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth',
      });
    });
  };
  const put = (outcome: Outcome) =>
    decide.put(
      {
        scope: content.scope,
        outcome,
        note: outcome === 'returned' || outcome === 'declined' ? reason : comment,
        values: outcome === 'signed' ? pick(values, fields) : {},
      },
      () => {
        keep(null);
        setReason('');
        setComment('');
      },
    );
  const current = fields.find((field) => field.id === active) ?? null;
  const currentDone = current ? !left.includes(current) && values[current.id] !== undefined : false;
  const signs = view.verb === 'sign';
  const tone = signs ? 'iris' : 'pine';
  const positive: Outcome = signs
    ? 'signed'
    : view.verb === 'approve'
      ? comment.trim()
        ? 'approvedWithComments'
        : 'approved'
      : view.verb === 'read'
        ? 'confirmed'
        : 'done';
  const zone = view.me?.zone ?? 'UTC';
  const outcomes = view.offers.find((offer) => offer.act === 'decide')?.needs.outcomes ?? [];
  const offered = (outcome: Outcome) => outcomes.includes(outcome);

  const primary = () => {
    if (stale)
      return (
        <DueButton
          tone={tone}
          flex="1"
          onClick={() => {
            setOpened(newer);
            setActive(null);
            setPanel(null);
          }}
        >
          {words.staleGo}
        </DueButton>
      );
    if (panel === 'confirm')
      return (
        <DueButton
          tone={tone}
          flex="1"
          busy={decide.isPending}
          disabled={signs && !agreed}
          onClick={() => put(positive)}
        >
          {signs ? words.signIt : words.outcomes[positive]}
        </DueButton>
      );
    if (panel === 'decline' || panel === 'return')
      return (
        <GraveButton
          flex="1"
          minH="40px"
          borderColor="oxblood"
          busy={decide.isPending}
          disabled={reason.trim() === ''}
          onClick={() => put(panel === 'decline' ? 'declined' : 'returned')}
        >
          {panel === 'decline' ? words.doDecline : words.doReturn}
        </GraveButton>
      );
    if (current && currentDone)
      return (
        <DueButton
          tone={tone}
          flex="1"
          onClick={() => {
            if (left[0]) return go(left[0]);
            setActive(null);
            setPanel('confirm');
          }}
        >
          {current.kind === 'signature' ? words.use : current.kind === 'initials' ? words.useInitials : words.fill}
        </DueButton>
      );
    if (signs && left.length > 0)
      return (
        <DueButton
          tone={tone}
          flex="1"
          onClick={() => left[0] && go(left.find((field) => field.id !== active) ?? left[0])}
        >
          {active ? words.next : words.start(left.length)}
        </DueButton>
      );
    return (
      <DueButton tone={tone} flex="1" onClick={() => setPanel('confirm')}>
        {words.outcomes[positive]}
      </DueButton>
    );
  };

  return (
    <Flex direction="column" h="100%" minH={0} bg="ground">
      <Flex
        as="header"
        align="flex-start"
        gap="12px"
        px="16px"
        py="12px"
        borderBottom="1px solid"
        borderColor="hairline"
        flex="none"
      >
        <Box flex="1" minW={0}>
          <chakra.h1 fontSize="15px" lineHeight="1.35" lineClamp={2}>
            {view.title}
          </chakra.h1>
          <Box fontSize="13px" color="quiet">
            {view.asker ? words.asksYou(view.asker.name, view.organization, view.verb) : view.organization}
            {view.due !== null && (
              <>. {(view.due < Date.now() ? words.wasDue : words.due)(momentIn(zone, view.due, Date.now()))}</>
            )}
          </Box>
        </Box>
        <SideButton aria-expanded={panel === 'who'} onClick={() => setPanel(panel === 'who' ? null : 'who')}>
          {words.who}
        </SideButton>
      </Flex>
      {panel === 'who' && view.asker && (
        <Box px="16px" py="10px" bg="surface" borderBottom="1px solid" borderColor="hairline">
          {words.whoMore(view.asker.name, view.asker.work, view.asker.email, view.organization)}
        </Box>
      )}
      {stale && (
        <Box role="alert" px="16px" py="10px" bg="copperSoft" color="ink">
          {words.stale(newer.version)}
        </Box>
      )}
      <Box
        ref={scroller}
        flex="1"
        minH={0}
        overflowY="auto"
        position="relative"
        tabIndex={0}
        role="region"
        aria-label={view.title}
      >
        {(view.note || content.attachments.length > 0) && (
          <Box px="16px" py="12px" maxW="820px" mx="auto">
            {view.note && (
              <chakra.blockquote
                fontFamily="serif"
                fontSize="15px"
                whiteSpace="pre-wrap"
                borderLeft="2px solid"
                borderColor="hairline"
                pl="12px"
              >
                {view.note}
              </chakra.blockquote>
            )}
            {content.attachments.map((file) => (
              <Box key={file.file} mt="6px">
                <chakra.span color="quiet">{words.attachments}: </chakra.span>
                <chakra.span color="pine" fontWeight={600} asChild>
                  <a href={`${fileUrl(file.file)}?download`}>{file.name}</a>
                </chakra.span>
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
              onChoose={(id) => {
                setChosen(id);
                setActive(null);
                scroller.current?.scrollTo({ top: 0 });
              }}
            />
          </Box>
        )}
        {!stale && comments.onWhole}
        <Box ref={ref} px={{ base: 0, md: '24px' }} pb="200px" maxW="900px" mx="auto">
          <Viewer
            key={document.file}
            url={fileUrl(document.file)}
            pages={document.pages}
            width={Math.min(width, 820) - 2}
            onSpot={stale ? undefined : comments.onSpot}
            overlay={(page, scale) => (
              <>
                {comments.onPage(page, scale)}
                {fields
                  .filter((field) => field.file === document.id && field.page === page)
                  .map((field) => (
                    <FieldToFill
                      key={field.id}
                      field={field}
                      scale={scale}
                      value={values[field.id]}
                      active={active === field.id}
                      me={view.me}
                      onOpen={() => go(field)}
                      onClose={() => setActive(null)}
                      onValue={(value) => keep(value ? { ...values, [field.id]: value } : without(values, field.id))}
                    />
                  ))}
              </>
            )}
          />
        </Box>
      </Box>
      <Box
        as="section"
        aria-label={words.sign}
        borderTop="1px solid"
        borderColor="hairline"
        bg="surface"
        px="16px"
        pt="10px"
        pb="max(14px, env(safe-area-inset-bottom))"
        flex="none"
      >
        <Box maxW="820px" mx="auto">
          {panel === 'confirm' && (
            <Confirm
              title={view.title}
              verb={view.verb}
              agreed={agreed}
              onAgreed={setAgreed}
              text={comment}
              onText={setComment}
            />
          )}
          {(panel === 'decline' || panel === 'return') && (
            <Box mb="10px">
              <Box mb="6px">{panel === 'decline' ? words.declineWhat : words.returnWhat}</Box>
              <WordsField label={words.reason} text={reason} onText={setReason} autoFocus />
            </Box>
          )}
          {panel === 'later' && (
            <Box mb="8px">
              {words.putOff} {words.offlineKept}
            </Box>
          )}
          <Fault error={decide.error} />
          <Flex fontSize="13px" color="quiet" mb="8px" gap="10px" align="center">
            <Box flex="1" aria-live="polite">
              {[
                signs ? words.remaining(left.length) : '',
                words.progress(view.progress.done, view.progress.of, view.verb),
              ]
                .filter(Boolean)
                .join(' · ')}
            </Box>
            {panel === null && !stale && offered('declined') && (
              <WordButton color="quiet" onClick={() => setPanel('decline')}>
                {words.decline}
              </WordButton>
            )}
            {panel === null && !stale && offered('returned') && (
              <WordButton color="quiet" onClick={() => setPanel('return')}>
                {words.return}
              </WordButton>
            )}
          </Flex>
          <Flex gap="10px">
            {panel === null || panel === 'who' ? (
              <SideButton minH="40px" onClick={() => (onLeave ? onLeave() : setPanel('later'))}>
                {words.notNow}
              </SideButton>
            ) : (
              <SideButton minH="40px" onClick={() => setPanel(null)}>
                {words.back}
              </SideButton>
            )}
            {primary()}
          </Flex>
        </Box>
      </Box>
    </Flex>
  );
}

interface Said {
  readonly scope: string;
  readonly outcome: Outcome;
  readonly note: string;
  readonly values: Values;
}

/** What the holder of a seat does from its page: as a member, or through their link. */
function useActs({ circulation, seat, epoch }: Pick<SeatView, 'circulation' | 'seat' | 'epoch'>, base: string) {
  const { mutate: seeAsMember } = useTell('circulation.see');
  const { mutate: seeThroughLink } = useTell('seat.see', { base });
  const asMember = useTell('seat.decideMine');
  const throughLink = useTell('seat.decide', { base });
  const member = base === '';
  const see = useCallback(
    (scope: string) => (member ? seeAsMember({ circulation, seat, epoch, scope }) : seeThroughLink({ scope })),
    [member, seeAsMember, seeThroughLink, circulation, seat, epoch],
  );
  const { isPending, error } = member ? asMember : throughLink;
  const put = (said: Said, onSuccess: () => void) =>
    member
      ? asMember.mutate({ circulation, seat, epoch, ...said }, { onSuccess })
      : throughLink.mutate({ seat, epoch, ...said }, { onSuccess });
  return { see, decide: { put, isPending, error } };
}

function pick(values: Values, fields: readonly Field[]): Values {
  return Object.fromEntries(Object.entries(values).filter(([id]) => fields.some((field) => field.id === id)));
}

function without(values: Values, id: string): Values {
  return Object.fromEntries(Object.entries(values).filter(([key]) => key !== id));
}
