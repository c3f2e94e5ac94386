'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { Facts, FactValue } from '@/core/route/facts';
import { useAsk, useTell } from '../data/use';
import { useGround } from '../data/useGround';
import { useKeptForm } from '../data/useKept';
import { DueButton, WordButton } from '../parts/buttons';
import { ChoiceField, Fault, TextField } from '../parts/form';
import { OnePerson } from '../parts/OnePerson';
import { Leaf } from '../parts/parts';
import { DetailsForm } from './DetailsForm';
import { registerWords as words } from './words';

/** Changes what a document is: title, type, owner, unit and details. Its number stays. */
export function Describe({
  data,
  onDone,
}: {
  readonly data: {
    readonly record: string;
    readonly title: string;
    readonly documentType: string;
    readonly owner: string;
    readonly unit: string | null;
    readonly details: Facts;
    readonly may: { readonly describe: boolean };
  };
  readonly onDone: () => void;
}) {
  const { data: types } = useAsk('register.types');
  const [{ title, documentType, owner, unit, details }, change, forget] = useKeptForm<{
    title: string;
    documentType: string;
    owner: string | null;
    unit: string | null;
    details: Readonly<Record<string, FactValue | null>>;
  }>(`describe.${data.record}`, data);
  const describe = useTell('record.describe', { answered: forget, after: onDone });
  useGround(data.may.describe, describe, onDone);
  return (
    <Leaf label={words.describe}>
      <Flex gap="20px" flexWrap="wrap" align="flex-start">
        <Box flex="1.5" minW="240px">
          <TextField
            label={words.name}
            required
            maxLength={200}
            value={title}
            onChange={(event) => change({ title: event.target.value })}
          />
        </Box>
        <Box flex="1" minW="180px">
          <ChoiceField
            label={words.kind}
            value={documentType}
            onChange={(event) => change({ documentType: event.target.value })}
          >
            {(types ?? [])
              .filter((option) => option.active || option.code === data.documentType)
              .map((option) => (
                <option key={option.code} value={option.code}>
                  {option.name}
                </option>
              ))}
          </ChoiceField>
        </Box>
        <Box flex="1" minW="220px">
          <OnePerson
            label={words.owner}
            insideOnly
            person={owner}
            onPerson={(who) => change({ owner: who?.person ?? null })}
          />
        </Box>
      </Flex>
      <Box mt="12px">
        <DetailsForm
          types={types?.find(({ code }) => code === documentType)?.details ?? []}
          unit={unit}
          details={details}
          onChange={change}
        />
      </Box>
      <Fault error={describe.error} />
      <Flex gap="14px" justify="flex-end">
        <WordButton
          onClick={() => {
            forget();
            onDone();
          }}
        >
          {words.leave}
        </WordButton>
        <DueButton
          busy={describe.isPending}
          disabled={!owner || title.trim() === ''}
          onClick={() => owner && describe.mutate({ record: data.record, title, documentType, owner, unit, details })}
        >
          {words.describeDo}
        </DueButton>
      </Flex>
    </Leaf>
  );
}
