'use client';

import { Box, chakra } from '@chakra-ui/react';
import { type ReactNode, type Ref, useMemo } from 'react';
import { type Drawing, layoutLine } from '@/core/line/layout';
import { anyMark, type LineModel } from '@/core/line/line';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { ink } from '../theme/system';
import { BoardSign, Cabin, Fork, fitted, Ground, path, RopeLine, Seat, Tower, useLineWords } from './LineParts';
import { lineWords, seatWords, verbWords } from './words';

export interface LineFact {
  readonly text: string;
  readonly tone?: 'quiet' | 'copperText' | 'oxblood';
}

/** What is written on the line besides verbs and names. */
export interface LineLabels {
  /** One fact under a stage's verb. */
  readonly fact?: (stage: string) => LineFact | null;
  /** When a stage or a branch is taken at all, and what a span waits for, in words. */
  readonly condition?: (part: string) => string | null;
  readonly waits?: (stage: string) => string | null;
  readonly board?: (copies: string) => string;
}

type LinePlace =
  | { readonly kind: 'stage'; readonly stage: string; readonly seat: string | null }
  | { readonly kind: 'copies'; readonly copies: string }
  | { readonly kind: 'branch'; readonly branch: string; readonly parallel: string }
  | { readonly kind: 'parallel'; readonly parallel: string };

/** The line, large: towers, ropes, hanging seats, boards, cabin and ground. What is pressed opens where it stands. */
export function LineDrawing({
  model,
  width,
  labels = {},
  selected = null,
  spans,
  end = lineWords.release,
  open,
  onPlace,
  svg,
  over,
}: {
  readonly model: LineModel;
  readonly width: number;
  readonly labels?: LineLabels;
  readonly selected?: string | null;
  /** How long each stage takes: spans are as wide. */
  readonly spans?: ReadonlyMap<string, number>;
  /** What stands at the end of the line. */
  readonly end?: string;
  /** Stages and branches of which everything is shown. */
  readonly open?: ReadonlySet<string>;
  readonly onPlace?: ((place: LinePlace) => void) | undefined;
  /** The drawing itself, and what is drawn over it, for whoever edits in place. */
  readonly svg?: Ref<SVGSVGElement>;
  readonly over?: (drawing: Drawing) => ReactNode;
}) {
  const drawing = useMemo(
    () => layoutLine(model, { width, density: 'large', ...(open ? { open } : {}), ...(spans ? { spans } : {}) }),
    [model, width, open, spans],
  );
  const { name } = usePeople();
  const { called } = useAssignments();
  const sayLine = useLineWords();
  const words = useMemo(() => sayLine(model), [sayLine, model]);
  const stopped = drawing.ropes.some((rope) => rope.stopped) || anyMark(model, ['cross', 'missed']);
  const late = anyMark(model, ['late']);
  const press = (place: LinePlace, label: string, mark: string) =>
    onPlace
      ? {
          role: 'button',
          tabIndex: 0,
          'aria-label': label,
          'data-place': mark,
          style: { cursor: 'pointer' },
          onClick: () => onPlace(place),
          onKeyDown: (event: { key: string; preventDefault: () => void }) => {
            if (event.key !== 'Enter' && event.key !== ' ') return;
            event.preventDefault();
            onPlace(place);
          },
        }
      : {};
  return (
    // A line that needs more than there is scrolls; its texts never shrink.
    <Box overflowX={drawing.width > width ? 'auto' : 'hidden'}>
      <chakra.svg
        ref={svg}
        width={`${drawing.width}px`}
        maxW="none"
        display="block"
        viewBox={`0 0 ${drawing.width} ${drawing.height}`}
        role="group"
        aria-label={`${lineWords.title}: ${words}`}
      >
        <Ground drawing={drawing} />
        {drawing.towers.map((tower, i) => (
          <Tower key={i} tower={tower} />
        ))}
        {drawing.ropes.map((rope, i) => (
          <g key={i}>
            {selected === rope.stage && rope.stage !== '' && !rope.slack && (
              <path d={path(rope)} fill="none" stroke={ink('pineSoft')} strokeWidth={14} strokeLinecap="round" />
            )}
            <RopeLine rope={rope} small={false} />
          </g>
        ))}
        {drawing.forks.map((fork) => (
          <g
            key={fork.stage}
            {...press(
              { kind: 'stage', stage: fork.stage, seat: null },
              labels.condition?.(fork.stage) ?? '',
              fork.stage,
            )}
          >
            <Fork x={fork.foot.x} y={fork.y - 4} open={fork.open} />
            <text
              x={fork.x}
              y={fork.y}
              style={{ fontSize: 12.5, paintOrder: 'stroke' }}
              stroke={ink('ground')}
              strokeWidth={4}
              fill={ink('pine')}
            >
              {fitted(labels.condition?.(fork.stage) ?? lineWords.condition, fork.width)}
            </text>
          </g>
        ))}
        {drawing.waits.map((wait) => (
          <text
            key={wait.stage}
            x={wait.x + wait.width / 2}
            y={wait.y}
            textAnchor="middle"
            style={{ fontSize: 11.5 }}
            fill={ink('quiet')}
            aria-hidden
          >
            {fitted(labels.waits?.(wait.stage) ?? lineWords.waits, wait.width)}
          </text>
        ))}
        {drawing.labels.map((label) => {
          const fact = labels.fact?.(label.stage) ?? null;
          const middle = label.x + label.width / 2;
          const only = !label.above && label.lines > 1 ? labels.condition?.(label.stage) : null;
          const verb = fitted(verbWords[label.verb], label.width);
          const room = label.above ? label.width : label.width - (verb.length + 1) * 7.2;
          return (
            <g
              key={label.stage}
              {...press(
                { kind: 'stage', stage: label.stage, seat: null },
                [verbWords[label.verb], fact?.text, labels.condition?.(label.stage)].filter(Boolean).join(', '),
                label.stage,
              )}
            >
              <rect x={label.x} y={label.y - 15} width={label.width} height={label.lines * 17 + 6} fill="transparent" />
              <text x={middle} y={label.y} textAnchor="middle" fill={ink('ink')}>
                <tspan
                  style={{ fontSize: 13.5, fontWeight: 600 }}
                  textDecoration={selected === label.stage ? 'underline' : undefined}
                >
                  {verb}
                </tspan>
                {fact && room > 30 && (
                  <tspan
                    {...(label.above ? { x: middle, dy: 17 } : { dx: 6 })}
                    style={{ fontSize: 12.5 }}
                    fill={ink(fact.tone ?? 'quiet')}
                  >
                    {fitted(fact.text, room)}
                  </tspan>
                )}
                {only && (
                  <tspan x={middle} dy={17} style={{ fontSize: 12.5 }} fill={ink('pine')}>
                    {fitted(only, label.width)}
                  </tspan>
                )}
              </text>
            </g>
          );
        })}
        {drawing.branches.map((branch) => {
          const only = labels.condition?.(branch.branch);
          const text = [branch.name, only].filter(Boolean).join(', ');
          return (
            <g
              key={branch.branch || `${branch.x} ${branch.y}`}
              {...press(
                { kind: 'branch', branch: branch.branch, parallel: branch.parallel },
                lineWords.branchLabel(branch.name, only ?? ''),
                branch.branch,
              )}
            >
              <text
                x={branch.x}
                y={branch.y}
                style={{ fontSize: 12, paintOrder: 'stroke' }}
                stroke={ink('ground')}
                strokeWidth={4}
                fill={ink(selected === branch.branch ? 'pine' : 'quiet')}
                textDecoration={selected === branch.branch ? 'underline' : undefined}
              >
                {fitted(text || (onPlace ? lineWords.branchUnnamed : ''), branch.width)}
              </text>
            </g>
          );
        })}
        {drawing.foldedBranches.map((fold) => (
          <g
            key={fold.parallel}
            {...press({ kind: 'parallel', parallel: fold.parallel }, lineWords.moreBranches(fold.count), fold.parallel)}
          >
            <text
              x={fold.x + fold.width / 2}
              y={fold.y}
              textAnchor="middle"
              style={{ fontSize: 12.5, fontWeight: 600 }}
              fill={ink('pine')}
            >
              {lineWords.moreBranches(fold.count)}
            </text>
          </g>
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
          <g
            key={seat.seat.id}
            {...press(
              { kind: 'stage', stage: seat.stage, seat: seat.seat.id },
              `${seat.seat.assignment ? called(seat.seat.assignment) : name(seat.seat.person)} ${seatWords(seat.seat)}`,
              seat.seat.id,
            )}
          >
            <Seat seat={seat} />
          </g>
        ))}
        {drawing.folded.map((fold) => (
          <g
            key={fold.stage}
            {...press({ kind: 'stage', stage: fold.stage, seat: null }, lineWords.moreLabel(fold.count), fold.stage)}
          >
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
        {drawing.boards.map((board) => {
          const text = labels.board?.(board.copies) ?? lineWords.copies(board.count);
          return (
            <g key={board.copies} {...press({ kind: 'copies', copies: board.copies }, text, board.copies)}>
              <BoardSign board={board} text={text} selected={selected === board.copies} />
            </g>
          );
        })}
        <Cabin x={drawing.cabin.x} y={drawing.cabin.y} tone={stopped ? 'oxblood' : late ? 'copper' : 'pine'} />
        <text
          x={drawing.width - 6}
          y={(drawing.ground[drawing.ground.length - 1]?.y ?? drawing.height) + 18}
          textAnchor="end"
          style={{ fontSize: 12.5, fontWeight: 600 }}
          fill={ink('ink')}
          aria-hidden
        >
          {end}
        </text>
        {over?.(drawing)}
      </chakra.svg>
    </Box>
  );
}
