'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { FactType, FactValue } from '@/core/route/facts';
import { FactInput } from '../circulation/FactInput';
import { useAsk } from '../data/use';
import { ChoiceField, FormField } from '../parts/form';
import { registerWords as words } from './words';

type Details = Readonly<Record<string, FactValue | null>>;

/** To which unit a document belongs, and the details that its type declares. */
export function DetailsForm({
  types,
  unit,
  details,
  onChange,
}: {
  readonly types: readonly FactType[];
  readonly unit: string | null;
  readonly details: Details;
  readonly onChange: (change: { unit?: string | null; details?: Details }) => void;
}) {
  const units = useAsk('organization.view').data?.units ?? [];
  return (
    <Flex gap="20px" flexWrap="wrap" align="flex-start">
      {(units.length > 0 || unit !== null) && (
        <Box minW="200px">
          <ChoiceField
            label={words.unit}
            value={unit ?? ''}
            onChange={(event) => onChange({ unit: event.target.value || null })}
          >
            <option value="">{words.unitOfOwner}</option>
            {units.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </ChoiceField>
        </Box>
      )}
      {types.map((type) => (
        <Box key={type.id} minW="180px">
          <FormField label={type.needed ? type.name : words.optional(type.name)}>
            {({ id }) => (
              <FactInput
                id={id}
                type={type}
                label={type.name}
                value={details[type.id] ?? null}
                onChange={(value) => onChange({ details: { ...details, [type.id]: value } })}
              />
            )}
          </FormField>
        </Box>
      ))}
    </Flex>
  );
}

/** The details that a document begins with. */
export function standardDetails(types: readonly FactType[]): Details {
  return Object.fromEntries(types.map(({ id, standard }) => [id, standard]));
}
