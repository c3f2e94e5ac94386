import type { IcsFault } from '@/core/formats/ics';
import type { LineFault, TableKind } from '@/core/people/table';
import type { Rule } from '@/server/organization/rules';

/** Words of the organization: units, groups, roles, calendars, rules, and tables that bring them in. */
export const organizationWords = {
  title: 'Organization',
  parts: {
    units: 'Units',
    groups: 'Groups',
    roles: 'Roles',
    calendars: 'Calendars',
    rules: 'Rules',
    import: 'Import',
  },
  part: 'What is arranged',
  readOnly: 'An administrator arranges these.',
  find: 'Filter by name',
  name: 'Name',
  save: 'Save',
  cancel: 'Cancel',
  saved: (name: string) => `${name} saved.`,
  removed: (name: string) => `${name} removed.`,
  removeDo: (name: string) => `Remove ${name} …`,
  removeSure: 'Remove now',
  empty: { units: 'No units yet', groups: 'No groups yet', roles: 'No roles yet', calendars: 'No calendars yet' },
  emptyMore: {
    units: 'A unit has a lead and a deputy. Routes can ask the lead of the author’s unit.',
    groups: 'Routes can ask any one member of a group, or every member.',
    roles: 'Routes can name a role instead of a person; whoever fills it when the circulation is sent is asked.',
    calendars:
      'Working days and hours are counted by a calendar. Until there is one, Monday to Friday, 07:30 to 16:00.',
  },
  add: { units: 'Add a unit', groups: 'Add a group', roles: 'Add a role', calendars: 'Add a calendar' },
  lead: 'Lead',
  deputy: 'Deputy',
  leads: 'Lead, deputy',
  nobody: 'nobody',
  unitPeople: (n: number) => (n === 1 ? 'one person' : `${n} people`),
  unitHas: 'Who belongs to it',
  unitAdd: 'Add somebody',
  unitIn: (name: string) => `${name} belongs to it already.`,
  unitNobody: 'Nobody yet.',
  members: 'Members',
  memberAdd: 'Add a member',
  isMember: (name: string) => `${name} is a member already.`,
  filledBy: 'Filled by',
  usual: 'usual calendar',
  usualTick: 'The usual calendar: dates count by it, and everybody without a calendar of their own keeps its hours',
  hoursMore: 'Such as 07:30-12:00, 12:30-16:00; empty for a day off.',
  hoursBad: 'Write hours such as 07:30-16:00, in order.',
  weekdays: ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'],
  short: ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'],
  holidays: (n: number) => (n === 0 ? 'no holidays' : n === 1 ? 'one holiday' : `${n} holidays`),
  holidaysTitle: 'Holidays',
  holidayName: 'Called',
  holidayDay: 'Day',
  remove: 'Remove',
  icsIn: 'Read from iCalendar …',
  icsOut: 'Save as iCalendar',
  icsFound: (n: number) => (n === 1 ? 'One date was read.' : `${n} dates were read.`),
  icsLeft: (n: number) => (n === 1 ? 'One entry was left out:' : `${n} entries were left out:`),
  icsFaults: {
    'not-icalendar': 'is no iCalendar',
    'too-many': 'is more than can be taken at once',
    'no-date': 'has no date',
    timed: 'has a time of day',
    'rule-too-fine': 'recurs more often than daily',
    'rule-unread': 'recurs by a rule that cannot be read',
    'too-long': 'lasts longer than 60 days',
  } satisfies { readonly [F in IcsFault]: string },
  unnamed: 'An entry',
  rules: {
    authorApproves: {
      name: 'Authors may approve their own documents',
      more: 'Otherwise the author cannot be asked to approve, nobody can delegate or reassign it to them, and a group whose only other members are away cannot pass it to them.',
    },
    leadsSteer: {
      name: 'Leads see and steer the circulations of their unit',
      more: 'The lead and the deputy of the owner’s unit then see every circulation of its documents and can remind, extend, reassign and do whatever else its controller can. The trail always shows who did it.',
    },
    delegatingAgreed: {
      name: 'Delegating needs the controller’s agreement',
      more: 'Stages that are planned from now on ask the controller before a task is passed on. Stages already planned stay as they are.',
    },
    questionsWait: {
      name: 'A due time waits for the answer to a question',
      more: 'Whoever asks something before responding is not late while nobody has answered: the due time is put off by as long, once for each response. Closing times never wait.',
    },
  } satisfies { readonly [R in Rule]: { name: string; more: string } },
  /** What a rule concerns now. */
  reach: {
    authorApproves: (circulations: number) =>
      circulations === 0
        ? 'No circulation is under way.'
        : `It holds for ${circulations === 1 ? 'the circulation' : `the ${circulations} circulations`} under way at once.`,
    leadsSteer: (circulations: number, people: number) =>
      circulations === 0
        ? 'No circulation under way belongs to a unit with a lead.'
        : `Now that is ${circulations === 1 ? 'one circulation' : `${circulations} circulations`}, for ${people === 1 ? 'one person' : `${people} people`}.`,
    delegatingAgreed: (circulations: number) =>
      circulations === 0
        ? 'No route is being planned now.'
        : `${circulations === 1 ? 'One route is' : `${circulations} routes are`} being planned now.`,
    questionsWait: (circulations: number) =>
      circulations === 0
        ? 'No circulation is under way.'
        : `It holds for questions asked from now on in ${circulations === 1 ? 'the circulation' : `the ${circulations} circulations`} under way.`,
  } satisfies { readonly [R in Rule]: (circulations: number, people: number) => string },
  on: 'on',
  off: 'off',
  turnOn: 'Turn on',
  turnOff: 'Turn off',
  ruleChanged: (on: boolean) => (on ? 'Turned on.' : 'Turned off.'),
  tables: {
    people: 'People',
    units: 'Units',
    groups: 'Group members',
  } satisfies { readonly [K in TableKind]: string },
  present: 'Download as it is now',
  tableKind: 'What the table holds',
  tableHelp: {
    people: 'Columns: Name, Email; also Job title, Unit, Calendar, Time zone.',
    units: 'Columns: Unit; also Lead and Deputy, by email address.',
    groups: 'Columns: Group, Member (email address); one line for each member.',
  } satisfies { readonly [K in TableKind]: string },
  chooseFile: 'Choose a CSV file …',
  importMore:
    'Every line is checked first and shown with what it would add or change. Nothing is written until you import it, and then all of it. What is not in the table stays as it is.',
  readAs: (encoding: string) => `Read as ${encoding}.`,
  checked: (add: number, change: number, nothing: number) =>
    [
      add > 0 ? `${add} to add` : '',
      change > 0 ? `${change} to change` : '',
      nothing > 0 ? `${nothing} stay as they are` : '',
    ]
      .filter(Boolean)
      .join(', '),
  faults: (n: number) =>
    n === 1
      ? 'One line cannot be taken. Nothing is written until it is mended.'
      : `${n} lines cannot be taken. Nothing is written until they are mended.`,
  line: (n: number) => `Line ${n}`,
  does: { add: 'add', change: 'change', nothing: 'stays' },
  lineFaults: {
    'name-missing': 'a name of at least two letters is needed',
    'name-long': 'the name is too long',
    'email-unfit': 'this is no email address',
    formula: 'this looks like a formula of a spreadsheet',
    twice: 'this stands in an earlier line already',
    'unknown-unit': 'there is no such unit',
    'unknown-calendar': 'there is no such calendar',
    'unknown-person': 'nobody here has this email address',
    'unknown-zone': 'there is no such time zone',
    'deputy-is-lead': 'the deputy has to be somebody else',
    'outside-here': 'this address belongs to somebody outside',
  } satisfies { readonly [F in LineFault]: string },
  invite: 'Send each new person an invitation',
  importDo: (n: number) => (n === 1 ? 'Write one line' : `Write ${n} lines`),
  imported: (added: number, changed: number) => `${added} added, ${changed} changed.`,
} as const;
