import { responseOf } from '@/core/circulation/telling/sentences';
import type { Outcome, Verb } from '@/core/route/verbs';
import type { MailTemplate } from '../jobs/queue';

/** What a message is made of; all of it looked up when the message leaves. */
export interface MailFacts {
  readonly to: string;
  readonly organization: string;
  readonly sender: string;
  readonly senderEmail: string;
  readonly number: string;
  readonly title: string;
  readonly verb: Verb | null;
  readonly due: string | null;
  /** From when they may respond, where they have to wait; `opened` while that counts from their opening it. */
  readonly from: string | 'opened' | null;
  /** The sender's words to all, or the reason given. */
  readonly note: string | null;
  /** Who did what the message is about. */
  readonly by: string;
  /** For whom somebody is asked who covers. */
  readonly behalf: string | null;
  /** Somebody's absence that it tells of: from when to when, whether anybody covers, and how many tasks that is now. */
  readonly away: {
    readonly name: string;
    readonly from: string;
    readonly to: string;
    readonly tasks: number;
    readonly covered: boolean;
  } | null;
  /** What somebody responded. */
  readonly outcome: Outcome | null;
  readonly address: string;
  readonly outside: boolean;
}

export interface Message {
  readonly subject: string;
  readonly lines: readonly string[];
  readonly button: string | null;
  /** Several things in one message, each with where it leads. */
  readonly items?: readonly { readonly text: string; readonly address: string }[];
}

const asks: { readonly [V in Verb]: { readonly to: string; readonly button: string } } = {
  contribute: { to: 'contribute to', button: 'Open and contribute' },
  review: { to: 'review', button: 'Read and review' },
  approve: { to: 'approve', button: 'Read and decide' },
  sign: { to: 'sign', button: 'Read and sign' },
  read: { to: 'read and confirm', button: 'Read and confirm' },
};

/** What a stage is called by what is done in it. */
const stageNames: { readonly [V in Verb]: string } = {
  contribute: 'Contributing to',
  review: 'The review',
  approve: 'The approval',
  sign: 'The signing',
  read: 'The confirming',
};

/** What texts have in common, said of one message. */
interface Words extends Omit<MailFacts, 'away'> {
  /** The document by title and number. */
  readonly name: string;
  readonly away: NonNullable<MailFacts['away']>;
  readonly ask: { readonly to: string; readonly button: string };
  /** For whom, from when and by when they are asked; and to whom somebody outside can turn. */
  readonly when: readonly string[];
  readonly genuine: readonly string[];
}

function wordsOf(facts: MailFacts): Words {
  const early =
    facts.from === 'opened'
      ? ['You can read it at once. The time to think it over begins when you open it; you can respond after that.']
      : facts.from === null
        ? []
        : [`You can read it at once, and respond from ${facts.from}.`];
  const covering = facts.behalf === null ? [] : [`You are asked because you cover for ${facts.behalf}.`];
  return {
    ...facts,
    name: `“${facts.title}” (${facts.number})`,
    away: facts.away ?? { name: '', from: '', to: '', tasks: 0, covered: false },
    ask: facts.verb ? asks[facts.verb] : { to: 'respond to', button: 'Open' },
    when: [...covering, ...early, ...(facts.due ? [`Please do so by ${facts.due}.`] : [])],
    genuine: facts.outside
      ? [
          `If you doubt that this message is genuine, ask ${facts.sender} at ${facts.senderEmail}. You need no account; the link is yours alone, so please do not pass it on.`,
        ]
      : [],
  };
}

/** The text of each message, in one place. Says what is asked, by when, and what one click does. */
export function messageFor(template: MailTemplate, facts: MailFacts): Message {
  return texts[template](wordsOf(facts));
}

const texts: { readonly [T in MailTemplate]: (words: Words) => Message } = {
  asked: ({ ask, title, sender, organization, name, when, genuine }) => ({
    subject: `Please ${ask.to} ${title}`,
    lines: [`${sender} of ${organization} asks you to ${ask.to} ${name}.`, ...when, ...genuine],
    button: ask.button,
  }),
  reminded: ({ ask, title, sender, name, when, genuine }) => ({
    subject: `A reminder: please ${ask.to} ${title}`,
    lines: [`${sender} reminds you that ${name} still waits for you to ${ask.to} it.`, ...when, ...genuine],
    button: ask.button,
  }),
  extended: ({ ask, title, sender, name, when, genuine }) => ({
    subject: `A new time to ${ask.to} ${title}`,
    lines: [`${sender} has changed the time by which you are asked to ${ask.to} ${name}.`, ...when, ...genuine],
    button: ask.button,
  }),
  write: ({ title, sender, name }) => ({
    subject: `Please write ${title}`,
    lines: [`${sender} has started a change of ${name} and names you as its author.`],
    button: 'Write the draft',
  }),
  returned: ({ title, by, name }) => ({
    subject: `Returned for rework: ${title}`,
    lines: [`${by} has returned ${name} for rework.`],
    button: 'Open the draft',
  }),
  declined: ({ title, by, name }) => ({
    subject: `Declined: ${title}`,
    lines: [`${by} has declined ${name}. The circulation waits for you; nobody else has to respond again.`],
    button: 'Decide how it goes on',
  }),
  missed: ({ title, by, name }) => ({
    subject: `Time missed: ${title}`,
    lines: [`The time for ${by} to respond to ${name} has closed. You can extend it or reassign it.`],
    button: 'Decide how it goes on',
  }),
  fieldsWanted: ({ title, name }) => ({
    subject: `Fields wanted: ${title}`,
    lines: [`${name} has reached its signatures, but somebody has no field to sign yet.`],
    button: 'Put fields',
  }),
  timeWanted: ({ title, name }) => ({
    subject: `A new time is needed: ${title}`,
    lines: [`${name} has reached a stage whose closing time has passed, so nobody was asked. Give it a new time.`],
    button: 'Set a new time',
  }),
  versionIn: ({ title, by, name }) => ({
    subject: `A new version of ${title}`,
    lines: [`${by} has submitted the next version of ${name}. Please confirm who is kept and who is asked again.`],
    button: 'Look at the next round',
  }),
  seatMoved: ({ title, sender, name }) => ({
    subject: `No longer needed from you: ${title}`,
    lines: [`${sender} has reassigned your part in ${name}. There is nothing more for you to do.`],
    button: null,
  }),
  withdrawn: ({ title, sender, name }) => ({
    subject: `Withdrawn: ${title}`,
    lines: [`${sender} has withdrawn ${name}. There is nothing more for you to do.`],
    button: null,
  }),
  readyForRelease: ({ title, name }) => ({
    subject: `Ready for release: ${title}`,
    lines: [`All responses to ${name} are in; the final files are ready.`],
    button: 'Release it',
  }),
  released: ({ outside, title, name }) =>
    outside
      ? {
          subject: `Your copy of ${title}`,
          lines: [`${name} is complete and released. Your copy waits behind the link for 30 days; please keep it.`],
          button: 'Fetch your copy',
        }
      : {
          subject: `Released: ${title}`,
          lines: [`${name} has been released. The current revision stands in the Register.`],
          button: 'Open it',
        },
  invitation: ({ organization }) => ({
    subject: `Your account at ${organization}`,
    lines: [
      `You have been added to Avenda at ${organization}. The link below lets you choose a password; it holds for seven days.`,
    ],
    button: 'Choose a password',
  }),
  password: ({ organization }) => ({
    subject: `A new password at ${organization}`,
    lines: [
      `Somebody, probably you, has asked for a new password for your account at ${organization}. The link below lets you choose one; it holds for one hour. If it was not you, do nothing: your password stays as it is.`,
    ],
    button: 'Choose a new password',
  }),
  mayRespond: ({ title, ask, name, when }) => ({
    subject: `You can respond now: ${title}`,
    lines: [`The time to wait is over. You can now ${ask.to} ${name}.`, ...when],
    button: ask.button,
  }),
  delegated: ({ title, by, name }) => ({
    subject: `Delegated: ${title}`,
    lines: [`${by} has delegated their part in ${name}. The circulation’s page shows who has it now.`],
    button: 'Open the circulation',
  }),
  delegationAsked: ({ title, by, name }) => ({
    subject: `May they delegate: ${title}`,
    lines: [`${by} asks to delegate their part in ${name}. It happens only if you agree.`],
    button: 'Agree or not',
  }),
  delegationRefused: ({ title, sender, name }) => ({
    subject: `Not delegated: ${title}`,
    lines: [`${sender} has not agreed that you delegate your part in ${name}. It is still with you.`],
    button: 'Open it',
  }),
  copy: ({ title, sender, name }) => ({
    subject: `A copy for you: ${title}`,
    lines: [`${sender} gives you a copy of ${name} as it stands now. Nothing is asked of you.`],
    button: 'Open the copy',
  }),
  crowd: ({ title, name }) => ({
    subject: `Too many people: ${title}`,
    lines: [`A group in ${name} has more members than one circulation can ask. Reassign it to fewer people.`],
    button: 'Decide how it goes on',
  }),
  paused: ({ title, by, name }) => ({
    subject: `Paused: ${title}`,
    lines: [`${by} has paused the circulation of ${name}. You can read it; you are told when it goes on.`],
    button: 'Open it',
  }),
  wentOn: ({ ask, title, name, when, genuine }) => ({
    subject: `Going on: please ${ask.to} ${title}`,
    lines: [`The circulation of ${name} goes on. You are still asked to ${ask.to} it.`, ...when, ...genuine],
    button: ask.button,
  }),
  question: ({ title, by, name }) => ({
    subject: `A question about ${title}`,
    lines: [`${by} asks something about ${name} before responding.`],
    button: 'Answer it',
  }),
  answered: ({ title, by, name, when, genuine, ask }) => ({
    subject: `Your question about ${title} is answered`,
    lines: [`${by} has answered your question about ${name}.`, ...when, ...genuine],
    button: ask.button,
  }),
  amended: ({ title, by, name, ask, when, genuine }) => ({
    subject: `Changed: ${title}`,
    lines: [
      `${by} has changed the circulation of ${name} while it is under way. You are still asked to ${ask.to} it; please look at what it is now.`,
      ...when,
      ...genuine,
    ],
    button: ask.button,
  }),
  controlHanded: ({ title, by, name }) => ({
    subject: `You control ${title} now`,
    lines: [`${by} has handed you the control of the circulation of ${name}.`],
    button: 'Open the circulation',
  }),
  closedWhole: ({ title, name }) => ({
    subject: `Closed: ${title}`,
    lines: [`The closing time of ${name} as a whole has passed. Nobody can respond until you extend it.`],
    button: 'Decide how it goes on',
  }),
  nobodyAsked: ({ title, name }) => ({
    subject: `Nobody is asked: ${title}`,
    lines: [
      `With the values as they are, every stage of ${name} was skipped. It waits for a new version or other values.`,
    ],
    button: 'Decide how it goes on',
  }),
  awaySet: ({ away, by }) => ({
    subject: `You are set as away from ${away.from}`,
    lines: [
      `${by} has set that you are away from ${away.from} to ${away.to}${away.covered ? ', and who covers for you' : '; nobody covers for you'}. You can change it on your own page.`,
    ],
    button: 'Look at it',
  }),
  awayEnded: ({ by }) => ({
    subject: 'You are no longer set as away',
    lines: [`${by} has ended the absence that was set for you. You can set another on your own page.`],
    button: 'Look at it',
  }),
  coverSet: ({ away }) => ({
    subject: `You cover for ${away.name} from ${away.from}`,
    lines: [
      `${away.name} is away from ${away.from} to ${away.to}. Tasks for which you cover come to your Desk in that time; whatever you respond is recorded as yours, on behalf of ${away.name}.`,
    ],
    button: 'Open your Desk',
  }),
  coverBegins: ({ away }) => ({
    subject: `You cover for ${away.name} now`,
    lines: [
      `${away.name} is away until ${away.to}. ${away.tasks === 0 ? 'Nothing of theirs waits for you at the moment' : away.tasks === 1 ? 'One task of theirs waits for you' : `${away.tasks} tasks of theirs wait for you`}; whatever you respond is recorded as yours, on behalf of ${away.name}.`,
    ],
    button: 'Open your Desk',
  }),
  coverEnded: ({ away, by }) => ({
    subject: `You no longer cover for ${away.name}`,
    lines: [`${by} has ended the cover, so tasks for ${away.name} no longer come to you.`],
    button: null,
  }),
  coverLost: ({ by, away }) => ({
    subject: `${by} can no longer cover for you`,
    lines: [
      `${by} no longer works here, and was to cover for you while you are away from ${away.from} to ${away.to}. Name somebody else on your own page.`,
    ],
    button: 'Name somebody else',
  }),
  late: ({ title, by, name, due }) => ({
    subject: `Late: ${title}`,
    lines: [`${by} has not responded to ${name}${due ? `, which was due ${due}` : ''}.`],
    button: 'Open the circulation',
  }),
  opened: ({ title, by, name }) => ({
    subject: `Opened: ${title}`,
    lines: [`${by} has opened ${name}.`],
    button: 'Open the circulation',
  }),
  responded: ({ title, by, outcome, verb, name }) => ({
    subject: `A response to ${title}`,
    lines: [`${by} ${outcome ? responseOf(outcome, verb) : 'responded'}: ${name}.`],
    button: 'Open the circulation',
  }),
  stageDone: ({ title, verb, name }) => ({
    subject: `A stage is complete: ${title}`,
    lines: [`${verb ? stageNames[verb] : 'A stage'} of ${name} is complete.`],
    button: 'Open the circulation',
  }),
  digest: () => digestMessage([]),
  newLinkWanted: ({ title, by, name }) => ({
    subject: `A new link is wanted: ${title}`,
    lines: [`${by} asks for a new link to ${name}. You can copy one on the circulation’s page, or extend their time.`],
    button: 'Open the circulation',
  }),
};

/** All that somebody wants to be told once a day, in one message. */
export function digestMessage(items: NonNullable<Message['items']>): Message {
  return {
    subject: items.length === 1 ? 'One thing has happened' : `${items.length} things have happened`,
    lines: ['Since the last working day:'],
    button: null,
    items,
  };
}

/** What can be told in one message with others, and what one and several of them are called in its subject. */
export const gatheredNames: { readonly [T in MailTemplate]?: { readonly one: string; readonly more: string } } = {
  late: { one: 'one response is late', more: 'responses are late' },
  asked: { one: 'one new task', more: 'new tasks' },
  extended: { one: 'one new time', more: 'new times' },
  reminded: { one: 'a reminder', more: 'reminders' },
};

/** Several new tasks, new times, reminders or silences to one person in one message. */
export function gatheredMessage(
  all: readonly { readonly template: MailTemplate; readonly facts: MailFacts }[],
): Message {
  const items = all.map(({ template, facts }) => {
    const { title, number, due, by, verb } = facts;
    const what = verb ? asks[verb].to : 'respond to';
    const name = `“${title}” (${number})`;
    const until = due ? `, due ${due}` : '';
    const text =
      template === 'late'
        ? `${by} has not responded to ${name}${until}`
        : template === 'extended'
          ? `The time to ${what} ${name} has changed${due ? `: now due ${due}` : ''}`
          : `Please ${what} ${name}${until}`;
    return { text, address: facts.address };
  });
  const kinds = Object.entries(gatheredNames).flatMap(([template, { one, more }]) => {
    const count = all.filter((each) => each.template === template).length;
    return count === 0 ? [] : [count === 1 ? one : `${count} ${more}`];
  });
  const said = [kinds.slice(0, -1).join(', '), kinds.at(-1)].filter(Boolean).join(' and ');
  const others = all.length === 2 ? 'one more' : `${all.length - 1} more`;
  const about = kinds.length === 1 ? `: ${all[0]?.facts.title ?? ''} and ${others}` : '';
  return {
    subject: `${said.charAt(0).toUpperCase()}${said.slice(1)}${about}`,
    lines: ['These still wait:'],
    button: null,
    items,
  };
}

/** The message as plain text and as HTML of the house's look, with one button. */
export function composed(message: Message, facts: MailFacts): { text: string; html: string } {
  const quoted = facts.note ? [facts.note] : [];
  const text = [
    `Dear ${facts.to},`,
    ...message.lines,
    ...quoted.map((words) => `${facts.by} writes:\n${words}`),
    ...(message.items ?? []).map(({ text: said, address }) => `${said}:\n${address}`),
    ...(message.button ? [`${message.button}:\n${facts.address}`] : []),
    `${facts.sender}\n${facts.organization}`,
  ].join('\n\n');
  const paragraph = (content: string) => `<p style="margin:0 0 14px">${content}</p>`;
  const html = `<!doctype html><html lang="en"><body style="margin:0;background:#FAF8F3;color:#17242B;font:15px/1.5 sans-serif"><div style="max-width:560px;margin:0 auto;padding:32px 24px">
${paragraph(`Dear ${escaped(facts.to)},`)}
${message.lines.map((line) => paragraph(escaped(line))).join('\n')}
${quoted.map((words) => `<blockquote style="margin:0 0 14px;padding:4px 0 4px 14px;border-left:2px solid #E4DED2;white-space:pre-wrap">${escaped(words)}</blockquote>`).join('\n')}
${(message.items ?? []).map(({ text: said, address }) => paragraph(`<a href="${escaped(address)}" style="color:#14524A">${escaped(said)}</a>`)).join('\n')}
${message.button ? paragraph(`<a href="${escaped(facts.address)}" style="display:inline-block;padding:11px 18px;background:#14524A;color:#FFFFFF;text-decoration:none;border-radius:6px">${escaped(message.button)}</a>`) : ''}
<p style="margin:22px 0 0;color:#55636B">${escaped(facts.sender)}<br>${escaped(facts.organization)}</p></div></body></html>`;
  return { text, html };
}

function escaped(text: string): string {
  const signs: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
  return text.replace(/[&<>"]/g, (sign) => signs[sign] ?? sign);
}
