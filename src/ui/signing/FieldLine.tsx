'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { Field } from '@/core/page/fields';
import type { CirculationView } from '@/server/circulation/view';
import { usePeople } from '../data/use';
import { WordButton } from '../parts/buttons';
import { TextInput, Tick } from '../parts/form';
import { PersonName } from '../parts/parts';
import { fieldWords, fieldsWords as words } from './words';

/** A place in the list beside the pages; the chosen one opens with its label and what can be done with it. */
export function FieldLine({
  field,
  holder,
  finding,
  others,
  chosen,
  fixed,
  onChoose,
  onChange,
  onRepeat,
  onRemove,
}: {
  readonly field: Field;
  readonly holder: string;
  readonly finding: keyof typeof words.faults | null;
  /** Signing seats that have no place of this kind yet. */
  readonly others: readonly CirculationView['seats'][number][];
  readonly chosen: boolean;
  readonly fixed: boolean;
  readonly onChoose: () => void;
  readonly onChange: (part: Partial<Field>) => void;
  readonly onRepeat: (seat: string) => void;
  readonly onRemove: () => void;
}) {
  const { name } = usePeople();
  return (
    <Box borderBottom="1px solid" borderColor="hairline" py="7px">
      <chakra.button
        type="button"
        w="100%"
        textAlign="start"
        cursor="pointer"
        aria-pressed={chosen}
        fontWeight={chosen ? 600 : 400}
        onClick={onChoose}
      >
        <PersonName
          id={holder}
          quiet={`${fieldWords[field.kind].toLowerCase()}, ${words.onPage(field.page + 1)}`}
          size={20}
        />
      </chakra.button>
      {finding && (
        <Box color="oxblood" fontSize="13px">
          {words.faults[finding]}
        </Box>
      )}
      {chosen && !fixed && (
        <Box pt="6px">
          <TextInput
            aria-label={words.label}
            placeholder={words.label}
            maxLength={80}
            value={field.label}
            onChange={(event) => onChange({ label: event.target.value })}
          />
          <Box mt="4px">
            <Tick checked={field.needed} onChecked={(needed) => onChange({ needed })}>
              {words.needed}
            </Tick>
          </Box>
          <Flex gap="12px" flexWrap="wrap">
            {others.slice(0, 3).map((other) => (
              <WordButton key={other.id} onClick={() => onRepeat(other.id)}>
                {words.repeat(name(other.holder).split(' ')[0] ?? '')}
              </WordButton>
            ))}
            <WordButton onClick={onRemove}>{words.remove}</WordButton>
          </Flex>
        </Box>
      )}
    </Box>
  );
}
