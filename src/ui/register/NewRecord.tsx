'use client';

import { chakra, Flex } from '@chakra-ui/react';
import { type FactValue, standardFacts } from '@/core/route/facts';
import { useRouter } from '../data/ahead';
import type { OutputOf } from '../data/client';
import { useAsk, useMe, useTell } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { DueButton } from '../parts/buttons';
import { ChoiceField, Fault, TextField } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { PageHead } from '../parts/parts';
import { DetailsForm } from './DetailsForm';
import { registerWords as words } from './words';

/** A new document: title, type, owner, unit and details; the number comes by itself. */
export function NewRecord() {
  const { data: me } = useMe();
  return me ? <Form me={me} /> : null;
}

function Form({ me }: { readonly me: OutputOf<'session.me'> }) {
  const router = useRouter();
  const types = useAsk('register.types').data?.filter((type) => type.active);
  const [{ title, type, owner, unit, details }, change, forget] = useKeptForm<{
    title: string;
    type: string | null;
    owner: string | null;
    unit: string | null;
    /** What was given, by type; until then the standards of the type stand. */
    details: Readonly<Record<string, Readonly<Record<string, FactValue | null>>>>;
  }>('record', {
    title: '',
    type: null,
    // Whoever makes it owns it, unless they choose somebody else.
    owner: me.me.id,
    unit: null,
    details: {},
  });
  const create = useTell('record.create', {
    after: ({ record }) => {
      forget();
      router.push(`/register/${record}`);
    },
  });
  const documentType = type ?? types?.[0]?.code ?? '';
  const declared = types?.find(({ code }) => code === documentType)?.details ?? [];
  const given = details[documentType] ?? standardFacts(declared);
  return (
    <>
      <PageHead title={words.newTitle} below={<chakra.span color="quiet">{words.newMore}</chakra.span>} />
      <chakra.form
        px={{ base: '16px', md: '24px' }}
        maxW="560px"
        onSubmit={(event) => {
          event.preventDefault();
          if (owner) create.mutate({ title, documentType, owner, unit, details: given });
        }}
      >
        <TextField
          label={words.name}
          autoFocus
          required
          maxLength={200}
          value={title}
          onChange={(event) => change({ title: event.target.value })}
        />
        <ChoiceField label={words.kind} value={documentType} onChange={(event) => change({ type: event.target.value })}>
          {(types ?? []).map((option) => (
            <option key={option.code} value={option.code}>
              {`${option.name}  (${option.scheme})`}
            </option>
          ))}
        </ChoiceField>
        <OnePerson
          label={words.owner}
          insideOnly
          person={owner}
          onPerson={(who) => change({ owner: who?.person ?? null })}
        />
        <DetailsForm
          types={declared}
          unit={unit}
          details={given}
          onChange={({ details: next, ...rest }) =>
            change({ ...rest, ...(next ? { details: { ...details, [documentType]: next } } : {}) })
          }
        />
        <Fault error={create.error} />
        <Flex mt="18px" justify="flex-end">
          <DueButton type="submit" busy={create.isPending} disabled={title.trim() === '' || !owner}>
            {words.newNumber}
          </DueButton>
        </Flex>
      </chakra.form>
    </>
  );
}
