'use client';

import { chakra, Flex } from '@chakra-ui/react';

/** A few names in a row of which one is chosen: which list one looks at, or which document of several. */
export function ChoiceRow<K extends string>({
  label,
  choices,
  chosen,
  onChoose,
}: {
  readonly label: string;
  readonly choices: readonly { readonly key: K; readonly name: string }[];
  readonly chosen: K;
  readonly onChoose: (key: K) => void;
}) {
  return (
    <Flex role="group" aria-label={label} columnGap="14px" flexWrap="wrap">
      {choices.map(({ key, name }) => (
        <chakra.button
          key={key}
          type="button"
          minH="28px"
          maxW="280px"
          truncate
          cursor="pointer"
          aria-pressed={chosen === key}
          color={chosen === key ? 'ink' : 'quiet'}
          fontWeight={chosen === key ? 600 : 400}
          borderBottom="2px solid"
          borderColor={chosen === key ? 'pine' : 'transparent'}
          onClick={() => onChoose(key)}
        >
          {name}
        </chakra.button>
      ))}
    </Flex>
  );
}
