'use client';

import { chakra, Flex } from '@chakra-ui/react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { useAsk, useMe, useTell } from '../data/use';
import { useKeptText } from '../data/useKept';
import { DueButton } from '../parts/buttons';
import { Choose, Fault, FormField, TextInput } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { PageHead } from '../parts/parts';
import { registerWords as words } from './words';

/** A new document record: title, kind and owner; the number comes by itself. */
export function NewRecord() {
  const router = useRouter();
  const types = useAsk('register.types').data?.filter((type) => type.active);
  const { data: me } = useMe();
  const [title, setTitle] = useKeptText(`record.${me?.me.id}`);
  const [chosen, setType] = useState<string | null>(null);
  // Whoever makes it owns it, unless they choose somebody else.
  const [owner, setOwner] = useState<string | null | undefined>(undefined);
  const create = useTell('record.create', {
    after: ({ record }) => {
      setTitle('');
      router.push(`/register/${record}`);
    },
  });
  const documentType = chosen ?? types?.[0]?.code ?? '';
  const holder = owner === undefined ? (me?.me.id ?? null) : owner;
  return (
    <>
      <PageHead title={words.newTitle} below={<chakra.span color="quiet">{words.newMore}</chakra.span>} />
      <chakra.form
        px={{ base: '16px', md: '24px' }}
        maxW="560px"
        onSubmit={(event) => {
          event.preventDefault();
          if (holder) create.mutate({ title, documentType, owner: holder });
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
              onChange={(event) => setTitle(event.target.value)}
            />
          )}
        </FormField>
        <FormField label={words.kind}>
          {(props) => (
            <Choose {...props} value={documentType} onChange={(event) => setType(event.target.value)}>
              {(types ?? []).map((option) => (
                <option key={option.code} value={option.code}>
                  {`${option.name}  (${option.scheme})`}
                </option>
              ))}
            </Choose>
          )}
        </FormField>
        <OnePerson label={words.owner} insideOnly person={holder} onPerson={(who) => setOwner(who?.person ?? null)} />
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
