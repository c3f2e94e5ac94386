import { unreachable } from '../unreachable';
import type { FactKind, Facts, FactValue } from './facts';

/**
 * Conditions of stages and branches: all / any / not over comparisons of facts, of the record, and of how an earlier stage
 * ended. They are structured data, built by choosing and read back as a sentence.
 */
export type Comparison = 'is' | 'isNot' | 'over' | 'atLeast' | 'under' | 'atMost';

export const recordFacts = ['documentType', 'unit', 'owner'] as const;
export type RecordFact = (typeof recordFacts)[number];

/** What a record answers: an id to compare with, and what that was called then. People are called as everywhere. */
export interface RecordValue {
  readonly id: string;
  readonly called: string | null;
}

/** How a stage can have ended, for whoever asks later: somebody approved with comments, somebody declined, somebody missed. */
export const stageOutcomes = ['approvedWithComments', 'declined', 'missed'] as const;
export type StageOutcome = (typeof stageOutcomes)[number];

/** One comparison: a condition with no others in it. */
export type Compared =
  | { readonly kind: 'fact'; readonly fact: string; readonly is: Comparison; readonly value: FactValue }
  | {
      readonly kind: 'record';
      readonly field: RecordFact;
      readonly is: Extract<Comparison, 'is' | 'isNot'>;
      readonly value: string;
    }
  | { readonly kind: 'outcome'; readonly stage: string; readonly outcome: StageOutcome };

export type Condition =
  | { readonly kind: 'all' | 'any'; readonly of: readonly Condition[] }
  | { readonly kind: 'not'; readonly of: Condition }
  | Compared;

export const conditionLimits = { depth: 4, parts: 20 } as const;

/** The comparisons that make sense for a kind of fact. */
export function comparisonsOf(kind: FactKind): readonly Comparison[] {
  if (kind === 'yesNo') return ['is'];
  const ordered = kind === 'amount' || kind === 'number' || kind === 'date';
  return ordered ? ['over', 'atLeast', 'under', 'atMost', 'is'] : ['is', 'isNot'];
}

/** What a condition is decided from. */
interface Grounds {
  readonly facts: Facts;
  /** What the facts are called. */
  readonly names: Readonly<Record<string, string>>;
  readonly record: Readonly<Partial<Record<RecordFact, RecordValue>>>;
  /** The outcomes of a stage that has ended; null while it has not. */
  readonly outcomes: (stage: string) => ReadonlySet<StageOutcome> | null;
}

/** What one comparison was made with, when it was made. */
export type Used =
  /** `name` is what the fact was called then. */
  | { readonly kind: 'fact'; readonly fact: string; readonly name: string | null; readonly value: FactValue | null }
  | { readonly kind: 'record'; readonly field: RecordFact; readonly value: RecordValue | null }
  | { readonly kind: 'outcome'; readonly stage: string; readonly outcomes: readonly StageOutcome[] | null };

/** Whether two comparisons were made with the same thing. */
function sameThing(a: Used, b: Used): boolean {
  if (a.kind === 'fact') return b.kind === 'fact' && a.fact === b.fact;
  if (a.kind === 'record') return b.kind === 'record' && a.field === b.field;
  return b.kind === 'outcome' && a.stage === b.stage;
}

/**
 * Whether a condition holds, with the values it was decided from. A comparison with what has no value, or with a stage that
 * has not ended, is false, and its "not" true.
 */
export function holds(condition: Condition, grounds: Grounds): { readonly holds: boolean; readonly used: Used[] } {
  const used: Used[] = [];
  const look = (what: Used) => {
    if (!used.some((known) => sameThing(known, what))) used.push(what);
  };
  // Every part is looked at, so that the record is whole whatever decided it.
  const visit = (part: Condition): boolean => {
    switch (part.kind) {
      case 'all':
        return part.of.map(visit).every(Boolean);
      case 'any':
        return part.of.map(visit).some(Boolean);
      case 'not':
        return !visit(part.of);
      case 'fact': {
        const value = grounds.facts[part.fact] ?? null;
        look({ kind: 'fact', fact: part.fact, name: grounds.names[part.fact] ?? null, value });
        return value !== null && compares(value, part.is, part.value);
      }
      case 'record': {
        const value = grounds.record[part.field] ?? null;
        look({ kind: 'record', field: part.field, value });
        return value !== null && (value.id === part.value) === (part.is === 'is');
      }
      case 'outcome': {
        const outcomes = grounds.outcomes(part.stage);
        look({ kind: 'outcome', stage: part.stage, outcomes: outcomes && [...outcomes].sort() });
        return outcomes?.has(part.outcome) ?? false;
      }
      default:
        return unreachable(part, 'condition');
    }
  };
  return { holds: visit(condition), used };
}

function compares(value: FactValue, is: Comparison, with_: FactValue): boolean {
  const order = orderOf(value, with_);
  if (order === null) return false;
  switch (is) {
    case 'is':
      return order === 0;
    case 'isNot':
      return order !== 0;
    case 'over':
      return order > 0;
    case 'atLeast':
      return order >= 0;
    case 'under':
      return order < 0;
    case 'atMost':
      return order <= 0;
    default:
      return unreachable(is, 'comparison');
  }
}

/** How two values stand to one another; null where they cannot be compared (another kind, another currency). */
function orderOf(a: FactValue, b: FactValue): number | null {
  if (a.kind === 'amount')
    return b.kind === 'amount' && a.currency === b.currency ? a.thousandths - b.thousandths : null;
  if (a.kind === 'number') return b.kind === 'number' ? a.thousandths - b.thousandths : null;
  if (a.kind === 'yesNo') return b.kind === 'yesNo' ? Number(a.yes) - Number(b.yes) : null;
  if (a.kind === 'date') return b.kind === 'date' ? (a.day < b.day ? -1 : a.day > b.day ? 1 : 0) : null;
  if (a.kind === 'person') return b.kind === 'person' ? Number(a.person !== b.person) : null;
  return b.kind === a.kind ? Number(a.text !== b.text) : null;
}

/** The comparisons of a condition, in reading order. */
export function comparisonsIn(condition: Condition): readonly Compared[] {
  switch (condition.kind) {
    case 'all':
    case 'any':
      return condition.of.flatMap(comparisonsIn);
    case 'not':
      return comparisonsIn(condition.of);
    case 'fact':
    case 'record':
    case 'outcome':
      return [condition];
    default:
      return unreachable(condition, 'condition');
  }
}

/** The ids of the facts that a condition is decided from. */
export function factsIn(condition: Condition): string[] {
  return comparisonsIn(condition).flatMap((part) => (part.kind === 'fact' ? [part.fact] : []));
}

/** Words for the comparisons of a condition, given by whoever knows names. */
interface ConditionWords {
  readonly fact: (id: string) => string;
  readonly value: (value: FactValue) => string;
  readonly record: (field: RecordFact) => string;
  readonly recordValue: (field: RecordFact, value: string) => string;
  readonly outcome: (stage: string, outcome: StageOutcome) => string;
}

const comparisonWords: { readonly [C in Comparison]: string } = {
  is: 'is',
  isNot: 'is not',
  over: 'is over',
  atLeast: 'is at least',
  under: 'is under',
  atMost: 'is at most',
};

/** A condition as a sentence's end: "the amount is over 100,000 NOK and the unit is contracts". */
export function conditionInWords(condition: Condition, words: ConditionWords): string {
  const say = (part: Condition, inside: boolean): string => {
    switch (part.kind) {
      case 'all':
      case 'any': {
        const text = part.of
          .map((inner) => say(inner, part.of.length > 1))
          .join(part.kind === 'all' ? ' and ' : ' or ');
        return inside && part.of.length > 1 ? `(${text})` : text;
      }
      case 'not':
        return `not ${say(part.of, true)}`;
      case 'fact':
        return part.value.kind === 'yesNo'
          ? `${words.fact(part.fact)} ${part.value.yes ? 'applies' : 'does not apply'}`
          : `${words.fact(part.fact)} ${comparisonWords[part.is]} ${words.value(part.value)}`;
      case 'record':
        return `${words.record(part.field)} ${comparisonWords[part.is]} ${words.recordValue(part.field, part.value)}`;
      case 'outcome':
        return words.outcome(part.stage, part.outcome);
      default:
        return unreachable(part, 'condition');
    }
  };
  return say(condition, false);
}
