import type { CirculationEvent, CirculationEventType } from '../run/events';

/** The parts of what is shown of a circulation, so that a change asks anew for its own only. */
export const viewParts = ['head', 'route', 'seats', 'files', 'standing', 'talk', 'trail'] as const;
export type ViewPart = (typeof viewParts)[number];

const said: readonly ViewPart[] = ['standing', 'talk', 'trail'];
const ofSeat: readonly ViewPart[] = ['seats', 'standing', 'trail'];

/** Which parts an event can change; all where nothing is said. */
const changedBy: { readonly [T in CirculationEventType]?: readonly ViewPart[] } = {
  'comment.made': said,
  'comment.resolved': said,
  'comment.reopened': said,
  'seat.reminded': ofSeat,
  'seat.lateTold': ofSeat,
  'link.copied': ofSeat,
};

/** Which parts of what is shown these events can have changed; null for all of them. */
export function partsChanged(events: readonly CirculationEvent[]): readonly ViewPart[] | null {
  const parts = new Set<ViewPart>();
  for (const { type } of events) {
    const own = changedBy[type];
    if (!own) return null;
    for (const part of own) parts.add(part);
  }
  return viewParts.filter((part) => parts.has(part));
}
