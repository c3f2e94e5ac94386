import type { CirculationEvent } from './events';

/** Whether somebody has ever been asked in a circulation, in whatever way: then they know of it, though it may be theirs no more. */
export function everAsked(events: readonly CirculationEvent[], person: string): boolean {
  const asked = new Set<string>();
  for (const { type, data } of events) {
    if (type === 'seat.asked') {
      asked.add(data.seat);
      if (data.covers.includes(person) || data.holders.some((holder) => holder.person === person)) return true;
    }
    if (type === 'seat.taken' && data.person === person) return true;
    if (type === 'seat.delegated' && data.to === person) return true;
    if (type === 'seat.reassigned' && data.status === 'asked' && data.to.person === person) return true;
    // Whoever was added before its turn, and dropped again, was never told.
    if (type === 'secondHolder.added' && data.person === person && asked.has(data.seat)) return true;
  }
  return false;
}
