'use client';

import { chakra } from '@chakra-ui/react';
import { useMemo } from 'react';
import { layoutLine } from '@/core/line/layout';
import { anyMark, type LineModel } from '@/core/line/line';
import { usePeople } from '../data/people';
import { ink } from '../theme/system';
import { Cabin, Ground, path, RopeLine, Seat, Tower, useWords } from './LineParts';
import { lineWords, seatWords, verbWords } from './words';

export interface LineLabels {
  /** One fact under a stage's verb. */
  readonly fact?: (
    stage: string,
  ) => { readonly text: string; readonly tone?: 'quiet' | 'copperText' | 'oxblood' } | null;
}

/** The line, large: towers, ropes, hanging seats, cabin and ground. A span or a tile opens its seats. */
export function LineDrawing({
  model,
  width,
  labels = {},
  selected = null,
  onStage,
}: {
  readonly model: LineModel;
  readonly width: number;
  readonly labels?: LineLabels;
  readonly selected?: string | null;
  readonly onStage?: ((stage: string, seat: string | null) => void) | undefined;
}) {
  const drawing = useMemo(() => layoutLine(model, { width, density: 'large' }), [model, width]);
  const { name } = usePeople();
  const words = useWords(model);
  const stopped = drawing.ropes.some((rope) => rope.stopped) || anyMark(model, ['cross', 'missed']);
  const late = anyMark(model, ['late']);
  const press = (stage: string, seat: string | null, label: string) =>
    onStage
      ? {
          role: 'button',
          tabIndex: 0,
          'aria-label': label,
          style: { cursor: 'pointer' },
          onClick: () => onStage(stage, seat),
          onKeyDown: (event: { key: string; preventDefault: () => void }) => {
            if (event.key !== 'Enter' && event.key !== ' ') return;
            event.preventDefault();
            onStage(stage, seat);
          },
        }
      : {};
  return (
    <chakra.svg
      width="100%"
      display="block"
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      role="group"
      aria-label={`${lineWords.title}: ${words}`}
    >
      <Ground drawing={drawing} />
      {drawing.towers.map((tower) => (
        <Tower key={`${tower.top.x} ${tower.top.y}`} tower={tower} />
      ))}
      {drawing.ropes.map((rope) => (
        <g key={rope.stage || 'empty'}>
          {selected === rope.stage && rope.stage !== '' && (
            <path d={path(rope)} fill="none" stroke={ink('pineSoft')} strokeWidth={14} strokeLinecap="round" />
          )}
          <RopeLine rope={rope} small={false} />
        </g>
      ))}
      {drawing.labels.map((label) => {
        const fact = labels.fact?.(label.stage);
        const tall = label.below ? 62 : 20;
        const roomy = label.width > 70;
        return (
          <g key={label.stage} {...press(label.stage, null, `${verbWords[label.verb]}${fact ? `, ${fact.text}` : ''}`)}>
            <rect
              x={label.at.x - label.width / 2}
              y={label.at.y - 15}
              width={label.width}
              height={tall}
              fill="transparent"
            />
            <text x={label.at.x} y={label.at.y} textAnchor="middle" fill={ink('ink')}>
              <tspan
                style={{ fontSize: label.below ? 13.5 : 12.5, fontWeight: 600 }}
                textDecoration={selected === label.stage ? 'underline' : undefined}
              >
                {verbWords[label.verb]}
              </tspan>
              {fact && roomy && (
                <tspan
                  {...(label.below ? { x: label.at.x, dy: 17 } : { dx: 6 })}
                  style={{ fontSize: 12.5 }}
                  fill={ink(fact.tone ?? 'quiet')}
                >
                  {fact.text}
                </tspan>
              )}
            </text>
          </g>
        );
      })}
      {drawing.branches.map((branch) => (
        <text
          key={`${branch.name} ${branch.at.y}`}
          x={branch.at.x}
          y={branch.at.y}
          style={{ fontSize: 12 }}
          fill={ink('quiet')}
          aria-hidden
        >
          {branch.name}
        </text>
      ))}
      {drawing.steps.map((step) => (
        <path
          key={`${step.from.x} ${step.from.y}`}
          d={`M${step.from.x + 16} ${step.from.y}H${(step.from.x + step.to.x) / 2}V${step.to.y}H${step.to.x - 17}m-5-4 5 4-5 4`}
          fill="none"
          stroke={ink(step.reached ? 'ink' : 'ahead')}
          strokeWidth={1.4}
          aria-hidden
        />
      ))}
      {drawing.seats.map((seat) => (
        <g key={seat.seat.id} {...press(seat.stage, seat.seat.id, `${name(seat.seat.person)} ${seatWords(seat.seat)}`)}>
          <Seat seat={seat} />
        </g>
      ))}
      {drawing.folded.map((fold) => (
        <g key={fold.stage} {...press(fold.stage, null, lineWords.moreLabel(fold.count))}>
          <rect
            x={fold.at.x - 16}
            y={fold.at.y - 14}
            width={32}
            height={28}
            rx={6}
            fill={ink('surface')}
            stroke={ink('ahead')}
            strokeDasharray="3 2.5"
          />
          <text
            x={fold.at.x}
            y={fold.at.y + 4}
            textAnchor="middle"
            style={{ fontSize: 11.5, fontWeight: 600 }}
            fill={ink('ink')}
          >
            {lineWords.more(fold.count)}
          </text>
        </g>
      ))}
      <Cabin x={drawing.cabin.x} y={drawing.cabin.y} tone={stopped ? 'oxblood' : late ? 'copper' : 'pine'} />
      <text
        x={drawing.end.x + 10}
        y={drawing.end.y - (drawing.towers[drawing.towers.length - 1]?.quota === null ? 16 : 26)}
        textAnchor="end"
        style={{ fontSize: 12.5, fontWeight: 600 }}
        fill={ink('ink')}
        aria-hidden
      >
        {lineWords.release}
      </text>
    </chakra.svg>
  );
}
