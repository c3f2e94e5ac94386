'use client';

import { useCallback } from 'react';
import type { Board, Drawing, HangingSeat, Rope } from '@/core/line/layout';
import { type LineModel, lineInWords } from '@/core/line/line';
import { groupAsked } from '@/core/route/route';
import { useAssignments } from '../data/organization';
import { usePeople } from '../data/people';
import { TileArt } from '../parts/Tile';
import { ink } from '../theme/system';
import { lineWords, orderWords, seatsWords, seatWords, verbWords } from './words';

/** Says a line in words, for those who do not see it. */
export function useLineWords(): (model: LineModel) => string {
  const { name } = usePeople();
  const { called } = useAssignments();
  return useCallback(
    (model) =>
      lineInWords(model, {
        verb: (verb) => verbWords[verb],
        person: name,
        seat: seatWords,
        seats: seatsWords,
        order: orderWords,
        branch: lineWords.branch,
        copies: (board) => lineWords.copies(board.count),
        somebody: (assignment) => called(assignment),
        condition: () => lineWords.onlyInWords,
        waits: () => lineWords.waitsInWords,
      }) || lineWords.empty,
    [name, called],
  );
}

export const path = ({ from, control, to }: Rope) => `M${from.x} ${from.y}Q${control.x} ${control.y} ${to.x} ${to.y}`;

/** The rope of one stage: twin when done, one thick rope when under way, dashed when not reached. */
export function RopeLine({ rope, small }: { readonly rope: Rope; readonly small: boolean }) {
  const d = path(rope);
  // Slack rope holds a span back.
  if (rope.slack)
    return (
      <path
        d={d}
        fill="none"
        stroke={ink(rope.status === 'done' ? 'pine' : 'ahead')}
        strokeWidth={1.6}
        strokeDasharray={rope.status === 'done' ? undefined : '1.5 4'}
        strokeLinecap="round"
      />
    );
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

export function Cabin({
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

/** A tower, and on it how many of those before it are needed. */
export function Tower({ tower }: { readonly tower: Drawing['towers'][number] }) {
  return (
    <g stroke={ink(tower.reached ? 'ink' : 'ahead')} strokeWidth={1.9} strokeLinecap="round" fill="none" aria-hidden>
      {tower.base !== null && (
        <path
          d={`M${tower.top.x - 2.5} ${tower.top.y + 1}L${tower.top.x - 6} ${tower.base}M${tower.top.x + 2.5} ${tower.top.y + 1}L${tower.top.x + 6} ${tower.base}`}
        />
      )}
      <path d={`M${tower.top.x - 9} ${tower.top.y}H${tower.top.x + 9}`} strokeWidth={2.6} />
      {tower.quota !== null && (
        <text
          // Beside its top: over it a stage can be added while it is planned.
          x={tower.top.x - 12}
          y={tower.top.y - 9}
          textAnchor="end"
          style={{ fontSize: 12, fontWeight: 700 }}
          fill={ink('ink')}
          stroke="none"
        >
          {tower.quota}
        </text>
      )}
    </g>
  );
}

/** A seat on its hanger: the holder's tile, framed by how it stands, with its mark. */
export function Seat({ seat }: { readonly seat: HangingSeat }) {
  const { person, name } = usePeople();
  const { called, letters } = useAssignments();
  const { status, mark, assignment } = seat.seat;
  const frame =
    mark === 'late'
      ? 'copper'
      : mark === 'cross' || mark === 'missed'
        ? 'oxblood'
        : status === 'done'
          ? 'pine'
          : status === 'ahead'
            ? 'ahead'
            : 'ink';
  return (
    <>
      <title>{`${assignment ? called(assignment) : name(seat.seat.person)} ${seatWords(seat.seat)}`}</title>
      <path d={`M${seat.rope.x} ${seat.rope.y}V${seat.tile.y - 14}`} stroke={ink('ahead')} strokeWidth={1.3} />
      <g transform={`translate(${seat.tile.x - 14} ${seat.tile.y - 14})`} opacity={status === 'passedBy' ? 0.5 : 1}>
        {assignment ? (
          <OpenTile
            letters={letters(assignment)}
            several={groupAsked(assignment) !== null}
            named={assignment.kind === 'named'}
          />
        ) : (
          <TileArt
            person={seat.seat.person}
            letters={person(seat.seat.person)?.tile ?? '··'}
            faint={status === 'ahead' || status === 'passedBy'}
          />
        )}
        {status !== 'passedBy' && (
          <rect
            x={0.5}
            y={0.5}
            width={27}
            height={27}
            rx={6}
            fill="none"
            strokeWidth={status === 'ahead' ? 1.2 : 1.8}
            strokeDasharray={status === 'ahead' ? '3 2.5' : undefined}
            stroke={ink(frame)}
          />
        )}
      </g>
      <Mark seat={seat} />
    </>
  );
}

/** The tile of a seat that has no person yet: of a group or a unit one behind another, of a role and of somebody to be named plain. */
function OpenTile({
  letters,
  several,
  named,
}: {
  readonly letters: string;
  readonly several: boolean;
  readonly named: boolean;
}) {
  return (
    <>
      {several && <rect x={4} y={-3.5} width={26} height={27} rx={6} fill={ink('surface')} stroke={ink('ahead')} />}
      <rect x={0.5} y={0.5} width={27} height={27} rx={6} fill={ink('surface')} stroke={ink('edge')} />
      <text
        x={14}
        y={18}
        textAnchor="middle"
        style={{ fontSize: 11, fontWeight: 700 }}
        fill={ink(named ? 'quiet' : 'ink')}
        aria-hidden
      >
        {letters}
      </text>
    </>
  );
}

/** A fork at the foot of a tower: one way on, one past it. */
export function Fork({ x, y, open }: { readonly x: number; readonly y: number; readonly open: boolean }) {
  const tone = ink(open ? 'pine' : 'ink');
  return (
    <g transform={`translate(${x} ${y})`} fill="none" stroke={tone} strokeWidth={1.8} strokeLinecap="round" aria-hidden>
      <path d="M0 12V6Q0 0 7-4l6-3m-5.500 -0.500 5.500 0.500 -1.500 5.500" />
      {open && <path d="M0 6Q0 0-7-4" stroke={ink('ahead')} strokeDasharray="2 3" />}
    </g>
  );
}

/** A board on the mast of a tower: who gets a copy here. */
export function BoardSign({
  board,
  text,
  selected,
}: {
  readonly board: Board;
  readonly text: string;
  readonly selected: boolean;
}) {
  return (
    <>
      <title>{text}</title>
      <rect
        x={board.x}
        y={board.y - 15}
        width={board.width}
        height={21}
        rx={3}
        fill={ink('surface')}
        stroke={ink(selected ? 'pine' : board.sent ? 'ink' : 'ahead')}
        strokeWidth={selected ? 2 : 1.2}
        strokeDasharray={board.hidden ? '3 2' : undefined}
      />
      <text x={board.x + board.width / 2} y={board.y} textAnchor="middle" style={{ fontSize: 11.5 }} fill={ink('ink')}>
        {fitted(text, board.width - 10)}
      </text>
    </>
  );
}

/** As much of a text as its box holds, by the width of its letters. */
export function fitted(text: string, width: number): string {
  const most = Math.floor(width / 6.3);
  return text.length <= most ? text : `${text.slice(0, Math.max(1, most - 1)).trimEnd()}…`;
}

export function Ground({ drawing }: { readonly drawing: Drawing }) {
  const top = drawing.ground.map((point) => `${point.x} ${point.y}`).join('L');
  return <path d={`M0 ${drawing.height}L${top}L${drawing.width} ${drawing.height}Z`} fill={ink('earth')} aria-hidden />;
}
