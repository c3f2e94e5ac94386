'use client';

import { chakra, Flex } from '@chakra-ui/react';
import { useRouter } from '../data/ahead';
import type { OutputOf } from '../data/client';
import { useAsk, useMe, useTell } from '../data/use';
import { useKeptForm } from '../data/useKept';
import { DueButton } from '../parts/buttons';
import { Choose, Fault, FormField, TextInput } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { PageHead } from '../parts/parts';
import { registerWords as words } from './words';

/** A new document record: title, kind and owner; the number comes by itself. */
export function NewRecord() {
  const { data: me } = useMe();
  return me ? <Form me={me} /> : null;
}

function Form({ me }: { readonly me: OutputOf<'session.me'> }) {
  const router = useRouter();
  const types = useAsk('register.types').data?.filter((type) => type.active);
  const [{ title, type, owner }, change, forget] = useKeptForm<{
    title: string;
    type: string | null;
    owner: string | null;
  }>('record', {
    title: '',
    type: null,
    // Whoever makes it owns it, unless they choose somebody else.
    owner: me.me.id,
  });
  const create = useTell('record.create', {
    after: ({ record }) => {
      forget();
      router.push(`/register/${record}`);
    },
  });
  const documentType = type ?? types?.[0]?.code ?? '';
  return (
    <>
      <PageHead title={words.newTitle} below={<chakra.span color="quiet">{words.newMore}</chakra.span>} />
      <chakra.form
        px={{ base: '16px', md: '24px' }}
        maxW="560px"
        onSubmit={(event) => {
          event.preventDefault();
          if (owner) create.mutate({ title, documentType, owner });
        }}
      >
        <FormField label={words.name}>
          {(props) => (
            <TextInput
              {...props}
              autoFocus
              required
              maxLength={200}
              value={title}
              onChange={(event) => change({ title: event.target.value })}
            />
          )}
        </FormField>
        <FormField label={words.kind}>
          {(props) => (
            <Choose {...props} value={documentType} onChange={(event) => change({ type: event.target.value })}>
              {(types ?? []).map((option) => (
                <option key={option.code} value={option.code}>
                  {`${option.name}  (${option.scheme})`}
                </option>
              ))}
            </Choose>
          )}
        </FormField>
        <OnePerson
          label={words.owner}
          insideOnly
          person={owner}
          onPerson={(who) => change({ owner: who?.person ?? null })}
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
