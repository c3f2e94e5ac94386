import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Stage } from '@/core/route/route';
import type { SeatView } from '@/server/signing/view';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const day = 86_400_000;

/** A circulation under way in which outside people are asked, and the link each was sent. */
async function sent(...stages: Stage[]) {
  const { record } = await w.ask('ines', 'record.create', {
    title: `Inspection ${randomUUID().slice(0, 6)}`,
    documentType: 'CER',
    owner: 'rufus',
  });
  const { circulation, change } = await w.ask('ines', 'change.start', {
    records: [record],
    reason: 'Yearly',
    author: 'rufus',
  });
  const file = await w.pdf('Inspection');
  await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'inspection.pdf' });
  await w.ask('rufus', 'draft.submit', { change });
  await w.ask('ines', 'circulation.plan', { circulation, note: null, route: inSeries(...stages) });
  const signing = stages.filter((one) => one.verb === 'sign').flatMap((one) => one.seats);
  if (signing.length > 0)
    await w.ask('ines', 'circulation.putFields', {
      circulation,
      file: 'main',
      content: file.hash,
      fields: signing.map((seat, i) => ({
        id: `p${i}`,
        seat: seat.id,
        file: 'main',
        kind: 'signature' as const,
        page: 0,
        x: 80,
        y: 300 + i * 80,
        width: 168,
        height: 46,
        needed: true,
        label: '',
      })),
    });
  await w.ask('ines', 'circulation.send', { circulation });
  await w.work();
  return { circulation, file: file.hash, change, record };
}
const linkTo = (name: string) => w.linkIn(w.mails.findLast((mail) => mail.to.name.startsWith(name)));
const seen = async (link: string): Promise<SeatView> => {
  const answer = await w.throughLink(link, 'seat.view');
  if (!answer.ok) throw new Error(answer.refusal.sentence);
  return answer.value as SeatView;
};
const code = async (link: string, name: string, input: object = {}) => {
  const answer = await w.throughLink(link, name, input);
  return answer.ok ? 'ok' : answer.refusal.code;
};
const seatIn = async (circulation: string, person: string) => {
  const view = await w.ask('ines', 'circulation.view', { circulation });
  const seat = view.seats.find((candidate) => candidate.holder === person);
  if (!seat) throw new Error(`${person} has no seat`);
  return seat;
};
const decision = (view: SeatView, outcome: string, more: object = {}) => ({
  seat: view.seat,
  epoch: view.epoch,
  scope: view.content?.scope,
  outcome,
  ...more,
});
const hand = { p0: { kind: 'typed', text: 'Jarek Holm' } };

describe('a link', () => {
  it('marks nothing by being looked at; only the page’s own word says that it was seen', async () => {
    const { circulation } = await sent(stage('sign', ['jarek']));
    const link = linkTo('Jarek');
    for (let i = 0; i < 3; i += 1) await seen(link);
    expect((await seatIn(circulation, 'jarek')).seen).toBeNull();
    const { content } = await seen(link);
    expect(await code(link, 'seat.see', { scope: 'f'.repeat(64) })).toBe('stale-content');
    expect(await code(link, 'seat.see', { scope: content?.scope })).toBe('ok');
    expect((await seatIn(circulation, 'jarek')).seen).not.toBeNull();
  });

  it('opens one seat: nothing else of the circulation, no other seat, no operation for members', async () => {
    const { circulation } = await sent(stage('sign', ['jarek', 'sanna']));
    const view = await seen(linkTo('Jarek'));
    const hers = await seatIn(circulation, 'sanna');
    expect(view.fields.map((field) => field.id)).toEqual(['p0']);
    expect(JSON.stringify(view)).not.toContain('Sanna');
    expect(
      await code(linkTo('Jarek'), 'seat.decide', { ...decision(view, 'signed', { values: hand }), seat: hers.id }),
    ).toBe('not-allowed');
    for (const name of ['circulation.view', 'desk.view', 'seat.decideMine', 'circulation.withdraw']) {
      const answer = await w.throughLink(linkTo('Jarek'), name, { circulation, seat: hers.id, reason: 'x' });
      expect(answer.ok, name).toBe(false);
    }
    // Every code opens only its own handle.
    const [one = '', other = ''] = [linkTo('Jarek'), linkTo('Sanna')].map((link) => link.replace(/^.*\/s\//, ''));
    const mixed = `http://x/s/${one.split('.')[0]}.${other.split('.')[1]}`;
    expect(await code(mixed, 'seat.view')).toBe('link-unknown');
    expect(await code(`http://x/s/${one.slice(0, -1)}`, 'seat.view')).toBe('link-unknown');
  });

  it('takes a signature only with everything its fields need, of the right kind, and nothing else', async () => {
    await sent(stage('sign', ['jarek']));
    const link = linkTo('Jarek');
    const view = await seen(link);
    const signedWith = (values: object) => code(link, 'seat.decide', decision(view, 'signed', { values }));
    expect(await signedWith({})).toBe('values-unfit');
    expect(await signedWith({ p0: { kind: 'typed', text: '   ' } })).toBe('values-unfit');
    expect(await signedWith({ p0: { kind: 'drawn', strokes: [[1, 2]], width: 10, height: 10 } })).toBe('values-unfit');
    expect(await signedWith({ p0: { kind: 'text', text: 'Jarek' } })).toBe('values-unfit');
    expect(await signedWith({ p0: { kind: 'typed', text: 'x'.repeat(501) } })).toMatch(/values-unfit|bad-input/);
    expect(await signedWith({ ...hand, elsewhere: { kind: 'typed', text: 'Jarek' } })).toBe('values-unfit');
    expect(await code(link, 'seat.decide', decision(view, 'approved'))).toBe('wrong-outcome');
    expect(await code(link, 'seat.decide', decision(view, 'declined'))).toBe('reason-missing');
    expect(await code(link, 'seat.decide', decision(view, 'declined', { note: '  ' }))).toBe('reason-missing');
    expect(await signedWith(hand)).toBe('ok');
  });

  it('decides once: twice the same moment and again later are refused, and the seat is the receipt from then on', async () => {
    const { circulation, file } = await sent(stage('sign', ['jarek', 'sanna']));
    const link = linkTo('Jarek');
    const view = await seen(link);
    const both = await Promise.all(
      [1, 2].map(() => code(link, 'seat.decide', decision(view, 'signed', { values: hand }))),
    );
    expect(both.sort()).toEqual(['already-decided', 'ok']);
    const receipt = await seen(link);
    expect(receipt).toMatchObject({ status: 'decided', content: null, fields: [], copies: null });
    expect(receipt.decision?.outcome).toBe('signed');
    const { fileOfLink } = await import('@/server/files/access');
    const seat = await seatIn(circulation, 'jarek');
    await w.inOrganization(organization, async (tx) => {
      expect(
        await fileOfLink(
          tx,
          { kind: 'link', person: 'jarek', circulation, seat: seat.id, epoch: seat.epoch },
          file,
          'show',
        ),
      ).toBeNull();
    });
  });

  it('shows no document once the seat went to another, and none after the circulation was withdrawn', async () => {
    const { circulation } = await sent(stage('sign', ['jarek']));
    const link = linkTo('Jarek');
    const view = await seen(link);
    await w.ask('ines', 'circulation.reassign', {
      circulation,
      seat: view.seat,
      to: { kind: 'outside', person: 'sanna' },
    });
    for (const name of ['seat.view', 'seat.askForLink']) expect(await code(link, name)).toBe('link-moved');
    expect(await code(link, 'seat.decide', decision(view, 'signed', { values: hand }))).toBe('link-moved');
    expect(await code(link, 'seat.see', { scope: view.content?.scope })).toBe('link-moved');
    await w.work();
    const hers = linkTo('Sanna');
    expect((await seen(hers)).content).not.toBeNull();
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'Wrong year' });
    expect(await seen(hers)).toMatchObject({ phase: 'withdrawn', content: null, fields: [] });
    expect(await code(hers, 'seat.decide', decision(view, 'signed', { values: hand }))).not.toBe('ok');
  });

  it('lets a reader comment on what they read and answer in their own threads; others’ comments stay inside', async () => {
    const { circulation, file } = await sent(stage('review', ['jarek', 'petra']));
    const link = linkTo('Jarek');
    const view = await seen(link);
    const comment = (more: object = {}) => ({ comment: randomUUID(), file, note: 'The load is missing', ...more });
    const inside = comment({ note: 'Between us: not his business' });
    await w.ask('petra', 'circulation.comment', { circulation, ...inside });
    const his = comment({ spot: { page: 0, x: 100, y: 200 } });
    expect(await code(link, 'seat.comment', his)).toBe('ok');
    // The same comment again, after an answer that was lost, is one comment.
    expect(await code(link, 'seat.comment', his)).toBe('ok');
    await w.ask('rufus', 'circulation.comment', {
      circulation,
      ...comment({ thread: his.comment, note: 'It follows' }),
    });
    expect(await code(link, 'seat.comment', comment({ thread: his.comment, note: 'Thank you' }))).toBe('ok');
    const said = (await seen(link)).comments;
    expect(said.map(({ by, note, spot }) => [by, note, spot?.page])).toEqual([
      ['Jarek Holm', 'The load is missing', 0],
      ['Rufus Adeyemi', 'It follows', undefined],
      ['Jarek Holm', 'Thank you', undefined],
    ]);
    expect(JSON.stringify(await seen(link))).not.toContain('not his business');
    expect(await code(link, 'seat.comment', comment({ thread: inside.comment }))).toBe('not-found');
    expect(await code(link, 'seat.comment', comment({ file: 'e'.repeat(64) }))).toBe('no-such-file');
    expect(await code(link, 'seat.comment', comment({ note: ' ' }))).toBe('bad-input');
    // What they began they may call resolved, and open again; what others began they may not.
    const settled = async () => (await seen(link)).comments.map(({ resolved }) => resolved);
    expect(await code(link, 'seat.settleComment', { comment: his.comment, resolved: true })).toBe('ok');
    expect(await settled()).toEqual([true, false, false]);
    expect(await code(link, 'seat.settleComment', { comment: his.comment, resolved: false })).toBe('ok');
    expect(await settled()).toEqual([false, false, false]);
    expect(await code(link, 'seat.settleComment', { comment: inside.comment, resolved: true })).toBe('not-found');
    const all = await w.ask('ines', 'circulation.view', { circulation });
    expect(all.comments.map((entry) => entry.by)).toEqual(['petra', 'jarek', 'rufus', 'jarek']);
    expect(await code(link, 'seat.decide', decision(view, 'done'))).toBe('ok');
    expect(await code(link, 'seat.comment', comment())).toBe('comment-closed');
    expect((await seen(link)).comments).toEqual([]);
  });

  it('can be asked for anew three times in a quarter of an hour, and tells the controller', async () => {
    await sent(stage('sign', ['jarek']));
    const link = linkTo('Jarek');
    const before = w.mails.length;
    await w.toNextQuarter();
    for (let i = 0; i < 3; i += 1) expect(await code(link, 'seat.askForLink')).toBe('ok');
    expect(await code(link, 'seat.askForLink')).toBe('too-often');
    await w.work();
    const told = w.mails.slice(before).filter((mail) => mail.subject.startsWith('A new link'));
    expect(told.map(w.toOf)).toEqual(Array(3).fill('ines'));
    for (const mail of told) expect(mail.text).not.toContain('/s/');
  });

  it('is copied by the controller alone, is the one that was sent, and stands in no table, job or event', async () => {
    const { circulation } = await sent(stage('review', ['jarek', 'petra']));
    const link = linkTo('Jarek');
    const seat = await seatIn(circulation, 'jarek');
    await w.ask('ines', 'circulation.copyLink', { circulation, seat: seat.id });
    expect(await w.ask('ines', 'circulation.linkAddress', { circulation, seat: seat.id })).toEqual({
      address: link,
      to: 'jarek',
    });
    expect(await w.refused('petra', 'circulation.copyLink', { circulation, seat: seat.id })).toBe('not-allowed');
    const members = await seatIn(circulation, 'petra');
    expect(await w.refused('ines', 'circulation.copyLink', { circulation, seat: members.id })).toBe('not-outside');
    const secret = link.split('.').at(-1) ?? '';
    expect(secret.length).toBe(32);
    const kept = await w.inOrganization(
      organization,
      (tx) => tx.sql<{ row: string }[]>`
        select row_to_json(event)::text as row from event where organization = ${organization}
        union all select row_to_json(job)::text from job where organization = ${organization}
        union all select row_to_json(link)::text from link where organization = ${organization}
        union all select row_to_json(payload)::text from payload where organization = ${organization}
        union all select row_to_json(command)::text from command where organization = ${organization}
          and id <> ''`,
    );
    expect(kept.length).toBeGreaterThan(20);
    expect(kept.filter(({ row }) => row.includes(secret))).toEqual([]);
  });

  it('gives the released copy for thirty days and then only says how things stand', async () => {
    const { circulation } = await sent(stage('sign', ['jarek']));
    const link = linkTo('Jarek');
    await w.throughLink(link, 'seat.decide', decision(await seen(link), 'signed', { values: hand }));
    await w.work();
    expect((await seen(link)).copies).toBeNull();
    await w.ask('ines', 'circulation.release', { circulation });
    const { copies } = await seen(link);
    expect(copies?.open).toBe(true);
    expect((copies?.until ?? 0) - Date.now()).toBeGreaterThan(29 * day);
    const { fileOfLink } = await import('@/server/files/access');
    const seat = await seatIn(circulation, 'jarek');
    const fetched = () =>
      w.inOrganization(organization, (tx) =>
        fileOfLink(
          tx,
          { kind: 'link', person: 'jarek', circulation, seat: seat.id, epoch: seat.epoch },
          copies?.files[0]?.file ?? '',
          'download',
        ),
      );
    expect((await fetched())?.name).toMatch(/^MR-CER-\d{3} A Inspection .*\.pdf$/);
    await w.forward(31 * day);
    expect(await fetched()).toBeNull();
    const over = await seen(link);
    expect([over.copies?.open, over.phase, over.decision?.outcome]).toEqual([false, 'completed', 'signed']);
  });
});
