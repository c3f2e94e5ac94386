import { type PointerEvent, type RefObject, useCallback, useRef, useState } from 'react';
import type { Drawing, LineSlot, Point } from '@/core/line/layout';
import { findPart, type RouteEdit } from '@/core/route/edit';
import { type Series, seatsOf, stagesOf } from '@/core/route/route';

/** How far a pointer moves before it drags, and how near a place has to be to be meant. */
const slip = 6;
const near = 120;

type Dragged = { readonly kind: 'seat' | 'part' | 'branch'; readonly id: string };

/** Where something that is dragged would go: the change it would make, and where it would hang. */
export interface Landing {
  readonly edit: RouteEdit;
  readonly at: Point;
  readonly kind: 'seat' | 'part';
  /** For a seat: the stage, and whether it hangs behind others there. For a part: its slot. */
  readonly stage: string | null;
  readonly slot: LineSlot | null;
}

interface Drag {
  readonly what: Dragged;
  readonly from: Point;
  readonly at: Point;
  readonly moving: boolean;
}

/** Drags stages, boards, branches and seats along the line and between its ropes. */
export function useLineDrag(
  svg: RefObject<SVGSVGElement | null>,
  route: Series,
  editable: boolean,
  onEdit: (edit: RouteEdit) => void,
) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const drawn = useRef<Drawing | null>(null);
  const dropped = useRef(false);
  const pointOf = useCallback(
    (event: PointerEvent): Point => {
      const matrix = svg.current?.getScreenCTM()?.inverse();
      if (!matrix) return { x: 0, y: 0 };
      const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
      return { x, y };
    },
    [svg],
  );
  const landing = drag?.moving && drawn.current ? landingFor(drag.what, drag.at, drawn.current, route) : null;
  return {
    drawn,
    drag: drag?.moving ? drag : null,
    landing,
    handlers: editable
      ? {
          onPointerDown: (event: PointerEvent) => {
            dropped.current = false;
            const id = (event.target as Element).closest('[data-place]')?.getAttribute('data-place');
            const what = id && event.button === 0 ? draggedBy(route, id) : null;
            if (!what) return;
            const at = pointOf(event);
            setDrag({ what, from: at, at, moving: false });
          },
          onPointerMove: (event: PointerEvent) => {
            if (!drag) return;
            const at = pointOf(event);
            const moving = drag.moving || Math.hypot(at.x - drag.from.x, at.y - drag.from.y) > slip;
            if (moving && !drag.moving) event.currentTarget.setPointerCapture(event.pointerId);
            setDrag({ ...drag, at, moving });
          },
          onPointerUp: () => {
            if (drag?.moving) dropped.current = true;
            if (landing) onEdit(landing.edit);
            setDrag(null);
          },
          onPointerCancel: () => setDrag(null),
          // What was dragged has not been pressed.
          onClickCapture: (event: { stopPropagation: () => void; preventDefault: () => void }) => {
            if (!dropped.current) return;
            dropped.current = false;
            event.stopPropagation();
            event.preventDefault();
          },
        }
      : {},
    cancel: () => setDrag(null),
  } as const;
}

function draggedBy(route: Series, id: string): Dragged | null {
  if (seatsOf(route).some(({ seat }) => seat.id === id)) return { kind: 'seat', id };
  if (findPart(route, id)) return { kind: 'part', id };
  return { kind: 'branch', id };
}

function landingFor(what: Dragged, at: Point, drawing: Drawing, route: Series): Landing | null {
  if (what.kind === 'seat') return seatLanding(what.id, at, drawing, route);
  const [slot] = drawing.slots
    .map((one) => ({ one, away: Math.hypot(one.point.x - at.x, one.point.y - at.y) }))
    .filter(({ away }) => away < near)
    .sort((a, b) => a.away - b.away)
    .map(({ one }) => one);
  if (!slot) return null;
  const to = { series: slot.series, at: slot.at };
  const found = findPart(route, what.id)?.slot;
  if (found && found.series === to.series && (to.at === found.at || to.at === found.at + 1)) return null;
  const edit: RouteEdit =
    what.kind === 'branch' ? { do: 'moveBranch', branch: what.id, to } : { do: 'move', part: what.id, to };
  return { edit, at: slot.point, kind: 'part', stage: null, slot };
}

function seatLanding(id: string, at: Point, drawing: Drawing, route: Series): Landing | null {
  const [rope] = drawing.ropes
    .filter((one) => one.stage !== '' && !one.slack && at.x >= one.from.x && at.x <= one.to.x)
    .map((one) => ({ one, away: Math.abs(Math.max(one.from.y, one.to.y) + 36 - at.y) }))
    .filter(({ away }) => away < near)
    .sort((a, b) => a.away - b.away)
    .map(({ one }) => one);
  const stage = rope && stagesOf(route).find((one) => one.id === rope.stage);
  if (!stage) return null;
  const hanging = drawing.seats.filter((one) => one.stage === stage.id);
  const index = hanging.filter((one) => one.tile.x < at.x).length;
  const before = stage.seats.findIndex((seat) => seat.id === id);
  if (before >= 0 && (index === before || index === before + 1)) return null;
  const left = hanging[index - 1]?.tile;
  const right = hanging[index]?.tile;
  const x =
    left && right ? (left.x + right.x) / 2 : left ? left.x + 34 : right ? right.x - 34 : (rope.from.x + rope.to.x) / 2;
  const y = (left ?? right)?.y ?? Math.max(rope.from.y, rope.to.y) + 44;
  return {
    edit: { do: 'moveSeat', seat: id, to: { stage: stage.id, at: index } },
    at: { x, y },
    kind: 'seat',
    stage: stage.id,
    slot: null,
  };
}
