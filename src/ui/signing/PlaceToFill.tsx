'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import type { Place, PlaceValue } from '@/core/page/places';
import type { SeatView } from '@/server/signing/sign';
import { WordButton } from '../parts/buttons';
import { TextInput } from '../parts/fields';
import { Tile } from '../parts/Tile';
import { HandMark, MarkShown } from './HandMark';
import { placeWords, signingWords as words } from './words';

/** One of the signer's places on its page; it opens beneath itself. */
export function PlaceToFill({
  place,
  scale,
  value,
  active,
  me,
  onOpen,
  onClose,
  onValue,
}: {
  readonly place: Place;
  readonly scale: number;
  readonly value: PlaceValue | undefined;
  readonly active: boolean;
  readonly me: SeatView['me'];
  readonly onOpen: () => void;
  readonly onClose: () => void;
  readonly onValue: (value: PlaceValue | undefined) => void;
}) {
  const name = me?.name ?? '';
  const open = () => {
    // What is already known is offered, and can be changed.
    if (!value && place.kind === 'name') onValue({ kind: 'text', text: name });
    if (!value && place.kind === 'date')
      onValue({
        kind: 'text',
        text: new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeZone: me?.zone ?? 'UTC' }).format(Date.now()),
      });
    if (place.kind === 'choice')
      onValue(value?.kind === 'ticked' && value.ticked ? undefined : { kind: 'ticked', ticked: true });
    onOpen();
  };
  const label = place.label || words.yourPlace(place.kind);
  const text = value?.kind === 'text' ? value.text : '';
  return (
    <>
      <chakra.button
        type="button"
        data-over
        data-place={place.id}
        aria-label={`${label}${value ? '' : `, ${words.remaining(1)}`}`}
        aria-expanded={active}
        position="absolute"
        border="2px solid"
        borderColor="iris"
        borderStyle={place.needed ? 'solid' : 'dashed'}
        borderRadius="4px"
        bg={value ? 'page' : 'irisSoft'}
        color={value ? 'pageInk' : 'ink'}
        cursor="pointer"
        overflow="hidden"
        display="flex"
        alignItems="center"
        justifyContent="flex-start"
        gap="5px"
        px="3px"
        fontSize={`${Math.max(10, Math.min(15, place.height * scale * 0.5))}px`}
        style={{
          left: place.x * scale,
          top: place.y * scale,
          width: Math.max(24, place.width * scale),
          height: Math.max(24, place.height * scale),
        }}
        onClick={open}
      >
        {value ? (
          <MarkShown value={value} />
        ) : (
          <>
            {me && place.width * scale > 60 && (
              <Tile person={me.id} letters={me.tile} size={Math.min(22, Math.max(14, place.height * scale - 10))} />
            )}
            <span>{place.label || placeWords[place.kind]}</span>
          </>
        )}
      </chakra.button>
      {active && place.kind !== 'choice' && (
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
          style={{ top: (place.y + place.height) * scale + 8 }}
        >
          <Flex justify="space-between" align="center" mb="6px">
            <Box fontWeight={600}>{label}</Box>
            <WordButton color="quiet" onClick={onClose}>
              {words.close}
            </WordButton>
          </Flex>
          {place.kind === 'signature' || place.kind === 'initials' ? (
            <HandMark owner={place.kind === 'initials' ? (me?.tile ?? '') : name} value={value} onChange={onValue} />
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
