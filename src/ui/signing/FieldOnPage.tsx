'use client';

import { chakra } from '@chakra-ui/react';
import { dayOnPage, type Field, type FieldValue } from '@/core/page/fields';
import { wallClock } from '@/core/time/zone';
import type { SeatView } from '@/server/signing/view';
import { Tile } from '../parts/Tile';
import { MarkShown } from './MarkShown';
import { fieldWords, signingWords as words } from './words';

const smallest = 24;

/**
 * One of the signer's fields where it stands on its page, as large as it is there, so that none covers another. A press
 * brings it up below; one that is too small for a finger is reached from there alone.
 */
export function FieldOnPage({
  field,
  scale,
  value,
  active,
  me,
  base,
  onOpen,
}: {
  readonly field: Field;
  readonly scale: number;
  readonly value: FieldValue | undefined;
  readonly active: boolean;
  readonly me: SeatView['me'];
  readonly base: string;
  readonly onOpen: () => void;
}) {
  const label = field.label || words.yourField(field.kind);
  const today = wallClock(me?.zone ?? 'UTC', Date.now()).slice(0, 10);
  const shown: FieldValue | undefined = field.kind === 'signedOn' ? { kind: 'day', day: today } : value;
  const [width, height] = [field.width * scale, field.height * scale];
  const small = width < smallest || height < smallest;
  return (
    <chakra.button
      type="button"
      data-over
      data-place={field.id}
      aria-label={`${label}${shown ? `: ${field.kind === 'signedOn' ? dayOnPage(today) : words.filledIn}` : `, ${words.remaining(1)}`}`}
      aria-pressed={active}
      aria-hidden={small || undefined}
      tabIndex={small ? -1 : 0}
      position="absolute"
      border={active ? '3px solid' : '2px solid'}
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
      px={shown && (value?.kind === 'typed' || value?.kind === 'drawn') ? 0 : '3px'}
      lineHeight="1"
      whiteSpace="nowrap"
      fontSize={`${Math.max(9, Math.min(15, height * 0.5, width / 7))}px`}
      style={{ left: field.x * scale, top: field.y * scale, width, height }}
      onClick={onOpen}
    >
      {shown ? (
        <MarkShown value={shown} field={field} base={base} />
      ) : (
        <>
          {me && width > 60 && height > 16 && (
            <Tile person={me.id} letters={me.tile} size={Math.min(22, Math.max(12, height - 8))} />
          )}
          {width > 40 && <span>{field.label || fieldWords[field.kind]}</span>}
        </>
      )}
    </chakra.button>
  );
}
