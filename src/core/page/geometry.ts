import { unreachable } from '../unreachable';
import type { PageSize } from './fields';

/** A page's geometry as its file states it: crop box in user space, clockwise rotation in degrees, points a unit. */
export interface PageGeometry {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly rotate: 0 | 90 | 180 | 270;
  /** How many points one unit of user space is (ISO 32000-2, UserUnit). */
  readonly unit: number;
}

export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

interface Point {
  readonly x: number;
  readonly y: number;
}

/** Rotation as a file may state it (any multiple of 90, also negative) brought to 0, 90, 180 or 270. */
export function quarterTurn(degrees: number): 0 | 90 | 180 | 270 {
  const turned = (((Math.round(degrees / 90) * 90) % 360) + 360) % 360;
  return turned as 0 | 90 | 180 | 270;
}

/** The size of the page as it is shown, in points. */
export function displayedSize({ width, height, rotate, unit }: PageGeometry): PageSize {
  return rotate === 90 || rotate === 270
    ? { width: height * unit, height: width * unit }
    : { width: width * unit, height: height * unit };
}

/** A displayed point (from the top left corner, y downwards) in the page's user space (ISO 32000-2, 8.3). */
export function toUserSpace(page: PageGeometry, shown: Point): { x: number; y: number } {
  const point = { x: shown.x / page.unit, y: shown.y / page.unit };
  switch (page.rotate) {
    case 0:
      return { x: page.x + point.x, y: page.y + page.height - point.y };
    case 90:
      return { x: page.x + point.y, y: page.y + point.x };
    case 180:
      return { x: page.x + page.width - point.x, y: page.y + point.y };
    case 270:
      return { x: page.x + page.width - point.y, y: page.y + page.height - point.x };
    default:
      return unreachable(page.rotate, 'turn');
  }
}

/** The inverse of `toUserSpace`. */
export function toDisplayed(page: PageGeometry, point: Point): { x: number; y: number } {
  const scaled = (x: number, y: number) => ({ x: x * page.unit, y: y * page.unit });
  switch (page.rotate) {
    case 0:
      return scaled(point.x - page.x, page.y + page.height - point.y);
    case 90:
      return scaled(point.y - page.y, point.x - page.x);
    case 180:
      return scaled(page.x + page.width - point.x, point.y - page.y);
    case 270:
      return scaled(page.y + page.height - point.y, page.x + page.width - point.x);
    default:
      return unreachable(page.rotate, 'turn');
  }
}
