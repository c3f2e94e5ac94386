'use client';

import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { type Field, type FieldKind, fieldKinds } from '@/core/page/fields';
import { SideButton, WordButton } from '../parts/buttons';
import { ChoiceRow } from '../parts/ChoiceRow';
import { Choose, TextInput, Tick } from '../parts/form';
import { Leaf } from '../parts/parts';
import type { FieldsWork } from './useFields';
import { fieldWords, fieldsWords as words } from './words';

/** The leaf of a field, under it on its page: who fills it in, and with what. */
export function FieldLeaf({
  field,
  scale,
  work,
}: {
  readonly field: Field;
  readonly scale: number;
  readonly work: FieldsWork;
}) {
  const [more, setMore] = useState(field.label !== '');
  const leaf = useRef<HTMLDivElement>(null);
  // A leaf that opens below the edge of what is in view is brought into it, with the field above it.
  useEffect(() => {
    leaf.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  const others = work.signing.filter(
    (seat) =>
      seat.id !== field.seat && !work.fields.some((other) => other.seat === seat.id && other.kind === field.kind),
  );
  const finding = work.findings.find((one) => one.field === field.id);
  return (
    <Box
      ref={leaf}
      data-over
      position="absolute"
      left="12px"
      right="12px"
      maxW="640px"
      zIndex={5}
      style={{ top: (field.y + field.height) * scale + 8 }}
    >
      <Leaf label={words.field} tone="iris">
        <Flex gap="12px" align="center" mb="4px">
          <Box w="44px" flex="none" color="quiet" fontSize="13px">
            {words.who}
          </Box>
          <Choose
            aria-label={words.who}
            value={field.seat}
            onChange={(event) => work.change(field.id, { seat: event.target.value })}
          >
            {work.signing.map((seat) => (
              <option key={seat.id} value={seat.id}>
                {work.nameOf(seat)}
                {work.missing.includes(seat) ? ` (${words.missingTile})` : ''}
              </option>
            ))}
          </Choose>
        </Flex>
        <Flex gap="12px" align="flex-start">
          <Box w="44px" flex="none" color="quiet" fontSize="13px" lineHeight="28px">
            {words.what}
          </Box>
          <ChoiceRow<FieldKind>
            label={words.what}
            choices={fieldKinds.map((kind) => ({ key: kind, name: fieldWords[kind] }))}
            chosen={field.kind}
            onChoose={(kind) => work.becomes(field, kind)}
          />
        </Flex>
        {finding && (
          <Box color="oxblood" fontSize="13px" mt="4px">
            {words.faults[finding.code]}
          </Box>
        )}
        {more && (
          <TextInput
            aria-label={words.label}
            placeholder={words.label}
            maxLength={80}
            mt="6px"
            value={field.label}
            onChange={(event) => work.change(field.id, { label: event.target.value })}
          />
        )}
        <Flex gap="14px" mt="6px" align="center" flexWrap="wrap">
          <Tick checked={field.needed} onChecked={(needed) => work.change(field.id, { needed })}>
            {words.needed}
          </Tick>
          {!more && <WordButton onClick={() => setMore(true)}>{words.addLabel}</WordButton>}
          {others.slice(0, 2).map((other) => (
            <WordButton key={other.id} onClick={() => work.repeatFor(field, other.id)}>
              {words.repeat(work.nameOf(other))}
            </WordButton>
          ))}
          <WordButton onClick={() => work.remove(field)}>{words.remove}</WordButton>
          <Box flex="1" />
          <SideButton onClick={work.close}>{words.close}</SideButton>
        </Flex>
      </Leaf>
    </Box>
  );
}
