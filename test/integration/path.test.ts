import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dayOnPage, type Field, type FieldValue } from '@/core/page/fields';
import type { Outcome } from '@/core/route/verbs';
import type { Story } from '@/core/text/story';
import type { SeatView } from '@/server/signing/view';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (person: string, circulation: string) => w.ask(person, 'circulation.view', { circulation });
const mySeat = async (person: string, circulation: string) => {
  const seen = await view(person, circulation);
  const seat = seen.seats.find((candidate) => candidate.holder === person && candidate.status === 'asked');
  if (!seat) throw new Error(`${person} is not asked`);
  return { circulation, seat: seat.id, epoch: seat.epoch, scope: seat.scope ?? '' };
};
const decide = async (
  person: string,
  circulation: string,
  outcome: Outcome,
  note: string | null = null,
  values: Readonly<Record<string, FieldValue>> = {},
) => w.ask(person, 'seat.decideMine', { ...(await mySeat(person, circulation)), outcome, note, values });

/** What another program reads in a kept file. */
async function judged(hash: string): Promise<{ text: string; bytes: Buffer }> {
  const { findFile, readWhole } = await import('@/server/files/store');
  const file = await w.inOrganization(organization, (tx) => findFile(tx, hash));
  if (!file) throw new Error(`no file ${hash}`);
  const bytes = await readWhole(organization, file);
  const at = path.join(mkdtempSync(path.join(os.tmpdir(), 'judged-')), 'file.pdf');
  writeFileSync(at, bytes);
  execFileSync('qpdf', ['--check', at]);
  return { text: execFileSync('pdftotext', ['-layout', at, '-']).toString(), bytes };
}

describe('the whole path by the book', () => {
  it('goes from a change to a released revision, with a return, a decline and a seat given to another', async () => {
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Brake test of the drive',
      documentType: 'PRO',
      owner: 'rufus',
    });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      records: [record],
      reason: 'New torque values',
      author: 'rufus',
    });
    expect(await w.refused('ines', 'change.start', { records: [record], reason: 'Twice', author: 'rufus' })).toBe(
      'in-work-already',
    );

    // Rufus hands in a PDF; it stays as it is, byte for byte.
    const first = await w.pdf('Brake test, first draft', 2);
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: first.hash, name: 'brake.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    const review = stage('review', ['yuki', 'petra']);
    const approve = stage('approve', ['oskar']);
    const sign = stage('sign', ['benedikt', 'jarek']);
    await w.ask('ines', 'circulation.plan', {
      circulation,
      route: inSeries(review, approve, sign),
      note: 'Please look at the torque table.',
    });
    await w.ask('ines', 'circulation.send', { circulation });
    await w.work();
    expect(
      w.mails
        .filter((mail) => mail.subject.startsWith('Please review'))
        .map((mail) => mail.to.address)
        .sort(),
    ).toEqual(['petra@mr.example', 'yuki@mr.example']);
    expect(w.mails.at(-1)?.text).toContain('Please look at the torque table.');

    // Whoever is not involved sees nothing, not even that it exists; whoever is not asked yet neither.
    expect(await w.refused('benedikt', 'circulation.view', { circulation })).toBe('not-found');
    const stale = await mySeat('petra', circulation);
    await w.ask('yuki', 'circulation.comment', {
      circulation,
      comment: 'r1',
      file: first.hash,
      spot: { page: 0, x: 100, y: 120 },
      note: 'Which wrench?',
    });
    await decide('yuki', circulation, 'returned', 'The table is for the old drive.');
    expect(await w.refused('petra', 'seat.decideMine', { ...stale, outcome: 'done' })).toBe('phase-rework');

    // The next version; the old page cannot decide on it.
    const second = await w.pdf('Brake test, second draft', 2);
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 1, file: second.hash, name: 'brake.pdf' });
    await w.ask('rufus', 'draft.submit', { change, note: 'New table' });
    const plan = (await view('ines', circulation)).offers.find((offer) => offer.act === 'confirmRound')?.needs;
    expect(plan?.lines?.map((line) => line.reason)).toEqual([
      'returned',
      'open',
      'notAskedBefore',
      'notAskedBefore',
      'notAskedBefore',
    ]);
    await w.ask('ines', 'circulation.confirmRound', {
      circulation,
      basis: plan?.basis ?? '',
      keep: [],
      times: [],
    });
    expect(await w.refused('petra', 'seat.decideMine', { ...stale, outcome: 'done' })).toBe('stale-version');
    await decide('yuki', circulation, 'done');
    await decide('petra', circulation, 'done');
    await decide('oskar', circulation, 'approvedWithComments', 'Mind the units.');

    // Signing is reached and waits for the places; the last of them opens it.
    const held = await view('ines', circulation);
    expect(held.stages.map((entry) => [entry.status, entry.held])).toEqual([
      ['done', null],
      ['done', null],
      ['idle', 'fields'],
    ]);
    expect(held.tasks.map((task) => task.doing)).toEqual(['putFields']);
    const fields = sign.seats.map(
      (seat, i): Field => ({
        id: `p${i}`,
        seat: seat.id,
        file: 'main',
        kind: 'signature',
        page: 1,
        x: 80,
        y: 300 + i * 80,
        width: 168,
        height: 46,
        needed: true,
        label: '',
      }),
    );
    expect(
      await w.refused('ines', 'circulation.putFields', {
        circulation,
        file: 'main',
        content: second.hash,
        fields: [{ ...fields[0], x: 560 }],
      }),
    ).toBe('fields-unfit');
    // Beside the second signature: the day of signing, which comes by itself, and a day that the signer chooses.
    const beside = (id: string, kind: 'signedOn' | 'date', x: number): Field => ({
      ...(fields[1] as Field),
      ...{ id, kind, x, width: 110, height: 22 },
    });
    const all = [...fields, beside('on', 'signedOn', 300), beside('from', 'date', 430)];
    await w.ask('ines', 'circulation.putFields', { circulation, file: 'main', content: second.hash, fields: all });
    expect((await view('ines', circulation)).stages[2]?.held).toBe('freezing');
    await w.work();
    const frozen = (await view('ines', circulation)).frozen.main;
    expect(frozen).toMatchObject({ content: second.hash });

    const typed = (field: string, text: string) => ({ [field]: { kind: 'typed' as const, text } });
    expect(
      await w.refused('benedikt', 'seat.decideMine', { ...(await mySeat('benedikt', circulation)), outcome: 'signed' }),
    ).toBe('values-unfit');
    await decide('benedikt', circulation, 'signed', null, typed('p0', 'Benedikt Rowe'));

    // Jarek, outside, by his link alone.
    const toJarek = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'jarek'));
    const seen = await w.throughLink(toJarek, 'seat.view');
    if (!seen.ok) throw new Error(seen.refusal.sentence);
    const jareks = seen.value as SeatView;
    expect(jareks.content?.documents).toMatchObject([{ id: 'main', content: second.hash, file: frozen?.file }]);
    expect(jareks.progress).toEqual({ done: 1, of: 2 });
    const decline = {
      seat: jareks.seat,
      epoch: jareks.epoch,
      scope: jareks.content?.scope,
      outcome: 'declined',
      note: 'Not my district.',
    };
    expect((await w.throughLink(toJarek, 'seat.decide', decline)).ok).toBe(true);
    const stopped = await view('ines', circulation);
    expect(stopped.stops.map((stop) => stop.kind)).toEqual(['declined']);
    expect(stopped.seats.find((seat) => seat.holder === 'benedikt')?.decision?.outcome).toBe('signed');

    await w.ask('ines', 'circulation.reassign', {
      circulation,
      seat: jareks.seat,
      to: { kind: 'outside', person: 'sanna' },
      note: 'Could you step in?',
    });
    const gone = await w.throughLink(toJarek, 'seat.view');
    expect(gone.ok ? 200 : [gone.status, gone.refusal.code]).toEqual([410, 'link-moved']);
    await w.work();
    const toSanna = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'sanna'));
    const sannas = await w.throughLink(toSanna, 'seat.view');
    if (!sannas.ok) throw new Error(sannas.refusal.sentence);
    const { seat, epoch, content } = sannas.value as SeatView;
    const put = (values: object) =>
      w.throughLink(toSanna, 'seat.decide', { seat, epoch, scope: content?.scope, outcome: 'signed', values });
    const hand = { p1: { kind: 'drawn', strokes: [[10, 10, 60, 40, 90, 12]], width: 200, height: 60 } };
    const why = async (values: object) => {
      const answer = await put(values);
      return answer.ok ? 'ok' : (answer.refusal.facts as { why?: string }).why;
    };
    expect(await why(hand)).toBe('missing');
    expect(await why({ ...hand, from: { kind: 'text', text: 'next tuesday maybe' } })).toBe('wrong-kind');
    expect(await why({ ...hand, from: { kind: 'day', day: '2027-02-30' } })).toBe('not-a-day');
    const dated = { ...hand, from: { kind: 'day', day: '2027-01-15' } };
    expect(await why({ ...dated, on: { kind: 'day', day: '1999-01-01' } })).toBe('not-a-field');
    expect(await why(dated)).toBe('ok');

    // The final file: derived, stored, then told.
    expect(await w.refused('ines', 'circulation.release', { circulation })).toBe('no-final');
    await w.work();
    const sealed = await view('ines', circulation);
    expect(sealed.tasks.map((task) => task.doing)).toEqual(['release']);
    await w.ask('ines', 'circulation.release', { circulation });
    await w.work();
    const final = await judged(sealed.finals?.files[0]?.file ?? '');
    const sheet = await judged((await view('ines', circulation)).evidence ?? '');
    const today = dayOnPage(new Date(await w.now()).toISOString().slice(0, 10));
    for (const shown of ['Brake test, second draft, page 2', 'Benedikt Rowe', '15 Jan 2027', today])
      expect(final.text).toContain(shown);
    const whole = sheet.text.replace(/\s/g, '');
    for (const said of [
      'Evidence sheet',
      'Sanna Virtue',
      '203.0.113.9',
      second.hash,
      frozen?.file ?? '?',
      sealed.finals?.files[0]?.file ?? '?',
      sealed.finals?.identifier ?? '?',
    ])
      expect(whole).toContain(said.replace(/\s/g, ''));
    // The whole history, in the words of its time: who had it then, what became of it, and the release itself.
    for (const sentence of [
      'Yuki Arden returned it for rework',
      'Ines Halloran began round 2',
      'declined',
      'reassigned it from Jarek',
      'Sanna Virtue signed',
      'Ines Halloran released it as revision A',
    ])
      expect(whole).toContain(sentence.replace(/\s/g, ''));
    // What was said among each other is not for every member: a word with a seat, a comment.
    expect(whole).not.toContain('Couldyoustepin');
    expect(whole).toContain('Thetableisfortheolddrive');
    const before = await judged(frozen?.file ?? '');
    expect(final.bytes.subarray(0, before.bytes.length).equals(before.bytes)).toBe(true);
    const uploaded = await judged(second.hash);
    expect(before.bytes.subarray(0, uploaded.bytes.length).equals(uploaded.bytes)).toBe(true);

    const released = await w.ask('petra', 'record.view', { record });
    expect(released.revisions).toMatchObject([
      { revision: 'A', files: [{ content: second.hash, file: sealed.finals?.files[0]?.file }] },
    ]);
    expect(released.inProgress).toBeNull();
    expect(released.approvers.map(({ person }) => person)).toEqual(['oskar', 'benedikt', 'sanna']);
    expect(released).toMatchObject({ typeName: 'Procedure', owner: 'rufus' });
    expect(released.reason).toBeTruthy();
    const receipt = await w.throughLink(toSanna, 'seat.view');
    expect(receipt.ok && (receipt.value as SeatView).copies?.files[0]?.file).toBe(sealed.finals?.files[0]?.file);
    expect(receipt.ok && (receipt.value as SeatView).content).toBeNull();
    expect(w.mails.filter((mail) => mail.subject.startsWith('Your copy')).map(w.toOf)).toEqual(['sanna']);
    expect(new Set(w.mails.map((mail) => mail.messageId)).size).toBe(w.mails.length);
  });

  it('renders a text to pages and submits it, in the background', async () => {
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Wind log: Ærø, Ωmega, Привет',
      documentType: 'LOG',
      owner: 'rufus',
    });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      records: [record],
      reason: 'Begin',
      author: 'rufus',
    });
    const story: Story = {
      format: 1,
      blocks: [
        { id: 'a', kind: 'heading', level: 1, runs: [{ text: 'Purpose', marks: {} }] },
        {
          id: 'b',
          kind: 'paragraph',
          level: 0,
          runs: [
            { text: 'Every ', marks: {} },
            { text: 'storm', marks: { bold: true } },
            { text: ' is entered.', marks: {} },
          ],
        },
        {
          id: 'c',
          kind: 'number',
          level: 0,
          runs: [{ text: 'Read the gauge', marks: { link: 'https://gauge.example/' } }],
        },
      ],
    };
    expect(await w.refused('rufus', 'draft.submit', { change })).toBe('draft-empty');
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 0, story });
    expect(await w.refused('rufus', 'draft.saveText', { change, document: 'main', edit: 0, story })).toBe(
      'draft-moved',
    );
    expect(await w.refused('petra', 'draft.saveText', { change, document: 'main', edit: 1, story })).toBe('not-found');
    await w.ask('rufus', 'draft.submit', { change });
    expect((await view('ines', circulation)).newest).toBeNull();
    await w.work();
    const seen = await view('ines', circulation);
    expect(seen.newest).toBe(1);
    const pages = await judged(seen.versions[0]?.files[0]?.file ?? '');
    for (const note of [
      '1  Purpose',
      'Every storm is entered.',
      'Read the gauge',
      'Wind log: Ærø, Ωmega, Привет',
      '1 of 1',
    ])
      expect(pages.text.replace(/ +/g, ' ')).toContain(note.replace(/ +/g, ' '));
  });

  it('lets every member send a file in one go, and withdraws and starts afresh', async () => {
    const file = await w.pdf('Lone working', 1, 'petra');
    const { circulation, number } = await w.ask('petra', 'desk.sendQuick', {
      file: file.hash,
      name: 'lone.pdf',
      title: 'Lone working',
      people: [
        { kind: 'person', person: 'oskar' },
        { kind: 'person', person: 'yuki' },
      ],
    });
    expect(number).toBe('MR-DOC-001');
    expect(
      await w.refused('petra', 'desk.sendQuick', {
        file: file.hash,
        name: 'x.pdf',
        title: 'Own',
        people: [{ kind: 'person', person: 'petra' }],
      }),
    ).toBe('preflight');
    const desk = await w.ask('oskar', 'desk.tasks', {});
    expect(desk.rows).toMatchObject([{ doing: 'approve', title: 'Lone working' }]);
    expect(await w.refused('oskar', 'circulation.withdraw', { circulation, reason: 'no' })).toBe('not-allowed');
    await w.ask('petra', 'circulation.withdraw', { circulation, reason: 'Wrong file' });
    expect((await w.ask('oskar', 'desk.tasks', {})).rows).toEqual([]);
    const fresh = await w.ask('petra', 'circulation.startAfresh', { circulation });
    const again = await view('petra', fresh.circulation);
    expect(again.phase).toBe('new');
    expect(again.seats.map((seat) => seat.holder)).toEqual(['oskar', 'yuki']);
  });
});
