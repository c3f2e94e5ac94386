import { spawnSync } from 'node:child_process';
import path from 'node:path';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Outcome, Verb } from '@/core/route/verbs';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string, person = 'ines') => w.ask(person, 'circulation.view', { circulation });
const seatOf = async (circulation: string, person: string) => {
  const seen = await view(circulation);
  const seat = seen.seats.find((candidate) => candidate.holder === person);
  if (!seat) throw new Error(`${person} has no seat`);
  return { circulation, seat: seat.id, epoch: seat.epoch, scope: seat.scope ?? '' };
};
const decide = async (circulation: string, person: string, outcome: Outcome, note: string | null = null) =>
  w.ask(person, 'seat.decideMine', { ...(await seatOf(circulation, person)), outcome, note });

async function newRecord(title: string): Promise<string> {
  return (await w.ask('ines', 'record.create', { title, documentType: 'PRO', owner: 'rufus' })).record;
}
/** A change of a record with its draft submitted, sent to one stage. */
async function sent(record: string, verb: Verb, people: readonly string[], note: string) {
  const started = await w.ask('ines', 'change.start', {
    records: [record],
    reason: note,
    author: 'rufus',
  });
  const file = await w.pdf(note);
  await w.ask('rufus', 'draft.setFile', {
    change: started.change,
    document: 'main',
    edit: 0,
    file: file.hash,
    name: 'x.pdf',
  });
  await w.ask('rufus', 'draft.submit', { change: started.change });
  await w.ask('ines', 'circulation.plan', {
    circulation: started.circulation,
    note: null,
    route: inSeries(stage(verb, people)),
  });
  await w.ask('ines', 'circulation.send', { circulation: started.circulation });
  return { ...started, file: file.hash };
}
async function released(record: string, note: string) {
  const one = await sent(record, 'approve', ['oskar'], note);
  await decide(one.circulation, 'oskar', 'approved');
  await w.work();
  await w.ask('ines', 'circulation.release', { circulation: one.circulation });
  await w.work();
  return one;
}
const recordView = (record: string, person = 'petra') => w.ask(person, 'record.view', { record });

describe('the life of a record', () => {
  it('goes from revision to revision: the newest is current, every former one stays to be read by everybody', async () => {
    const record = await newRecord('Brake test');
    const row = async () =>
      (await w.ask('petra', 'register.list', {})).rows.find((candidate) => candidate.record === record);
    expect(await row()).toMatchObject({ revision: null, coming: null });
    await released(record, 'First edition');
    expect(await row()).toMatchObject({ revision: 'A', coming: null });
    const second = await sent(record, 'approve', ['oskar'], 'Second edition');
    // While the next one is in work, the current one is still the current one.
    expect(await row()).toMatchObject({ revision: 'A', coming: 'B' });
    expect((await recordView(record)).inProgress?.revision).toBe('B');
    await decide(second.circulation, 'oskar', 'approved');
    expect(await w.refused('ines', 'circulation.release', { circulation: second.circulation })).toBe('no-final');
    await w.work();
    expect(await w.refused('petra', 'circulation.release', { circulation: second.circulation })).toMatch(
      /not-found|not-allowed/,
    );
    const both = await Promise.all(
      [1, 2].map(() => w.answer('ines', 'circulation.release', { circulation: second.circulation })),
    );
    // The later of the two is told that it is over: by the circulation, or where that was read before, by the change.
    expect(both.filter((answer) => answer.ok)).toHaveLength(1);
    const refused = both.flatMap((answer) => (answer.ok ? [] : [answer.refusal.code]));
    expect(['phase-ended', 'change-over']).toContain(refused[0]);
    expect(await row()).toMatchObject({ revision: 'B', coming: null });
    const { revisions } = await recordView(record);
    expect(revisions.map((revision) => revision.revision)).toEqual(['A', 'B']);
    expect(new Set(revisions.map((revision) => revision.files[0]?.file)).size).toBe(2);
    const { fileOfRevision } = await import('@/server/files/access');
    for (const { revision, files } of revisions)
      await w.inOrganization(organization, async (tx) => {
        const served = await fileOfRevision(
          tx,
          { kind: 'member', person: 'thea', roles: [] },
          record,
          revision,
          null,
          'show',
        );
        expect([served?.file.hash, served?.name]).toEqual([files[0]?.file, `MR-PRO-001 ${revision} Brake test.pdf`]);
      });
  });

  it('never gives one revision twice, whatever was withdrawn and begun afresh in between', async () => {
    const record = await newRecord('Withdrawn once');
    const first = await sent(record, 'review', ['yuki'], 'Begun');
    await w.ask('ines', 'circulation.withdraw', { circulation: first.circulation, reason: 'Not yet' });
    expect((await recordView(record)).inProgress).toBeNull();
    await released(record, 'Done another way');
    const afresh = await w.ask('ines', 'circulation.startAfresh', {
      circulation: first.circulation,
    });
    expect((await recordView(record)).inProgress?.revision).toBe('B');
    // The draft and the route came along, the people are asked again as if for the first time.
    const seen = await view(afresh.circulation);
    expect([seen.phase, seen.revision]).toEqual(['new', 'B']);
    expect(seen.seats.map((seat) => [seat.holder, seat.status])).toEqual([['yuki', 'idle']]);
    expect(await w.refused('ines', 'circulation.startAfresh', { circulation: first.circulation })).toBe(
      'in-work-already',
    );
    expect(await w.refused('ines', 'circulation.startAfresh', { circulation: afresh.circulation })).toBe(
      'not-withdrawn',
    );
  });

  it('is checked by its number on the command line, which names the place where it was tampered with', async () => {
    const record = await newRecord('Checked');
    const { circulation } = await released(record, 'Only edition');
    const [{ number } = { number: '' }] = (await w.ask('petra', 'register.list', {})).rows.filter(
      (row) => row.record === record,
    );
    const trail = (wanted: string) => {
      const run = spawnSync(process.execPath, [path.resolve('.build/trail.mjs'), wanted], { env: process.env });
      return { out: run.stdout.toString(), code: run.status };
    };
    const whole = trail(number.toLowerCase());
    expect(whole.code).toBe(0);
    expect(
      whole.out.match(/unbroken as far as it goes, \d+ events, \d+ texts and values, \d+ files, head [0-9a-f]{64}/g),
    ).toHaveLength(2);
    expect(trail('MR-NONE-999')).toEqual({
      out: 'There is no circulation and no document with the number MR-NONE-999.\n',
      code: 1,
    });
    const owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    const tamper = (statement: string) =>
      owner.begin(async (tx) => {
        await tx`select set_config('avenda.organization', ${organization}, true)`;
        await tx.unsafe(statement);
      });
    const stream = `circulation:${circulation}`;
    await tamper(`update event set actor = 'petra' where stream = '${stream}' and sequence = 4`);
    const changed = trail(number);
    expect(changed.out).toMatch(/circulation C-\d+: breaks at event 4: its content was changed/);
    expect(changed.code).toBe(1);
    await tamper(`delete from event where stream = '${stream}' and sequence = 3`);
    expect(trail(number).out).toMatch(/breaks at event 4: an event before it is missing/);
    // What was cut off at the end alone does not show yet, and the words do not claim it would.
    await tamper(`delete from event where stream = '${stream}' and sequence > 2`);
    expect(trail(number).out).toMatch(/circulation C-\d+: unbroken as far as it goes, 2 events/);
    await owner.end();
  });
});

describe('putting right', () => {
  it('extends, reminds, hands over and adds holders for those who may, and tells each of them', async () => {
    const { circulation } = await sent(await newRecord('Put right'), 'review', ['yuki', 'petra'], 'Please');
    await w.work();
    const before = w.mails.length;
    const hers = await seatOf(circulation, 'yuki');
    const times = { due: Date.now() + 86_400_000, closes: Date.now() + 2 * 86_400_000 };
    expect(
      await w.refused('yuki', 'circulation.extend', { ...hers, epoch: undefined, scope: undefined, ...times }),
    ).toMatch(/bad-input|not-allowed/);
    await w.ask('ines', 'circulation.extend', { circulation, seat: hers.seat, ...times });
    expect((await view(circulation)).seats[0]).toMatchObject(times);
    expect(
      await w.refused('ines', 'circulation.extend', {
        circulation,
        seat: hers.seat,
        due: times.closes,
        closes: times.due,
      }),
    ).toBe('closes-before-due');
    await w.ask('ines', 'circulation.remind', { circulation, seat: hers.seat });
    expect(await w.refused('ines', 'circulation.remind', { circulation, seat: hers.seat })).toBe('reminded-recently');

    // Yuki hands over to Benedikt: her page is over, his begins.
    const { scope: _, ...seat } = hers;
    await w.ask('yuki', 'circulation.delegate', { ...seat, to: 'benedikt', note: 'I am away' });
    expect(await w.refused('yuki', 'seat.decideMine', { ...hers, outcome: 'done' })).toBe('no-longer-yours');
    expect(await w.refused('benedikt', 'seat.decideMine', { ...hers, outcome: 'done' })).toBe('stale-seat');
    // A second holder may act in his place, and it shows on whose behalf.
    await w.ask('ines', 'circulation.addSecondHolder', { circulation, seat: hers.seat, person: 'thea' });
    expect(
      await w.refused('ines', 'circulation.addSecondHolder', { circulation, seat: hers.seat, person: 'thea' }),
    ).toBe('same-person');
    await w.work();
    const now = await seatOf(circulation, 'benedikt');
    await w.ask('thea', 'seat.decideMine', { ...now, outcome: 'done' });
    const seen = await view(circulation);
    expect(seen.seats.find((candidate) => candidate.id === hers.seat)?.decision).toMatchObject({ by: 'thea' });
    expect(JSON.stringify(seen.trail)).toContain('"onBehalfOf":"benedikt"');
    await w.work();
    expect(
      w.mails
        .slice(before)
        .map((mail) => `${w.toOf(mail)}: ${mail.subject.split(':')[0]?.replace(/ Put right$/, '')}`)
        .sort(),
    ).toEqual(['benedikt: Please review', 'thea: Please review']);
    const told = (await w.ask('ines', 'told.list', { all: true })).rows.map(({ text }) => text);
    expect(told.some((text) => /has delegated their part in “Put right”/.test(text))).toBe(true);
  });

  it('gives a seat to an author, a stranger or somebody who left only where the rules let it', async () => {
    const { circulation } = await sent(await newRecord('Rules'), 'approve', ['oskar'], 'Please');
    const { seat, epoch } = await seatOf(circulation, 'oskar');
    const to = (person: string) => ({ circulation, seat, to: { kind: 'person' as const, person } });
    expect(await w.refused('ines', 'circulation.reassign', to('rufus'))).toBe('author-decides');
    expect(await w.refused('ines', 'circulation.reassign', to('nobody'))).toBe('unknown-person');
    expect(await w.refused('ines', 'circulation.reassign', to('jarek'))).toBe('unknown-person');
    expect(await w.refused('ines', 'circulation.reassign', to('oskar'))).toBe('same-person');
    expect(await w.refused('oskar', 'circulation.delegate', { circulation, seat, epoch, to: 'rufus' })).toBe(
      'author-decides',
    );
    await w.ask('thea', 'people.leave', { person: 'petra', left: true });
    expect(await w.refused('ines', 'circulation.reassign', to('petra'))).toBe('person-left');
    await w.ask('ines', 'circulation.reassign', to('yuki'));
    // Whoever was replaced comes back only by the controller.
    const next = await seatOf(circulation, 'yuki');
    expect(await w.refused('yuki', 'circulation.delegate', { circulation, seat, epoch: next.epoch, to: 'oskar' })).toBe(
      'barred',
    );
    await w.ask('ines', 'circulation.reassign', to('oskar'));
  });
});

describe('planning', () => {
  it('is a working copy: saved as it is made, told once when it is sent, and moves nothing until then', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Lamps', documentType: 'PRO', owner: 'rufus' });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      records: [record],
      reason: 'Worn out',
      author: 'rufus',
    });
    const view = () => w.ask('ines', 'circulation.view', { circulation });
    const row = async () =>
      (await w.ask('ines', 'circulation.list', { state: 'all', filter: 'lamps' })).rows.find(
        ({ id }) => id === circulation,
      );
    const before = await row();
    await w.forward(60_000);
    const reviewed = stage('review', ['yuki']);
    const signed = stage('sign', ['oskar']);
    for (const note of ['One', 'Two ', null, 'Three'])
      await w.ask('ines', 'circulation.plan', { circulation, route: inSeries(reviewed, signed), note });
    const file = await w.pdf('Lamps');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'lamps.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    const submitted = await row();
    const document = (await view()).versions[0]?.files[0];
    const field = {
      id: 'f',
      seat: signed.seats[0]?.id ?? '',
      file: document?.id ?? '',
      kind: 'signature' as const,
      page: 0,
      x: 60,
      y: 300,
      width: 130,
      height: 40,
      needed: true,
      label: '',
    };
    const put = (x: number) =>
      w.ask('ines', 'circulation.putFields', {
        circulation,
        file: field.file,
        content: document?.file ?? '',
        fields: [{ ...field, x }],
      });
    await put(60);
    await put(80);
    expect(
      await w.refused('ines', 'circulation.putFields', {
        circulation,
        file: field.file,
        content: document?.file,
        fields: [{ ...field, seat: reviewed.seats[0]?.id }],
      }),
    ).toBe('fields-unfit');
    expect(await w.refused('rufus', 'circulation.plan', { circulation, route: inSeries(reviewed), note: null })).toBe(
      'not-allowed',
    );
    await w.forward(60_000);
    const shown = await view();
    expect([shown.note, shown.fields[0]?.x, shown.seatsWithoutField, shown.stages.map(({ verb }) => verb)]).toEqual([
      'Three',
      80,
      [],
      ['review', 'sign'],
    ]);
    // Lists show the line and that it can be sent; nothing moved since the version came in.
    expect((await row())?.line).toBe(submitted?.line);
    expect((await row())?.line).not.toBe(before?.line);
    expect((await row())?.last).toBe(submitted?.last);
    expect(shown.tasks.map(({ doing }) => doing)).toEqual(['send']);
    expect(shown.trail.map(({ type }) => type)).toEqual(['circulation.created', 'version.attached']);
    await w.ask('ines', 'circulation.send', { circulation });
    const sent = await view();
    expect(sent.trail.map(({ type }) => type).slice(2, 5)).toEqual(['route.planned', 'fields.put', 'circulation.sent']);
    expect([sent.note, sent.fields.map(({ x }) => x)]).toEqual(['Three', [80]]);
    expect(await w.refused('ines', 'circulation.plan', { circulation, route: inSeries(reviewed), note: null })).toBe(
      'phase-sent',
    );
    await w.inOrganization(organization, async (tx) => {
      expect(await tx.sql`select 1 from planning where circulation = ${circulation}`).toEqual([]);
    });
  });

  it('loses nothing when two windows save at once, and is not changed any more by who was late for the sending', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Lifts', documentType: 'PRO', owner: 'rufus' });
    const { circulation, change } = await w.ask('ines', 'change.start', {
      records: [record],
      reason: 'Worn out',
      author: 'rufus',
    });
    const signed = stage('sign', ['oskar']);
    const file = await w.pdf('Lifts');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'lifts.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    await w.ask('ines', 'circulation.plan', { circulation, route: inSeries(signed), note: '0' });
    const view = () => w.ask('ines', 'circulation.view', { circulation });
    const document = (await view()).versions[0]?.files[0];
    const put = (x: number) =>
      w.ask('ines', 'circulation.putFields', {
        circulation,
        file: document?.id ?? '',
        content: document?.file ?? '',
        fields: [
          {
            id: 'f',
            seat: signed.seats[0]?.id ?? '',
            file: document?.id ?? '',
            kind: 'signature',
            page: 0,
            x,
            y: 300,
            width: 130,
            height: 40,
            needed: true,
            label: '',
          },
        ],
      });
    const plan = (note: string) => w.answer('ines', 'circulation.plan', { circulation, route: inSeries(signed), note });
    for (let i = 1; i <= 15; i += 1) {
      await Promise.all([plan(`${i}`), put(i)]);
      const now = await view();
      expect([now.note, now.fields[0]?.x]).toEqual([`${i}`, i]);
    }
    const [sent, late] = await Promise.all([
      w.answer('ines', 'circulation.send', { circulation, releasesItself: false }),
      plan('late'),
    ]);
    expect(sent.ok).toBe(true);
    const { note } = await view();
    // Either it came first and was sent, or it was refused; never accepted and left behind.
    expect(late.ok ? note : late.refusal.code).toBe(late.ok ? 'late' : 'phase-sent');
  });

  it('is recorded with a withdrawal as well, and what begins afresh from it begins with it', async () => {
    const { record } = await w.ask('ines', 'record.create', { title: 'Ladders', documentType: 'PRO', owner: 'rufus' });
    const { circulation } = await w.ask('ines', 'change.start', { records: [record], reason: 'Worn', author: 'rufus' });
    await w.ask('ines', 'circulation.plan', {
      circulation,
      route: inSeries(stage('review', ['yuki'])),
      note: 'Look well',
    });
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'Not now' });
    const view = await w.ask('ines', 'circulation.view', { circulation });
    expect(view.trail.map(({ type }) => type)).toEqual([
      'circulation.created',
      'route.planned',
      'circulation.withdrawn',
    ]);
    const afresh = await w.ask('ines', 'circulation.startAfresh', { circulation });
    const again = await w.ask('ines', 'circulation.view', { circulation: afresh.circulation });
    expect(again.whole).toEqual({ due: null, closes: null });
    expect([again.note, again.stages.map(({ verb }) => verb), again.seats.map(({ holder }) => holder)]).toEqual([
      'Look well',
      ['review'],
      ['yuki'],
    ]);
    expect(again.trail.map(({ type }) => type)).toEqual(['circulation.created']);
  });

  it('takes what was planned along: who names whom, what stages depend on, values, times, and fields where the file is the same', async () => {
    await w.ask('thea', 'types.describe', {
      type: 'WI',
      name: 'Work instruction',
      scheme: 'MR-WI-000',
      active: true,
      marginLine: false,
      added: false,
      facts: [
        {
          id: 'amount',
          name: 'Amount',
          kind: 'number',
          needed: false,
          choices: [],
          currency: '',
          least: null,
          most: null,
          standard: null,
        },
      ],
    });
    const { circulation, change } = await w.submitted({ documentType: 'WI', title: 'Taken along' });
    const review = stage('review', ['thea']);
    const namer = review.seats[0]?.id ?? '';
    const sign = { ...stage('sign', ['jarek']), due: { kind: 'instant', at: (await w.now()) + 3_600_000 } as const };
    const approve = {
      ...stage('approve', ['petra', 'oskar'], {
        condition: { kind: 'not', of: { kind: 'outcome', stage: review.id, outcome: 'declined' } },
      }),
    };
    const seats = [
      { ...approve.seats[0], assignment: { kind: 'named', by: namer } },
      approve.seats[1],
    ] as typeof approve.seats;
    await w.ask('ines', 'circulation.plan', {
      circulation,
      note: null,
      basis: null,
      route: inSeries(review, { ...approve, seats }, sign),
      facts: { amount: { kind: 'number', thousandths: 7000 } },
      whole: { due: { kind: 'after', amount: 9, unit: 'workingDays' }, closes: null },
    });
    const view = () => w.ask('ines', 'circulation.view', { circulation });
    const content = (await view()).versions[0]?.files[0]?.file ?? '';
    const field = { id: 'mark', seat: sign.seats[0]?.id ?? '', file: 'main', kind: 'signature' as const, page: 0 };
    const fields = [{ ...field, x: 60, y: 60, width: 168, height: 46, needed: true, label: '' }];
    await w.ask('ines', 'circulation.putFields', { circulation, file: 'main', content, fields });
    await w.ask('ines', 'circulation.send', { circulation });
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'Once more' });
    await w.forward(2 * 3_600_000);
    const fresh = await w.ask('ines', 'circulation.startAfresh', { circulation });
    const { change: next } = await w.ask('ines', 'circulation.view', { circulation: fresh.circulation });
    expect(next).not.toBe(change);
    await w.ask('rufus', 'draft.submit', { change: next });
    const again = await w.ask('ines', 'circulation.view', { circulation: fresh.circulation });
    const [one, two, three] = again.route.parts.flatMap((part) => (part.kind === 'stage' ? [part] : []));
    expect(one?.id).not.toBe(review.id);
    expect(two?.seats[0]?.assignment).toEqual({ kind: 'named', by: one?.seats[0]?.id });
    expect(two?.condition).toEqual({ kind: 'not', of: { kind: 'outcome', stage: one?.id, outcome: 'declined' } });
    expect(again.facts).toEqual({ amount: { kind: 'number', thousandths: 7000 } });
    expect(again.whole.due).toEqual({ kind: 'after', amount: 9, unit: 'workingDays' });
    // What has passed is proposed anew, ahead of now.
    expect(three?.due).toMatchObject({ kind: 'instant' });
    expect(three?.due?.kind === 'instant' && three.due.at > (await w.now())).toBe(true);
    expect(again.fields.map(({ seat, file }) => [seat, file])).toEqual([[three?.seats[0]?.id, 'main']]);
    await w.ask('ines', 'circulation.send', { circulation: fresh.circulation });
  });
});
