import type { Command } from '@/core/circulation/acts/commands';
import { allowed, offers } from '@/core/circulation/acts/offers';
import type { Context } from '@/core/circulation/run/context';
import { baseHolder, type Circulation, clocksRun } from '@/core/circulation/run/state';
import { clockOf } from '@/core/circulation/run/times';
import { after } from '@/core/time/due';
import type { Instant } from '@/core/time/instant';
import { needPeople } from '../admin/people';
import { act } from '../circulation/act';
import { steeredBy } from '../circulation/claims';
import { contextOf, withCalendars } from '../circulation/context';
import type { Tx } from '../db/connect';
import type { Member } from '../operations/operation';
import { Refused, refuse } from '../refused';

/** What can be done to many circulations at once. */
export type ManyAct =
  /** Reminds whoever is asked. */
  | { readonly kind: 'remind' }
  /** Gives whoever is asked until an instant. */
  | { readonly kind: 'extend'; readonly due: Instant }
  /** Gives somebody everything that another is asked. */
  | { readonly kind: 'reassign'; readonly from: string; readonly to: string }
  /** Hands on control. */
  | { readonly kind: 'handControl'; readonly to: string };

/** What came of it for one circulation: how many responses it was about, or why it was refused. */
export interface ManyResult {
  readonly circulation: string;
  readonly done: number;
  readonly refused: string | null;
}

/**
 * Does the same to many circulations: each by itself, so that one that refuses keeps no other from it. Messages to one
 * person come in one.
 */
export async function actOnMany(
  tx: Tx,
  circulations: readonly string[],
  wanted: ManyAct,
  actor: Member,
): Promise<ManyResult[]> {
  if ('to' in wanted) await needPeople(tx, [{ kind: 'person', person: wanted.to }]);
  const results: ManyResult[] = [];
  for (const circulation of new Set(circulations)) {
    let done = 0;
    try {
      const state = await steeredBy(tx, circulation, actor);
      const named = wanted.kind === 'reassign' ? [wanted.to] : [];
      const context = await contextOf(tx, state, actor.person, { named });
      // Only a new holder's time is counted.
      const counted = wanted.kind === 'reassign' ? await withCalendars(tx, context) : context;
      const commands = commandsFor(state, wanted, counted);
      if (commands.length === 0) refuse('nothing-to-do');
      for (const command of commands) {
        await act(tx, circulation, command, actor.person, { gather: true });
        done += 1;
      }
      results.push({ circulation, done, refused: null });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      results.push({ circulation, done, refused: error.message });
    }
  }
  return results;
}

/** The commands that do it in one circulation, as far as the actor may. */
function commandsFor(state: Circulation, wanted: ManyAct, context: Context): Command[] {
  if (wanted.kind === 'handControl') return [{ type: 'handControl', to: wanted.to, note: null }];
  const asked = clocksRun(state)
    ? [...state.seats.values()].filter((seat) => seat.status === 'asked' && !seat.gone)
    : [];
  const mine = allowed(offers(state, context));
  const fitting = asked.filter(({ id }) => mine.some((offer) => offer.act === wanted.kind && offer.on === id));
  if (wanted.kind === 'remind') return fitting.map(({ id }): Command => ({ type: 'remind', seat: id }));
  if (wanted.kind === 'extend')
    // Somebody's later due is not drawn nearer, and a closing time stays, unless the new due time lies behind it.
    return fitting
      .filter(({ due }) => due === null || due < wanted.due)
      .map(({ id, closes }): Command => {
        const later = closes === null ? null : Math.max(closes, wanted.due);
        return { type: 'extend', seat: id, due: wanted.due, closes: later };
      });
  return fitting
    .filter((seat) => baseHolder(seat)?.person === wanted.from)
    .map(({ id, due: former, closes }): Command => {
      // Whoever gets what is late already has two working days for it.
      const late = former !== null && former <= context.now;
      const due = late ? after(context.now, { amount: 2, unit: 'workingDays' }, clockOf(context, wanted.to)) : former;
      return {
        type: 'reassign',
        seat: id,
        to: { kind: 'person', person: wanted.to },
        due,
        closes: closes === null || due === null ? closes : Math.max(closes, due),
        note: null,
      };
    });
}
