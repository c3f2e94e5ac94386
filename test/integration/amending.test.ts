import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { editedBy, type RouteEdit } from '@/core/route/edit';
import { freshSeat, type Stage } from '@/core/route/route';
import type { Outcome } from '@/core/route/verbs';
import type { Amendment } from '@/server/circulation/amend';
import { inSeries, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string, person = 'ines') => w.ask(person, 'circulation.view', { circulation });
const desk = async (person: string) => (await w.ask(person, 'desk.tasks', {})).rows.map((row) => row.circulation);

function sent(...stages: Stage[]) {
  return w.sent(inSeries(...stages), { note: 'Please' });
}
async function amendment(circulation: string, edits: readonly RouteEdit[], more: Partial<Amendment> = {}) {
  const { route, offers, note } = await view(circulation);
  const basis = offers.find(({ act }) => act === 'amend')?.needs.basis ?? '';
  return {
    circulation,
    basis,
    route: editedBy(route, edits),
    note,
    reason: null,
    whole: null,
    files: null,
    ...more,
  };
}
const decide = async (circulation: string, person: string, outcome: Outcome = 'done') => {
  const seat = (await view(circulation)).seats.find((one) => one.holder === person);
  const { id = '', epoch = 0, scope } = seat ?? {};
  return w.ask(person, 'seat.decideMine', { circulation, seat: id, epoch, scope: scope ?? '', outcome, note: null });
};

describe('a circulation as it was', () => {
  it('is shown from any line of its trail, with who held it then and what they were called, and nothing can be done there', async () => {
    const review = stage('review', ['oskar', 'petra']);
    const { circulation } = await sent(review);
    const asked = (await view(circulation)).trail.length;
    await decide(circulation, 'oskar');
    await w.ask('thea', 'people.describe', { person: 'petra', name: 'Petra Novak-Rowe', work: '', roles: [] });
    const [first] = review.seats;
    const given = await amendment(circulation, [{ do: 'removeSeat', seat: review.seats[1]?.id ?? '' }]);
    await w.ask('ines', 'circulation.amend', given);
    const then = await w.ask('ines', 'circulation.asItWas', { circulation, sequence: asked });
    expect(then.asOf).toMatchObject({ sequence: asked });
    expect(then.seats.map(({ holder, status }) => [holder, status])).toEqual([
      ['oskar', 'asked'],
      ['petra', 'asked'],
    ]);
    expect(then.trail).toHaveLength(asked);
    expect(then.offers).toEqual([]);
    expect(then.past).toContainEqual(expect.objectContaining({ person: 'petra', name: 'Petra Novak' }));
    const now = await view(circulation);
    expect(now.seats.find(({ id }) => id === first?.id)?.status).toBe('decided');
    expect(now.phase).toBe('finishing');
    // Who may not see it now does not see it as it was.
    const stranger = await w.answer('yuki', 'circulation.asItWas', { circulation, sequence: asked });
    expect(stranger.ok).toBe(false);
    expect(await w.refused('ines', 'circulation.asItWas', { circulation, sequence: 0 })).toBe('bad-input');
    await w.ask('thea', 'people.describe', { person: 'petra', name: 'Petra Novak', work: '', roles: [] });
  });
});

describe('amending a circulation under way', () => {
  it('shows beforehand what changes for whom, and then exactly that happens', async () => {
    const review = stage('review', ['oskar', 'petra']);
    const { circulation } = await sent(review, stage('read', ['benedikt']));
    const seat = freshSeat('new-seat', { kind: 'person', person: 'yuki' });
    const remove = review.seats[0]?.id ?? '';
    const given = await amendment(
      circulation,
      [
        { do: 'addSeat', stage: review.id, seat },
        { do: 'removeSeat', seat: remove },
      ],
      { note: 'Please, by noon', reason: 'Oskar has other work' },
    );
    const mails = w.mails.length;
    const shown = await w.ask('ines', 'circulation.previewAmendment', given);
    if (!shown.ok) throw new Error(shown.refusal.code);
    expect(shown.preview.added).toMatchObject([{ person: 'yuki', doing: 'review' }]);
    expect(shown.preview.removed).toMatchObject([{ person: 'oskar', doing: 'review' }]);
    expect(shown.preview.messages.map(({ template, person }) => [template, person])).toEqual([
      ['seatMoved', 'oskar'],
      ['amended', 'petra'],
      ['asked', 'yuki'],
    ]);
    // Looking changes nothing, and only whoever steers may look.
    await w.work();
    expect(w.mails.length).toBe(mails);
    expect(await w.refused('petra', 'circulation.previewAmendment', given)).toBe('not-allowed');
    expect(await w.refused('petra', 'circulation.amend', given)).toBe('not-allowed');
    await w.ask('ines', 'circulation.amend', given);
    await w.work();
    expect(w.mails.slice(mails).map(w.toOf)).toEqual(['oskar', 'petra', 'yuki']);
    expect(w.mails[mails + 1]?.text).toContain('Oskar has other work');
    expect(await desk('oskar')).not.toContain(circulation);
    expect(await desk('yuki')).toContain(circulation);
    expect((await w.answer('oskar', 'circulation.view', { circulation })).ok).toBe(false);
    const { trail, note } = await view(circulation, 'petra');
    expect(note).toBe('Please, by noon');
    const line = trail.find(({ type }) => type === 'circulation.amended');
    expect(line).toMatchObject({ actor: 'ines', note: 'Oskar has other work', noteChanged: true });
    expect(line?.differences.map(({ what }) => what)).toEqual(['seatRemoved', 'seatAdded']);
  });

  it('is refused on what has moved on, all or nothing', async () => {
    const review = stage('review', ['oskar', 'petra']);
    const { circulation } = await sent(review, stage('approve', ['benedikt']));
    const given = await amendment(circulation, [
      { do: 'addSeat', stage: review.id, seat: freshSeat('y', { kind: 'person', person: 'yuki' }) },
    ]);
    await decide(circulation, 'oskar');
    expect(await w.refused('ines', 'circulation.amend', given)).toBe('stale-amendment');
    const looked = await w.ask('ines', 'circulation.previewAmendment', given);
    expect(looked).toMatchObject({ ok: false, refusal: { code: 'stale-amendment' } });
    expect((await view(circulation)).seats).toHaveLength(3);
    const bad = await amendment(circulation, [{ do: 'removeSeat', seat: review.seats[0]?.id ?? '' }]);
    expect(await w.refused('ines', 'circulation.amend', bad)).toBe('amend-decided');
    const stranger = await amendment(circulation, [
      { do: 'addSeat', stage: review.id, seat: freshSeat('n', { kind: 'person', person: 'nobody-here' }) },
    ]);
    expect(await w.refused('ines', 'circulation.amend', stranger)).toBe('unknown-person');
  });

  it('takes in a file where nobody has acted, with the next version of the change, and no rework', async () => {
    const { circulation, change } = await sent(stage('review', ['oskar', 'petra']));
    const before = await view(circulation);
    const [main] = before.versions[0]?.files ?? [];
    const annex = await w.pdf('Annex', 1, 'ines');
    const theirs = await w.pdf('Not hers', 1, 'yuki');
    const files = (hash: string) => [
      { id: main?.id ?? '', file: main?.file ?? '', name: main?.name ?? '', role: 'document' as const },
      { id: null, file: hash, name: 'Annex.pdf', role: 'attachment' as const },
    ];
    const foreign = await amendment(circulation, [], { files: files(theirs.hash) });
    expect(await w.refused('ines', 'circulation.amend', foreign)).toBe('file-unknown');
    await w.ask('ines', 'circulation.amend', await amendment(circulation, [], { files: files(annex.hash) }));
    await w.work();
    const after = await view(circulation);
    expect(after.phase).toBe('running');
    expect(after.newest).toBe(2);
    expect(after.versions[1]?.files.map(({ name, role }) => [name, role])).toEqual([
      [main?.name, 'document'],
      ['Annex.pdf', 'attachment'],
    ]);
    expect(w.mails.slice(-2).map(w.toOf).sort()).toEqual(['oskar', 'petra']);
    // The author goes on from there.
    const draft = await w.ask('rufus', 'draft.view', { change });
    expect(draft?.attachments.map(({ name }) => name)).toEqual(['Annex.pdf']);
    await decide(circulation, 'oskar');
    const gone = await amendment(circulation, [], { files: files(annex.hash).slice(0, 1) });
    expect(await w.refused('ines', 'circulation.amend', gone)).toBe('amend-acted');
    expect((await view(circulation)).newest).toBe(2);
  });
});

describe('an amended circulation', () => {
  it('is told in the order of its line; what was removed stands last where somebody had been asked, else not at all', async () => {
    const review = stage('review', ['petra', 'oskar']);
    const read = stage('read', ['thea']);
    const { circulation } = await sent(review, stage('approve', ['benedikt']), read);
    const before = await view(circulation);
    const between: Stage = { ...stage('contribute', ['yuki']), id: 'between' };
    await w.ask(
      'ines',
      'circulation.amend',
      await amendment(circulation, [
        { do: 'add', part: between, at: { series: before.route.id, at: 1 } },
        { do: 'remove', part: read.id },
        { do: 'removeSeat', seat: review.seats[1]?.id ?? '' },
      ]),
    );
    const { stages, seats } = await view(circulation);
    expect(stages.map(({ verb, removed }) => [verb, removed])).toEqual([
      ['review', false],
      ['contribute', false],
      ['approve', false],
    ]);
    expect(stages[0]?.seats).toEqual([review.seats[0]?.id]);
    expect(seats.find(({ holder }) => holder === 'oskar')).toMatchObject({ removed: true, stage: review.id });
    expect(seats.some(({ holder }) => holder === 'thea')).toBe(false);
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
  });
});
