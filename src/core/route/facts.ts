import { dayNumber } from '../time/calendar';
import { unreachable } from '../unreachable';

/**
 * Facts: what a document type declares about its documents, and the values that a change carries. Conditions are decided
 * from them.
 */
export const factKinds = ['amount', 'number', 'choice', 'yesNo', 'date', 'party', 'person'] as const;
export type FactKind = (typeof factKinds)[number];

/** Numbers are whole thousandths, so that 0.1 is 0.1; a party is a name, a person an id, a date an ISO 8601 date. */
interface Values {
  readonly amount: { readonly thousandths: number; readonly currency: string };
  readonly number: { readonly thousandths: number };
  readonly choice: { readonly text: string };
  readonly party: { readonly text: string };
  readonly yesNo: { readonly yes: boolean };
  readonly date: { readonly day: string };
  readonly person: { readonly person: string };
}

/** A value of a fact. */
export type FactValue = { readonly [K in FactKind]: { readonly kind: K } & Values[K] }[FactKind];

export interface FactType {
  readonly id: string;
  readonly name: string;
  readonly kind: FactKind;
  /** Whether sending needs a value. */
  readonly needed: boolean;
  /** What may be chosen. */
  readonly choices: readonly string[];
  /** The currency that is offered first (ISO 4217). */
  readonly currency: string;
  /** Bounds of a number or an amount, in whole thousandths; null for none. */
  readonly least: number | null;
  readonly most: number | null;
  readonly standard: FactValue | null;
}

/** Values by the ids of their facts. One without a value is not there. */
export type Facts = Readonly<Record<string, FactValue>>;

type FactFault = 'kind' | 'choice' | 'currency' | 'range' | 'day' | 'empty';

/** Why a value does not fit its fact, or null. */
export function factFault(type: FactType, value: FactValue): FactFault | null {
  if (value.kind !== type.kind) return 'kind';
  switch (value.kind) {
    case 'amount':
    case 'number':
      if (value.kind === 'amount' && !/^[A-Z]{3}$/.test(value.currency)) return 'currency';
      if (!Number.isSafeInteger(value.thousandths)) return 'range';
      return (type.least !== null && value.thousandths < type.least) ||
        (type.most !== null && value.thousandths > type.most)
        ? 'range'
        : null;
    case 'choice':
      return type.choices.includes(value.text) ? null : 'choice';
    case 'party':
      return value.text.trim() === '' ? 'empty' : null;
    case 'person':
      return value.person === '' ? 'empty' : null;
    case 'date':
      return Number.isNaN(dayNumber(value.day)) ? 'day' : null;
    case 'yesNo':
      return null;
    default:
      return unreachable(value, 'value');
  }
}

/** The values that stand where nothing was given: each fact's standard. */
export function standardFacts(types: readonly FactType[]): Facts {
  return Object.fromEntries(types.flatMap(({ id, standard }) => (standard ? [[id, standard]] : [])));
}

/** What is given, over what stands by itself. */
export function factsWith(types: readonly FactType[], given: Readonly<Record<string, FactValue | null>>): Facts {
  const facts: Record<string, FactValue> = { ...standardFacts(types) };
  for (const [id, value] of Object.entries(given)) {
    if (value === null) delete facts[id];
    else facts[id] = value;
  }
  return facts;
}

/** A number that was typed, in whole thousandths, or null: "184,000", "184 000.50", "-3". */
export function typedNumber(text: string): number | null {
  const said = text.trim().replace(/[\s\u00a0\u202f_']/g, '');
  const parts = /^([-\u2212]?)(\d{1,3}(?:,\d{3})+|\d{1,12})(?:\.(\d{1,3}))?$/.exec(said);
  if (!parts) return null;
  const whole = Number(parts[2]?.replace(/,/g, ''));
  const thousandths = whole * 1000 + Number((parts[3] ?? '').padEnd(3, '0') || 0);
  if (!Number.isSafeInteger(thousandths)) return null;
  return parts[1] && thousandths !== 0 ? -thousandths : thousandths;
}

/** A number as it is written: "184,000", "0.5". */
export function numberText(thousandths: number): string {
  const size = Math.abs(thousandths);
  const whole = String(Math.floor(size / 1000)).replace(/\B(?=(\d{3})+$)/g, ',');
  const rest = String(size % 1000)
    .padStart(3, '0')
    .replace(/0+$/, '');
  return `${thousandths < 0 ? '-' : ''}${whole}${rest ? `.${rest}` : ''}`;
}
