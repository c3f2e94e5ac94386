'use client';

import { chakra } from '@chakra-ui/react';
import { dayOnPage, type Field, type FieldValue } from '@/core/page/fields';
import type { OutputOf, Refusal } from '../data/client';
import { useAsk } from '../data/use';
import { useSettled } from '../data/useSettled';

/** A value as it stands in its field, hand marks as the file is going to hold them. */
export function MarkShown({
  value,
  field,
  base,
}: {
  readonly value: FieldValue;
  readonly field: Pick<Field, 'width' | 'height'>;
  readonly base: string;
}) {
  if (value.kind === 'typed') return <TypedOnPage text={value.text} field={field} base={base} />;
  if (value.kind === 'drawn')
    return (
      <svg
        width="100%"
        height="100%"
        viewBox={`0 0 ${value.width} ${value.height}`}
        preserveAspectRatio="xMidYMid meet"
        aria-hidden
      >
        {value.strokes.map((stroke, i) => (
          <polyline
            key={i}
            points={stroke.join(' ')}
            fill="none"
            stroke="currentColor"
            strokeWidth={value.width / 110}
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        ))}
      </svg>
    );
  if (value.kind === 'ticked') return <chakra.span fontWeight={700}>{value.ticked ? '✓' : ''}</chakra.span>;
  return (
    <chakra.span dir="auto" fontSize="0.95em" truncate>
      {value.kind === 'day' ? dayOnPage(value.day) : value.text}
    </chakra.span>
  );
}

type Mark = OutputOf<'seat.mark'>;

/** How the file is going to draw typed letters, or the refusal that names one which it cannot. */
export function useTypedMark(text: string, base: string): { readonly mark: Mark | undefined; error: Refusal | null } {
  const given = { text: useSettled(text.trim()) };
  const throughLink = useAsk('seat.mark', given, { base, keep: true, enabled: base !== '' && given.text !== '' });
  const asMember = useAsk('letters.mark', given, { keep: true, enabled: base === '' && given.text !== '' });
  const { data, error } = base ? throughLink : asMember;
  return { mark: given.text === '' ? undefined : data, error };
}

function TypedOnPage({
  text,
  field,
  base,
}: {
  readonly text: string;
  readonly field: Pick<Field, 'width' | 'height'>;
  readonly base: string;
}) {
  const { mark } = useTypedMark(text, base);
  return mark ? <TypedMark mark={mark} field={field} /> : null;
}

/** Typed letters in the hand and the places that the file gives them. */
export function TypedMark({
  mark,
  field: { width, height },
}: {
  readonly mark: Mark;
  readonly field: Pick<Field, 'width' | 'height'>;
}) {
  // As large as the field allows: the same measures as the file's (server/children/pdf/fill.ts).
  const size = Math.min(height * 0.72, ((width - 6) / Math.max(1, mark.width)) * 100);
  const baseline = height - (height - size * 0.62) / 2;
  return (
    <svg width="100%" height="100%" viewBox={`0 0 ${width} ${height}`} preserveAspectRatio="xMinYMid meet" aria-hidden>
      <path d={mark.path} fill="currentColor" transform={`translate(3 ${baseline}) scale(${size / 100})`} />
    </svg>
  );
}
