'use client';

import { chakra } from '@chakra-ui/react';
import { useMemo } from 'react';
import { type Drawing, type HangingSeat, layoutLine, type Rope } from '@/core/line/layout';
import { anyMark, type LineModel, lineInWords } from '@/core/line/line';
import { usePeople } from '../data/use';
import { TileArt } from '../parts/Tile';
import { ink } from '../theme/system';
import { lineWords, orderWords, seatsWords, seatWords, verbWords } from './words';

function useWords(model: LineModel): string {
  const { name } = usePeople();
  return useMemo(
    () =>
      lineInWords(model, {
        verb: (verb) => verbWords[verb],
        person: name,
        seat: seatWords,
        seats: seatsWords,
        order: orderWords,
        branch: lineWords.branch,
      }) || lineWords.empty,
    [model, name],
  );
}

const path = ({ from, control, to }: Rope) => `M${from.x} ${from.y}Q${control.x} ${control.y} ${to.x} ${to.y}`;

/** The rope of one stage: twin when done, one thick rope when under way, dashed when not reached. */
function RopeLine({ rope, small }: { readonly rope: Rope; readonly small: boolean }) {
  const d = path(rope);
  if (rope.status === 'done')
    return (
      <>
        <path d={d} fill="none" stroke={ink('pine')} strokeWidth={small ? 3.4 : 5.6} />
        <path d={d} fill="none" stroke={ink('ground')} strokeWidth={small ? 1.2 : 2.8} />
      </>
    );
  if (rope.status === 'underWay') return <path d={d} fill="none" stroke={ink('ink')} strokeWidth={small ? 2 : 2.8} />;
  if (rope.status === 'passedBy') return <path d={d} fill="none" stroke={ink('ahead')} strokeWidth={small ? 1 : 1.3} />;
  return (
    <path
      d={d}
      fill="none"
      stroke={ink('ahead')}
      strokeWidth={small ? 1.3 : 1.6}
      strokeDasharray={small ? '3 3' : '6 5'}
    />
  );
}

function Mark({ seat }: { readonly seat: HangingSeat }) {
  const { mark } = seat.seat;
  if (mark === 'none') return null;
  if (mark === 'late')
    // A pennant on the hanger.
    return <path d={`M${seat.tile.x} ${seat.tile.y - 19}h13l-4 4 4 4h-13z`} fill={ink('copper')} />;
  const at = `translate(${seat.tile.x + 12} ${seat.tile.y + 11})`;
  const tone = mark === 'tick' ? 'pine' : mark === 'return' ? 'copper' : 'oxblood';
  const glyph =
    mark === 'tick'
      ? 'M-3.2 .2-.9 2.6 3.4-2.4'
      : mark === 'return'
        ? 'M3.2 2.6V.9Q3.2-1.4 .9-1.4H-3M-1-3.6-3.2-1.4-1 .8'
        : mark === 'missed'
          ? 'M0-3.4V.6M0 3V3.2'
          : 'M-2.6-2.6 2.6 2.6M2.6-2.6-2.6 2.6';
  return (
    <g transform={at}>
      <circle r={7.2} fill={ink(tone)} stroke={ink('ground')} strokeWidth={1.4} />
      <path
        d={glyph}
        fill="none"
        stroke={ink(mark === 'tick' ? 'onPine' : 'onOxblood')}
        strokeWidth={1.7}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </g>
  );
}

function Cabin({
  x,
  y,
  tone,
}: {
  readonly x: number;
  readonly y: number;
  readonly tone: 'pine' | 'copper' | 'oxblood';
}) {
  return (
    <g transform={`translate(${x} ${y})`}>
      <path d="M-9 4H9M0 4V12" stroke={ink(tone)} strokeWidth={2.4} strokeLinecap="round" />
      <rect x={-17} y={12} width={34} height={22} rx={7} fill={ink(tone)} />
      <rect x={-12} y={17} width={10} height={8} rx={2.5} fill={ink('pineSoft')} />
      <rect x={2} y={17} width={10} height={8} rx={2.5} fill={ink('pineSoft')} />
    </g>
  );
}

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
  const { person, name } = usePeople();
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
        <g
          key={`${tower.top.x} ${tower.top.y}`}
          stroke={ink(tower.reached ? 'ink' : 'ahead')}
          strokeWidth={1.9}
          strokeLinecap="round"
          fill="none"
          aria-hidden
        >
          {tower.base !== null && (
            <path
              d={`M${tower.top.x - 2.5} ${tower.top.y + 1}L${tower.top.x - 6} ${tower.base}M${tower.top.x + 2.5} ${tower.top.y + 1}L${tower.top.x + 6} ${tower.base}`}
            />
          )}
          <path d={`M${tower.top.x - 9} ${tower.top.y}H${tower.top.x + 9}`} strokeWidth={2.6} />
          {tower.quota !== null && (
            <text
              x={tower.top.x}
              y={tower.top.y - 8}
              textAnchor="middle"
              style={{ fontSize: 12, fontWeight: 700 }}
              fill={ink('ink')}
              stroke="none"
            >
              {tower.quota}
            </text>
          )}
        </g>
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
          <title>{`${name(seat.seat.person)} ${seatWords(seat.seat)}`}</title>
          <path d={`M${seat.rope.x} ${seat.rope.y}V${seat.tile.y - 14}`} stroke={ink('ahead')} strokeWidth={1.3} />
          <g
            transform={`translate(${seat.tile.x - 14} ${seat.tile.y - 14})`}
            opacity={seat.seat.status === 'passedBy' ? 0.5 : 1}
          >
            <TileArt
              person={seat.seat.person}
              letters={person(seat.seat.person)?.tile ?? '··'}
              faint={seat.seat.status === 'ahead' || seat.seat.status === 'passedBy'}
            />
            {seat.seat.status !== 'passedBy' && (
              <rect
                x={0.5}
                y={0.5}
                width={27}
                height={27}
                rx={6}
                fill="none"
                strokeWidth={seat.seat.status === 'ahead' ? 1.2 : 1.8}
                strokeDasharray={seat.seat.status === 'ahead' ? '3 2.5' : undefined}
                stroke={ink(
                  seat.seat.mark === 'late'
                    ? 'copper'
                    : seat.seat.mark === 'cross' || seat.seat.mark === 'missed'
                      ? 'oxblood'
                      : seat.seat.status === 'done'
                        ? 'pine'
                        : seat.seat.status === 'ahead'
                          ? 'ahead'
                          : 'ink',
                )}
              />
            )}
          </g>
          <Mark seat={seat} />
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

function Ground({ drawing }: { readonly drawing: Drawing }) {
  const top = drawing.ground.map((point) => `${point.x} ${point.y}`).join('L');
  return <path d={`M0 ${drawing.height}L${top}L${drawing.width} ${drawing.height}Z`} fill={ink('earth')} aria-hidden />;
}

/** The line in a row: ropes, what has stopped, and the cabin. 132 by 22. */
export function TinyLine({ model, tone }: { readonly model: LineModel; readonly tone: 'pine' | 'copper' | 'oxblood' }) {
  const drawing = useMemo(() => layoutLine(model, { width: 132, density: 'tiny' }), [model]);
  const words = useWords(model);
  const { cabin } = drawing;
  return (
    <svg width={132} height={22} viewBox="0 0 132 22" role="img" aria-label={words} style={{ display: 'block' }}>
      {drawing.ropes.map((rope) => (
        <RopeLine key={rope.stage || 'empty'} rope={rope} small />
      ))}
      {drawing.towers.map((tower) => (
        <path
          key={`${tower.top.x} ${tower.top.y}`}
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
