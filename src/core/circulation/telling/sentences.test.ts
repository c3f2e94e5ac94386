import { describe, expect, it } from 'vitest';
import { refusal } from '../../refusals';
import type { FactValue } from '../../route/facts';
import { circulationEventVersions } from '../run/events';
import type { HistoryLine } from './history';
import { stageNouns } from './nouns';
import { asks, peopleBesides, responseOf, responses, sentence, valueInWords } from './sentences';

const valueText = (value: FactValue) => valueInWords(value, { person: (id) => id, day: (iso) => iso });
const line: HistoryLine = {
  sequence: 1,
  type: 'circulation.created',
  at: 0,
  actor: 'Ines',
  onBehalfOf: null,
  holder: null,
  to: null,
  verb: null,
  outcome: null,
  version: null,
  round: 1,
  due: null,
  closes: null,
  held: null,
  cause: null,
  revision: null,
  called: null,
  people: [],
  leftOut: [],
  roles: [],
  nobody: false,
  coverUntil: null,
  enough: null,
  opened: null,
  differences: [],
  noteChanged: false,
  names: {},
  condition: null,
  facts: [],
  hidden: false,
  note: null,
};
const telling = { name: (person: string) => person, moment: (at: number) => `Fri ${at}`, value: valueText };
const told = (part: Partial<HistoryLine>) => sentence({ ...line, ...part }, telling);

describe('the sentences of a history', () => {
  const said: readonly (readonly [Partial<HistoryLine>, string])[] = [
    [{ type: 'circulation.created' }, 'Ines started this circulation'],
    [{ type: 'route.planned' }, 'Ines planned the route'],
    [
      {
        type: 'facts.given',
        facts: [
          { name: 'amount', value: { kind: 'amount', thousandths: 184_000_500, currency: 'NOK' } },
          { name: 'urgent', value: { kind: 'yesNo', yes: false } },
        ],
      },
      'Ines gave amount 184,000.5 NOK and urgent no',
    ],
    [{ type: 'facts.given' }, 'Ines gave no values'],
    [{ type: 'circulation.closed' }, 'The circulation closed as a whole; nobody can respond until it is extended'],
    [{ type: 'circulation.extended', due: 5 }, 'Ines extended the circulation, due Fri 5'],
    [
      {
        type: 'part.decided',
        verb: 'approve',
        condition: {
          holds: false,
          used: [{ kind: 'fact', fact: 'f1', name: 'amount', value: { kind: 'number', thousandths: -2000 } }],
        },
      },
      'Approval was skipped: amount -2',
    ],
    [
      {
        type: 'part.decided',
        called: 'commercial',
        condition: {
          holds: true,
          used: [
            { kind: 'record', field: 'unit', value: { id: 'u7', called: 'Contracts' } },
            { kind: 'record', field: 'owner', value: { id: 'Oskar', called: null } },
            { kind: 'record', field: 'documentType', value: null },
          ],
        },
      },
      'The branch “commercial” takes part: unit Contracts, owner Oskar and document type not given',
    ],
    [
      {
        type: 'part.decided',
        condition: {
          holds: false,
          used: [
            { kind: 'fact', fact: 'f2', name: 'day', value: null },
            { kind: 'outcome', stage: 'g', verb: 'review', place: 2, outcomes: ['declined', 'missed'] },
            { kind: 'outcome', stage: 'h', verb: 'approve', place: 3, outcomes: [] },
            { kind: 'outcome', stage: 'i', verb: null, place: 0, outcomes: null },
          ],
        },
      },
      'A branch was skipped: day not given, in review (stage 2) somebody declined and somebody missed the time, ' +
        'in approval (stage 3) nobody declined, missed the time or commented and a stage not ended',
    ],
    [
      { type: 'group.resolved', called: 'Rescue group', people: ['Yuki', 'Noor', 'Dalia'] },
      'Rescue group was resolved to Yuki, Noor and Dalia',
    ],
    [
      { type: 'group.resolved', called: 'Board', people: ['Yuki'], leftOut: ['Oskar', 'Ines'] },
      'Board was resolved to Yuki, without Oskar and Ines',
    ],
    [{ type: 'copies.reached', people: ['Yuki', 'Noor'] }, 'Copies for Yuki and Noor'],
    [{ type: 'copies.reached' }, 'Nobody gets a copy here'],
    [{ type: 'copies.sent', people: ['Yuki'] }, 'Copies of the final file for Yuki'],
    [{ type: 'fields.put' }, 'Ines put the fields on the pages'],
    [{ type: 'version.attached', version: 2 }, 'Ines submitted version 2'],
    [{ type: 'circulation.sent', version: 2 }, 'Ines sent version 2'],
    [
      {
        type: 'circulation.sent',
        version: 2,
        roles: [
          { name: 'custodian', person: 'Oskar' },
          { name: 'site lead', person: null },
        ],
      },
      'Ines sent version 2; custodian: Oskar; site lead: nobody',
    ],
    [{ type: 'stage.opened', verb: 'approve' }, 'Approval started'],
    [{ type: 'stage.held', verb: 'sign', held: 'fields' }, 'Signing could not start yet: waiting for signature fields'],
    [
      { type: 'stage.held', verb: 'sign', held: 'freezing' },
      'Signing could not start yet: waiting for the pages to be frozen',
    ],
    [{ type: 'stage.held', verb: 'read', held: 'time' }, 'Reading could not start yet: its closing time has passed'],
    [{ type: 'stage.held', verb: 'read' }, 'Reading could not start yet'],
    [{ type: 'stage.timed', verb: 'review', due: 5 }, 'Ines set a new time for review, due Fri 5'],
    [{ type: 'stage.timed', verb: 'review' }, 'Ines set a new time for review'],
    [{ type: 'stage.ruled', verb: 'review', enough: 1 }, 'Ines set that one response is enough for review'],
    [{ type: 'stage.ruled', verb: 'review', enough: 2 }, 'Ines set that 2 responses are enough for review'],
    [{ type: 'circulation.paused' }, 'Ines paused the circulation; nobody can respond until it goes on'],
    [{ type: 'circulation.wentOn' }, 'Ines let the circulation go on'],
    [{ type: 'question.asked', actor: 'Oskar' }, 'Oskar asked a question'],
    [{ type: 'question.answered', holder: 'Oskar' }, 'Ines answered a question of Oskar'],
    [{ type: 'seat.readdressed', holder: 'Lotte', to: 'Lotte' }, 'Ines corrected the address of Lotte'],
    [
      { type: 'seat.readdressed', holder: 'Lotte', to: 'Lotte', opened: 5 },
      'Ines corrected the address of Lotte; it had been opened at the former one, Fri 5',
    ],
    [{ type: 'control.handed', to: 'Oskar' }, 'Ines handed control to Oskar'],
    [{ type: 'stage.stuck', verb: 'contribute' }, 'Contribution can no longer be completed'],
    [{ type: 'stage.healed', verb: 'review' }, 'Review can be completed again'],
    [{ type: 'stage.freed', verb: 'review' }, 'Review goes on'],
    [{ type: 'stage.closed', verb: 'review' }, 'Review completed'],
    [{ type: 'stage.released', verb: 'approve' }, 'Approval was no longer needed'],
    [{ type: 'file.frozen' }, 'The pages were frozen for signing'],
    [{ type: 'seat.asked', holder: 'Oskar', verb: 'read', due: 5 }, 'Oskar was asked to read and confirm, due Fri 5'],
    [{ type: 'seat.asked', holder: 'Oskar' }, 'Oskar was asked to respond'],
    [{ type: 'seat.asked', verb: 'sign' }, 'Somebody still to be named was asked to sign'],
    [{ type: 'seat.released', called: 'Rescue group' }, 'The response of Rescue group was no longer needed'],
    [{ type: 'seat.missed', called: 'Rescue group' }, 'Rescue group did not respond before the closing time'],
    [{ type: 'seat.missed' }, 'Somebody still to be named did not respond before the closing time'],
    [
      { type: 'seat.asked', holder: 'Oskar', verb: 'sign', nobody: true },
      'Nobody could be asked to sign; somebody has to be assigned',
    ],
    [{ type: 'seat.asked', verb: 'sign', called: 'Board', due: 5 }, 'Board was asked to sign, due Fri 5'],
    [{ type: 'seat.freed', to: 'Oskar' }, 'The time to wait is over for Oskar, who can respond now'],
    [{ type: 'seat.taken', actor: 'Yuki' }, 'Yuki took the task'],
    [{ type: 'seat.givenBack', actor: 'Yuki' }, 'Yuki gave the task back to the group'],
    [{ type: 'seat.named', actor: 'Yuki', to: 'Noor' }, 'Yuki named Noor'],
    [{ type: 'delegation.asked', actor: 'Yuki', to: 'Noor' }, 'Yuki asks to delegate to Noor'],
    [{ type: 'delegation.refused', to: 'Noor' }, 'Ines did not agree to delegating to Noor'],
    [{ type: 'rework.began', cause: 'nobody' }, 'Every stage was skipped, so nobody was asked; it is back in rework'],
    [{ type: 'seat.seen', actor: 'Oskar', version: 2 }, 'Oskar opened version 2'],
    [{ type: 'seat.decided', actor: 'Oskar', outcome: 'approved', verb: 'approve' }, 'Oskar approved'],
    [
      { type: 'seat.decided', actor: 'Noor', outcome: 'returned', verb: 'approve', onBehalfOf: 'Oskar' },
      'Noor returned it for rework for Oskar',
    ],
    [{ type: 'seat.decided', actor: 'Oskar' }, 'Oskar responded'],
    [{ type: 'seat.missed', holder: 'Oskar' }, 'Oskar did not respond before the closing time'],
    [{ type: 'seat.released', holder: 'Oskar' }, 'The response of Oskar was no longer needed'],
    [{ type: 'seat.passed', holder: 'Oskar' }, 'Ines went on without Oskar'],
    [{ type: 'seat.extended', holder: 'Oskar', due: 5 }, 'Ines extended the time of Oskar, due Fri 5'],
    [{ type: 'seat.extended', holder: 'Oskar', closes: 5 }, 'Ines extended the time of Oskar, closes Fri 5'],
    [{ type: 'circulation.extended', due: 5, closes: 5 }, 'Ines extended the circulation, due Fri 5, closes Fri 5'],
    [{ type: 'seat.askedAgain', holder: 'Oskar', verb: 'approve' }, 'Ines asked Oskar again to approve'],
    [{ type: 'seat.reminded', holder: 'Oskar' }, 'Ines reminded Oskar'],
    [{ type: 'seat.reminded', actor: 'system', holder: 'Oskar' }, 'Oskar was reminded'],
    [{ type: 'seat.lateTold', holder: 'Oskar', to: 'Ines' }, 'Ines was told that Oskar has not responded'],
    [{ type: 'reminders.set' }, 'Ines changed how people are reminded'],
    [
      { type: 'seat.asked', holder: 'Oskar', verb: 'approve', people: ['Caspian'], due: 5 },
      'Oskar was asked to approve, due Fri 5; covered by Caspian',
    ],
    [
      { type: 'seat.decided', actor: 'Caspian', onBehalfOf: 'Oskar', outcome: 'approved', coverUntil: 9 },
      'Caspian approved for Oskar, covering until Fri 9',
    ],
    [
      { type: 'seat.freed', to: 'Caspian', nobody: true },
      'The time to wait is over for Caspian, who does not respond here any more',
    ],
    [
      { type: 'seat.givenBack', actor: 'system', holder: 'Yuki' },
      'The task that Yuki had taken went back to the group',
    ],
    [{ type: 'circulation.amended' }, 'Ines amended the circulation'],
    [
      {
        type: 'circulation.amended',
        noteChanged: true,
        due: 7,
        names: { rescue: 'Rescue group', safety: 'safety manager' },
        differences: [
          { what: 'stageAdded', verb: 'review', place: 2, who: [{ kind: 'group', group: 'rescue', members: 'any' }] },
          {
            what: 'seatGiven',
            verb: 'approve',
            place: 3,
            who: [{ kind: 'role', role: 'safety' }],
            before: { kind: 'person', person: 'Oskar' },
          },
          {
            what: 'due',
            verb: 'sign',
            place: 4,
            who: [],
            from: { kind: 'instant', at: 5 },
            to: { kind: 'after', amount: 1, unit: 'workingDays' },
          },
          { what: 'rule', verb: 'read', place: 5, from: { kind: 'all' }, to: { kind: 'atLeast', k: 2 } },
        ],
      },
      'Ines amended the circulation: review (stage 2) by Rescue group added; safety manager instead of Oskar in approval (stage 3); signing (stage 4) due one working day after being asked, before: Fri 5; reading (stage 5) complete when at least 2 have instead of everyone has; the message to all changed; as a whole, due Fri 7',
    ],
    [{ type: 'seat.delegated', actor: 'Oskar', holder: 'Oskar', to: 'Noor' }, 'Oskar delegated to Noor'],
    [{ type: 'seat.reassigned', holder: 'Oskar', to: 'Noor' }, 'Ines reassigned it from Oskar to Noor'],
    [{ type: 'seat.reassigned', to: 'Noor', verb: 'sign', due: 5 }, 'Ines assigned Noor to sign, due Fri 5'],
    [{ type: 'secondHolder.added', holder: 'Oskar', to: 'Noor' }, 'Ines added Noor as a second holder beside Oskar'],
    [
      { type: 'secondHolder.dropped', holder: 'Oskar', to: 'Noor' },
      'Ines removed Noor as a second holder beside Oskar',
    ],
    [{ type: 'link.copied', holder: 'Lotte' }, 'Ines copied the link of Lotte'],
    [{ type: 'comment.made', version: 2 }, 'Ines commented on version 2'],
    [{ type: 'comment.resolved' }, 'Ines resolved a comment'],
    [{ type: 'comment.reopened' }, 'Ines reopened a comment'],
    [{ type: 'rework.began', cause: 'returned' }, 'Rework began; nobody responds before the next round'],
    [
      { type: 'rework.began', cause: 'version', version: 3 },
      'Rework began with version 3; nobody responds before the next round',
    ],
    [{ type: 'round.begun', round: 2 }, 'Ines began round 2'],
    [{ type: 'finishing.began' }, 'All responses are in; the final file is being made'],
    [{ type: 'finals.kept' }, 'The final file is ready'],
    [{ type: 'circulation.withdrawn' }, 'Ines withdrew the circulation'],
    [{ type: 'circulation.completed', revision: 'C' }, 'Ines released it as revision C'],
    [{ type: 'circulation.completed' }, 'Ines released it'],
    [
      { type: 'circulation.completed', actor: 'Avenda', onBehalfOf: 'Ines', revision: 'C' },
      'Avenda released it as revision C, as Ines had set it',
    ],
  ];

  it('say each event as a colleague would, with who, to whom and by when', () => {
    for (const [part, expected] of said) expect(told(part)).toBe(expected);
    expect(new Set(said.map(([part]) => part.type))).toEqual(new Set(Object.keys(circulationEventVersions)));
  });

  it('have a word for every verb and every outcome', () => {
    expect(stageNouns).toEqual({
      contribute: 'Contribution',
      review: 'Review',
      approve: 'Approval',
      sign: 'Signing',
      read: 'Reading',
    });
    expect(asks).toEqual({
      contribute: 'contribute',
      review: 'review',
      approve: 'approve',
      sign: 'sign',
      read: 'read and confirm',
    });
    expect(responses).toEqual({
      done: 'completed the review',
      approved: 'approved',
      approvedWithComments: 'approved with comments',
      returned: 'returned it for rework',
      declined: 'declined',
      signed: 'signed',
      confirmed: 'confirmed having read it',
    });
    expect(responseOf('done', 'contribute')).toBe('completed the contribution');
    expect(responseOf('done', 'review')).toBe('completed the review');
    expect(responseOf('declined', 'contribute')).toBe('declined');
  });
});

describe('the people that a line names besides', () => {
  it('are members, those left out, whoever fills roles, and people who are values', () => {
    expect(peopleBesides(line)).toEqual([]);
    expect(
      peopleBesides({
        ...line,
        people: ['yuki'],
        leftOut: ['oskar'],
        roles: [
          { name: 'custodian', person: 'dalia' },
          { name: 'site lead', person: null },
        ],
        facts: [
          { name: 'buyer', value: { kind: 'person', person: 'petra' } },
          { name: 'party', value: { kind: 'party', text: 'Tessel Wire Works' } },
        ],
        condition: {
          holds: true,
          used: [
            { kind: 'fact', fact: 'buyer', name: 'buyer', value: { kind: 'person', person: 'noor' } },
            { kind: 'fact', fact: 'amount', name: 'amount', value: null },
            { kind: 'record', field: 'owner', value: { id: 'rufus', called: null } },
            { kind: 'record', field: 'unit', value: { id: 'ropes', called: 'Ropes' } },
            { kind: 'record', field: 'documentType', value: null },
          ],
        },
      }),
    ).toEqual(['yuki', 'oskar', 'dalia', 'petra', 'noor', 'rufus']);
  });
});

describe('a refusal', () => {
  it('says the facts it was given in its sentence', () => {
    expect(refusal('already-decided', { by: 'Oskar', outcome: 'approved' }).sentence).toBe(
      'Already decided by Oskar, with “approved”.',
    );
    expect(refusal('already-decided').sentence).toBe('Already decided by , with “”.');
  });
});
