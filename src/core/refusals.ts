/**
 * Why something was refused: the one catalogue of codes, each with its sentence for the person and of what kind it is. Facts
 * fill the braces. A sentence stands here once, so that it can be translated.
 */
const catalogue = {
  /** Nobody is signed in. */
  signedOut: {
    'token-unknown': 'This token is not known here.',
    'signed-out': 'You are signed out. Please sign in again.',
    'wrong-sign-in': 'The email address or the password is not right.',
  },
  /** They may not. */
  forbidden: {
    'not-public': 'This is not open to programs.',
    'not-controller': 'Only the controller of this circulation can do that.',
    'not-author': 'Only the author or the controller can submit a version.',
    'not-yours': 'Only the author, the controller or whoever wrote a comment can resolve it.',
    'not-system': 'Avenda does that by itself.',
    'not-holder': 'This is not yours to respond to.',
    'not-allowed': 'You may not do that.',
    'other-origin': 'This request came from another site and was refused.',
    'file-never': 'Whoever sent this wants it to be read here only. It cannot be printed or downloaded.',
    'file-responded': 'This can be printed or downloaded once you have responded.',
    'file-released': 'This can be printed or downloaded once it is released.',
    'wrong-code': 'That is not the code on the console.',
  },
  /** There is no such thing, or it is not theirs to see. */
  missing: {
    'not-found': 'There is nothing here, or it is not yours to see.',
    'no-such-seat': 'This person is not on the route.',
    'no-such-stage': 'There is no such stage on the route.',
    'no-such-comment': 'There is no such comment.',
    'no-such-file': 'This file does not belong to the circulation.',
    'unknown-person': 'There is no such person.',
    'record-not-found': 'There is no such document.',
    'unknown-type': 'There is no such document type.',
    'file-unknown': 'That file is not here; please send it again.',
    'link-unknown': 'This link is not valid. Please check that it was copied whole.',
    'link-elsewhere':
      'This page opens only where the link was first opened. Open the link in your email on this device.',
    'no-such-question': 'There is no such question.',
    'no-such-change': 'There is no such change of this document.',
    'unknown-unit': 'There is no such unit.',
    'unknown-group': 'There is no such group.',
    'unknown-role': 'There is no such role.',
    'unknown-absence': 'This absence is not there any more.',
    'unknown-calendar': 'There is no such calendar.',
    'unknown-fact': 'This document type no longer has this value.',
    'no-such-document': 'This draft has no such document.',
  },
  /** It does not fit how things stand. */
  conflict: {
    'exists-already': 'This circulation has already been created.',
    'no-effect': 'That is how it stands already.',
    'phase-new': 'The circulation has not been sent yet.',
    'phase-sent': 'The circulation has already been sent, so its route stands.',
    'phase-rework': 'The draft is being reworked. Nothing is decided until the next round begins.',
    'phase-not-rework': 'A next round begins only from rework.',
    'phase-finishing': 'All responses are in. The final files are being made.',
    'phase-ended': 'The circulation has ended.',
    'not-finishing': 'The circulation is not ready to be released.',
    'no-version': 'No draft has been submitted yet.',
    'no-document': 'A version needs at least one document to read.',
    'no-final': 'The final files are still being made.',
    'seat-not-asked': 'No response is expected here now.',
    'already-decided': 'Already decided by {by}, with “{outcome}”.',
    'no-stop': 'Nothing here waits for the controller.',
    'rule-needs-it': 'The stage cannot be completed without this response. Ask again, or reassign it.',
    'not-held': 'This stage does not wait for a new time.',
    'seat-closed': 'The time to respond has closed. Only the controller can extend it.',
    'stage-over': 'This stage is over, so there is nothing to change in it.',
    'stale-seat': 'This was given to somebody else since. Open it again from your Desk or ask for a new link.',
    'stale-version': 'You had version {seen} open. Version {newest} is the newest; please read that one.',
    'stale-content': 'What you are asked to decide on has changed since you opened it. Please look at it again.',
    'stale-plan': 'What the next round would ask has changed meanwhile. Please look at it again.',
    'wrong-outcome': 'That outcome does not belong to this stage.',
    'fields-elsewhere': 'The fields were put on another version of the file.',
    'fields-frozen': 'The pages are frozen because signing has begun.',
    'freeze-stale': 'The file or its fields have changed since it was frozen.',
    'delegate-not-allowed': 'Delegating is not allowed in this stage.',
    'in-stage-already': 'This person already responds in this stage; a person counts once in a stage.',
    'person-left': 'This person no longer works here.',
    barred: 'This person was replaced here before. Only the controller can name them again.',
    'author-decides': 'The author cannot approve their own text.',
    independent: 'Whoever has responded in the other stage cannot respond here: the route asks for different people.',
    'same-person': 'This person is asked here already.',
    'not-second-holder': 'This person is not a second holder here.',
    'outside-not-here': 'Only the controller can reassign to somebody outside.',
    'outside-not-second': 'Somebody outside cannot be a second holder.',
    'not-outside': 'This person is a member and signs in; there is no link.',
    'waits-still': 'They cannot respond yet, so there is nothing to remind them of.',
    'reminded-recently': 'They were reminded less than an hour ago.',
    'keep-impossible': 'There is no decision here that can be kept.',
    'keep-twice': 'One person would count twice. Keep one of their two responses, and ask again for the other.',
    'leave-impossible': 'The stage cannot be completed without this response, so it has to be asked again.',
    'nobody-asked': 'Nobody would be asked.',
    'nobody-skipped':
      'With the values as they are every stage is skipped, so nobody would be asked. Change a value, or amend the route.',
    closed: 'The circulation has closed as a whole. Extend it first.',
    'too-early': 'It is too early to respond. You can read and comment until then.',
    'open-first': 'Please open the document first; the time to think it over counts from then.',
    'name-missing': 'Please name the next person first.',
    'not-to-name': 'There is nobody to name here.',
    'not-taken': 'Nobody has taken this task.',
    'not-a-member': 'Only a member of the group can take this task. You can respond without taking it.',
    'taken-already': 'Somebody else has taken this task.',
    'not-a-group': 'This task belongs to a person, not to a group.',
    'take-first': 'Take the task first; then you can delegate it.',
    'no-proposal': 'Nobody asks to delegate here.',
    'not-gathering': 'This stage does not wait for further responses after a return.',
    'fact-decided':
      'Somebody has responded to this value. It can change in a next round, in which they are asked again.',
    'fact-tested': 'A stage that has not been reached yet depends on this value, so it cannot be left empty.',
    'comment-not-allowed': 'Comments are closed in this stage.',
    'not-extendable': 'Only a circulation under way has a time that can be extended.',
    'revisions-unfit': 'Every document of the circulation is released together.',
    'signature-changed': 'A signature covers every byte of the file, so it cannot be kept after a change.',
    'stale-amendment':
      'The circulation has moved on since this amendment was drafted. Look at it again before you make it.',
    'amend-empty': 'A stage needs somebody in it, and a branch a stage.',
    'amend-reached':
      'What has started stays where and what it is. You can add people to it, or change what comes after.',
    'amend-over': 'What is over cannot be amended.',
    'amend-decided': 'Somebody has responded there already, so it stays as it is.',
    'amend-independent': 'One person has responded in both stages already, so they cannot need different people now.',
    'amend-last': 'Nobody would be left in a stage that has started. Reassign it, or go on without it.',
    'amend-gathering': 'Somebody has returned it, so nobody new is asked in this stage before the next round.',
    'amend-reassign': 'Whoever is asked already is replaced by reassigning.',
    'amend-frozen': 'The pages are frozen for signing, so their files stay. Submit a new version instead.',
    'amend-acted':
      'Somebody has responded to what this would change. Submit a new version instead; then you decide who is asked again.',
    'amend-signed': 'Somebody has signed already; another signer would end that signature.',
    'amend-signers': 'The pages are frozen for signing, so no signer can be added now. Reassign a seat instead.',
    'not-stuck': 'This stage can still be completed as it was planned.',
    'answered-already': 'This question has been answered already.',
    paused: 'This circulation is paused. It goes on when its controller lets it.',
    'paused-already': 'This circulation is paused already.',
    'not-paused': 'This circulation is not paused.',
    'signed-already': 'Somebody has signed and the file is being made, so the circulation cannot be withdrawn now.',
    'version-order': 'Another version has been made meanwhile. Please look at it first.',
    'record-exists': 'This document has already been created.',
    'in-work-already': 'A change of this document is already in progress. Finish or withdraw it before the next.',
    'change-over': 'This change is no longer in progress.',
    'rendered-already': 'This version has its pages already.',
    'command-reused': 'This was already sent with other content. Please reload the page.',
    'address-taken': 'Somebody with this email address is already here.',
    'absence-begun': 'This absence has begun. End it, and set another one.',
    'absence-over': 'This absence is over already.',
    'name-taken': 'Something of this kind has this name already.',
    'unit-in-use': 'Somebody waits for this unit to respond. Reassign that first, then remove the unit.',
    'unit-has-documents': 'Documents belong to this unit. Give them another unit first, then remove it.',
    'group-in-use': 'Somebody waits for this group to respond. Reassign that first, then remove the group.',
    'calendar-usual': 'Times are counted by this calendar. Make another one the usual calendar first.',
    'plan-moved': 'Somebody else has changed this plan meanwhile.',
    'table-moved': 'The table is not the one that was checked. Please check it again.',
    'type-off': 'This document type is no longer offered. Choose another one.',
    'type-taken': 'There is a document type with this code already.',
    'type-name-taken': 'There is a document type with this name already.',
    'type-usual': 'Files that are sent without a document become of this type, so it has to stay on.',
    'type-usual-line': 'Files that are sent without a document go out as they are, so their type has no margin line.',
    'not-printable': 'This file cannot be copied for printing. Open the file itself and print it from there.',
    'scheme-taken': 'Another document type is numbered like this already.',
    'last-administrator': 'Somebody has to stay an administrator.',
    'email-carries-it':
      'A link for a new password goes to their own email address. They can ask for it where they sign in.',
    'set-up-over': 'This installation already has its first administrator.',
    'draft-moved': 'This draft was changed in another window meanwhile. Please look at it again.',
    'no-draft': 'There is nothing to submit yet.',
    'amend-margin':
      'Documents of this type get a line in their margin when they are submitted. Submit a new version instead.',
    'comment-closed': 'You are not asked about this now, so nothing can be said on it here.',
    'nothing-held': 'There is nothing here that can be reassigned to that person.',
    'nothing-to-do': 'There is nothing to do here: nobody is asked to whom this applies.',
    'nobody-late': 'Nobody is late who has not just been reminded.',
    'moved-on': 'Something has happened meanwhile. Please look again and repeat it.',
    'not-withdrawn': 'Only a withdrawn circulation can be started afresh.',
  },
  /** It was there for them, and is no longer. */
  gone: {
    'invitation-over': 'This link has been used or is out of date. Ask for a new one.',
    'cover-over': 'Your cover here has ended, so this is not yours to respond to any more.',
    'no-longer-yours': 'This is no longer yours: it was given to somebody else, or is not needed from you any more.',
    'link-delegated': 'You delegated this to {to}, so there is nothing more for you to do here.',
    'link-moved': 'This was given to somebody else, so there is nothing more to do here.',
  },
  /** It is larger than is taken. */
  tooLarge: {
    'too-large': 'This is too large.',
    'file-too-large': 'This file is larger than the {limit} MB that are allowed here.',
  },
  /** What was sent cannot be taken as it is. */
  unfit: {
    'version-unfit':
      'A file of this version is named twice, or belongs to a document that is not part of the circulation.',
    'route-unfit': 'The route cannot be walked as it is drawn.',
    'reminders-unfit':
      'Reminders need shares of 1 to 99 percent, the larger first, and a number of days that can be counted.',
    'enough-unfit': 'That many cannot respond any more, or none would have to.',
    'absence-past': 'An absence has to end after it begins, and after now.',
    'absence-long': 'An absence can last two years at most.',
    'absence-overlaps': 'There is another absence at this time already.',
    'cover-self': 'Somebody else has to cover.',
    'cover-twice': 'Two people would cover for the same kind of work. Name one for each.',
    'cover-circle': 'This cover would run in a circle ({circle}), so nobody would act. Choose somebody else.',
    'deputy-is-lead': 'The deputy has to be somebody other than the lead.',
    'week-unfit': 'The hours of a day have to follow one another, from 00:00 to 24:00.',
    'never-works': 'A calendar needs working hours on at least one day.',
    'holiday-unfit': 'One of the holidays is not a date.',
    'fact-unfit': '“{fact}” does not take this value.',
    'detail-missing': '“{fact}” needs a value.',
    'choices-missing': '“{fact}” needs something to choose from.',
    'facts-alike': 'Two values of this document type have the same name.',
    'not-icalendar': 'This is no iCalendar file.',
    'table-empty': 'There are no lines in this table.',
    'table-unread': 'This table cannot be read: a quotation mark that opens is not closed.',
    'table-too-many-rows': 'A table can have up to 5,000 lines. Please divide it.',
    'table-letters-lost': 'Letters of this table were lost when it was saved. Save it as CSV UTF-8 and try again.',
    'table-columns': 'This table has no column called {columns}.',
    'draft-empty': 'The text is still empty.',
    preflight: 'The check before sending found something that is required first.',
    'reason-missing': 'Please give a reason.',
    'fields-missing': 'Some fields are not filled in yet.',
    'fields-unfit': 'A field lies outside its page, overlaps another or belongs to nobody who signs.',
    'time-past': 'The new time lies in the past.',
    'closes-before-due': 'The closing time lies before the due time.',
    'time-needed': 'The time to respond has passed. Please give a new one.',
    'times-needed': 'The closing time of a stage has passed. Please give a new one, or none.',
    'empty-file': 'This file is empty.',
    'not-what-it-says': 'This file is called a PDF, but it is none.',
    'pdf-encrypted': 'This PDF is locked with a password. Please save it without one and send it again.',
    'pdf-broken': 'This PDF is damaged, or readers disagree about its pages. Please save it afresh and send it again.',
    'pdf-empty': 'This PDF has no pages.',
    'pdf-active':
      'This PDF contains a script or an action that runs by itself. Please save it without and send it again.',
    'pdf-xfa':
      'This PDF is a dynamic form (XFA) that other readers show differently. Please print it to a PDF and send that.',
    'pdf-portfolio': 'This PDF is a portfolio of other files. Please send the files themselves.',
    'pdf-content': 'A page of this PDF cannot be unpacked. Please save it afresh and send it again.',
    'pdf-hidden-format': 'Another file is hidden behind the end of this PDF. Please save it afresh and send it again.',
    'pdf-too-large-inside':
      'A page of this PDF unpacks to hundreds of megabytes. Please save it smaller and send it again.',
    'pdf-too-hard': 'This PDF takes too long to read. Please save it afresh, or smaller, and send it again.',
    'bad-input': 'Something that was sent is missing or too long.',
    'unwritable-text': 'This text holds a sign that cannot be kept. Please remove it and try again.',
    'scheme-unfit': 'The numbering needs one run of zeros where the counter stands, such as MR-PRO-000.',
    'wrong-password': 'The current password is not right.',
    'weak-password': 'A password needs at least 12 characters.',
    'file-not-pdf': 'Only a PDF can be read, decided on and signed. Other files can be attachments.',
    'file-not-signable': 'This file cannot take fields: {why}',
    'values-unfit': 'Something is missing, or does not fit its field.',
    'letters-unset':
      'The text or the title holds {letter}, which cannot be printed on a page yet. Please write it another way.',
    'letter-unset': 'No font here can show {letter}, so it cannot be signed. Please write it another way.',
  },
  /** They tried too often. */
  tooOften: {
    'too-often': 'Too many tries. Please wait a quarter of an hour.',
  },
  /** They should come again in a moment. */
  busy: {
    busy: 'Avenda is very busy just now. Please try again in a moment.',
  },
  /** There is no room left for it. */
  noRoom: {
    'disk-full': 'There is too little room left on the server for more files. Please tell your administrator.',
    'quota-member': 'You have used the room for files that one person has here. Please tell your administrator.',
    'quota-organization': 'Your organization has used its room for files. Please tell your administrator.',
  },
  /** Something of ours is broken. */
  fault: {
    'upload-fault': 'The file could not be taken in. Nothing of it was kept; please try again.',
    fault: 'Something went wrong on our side. Nothing was changed; please try again.',
  },
} as const;

type Catalogue = typeof catalogue;
/** What kind of a refusal it is, for whoever has to answer it in some protocol. */
export type RefusalKind = keyof Catalogue;
export const refusalKinds = Object.keys(catalogue) as readonly RefusalKind[];
export const refusalCodes = refusalKinds.flatMap((kind) => Object.keys(catalogue[kind])) as readonly RefusalCode[];
export type RefusalCode = { readonly [K in RefusalKind]: keyof Catalogue[K] }[RefusalKind];

/** The field of a form that a refusal is about, as the input that was refused calls it. */
const fields: { readonly [C in RefusalCode]?: string } = {
  'address-taken': 'email',
  'wrong-password': 'before',
  'weak-password': 'password',
  'wrong-code': 'code',
  'name-taken': 'name',
  'type-taken': 'type',
  'type-name-taken': 'name',
  'scheme-unfit': 'scheme',
  'scheme-taken': 'scheme',
  'deputy-is-lead': 'deputy',
  'week-unfit': 'week',
  'never-works': 'week',
  'holiday-unfit': 'holidays',
  'reason-missing': 'note',
  'absence-past': 'to',
  'absence-long': 'to',
  'absence-overlaps': 'from',
};

type RefusalFacts = Readonly<Record<string, string | number | boolean | null>>;

/** Why something was refused: a code for programs, a sentence for the person, the facts behind it. */
export interface Refusal {
  readonly code: RefusalCode;
  readonly sentence: string;
  /** `field` names the field that a form can show it at. */
  readonly facts: RefusalFacts;
}

interface Entry {
  readonly kind: RefusalKind;
  readonly sentence: string;
}
const entries: ReadonlyMap<string, Entry> = new Map(
  refusalKinds.flatMap((kind) =>
    Object.entries(catalogue[kind]).map(([code, sentence]) => [code, { kind, sentence }] as const),
  ),
);

/** Of what kind the refusals of a code are. */
export function kindOf(code: RefusalCode): RefusalKind {
  return (entries.get(code) as Entry).kind;
}

/** A refusal with its sentence, and the field it is about where a form can show one. */
export function refusal(code: RefusalCode, facts: RefusalFacts = {}): Refusal {
  const { sentence } = entries.get(code) as Entry;
  const field = fields[code];
  return {
    code,
    sentence: sentence.replace(/\{(\w+)\}/g, (_, name: string) => String(facts[name] ?? '')),
    facts: field === undefined ? facts : { field, ...facts },
  };
}
