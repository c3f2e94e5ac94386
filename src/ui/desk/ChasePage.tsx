'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Assignee } from '@/core/route/route';
import type { ChaseAct, Chased, ChaseRow } from '@/server/desk/chase';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useAsk, useTell, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { DueButton } from '../parts/buttons';
import { Choose, Fault, Tick } from '../parts/form';
import { Link } from '../parts/Link';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { Empty, PageHead, PersonName } from '../parts/parts';
import { partWords } from '../parts/words';
import { deskWords } from './words';

const words = deskWords.chase;

/** What was chosen for a row; nothing while the fitting act stands. */
interface Choice {
  readonly on: boolean;
  readonly act: ChaseAct;
  readonly due: number | null;
  readonly to: Assignee | null;
}

const keyOf = ({ circulation, seat }: { readonly circulation: string; readonly seat: string }) =>
  `${circulation} ${seat}`;

/** What is done about a row; null where nothing was chosen, or not to whom or until when. */
function chasedOf({ circulation, seat }: ChaseRow, { on, act, due, to }: Choice): Chased | null {
  const of = { circulation, seat };
  if (!on) return null;
  if (act === 'remind') return { ...of, act };
  if (due === null) return null;
  if (act === 'extend') return { ...of, act, due };
  return to && { ...of, act, to, due };
}

/** Everybody who is late, by person, with the fitting act ready in each row: looked through and confirmed once. */
export function ChasePage() {
  const { name } = usePeople();
  const { data: rows, error } = useAsk('desk.late');
  const [choices, setChoices] = useState<ReadonlyMap<string, Partial<Choice>>>(new Map());
  const [results, setResults] = useState<ReadonlyMap<string, string>>(new Map());
  const chase = useTell('desk.chase', {
    answered: (done) => {
      const refused = done.filter((one) => one.refused !== null);
      setResults(new Map(done.map((one) => [keyOf(one), one.refused ?? words.done])));
      setChoices(new Map());
      say(words.said(done.length - refused.length, refused.length));
    },
  });
  const choiceOf = (row: ChaseRow): Choice => {
    const act = choices.get(keyOf(row))?.act ?? row.acts[0] ?? 'remind';
    return {
      // What was just done is not done again unasked.
      on: row.acts.length > 0 && !results.has(keyOf(row)),
      due: row.extendTo,
      to: row.giveTo === null ? null : { kind: 'person', person: row.giveTo },
      ...choices.get(keyOf(row)),
      act,
    };
  };
  const put = (row: ChaseRow, part: Partial<Choice>) =>
    setChoices(new Map(choices).set(keyOf(row), { ...choices.get(keyOf(row)), ...part }));
  const all = rows ?? [];
  const chosen = all.flatMap((row) => chasedOf(row, choiceOf(row)) ?? []);
  const people = [...new Set(all.map(({ person }) => person))];
  const counted = (act: ChaseAct) => chosen.filter((one) => one.act === act).length;
  return (
    <>
      <PageHead
        above={
          <chakra.span color="pine" textDecoration="underline" textUnderlineOffset="2px" asChild>
            <Link href="/desk">{deskWords.desk}</Link>
          </chakra.span>
        }
        title={words.title}
        below={
          <chakra.span color="quiet">
            {rows ? words.count(all.length, people.length) : partWords.loading} {words.more}
          </chakra.span>
        }
      >
        {all.length > 0 && (
          <DueButton
            busy={chase.isPending}
            disabled={chosen.length === 0}
            onClick={() => chase.mutate({ acts: chosen })}
          >
            {words.confirm(counted('remind'), counted('extend'), counted('reassign'))}
          </DueButton>
        )}
      </PageHead>
      <Box flex="1" minH={0} overflowY="auto" px={{ base: '12px', md: '24px' }} pt="12px" pb="24px">
        <Fault error={error ?? chase.error} />
        {rows && all.length === 0 && <Empty title={words.none}>{words.noneMore}</Empty>}
        {people.map((person) => (
          <Box as="section" key={person} aria-label={name(person)} mb="18px">
            <Flex align="center" gap="14px" borderBottom="1px solid" borderColor="hairline" pb="4px">
              <PersonName id={person} />
              <Away row={all.find((row) => row.person === person)} />
            </Flex>
            {all
              .filter((row) => row.person === person)
              .map((row) => (
                <LateRow
                  key={keyOf(row)}
                  row={row}
                  choice={choiceOf(row)}
                  result={results.get(keyOf(row)) ?? null}
                  onChoice={(part) => put(row, part)}
                />
              ))}
          </Box>
        ))}
      </Box>
    </>
  );
}

function Away({ row }: { readonly row: ChaseRow | undefined }) {
  const times = useTimes();
  if (!row?.away) return null;
  return (
    <Box color={row.away.covered ? 'quiet' : 'copperText'} fontSize="13px">
      {words.away(times.moment(row.away.until), row.away.covered)}
    </Box>
  );
}

function LateRow({
  row,
  choice,
  result,
  onChoice,
}: {
  readonly row: ChaseRow;
  readonly choice: Choice;
  readonly result: string | null;
  readonly onChoice: (part: Partial<Choice>) => void;
}) {
  const times = useTimes();
  const reminded = row.reminded[row.reminded.length - 1];
  const label = `${row.number} ${row.title}`;
  return (
    <Flex py="7px" gap="14px" align="center" borderBottom="1px solid" borderColor="hairline" flexWrap="wrap">
      <Box w="28px">
        <Tick checked={choice.on} disabled={row.acts.length === 0} onChecked={(on) => onChoice({ on })}>
          <chakra.span srOnly>{label}</chakra.span>
        </Tick>
      </Box>
      <Box flex="1" minW="240px">
        <Box truncate>
          <chakra.span color="quiet" mr="8px">
            {row.number}
          </chakra.span>
          <chakra.span asChild>
            <Link href={`/circulations/${row.circulation}?seat=${row.seat}`}>{row.title}</Link>
          </chakra.span>
        </Box>
        <Box color="quiet" fontSize="13px">
          {[
            verbWords[row.doing],
            row.opened === null ? deskWords.notOpened : deskWords.opened(times.moment(row.opened)),
            reminded === undefined
              ? deskWords.notReminded
              : words.reminded(row.reminded.length, times.moment(reminded)),
          ].join(' · ')}
        </Box>
      </Box>
      <Box w="190px" color="copperText" fontWeight={600}>
        {deskWords.due(times.moment(row.due))}
      </Box>
      <Box w="440px" maxW="100%">
        {result ? (
          <Box role="status">{result}</Box>
        ) : row.acts.length === 0 ? (
          <Box color="quiet">{words.nothing}</Box>
        ) : (
          <Flex gap="10px" align="center" flexWrap="wrap">
            <Choose
              w="130px"
              aria-label={words.what(label)}
              value={choice.act}
              onChange={(event) => onChoice({ act: event.target.value as ChaseAct, on: true })}
            >
              {row.acts.map((act) => (
                <option key={act} value={act}>
                  {words.acts[act]}
                </option>
              ))}
            </Choose>
            {choice.act === 'extend' && (
              <MomentInput aria-label={words.until(label)} value={choice.due} onChange={(due) => onChoice({ due })} />
            )}
            {choice.act === 'reassign' && (
              <Box flex="1" minW="200px">
                <OnePerson
                  label={words.to(choice.due === null ? '' : times.moment(choice.due))}
                  person={choice.to?.person ?? null}
                  exclude={row.not}
                  onPerson={(to) => onChoice({ to })}
                />
              </Box>
            )}
          </Flex>
        )}
      </Box>
    </Flex>
  );
}
