'use client';

import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Phase } from '@/core/circulation/state';
import { nextRevision } from '@/core/record/numbering';
import type { LineModel } from '@/core/route/line';
import { phaseWords } from '../circulation/words';
import { useAsk, useMe, usePeople, useTell, useTimes } from '../data/use';
import { toneOf } from '../desk/Desk';
import { TinyLine } from '../line/LineDrawing';
import { Answered } from '../parts/Answered';
import { PeoplePicker } from '../parts/PeoplePicker';
import {
  Choose,
  DueButton,
  Fault,
  Field,
  PageHead,
  PersonName,
  SideButton,
  Slip,
  TextArea,
  TextInput,
  WordButton,
} from '../parts/parts';
import type { Kind } from './RegisterList';
import { registerWords as words } from './words';

interface RecordView {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly kind: string;
  readonly owner: string;
  readonly complete: boolean;
  readonly revisions: readonly { revision: string; effective: number; released: number; by: string }[];
  readonly changes: readonly {
    id: string;
    revision: string;
    reason: string | null;
    author: string;
    started: number;
    state: string;
    circulation: string;
  }[];
  readonly inWork: { circulation: string; revision: string; author: string; since: number } | null;
  readonly circulations: readonly {
    id: string | null;
    number: string;
    phase: Phase;
    line?: LineModel;
    nextDue?: number | null;
    stops?: number;
  }[];
}

/** One document: its current revision first, then what is in work, then what came before. */
export function RecordPage({ record }: { readonly record: string }) {
  return (
    <Answered<RecordView> name="record.view" input={{ record }}>
      {(data) => <Whole data={data} />}
    </Answered>
  );
}

function Whole({ data }: { readonly data: RecordView }) {
  const { record } = data;
  const { data: me } = useMe();
  const { name } = usePeople();
  const times = useTimes();
  const router = useRouter();
  const [starting, setStarting] = useState(false);
  const [describing, setDescribing] = useState(false);
  const current = data.revisions[data.revisions.length - 1];
  const controls = me?.me.roles.includes('controller') ?? false;
  const mayDescribe = controls || me?.me.id === data.owner;
  const live = data.circulations.find(
    (circulation) => circulation.id !== null && circulation.id === data.inWork?.circulation,
  );
  const coming = nextRevision(current?.revision ?? null);
  const change = data.changes.find((candidate) => candidate.state === 'inWork');
  return (
    <>
      <PageHead
        above={data.number}
        title={data.title}
        below={
          current ? (
            <chakra.span color="quiet">
              {words.released(current.revision, times.day(current.effective), name(current.by))}
            </chakra.span>
          ) : (
            <chakra.span color="quiet">{words.notReleased}</chakra.span>
          )
        }
      >
        {mayDescribe && <SideButton onClick={() => setDescribing(!describing)}>{words.describe}</SideButton>}
        {current && (
          <SideButton onClick={() => window.open(`/file/record/${record}/${current.revision}`, '_blank', 'noopener')}>
            {words.read(current.revision)}
          </SideButton>
        )}
        {!data.inWork && controls && (
          <DueButton onClick={() => setStarting(true)}>{current ? words.start : words.startFirst}</DueButton>
        )}
        {live?.id && (
          <DueButton onClick={() => router.push(`/circulations/${live.id}`)}>{words.toCirculation}</DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '16px', md: '24px' }} pb="24px">
        {!data.complete && mayDescribe && !describing && (
          <Flex gap="12px" py="8px" color="copperText">
            {words.completeNow}
            <WordButton onClick={() => setDescribing(true)}>{words.describe}</WordButton>
          </Flex>
        )}
        {describing && <Describe data={data} onDone={() => setDescribing(false)} />}
        {starting && <Start record={record} coming={coming} owner={data.owner} onDone={() => setStarting(false)} />}
        {data.inWork && change && (
          <Box my="10px">
            <Slip label={words.inWork(data.inWork.revision)}>
              <Flex gap="20px" align="center" flexWrap="wrap">
                <Box flex="1" minW="240px">
                  {words.change(data.inWork.revision, name(data.inWork.author), times.day(data.inWork.since))}{' '}
                  <chakra.span color="quiet">{change.reason}</chakra.span>
                </Box>
                {live?.line ? (
                  <TinyLine
                    model={live.line}
                    tone={toneOf({ stops: live.stops ?? 0, nextDue: live.nextDue ?? null }, times.now())}
                  />
                ) : (
                  <Box color="quiet">{words.notYours}</Box>
                )}
              </Flex>
            </Slip>
          </Box>
        )}
        <Grid templateColumns={{ base: '1fr', md: '1.2fr 1fr' }} gap="40px" mt="12px">
          <Box>
            <chakra.h2 fontSize="13.5px" mb="6px">
              {words.revisions}
            </chakra.h2>
            {data.revisions.length === 0 && <Box color="quiet">{words.noRevisions}</Box>}
            {data.revisions
              .slice()
              .reverse()
              .map((revision, i) => (
                <Flex
                  key={revision.revision}
                  gap="14px"
                  align="center"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                >
                  <Box w="34px" fontWeight={600}>
                    {revision.revision}
                  </Box>
                  <Box w="100px" color={i === 0 ? 'ink' : 'quiet'}>
                    {i === 0 ? words.current : words.superseded}
                  </Box>
                  <Box w="120px" color="quiet">
                    {times.day(revision.effective)}
                  </Box>
                  <Box flex="1">
                    <PersonName id={revision.by} />
                  </Box>
                  <chakra.span color="pine" fontWeight={600} asChild>
                    <a href={`/file/record/${record}/${revision.revision}?download`}>{words.download}</a>
                  </chakra.span>
                </Flex>
              ))}
          </Box>
          <Box>
            <chakra.h2 fontSize="13.5px" mb="6px">
              {words.circulations}
            </chakra.h2>
            {data.circulations.map((circulation) => {
              const cells = (
                <>
                  <Box w="56px" color="quiet">
                    {circulation.number}
                  </Box>
                  <Box flex="1">{phaseWords[circulation.phase]}</Box>
                  {circulation.line && (
                    <TinyLine
                      model={circulation.line}
                      tone={toneOf(
                        { stops: circulation.stops ?? 0, nextDue: circulation.nextDue ?? null },
                        times.now(),
                      )}
                    />
                  )}
                </>
              );
              return circulation.id ? (
                <chakra.button
                  key={circulation.number}
                  type="button"
                  display="flex"
                  w="100%"
                  gap="14px"
                  alignItems="center"
                  textAlign="start"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                  cursor="pointer"
                  _hover={{ bg: 'sunk' }}
                  onClick={() => router.push(`/circulations/${circulation.id}`)}
                >
                  {cells}
                </chakra.button>
              ) : (
                <Flex
                  key={circulation.number}
                  gap="14px"
                  align="center"
                  h="38px"
                  borderBottom="1px solid"
                  borderColor="hairline"
                >
                  {cells}
                </Flex>
              );
            })}
          </Box>
        </Grid>
      </Box>
    </>
  );
}

function Start({
  record,
  coming,
  owner,
  onDone,
}: {
  readonly record: string;
  readonly coming: string;
  readonly owner: string;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const { name } = usePeople();
  const { data: me } = useMe();
  const [reason, setReason] = useState('');
  const [author, setAuthor] = useState<string | null>(owner);
  const start = useTell<object, { circulation: string }>('change.start', {
    after: ({ circulation }) => router.push(`/circulations/${circulation}/plan`),
  });
  return (
    <Slip label={words.startTitle(coming)}>
      <Box fontWeight={600} mb="8px">
        {words.startTitle(coming)}
      </Box>
      <Flex gap="24px" flexWrap="wrap" align="flex-start">
        <Box flex="1.3" minW="280px">
          <Field label={words.reason}>
            {(props) => (
              <TextArea
                {...props}
                autoFocus
                required
                maxLength={4000}
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
            )}
          </Field>
        </Box>
        <Box flex="1" minW="260px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.author}
          </Box>
          {author ? (
            <Flex gap="10px" align="center" minH="36px">
              <PersonName id={author} />
              <WordButton onClick={() => setAuthor(null)}>{words.change2}</WordButton>
            </Flex>
          ) : (
            <PeoplePicker label={words.authorPick} insideOnly onPick={({ person }) => setAuthor(person)} />
          )}
        </Box>
      </Flex>
      <Fault error={start.error} />
      <Flex gap="14px" align="center" justify="flex-end" flexWrap="wrap">
        <Box color="quiet" fontSize="13px">
          {words.startWhat}
        </Box>
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={start.isPending}
          disabled={!author || reason.trim() === ''}
          onClick={() => author && start.mutate({ record, reason, author })}
        >
          {author ? (author === me?.me.id ? words.startOwn : words.startDo(name(author))) : words.authorPick}
        </DueButton>
      </Flex>
    </Slip>
  );
}

function Describe({ data, onDone }: { readonly data: RecordView; readonly onDone: () => void }) {
  const { data: kinds } = useAsk<Kind[]>('register.kinds');
  const [title, setTitle] = useState(data.title);
  const [kind, setKind] = useState(data.kind);
  const [owner, setOwner] = useState<string | null>(data.owner);
  const describe = useTell<object>('record.describe', { after: onDone });
  return (
    <Slip label={words.describe}>
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1.5" minW="240px">
          <Field label={words.name}>
            {(props) => (
              <TextInput
                {...props}
                required
                maxLength={200}
                value={title}
                onChange={(event) => setTitle(event.target.value)}
              />
            )}
          </Field>
        </Box>
        <Box flex="1" minW="180px">
          <Field label={words.kind}>
            {(props) => (
              <Choose {...props} value={kind} onChange={(event) => setKind(event.target.value)}>
                {(kinds ?? []).map((option) => (
                  <option key={option.code} value={option.code}>
                    {option.name}
                  </option>
                ))}
              </Choose>
            )}
          </Field>
        </Box>
        <Box flex="1" minW="220px">
          <Box fontSize="13px" color="quiet" mb="4px">
            {words.owner}
          </Box>
          {owner ? (
            <Flex gap="10px" align="center" minH="36px">
              <PersonName id={owner} />
              <WordButton onClick={() => setOwner(null)}>{words.change2}</WordButton>
            </Flex>
          ) : (
            <PeoplePicker label={words.owner} insideOnly onPick={({ person }) => setOwner(person)} />
          )}
        </Box>
      </Flex>
      <Fault error={describe.error} />
      <Flex gap="14px" justify="flex-end">
        <WordButton onClick={onDone}>{words.leave}</WordButton>
        <DueButton
          busy={describe.isPending}
          disabled={!owner || title.trim() === ''}
          onClick={() => owner && describe.mutate({ record: data.record, title, kind, owner })}
        >
          {words.describeDo}
        </DueButton>
      </Flex>
    </Slip>
  );
}

/** A new document record: title, kind and owner; the number comes by itself. */
export function NewRecord() {
  const router = useRouter();
  const { data: kinds } = useAsk<Kind[]>('register.kinds');
  const { data: me } = useMe();
  const [title, setTitle] = useState('');
  const [chosen, setKind] = useState<string | null>(null);
  const [owner, setOwner] = useState<string | null>(null);
  const create = useTell<object, { record: string }>('record.create', {
    after: ({ record }) => router.push(`/register/${record}`),
  });
  const kind = chosen ?? kinds?.[0]?.code ?? '';
  const holder = owner ?? me?.me.id ?? null;
  return (
    <>
      <PageHead title={words.newTitle} below={<chakra.span color="quiet">{words.newMore}</chakra.span>} />
      <chakra.form
        px={{ base: '16px', md: '24px' }}
        maxW="560px"
        onSubmit={(event) => {
          event.preventDefault();
          create.mutate({ title, kind, owner: holder });
        }}
      >
        <Field label={words.name}>
          {(props) => (
            <TextInput
              {...props}
              autoFocus
              required
              maxLength={200}
              value={title}
              onChange={(event) => setTitle(event.target.value)}
            />
          )}
        </Field>
        <Field label={words.kind}>
          {(props) => (
            <Choose {...props} value={kind} onChange={(event) => setKind(event.target.value)}>
              {(kinds ?? []).map((option) => (
                <option key={option.code} value={option.code}>
                  {`${option.name}  (${option.scheme})`}
                </option>
              ))}
            </Choose>
          )}
        </Field>
        <Box fontSize="13px" color="quiet" mb="4px">
          {words.owner}
        </Box>
        {holder && (
          <Flex gap="10px" align="center" mb="8px">
            <PersonName id={holder} />
          </Flex>
        )}
        <PeoplePicker
          label={words.owner}
          insideOnly
          exclude={holder ? [holder] : []}
          onPick={({ person }) => setOwner(person)}
        />
        <Fault error={create.error} />
        <Flex mt="18px" justify="flex-end">
          <DueButton type="submit" busy={create.isPending} disabled={title.trim() === '' || !holder}>
            {words.newNumber}
          </DueButton>
        </Flex>
      </chakra.form>
    </>
  );
}
