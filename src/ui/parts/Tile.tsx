'use client';

import { memo } from 'react';
import { type Colour, ink } from '../theme/system';

const grounds: readonly Colour[] = ['tile1', 'tile2', 'tile3', 'tile4', 'tile5', 'tile6'];

function spread(text: string): number {
  let hash = 2166136261;
  for (const character of text) hash = Math.imul(hash ^ (character.codePointAt(0) ?? 0), 16777619) >>> 0;
  return hash;
}

/** The lines of a person's own pattern, in a box of 28; drawn, so that it is told apart without colour. */
const patterns: readonly string[] = [
  'M-4 10 10-4M-4 20 20-4M-4 30 30-4M6 32 32 6M16 32 32 16',
  'M0 5H28M0 11H28M0 17H28M0 23H28',
  'M5 0V28M11 0V28M17 0V28M23 0V28',
  'M0 6q3.5-4 7 0t7 0 7 0 7 0M0 14q3.5-4 7 0t7 0 7 0 7 0M0 22q3.5-4 7 0t7 0 7 0 7 0',
  'M4 4h.1M11 4h.1M18 4h.1M25 4h.1M4 11h.1M11 11h.1M18 11h.1M25 11h.1M4 18h.1M11 18h.1M18 18h.1M25 18h.1M4 25h.1M11 25h.1M18 25h.1M25 25h.1',
  'M-4 18 18 40M-4 8 24 36M-4-2 32 34M6-4 32 22M16-4 32 12',
  'M0 7H28M0 14H28M0 21H28M7 0V28M14 0V28M21 0V28',
  'M0 9 7 2 14 9 21 2 28 9M0 18 7 11 14 18 21 11 28 18M0 27 7 20 14 27 21 20 28 27',
];

/** The drawing inside a tile, for use in another drawing: a box of 28 with the pattern and two letters. */
export const TileArt = memo(function TileArt({
  person,
  letters,
  faint = false,
}: {
  readonly person: string;
  readonly letters: string;
  readonly faint?: boolean;
}) {
  const n = spread(person);
  const ground = grounds[n % grounds.length] as Colour;
  const pattern = patterns[Math.floor(n / 7) % patterns.length] as string;
  return (
    <>
      <svg x={0} y={0} width={28} height={28} viewBox="0 0 28 28" aria-hidden>
        <rect x={0.5} y={0.5} width={27} height={27} rx={6} fill={ink(ground)} />
        <path
          d={pattern}
          fill="none"
          stroke={ink('quiet')}
          strokeOpacity={faint ? 0.12 : 0.26}
          strokeWidth={pattern.includes('h.1') ? 2.4 : 1}
          strokeLinecap="round"
          clipPath="inset(1px round 6px)"
        />
        <rect x={0.5} y={0.5} width={27} height={27} rx={6} fill="none" stroke={ink('edge')} />
      </svg>
      <text
        x={14}
        y={18}
        textAnchor="middle"
        style={{ fontSize: 10.5, fontWeight: 700 }}
        fill={ink(faint ? 'quiet' : 'ink')}
        aria-hidden
      >
        {letters}
      </text>
    </>
  );
});

/** A person's tile: two letters on a pattern of their own. Decoration; the name stands beside it or in a label. */
export function Tile({
  person,
  letters,
  size = 26,
}: {
  readonly person: string;
  readonly letters: string;
  readonly size?: number;
}) {
  return (
    <svg width={size} height={size} viewBox="0 0 28 28" aria-hidden style={{ flex: 'none', display: 'block' }}>
      <TileArt person={person} letters={letters} />
    </svg>
  );
}
