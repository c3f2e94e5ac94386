'use client';

import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import SignaturePad from 'signature_pad';
import type { Field, FieldValue } from '@/core/page/fields';
import { WordButton } from '../parts/buttons';
import { Fault, TextInput } from '../parts/form';
import { TypedMark, useTypedMark } from './MarkShown';
import { signingWords as words } from './words';

/** A hand mark being given: drawn with finger, pen or mouse, or typed. Tells its value as it changes. */
export function HandMark({
  owner,
  field,
  base,
  value,
  onChange,
}: {
  readonly owner: string;
  readonly field: Field;
  readonly base: string;
  readonly value: FieldValue | undefined;
  readonly onChange: (value: FieldValue | undefined) => void;
}) {
  const [typing, setTyping] = useState(value?.kind === 'typed');
  // The field stays empty while it holds a letter that the file cannot hold, but not what was typed.
  const [typed, setTyped] = useState(value?.kind === 'typed' ? value.text : '');
  const { mark, error } = useTypedMark(typing ? typed : '', base);
  const told = useRef(onChange);
  told.current = onChange;
  useEffect(() => {
    if (error?.code === 'letter-unset') told.current(undefined);
  }, [error]);
  const other = typed.trim() !== '' && plain(typed) !== plain(owner);
  return (
    <>
      {typing ? (
        <Box>
          <TextInput
            aria-label={words.typeName}
            placeholder={words.typeName}
            maxLength={120}
            autoFocus
            value={typed}
            dir="auto"
            fontSize="16px"
            onChange={({ target: { value: text } }) => {
              setTyped(text);
              onChange(text.trim() ? { kind: 'typed', text } : undefined);
            }}
          />
          <Box
            mt="8px"
            bg="page"
            color="pageInk"
            border="1px solid"
            borderColor="hairline"
            borderRadius="4px"
            maxW="100%"
            style={{ aspectRatio: field.width / field.height, height: 84 }}
          >
            {mark && <TypedMark mark={mark} field={field} />}
          </Box>
          <Fault error={error} />
          {other && (
            <Box fontSize="13px" color="copperText" mt="4px">
              {words.typedOther(owner)}
            </Box>
          )}
        </Box>
      ) : (
        <Pad value={value} onChange={onChange} />
      )}
      <Flex gap="18px" mt="6px">
        {!typing && value && <WordButton onClick={() => onChange(undefined)}>{words.drawAgain}</WordButton>}
        <WordButton
          onClick={() => {
            setTyping(!typing);
            setTyped(typing ? '' : owner);
            onChange(typing ? undefined : { kind: 'typed', text: owner });
          }}
        >
          {typing ? words.draw : words.type}
        </WordButton>
      </Flex>
    </>
  );
}

function plain(name: string): string {
  return name
    .normalize('NFKD')
    .replace(/[^\p{L}]/gu, '')
    .toLowerCase();
}

function Pad({
  value,
  onChange,
}: {
  readonly value: FieldValue | undefined;
  readonly onChange: (value: FieldValue | undefined) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<SignaturePad | null>(null);
  const told = useRef(onChange);
  told.current = onChange;
  const first = useRef(value);

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const ratio = Math.max(1, window.devicePixelRatio);
    const width = element.clientWidth;
    const height = element.clientHeight;
    element.width = width * ratio;
    element.height = height * ratio;
    element.getContext('2d')?.scale(ratio, ratio);
    const made = new SignaturePad(element, { penColor: getComputedStyle(element).color, minWidth: 0.8, maxWidth: 2.4 });
    pad.current = made;
    const before = first.current;
    if (before?.kind === 'drawn')
      made.fromData(
        before.strokes.map((stroke) => ({
          points: pairs(stroke).map(([x, y]) => ({
            x: (x * width) / before.width,
            y: (y * height) / before.height,
            pressure: 0.5,
            time: 0,
          })),
        })) as never,
      );
    made.addEventListener('endStroke', () => {
      const strokes = made.toData().map((group) => group.points.flatMap((point) => [round(point.x), round(point.y)]));
      const drawn = strokes.filter((stroke) => stroke.length >= 4);
      told.current(drawn.length > 0 ? { kind: 'drawn', strokes: drawn, width, height } : undefined);
    });
    return () => made.off();
  }, []);
  useEffect(() => {
    if (!value) pad.current?.clear();
  }, [value]);

  return (
    <Box
      position="relative"
      h={{ base: '150px', md: '132px' }}
      bg="surface"
      borderBottom="1.5px dashed"
      borderColor="edge"
    >
      {!value && (
        <Flex
          position="absolute"
          inset="0"
          align="center"
          justify="center"
          color="quiet"
          pointerEvents="none"
          aria-hidden
        >
          {words.drawHere}
        </Flex>
      )}
      <chakra.canvas
        ref={canvas}
        position="relative"
        w="100%"
        h="100%"
        display="block"
        color="ink"
        touchAction="none"
        aria-label={words.draw}
        role="img"
      />
    </Box>
  );
}

function pairs(points: readonly number[]): [number, number][] {
  const found: [number, number][] = [];
  for (let i = 0; i + 1 < points.length; i += 2) found.push([points[i] as number, points[i + 1] as number]);
  return found;
}

function round(value: number): number {
  return Math.round(value * 10) / 10;
}
