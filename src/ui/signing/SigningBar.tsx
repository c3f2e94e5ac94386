'use client';

import { Box, Flex } from '@chakra-ui/react';
import { verbFacts } from '@/core/route/verbs';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { may, needsOf } from '../circulation/offers';
import { DueButton, GraveButton, SideButton, WordButton } from '../parts/buttons';
import { Fault, WordsField } from '../parts/form';
import { Confirm } from './Confirm';
import { DelegateOutside } from './DelegateOutside';
import { FieldPanel } from './FieldPanel';
import { NameNext, NameNextOutside } from './NameNext';
import { AskForm } from './Questions';
import { TakeOrGiveBack } from './TakeOrGiveBack';
import type { Signing } from './useSigning';
import { signingWords as words } from './words';

/** The bar under the thumb: what remains, what else can be said, and the one act that comes next. */
export function SigningBar({
  view,
  signing,
  base,
  zoom,
  onZoom,
  onLeave,
}: {
  readonly view: SeatView;
  readonly signing: Signing;
  readonly base: string;
  /** How much larger than the screen's width a page stands. */
  readonly zoom: number;
  readonly onZoom: (zoom: number) => void;
  readonly onLeave?: (() => void) | undefined;
}) {
  const { panel, setPanel, stale, left, offered } = signing;
  const resting = panel === null || panel === 'who';
  return (
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
        {resting && !stale && <FieldPanel view={view} signing={signing} base={base} />}
        {panel === 'confirm' && (
          <Confirm
            title={view.title}
            verb={view.verb}
            agreed={signing.agreed}
            onAgreed={signing.setAgreed}
            text={signing.comment}
            onText={signing.setComment}
          />
        )}
        {(panel === 'decline' || panel === 'return') && (
          <Box mb="10px">
            <Box mb="6px">{panel === 'decline' ? words.declineWhat : words.returnWhat}</Box>
            <WordsField label={words.reason} text={signing.reason} onText={signing.setReason} autoFocus />
          </Box>
        )}
        {panel === 'name' &&
          (base === '' ? (
            <Box mb="10px">
              <NameNext
                own={view}
                names={view.names}
                needs={needsOf(view, 'name')}
                onDone={() => setPanel(signing.unnamed ? null : 'confirm')}
              />
            </Box>
          ) : (
            <NameNextOutside view={view} base={base} onDone={() => setPanel(null)} />
          ))}
        {panel === 'ask' && <AskForm own={view} base={base} onDone={() => setPanel(null)} />}
        {panel === 'delegate' && <DelegateOutside view={view} base={base} />}
        {panel === 'later' && (
          <Box mb="8px">
            {words.putOff} {words.offlineKept}
          </Box>
        )}
        <Fault error={signing.error} />
        <Flex fontSize="13px" color="quiet" mb="8px" gap="6px 14px" align="center" flexWrap="wrap">
          <Box flex={{ base: '1 0 100%', sm: '1' }} aria-live="polite">
            {[
              verbFacts[view.verb].signs ? words.remaining(left.length) : '',
              words.progress(view.progress.done, view.progress.of, view.verb),
            ]
              .filter(Boolean)
              .join(' · ')}
          </Box>
          {resting && !stale && signing.current === null && left.length === 0 && signing.fields[0] && (
            <WordButton color="quiet" onClick={() => signing.fields[0] && signing.goTo(signing.fields[0])}>
              {words.lookThrough}
            </WordButton>
          )}
          {resting && !stale && base === '' && (
            <TakeOrGiveBack own={view} take={may(view, 'take')} giveBack={may(view, 'giveBack')} />
          )}
          {resting && (
            <Flex gap="6px">
              <SideButton
                minH="26px"
                px="9px"
                aria-label={words.reduce}
                disabled={zoom <= 1}
                onClick={() => onZoom(zoom / 1.5)}
              >
                −
              </SideButton>
              <SideButton
                minH="26px"
                px="9px"
                aria-label={words.enlarge}
                disabled={zoom >= 3}
                onClick={() => onZoom(zoom * 1.5)}
              >
                +
              </SideButton>
            </Flex>
          )}
          {panel === null && !stale && offered('declined') && (
            <WordButton color="quiet" onClick={() => setPanel('decline')}>
              {words.decline}
            </WordButton>
          )}
          {panel === null && !stale && offered('returned') && (
            <WordButton color="quiet" onClick={() => setPanel('return')}>
              {verbFacts[view.verb].signs ? words.changes : words.return}
            </WordButton>
          )}
          {panel === null && !stale && may(view, 'name') && (
            <WordButton color="quiet" onClick={() => setPanel('name')}>
              {words.nameNext}
            </WordButton>
          )}
          {panel === null && !stale && may(view, 'askQuestion') && (
            <WordButton color="quiet" onClick={() => setPanel('ask')}>
              {words.questions.action}
            </WordButton>
          )}
          {panel === null && !stale && base !== '' && may(view, 'delegate') && (
            <WordButton color="quiet" onClick={() => setPanel('delegate')}>
              {words.delegate}
            </WordButton>
          )}
        </Flex>
        <Flex gap="10px">
          <SideButton
            minH="40px"
            onClick={() => (resting ? (onLeave ? onLeave() : setPanel('later')) : setPanel(null))}
          >
            {resting ? words.notNow : words.back}
          </SideButton>
          <NextStep view={view} signing={signing} />
        </Flex>
      </Box>
    </Box>
  );
}

/** The act that comes next; there is always exactly one. */
function NextStep({ view, signing }: { readonly view: SeatView; readonly signing: Signing }) {
  const { panel, left, current, positive } = signing;
  const signs = verbFacts[view.verb].signs;
  const tone = signs ? 'iris' : 'pine';
  const filled = current !== null && !left.includes(current) && signing.values[current.id] !== undefined;
  if (signing.stale)
    return (
      <DueButton tone={tone} flex="1" onClick={signing.showNewest}>
        {words.staleGo}
      </DueButton>
    );
  if (panel === 'name' || panel === 'delegate' || panel === 'ask') return null;
  // What may not be answered yet can be read, and filled in.
  if (!signing.offered(positive) && left.length === 0)
    return (
      <DueButton tone={tone} flex="1" disabled>
        {typeof signing.notBefore === 'number'
          ? words.notYet(momentIn(view.me?.zone ?? 'UTC', signing.notBefore, Date.now()))
          : words.outcomes[positive]}
      </DueButton>
    );
  if (panel === 'confirm')
    return (
      <DueButton
        tone={tone}
        flex="1"
        busy={signing.busy}
        disabled={signs && !signing.agreed}
        onClick={() => signing.decide(positive)}
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
        busy={signing.busy}
        disabled={signing.reason.trim() === ''}
        onClick={() => signing.decide(panel === 'decline' ? 'declined' : 'returned')}
      >
        {panel === 'decline' ? words.doDecline : words.doReturn}
      </GraveButton>
    );
  if (current && filled)
    return (
      <DueButton
        tone={tone}
        flex="1"
        onClick={() => {
          if (left[0]) return signing.goTo(left[0]);
          signing.leaveField();
          signing.confirm();
        }}
      >
        {current.kind === 'signature' ? words.use : current.kind === 'initials' ? words.useInitials : words.fill}
      </DueButton>
    );
  const next = left.find((field) => field !== current) ?? left[0];
  if (signs && next)
    return (
      <DueButton tone={tone} flex="1" onClick={() => signing.goOn(next)}>
        {!current ? words.start(left.length) : next === current ? words.outcomes[positive] : words.next}
      </DueButton>
    );
  return (
    <DueButton tone={tone} flex="1" onClick={signing.confirm}>
      {words.outcomes[positive]}
    </DueButton>
  );
}
