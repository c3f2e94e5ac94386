'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { lintPlaces, type PageSize, type Place, type PlaceKind, placeKinds, placeSizes } from '@/core/page/places';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell } from '../data/use';
import { useKept } from '../data/useKept';
import { useUndo } from '../data/useUndo';
import { Answered } from '../parts/Answered';
import { DueButton, WordButton } from '../parts/buttons';
import { Choose, Fault, Field } from '../parts/fields';
import { PageHead } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { PlaceBox } from './PlaceBox';
import { PlaceLine } from './PlaceLine';
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
  // What is put here is on the circulation only when it is kept; until then this device holds it.
  const [held, hold] = useKept<readonly Place[]>(`places.${view.id}.${main?.file}`);
  const places = held ?? view.places;
  const { change: setPlaces, undo, can: canUndo } = useUndo<readonly Place[]>(places, hold);
  const [chosen, setChosen] = useState<string | null>(null);
  const [seat, setSeat] = useState(view.seatsWithoutPlace[0] ?? signing[0]?.id ?? '');
  const [kind, setKind] = useState<PlaceKind>('signature');
  const put = useTell<object>('circulation.putPlaces', {
    after: () => {
      hold(null);
      router.push(`/circulations/${view.id}${view.phase === 'new' ? '/plan' : ''}`);
    },
  });
  const pages: readonly PageSize[] = newest?.pages ?? [];
  if (signing.length === 0 || !newest || !main) return <Box p="24px">{newest ? words.nobody : words.noVersion}</Box>;
  const frozen = view.frozen !== null;
  const findings = lintPlaces(places, pages, new Set(signing.map((candidate) => candidate.id)));
  const missing = signing.filter(
    (candidate) => !places.some((place) => place.seat === candidate.id && place.kind === 'signature' && place.needed),
  );
  const holderOf = (place: Place) => signing.find((candidate) => candidate.id === place.seat)?.holder ?? '';
  const update = (id: string, part: Partial<Place>) =>
    setPlaces(
      places.map((place) => (place.id === id ? inside({ ...place, ...part }, pages) : place)),
      `${id} ${Object.keys(part).join()}`,
    );

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
        {!frozen && held !== null && (
          <Flex gap="12px" align="center" pb="8px" color="copperText">
            {words.notKept}
            {canUndo && <WordButton onClick={undo}>{words.undo}</WordButton>}
            <WordButton onClick={() => hold(null)}>{words.asKept}</WordButton>
          </Flex>
        )}
        {!frozen && view.placesOn !== null && view.placesOn !== main.file && held === null && (
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
                      holder={holderOf(place)}
                      letters={person(holderOf(place))?.tile ?? '··'}
                      name={name(holderOf(place))}
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
          {places.map((place) => (
            <PlaceLine
              key={place.id}
              place={place}
              holder={holderOf(place)}
              finding={findings.find((candidate) => candidate.place === place.id)?.code ?? null}
              others={signing.filter(
                (candidate) =>
                  candidate.id !== place.seat &&
                  !places.some((other) => other.seat === candidate.id && other.kind === place.kind),
              )}
              chosen={chosen === place.id}
              fixed={frozen}
              onChoose={() => {
                setChosen(place.id);
                scroller.current?.querySelector<HTMLElement>(`[data-place="${place.id}"]`)?.focus();
              }}
              onChange={(part) => update(place.id, part)}
              onRepeat={(seatOf) => repeat(place, seatOf)}
              onRemove={() => setPlaces(places.filter((other) => other !== place))}
            />
          ))}
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
