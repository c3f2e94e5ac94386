'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { dayOnPage, type Field, type FieldValue } from '@/core/page/fields';
import { wallClock } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { WordButton } from '../parts/buttons';
import { DayInput } from '../parts/DayInput';
import { TextInput } from '../parts/form';
import { Tile } from '../parts/Tile';
import { HandMark, MarkShown } from './HandMark';
import { fieldWords, signingWords as words } from './words';

/** One of the signer's places on its page; it opens beneath itself. */
export function FieldToFill({
  field,
  scale,
  value,
  active,
  me,
  onOpen,
  onClose,
  onValue,
}: {
  readonly field: Field;
  readonly scale: number;
  readonly value: FieldValue | undefined;
  readonly active: boolean;
  readonly me: SeatView['me'];
  readonly onOpen: () => void;
  readonly onClose: () => void;
  readonly onValue: (value: FieldValue | undefined) => void;
}) {
  const name = me?.name ?? '';
  const open = () => {
    // What is already known is offered, and can be changed.
    const offered = { name, jobTitle: me?.work, company: me?.company, email: me?.email }[field.kind as string];
    if (!value && offered) onValue({ kind: 'text', text: offered });
    if (field.kind === 'tick')
      onValue(value?.kind === 'ticked' && value.ticked ? undefined : { kind: 'ticked', ticked: true });
    onOpen();
  };
  const label = field.label || words.yourField(field.kind);
  const text = value?.kind === 'text' ? value.text : '';
  const today = wallClock(me?.zone ?? 'UTC', Date.now()).slice(0, 10);
  const shown: FieldValue | undefined = field.kind === 'signedOn' ? { kind: 'day', day: today } : value;
  return (
    <>
      <chakra.button
        type="button"
        data-over
        data-place={field.id}
        aria-label={`${label}${shown ? '' : `, ${words.remaining(1)}`}`}
        aria-expanded={active}
        position="absolute"
        border="2px solid"
        borderColor="iris"
        borderStyle={field.needed ? 'solid' : 'dashed'}
        borderRadius="4px"
        bg={shown ? 'page' : 'irisSoft'}
        color={shown ? 'pageInk' : 'ink'}
        cursor="pointer"
        overflow="hidden"
        display="flex"
        alignItems="center"
        justifyContent="flex-start"
        gap="5px"
        px="3px"
        fontSize={`${Math.max(10, Math.min(15, field.height * scale * 0.5))}px`}
        style={{
          left: field.x * scale,
          top: field.y * scale,
          width: Math.max(24, field.width * scale),
          height: Math.max(24, field.height * scale),
        }}
        onClick={open}
      >
        {shown ? (
          <MarkShown value={shown} />
        ) : (
          <>
            {me && field.width * scale > 60 && (
              <Tile person={me.id} letters={me.tile} size={Math.min(22, Math.max(14, field.height * scale - 10))} />
            )}
            <span>{field.label || fieldWords[field.kind]}</span>
          </>
        )}
      </chakra.button>
      {active && field.kind !== 'tick' && (
        <Box
          data-over
          position="absolute"
          left="8px"
          right="8px"
          zIndex={5}
          bg="surface"
          color="ink"
          border="2px solid"
          borderColor="iris"
          borderRadius="8px"
          px="14px"
          py="12px"
          maxW="420px"
          role="group"
          aria-label={label}
          style={{ top: (field.y + field.height) * scale + 8 }}
        >
          <Flex justify="space-between" align="center" mb="6px">
            <Box fontWeight={600}>{label}</Box>
            <WordButton color="quiet" onClick={onClose}>
              {words.close}
            </WordButton>
          </Flex>
          {field.kind === 'signedOn' ? (
            <Box>{words.signedOnMore(dayOnPage(today))}</Box>
          ) : field.kind === 'date' ? (
            <DayInput
              aria-label={label}
              today={today}
              value={value?.kind === 'day' ? value.day : null}
              onChange={(day) => onValue(day === null ? undefined : { kind: 'day', day })}
            />
          ) : field.kind === 'signature' || field.kind === 'initials' ? (
            <HandMark owner={field.kind === 'initials' ? (me?.tile ?? '') : name} value={value} onChange={onValue} />
          ) : (
            <TextInput
              aria-label={label}
              autoFocus
              maxLength={500}
              value={text}
              onChange={(event) => onValue(event.target.value ? { kind: 'text', text: event.target.value } : undefined)}
            />
          )}
        </Box>
      )}
    </>
  );
}
