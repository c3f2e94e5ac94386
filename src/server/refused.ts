/** Thrown to end an operation with a refusal; whatever its transaction had written is undone. */
export class Refused extends Error {
  readonly code: string;
  readonly facts: Readonly<Record<string, string | number | boolean | null>>;
  constructor(code: string, sentence: string, facts: Refused['facts'] = {}) {
    super(sentence);
    this.code = code;
    this.facts = facts;
  }
}

/** One sentence per refusal that is not the engine's own. */
export const refusedSentences = {
  'not-found': 'There is nothing here, or it is not yours to see.',
  'no-longer-yours': 'This is no longer yours: it was given to somebody else, or is not needed from you any more.',
  'not-allowed': 'You may not do that.',
  'signed-out': 'You are signed out. Please sign in again.',
  'wrong-sign-in': 'The email address or the password is not right.',
  'too-often': 'Too many tries. Please wait a quarter of an hour.',
  'other-origin': 'This request came from another site and was refused.',
  'bad-input': 'Something that was sent is missing or too long.',
  'unwritable-text': 'This text holds a sign that cannot be kept. Please remove it and try again.',
  'too-large': 'This is too large.',
  busy: 'Avenda is very busy just now. Please try again in a moment.',
  'disk-full': 'There is too little room left on the server for more files. Please tell your administrator.',
  'quota-member': 'You have used the room for files that one person has here. Please tell your administrator.',
  'quota-organization': 'Your organization has used its room for files. Please tell your administrator.',
  'command-reused': 'This was already sent with other content. Please reload the page.',
  'unknown-person': 'There is no such person.',
  'person-left': 'This person no longer works here.',
  'address-taken': 'Somebody with this email address is already here.',
  'unknown-unit': 'There is no such unit.',
  'unknown-group': 'There is no such group.',
  'unknown-role': 'There is no such role.',
  'reminders-unfit':
    'Reminders need shares of 1 to 99 percent, the larger first, and a number of days that can be counted.',
  'unknown-absence': 'This absence is not there any more.',
  'absence-begun': 'This absence has begun. End it, and set another one.',
  'absence-over': 'This absence is over already.',
  'absence-past': 'An absence has to end after it begins, and after now.',
  'absence-long': 'An absence can last two years at most.',
  'absence-overlaps': 'There is another absence at this time already.',
  'cover-self': 'Somebody else has to cover.',
  'cover-twice': 'Two people would cover for the same kind of work. Name one for each.',
  'cover-circle': 'This cover would run in a circle ({circle}), so nobody would act. Choose somebody else.',
  'unknown-calendar': 'There is no such calendar.',
  'unknown-fact': 'This document type no longer has this value.',
  'name-taken': 'Something of this kind has this name already.',
  'deputy-is-lead': 'The deputy has to be somebody other than the lead.',
  'group-in-use': 'Somebody waits for this group to respond. Reassign that first, then remove the group.',
  'calendar-usual': 'Times are counted by this calendar. Make another one the usual calendar first.',
  'week-unfit': 'The hours of a day have to follow one another, from 00:00 to 24:00.',
  'never-works': 'A calendar needs working hours on at least one day.',
  'holiday-unfit': 'One of the holidays is not a date.',
  'fact-unfit': '“{fact}” does not take this value.',
  'choices-missing': '“{fact}” needs something to choose from.',
  'facts-alike': 'Two values of this document type have the same name.',
  'not-icalendar': 'This is no iCalendar file.',
  'table-empty': 'There are no lines in this table.',
  'table-unread': 'This table cannot be read: a quotation mark that opens is not closed.',
  'table-too-many-rows': 'A table can have up to 5,000 lines. Please divide it.',
  'table-letters-lost': 'Letters of this table were lost when it was saved. Save it as CSV UTF-8 and try again.',
  'table-columns': 'This table has no column called {columns}.',
  'plan-moved': 'Somebody else has changed this plan meanwhile.',
  'table-moved': 'The table is not the one that was checked. Please check it again.',
  'unknown-type': 'There is no such document type.',
  'type-off': 'This document type is no longer offered. Choose another one.',
  'type-taken': 'There is a document type with this code already.',
  'type-name-taken': 'There is a document type with this name already.',
  'type-usual': 'Files that are sent without a document become of this type, so it has to stay on.',
  'type-usual-line': 'Files that are sent without a document go out as they are, so their type has no margin line.',
  'file-never': 'Whoever sent this wants it to be read here only. It cannot be printed or downloaded.',
  'file-responded': 'This can be printed or downloaded once you have responded.',
  'file-released': 'This can be printed or downloaded once it is released.',
  'not-printable': 'This file cannot be copied for printing. Open the file itself and print it from there.',
  'scheme-unfit': 'The numbering needs one run of zeros where the counter stands, such as MR-PRO-000.',
  'scheme-taken': 'Another document type is numbered like this already.',
  'last-administrator': 'Somebody has to stay an administrator.',
  'invitation-over': 'This link has been used or is out of date. Ask for a new one.',
  'email-carries-it':
    'A link for a new password goes to their own email address. They can ask for it where they sign in.',
  'wrong-password': 'The current password is not right.',
  'weak-password': 'A password needs at least 12 characters.',
  'set-up-over': 'This installation already has its first administrator.',
  'wrong-code': 'That is not the code on the console.',
  'draft-moved': 'This draft was changed in another window meanwhile. Please look at it again.',
  'no-draft': 'There is nothing to submit yet.',
  'draft-empty': 'The text is still empty.',
  'no-such-document': 'This draft has no such document.',
  'file-unknown': 'That file is not here; please send it again.',
  'amend-margin':
    'Documents of this type get a line in their margin when they are submitted. Submit a new version instead.',
  'file-not-pdf': 'Only a PDF can be read, decided on and signed. Other files can be attachments.',
  'file-not-signable': 'This file cannot take fields: {why}',
  'fields-unfit': 'A field lies outside its page, overlaps another or belongs to nobody who signs.',
  'values-unfit': 'Something is missing, or does not fit its field.',
  'letters-unset':
    'The text or the title holds {letter}, which cannot be printed on a page yet. Please write it another way.',
  'letter-unset': 'No font here can show {letter}, so it cannot be signed. Please write it another way.',
  'link-unknown': 'This link is not valid. Please check that it was copied whole.',
  'link-elsewhere': 'This page opens only where the link was first opened. Open the link in your email on this device.',
  'link-delegated': 'You delegated this to {to}, so there is nothing more for you to do here.',
  'link-moved': 'This was given to somebody else, so there is nothing more to do here.',
  'link-stale': 'This link is out of date. You can ask for a new one.',
  'comment-closed': 'You are not asked about this now, so nothing can be said on it here.',
  'nothing-held': 'There is nothing here that can be reassigned to that person.',
  'nothing-to-do': 'There is nothing to do here: nobody is asked to whom this applies.',
  'nobody-late': 'Nobody is late who has not just been reminded.',
  'moved-on': 'Something has happened meanwhile. Please look again and repeat it.',
  'not-withdrawn': 'Only a withdrawn circulation can be started afresh.',
} as const;

export type RefusedCode = keyof typeof refusedSentences;

export function refuse(code: RefusedCode, facts: Refused['facts'] = {}): never {
  const sentence = refusedSentences[code].replace(/\{(\w+)\}/g, (_, name: string) => String(facts[name] ?? ''));
  throw new Refused(code, sentence, facts);
}
