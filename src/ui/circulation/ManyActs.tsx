'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CirculationRow } from '@/server/circulation/list';
import type { ManyAct, ManyResult } from '@/server/desk/many';
import { say } from '../data/said';
import { useTell } from '../data/use';
import { DueButton, SideButton, WordButton } from '../parts/buttons';
import { Fault } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { listWords as words } from './listWords';

type Kind = ManyAct['kind'];
const kinds: readonly Kind[] = ['remind', 'extend', 'reassign', 'handControl'];

/** What can be done to all that are selected at once, and what came of it where it was refused. */
export function ManyActs({
  rows,
  all,
  onKeys,
}: {
  /** The selected rows, and all that are shown. */
  readonly rows: readonly CirculationRow[];
  readonly all: readonly CirculationRow[];
  readonly onKeys: (keys: ReadonlySet<string>) => void;
}) {
  const [kind, setKind] = useState<Kind | null>(null);
  const [due, setDue] = useState<number | null>(null);
  const [from, setFrom] = useState<string | null>(null);
  const [to, setTo] = useState<string | null>(null);
  const [refused, setRefused] = useState<readonly ManyResult[]>([]);
  const tell = useTell('desk.many', {
    answered: (results) => {
      const not = results.filter((one) => one.refused !== null);
      const acts = results.reduce((sum, { done }) => sum + done, 0);
      say(words.done(acts, results.length - not.length, not.length));
      setRefused(not);
      setKind(null);
      // What was refused stays selected, so that something else can be done about it.
      onKeys(new Set(not.map(({ circulation }) => circulation)));
    },
  });
  const act = actOf(kind, due, from, to);
  const put = (chosen: ManyAct) => tell.mutate({ circulations: rows.map(({ id }) => id), act: chosen });
  const titleOf = (id: string) => {
    const row = all.find((one) => one.id === id);
    return row ? `${row.number} ${row.document} ${row.title}` : id;
  };
  if (rows.length === 0 && refused.length === 0) return null;
  return (
    <Box role="region" aria-label={words.selected(rows.length)}>
      {rows.length > 0 && (
        <Flex gap="12px" align="center" flexWrap="wrap">
          <Box fontWeight={600}>{words.selected(rows.length)}</Box>
          {kinds.map((one) => (
            <SideButton
              key={one}
              disabled={tell.isPending}
              aria-expanded={one === 'remind' ? undefined : kind === one}
              title={one === 'remind' ? words.remindMore : undefined}
              onClick={() => (one === 'remind' ? put({ kind: 'remind' }) : setKind(kind === one ? null : one))}
            >
              {words.acts[one]}
            </SideButton>
          ))}
          <Box flex="1" />
          {rows.length < all.length && (
            <WordButton onClick={() => onKeys(new Set(all.map(({ id }) => id)))}>
              {words.selectAll(all.length)}
            </WordButton>
          )}
          <WordButton onClick={() => onKeys(new Set())}>{words.unselect}</WordButton>
        </Flex>
      )}
      {rows.length > 0 && kind && kind !== 'remind' && (
        <Flex gap="18px" align="flex-end" mt="12px" flexWrap="wrap">
          {kind === 'extend' && (
            <Box>
              <Box fontSize="13px" color="quiet" mb="4px">
                {words.extendTo}
              </Box>
              <MomentInput aria-label={words.extendTo} value={due} onChange={setDue} />
            </Box>
          )}
          {kind === 'reassign' && (
            <Box w="240px">
              <OnePerson label={words.from} person={from} onPerson={(who) => setFrom(who?.person ?? null)} />
            </Box>
          )}
          {kind !== 'extend' && (
            <Box w="240px">
              <OnePerson
                label={kind === 'reassign' ? words.to : words.handTo}
                person={to}
                exclude={from === null ? [] : [from]}
                onPerson={(who) => setTo(who?.person ?? null)}
              />
            </Box>
          )}
          <DueButton disabled={act === null} busy={tell.isPending} onClick={() => act && put(act)}>
            {kind === 'extend'
              ? words.extendNow(rows.length)
              : kind === 'reassign'
                ? words.reassignNow
                : words.handNow(rows.length)}
          </DueButton>
          <WordButton onClick={() => setKind(null)}>{words.cancel}</WordButton>
          <Box color="quiet" fontSize="13px" flexBasis="100%">
            {kind === 'extend' ? words.extendMore : kind === 'reassign' ? words.reassignMore : words.handMore}
          </Box>
        </Flex>
      )}
      <Fault error={tell.error} />
      {refused.length > 0 && (
        <Box role="status" mt="10px" fontSize="13.5px">
          <Flex gap="14px" align="center">
            <Box fontWeight={600}>{words.refused}</Box>
            <WordButton onClick={() => setRefused([])}>{words.close}</WordButton>
          </Flex>
          {refused.map((one) => (
            <Box key={one.circulation}>
              {titleOf(one.circulation)}: {one.refused}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

function actOf(kind: Kind | null, due: number | null, from: string | null, to: string | null): ManyAct | null {
  if (kind === 'extend') return due === null ? null : { kind, due };
  if (kind === 'reassign') return from === null || to === null ? null : { kind, from, to };
  if (kind === 'handControl') return to === null ? null : { kind, to };
  return null;
}
