'use client';

import { Box, Flex } from '@chakra-ui/react';
import type { FactType, FactValue } from '@/core/route/facts';
import { FactField } from '../circulation/FactInput';
import { useAsk } from '../data/use';
import { NamedChoice } from '../parts/form';
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
          <NamedChoice
            label={words.unit}
            none={words.unitOfOwner}
            of={units}
            value={unit}
            onValue={(chosen) => onChange({ unit: chosen })}
          />
        </Box>
      )}
      {types.map((type) => (
        <Box key={type.id} minW="180px">
          <FactField
            type={type}
            label={type.needed ? type.name : words.optional(type.name)}
            value={details[type.id] ?? null}
            onChange={(value) => onChange({ details: { ...details, [type.id]: value } })}
          />
        </Box>
      ))}
    </Flex>
  );
}
