import type { PageSize } from './fields';

/** A page's geometry as its file states it: crop box in user space, clockwise rotation in degrees. */
export interface PageGeometry {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly rotate: 0 | 90 | 180 | 270;
}

export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Rotation as a file may state it (any multiple of 90, also negative) brought to 0, 90, 180 or 270. */
export function quarterTurn(degrees: number): 0 | 90 | 180 | 270 {
  const turned = (((Math.round(degrees / 90) * 90) % 360) + 360) % 360;
  return turned as 0 | 90 | 180 | 270;
}

/** The size of the page as it is shown. */
export function displayedSize(page: PageGeometry): PageSize {
  return page.rotate === 90 || page.rotate === 270
    ? { width: page.height, height: page.width }
    : { width: page.width, height: page.height };
}

/** A displayed point (from the top left corner, y downwards) in the page's user space (ISO 32000-2, 8.3). */
export function toUserSpace(
  page: PageGeometry,
  point: { readonly x: number; readonly y: number },
): { x: number; y: number } {
  switch (page.rotate) {
    case 0:
      return { x: page.x + point.x, y: page.y + page.height - point.y };
    case 90:
      return { x: page.x + point.y, y: page.y + point.x };
    case 180:
      return { x: page.x + page.width - point.x, y: page.y + point.y };
    case 270:
      return { x: page.x + page.width - point.y, y: page.y + page.height - point.x };
  }
}

/** The inverse of `toUserSpace`. */
export function toDisplayed(
  page: PageGeometry,
  point: { readonly x: number; readonly y: number },
): { x: number; y: number } {
  switch (page.rotate) {
    case 0:
      return { x: point.x - page.x, y: page.y + page.height - point.y };
    case 90:
      return { x: point.y - page.y, y: point.x - page.x };
    case 180:
      return { x: page.x + page.width - point.x, y: point.y - page.y };
    case 270:
      return { x: page.y + page.height - point.y, y: page.x + page.width - point.x };
  }
}

/**
 * The matrix [a b c d e f] that draws a box's own coordinates (origin at its lower left as shown, y upwards) upright
 * into a displayed rectangle of the page, whatever the page's rotation.
 */
export function uprightMatrix(
  page: PageGeometry,
  rect: Rect,
): readonly [number, number, number, number, number, number] {
  const corner = toUserSpace(page, { x: rect.x, y: rect.y + rect.height });
  const right = toUserSpace(page, { x: rect.x + 1, y: rect.y + rect.height });
  const up = toUserSpace(page, { x: rect.x, y: rect.y + rect.height - 1 });
  return [right.x - corner.x, right.y - corner.y, up.x - corner.x, up.y - corner.y, corner.x, corner.y];
}
