'use client';

import { Flex, RadioGroup } from '@chakra-ui/react';

/** A few names in a row of which one is chosen: which list one looks at, or which document of several. */
export function ChoiceRow<K extends string>({
  label,
  choices,
  chosen,
  onChoose,
}: {
  readonly label: string;
  readonly choices: readonly { readonly key: K; readonly name: string; readonly disabled?: boolean }[];
  readonly chosen: K;
  readonly onChoose: (key: K) => void;
}) {
  return (
    <RadioGroup.Root
      aria-label={label}
      value={chosen}
      onValueChange={({ value }) => {
        if (value !== null && value !== chosen) onChoose(value as K);
      }}
    >
      <Flex columnGap="14px" flexWrap="wrap">
        {choices.map(({ key, name, disabled }) => (
          <RadioGroup.Item
            key={key}
            value={key}
            disabled={disabled}
            cursor="pointer"
            _disabled={{ opacity: 0.45, cursor: 'not-allowed' }}
          >
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemText
              fontSize="14.5px"
              lineHeight="28px"
              maxW="280px"
              truncate
              color={chosen === key ? 'ink' : 'quiet'}
              fontWeight={chosen === key ? 600 : 400}
              borderBottom="2px solid"
              borderColor={chosen === key ? 'pine' : 'transparent'}
              _focusVisible={{ outline: '2px solid', outlineColor: 'pine', outlineOffset: '2px' }}
            >
              {name}
            </RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </Flex>
    </RadioGroup.Root>
  );
}
