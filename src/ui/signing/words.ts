import type { Outcome } from '@/core/circulation/events';
import type { PlaceKind } from '@/core/page/places';
import type { Verb } from '@/core/route/route';

/** Words of reading, deciding, places and the Signing page. People outside meet only everyday verbs. */
export const placeWords: { readonly [K in PlaceKind]: string } = {
  signature: 'Signature',
  initials: 'Initials',
  name: 'Name',
  date: 'Date',
  words: 'Words',
  choice: 'Tick box',
};

export const signingWords = {
  asks: {
    contribute: 'contribute',
    review: 'review',
    approve: 'approve',
    sign: 'sign',
    read: 'read and confirm',
  } satisfies { readonly [V in Verb]: string },
  asksYou: (name: string, organization: string, verb: Verb) =>
    `${name}, ${organization}, asks you to ${signingWords.asks[verb]}`,
  who: 'Who is this?',
  whoMore: (name: string, work: string, email: string, organization: string) =>
    `${name}${work ? `, ${work},` : ''} at ${organization} sent you this. To be sure that it is genuine, write to ${email} or call the number you know.`,
  close: 'Close',
  attachments: 'With it',
  due: (when: string) => `Please by ${when}`,
  wasDue: (when: string) => `Was due ${when}`,
  progress: (done: number, of: number, verb: Verb) =>
    of < 2 ? '' : `${done} of ${of} ${verb === 'sign' ? 'have signed' : 'have answered'}`,
  remaining: (n: number) => (n === 0 ? 'Everything is filled in' : n === 1 ? '1 place remains' : `${n} places remain`),
  start: (n: number) => (n === 1 ? 'Go to your place' : `Go to your ${n} places`),
  next: 'Next place',
  yourPlace: (kind: PlaceKind) => `Your ${placeWords[kind].toLowerCase()}`,
  draw: 'Draw',
  type: 'Type',
  drawAgain: 'Draw again',
  use: 'Use this signature',
  useInitials: 'Use these initials',
  typeName: 'Type your name',
  typedOther: (name: string) => `This was sent to ${name}. Is that the name you sign with?`,
  fill: 'Use this',
  clear: 'Change it',
  sign: 'Sign',
  signIt: 'Sign it',
  signWhat: (title: string) =>
    `You sign “${title}”. Your signature and what you filled in are put into the file, with the time and the address you sign from. This cannot be undone.`,
  meaning: 'What does signing mean?',
  meaningMore:
    'You put your name to this document as a simple electronic signature. The file as you see it, what you filled in, the time and how you were reached are kept together. If you do not agree with the text, decline and say why.',
  consent: 'I have read the document and want to sign it electronically.',
  notNow: 'Not now',
  putOff: 'Nothing is lost. Open the same link again when you are ready.',
  back: 'Back to the document',
  decline: 'Decline …',
  declineWhat: 'Whoever sent it is told, with your reason.',
  return: 'Return it …',
  returnWhat: 'It goes back for rework at once, with your reason; everybody else is asked again as far as needed.',
  reason: 'Why?',
  remark: 'A word with your decision (may stay empty)',
  doDecline: 'Decline',
  doReturn: 'Return for rework',
  leave: 'Leave it',
  outcomes: {
    done: 'Finish the review',
    approved: 'Approve',
    approvedWithRemarks: 'Approve with remarks',
    confirmed: 'Confirm that I have read it',
    signed: 'Sign',
    returned: 'Return',
    declined: 'Decline',
  } satisfies { readonly [O in Outcome]: string },
  contributeDone: 'I am done with my part',
  remarkHere: 'Make a remark',
  remarkHelp: 'Press on a spot of a page to remark on it.',
  stale: (n: number) =>
    `Version ${n} has been handed in meanwhile. What you have open is no longer current, and nothing can be decided on it.`,
  staleGo: 'Open the newest version',
  handOver: 'Hand over …',
  handOverWho: 'Who takes it over?',
  handOverWhat: 'They are asked in your place. You are told no more about it.',
  handOverDo: (name: string) => `Hand over to ${name}`,
  handOverWords: 'A word to them (may stay empty)',
  notYours: 'This is not yours to act on now.',
  toCirculation: 'The circulation',
  version: (n: number) => `version ${n}`,
  readOnly: 'You are reading. Nothing is asked of you here.',
  fromBefore: (n: number) => `Version ${n}, not the newest`,
  versionLabel: 'Version',
  receipt: {
    signed: 'You have signed this.',
    declined: 'You have declined this.',
    done: 'You have answered this.',
    missed: 'The time to act on this has closed.',
    withdrawn: 'This was withdrawn. There is nothing more for you to do.',
    rework: 'This is being reworked. You are told when there is something to do again.',
    notNeeded: 'Your answer is no longer needed. There is nothing more for you to do.',
    waiting: 'This is not asked of you yet.',
    at: (when: string) => `on ${when}`,
    copyLater:
      'Your copy will be here when everybody has acted and it is released. Keep this link; you are also told by mail.',
    copy: 'Fetch your copy',
    copyUntil: (when: string) => `It can be fetched here until ${when}.`,
    copyOver: 'The time to fetch your copy here is over.',
    ask: 'Ask for a new link',
    asked: 'Your wish was passed on.',
    progress: (done: number, of: number) => `${done} of ${of} have acted so far.`,
  },
  moved: 'This seat went to somebody else.',
  movedMore:
    'There is nothing more for you to do. If you think that this is a mistake, write to the person who sent you the link.',
  unknown: 'This link does not open anything.',
  unknownMore: 'Please check that it was copied whole, or ask the person who sent it for a new one.',
  offlineKept: 'What you filled in is kept on this device until you sign.',
} as const;

export const placesWords = {
  title: (title: string) => `Places: ${title}`,
  below: 'Where each person signs and what they fill in. Press on the page to put a place for the chosen person.',
  for: 'For',
  kind: 'Kind',
  add: 'Put on this page',
  list: 'Places so far',
  none: 'No place yet.',
  needed: 'must be filled in',
  label: 'Label (may stay empty)',
  remove: 'Take away',
  repeat: (name: string) => `Repeat for ${name}`,
  onPage: (n: number) => `page ${n}`,
  done: 'Done, keep these places',
  doneMore: (n: number) =>
    n === 0
      ? 'Everybody who signs has a place.'
      : n === 1
        ? '1 person who signs has no place yet.'
        : `${n} people who sign have no place yet.`,
  opens: 'Keeping them opens signing; the pages are frozen then.',
  frozen: 'The pages are frozen because signing has begun. Places stay as they are.',
  saved: 'kept',
  before: 'These places were put on an earlier version; look at each before you keep them.',
  nobody: 'Nobody signs on this route.',
  noVersion: 'There are no pages yet; the draft has not been handed in.',
  faults: {
    'off-page': 'lies outside its page',
    'too-small': 'is too small to fill in',
    nobody: 'belongs to nobody who signs',
    overlap: 'overlaps another',
  },
  move: 'Arrow keys move it, with Shift they size it',
  missingTile: 'no place yet',
} as const;
