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
  'not-author': 'Only the author or the controller can submit a version.',
  'not-yours': 'Only the author, the controller or whoever wrote a comment can resolve it.',
  'not-system': 'Avenda does that by itself.',
  'no-effect': 'That is how it stands already.',
  'not-holder': 'This is not yours to respond to.',
  'no-such-seat': 'This person is not on the route.',
  'no-such-stage': 'There is no such stage on the route.',
  'no-such-comment': 'There is no such comment.',
  'no-such-file': 'This file does not belong to the circulation.',
  'phase-new': 'The circulation has not been sent yet.',
  'phase-sent': 'The circulation has already been sent, so its route stands.',
  'phase-rework': 'The draft is being reworked. Nothing is decided until the next round begins.',
  'phase-not-rework': 'A next round begins only from rework.',
  'phase-sealing': 'All responses are in. The final files are being made.',
  'phase-ended': 'The circulation has ended.',
  'not-sealing': 'The circulation is not ready to be released.',
  'no-version': 'No draft has been submitted yet.',
  'no-document': 'A version needs at least one document to read.',
  'version-unfit':
    'A file of this version is named twice, or belongs to a document that is not part of the circulation.',
  'no-final': 'The final files are still being made.',
  'route-unfit': 'The route cannot be walked as it is drawn.',
  preflight: 'The check before sending found something that is required first.',
  'seat-not-asked': 'No response is expected here now.',
  'already-decided': 'Already decided by {by}, with “{outcome}”.',
  'no-stop': 'Nothing here waits for the controller.',
  'rule-needs-it': 'The stage cannot be completed without this response. Ask again, or reassign it.',
  'not-held': 'This stage does not wait for a new time.',
  'seat-closed': 'The time to respond has closed. Only the controller can extend it.',
  'stage-over': 'This stage is over, so there is nothing to change in it.',
  'stale-seat': 'This was given to somebody else since. Open it again from your Desk or ask for a new link.',
  'stale-version': 'You had version {seen} open. Version {newest} is the newest; please read that one.',
  'stale-plan': 'What the next round would ask has changed meanwhile. Please look at it again.',
  'wrong-outcome': 'That outcome does not belong to this stage.',
  'reason-missing': 'Please give a reason.',
  'fields-missing': 'Some fields are not filled in yet.',
  'fields-elsewhere': 'The fields were put on another version of the file.',
  'fields-unfit': 'A field does not fit on its page, or belongs to nobody on the route.',
  'fields-frozen': 'The pages are frozen because signing has begun.',
  'freeze-stale': 'The file or its fields have changed since it was frozen.',
  'delegate-not-allowed': 'Delegating is not allowed in this stage.',
  'in-stage-already': 'This person already responds in this stage; a person counts once in a stage.',
  'person-left': 'This person no longer works here.',
  'unknown-person': 'There is no such person.',
  barred: 'This person was replaced here before. Only the controller can name them again.',
  'author-decides': 'The author cannot approve their own text.',
  'same-person': 'This person is asked here already.',
  'not-second-holder': 'This person is not a second holder here.',
  'outside-not-here': 'Only the controller can reassign to somebody outside.',
  'outside-not-second': 'Somebody outside cannot be a second holder.',
  'not-outside': 'This person is a member and signs in; there is no link.',
  'time-past': 'The new time lies in the past.',
  'closes-before-due': 'The closing time lies before the due time.',
  'time-needed': 'The time to respond has passed. Please give a new one.',
  'times-needed': 'The closing time of a stage has passed. Please give a new one, or none.',
  'reminded-recently': 'They were reminded less than an hour ago.',
  'keep-impossible': 'There is no decision here that can be kept.',
  'leave-impossible': 'The stage cannot be completed without this response, so it has to be asked again.',
  'nobody-asked': 'This round would ask nobody.',
  'revisions-unfit': 'Every document of the circulation is released together.',
  'signature-changed': 'A signature covers every byte of the file, so it cannot be kept after a change.',
  'signed-already': 'Somebody has signed and the file is being made, so the circulation cannot be withdrawn now.',
  'version-order': 'This version is not newer than the one submitted last.',
} as const;

export type RefusalCode = keyof typeof refusalSentences;

export function refusal(code: RefusalCode, facts: Refusal['facts'] = {}): Refusal {
  const sentence = refusalSentences[code].replace(/\{(\w+)\}/g, (_, name: string) => String(facts[name] ?? ''));
  return { code, sentence, facts };
}
