import type { Availability } from '../../route/route';
import type { Context } from './context';
import { mayAct } from './holders';
import { type Circulation, stagePlanOf } from './state';

/** Whether something may be done with the files now: null when it may, else from when on. */
type FileUse = Exclude<Availability, 'asked'> | null;

const waits = { responded: 1, released: 2, never: 3 } as const;

/**
 * Whether a person may print the files of a circulation and download them, as the stages allow in which they are asked.
 * The kindest of several counts; whoever writes it, steers it or is asked nowhere is held back by none of them.
 */
export function fileUse(
  state: Circulation,
  person: string,
  context: Context,
): { readonly print: FileUse; readonly download: FileUse } {
  const free = { print: null, download: null };
  if (state.phase === 'completed' || [state.author, state.controller, ...context.leads].includes(person)) return free;
  // Whoever got a copy has the files already.
  for (const { status, to } of state.copies.values())
    if (status === 'sent' && to.some((one) => one.person === person)) return free;
  const responded = new Set(state.decisions.filter(({ by }) => by === person).map(({ seat }) => seat));
  const own = [...state.seats.values()].filter(
    (seat) =>
      !seat.gone && (responded.has(seat.id) || (seat.status !== 'idle' && mayAct(state, seat, person, context))),
  );
  if (own.length === 0) return free;
  const soonest = (what: 'print' | 'download'): FileUse =>
    own
      .map((seat): FileUse => {
        const from = stagePlanOf(state, seat).allows[what];
        if (from === 'asked') return null;
        return from === 'responded' && responded.has(seat.id) ? null : from;
      })
      .reduce((a, b) => (a === null || b === null ? null : waits[a] < waits[b] ? a : b));
  return { print: soonest('print'), download: soonest('download') };
}
