import type { CirculationEventType, HeldFor, Outcome, RoundReason, SeatStatus } from '@/core/circulation/events';
import type { Phase } from '@/core/circulation/state';
import type { FindingCode } from '@/core/route/preflight';

/** Words of circulations: lists, the control view, planning, and the trail in plain words. */
export const phaseWords: { readonly [P in Phase]: string } = {
  new: 'being planned',
  running: 'under way',
  rework: 'in rework',
  sealing: 'final file',
  completed: 'released',
  withdrawn: 'withdrawn',
};

export const outcomeWords: { readonly [O in Outcome]: string } = {
  done: 'done',
  approved: 'approved',
  approvedWithComments: 'approved with comments',
  returned: 'returned',
  declined: 'declined',
  signed: 'signed',
  confirmed: 'confirmed read',
};

export const statusWords: { readonly [S in SeatStatus]: string } = {
  idle: 'not yet asked',
  asked: 'asked',
  suspended: 'suspended for rework',
  decided: 'decided',
  declined: 'declined',
  returned: 'returned',
  missed: 'missed the closing time',
  released: 'not needed',
};

export const findingWords: { readonly [F in FindingCode]: string } = {
  'duplicate-id': 'The same stage stands twice on the route.',
  'rule-out-of-reach': 'This stage asks for more people than are in it.',
  'too-few-branches': 'A fork needs at least two branches.',
  'empty-branch': 'A branch of this fork is still empty.',
  'sign-under-partial-join': 'Signing cannot stand in a branch that others can overtake. Put it after the join.',
  'closes-before-due': 'This stage closes before it is due.',
  'too-large': 'This route is larger than one circulation can carry.',
  'no-stage': 'The route is still empty.',
  nobody: 'Nobody is in this stage.',
  'author-decides': 'The author would approve their own text.',
  'twice-in-stage': 'Somebody stands in this stage twice.',
  'field-missing': 'has no field to sign yet. Signing waits until you put one.',
  'due-past': 'This stage is due in the past.',
  'closes-past': 'This stage closes in the past.',
  'no-version': 'No draft has been submitted yet.',
};

export const roundWords: { readonly [R in RoundReason]: string } = {
  unchanged: 'decided on exactly this file',
  changed: 'the file has changed since',
  returned: 'returned it',
  declined: 'declined',
  open: 'was being asked',
  missed: 'missed the time',
  released: 'was no longer needed',
  given: 'was reassigned since',
  notAskedBefore: 'was not asked before',
};

/** Each event in plain words; the names and words it needs are given. */
export function eventWords(
  type: CirculationEventType,
  facts: {
    who: string;
    seat: string;
    to: string;
    verb: string;
    outcome: string;
    version: string;
    round: string;
    /** The new due time, where one was given. */
    due: string;
    /** What a stage that was held waits for. */
    held: string;
    onBehalfOf: string | null;
  },
): string {
  const behalf = facts.onBehalfOf ? ` for ${facts.onBehalfOf}` : '';
  switch (type) {
    case 'circulation.created':
      return `${facts.who} began this circulation`;
    case 'route.planned':
      return `${facts.who} planned the route`;
    case 'fields.put':
      return `${facts.who} put the fields on the pages`;
    case 'version.attached':
      return `${facts.who} submitted version ${facts.version}`;
    case 'circulation.sent':
      return `${facts.who} sent version ${facts.version} on its way`;
    case 'stage.opened':
      return `${facts.verb} was reached`;
    case 'stage.held':
      return `${facts.verb} was reached, and waits ${facts.held}`;
    case 'stage.timed':
      return `${facts.who} set a new time for ${facts.verb}`;
    case 'stage.healed':
      return `${facts.verb} can be completed again`;
    case 'file.frozen':
      return 'The pages were frozen for signing';
    case 'seat.asked':
      return `${facts.seat} was asked`;
    case 'seat.seen':
      return `${facts.who} opened the version`;
    case 'seat.decided':
      return `${facts.who}${behalf} decided: ${facts.outcome}`;
    case 'seat.missed':
      return `The time of ${facts.seat} closed`;
    case 'seat.released':
      return `${facts.seat} was no longer needed`;
    case 'stage.stuck':
      return `The rule of ${facts.verb} can no longer be met`;
    case 'stage.closed':
      return `${facts.verb} is done`;
    case 'stage.released':
      return `${facts.verb} was no longer needed`;
    case 'rework.began':
      return 'Rework began; nobody decides until the next round';
    case 'round.begun':
      return `${facts.who} began round ${facts.round}`;
    case 'seat.extended':
      return `${facts.who} extended the time of ${facts.seat}${facts.due ? `, now due ${facts.due}` : ''}`;
    case 'seat.reminded':
      return `${facts.who} reminded ${facts.seat}`;
    case 'seat.delegated':
      return `${facts.who} handed over to ${facts.to}`;
    case 'seat.reassigned':
      return `${facts.who} gave the seat of ${facts.seat} to ${facts.to}`;
    case 'secondHolder.added':
      return `${facts.who} added ${facts.to} beside ${facts.seat}`;
    case 'secondHolder.dropped':
      return `${facts.who} took ${facts.to} from beside ${facts.seat}`;
    case 'comment.made':
      return `${facts.who} made a comment`;
    case 'comment.resolved':
      return `${facts.who} settled a comment`;
    case 'sealing.began':
      return 'Everybody has acted; the final file is made';
    case 'finals.kept':
      return 'The final files were stored';
    case 'seat.passed':
      return `${facts.who} went on without ${facts.seat}`;
    case 'seat.askedAgain':
      return `${facts.who} asked ${facts.seat} again`;
    case 'link.copied':
      return `${facts.who} copied the link of ${facts.seat}`;
    case 'circulation.withdrawn':
      return `${facts.who} withdrew the circulation`;
    case 'circulation.completed':
      return `${facts.who} released it`;
  }
}

/** What a stage that was reached waits for. */
export const heldWords: { readonly [H in HeldFor]: string } = {
  fields: 'waits for fields',
  freezing: 'being frozen',
  time: 'waits for a new time',
};

export const circulationWords = {
  listTitle: 'Circulations',
  states: { live: 'Under way', ended: 'Ended', all: 'All' },
  columns: {
    number: 'number',
    document: 'document',
    title: 'title',
    where: 'where it is',
    seats: 'decided',
    controller: 'controller',
    moved: 'last moved',
  },
  groups: { stopped: 'Stopped', late: 'Late', today: 'Due today', underWay: 'Under way', ended: 'Ended' },
  decided: (done: number, of: number) => (of === 0 ? '–' : `${done} of ${of}`),
  empty: 'No circulation here',
  emptyMore: 'A circulation begins with a change of a document, or with a file sent round from the Desk.',
  find: 'Filter by number, title or person',
  stateLabel: 'Which circulations',
  open: 'Open the circulation',
  revision: (revision: string) => `revision ${revision}`,
  version: (n: number) => `version ${n}`,
  round: (n: number) => `round ${n}`,
  draftOf: (name: string) => `${name}’s draft`,
  seatColumns: { seat: 'seat', state: 'state', asked: 'asked', due: 'due', reminded: 'reminded' },
  seen: 'seen',
  notSeen: 'not seen',
  late: 'late',
  keptFrom: (round: number) => `kept from round ${round}`,
  withCo: (names: string) => `or ${names}`,
  none: '–',
  dueAt: (when: string) => `due ${when}`,
  askedAt: (when: string) => `asked ${when}`,
  moreAsked: (n: number) => `and ${n} more`,
  now: {
    new: 'Being planned. Nobody has been asked yet.',
    runningAll: (open: number, late: number) =>
      `${open} ${open === 1 ? 'person is' : 'people are'} asked${late > 0 ? `, ${late} late` : ''}.`,
    stopped: 'It has stopped and waits for you. Nobody who has acted has to act again.',
    stoppedOther: (name: string) => `It has stopped and waits for ${name}.`,
    held: 'It has reached its signatures. Somebody who signs has no field yet.',
    rework: (name: string) => `Returned for rework. It waits for ${name}’s next version.`,
    reworkIn: 'A new version is in. Nobody is asked before the next round is confirmed.',
    sealing: 'Everybody has acted. The final file is being made.',
    ready: 'Everybody has acted and the final file is stored. It can be released.',
    completed: (revision: string, day: string) => `Released as revision ${revision}, ${day}.`,
    withdrawn: (day: string) => `Withdrawn ${day}. It stays on record.`,
    freezing: 'The pages are being frozen for signing.',
    time: 'A stage was reached after its closing time. It waits for a new time.',
  },
  due: {
    plan: 'Plan the route',
    send: 'Look and send',
    fields: 'Put fields',
    give: (name: string) => `Reassign ${name}’s part …`,
    times: (verb: string) => `Set a new time for ${verb}`,
    extendSeat: (name: string) => `Extend ${name}’s time`,
    round: 'Look at the next round',
    release: (revision: string) => `Release revision ${revision}`,
    remind: (name: string) => `Remind ${name}`,
    act: {
      contribute: 'Contribute',
      review: 'Read and review',
      approve: 'Read and decide',
      sign: 'Read and sign',
      read: 'Read and confirm',
    },
    draft: 'Open the draft',
    afresh: 'Start afresh from it',
    released: 'See it in the Register',
  },
  trouble: {
    gone: (name: string) => `${name} has left and cannot act any more. Please give their seat to somebody else.`,
    mail: (name: string, when: string) => `A message to ${name} could not be delivered yet. It is tried again ${when}.`,
    mailOver: (name: string) =>
      `A message to ${name} could not be delivered and is not tried again. Please reach them another way.`,
    final: (when: string) => `The final file could not be made yet. It is tried again ${when}.`,
    more: (n: number) => `And ${n} more like these.`,
  },
  read: 'Read the draft',
  withdraw: 'Withdraw …',
  withdrawTitle: 'Withdraw this circulation',
  withdrawWhat: (n: number) =>
    n === 0
      ? 'Nobody has been asked yet. It stays on record.'
      : `${n} ${n === 1 ? 'person who was asked is' : 'people who were asked are'} told, with your reason. It stays on record, and a fresh circulation can start from it. This cannot be undone.`,
  withdrawReason: 'Why?',
  withdrawDo: 'Withdraw it',
  leave: 'Leave it as it is',
  timesDo: 'Set the time and ask',
  releaseTitle: (revision: string, number: string) => `Release revision ${revision} of ${number}`,
  releaseWhat: (copies: number, before: string | null) =>
    `It becomes the current revision in the Register${before ? ` and revision ${before} is superseded` : ''}. ${copies} ${copies === 1 ? 'person gets' : 'people get'} a message; those outside get their copy behind their link. This cannot be undone.`,
  releaseDo: 'Release it',
  lookFinal: 'Look at the final file',
  openComments: (n: number) => `${n} ${n === 1 ? 'comment is' : 'comments are'} still open.`,
  overrule: 'Go on without a new version',
  seat: {
    remind: 'Remind',
    reminded: 'Reminded.',
    extend: 'Give more time',
    newDue: 'New due time',
    newCloses: 'Closes (may stay open)',
    extendDo: 'Extend',
    give: 'Give to somebody else',
    giveTo: 'Who takes the seat?',
    giveWords: 'A word to them (may stay empty)',
    giveDo: (name: string) => `Give the seat to ${name}`,
    giveWhat: (former: string) => `${former} is told and loses access at once. What others decided stays.`,
    second: 'Add a second holder',
    secondWho: 'Who may act as well?',
    drop: (name: string) => `Take ${name} from this seat`,
    copyLink: 'Copy their link',
    copied: 'The link is copied.',
    held: (name: string) => `held by ${name}`,
    pass: (name: string) => `Go on without ${name}`,
    askAgain: 'Ask again',
    askAgainDo: 'Ask again',
    outside: 'outside, by a link of their own',
    choose: 'Choose somebody',
  },
  roundTitle: (n: number) => `Round ${n}: who is kept, who is asked again`,
  roundSame: 'No new version: the return is overruled and the same file goes on.',
  roundNew: (n: number) =>
    `Version ${n} is compared with what each person decided on. Here a seat concerns the whole file.`,
  roundChoices: { keep: 'keep', ask: 'ask again', leave: 'leave as declined' },
  roundChanged: 'Something has changed since this list was opened.',
  roundLook: 'See the list as it is now',
  roundSignature: 'a signature covers every byte',
  roundTimes: 'When the stages of this round are due',
  roundDo: (asked: number) =>
    asked === 0
      ? 'Begin the round; nobody is asked again'
      : `Begin the round; ${asked} ${asked === 1 ? 'person is' : 'people are'} asked again`,
  roundLater: (names: string) => `Then, when their stage is reached: ${names}.`,
  tray: {
    trail: 'Trail',
    files: 'Files',
    comments: 'Comments',
    label: 'Trail, files and comments',
    openOf: (all: number, open: number) => (all === 0 ? 'none' : `${all}, ${open} open`),
  },
  onPage: (n: number) => `page ${n}`,
  settle: 'Settle it',
  settled: 'settled',
  answer: 'Answer',
  final: 'final file',
  evidence: 'Evidence',
  evidenceNote: 'who decided what, and when',
  main: 'to be read',
  attachment: 'attachment',
  number: (number: string) => `Checked with: npm run trail -- ${number}`,
  plan: {
    title: (number: string) => `Plan ${number}`,
    sendTo: (n: number) => (n === 1 ? 'Send to 1 person …' : `Send to ${n} people …`),
    sendTitle: 'This goes out now',
    sendDo: (n: number) => (n === 1 ? 'Send it to 1 person' : `Send it to ${n} people`),
    sendAlso:
      'The others are asked when their stage is reached. Sending cannot be undone; it can be amended and withdrawn.',
    noVersion: 'It can be sent when the draft is in.',
    waitsFor: (name: string) => `It waits for ${name}’s draft; the route can be planned meanwhile.`,
    add: 'Add a stage',
    addAfter: (verb: string) => `Add a stage after ${verb}`,
    verb: 'What they do',
    order: 'In which order',
    together: 'together',
    oneByOne: 'one after another',
    rule: 'Enough when',
    all: 'all have',
    any: 'any one has',
    atLeast: 'at least so many have',
    atLeastN: 'How many',
    due: 'Due',
    closes: 'Closes',
    people: 'People',
    addPerson: 'Add a person to this stage',
    earlier: 'Earlier',
    later: 'Later',
    remove: 'Take out',
    removeStage: 'Take the stage out',
    personEarlier: (name: string) => `${name} earlier`,
    personLater: (name: string) => `${name} later`,
    words: 'Your words to everybody you ask',
    onDecline: 'If somebody declines',
    stop: 'you decide',
    count: 'it only counts',
    delegate: 'May hand over to somebody else',
    checks: 'Before sending',
    fine: 'Nothing stands in the way.',
    stops: 'must be mended',
    warns: 'worth a look',
    when: 'Who gets it when',
    first: 'at once',
    after: (verb: string) => `after ${verb.toLowerCase()}`,
    saved: 'everything is saved',
    undo: 'Undo',
    saving: 'saving …',
    notSaved: 'not saved',
    putFields: 'Put fields',
    stageOf: (verb: string, n: number) => `${verb}, stage ${n}`,
    empty: 'Who should do what with it?',
    emptyMore: 'Begin with a first stage: people who review, approve, sign or read.',
  },
} as const;
