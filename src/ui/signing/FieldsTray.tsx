'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { inReadingOrder } from '@/core/page/fields';
import { SideButton } from '../parts/buttons';
import { Fact, PersonName, Tray } from '../parts/parts';
import type { FieldsWork } from './useFields';
import { fieldWords, fieldsWords as words } from './words';

/** The tray under the pages: each person who signs, with their fields in reading order. */
export function FieldsTray({ work }: { readonly work: FieldsWork }) {
  const [open, setOpen] = useState(false);
  const { signing, fields, missing, frozen } = work;
  return (
    <Tray
      label={words.list}
      open={open}
      onToggle={() => setOpen(!open)}
      facts={
        <>
          <Fact name={words.list}>{words.count(fields.length)}</Fact>
          {missing.length > 0 && (
            <chakra.span color="copperText" truncate>
              {words.missing(missing.map(work.nameOf).join(', '))}
            </chakra.span>
          )}
        </>
      }
    >
      {!frozen && (
        <SideButton mb="8px" onClick={work.putOne}>
          {words.add}
        </SideButton>
      )}
      {signing.map((seat) => (
        <Flex key={seat.id} gap="14px" py="4px" align="baseline" flexWrap="wrap">
          <Box w="220px" flex="none">
            {seat.holder ? <PersonName id={seat.holder} size={20} /> : work.nameOf(seat)}
          </Box>
          <Flex gap="4px 14px" flex="1" flexWrap="wrap">
            {inReadingOrder(fields.filter((field) => field.seat === seat.id)).map((field) => (
              <chakra.button
                key={field.id}
                type="button"
                color="pine"
                fontWeight={field.id === work.chosen ? 700 : 600}
                minH="24px"
                cursor="pointer"
                onClick={() => work.open(field.id)}
              >
                {words.fieldAt(field.label || fieldWords[field.kind], field.page + 1)}
              </chakra.button>
            ))}
            {missing.includes(seat) && <chakra.span color="copperText">{words.missingTile}</chakra.span>}
          </Flex>
        </Flex>
      ))}
    </Tray>
  );
}
