import type { Rule } from '@/core/route/tally';
import type { Instant } from '@/core/time/instant';
import { signingWords } from './words';

const words = signingWords.rules;

/** What is known of a seat's stage by which it is said how one's response counts. */
interface SeatRules {
  readonly stage: {
    readonly rule: Rule;
    readonly order: 'together' | 'oneByOne';
    readonly gathers: boolean;
    /** How many seats the stage has. */
    readonly of: number;
  };
  readonly group: { readonly name: string; readonly taken: boolean } | null;
  /** From when on whoever holds the seat may respond, where that is still to come. */
  readonly notBefore: Instant | 'opened' | undefined;
  /** For whom the reader covers, and until when. */
  readonly covers: { readonly name: string; readonly until: Instant } | null;
}

/** The rules of a seat as plain sentences for whoever holds it. `moment` says an instant with its weekday. */
export function seatRules({ stage, group, notBefore, covers }: SeatRules, moment: (at: Instant) => string): string[] {
  const { rule, of, order, gathers } = stage;
  return [
    covers ? words.covers(covers.name, moment(covers.until)) : '',
    notBefore === undefined ? '' : notBefore === 'opened' ? words.openFirst : words.from(moment(notBefore)),
    group && !group.taken ? words.anyMember(group.name) : '',
    of < 2 ? '' : rule.kind === 'all' ? words.all(of) : rule.kind === 'any' ? words.any(of) : words.some(rule.k, of),
    of > 1 && order === 'oneByOne' ? words.oneByOne : '',
    of > 1 && gathers ? words.gathers : '',
  ].filter(Boolean);
}
