/** Why a command was refused: a code for programs, a sentence for the person, the facts behind it. */
export interface Refusal {
  readonly code: RefusalCode;
  readonly sentence: string;
  readonly facts: Readonly<Record<string, string | number | boolean | null>>;
}

/** One sentence per reason, in one place, so that they can be translated. Facts fill the braces. */
export const refusalSentences = {
  'not-found': 'There is no such circulation.',
  'exists-already': 'This circulation has already been created.',
  'not-controller': 'Only the controller of this circulation can do that.',
  'not-author': 'Only the author or the controller can hand in a version.',
  'not-holder': 'This seat is not yours to act on.',
  'no-such-seat': 'There is no such seat on the route.',
  'no-such-stage': 'There is no such stage on the route.',
  'no-such-comment': 'There is no such comment.',
  'no-such-file': 'This file does not belong to the circulation.',
  'phase-new': 'The circulation has not been sent yet.',
  'phase-sent': 'The circulation has already been sent, so its route stands.',
  'phase-rework': 'The draft is being reworked. Nothing is decided until the next round begins.',
  'phase-not-rework': 'A next round begins only from rework.',
  'phase-sealing': 'Everybody has acted. The final file is made now.',
  'phase-ended': 'The circulation has ended.',
  'not-sealing': 'The circulation is not ready to be released.',
  'no-version': 'No draft has been handed in yet.',
  'no-final': 'The final file is still being made.',
  'route-unfit': 'The route cannot be walked as it is drawn.',
  preflight: 'The check before sending found what must be mended first.',
  'seat-not-asked': 'This seat is not asked to act now.',
  'already-decided': 'Already decided by {by}, with “{outcome}”.',
  'seat-closed': 'The time to act on this seat has closed. Only the controller can extend it.',
  'stage-over': 'The stage of this seat is over, so there is nothing to extend.',
  'stale-seat': 'This seat has changed hands since. Open it again from your Desk or ask for a new link.',
  'stale-version': 'You had version {seen} open. Version {newest} is the newest; please read that one.',
  'stale-plan': 'The proposal for the next round has changed meanwhile. Please look at it again.',
  'wrong-outcome': 'That outcome does not belong to this stage.',
  'reason-missing': 'Please give a reason.',
  'fields-missing': 'Some fields are not filled in yet.',
  'fields-elsewhere': 'The fields were put on another version of the file.',
  'fields-unfit': 'A field does not fit on its page, or belongs to nobody on the route.',
  'fields-frozen': 'The pages are frozen because signing has begun.',
  'delegate-not-allowed': 'Delegating is not allowed in this stage.',
  barred: 'This person held the seat before and was replaced. Only the controller can name them again.',
  'author-decides': 'The author cannot approve their own text.',
  'same-person': 'This person holds the seat already.',
  'not-second-holder': 'This person is not a second holder of the seat.',
  'outside-not-here': 'Only the controller can give a seat to somebody outside.',
  'time-past': 'The new time lies in the past.',
  'closes-before-due': 'The closing time lies before the due time.',
  'time-needed': 'The time of this seat has passed. Please give a new one.',
  'reminded-recently': 'This seat was reminded less than an hour ago.',
  'keep-impossible': 'Only a positive decision of this round can be kept.',
  'signature-changed': 'A signature covers every byte of the file, so it cannot be kept after a change.',
  'signed-already': 'Somebody has signed and the file is being made, so the circulation cannot be withdrawn now.',
  'version-order': 'This version is not newer than the one handed in last.',
} as const;

export type RefusalCode = keyof typeof refusalSentences;

export function refusal(code: RefusalCode, facts: Refusal['facts'] = {}): Refusal {
  const sentence = refusalSentences[code].replace(/\{(\w+)\}/g, (_, name: string) => String(facts[name] ?? ''));
  return { code, sentence, facts };
}
