import type { Command, CommandOf } from '@/core/circulation/acts/commands';
import { amendBasis } from '@/core/circulation/plan/amending';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { bareContext } from '@/core/circulation/run/context';
import { holders } from '@/core/circulation/run/holders';
import type { SeatRun, StageRun } from '@/core/circulation/run/shapes';
import { type Circulation, fieldsHash, presentFields, scopeOf } from '@/core/circulation/run/state';
import { fieldIdsOf } from '@/core/page/fields';
import type { Condition } from '@/core/route/condition';
import { editedBy, type RouteEdit } from '@/core/route/edit';
import {
  type Allows,
  type Assignment,
  atInstant,
  type Copies,
  freshSeat,
  freshStage,
  type Parallel,
  type Route,
  type Series,
  type Stage,
  usualAllows,
} from '@/core/route/route';
import type { Rule } from '@/core/route/tally';
import type { Outcome, Verb } from '@/core/route/verbs';
import type { Instant } from '@/core/time/instant';
import { contextOf, controller, fieldsFor, hash, outsiders, type Run, step, versionOf } from './arbitrary';

// A small language for plain examples: a route in a line, an act in a line.

type StageOptions = Partial<Omit<Stage, 'due' | 'closes' | 'allows'>> & {
  due?: Instant;
  closes?: Instant;
  allows?: Partial<Allows>;
};

export const stage = (
  id: string,
  verb: Verb,
  people: readonly string[],
  { due, closes, allows, ...more }: StageOptions = {},
): Stage => ({
  ...freshStage(
    id,
    verb,
    people.map((person) => seatFor(`${id}-${person}`, person)),
  ),
  due: atInstant(due ?? null),
  closes: atInstant(closes ?? null),
  allows: { ...usualAllows, ...allows },
  ...more,
});

/** A seat by a word: a person, `group:rescue` (any), `every:rescue`, `role:safety`, `named:seat`. */
const seatFor = (id: string, word: string) => {
  const [kind, of = ''] = word.split(':');
  const assignment: Assignment =
    of === ''
      ? { kind: outsiders.includes(word) ? 'outside' : 'person', person: word }
      : kind === 'group' || kind === 'every'
        ? { kind: 'group', group: of, members: kind === 'every' ? 'every' : 'any' }
        : kind === 'role'
          ? { kind: 'role', role: of }
          : { kind: 'named', by: of };
  return freshSeat(id.replace(/:.*/, ''), assignment);
};

export const route = (...parts: Route[]): Series => ({ kind: 'series', id: 'root', parts });

export const fork = (join: Rule, ...branches: Route[][]): Parallel => ({
  kind: 'parallel',
  id: 'fork',
  name: '',
  join,
  branches: branches.map((parts, i) => ({
    name: `branch ${i}`,
    condition: null,
    route: { kind: 'series', id: `branch-${i}`, parts },
  })),
});

/** A board that gives a copy to one person. */
export const board = (id: string, person: string): Copies => ({
  kind: 'copies',
  id,
  to: [{ id: `${id}-${person}`, assignment: { kind: 'person', person } }],
  hidden: false,
});

/** Holds where the amount is over so many thousand crowns. */
export const over = (thousand: number): Condition => ({
  kind: 'fact',
  fact: 'amount',
  is: 'over',
  value: { kind: 'amount', thousandths: thousand * 1_000_000, currency: 'NOK' },
});

export const state = (run: Run) => run.state as Circulation;
export const seatOf = (run: Run, id: string) => state(run).seats.get(id) as SeatRun;
export const stageOf = (run: Run, id: string) => state(run).stages.get(id) as StageRun;
export const statuses = (run: Run) =>
  Object.fromEntries([...state(run).seats.values()].map((seat) => [seat.id, seat.status]));
export const count = (run: Run, type: string) => run.events.filter((event) => event.type === type).length;

/** Puts a command and gives 'ok' or the refusal's code. */
export const put = (run: Run, command: Command, actor: string = controller, forward = 1000): string => {
  const result = step(run, command, actor, forward);
  return result.ok ? 'ok' : result.refusal.code;
};

export const decide = (
  run: Run,
  seat: string,
  person: string,
  outcome: Outcome,
  more: Partial<CommandOf<'decide'>> = {},
): string =>
  put(
    run,
    {
      type: 'decide',
      seat,
      epoch: seatOf(run, seat)?.epoch ?? 0,
      scope: seatOf(run, seat) ? (scopeOf(state(run), seatOf(run, seat)) ?? '') : '',
      outcome,
      note: 'w',
      filled:
        outcome === 'signed'
          ? fieldIdsOf(presentFields(state(run)), seat).map((field) => ({ field, value: hash(7) }))
          : [],
      evidence: null,
      ...more,
    },
    person,
  );

export const reassign = (run: Run, seat: string, person: string, times: { due?: Instant; closes?: Instant } = {}) =>
  put(run, {
    type: 'reassign',
    seat,
    to: { kind: outsiders.includes(person) ? 'outside' : 'person', person },
    due: times.due ?? null,
    closes: times.closes ?? null,
    note: null,
  });

export const attach = (run: Run, number: number, content = number, files = run.files, attachment = 0) =>
  put(run, { type: 'attach', version: versionOf(number, content, files, attachment) });

/** Proposes the next round and confirms it: the proposal's own keep list, with what is added and taken from it. */
export const nextRound = (
  run: Run,
  {
    keep = [],
    ask = [],
    leave = [],
    times = [],
  }: { keep?: string[]; ask?: string[]; leave?: string[]; times?: CommandOf<'confirmRound'>['times'] } = {},
): string => {
  const lines = linesOf(state(run));
  return put(run, {
    type: 'confirmRound',
    basis: roundBasis(state(run), bareContext(0, controller)),
    keep: [...lines.filter((line) => line.keep && !ask.includes(line.seat)).map((line) => line.seat), ...keep],
    leave,
    times,
  });
};

/** The list of a next round as it would be proposed now. */
export const linesOf = (of: Circulation) => proposedLines(of, bareContext(0, controller));

export const reasons = (run: Run) =>
  Object.fromEntries(linesOf(state(run)).map((line) => [line.seat, line.keep ? 'kept' : line.reason]));

/** Lets time go on to an instant; nothing but the clock happens. */
export const until = (run: Run, at: number) => put(run, { type: 'wake' }, 'system', at - run.now);

/** Who may act on a seat now. */
export const acting = (run: Run, seat: string) =>
  holders(state(run), seatOf(run, seat), contextOf(run.now, '')).map(({ person }) => person);

/** The amendment that these edits make to the route as it is. */
export const amendment = (
  run: Run,
  edits: readonly RouteEdit[],
  more: Partial<CommandOf<'amend'>> = {},
): CommandOf<'amend'> => ({
  type: 'amend',
  basis: amendBasis(state(run)),
  plan: editedBy(state(run).plan, edits),
  note: state(run).note,
  whole: null,
  version: null,
  reason: null,
  ...more,
});

export const amend = (run: Run, edits: readonly RouteEdit[], more: Partial<CommandOf<'amend'>> = {}) =>
  put(run, amendment(run, edits, more));

/** Puts every signing seat's fields on a file and keeps it frozen. */
export const freeze = (run: Run, file = 'f1', frozen = 90_001): string[] => {
  const content =
    state(run)
      .versions.at(-1)
      ?.files.find((candidate) => candidate.id === file)?.file ?? '';
  return [
    put(run, { type: 'putFields', file, content, fields: fieldsFor(state(run), file) }),
    keepFrozen(run, file, frozen),
  ];
};

export const keepFrozen = (run: Run, file = 'f1', frozen = 90_001): string => {
  const content =
    state(run)
      .versions.at(-1)
      ?.files.find((candidate) => candidate.id === file)?.file ?? '';
  return put(
    run,
    { type: 'keepFrozen', file, content, frozen: hash(frozen), fields: fieldsHash(state(run).fields, file) },
    'system',
  );
};
