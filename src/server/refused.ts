import { type Refusal, type RefusalCode, refusal } from '@/core/refusals';

/** Thrown to end an operation with a refusal; whatever its transaction had written is undone. */
export class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.sentence);
  }
}

/** Ends an operation with a refusal of the catalogue. */
export function refuse(code: RefusalCode, facts: Refusal['facts'] = {}): never {
  throw new Refused(refusal(code, facts));
}
