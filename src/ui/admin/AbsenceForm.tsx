'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { Cover } from '@/core/people/cover';
import { verbs } from '@/core/route/verbs';
import { usePeople } from '../data/people';
import { say } from '../data/said';
import { useAsk, useMe, useTell, useTimes } from '../data/use';
import { verbWords } from '../line/words';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { Fault, FormField, Tick } from '../parts/form';
import { MomentInput } from '../parts/MomentInput';
import { OnePerson } from '../parts/OnePerson';
import { adminWords } from './words';

const words = adminWords.away;

/** Whoever covers, as it is being entered: nobody yet, and which work while not everything. */
interface Entered {
  readonly key: string;
  readonly by: string | null;
  readonly verbs: Cover['verbs'];
  readonly types: Cover['types'];
}

const fresh = (): Entered => ({ key: crypto.randomUUID(), by: null, verbs: 'all', types: 'all' });

/** Sets that somebody is away, from when to when, and who covers for what. */
export function AbsenceForm({ person, onDone }: { readonly person: string; readonly onDone: () => void }) {
  const times = useTimes();
  const { name } = usePeople();
  const { data: me } = useMe();
  const self = me?.me.id === person;
  const [from, setFrom] = useState<number | null>(null);
  const [to, setTo] = useState<number | null>(null);
  const [covers, setCovers] = useState<readonly Entered[]>([fresh()]);
  const [id] = useState(() => crypto.randomUUID());
  const save = useTell('absences.save', {
    answered: () => say(self ? words.savedOwn : words.saved(name(person))),
    after: onDone,
  });
  const named = covers.flatMap(({ by, verbs: work, types }): Cover[] => (by ? [{ by, verbs: work, types }] : []));
  const change = (key: string, with_: Partial<Entered>) =>
    setCovers(covers.map((cover) => (cover.key === key ? { ...cover, ...with_ } : cover)));
  return (
    <Box mt="10px" pt="10px" borderTop="1px solid" borderColor="hairline">
      <Flex gap="16px" flexWrap="wrap">
        <FormField label={words.from} help={from === null ? words.fromNow : undefined}>
          {(props) => <MomentInput {...props} aria-label={words.from} value={from} usual="08:00" onChange={setFrom} />}
        </FormField>
        <FormField label={words.to} help={words.toMore}>
          {(props) => <MomentInput {...props} aria-label={words.to} value={to} usual="08:00" onChange={setTo} />}
        </FormField>
      </Flex>
      {covers.map((cover) => (
        <CoverEntered
          key={cover.key}
          cover={cover}
          person={person}
          onChange={(with_) => change(cover.key, with_)}
          onRemove={covers.length > 1 ? () => setCovers(covers.filter((other) => other.key !== cover.key)) : undefined}
        />
      ))}
      {named.length === covers.length && (
        <WordButton onClick={() => setCovers([...covers, fresh()])}>{words.another}</WordButton>
      )}
      <Box color="quiet" fontSize="13px" my="8px">
        {self ? words.whatOwn : words.what(name(person))}
      </Box>
      <Fault error={save.error} />
      <Flex gap="14px" justify="flex-end" align="center">
        <WordButton onClick={onDone}>{words.cancel}</WordButton>
        <DueButton
          busy={save.isPending}
          disabled={to === null}
          onClick={() => to !== null && save.mutate({ id, person, from: from ?? times.now(), to, covers: named })}
        >
          {to === null ? words.chooseEnd : named.length === 0 ? words.saveUncovered : words.save}
        </DueButton>
      </Flex>
    </Box>
  );
}

function CoverEntered({
  cover,
  person,
  onChange,
  onRemove,
}: {
  readonly cover: Entered;
  readonly person: string;
  readonly onChange: (with_: Partial<Entered>) => void;
  readonly onRemove: (() => void) | undefined;
}) {
  const { data: types = [] } = useAsk('register.types');
  const all = cover.verbs === 'all' && cover.types === 'all';
  const toggled = <T extends string>(
    given: readonly T[] | 'all',
    every: readonly T[],
    one: T,
  ): readonly T[] | 'all' => {
    const now = given === 'all' ? every : given;
    const next = now.includes(one) ? now.filter((other) => other !== one) : [...now, one];
    return next.length === 0
      ? now
      : next.length === every.length
        ? 'all'
        : every.filter((other) => next.includes(other));
  };
  const codes = types.map(({ code }) => code);
  const [some, setSome] = useState(!all);
  return (
    <Box mb="8px">
      <OnePerson
        label={words.by}
        insideOnly
        exclude={[person]}
        person={cover.by}
        onPerson={(who) => onChange({ by: who?.person ?? null })}
      />
      {cover.by !== null && (
        <Flex gap="14px" mt="4px" align="center" flexWrap="wrap">
          <ChoiceRow
            label={words.for}
            choices={[
              { key: 'all', name: words.allWork },
              { key: 'some', name: words.someWork },
            ]}
            chosen={some ? 'some' : 'all'}
            onChoose={(key) => {
              setSome(key === 'some');
              if (key === 'all') onChange({ verbs: 'all', types: 'all' });
            }}
          />
          {onRemove && <WordButton onClick={onRemove}>{words.removeCover}</WordButton>}
        </Flex>
      )}
      {cover.by !== null && some && (
        <Box mt="4px">
          <Flex columnGap="16px" flexWrap="wrap" role="group" aria-label={words.verbs}>
            {verbs.map((verb) => (
              <Tick
                key={verb}
                checked={cover.verbs === 'all' || cover.verbs.includes(verb)}
                onChecked={() => onChange({ verbs: toggled(cover.verbs, verbs, verb) })}
              >
                {verbWords[verb]}
              </Tick>
            ))}
          </Flex>
          <Box color="quiet" fontSize="13px" mt="6px">
            {words.types}
          </Box>
          <Flex columnGap="16px" flexWrap="wrap" role="group" aria-label={words.types}>
            {types.map((type) => (
              <Tick
                key={type.code}
                checked={cover.types === 'all' || cover.types.includes(type.code)}
                onChecked={() => onChange({ types: toggled(cover.types, codes, type.code) })}
              >
                {type.name}
              </Tick>
            ))}
          </Flex>
        </Box>
      )}
    </Box>
  );
}
