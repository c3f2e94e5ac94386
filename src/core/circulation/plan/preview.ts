import type { Refusal } from '../../refusals';
import { type RouteDifference, routeDifferences } from '../../route/changes';
import type { Instant } from '../../time/instant';
import type { CommandOf } from '../acts/commands';
import { caughtUp, decide } from '../acts/decide';
import type { Context } from '../run/context';
import { fileUse } from '../run/fileUse';
import type { SeatRun } from '../run/shapes';
import { type Circulation, closesOf, dueOf, stagePlanOf } from '../run/state';
import { type Message, messagesOf } from '../telling/messages';
import { type Task, tasksOf } from '../telling/tasks';

/** What somebody may do in one stage besides responding; null where they have no seat in it that is asked. */
interface Rights {
  readonly person: string;
  readonly print: ReturnType<typeof fileUse>['print'];
  readonly download: ReturnType<typeof fileUse>['download'];
  readonly comment: boolean;
  readonly delegate: boolean;
}

/** What an amendment would do if it were made now: exactly this becomes true, and exactly these messages go out. */
export interface Preview {
  readonly differences: readonly RouteDifference[];
  readonly noteChanged: boolean;
  readonly whole: { readonly due: Instant | null; readonly closes: Instant | null } | null;
  readonly files: number | null;
  /** Tasks that people get, and that are taken from them. */
  readonly added: readonly Task[];
  readonly removed: readonly Task[];
  /** Times of those who are asked before and after. */
  readonly times: readonly {
    readonly seat: string;
    readonly due: Instant | null;
    readonly closes: Instant | null;
  }[];
  /** Whoever may do other things than before. */
  readonly rights: readonly Rights[];
  readonly messages: readonly Message[];
  /** Whether a stage ends by it, or the whole. */
  readonly ends: readonly string[];
  readonly phase: Circulation['phase'];
}

/** What an amendment would change for whom, or why it cannot be made. Nothing is changed. */
export function previewOf(
  given: Circulation,
  command: CommandOf<'amend'>,
  context: Context,
): { readonly ok: true; readonly preview: Preview } | { readonly ok: false; readonly refusal: Refusal } {
  const before = caughtUp(given, context);
  const result = decide(before, command, context);
  if (!result.ok) return result;
  const { state: after, events } = result;
  const [old, next] = [tasksOf(before, context), tasksOf(after, context)];
  const amended = events.find((event) => event.type === 'circulation.amended');
  return {
    ok: true,
    preview: {
      differences: routeDifferences(before.plan, after.plan),
      noteChanged: after.note !== before.note,
      whole: amended?.type === 'circulation.amended' ? amended.data.whole : null,
      files: command.version?.number ?? null,
      added: next.filter((task) => !old.some((one) => isSame(one, task))),
      removed: old.filter((task) => !next.some((one) => isSame(one, task))),
      times: timesChanged(before, after),
      rights: rightsChanged(before, after, context),
      messages: messagesOf(before, result, context),
      ends: events.flatMap((event) => (event.type === 'stage.closed' ? [event.data.stage] : [])),
      phase: after.phase,
    },
  };
}

const isSame = (one: Task, other: Task) =>
  one.person === other.person && one.doing === other.doing && one.seat === other.seat && one.stage === other.stage;

const isAsked = (seat: SeatRun | undefined): seat is SeatRun => seat?.status === 'asked' && !seat.gone;

function timesChanged(before: Circulation, after: Circulation): Preview['times'] {
  return [...after.seats.values()].flatMap((seat) => {
    const was = before.seats.get(seat.id);
    if (!isAsked(seat) || !isAsked(was)) return [];
    const [due, closes] = [dueOf(after, seat), closesOf(after, seat)];
    return due === dueOf(before, was) && closes === closesOf(before, was) ? [] : [{ seat: seat.id, due, closes }];
  });
}

function rightsOf(state: Circulation, person: string, context: Context): Rights {
  const own = [...state.seats.values()].filter(
    (seat) => isAsked(seat) && seat.holders.some((holder) => holder.person === person),
  );
  const allows = own.map((seat) => stagePlanOf(state, seat).allows);
  return {
    person,
    ...fileUse(state, person, context),
    comment: allows.some(({ comment }) => comment),
    delegate: allows.some(({ delegate }) => delegate !== 'no'),
  };
}

/** What people may do who are asked before and after. */
function rightsChanged(before: Circulation, after: Circulation, context: Context): Rights[] {
  const people = new Set(
    [...after.seats.values()].flatMap((seat) =>
      isAsked(seat) && isAsked(before.seats.get(seat.id)) ? seat.holders.map(({ person }) => person) : [],
    ),
  );
  return [...people].flatMap((person) => {
    const now = rightsOf(after, person, context);
    return JSON.stringify(now) === JSON.stringify(rightsOf(before, person, context)) ? [] : [now];
  });
}
