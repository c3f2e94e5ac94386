'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Outcome } from '@/core/circulation/events';
import { type Place, type PlaceValue, valueFaults } from '@/core/page/places';
import { momentIn } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/sign';
import type { Refusal } from '../data/client';
import { useTell } from '../data/use';
import { DueButton, Fault, GraveButton, SideButton, TextArea, TextInput, WordButton } from '../parts/parts';
import { Tile } from '../parts/Tile';
import { useWidth } from '../parts/useWidth';
import { HandMark, MarkShown } from './HandMark';
import { Receipt } from './Receipt';
import { Viewer } from './Viewer';
import { placeWords, signingWords as words } from './words';

type Values = Readonly<Record<string, PlaceValue>>;
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
  const [opened, setOpened] = useState(view.document);
  const document = opened ?? view.document;
  const key = document ? `avenda.values.${view.circulation}.${view.seat}.${document.scope}` : '';
  const [values, setValues] = useState<Values>({});
  const [active, setActive] = useState<string | null>(null);
  const [panel, setPanel] = useState<Panel>(null);
  const [text, setText] = useState('');
  const [agreed, setAgreed] = useState(false);
  const inside = base === '';
  const see = useTell<object>(inside ? 'circulation.see' : 'seat.see', { base });
  const decide = useTell<object>(inside ? 'seat.decideMine' : 'seat.decide', { base });

  useEffect(() => {
    if (!key) return;
    try {
      setValues(JSON.parse(localStorage.getItem(key) ?? '{}') as Values);
    } catch {
      setValues({});
    }
  }, [key]);
  const keep = (next: Values) => {
    setValues(next);
    try {
      localStorage.setItem(key, JSON.stringify(next));
    } catch {
      // What cannot be kept is still there until the page is left.
    }
  };

  const { mutate: tellSeen } = see;
  const scope = view.document?.scope;
  const { circulation, seat, epoch } = view;
  useEffect(() => {
    if (scope) tellSeen(inside ? { circulation, seat, epoch, scope } : { scope });
  }, [scope, tellSeen, inside, circulation, seat, epoch]);

  const places = view.places;
  const faults = useMemo(
    () =>
      valueFaults(places, new Map(Object.entries(values).filter(([id]) => places.some((place) => place.id === id)))),
    [places, values],
  );
  const left = places.filter((place) => faults.some((fault) => fault.place === place.id));
  const stale = !!document && !!view.document && document.scope !== view.document.scope;

  if (!document || !view.document || (decide.isSuccess && !view.document))
    return <Receipt view={view} base={base} fileUrl={fileUrl} />;

  const go = (place: Place) => {
    setPanel(null);
    setActive(place.id);
    requestAnimationFrame(() => {
      const element = scroller.current?.querySelector<HTMLElement>(`[data-place="${place.id}"]`);
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
    decide.mutate(
      {
        ...(inside ? { circulation } : {}),
        seat,
        epoch,
        scope: document.scope,
        outcome,
        words: text,
        values: outcome === 'signed' ? pick(values, places) : {},
      },
      { onSuccess: () => localStorage.removeItem(key) },
    );
  const current = places.find((place) => place.id === active) ?? null;
  const currentDone = current ? !left.includes(current) && values[current.id] !== undefined : false;
  const signs = view.verb === 'sign';
  const positive: Outcome = signs
    ? 'signed'
    : view.verb === 'approve'
      ? text.trim()
        ? 'approvedWithRemarks'
        : 'approved'
      : view.verb === 'read'
        ? 'confirmed'
        : 'done';
  const zone = view.me?.zone ?? 'UTC';

  const primary = () => {
    if (stale)
      return (
        <DueButton
          tone="iris"
          flex="1"
          onClick={() => {
            setOpened(view.document);
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
          tone="iris"
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
          disabled={text.trim() === ''}
          onClick={() => put(panel === 'decline' ? 'declined' : 'returned')}
        >
          {panel === 'decline' ? words.doDecline : words.doReturn}
        </GraveButton>
      );
    if (current && currentDone)
      return (
        <DueButton
          tone="iris"
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
          tone="iris"
          flex="1"
          onClick={() => left[0] && go(left.find((place) => place.id !== active) ?? left[0])}
        >
          {active ? words.next : words.start(left.length)}
        </DueButton>
      );
    return (
      <DueButton tone="iris" flex="1" onClick={() => setPanel('confirm')}>
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
          {words.stale(view.document.version)}
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
        {(view.words || document.attachments.length > 0) && (
          <Box px="16px" py="12px" maxW="820px" mx="auto">
            {view.words && (
              <chakra.blockquote
                fontFamily="serif"
                fontSize="15px"
                whiteSpace="pre-wrap"
                borderLeft="2px solid"
                borderColor="hairline"
                pl="12px"
              >
                {view.words}
              </chakra.blockquote>
            )}
            {document.attachments.map((file) => (
              <Box key={file.file} mt="6px">
                <chakra.span color="quiet">{words.attachments}: </chakra.span>
                <chakra.span color="pine" fontWeight={600} asChild>
                  <a href={`${fileUrl(file.file)}?download`}>{file.name}</a>
                </chakra.span>
              </Box>
            ))}
          </Box>
        )}
        <Box ref={ref} px={{ base: 0, md: '24px' }} pb="200px" maxW="900px" mx="auto">
          <Viewer
            key={document.file}
            url={fileUrl(document.file)}
            pages={document.pages}
            width={Math.min(width, 820)}
            overlay={(page, scale) =>
              places
                .filter((place) => place.page === page)
                .map((place) => (
                  <PlaceToFill
                    key={place.id}
                    place={place}
                    scale={scale}
                    value={values[place.id]}
                    active={active === place.id}
                    me={view.me}
                    onOpen={() => go(place)}
                    onClose={() => setActive(null)}
                    onValue={(value) => keep(value ? { ...values, [place.id]: value } : without(values, place.id))}
                  />
                ))
            }
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
            <Box mb="10px">
              {signs && <Box>{words.signWhat(view.title)}</Box>}
              {!signs && view.verb === 'approve' && (
                <TextArea
                  aria-label={words.remark}
                  placeholder={words.remark}
                  rows={2}
                  maxLength={4000}
                  value={text}
                  onChange={(event) => setText(event.target.value)}
                />
              )}
              {signs && (
                <>
                  <chakra.details my="6px">
                    <chakra.summary color="pine" fontWeight={600} cursor="pointer" minH="24px">
                      {words.meaning}
                    </chakra.summary>
                    <Box fontSize="13.5px" color="quiet">
                      {words.meaningMore}
                    </Box>
                  </chakra.details>
                  <chakra.label display="flex" gap="10px" alignItems="center" minH="32px">
                    <input type="checkbox" checked={agreed} onChange={(event) => setAgreed(event.target.checked)} />
                    {words.consent}
                  </chakra.label>
                </>
              )}
            </Box>
          )}
          {(panel === 'decline' || panel === 'return') && (
            <Box mb="10px">
              <Box mb="6px">{panel === 'decline' ? words.declineWhat : words.returnWhat}</Box>
              <TextArea
                aria-label={words.reason}
                placeholder={words.reason}
                rows={2}
                maxLength={4000}
                autoFocus
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
            </Box>
          )}
          {panel === 'later' && (
            <Box mb="8px">
              {words.putOff} {words.offlineKept}
            </Box>
          )}
          <Fault error={decide.error as Refusal | null} />
          <Flex fontSize="13px" color="quiet" mb="8px" gap="10px" align="center">
            <Box flex="1" aria-live="polite">
              {[
                signs ? words.remaining(left.length) : '',
                words.progress(view.progress.done, view.progress.of, view.verb),
              ]
                .filter(Boolean)
                .join(' · ')}
            </Box>
            {panel === null && !stale && (view.verb === 'sign' || view.verb === 'approve') && (
              <WordButton
                color="quiet"
                onClick={() => {
                  setText('');
                  setPanel('decline');
                }}
              >
                {words.decline}
              </WordButton>
            )}
            {panel === null && !stale && (view.verb === 'review' || view.verb === 'approve') && (
              <WordButton
                color="quiet"
                onClick={() => {
                  setText('');
                  setPanel('return');
                }}
              >
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

function pick(values: Values, places: readonly Place[]): Values {
  return Object.fromEntries(Object.entries(values).filter(([id]) => places.some((place) => place.id === id)));
}

function without(values: Values, id: string): Values {
  return Object.fromEntries(Object.entries(values).filter(([key]) => key !== id));
}

/** One of the signer's places on its page; it opens beneath itself. */
function PlaceToFill({
  place,
  scale,
  value,
  active,
  me,
  onOpen,
  onClose,
  onValue,
}: {
  readonly place: Place;
  readonly scale: number;
  readonly value: PlaceValue | undefined;
  readonly active: boolean;
  readonly me: SeatView['me'];
  readonly onOpen: () => void;
  readonly onClose: () => void;
  readonly onValue: (value: PlaceValue | undefined) => void;
}) {
  const name = me?.name ?? '';
  const open = () => {
    // What is already known is offered, and can be changed.
    if (!value && place.kind === 'name') onValue({ kind: 'text', text: name });
    if (!value && place.kind === 'date')
      onValue({
        kind: 'text',
        text: new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeZone: me?.zone ?? 'UTC' }).format(Date.now()),
      });
    if (place.kind === 'choice')
      onValue(value?.kind === 'ticked' && value.ticked ? undefined : { kind: 'ticked', ticked: true });
    onOpen();
  };
  const label = place.label || words.yourPlace(place.kind);
  const text = value?.kind === 'text' ? value.text : '';
  return (
    <>
      <chakra.button
        type="button"
        data-over
        data-place={place.id}
        aria-label={`${label}${value ? '' : `, ${words.remaining(1)}`}`}
        aria-expanded={active}
        position="absolute"
        border="2px solid"
        borderColor="iris"
        borderStyle={place.needed ? 'solid' : 'dashed'}
        borderRadius="4px"
        bg={value ? 'page' : 'irisSoft'}
        color={value ? 'pageInk' : 'ink'}
        cursor="pointer"
        overflow="hidden"
        display="flex"
        alignItems="center"
        justifyContent="flex-start"
        gap="5px"
        px="3px"
        fontSize={`${Math.max(10, Math.min(15, place.height * scale * 0.5))}px`}
        style={{
          left: place.x * scale,
          top: place.y * scale,
          width: Math.max(24, place.width * scale),
          height: Math.max(24, place.height * scale),
        }}
        onClick={open}
      >
        {value ? (
          <MarkShown value={value} />
        ) : (
          <>
            {me && place.width * scale > 60 && (
              <Tile person={me.id} letters={me.tile} size={Math.min(22, Math.max(14, place.height * scale - 10))} />
            )}
            <span>{place.label || placeWords[place.kind]}</span>
          </>
        )}
      </chakra.button>
      {active && place.kind !== 'choice' && (
        <Box
          data-over
          position="absolute"
          left="8px"
          right="8px"
          zIndex={5}
          bg="surface"
          color="ink"
          border="2px solid"
          borderColor="iris"
          borderRadius="8px"
          px="14px"
          py="12px"
          maxW="420px"
          role="group"
          aria-label={label}
          style={{ top: (place.y + place.height) * scale + 8 }}
        >
          <Flex justify="space-between" align="center" mb="6px">
            <Box fontWeight={600}>{label}</Box>
            <WordButton color="quiet" onClick={onClose}>
              {words.close}
            </WordButton>
          </Flex>
          {place.kind === 'signature' || place.kind === 'initials' ? (
            <HandMark owner={place.kind === 'initials' ? (me?.tile ?? '') : name} value={value} onChange={onValue} />
          ) : (
            <TextInput
              aria-label={label}
              autoFocus
              maxLength={500}
              value={text}
              onChange={(event) => onValue(event.target.value ? { kind: 'text', text: event.target.value } : undefined)}
            />
          )}
        </Box>
      )}
    </>
  );
}
