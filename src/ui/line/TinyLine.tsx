'use client';

import { useMemo } from 'react';
import { layoutLine } from '@/core/line/layout';
import type { LineModel } from '@/core/line/line';
import { ink } from '../theme/system';
import { RopeLine } from './LineParts';

/** The line in a row: ropes, what has stopped, and the cabin. 132 by 22. */
export function TinyLine({
  model,
  tone,
  words,
}: {
  readonly model: LineModel;
  readonly tone: 'pine' | 'copper' | 'oxblood';
  /** How the line is said (useLineWords); asked once for a whole list. */
  readonly words: (model: LineModel) => string;
}) {
  const drawing = useMemo(() => layoutLine(model, { width: 132, density: 'tiny' }), [model]);
  const { cabin } = drawing;
  return (
    <svg width={132} height={22} viewBox="0 0 132 22" role="img" aria-label={words(model)} style={{ display: 'block' }}>
      {drawing.ropes.map((rope, i) => (
        <RopeLine key={i} rope={rope} small />
      ))}
      {drawing.towers.map((tower, i) => (
        <path
          key={i}
          d={`M${tower.top.x} ${tower.top.y - 3.5}V${tower.top.y + 6}`}
          stroke={ink(tower.reached ? 'ink' : 'ahead')}
          strokeWidth={1.5}
        />
      ))}
      {model.ended === 'withdrawn' ? (
        <path d={`M${cabin.x - 3} ${cabin.y + 7}l7 7m0-7-7 7`} stroke={ink('oxblood')} strokeWidth={1.8} />
      ) : (
        <>
          <path d={`M${cabin.x} ${cabin.y}V${cabin.y + 7}`} stroke={ink(tone)} strokeWidth={1.4} />
          <rect
            x={Math.min(119, Math.max(0, cabin.x - 6))}
            y={cabin.y + 6.5}
            width={12}
            height={8}
            rx={2.6}
            fill={ink(tone)}
          />
        </>
      )}
      {tone === 'copper' && (
        <path
          d={`M${Math.min(122, Math.max(4, cabin.x + 3))} ${Math.max(0, cabin.y - 6)}h8l-2.6 2.6 2.6 2.6h-8z`}
          fill={ink('copper')}
        />
      )}
      {tone === 'oxblood' && model.ended === 'no' && (
        <path
          d={`M${Math.min(122, cabin.x + 10)} ${cabin.y + 7}l6 6m0-6-6 6`}
          stroke={ink('oxblood')}
          strokeWidth={1.8}
        />
      )}
    </svg>
  );
}
