'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import { firstAsked, insertAfter, moveStage } from '@/core/route/edit';
import { lineOf } from '@/core/route/line';
import { preflight } from '@/core/route/preflight';
import {
  mapStages,
  type Rule,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
  type Verb,
  verbs,
} from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell, useTimes } from '../data/use';
import { LineDrawing } from '../line/LineDrawing';
import { ruleWords, verbThird, verbWords } from '../line/words';
import { Answered } from '../parts/Answered';
import { MomentInput } from '../parts/MomentInput';
import { PeoplePicker } from '../parts/PeoplePicker';
import {
  Choose,
  DueButton,
  Empty,
  Fact,
  Fault,
  Field,
  PageHead,
  PersonName,
  SideButton,
  Slip,
  TextArea,
  TextInput,
  Tray,
  WordButton,
} from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

export function Planner({ circulation }: { readonly circulation: string }) {
  return (
    <Answered<CirculationView> name="circulation.view" input={{ circulation }}>
      {(view) => <Plan key={view.id} view={view} />}
    </Answered>
  );
}

function freshStage(verb: Verb): Stage {
  return {
    kind: 'stage',
    id: crypto.randomUUID(),
    verb,
    seats: [],
    order: 'together',
    rule: { kind: 'all' },
    due: null,
    closes: null,
    onDecline: 'stop',
    handOver: true,
  };
}

/** Planning on the line: the route is drawn as it is made; a span opens as a slip beneath it. */
function Plan({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { name } = usePeople();
  const times = useTimes();
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const [route, setRoute] = useState<Series>(view.route);
  const [text, setText] = useState(view.words ?? '');
  const [open, setOpen] = useState<string | null>(stagesOf(view.route)[0]?.id ?? null);
  const [sending, setSending] = useState(false);
  const [tray, setTray] = useState(true);
  const save = useTell<object>('circulation.plan');
  const send = useTell<{ circulation: string }>('circulation.send', {
    after: () => router.push(`/circulations/${view.id}`),
  });
  const saved = useRef(JSON.stringify([view.route, view.words ?? '']));
  const now = JSON.stringify([route, text]);
  const editable = view.phase === 'new';

  // Saved as it is planned: a pause of half a second, and once more when one leaves.
  const { mutate } = save;
  useEffect(() => {
    if (now === saved.current || !editable) return;
    const timer = setTimeout(() => {
      saved.current = now;
      mutate({ circulation: view.id, route, words: text });
    }, 500);
    return () => clearTimeout(timer);
  }, [now, route, text, mutate, view.id, editable]);

  const model = useMemo(() => lineOf(route, null, 0), [route]);
  const stages = stagesOf(route);
  const newest = view.versions[view.versions.length - 1];
  const main = newest?.files.find((file) => file.role === 'main')?.file;
  const findings = preflight({
    route,
    author: view.author,
    hasVersion: view.newest !== null,
    places: view.placesOn === main ? view.places : [],
    now: times.now(),
  });
  const stops = findings.filter((finding) => finding.severity === 'stops');
  const first = firstAsked(route);
  const change = (id: string, update: (stage: Stage) => Stage | null) =>
    setRoute(mapStages(route, (stage) => (stage.id === id ? update(stage) : stage)));
  const add = (after: string | null) => {
    const stage = freshStage(
      after === null && stages.length === 0
        ? 'review'
        : stages.some((candidate) => candidate.verb === 'approve')
          ? 'sign'
          : 'approve',
    );
    setRoute(insertAfter(route, after, stage));
    setOpen(stage.id);
  };
  const selected = stages.find((stage) => stage.id === open) ?? null;
  const saying = save.error ? words.notSaved : save.isPending || now !== saved.current ? words.saving : words.saved;

  return (
    <>
      <PageHead
        above={
          <>
            <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
              <Link href={`/circulations/${view.id}`}>{view.number}</Link>
            </chakra.span>
            {` · ${view.record.number} · ${circulationWords.revision(view.revision)} · ${circulationWords.draftOf(name(view.author))}`}
          </>
        }
        title={words.title(view.record.title)}
        below={
          <chakra.span color="quiet">
            {view.newest === null ? words.waitsFor(name(view.author)) : view.reason}
          </chakra.span>
        }
      >
        <chakra.span color="quiet" fontSize="13px" aria-live="polite">
          {saying}
        </chakra.span>
        {editable && (
          <DueButton
            disabled={stops.length > 0 || now !== saved.current || save.isPending}
            onClick={() => setSending(true)}
          >
            {view.newest === null ? words.noVersion : words.sendTo(first.length)}
          </DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto">
        {sending && (
          <Box px={{ base: '12px', md: '24px' }} pb="12px">
            <Slip label={words.sendTitle}>
              <Flex gap="20px" align="flex-end" flexWrap="wrap">
                <Box flex="1" minW="280px">
                  <Box fontWeight={600}>{words.sendTitle}</Box>
                  <Flex gap="18px" my="8px" flexWrap="wrap">
                    {first.map(({ seat, stage }) => (
                      <PersonName key={seat.id} id={seat.who.person} quiet={verbThird[stage.verb]} />
                    ))}
                  </Flex>
                  {text.trim() && (
                    <chakra.blockquote
                      borderLeft="2px solid"
                      borderColor="hairline"
                      pl="14px"
                      fontFamily="serif"
                      whiteSpace="pre-wrap"
                    >
                      {text}
                    </chakra.blockquote>
                  )}
                  <Box color="quiet" mt="6px">
                    {words.sendAlso}
                  </Box>
                  <Fault error={send.error} />
                </Box>
                <WordButton onClick={() => setSending(false)}>{circulationWords.leave}</WordButton>
                <DueButton busy={send.isPending} onClick={() => send.mutate({ circulation: view.id })}>
                  {words.sendDo(first.length)}
                </DueButton>
              </Flex>
            </Slip>
          </Box>
        )}
        <Box ref={ref} mx={{ base: '8px', md: '24px' }}>
          <LineDrawing
            model={model}
            width={width}
            selected={open}
            labels={{
              fact: (id) => {
                const stage = stages.find((candidate) => candidate.id === id);
                if (!stage) return null;
                if (stage.seats.length === 0) return { text: findingWords.nobody, tone: 'oxblood' };
                const parts = [
                  stage.due !== null ? `due ${times.day(stage.due)}` : '',
                  stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length),
                ].filter(Boolean);
                return parts.length > 0 ? { text: parts.join(', ') } : null;
              },
            }}
            onStage={(stage) => setOpen(stage)}
          />
        </Box>
        <Box px={{ base: '12px', md: '24px' }} pb="24px">
          <Fault error={save.error} />
          {stages.length === 0 && (
            <Empty title={words.empty}>
              {words.emptyMore}
              <Flex justify="center" mt="14px">
                <DueButton onClick={() => add(null)}>{words.add}</DueButton>
              </Flex>
            </Empty>
          )}
          {selected && editable && (
            <StageSlip
              key={selected.id}
              stage={selected}
              n={stages.indexOf(selected) + 1}
              author={view.author}
              last={stages.indexOf(selected) === stages.length - 1}
              onChange={(update) => change(selected.id, update)}
              onMove={(by) => setRoute(moveStage(route, selected.id, by))}
              onRemove={() => {
                change(selected.id, () => null);
                setOpen(stages.find((stage) => stage !== selected)?.id ?? null);
              }}
              onAdd={() => add(selected.id)}
            />
          )}
          {stages.length > 0 && (
            <Box mt="16px" maxW="720px">
              <Field label={words.words}>
                {(props) => (
                  <TextArea
                    {...props}
                    rows={2}
                    maxLength={4000}
                    value={text}
                    disabled={!editable}
                    onChange={(event) => setText(event.target.value)}
                  />
                )}
              </Field>
            </Box>
          )}
        </Box>
      </Box>
      <Tray
        label={words.checks}
        open={tray && findings.length > 0}
        onToggle={() => setTray(!tray)}
        facts={
          <>
            <Fact name={words.checks}>
              {findings.length === 0
                ? words.fine
                : `${stops.length} ${words.stops}, ${findings.length - stops.length} ${words.warns}`}
            </Fact>
            <Fact name={words.when}>{whoWhen(route, name)}</Fact>
          </>
        }
      >
        {findings.length > 0 &&
          findings.map((finding) => {
            const stage = stages.find((candidate) => candidate.id === finding.stage);
            const seat = stage?.seats.find((candidate) => candidate.id === finding.seat);
            return (
              <Flex key={`${finding.code} ${finding.stage} ${finding.seat}`} gap="14px" py="3px" align="center">
                <Box
                  w="112px"
                  color={finding.severity === 'stops' ? 'oxblood' : 'copperText'}
                  fontWeight={600}
                  flex="none"
                >
                  {finding.severity === 'stops' ? words.stops : words.warns}
                </Box>
                <Box>
                  {stage ? `${verbWords[stage.verb]}: ` : ''}
                  {seat && finding.code === 'place-missing' ? `${name(seat.who.person)} ` : ''}
                  {findingWords[finding.code]}
                </Box>
                {stage && finding.code !== 'place-missing' && (
                  <WordButton onClick={() => setOpen(stage.id)}>
                    {words.stageOf(verbWords[stage.verb], stages.indexOf(stage) + 1)}
                  </WordButton>
                )}
                {finding.code === 'place-missing' && view.newest !== null && (
                  <WordButton onClick={() => router.push(`/circulations/${view.id}/places`)}>
                    {words.putPlaces}
                  </WordButton>
                )}
              </Flex>
            );
          })}
      </Tray>
    </>
  );
}

function whoWhen(route: Series, name: (id: string) => string): string {
  const stages = stagesOf(route);
  return stages
    .map(
      (stage, i) =>
        `${i === 0 ? words.first : words.after(verbWords[stages[i - 1]?.verb ?? 'review'])}: ${stage.seats.map((seat) => name(seat.who.person).split(' ')[0]).join(', ') || '–'}`,
    )
    .join('; ');
}

function StageSlip({
  stage,
  n,
  author,
  last,
  onChange,
  onMove,
  onRemove,
  onAdd,
}: {
  readonly stage: Stage;
  readonly n: number;
  readonly author: string;
  readonly last: boolean;
  readonly onChange: (update: (stage: Stage) => Stage) => void;
  readonly onMove: (by: -1 | 1) => void;
  readonly onRemove: () => void;
  readonly onAdd: () => void;
}) {
  const { name } = usePeople();
  const set = (part: Partial<Stage>) => onChange((before) => ({ ...before, ...part }));
  const moveSeat = (at: number, by: -1 | 1) => {
    const seats = stage.seats.slice();
    const [moved] = seats.splice(at, 1);
    if (moved) seats.splice(at + by, 0, moved);
    set({ seats });
  };
  const setSeats = (seats: readonly Seat[]) =>
    set({ seats, rule: stage.rule.kind === 'atLeast' && stage.rule.k > seats.length ? { kind: 'all' } : stage.rule });
  return (
    <Slip label={words.stageOf(verbWords[stage.verb], n)} tone={stage.verb === 'sign' ? 'iris' : 'pine'}>
      <Flex gap="28px" flexWrap="wrap" align="flex-start">
        <Box flex="1.2" minW="300px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.people}
          </Box>
          {stage.seats.map((seat, i) => (
            <Flex key={seat.id} align="center" gap="8px" py="3px">
              <Box flex="1" minW={0}>
                <PersonName id={seat.who.person} />
              </Box>
              <SideButton
                minH="28px"
                px="8px"
                disabled={i === 0}
                aria-label={words.personEarlier(name(seat.who.person))}
                onClick={() => moveSeat(i, -1)}
              >
                ↑
              </SideButton>
              <SideButton
                minH="28px"
                px="8px"
                disabled={i === stage.seats.length - 1}
                aria-label={words.personLater(name(seat.who.person))}
                onClick={() => moveSeat(i, 1)}
              >
                ↓
              </SideButton>
              <WordButton
                aria-label={`${words.remove}: ${name(seat.who.person)}`}
                onClick={() => setSeats(stage.seats.filter((other) => other !== seat))}
              >
                {words.remove}
              </WordButton>
            </Flex>
          ))}
          <PeoplePicker
            label={words.addPerson}
            exclude={[...stage.seats.map((seat) => seat.who.person), ...(stage.verb === 'approve' ? [author] : [])]}
            onPick={(who) => setSeats([...stage.seats, { id: crypto.randomUUID(), who }])}
          />
        </Box>
        <Box flex="1" minW="260px">
          <Flex gap="14px">
            <Box flex="1">
              <Field label={words.verb}>
                {(props) => (
                  <Choose {...props} value={stage.verb} onChange={(event) => set({ verb: event.target.value as Verb })}>
                    {verbs.map((verb) => (
                      <option key={verb} value={verb}>
                        {verbWords[verb]}
                      </option>
                    ))}
                  </Choose>
                )}
              </Field>
            </Box>
            <Box flex="1">
              <Field label={words.order}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.order}
                    onChange={(event) => set({ order: event.target.value as Stage['order'] })}
                  >
                    <option value="together">{words.together}</option>
                    <option value="oneByOne">{words.oneByOne}</option>
                  </Choose>
                )}
              </Field>
            </Box>
          </Flex>
          <Flex gap="14px">
            <Box flex="1">
              <Field label={words.rule}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.rule.kind}
                    onChange={(event) => set({ rule: ruleOf(event.target.value, stage.seats.length) })}
                  >
                    <option value="all">{words.all}</option>
                    <option value="any">{words.any}</option>
                    <option value="atLeast">{words.atLeast}</option>
                  </Choose>
                )}
              </Field>
            </Box>
            {stage.rule.kind === 'atLeast' && (
              <Box w="90px">
                <Field label={words.atLeastN}>
                  {(props) => (
                    <TextInput
                      {...props}
                      type="number"
                      min={1}
                      max={Math.max(1, stage.seats.length)}
                      value={stage.rule.kind === 'atLeast' ? stage.rule.k : 1}
                      onChange={(event) =>
                        set({
                          rule: {
                            kind: 'atLeast',
                            k: Math.max(1, Math.min(stage.seats.length, Number(event.target.value) || 1)),
                          },
                        })
                      }
                    />
                  )}
                </Field>
              </Box>
            )}
            <Box flex="1">
              <Field label={words.onDecline}>
                {(props) => (
                  <Choose
                    {...props}
                    value={stage.onDecline}
                    disabled={!['approve', 'sign'].includes(stage.verb)}
                    onChange={(event) => set({ onDecline: event.target.value as Stage['onDecline'] })}
                  >
                    <option value="stop">{words.stop}</option>
                    <option value="count">{words.count}</option>
                  </Choose>
                )}
              </Field>
            </Box>
          </Flex>
        </Box>
        <Box flex="1" minW="230px">
          <Field label={words.due}>
            {(props) => <MomentInput {...props} value={stage.due} onChange={(due) => set({ due })} />}
          </Field>
          <Field label={words.closes}>
            {(props) => <MomentInput {...props} value={stage.closes} onChange={(closes) => set({ closes })} />}
          </Field>
          <chakra.label display="flex" gap="8px" alignItems="center" minH="24px">
            <input
              type="checkbox"
              checked={stage.handOver}
              onChange={(event) => set({ handOver: event.target.checked })}
            />
            {words.handOver}
          </chakra.label>
        </Box>
      </Flex>
      <Flex gap="8px" mt="14px" pt="12px" borderTop="1px solid" borderColor="hairline" flexWrap="wrap">
        <SideButton disabled={n === 1} onClick={() => onMove(-1)}>
          ← {words.earlier}
        </SideButton>
        <SideButton disabled={last} onClick={() => onMove(1)}>
          {words.later} →
        </SideButton>
        <WordButton ml="8px" onClick={onRemove}>
          {words.removeStage}
        </WordButton>
        <Box flex="1" />
        <SideButton onClick={onAdd}>{words.addAfter(verbWords[stage.verb])}</SideButton>
      </Flex>
    </Slip>
  );
}

function ruleOf(kind: string, n: number): Rule {
  if (kind === 'any') return { kind: 'any' };
  return kind === 'atLeast' ? { kind: 'atLeast', k: Math.max(1, Math.ceil(n / 2)) } : { kind: 'all' };
}
