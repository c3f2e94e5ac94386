'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react';
import { lintPlaces, type PageSize, type Place, type PlaceKind, placeKinds, placeSizes } from '@/core/page/places';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell } from '../data/use';
import { Answered } from '../parts/Answered';
import { Choose, DueButton, Fault, Field, PageHead, PersonName, TextInput, WordButton } from '../parts/parts';
import { Tile } from '../parts/Tile';
import { useWidth } from '../parts/useWidth';
import { Ruler, Viewer } from './Viewer';
import { placeWords, placesWords as words } from './words';

export function PlacesPage({ circulation }: { readonly circulation: string }) {
  return (
    <Answered<CirculationView> name="circulation.view" input={{ circulation }}>
      {(view) => <Places view={view} />}
    </Answered>
  );
}

/** Puts places on the pages: by mouse, or from the list and moved with arrow keys. */
function Places({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { name, person } = usePeople();
  const scroller = useRef<HTMLDivElement>(null);
  const { ref, width } = useWidth<HTMLDivElement>(820);
  const signing = view.seats.filter((seat) => seat.verb === 'sign');
  const newest = view.versions[view.versions.length - 1];
  const main = newest?.files.find((file) => file.role === 'main');
  const [places, setPlaces] = useState<readonly Place[]>(view.places);
  const [chosen, setChosen] = useState<string | null>(null);
  const [seat, setSeat] = useState(view.seatsWithoutPlace[0] ?? signing[0]?.id ?? '');
  const [kind, setKind] = useState<PlaceKind>('signature');
  const put = useTell<object>('circulation.putPlaces', {
    after: () => router.push(`/circulations/${view.id}${view.phase === 'new' ? '/plan' : ''}`),
  });
  const pages: readonly PageSize[] = newest?.pages ?? [];
  if (signing.length === 0 || !newest || !main) return <Box p="24px">{newest ? words.nobody : words.noVersion}</Box>;
  const frozen = view.frozen !== null;
  const findings = lintPlaces(places, pages, new Set(signing.map((candidate) => candidate.id)));
  const missing = signing.filter(
    (candidate) => !places.some((place) => place.seat === candidate.id && place.kind === 'signature' && place.needed),
  );
  const update = (id: string, part: Partial<Place>) =>
    setPlaces((all) => all.map((place) => (place.id === id ? inside({ ...place, ...part }, pages) : place)));

  const reveal = (id: string) =>
    requestAnimationFrame(() =>
      scroller.current?.querySelector(`[data-place="${id}"]`)?.scrollIntoView({ block: 'nearest' }),
    );
  const add = (page: number, x: number, y: number) => {
    const size = placeSizes[kind];
    const place = inside(
      {
        id: crypto.randomUUID(),
        seat,
        kind,
        page,
        x: x - size.width / 2,
        y: y - size.height / 2,
        ...size,
        needed: kind !== 'words' && kind !== 'choice',
        label: '',
      },
      pages,
    );
    setPlaces([...places, place]);
    setChosen(place.id);
    reveal(place.id);
    const next = missing.find((candidate) => candidate.id !== seat);
    if (kind === 'signature' && next) setSeat(next.id);
  };
  const addFromList = () => {
    const page = currentPage(scroller.current);
    const size = pages[page] ?? { width: 595, height: 842 };
    const below = places
      .filter((place) => place.page === page)
      .reduce((lowest, place) => Math.max(lowest, place.y + place.height + 12), size.height * 0.6);
    add(page, size.width * 0.3, Math.min(below + 24, size.height - 60));
  };
  const repeat = (place: Place, to: string) => {
    const copy = inside({ ...place, id: crypto.randomUUID(), seat: to, y: place.y + place.height + 14 }, pages);
    setPlaces([...places, copy]);
    setChosen(copy.id);
    reveal(copy.id);
  };

  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/circulations/${view.id}`}>{view.number}</Link>
            </chakra.span>
            {` · ${view.record.number}`}
          </>
        }
        title={words.title(view.record.title)}
        below={<chakra.span color="quiet">{frozen ? words.frozen : words.below}</chakra.span>}
      >
        {!frozen && (
          <>
            <chakra.span color={missing.length > 0 ? 'copperText' : 'quiet'} fontSize="13px">
              {words.doneMore(missing.length)}{' '}
              {missing.length === 0 && view.placesWanted && view.stages.some((stage) => stage.status === 'held')
                ? words.opens
                : ''}
            </chakra.span>
            <DueButton
              busy={put.isPending}
              disabled={findings.length > 0}
              onClick={() => put.mutate({ circulation: view.id, file: main.file, places })}
            >
              {words.done}
            </DueButton>
          </>
        )}
      </PageHead>
      <Box px="24px">
        <Fault error={put.error} />
        {!frozen && view.placesOn !== null && view.placesOn !== main.file && places === view.places && (
          <Box color="copperText" pb="8px">
            {words.before}
          </Box>
        )}
      </Box>
      <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
        <Box pl="16px" display="flex">
          <Ruler
            pages={pages}
            scroller={scroller}
            ticks={places.map((place) => ({ key: place.id, page: place.page, y: place.y, tone: 'iris' as const }))}
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
          aria-label={words.title(view.record.title)}
          role="region"
        >
          <Box ref={ref} px="12px">
            <Viewer
              url={`/file/circulation/${view.id}/${main.file}`}
              pages={pages}
              width={Math.min(820, width - 24)}
              onSpot={frozen ? undefined : (spot) => add(spot.page, spot.x, spot.y)}
              overlay={(page, scale) =>
                places
                  .filter((place) => place.page === page)
                  .map((place) => (
                    <PlaceBox
                      key={place.id}
                      place={place}
                      scale={scale}
                      chosen={chosen === place.id}
                      fixed={frozen}
                      fault={findings.some(
                        (finding) => finding.place === place.id || ('other' in finding && finding.other === place.id),
                      )}
                      holder={signing.find((candidate) => candidate.id === place.seat)?.holder ?? ''}
                      letters={
                        person(signing.find((candidate) => candidate.id === place.seat)?.holder ?? '')?.tile ?? '··'
                      }
                      name={name(signing.find((candidate) => candidate.id === place.seat)?.holder ?? '')}
                      onChoose={() => setChosen(place.id)}
                      onChange={(part) => update(place.id, part)}
                      onRemove={() => setPlaces(places.filter((other) => other !== place))}
                    />
                  ))
              }
            />
          </Box>
        </Box>
        <Box w="330px" flex="none" borderLeft="1px solid" borderColor="hairline" overflowY="auto" px="18px" py="14px">
          {!frozen && (
            <>
              <Field label={words.for}>
                {(props) => (
                  <Choose {...props} value={seat} onChange={(event) => setSeat(event.target.value)}>
                    {signing.map((candidate) => (
                      <option key={candidate.id} value={candidate.id}>
                        {name(candidate.holder)}
                        {missing.includes(candidate) ? ` (${words.missingTile})` : ''}
                      </option>
                    ))}
                  </Choose>
                )}
              </Field>
              <Flex gap="10px" align="flex-end">
                <Box flex="1">
                  <Field label={words.kind}>
                    {(props) => (
                      <Choose {...props} value={kind} onChange={(event) => setKind(event.target.value as PlaceKind)}>
                        {placeKinds.map((option) => (
                          <option key={option} value={option}>
                            {placeWords[option]}
                          </option>
                        ))}
                      </Choose>
                    )}
                  </Field>
                </Box>
                <chakra.button
                  type="button"
                  mb="14px"
                  minH="36px"
                  px="12px"
                  border="1px solid"
                  borderColor="edge"
                  borderRadius="6px"
                  bg="surface"
                  cursor="pointer"
                  onClick={addFromList}
                >
                  {words.add}
                </chakra.button>
              </Flex>
            </>
          )}
          <chakra.h2 fontSize="13.5px" mt="6px" mb="6px">
            {words.list}
          </chakra.h2>
          {places.length === 0 && <Box color="quiet">{words.none}</Box>}
          {places.map((place) => {
            const holder = signing.find((candidate) => candidate.id === place.seat)?.holder ?? '';
            const finding = findings.find((candidate) => candidate.place === place.id);
            const others = signing.filter(
              (candidate) =>
                candidate.id !== place.seat &&
                !places.some((other) => other.seat === candidate.id && other.kind === place.kind),
            );
            return (
              <Box key={place.id} borderBottom="1px solid" borderColor="hairline" py="7px">
                <chakra.button
                  type="button"
                  w="100%"
                  textAlign="start"
                  cursor="pointer"
                  aria-pressed={chosen === place.id}
                  fontWeight={chosen === place.id ? 600 : 400}
                  onClick={() => {
                    setChosen(place.id);
                    scroller.current?.querySelector<HTMLElement>(`[data-place="${place.id}"]`)?.focus();
                  }}
                >
                  <PersonName
                    id={holder}
                    quiet={`${placeWords[place.kind].toLowerCase()}, ${words.onPage(place.page + 1)}`}
                    size={20}
                  />
                </chakra.button>
                {finding && (
                  <Box color="oxblood" fontSize="13px">
                    {words.faults[finding.code]}
                  </Box>
                )}
                {chosen === place.id && !frozen && (
                  <Box pt="6px">
                    <TextInput
                      aria-label={words.label}
                      placeholder={words.label}
                      maxLength={80}
                      value={place.label}
                      onChange={(event) => update(place.id, { label: event.target.value })}
                    />
                    <chakra.label display="flex" gap="8px" alignItems="center" minH="28px" mt="4px">
                      <input
                        type="checkbox"
                        checked={place.needed}
                        onChange={(event) => update(place.id, { needed: event.target.checked })}
                      />
                      {words.needed}
                    </chakra.label>
                    <Flex gap="12px" flexWrap="wrap">
                      {others.slice(0, 3).map((other) => (
                        <WordButton key={other.id} onClick={() => repeat(place, other.id)}>
                          {words.repeat(name(other.holder).split(' ')[0] ?? '')}
                        </WordButton>
                      ))}
                      <WordButton onClick={() => setPlaces(places.filter((other) => other !== place))}>
                        {words.remove}
                      </WordButton>
                    </Flex>
                  </Box>
                )}
              </Box>
            );
          })}
        </Box>
      </Flex>
    </>
  );
}

/** Keeps a place inside its page and on whole half points. */
function inside(place: Place, pages: readonly PageSize[]): Place {
  const page = pages[place.page];
  if (!page) return place;
  const width = Math.min(Math.max(14, place.width), page.width);
  const height = Math.min(Math.max(14, place.height), page.height);
  const clamped = (value: number, room: number) => Math.round(Math.min(Math.max(0, value), room) * 2) / 2;
  return {
    ...place,
    width,
    height,
    x: clamped(place.x, page.width - width),
    y: clamped(place.y, page.height - height),
  };
}

function currentPage(scroller: HTMLElement | null): number {
  if (!scroller) return 0;
  const middle = scroller.scrollTop + scroller.clientHeight / 2;
  let found = 0;
  for (const element of scroller.querySelectorAll<HTMLElement>('[data-page]'))
    if (element.offsetTop <= middle) found = Number(element.dataset.page);
  return found;
}

function PlaceBox({
  place,
  scale,
  chosen,
  fixed,
  fault,
  holder,
  letters,
  name,
  onChoose,
  onChange,
  onRemove,
}: {
  readonly place: Place;
  readonly scale: number;
  readonly chosen: boolean;
  readonly fixed: boolean;
  readonly fault: boolean;
  readonly holder: string;
  readonly letters: string;
  readonly name: string;
  readonly onChoose: () => void;
  readonly onChange: (part: Partial<Place>) => void;
  readonly onRemove: () => void;
}) {
  const drag = useRef<{ x: number; y: number; place: Place; size: boolean } | null>(null);
  const begin = (event: PointerEvent<HTMLElement>, size: boolean) => {
    event.stopPropagation();
    onChoose();
    if (fixed) return;
    drag.current = { x: event.clientX, y: event.clientY, place, size };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLElement>) => {
    const from = drag.current;
    if (!from) return;
    const dx = (event.clientX - from.x) / scale;
    const dy = (event.clientY - from.y) / scale;
    onChange(
      from.size
        ? { width: from.place.width + dx, height: from.place.height + dy }
        : { x: from.place.x + dx, y: from.place.y + dy },
    );
  };
  const key = (event: KeyboardEvent<HTMLElement>) => {
    if (fixed) return;
    const step = event.altKey ? 0.5 : 4;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (by) {
      event.preventDefault();
      const [dx = 0, dy = 0] = by;
      onChange(
        event.shiftKey ? { width: place.width + dx, height: place.height + dy } : { x: place.x + dx, y: place.y + dy },
      );
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      onRemove();
    }
  };
  return (
    <Box
      data-over
      data-place={place.id}
      role="button"
      tabIndex={0}
      aria-label={`${name}: ${placeWords[place.kind]}. ${words.move}`}
      position="absolute"
      cursor={fixed ? 'default' : 'move'}
      border="1.5px solid"
      borderColor={fault ? 'oxblood' : chosen ? 'iris' : 'edge'}
      borderStyle={place.needed ? 'solid' : 'dashed'}
      borderRadius="4px"
      bg="irisSoft"
      opacity={0.9}
      display="flex"
      alignItems="center"
      gap="6px"
      px="3px"
      overflow="hidden"
      touchAction="none"
      style={{ left: place.x * scale, top: place.y * scale, width: place.width * scale, height: place.height * scale }}
      onPointerDown={(event) => begin(event, false)}
      onPointerMove={move}
      onPointerUp={() => {
        drag.current = null;
      }}
      onFocus={onChoose}
      onKeyDown={key}
    >
      <Tile person={holder} letters={letters} size={Math.max(12, Math.min(24, place.height * scale - 8))} />
      <chakra.span fontSize="12px" color="ink" truncate>
        {place.label || placeWords[place.kind]}
      </chakra.span>
      {chosen && !fixed && (
        <Box
          position="absolute"
          right={0}
          bottom={0}
          w="14px"
          h="14px"
          cursor="nwse-resize"
          borderRight="3px solid"
          borderBottom="3px solid"
          borderColor="iris"
          onPointerDown={(event) => begin(event, true)}
          onPointerMove={move}
          onPointerUp={() => {
            drag.current = null;
          }}
        />
      )}
    </Box>
  );
}
