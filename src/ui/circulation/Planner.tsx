'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { lineOf } from '@/core/line/line';
import { firstAsked, insertAfter, moveStage } from '@/core/route/edit';
import { preflight } from '@/core/route/preflight';
import { mapStages, type Series, type Stage, stagesOf, type Verb } from '@/core/route/route';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople, useTell, useTimes } from '../data/use';
import { useUndo } from '../data/useUndo';
import { LineDrawing } from '../line/LineDrawing';
import { ruleWords, verbThird, verbWords } from '../line/words';
import { Answered } from '../parts/Answered';
import { DueButton, WordButton } from '../parts/buttons';
import { Fault, FormField, TextArea } from '../parts/form';
import { Empty, Fact, Leaf, PageHead, PersonName, Tray } from '../parts/parts';
import { useWidth } from '../parts/useWidth';
import { may } from './offers';
import { StageLeaf } from './StageLeaf';
import { useSavedPlan } from './useSavedPlan';
import { circulationWords, findingWords } from './words';

const words = circulationWords.plan;

export function Planner({ circulation }: { readonly circulation: string }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
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
    delegate: true,
  };
}

/** Planning on the line: the route is drawn as it is made; a span opens as a leaf beneath it. */
function Plan({ view }: { readonly view: CirculationView }) {
  const router = useRouter();
  const { name } = usePeople();
  const times = useTimes();
  const { ref, width } = useWidth<HTMLDivElement>(1232);
  const [open, setOpen] = useState<string | null>(stagesOf(view.route)[0]?.id ?? null);
  const [sending, setSending] = useState(false);
  const [tray, setTray] = useState(true);
  const editable = may(view, 'plan');
  const { plan, setPlan, state, error } = useSavedPlan(view, editable);
  const { route, text } = plan;
  const { change: setRoute, undo, can: canUndo } = useUndo<Series>(route, (next) => setPlan({ route: next, text }));

  const model = useMemo(() => lineOf(route, null, 0), [route]);
  const stages = stagesOf(route);
  const newest = view.versions[view.versions.length - 1];
  const contents = new Map(newest?.files.map((file) => [file.id, file.file]));
  const findings = preflight({
    route,
    author: view.author,
    hasVersion: view.newest !== null,
    fields: view.fields.filter((field) => view.fieldsOn[field.file] === contents.get(field.file)),
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
        {editable && canUndo && <WordButton onClick={undo}>{words.undo}</WordButton>}
        <chakra.span color="quiet" fontSize="13px" aria-live="polite">
          {state === 'saved' ? words.saved : state === 'saving' ? words.saving : words.notSaved}
        </chakra.span>
        {editable && (
          <DueButton disabled={stops.length > 0 || state !== 'saved'} onClick={() => setSending(true)}>
            {view.newest === null ? words.noVersion : words.sendTo(first.length)}
          </DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto">
        {sending && (
          <Box px={{ base: '12px', md: '24px' }} pb="12px">
            <SendLeaf circulation={view.id} first={first} text={text} onDone={() => setSending(false)} />
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
                  stage.due !== null ? `due ${times.day(stage.due.at)}` : '',
                  stage.rule.kind === 'all' ? '' : ruleWords(stage.rule, stage.seats.length),
                ].filter(Boolean);
                return parts.length > 0 ? { text: parts.join(', ') } : null;
              },
            }}
            onStage={(stage) => setOpen(stage)}
          />
        </Box>
        <Box px={{ base: '12px', md: '24px' }} pt="10px" pb="24px">
          <Fault error={error} />
          {stages.length === 0 && (
            <Empty title={words.empty}>
              {words.emptyMore}
              <Flex justify="center" mt="14px">
                <DueButton onClick={() => add(null)}>{words.add}</DueButton>
              </Flex>
            </Empty>
          )}
          {selected && editable && (
            <StageLeaf
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
              <FormField label={words.words}>
                {(props) => (
                  <TextArea
                    {...props}
                    rows={2}
                    maxLength={4000}
                    value={text}
                    disabled={!editable}
                    onChange={(event) => setPlan({ route, text: event.target.value })}
                  />
                )}
              </FormField>
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
                  {seat && finding.code === 'field-missing' ? `${name(seat.assignment.person)} ` : ''}
                  {findingWords[finding.code]}
                </Box>
                {stage && finding.code !== 'field-missing' && (
                  <WordButton onClick={() => setOpen(stage.id)}>
                    {words.stageOf(verbWords[stage.verb], stages.indexOf(stage) + 1)}
                  </WordButton>
                )}
                {finding.code === 'field-missing' && view.newest !== null && (
                  <WordButton onClick={() => router.push(`/circulations/${view.id}/fields`)}>
                    {words.putFields}
                  </WordButton>
                )}
              </Flex>
            );
          })}
      </Tray>
    </>
  );
}

/** What is sent, to whom, with which words: asked once, because it cannot be undone. */
function SendLeaf({
  circulation,
  first,
  text,
  onDone,
}: {
  readonly circulation: string;
  readonly first: ReturnType<typeof firstAsked>;
  readonly text: string;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const send = useTell('circulation.send', {
    after: () => router.push(`/circulations/${circulation}`),
  });
  return (
    <Leaf label={words.sendTitle}>
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="280px">
          <Box fontWeight={600}>{words.sendTitle}</Box>
          <Flex gap="18px" my="8px" flexWrap="wrap">
            {first.map(({ seat, stage }) => (
              <PersonName key={seat.id} id={seat.assignment.person} quiet={verbThird[stage.verb]} />
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
        <WordButton onClick={onDone}>{circulationWords.leave}</WordButton>
        <DueButton busy={send.isPending} onClick={() => send.mutate({ circulation })}>
          {words.sendDo(first.length)}
        </DueButton>
      </Flex>
    </Leaf>
  );
}

function whoWhen(route: Series, name: (id: string) => string): string {
  const stages = stagesOf(route);
  return stages
    .map(
      (stage, i) =>
        `${i === 0 ? words.first : words.after(verbWords[stages[i - 1]?.verb ?? 'review'])}: ${stage.seats.map((seat) => name(seat.assignment.person).split(' ')[0]).join(', ') || '–'}`,
    )
    .join('; ');
}
