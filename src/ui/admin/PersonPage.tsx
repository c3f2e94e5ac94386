'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignee } from '@/core/route/route';
import { isLate } from '@/core/time/press';
import type { Person } from '@/server/admin/people';
import type { TaskRow } from '@/server/desk/view';
import { useRouter } from '../data/ahead';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useAsk, useMe, useTell, useTimes } from '../data/use';
import { deskColumns } from '../desk/columns';
import type { Row } from '../desk/useDesk';
import { WaitingLeaf } from '../desk/WaitingLeaf';
import { doWords } from '../desk/words';
import { useLineWords } from '../line/LineParts';
import { DueButton, GraveButton, SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Empty, Leaf, PageHead } from '../parts/parts';
import { Rows } from '../parts/Rows';
import { partWords } from '../parts/words';
import { adminWords } from './words';

const words = adminWords.person;

/** One person: what waits for them, late first, and what can be done about it. */
export function PersonPage({ id }: { readonly id: string }) {
  const found = usePeople().person(id);
  if (found === undefined) return <Box p="24px">{partWords.loading}</Box>;
  if (!found) return <Box p="24px">{words.unknown}</Box>;
  return <Known person={found} />;
}

type Asking = 'reassign' | 'deactivate' | null;

function Known({ person }: { readonly person: Person }) {
  const { data: me } = useMe();
  const lineWords = useLineWords();
  const times = useTimes();
  const { data, error } = useAsk('people.held', { person: person.id });
  const held = data?.rows;
  const [asking, setAsking] = useState<Asking>(null);
  const now = times.now();
  const rows = (held ?? []).map(
    (task): Row => ({
      key: `${task.circulation} ${task.seat} ${task.doing}`,
      waits: true,
      covers: false,
      task,
      others: [],
    }),
  );
  const late = rows.filter(({ task }) => isLate(task.due, now));
  const mine = (held ?? []).filter((task) => task.steers);
  const deactivates =
    me?.mayManagePeople && person.kind === 'member' && person.state !== 'left' && person.id !== me.me.id;
  return (
    <>
      <PageHead
        above={[person.work, person.company].filter(Boolean).join(', ')}
        title={person.name}
        below={
          <chakra.span color="quiet">
            {data ? words.holds(data.all, late.length) : partWords.loading} {person.email}
          </chakra.span>
        }
      >
        {deactivates && <GraveButton onClick={() => setAsking('deactivate')}>{words.deactivate}</GraveButton>}
        {mine.length > 0 && asking === null && (
          <DueButton onClick={() => setAsking('reassign')}>{words.reassignAll(mine.length)}</DueButton>
        )}
      </PageHead>
      <Box px={{ base: '12px', md: '24px' }} flex="none">
        <Fault error={error} />
        {asking === 'reassign' && <ReassignAll person={person} tasks={mine} onDone={() => setAsking(null)} />}
        {asking === 'deactivate' && (
          <Deactivate person={person} held={data?.all ?? 0} shown={rows.length} onDone={() => setAsking(null)} />
        )}
      </Box>
      {held && (
        <Rows
          label={words.tasks(person.name)}
          columns={deskColumns(times, new Set(), lineWords).filter((column) => column.name !== words.from)}
          groups={[
            { title: words.late, tone: 'copperText', rows: late },
            { title: words.open, rows: rows.filter((row) => !late.includes(row)) },
          ]}
          keyOf={(row) => row.key}
          nameOf={({ task }) => `${doWords[task.doing]}: ${task.number} ${task.title}`}
          leaf={(row) => <WaitingLeaf task={row.task} />}
          empty={<Empty title={words.none(person.name)} />}
        />
      )}
    </>
  );
}

/** Gives all that a person holds, in circulations that one controls, to somebody else. */
function ReassignAll({
  person,
  tasks,
  onDone,
}: {
  readonly person: Person;
  readonly tasks: readonly TaskRow[];
  readonly onDone: () => void;
}) {
  const { name } = usePeople();
  const [to, setTo] = useState<Assignee | null>(null);
  const give = useTell('people.reassignAll', {
    answered: ({ reassigned, left }) => say(words.reassigned(reassigned, left, to ? name(to.person) : '')),
    after: onDone,
  });
  return (
    <Leaf label={words.reassignAll(tasks.length)}>
      <Flex gap="20px" align="flex-end" flexWrap="wrap">
        <Box flex="1" minW="260px">
          <OnePerson label={words.to} exclude={[person.id]} person={to?.person ?? null} onPerson={setTo} />
          <Box color="quiet" fontSize="13px" mt="8px">
            {words.reassignWhat(person.name)}
          </Box>
        </Box>
        <WordButton onClick={onDone}>{words.cancel}</WordButton>
        <DueButton busy={give.isPending} disabled={!to} onClick={() => to && give.mutate({ from: person.id, to })}>
          {to ? words.reassignDo(tasks.length, name(to.person)) : words.choose}
        </DueButton>
      </Flex>
      <Fault error={give.error} />
    </Leaf>
  );
}

/** Deactivates a person, after saying what they hold. */
function Deactivate({
  person,
  held,
  shown,
  onDone,
}: {
  readonly person: Person;
  readonly held: number;
  /** How many of them stand on the page: an administrator does not see every circulation. */
  readonly shown: number;
  readonly onDone: () => void;
}) {
  const router = useRouter();
  const leave = useTell('people.leave', {
    answered: () => {
      say(words.deactivated(person.name));
      router.push('/people');
    },
  });
  return (
    <Leaf label={words.deactivate} tone="oxblood">
      <Box fontWeight={600}>{words.deactivateTitle(person.name)}</Box>
      <Box my="6px">{words.deactivateWhat(held, shown)}</Box>
      <Fault error={leave.error} />
      <Flex gap="14px" justify="flex-end" align="center">
        <SideButton onClick={onDone}>{words.cancel}</SideButton>
        <GraveButton
          borderColor="oxblood"
          busy={leave.isPending}
          onClick={() => leave.mutate({ person: person.id, left: true })}
        >
          {words.deactivate}
        </GraveButton>
      </Flex>
    </Leaf>
  );
}
