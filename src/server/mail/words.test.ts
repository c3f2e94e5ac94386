import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { MailTemplate } from '../jobs/queue';
import { composed, gatheredMessage, type MailFacts, messageFor } from './words';

/** Every one of them, so that none is left out when another one comes. */
const every: Record<Exclude<MailTemplate, 'digest'>, true> = {
  asked: true,
  reminded: true,
  extended: true,
  returned: true,
  declined: true,
  missed: true,
  fieldsWanted: true,
  timeWanted: true,
  versionIn: true,
  seatMoved: true,
  withdrawn: true,
  readyForRelease: true,
  released: true,
  mayRespond: true,
  delegated: true,
  delegationAsked: true,
  delegationRefused: true,
  copy: true,
  crowd: true,
  closedWhole: true,
  paused: true,
  wentOn: true,
  controlHanded: true,
  question: true,
  answered: true,
  nobodyAsked: true,
  amended: true,
  late: true,
  opened: true,
  responded: true,
  stageDone: true,
  write: true,
  invitation: true,
  password: true,
  newLinkWanted: true,
  awaySet: true,
  awayEnded: true,
  coverSet: true,
  coverBegins: true,
  coverEnded: true,
  coverLost: true,
};
const templates = Object.keys(every) as readonly Exclude<MailTemplate, 'digest'>[];
const facts: MailFacts = {
  to: 'Yuki Arden',
  organization: 'Marrowfell Ropeway',
  sender: 'Ines Halloran',
  senderEmail: 'ines@marrowfell.example',
  number: 'MR-PRO-019',
  title: 'Brake test',
  verb: 'review',
  due: 'Fri 4 Dec, 16:00',
  from: null,
  note: null,
  by: 'Petra Novak',
  behalf: null,
  away: null,
  outcome: 'approvedWithComments',
  address: 'https://avenda.marrowfell.example/x',
  outside: false,
};
const anyFacts: fc.Arbitrary<MailFacts> = fc.record({
  to: fc.string(),
  organization: fc.string(),
  sender: fc.string(),
  senderEmail: fc.string(),
  number: fc.string(),
  title: fc.string(),
  verb: fc.option(fc.constantFrom('contribute', 'review', 'approve', 'sign', 'read')),
  due: fc.option(fc.string()),
  from: fc.option(fc.oneof(fc.string(), fc.constant('opened'))),
  note: fc.option(fc.string({ unit: 'binary' })),
  by: fc.string(),
  behalf: fc.option(fc.string()),
  away: fc.option(
    fc.record({ name: fc.string(), from: fc.string(), to: fc.string(), tasks: fc.nat(9), covered: fc.boolean() }),
  ),
  outcome: fc.option(fc.constantFrom('done', 'approved', 'returned', 'signed')),
  address: fc.webUrl(),
  outside: fc.boolean(),
});

describe('a message', () => {
  it('lets nothing that a person wrote become markup, whatever it is', () => {
    fc.assert(
      fc.property(fc.constantFrom(...templates), anyFacts, (template, given) => {
        const hostile = { ...given, title: `${given.title}</p><script>"`, note: '<img src=x onerror="a">' };
        for (const one of [given, hostile]) {
          const { html } = composed(messageFor(template, one), one);
          const tags = html.match(/<[^>]*>/g) ?? [];
          // Only our own tags, and no attribute can be closed early.
          for (const tag of tags)
            expect(tag).toMatch(
              /^<(!doctype html|\/?(html|body|div|p|blockquote|a|br)( (lang|style|href)="[^"<>]*")*)>$/,
            );
        }
      }),
    );
  });

  it('says the same as text and as HTML, and never “undefined” or “null”', () => {
    fc.assert(
      fc.property(fc.constantFrom(...templates), fc.boolean(), fc.boolean(), (template, outside, wordy) => {
        const given = { ...facts, outside, note: wordy ? 'Mind the units.' : null };
        const message = messageFor(template, given);
        const { text, html } = composed(message, given);
        for (const line of [...message.lines, message.button ?? '', given.note ?? '']) {
          expect(text).toContain(line);
          expect(html.replaceAll('&quot;', '"')).toContain(line);
        }
        expect(`${message.subject}${text}${html}`).not.toMatch(/undefined|null|\[object/);
        expect(message.subject.length).toBeLessThan(80);
      }),
    );
  });

  it('has its one address where it has a button, and none where there is nothing more to do', () => {
    for (const template of templates) {
      const message = messageFor(template, facts);
      const { text, html } = composed(message, facts);
      const expected = message.button ? 1 : 0;
      expect(text.split(facts.address).length - 1, template).toBe(expected);
      expect(html.split(facts.address).length - 1, template).toBe(expected);
    }
    for (const template of ['seatMoved', 'withdrawn'] as const) expect(messageFor(template, facts).button).toBeNull();
  });

  it('says by when, what is asked in the stage’s own word, and to outside people whom to ask if in doubt', () => {
    const asked = (verb: MailFacts['verb'], more: Partial<MailFacts> = {}) =>
      composed(messageFor('asked', { ...facts, verb, ...more }), facts).text;
    for (const [verb, word] of [
      ['contribute', 'contribute to'],
      ['review', 'review'],
      ['approve', 'approve'],
      ['sign', 'sign'],
      ['read', 'read and confirm'],
    ] as const)
      expect(asked(verb)).toContain(`asks you to ${word} “Brake test” (MR-PRO-019).`);
    expect(asked('sign')).toContain('Please do so by Fri 4 Dec, 16:00.');
    expect(asked('sign', { due: null })).not.toContain('Please do so by');
    expect(asked('sign', { outside: true })).toContain('ask Ines Halloran at ines@marrowfell.example');
    expect(asked('sign')).not.toContain('If you doubt');
  });
});

describe('several things in one message', () => {
  const of = (template: MailTemplate, title: string) => ({ template, facts: { ...facts, title } });
  const said = (...all: readonly MailTemplate[]) =>
    gatheredMessage(all.map((template, i) => of(template, `Text ${i + 1}`)));

  it('are told by what they are: nothing new is called a reminder, and no new time only a task', () => {
    expect(said('reminded', 'reminded').subject).toBe('2 reminders: Text 1 and one more');
    expect(said('asked', 'asked', 'asked').subject).toBe('3 new tasks: Text 1 and 2 more');
    expect(said('late', 'late').subject).toBe('2 responses are late: Text 1 and one more');
    expect(said('extended', 'reminded', 'asked').subject).toBe('One new task, one new time and a reminder');
    expect(said('late', 'extended', 'late').subject).toBe('2 responses are late and one new time');
    expect(said('asked', 'extended', 'late').items?.map(({ text }) => text)).toEqual([
      'Please review “Text 1” (MR-PRO-019), due Fri 4 Dec, 16:00',
      'The time to review “Text 2” (MR-PRO-019) has changed: now due Fri 4 Dec, 16:00',
      'Petra Novak has not responded to “Text 3” (MR-PRO-019), due Fri 4 Dec, 16:00',
    ]);
    const { text, html } = composed(said('asked', 'reminded'), facts);
    for (const whole of [text, html]) expect(whole.split(facts.address)).toHaveLength(3);
  });
});
