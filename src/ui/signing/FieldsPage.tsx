'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { type Field, type FieldKind, fieldKinds, fieldSizes, lintFields, type PageSize } from '@/core/page/fields';
import type { CirculationView } from '@/server/circulation/view';
import { may } from '../circulation/offers';
import { usePeople, useTell } from '../data/use';
import { useKept } from '../data/useKept';
import { useUndo } from '../data/useUndo';
import { Answered } from '../parts/Answered';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { documentName } from '../parts/documentName';
import { Choose, Fault, FormField } from '../parts/form';
import { PageHead } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { FieldBox } from './FieldBox';
import { FieldLine } from './FieldLine';
import { Ruler, Viewer } from './Viewer';
import { fieldWords, fieldsWords as words } from './words';

export function FieldsPage({ circulation }: { readonly circulation: string }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Fields view={view} />}
    </Answered>
  );
}

/** Puts places on the pages: by mouse, or from the list and moved with arrow keys. */
function Fields({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { name, person } = usePeople();
  const scroller = useRef<HTMLDivElement>(null);
  const { ref, width } = useWidth<HTMLDivElement>(820);
  const signing = view.seats.filter((seat) => seat.verb === 'sign');
  const newest = view.versions[view.versions.length - 1];
  const documents = newest?.files.filter((file) => file.role === 'document') ?? [];
  const [shown, setShown] = useState<string | null>(null);
  const main =
    documents.find((file) => file.id === shown) ??
    documents.find((file) => view.fieldsOn[file.id] !== file.file && may(view, 'putFields', file.id)) ??
    documents[0];
  // What is put here is on the circulation only when it is kept; until then this device holds it.
  const [held, hold] = useKept<readonly Field[]>(`fields.${view.id}.${main?.id}.${main?.file}`);
  const fields = held ?? view.fields.filter((field) => field.file === main?.id);
  const { change: setFields, undo, can: canUndo } = useUndo<readonly Field[]>(fields, hold);
  const [chosen, setChosen] = useState<string | null>(null);
  const [seat, setSeat] = useState(view.seatsWithoutField[0] ?? signing[0]?.id ?? '');
  const [kind, setKind] = useState<FieldKind>('signature');
  const put = useTell('circulation.putFields', {
    after: () => {
      hold(null);
      const next = documents.find(
        (file) => file.id !== main?.id && view.fieldsOn[file.id] !== file.file && may(view, 'putFields', file.id),
      );
      if (next) setShown(next.id);
      else router.push(`/circulations/${view.id}${may(view, 'plan') ? '/plan' : ''}`);
    },
  });
  const pages: readonly PageSize[] = main?.pages ?? [];
  if (signing.length === 0 || !newest || !main) return <Box p="24px">{newest ? words.nobody : words.noVersion}</Box>;
  const frozen = !may(view, 'putFields', main.id);
  const findings = lintFields(fields, pages, new Set(signing.map((candidate) => candidate.id)));
  // A field in any of the documents is enough.
  const elsewhere = view.fields.filter((field) => field.file !== main.id);
  const missing = signing.filter(
    (candidate) =>
      ![...fields, ...elsewhere].some(
        (field) => field.seat === candidate.id && field.kind === 'signature' && field.needed,
      ),
  );
  const holderOf = (field: Field) => signing.find((candidate) => candidate.id === field.seat)?.holder ?? '';
  const update = (id: string, part: Partial<Field>) =>
    setFields(
      fields.map((field) => (field.id === id ? inside({ ...field, ...part }, pages) : field)),
      `${id} ${Object.keys(part).join()}`,
    );

  const reveal = (id: string) =>
    requestAnimationFrame(() =>
      scroller.current?.querySelector(`[data-place="${id}"]`)?.scrollIntoView({ block: 'nearest' }),
    );
  const add = (page: number, x: number, y: number) => {
    const size = fieldSizes[kind];
    const field = inside(
      {
        id: crypto.randomUUID(),
        seat,
        file: main.id,
        kind,
        page,
        x: x - size.width / 2,
        y: y - size.height / 2,
        ...size,
        needed: kind !== 'text' && kind !== 'tick',
        label: '',
      },
      pages,
    );
    setFields([...fields, field]);
    setChosen(field.id);
    reveal(field.id);
    const next = missing.find((candidate) => candidate.id !== seat);
    if (kind === 'signature' && next) setSeat(next.id);
  };
  const addFromList = () => {
    const page = currentPage(scroller.current);
    const size = pages[page] ?? { width: 595, height: 842 };
    const below = fields
      .filter((field) => field.page === page)
      .reduce((lowest, field) => Math.max(lowest, field.y + field.height + 12), size.height * 0.6);
    add(page, size.width * 0.3, Math.min(below + 24, size.height - 60));
  };
  const repeat = (field: Field, to: string) => {
    const copy = inside({ ...field, id: crypto.randomUUID(), seat: to, y: field.y + field.height + 14 }, pages);
    setFields([...fields, copy]);
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
              {missing.length === 0 && view.fieldsWanted && view.stages.some((stage) => stage.held === 'fields')
                ? words.opens
                : ''}
            </chakra.span>
            <DueButton
              busy={put.isPending}
              disabled={findings.length > 0}
              onClick={() => put.mutate({ circulation: view.id, file: main.id, content: main.file, fields })}
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
        {!frozen && view.fieldsOn[main.id] !== undefined && view.fieldsOn[main.id] !== main.file && held === null && (
          <Box color="copperText" pb="8px">
            {words.before}
          </Box>
        )}
      </Box>
      {documents.length > 1 && (
        <Box px="24px" pb="8px" flex="none">
          <ChoiceRow
            label={words.documents}
            choices={documents.map((file) => ({ key: file.id, name: documentName(file.name, view.record.number) }))}
            chosen={main.id}
            onChoose={(id) => {
              setShown(id);
              setChosen(null);
            }}
          />
        </Box>
      )}
      <Flex flex="1" minH={0} borderTop="1px solid" borderColor="hairline">
        <Box pl="16px" display="flex">
          <Ruler
            pages={pages}
            scroller={scroller}
            ticks={fields.map((field) => ({ key: field.id, page: field.page, y: field.y, tone: 'iris' as const }))}
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
              key={main.file}
              url={`/file/circulation/${view.id}/${main.file}`}
              pages={pages}
              width={Math.min(820, width - 24)}
              onSpot={frozen ? undefined : (spot) => add(spot.page, spot.x, spot.y)}
              overlay={(page, scale) =>
                fields
                  .filter((field) => field.page === page)
                  .map((field) => (
                    <FieldBox
                      key={field.id}
                      field={field}
                      scale={scale}
                      chosen={chosen === field.id}
                      fixed={frozen}
                      fault={findings.some(
                        (finding) => finding.field === field.id || ('other' in finding && finding.other === field.id),
                      )}
                      holder={holderOf(field)}
                      letters={person(holderOf(field))?.tile ?? '··'}
                      name={name(holderOf(field))}
                      onChoose={() => setChosen(field.id)}
                      onChange={(part) => update(field.id, part)}
                      onRemove={() => setFields(fields.filter((other) => other !== field))}
                    />
                  ))
              }
            />
          </Box>
        </Box>
        <Box w="330px" flex="none" borderLeft="1px solid" borderColor="hairline" overflowY="auto" px="18px" py="14px">
          {!frozen && (
            <>
              <FormField label={words.for}>
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
              </FormField>
              <Flex gap="10px" align="flex-end">
                <Box flex="1">
                  <FormField label={words.kind}>
                    {(props) => (
                      <Choose {...props} value={kind} onChange={(event) => setKind(event.target.value as FieldKind)}>
                        {fieldKinds.map((option) => (
                          <option key={option} value={option}>
                            {fieldWords[option]}
                          </option>
                        ))}
                      </Choose>
                    )}
                  </FormField>
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
          {fields.length === 0 && <Box color="quiet">{words.none}</Box>}
          {fields.map((field) => (
            <FieldLine
              key={field.id}
              field={field}
              holder={holderOf(field)}
              finding={findings.find((candidate) => candidate.field === field.id)?.code ?? null}
              others={signing.filter(
                (candidate) =>
                  candidate.id !== field.seat &&
                  !fields.some((other) => other.seat === candidate.id && other.kind === field.kind),
              )}
              chosen={chosen === field.id}
              fixed={frozen}
              onChoose={() => {
                setChosen(field.id);
                scroller.current?.querySelector<HTMLElement>(`[data-place="${field.id}"]`)?.focus();
              }}
              onChange={(part) => update(field.id, part)}
              onRepeat={(seatOf) => repeat(field, seatOf)}
              onRemove={() => setFields(fields.filter((other) => other !== field))}
            />
          ))}
        </Box>
      </Flex>
    </>
  );
}

/** Keeps a place inside its page and on whole half points. */
function inside(field: Field, pages: readonly PageSize[]): Field {
  const page = pages[field.page];
  if (!page) return field;
  const width = Math.min(Math.max(14, field.width), page.width);
  const height = Math.min(Math.max(14, field.height), page.height);
  const clamped = (value: number, room: number) => Math.round(Math.min(Math.max(0, value), room) * 2) / 2;
  return {
    ...field,
    width,
    height,
    x: clamped(field.x, page.width - width),
    y: clamped(field.y, page.height - height),
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
