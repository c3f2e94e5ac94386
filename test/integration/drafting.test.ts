import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Story } from '@/core/text/story';
import { inSeries, organization, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const draft = (change: string, person = 'rufus') => w.ask(person, 'draft.view', { change });
const main = async (change: string) => (await draft(change)).documents[0];

async function changed(title: string) {
  const { record } = await w.ask('ines', 'record.create', { title, documentType: 'WI', owner: 'rufus' });
  const started = await w.ask('ines', 'change.start', {
    records: [record],
    reason: 'Because',
    author: 'rufus',
  });
  return { record, ...started };
}
const story = (...texts: string[]): Story => ({
  format: 1,
  blocks: texts.map((text, i) => ({ id: `b${i}`, kind: 'paragraph', level: 0, runs: [{ text, marks: {} }] })),
});
const other = async (name: string) => {
  const { putFile, sha256 } = await import('@/server/files/store');
  const bytes = Buffer.from(`a table called ${name}`);
  const file = { hash: sha256(bytes), bytes: bytes.length, mediaType: 'application/octet-stream', facts: {} };
  const read = async function* () {
    yield bytes;
  };
  await putFile(organization, file, read, 'rufus');
  return file;
};

describe('a working copy', () => {
  it('is read by its author and controller, and written by its author alone', async () => {
    const { change } = await changed('Rights of a draft');
    for (const person of ['rufus', 'ines']) expect((await draft(change, person)).edit).toBe(0);
    for (const person of ['petra', 'thea']) expect(await w.refused(person, 'draft.view', { change })).toBe('not-found');
    const text = { change, document: 'main', edit: 0, story: story('Mine') };
    for (const person of ['ines', 'petra', 'thea'])
      expect(await w.refused(person, 'draft.saveText', text), person).toBe(
        person === 'ines' ? 'not-allowed' : 'not-found',
      );
    expect(await w.ask('rufus', 'draft.saveText', text)).toEqual({ edit: 1, unset: [] });
  });

  it('of two windows keeps the first and tells the second, whatever each of them saves', async () => {
    const { change } = await changed('Two windows');
    const pdf = await w.pdf('Two windows');
    const saves: [string, object][] = [
      ['draft.saveText', { document: 'main', story: story('One') }],
      ['draft.choose', { document: 'main', source: 'file' }],
      ['draft.setFile', { document: 'main', file: pdf.hash, name: 'two.pdf' }],
      ['draft.setAttachments', { files: [] }],
    ];
    for (const [name, input] of saves) {
      const { edit } = await draft(change);
      const answers = await Promise.all([0, 1].map(() => w.answer('rufus', name, { change, edit, ...input })));
      expect(answers.map((answer) => (answer.ok ? 'ok' : answer.refusal.code)).sort(), name).toEqual([
        'draft-moved',
        'ok',
      ]);
      expect((await draft(change)).edit, name).toBe(edit + 1);
    }
  });

  it('keeps text and file apart, so that trying the one loses nothing of the other', async () => {
    const { change } = await changed('Back and forth');
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 0, story: story('Written first') });
    const pdf = await w.pdf('Dropped later');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 1, file: pdf.hash, name: 'later.pdf' });
    expect((await main(change))?.source).toBe('file');
    await w.ask('rufus', 'draft.choose', { change, document: 'main', edit: 2, source: 'text' });
    const kept = await main(change);
    expect(kept?.source).toBe('text');
    expect(kept?.story).toEqual(story('Written first'));
  });

  it('refuses what is no draft: another kind of file, a file that is not here, nothing at all, a text that is none', async () => {
    const { change } = await changed('No draft');
    expect(await w.refused('rufus', 'draft.submit', { change })).toBe('draft-empty');
    const table = await other('torque.csv');
    expect(
      await w.refused('rufus', 'draft.setFile', {
        change,
        document: 'main',
        edit: 0,
        file: table.hash,
        name: 'torque.csv',
      }),
    ).toBe('file-not-pdf');
    expect(
      await w.refused('rufus', 'draft.setFile', {
        change,
        document: 'main',
        edit: 0,
        file: 'e'.repeat(64),
        name: 'x.pdf',
      }),
    ).toBe('file-unknown');
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 0, story: story(' ') });
    expect(await w.refused('rufus', 'draft.submit', { change })).toBe('draft-empty');
    for (const blocks of [
      [{ id: 'a', kind: 'script', level: 0, runs: [] }],
      [{ id: 'a', kind: 'paragraph', level: 'deep', runs: [] }],
      [{ id: 'a b', kind: 'paragraph', level: 0, runs: [] }],
      [1, 2].map(() => ({ id: 'twice', kind: 'paragraph', level: 0, runs: [] })),
      [{ id: 'a', kind: 'paragraph', level: 0, runs: [{ text: 7, marks: {} }] }],
      ['text'],
    ])
      expect(
        await w.refused('rufus', 'draft.saveText', { change, document: 'main', edit: 1, story: { format: 1, blocks } }),
      ).toBe('bad-input');
    await w.ask('rufus', 'draft.choose', { change, document: 'main', edit: 1, source: 'file' });
    expect(await w.refused('rufus', 'draft.submit', { change })).toBe('no-draft');
    expect((await draft(change)).versions).toEqual([]);
  });

  it('says of each version whether its pages are waited for, and goes on after pages that could not be made', async () => {
    const { change, circulation, record } = await changed('Pages that fail');
    const say = async () => (await draft(change)).versions.map(({ pages, submits }) => [pages, submits]);
    await w.ask('rufus', 'draft.saveText', {
      change,
      document: 'main',
      edit: 0,
      story: story('A text that nobody can render'),
    });
    await w.ask('rufus', 'draft.submit', { change });
    expect(await say()).toEqual([['waited for', true]]);
    const { recordState } = await import('@/server/circulation/load');
    const state = await w.inOrganization(organization, (tx) => recordState(tx, record));
    const text = state?.changes[0]?.versions[0]?.sources[0]?.source ?? '';
    const owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    const gone = await owner.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      return (await tx`delete from chunk where organization = ${organization} and hash = ${text}`).count;
    });
    await owner.end();
    expect(gone).toBe(1);
    for (let i = 0; i < 8; i += 1) {
      expect((await say())[0]?.[0]).toBe('waited for');
      await w.work();
      await w.forward(60 * 60_000 + 1);
    }
    expect(await say()).toEqual([['failed', true]]);
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 1, story: story('Another text') });
    await w.ask('rufus', 'draft.submit', { change });
    await w.work();
    expect(await say()).toEqual([
      ['failed', true],
      ['made', false],
    ]);
    const view = await w.ask('ines', 'circulation.view', { circulation });
    expect(view.newest).toBe(2);
  });

  it('makes versions that stay as they were, whatever is written afterwards', async () => {
    const { change, circulation } = await changed('Versions');
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 0, story: story('First') });
    expect(await w.ask('rufus', 'draft.makeVersion', { change, note: 'As agreed' })).toEqual({ version: 1 });
    await w.ask('rufus', 'draft.saveText', { change, document: 'main', edit: 1, story: story('Second') });
    expect(await w.ask('rufus', 'draft.makeVersion', { change })).toEqual({ version: 2 });
    await w.work();
    const { versions, submitted } = await draft(change);
    expect(versions.map(({ number, pages, note }) => ({ number, pages, note }))).toEqual([
      { number: 1, pages: 'made', note: 'As agreed' },
      { number: 2, pages: 'made', note: null },
    ]);
    // A version made on purpose is not submitted.
    expect(submitted).toBeNull();
    const view = await w.ask('ines', 'circulation.view', { circulation });
    expect(view.newest).toBeNull();
    const { recordState } = await import('@/server/circulation/load');
    const { findFile, readWhole } = await import('@/server/files/store');
    const texts = await w.inOrganization(organization, async (tx) => {
      const state = await recordState(tx, (await draft(change)).record.id);
      return Promise.all(
        (state?.changes[0]?.versions ?? []).map((version) => findFile(tx, version.sources[0]?.source ?? '')),
      );
    });
    const read = await Promise.all(
      texts.map(async (file) => file && JSON.parse((await readWhole(organization, file)).toString())),
    );
    expect(read).toEqual([story('First'), story('Second')]);
  });

  it('goes round with its attachments, byte for byte, to whoever is asked and to nobody else', async () => {
    const { change, circulation } = await changed('With a table');
    const pdf = await w.pdf('With a table');
    const table = await other('torque.csv');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: pdf.hash, name: 'with.pdf' });
    await w.ask('rufus', 'draft.setAttachments', {
      change,
      edit: 1,
      files: [{ file: table.hash, name: 'torque.csv' }],
    });
    await w.ask('rufus', 'draft.submit', { change });
    await w.ask('ines', 'circulation.plan', {
      circulation,
      route: inSeries(stage('review', ['yuki']), stage('approve', ['oskar'])),
      note: null,
    });
    await w.ask('ines', 'circulation.send', { circulation });
    const { fileOfCirculation, fileOfDraft, fileOfRevision } = await import('@/server/files/access');
    const reach = (person: string, hash: string) =>
      w.inOrganization(organization, async (tx) => {
        const actor = { kind: 'member' as const, person, roles: person === 'ines' ? (['controller'] as const) : [] };
        const [circulated, drafted] = [
          await fileOfCirculation(tx, actor, circulation, hash, 'show'),
          await fileOfDraft(tx, actor, change, hash, 'show'),
        ];
        return [circulated?.name ?? null, drafted?.name ?? null];
      });
    expect(await reach('ines', table.hash)).toEqual(['torque.csv', 'torque.csv']);
    expect(await reach('rufus', pdf.hash)).toEqual(['with.pdf', 'with.pdf']);
    expect(await reach('yuki', table.hash)).toEqual(['torque.csv', null]);
    // Oskar is planned but not asked yet; Petra and Thea have nothing to do with it.
    for (const person of ['oskar', 'petra', 'thea'])
      expect(await reach(person, pdf.hash), person).toEqual([null, null]);
    // A file that is here, but not part of this circulation, is not reached through it.
    const stranger = await w.pdf('Something else');
    expect(await reach('ines', stranger.hash)).toEqual([null, null]);
    await w.inOrganization(organization, async (tx) => {
      const petra = { kind: 'member' as const, person: 'petra', roles: [] };
      const view = await w.ask('ines', 'circulation.view', { circulation });
      expect(await fileOfRevision(tx, petra, view.record.id, 'A', null, 'show')).toBeNull();
    });
  });

  it('tells its author what was returned, by whom and why', async () => {
    const { change, circulation } = await changed('Returned');
    const pdf = await w.pdf('Returned');
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: pdf.hash, name: 'r.pdf' });
    await w.ask('rufus', 'draft.submit', { change });
    expect((await draft(change)).submitted).toBe(1);
    await w.ask('ines', 'circulation.plan', { circulation, route: inSeries(stage('review', ['yuki'])), note: null });
    await w.ask('ines', 'circulation.send', { circulation });
    const view = await w.ask('yuki', 'circulation.view', { circulation });
    const seat = view.seats[0];
    if (!seat) throw new Error('no seat');
    await w.ask('yuki', 'seat.decideMine', {
      circulation,
      seat: seat.id,
      epoch: seat.epoch,
      scope: seat.scope ?? '',
      outcome: 'returned',
      note: 'Page 2 is upside down.',
    });
    expect((await draft(change)).returned).toMatchObject({ by: 'yuki', note: 'Page 2 is upside down.' });
    const desk = await w.ask('rufus', 'desk.tasks', {});
    expect(desk.rows.map((task) => task.doing)).toContain('rework');
    await w.work();
    const told = w.mails.findLast((mail) => w.toOf(mail) === 'rufus');
    expect(told?.subject).toBe('Returned for rework: Returned');
    expect(told?.text).toContain('Page 2 is upside down.');
  });
});

describe('a margin line', () => {
  const begun = async (title: string) => {
    const { record, number } = await w.ask('ines', 'record.create', { title, documentType: 'PRO', owner: 'rufus' });
    return {
      record,
      number,
      ...(await w.ask('ines', 'change.start', { records: [record], reason: 'w', author: 'rufus' })),
    };
  };
  const asks = (marginLine: boolean) =>
    w.ask('thea', 'types.describe', {
      type: 'PRO',
      name: 'Procedure',
      scheme: 'MR-PRO-000',
      active: true,
      marginLine,
      added: false,
    });
  const submitted = async (change: string, file: string, edit = 0) => {
    await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit, file, name: 'own.pdf' });
    return w.ask('rufus', 'draft.submit', { change });
  };
  const versionOf = async (circulation: string) =>
    (await w.ask('ines', 'circulation.view', { circulation })).versions.at(-1);
  const bytesOf = async (hash: string) => {
    const { readWhole, findFile } = await import('@/server/files/store');
    const stored = await w.inOrganization(organization, (tx) => findFile(tx, hash));
    if (!stored) throw new Error('no file');
    return { stored, bytes: await readWhole(organization, stored) };
  };

  it('is laid once, when a PDF of a type that asks for it is submitted; everybody decides on the file with it', async () => {
    const { change, circulation, number } = await begun('Lamps');
    const sent = await w.pdf('Lamps', 2);
    await asks(true);
    expect(await submitted(change, sent.hash)).toEqual({ version: 1, rendering: true });
    expect(await versionOf(circulation)).toBeUndefined();
    await w.work();
    const file = (await versionOf(circulation))?.files[0];
    expect([file?.id, file?.name, file?.notices]).toEqual(['main', 'own.pdf', ['margin-line']]);
    const { stored, bytes } = await bytesOf(file?.file ?? '');
    const original = await bytesOf(sent.hash);
    expect(stored.facts.original).toBe(sent.hash);
    expect(bytes.subarray(0, original.bytes.length).equals(original.bytes)).toBe(true);
    const { writeFileSync, mkdtempSync } = await import('node:fs');
    const { execFileSync } = await import('node:child_process');
    const at = `${mkdtempSync('/tmp/avenda-margin-')}/a.pdf`;
    writeFileSync(at, bytes);
    const text = execFileSync('pdftotext', ['-layout', at, '-'], { encoding: 'utf8' });
    expect(text.match(/MR-PRO-\d+ · revision A · page \d of 2/g)).toEqual([
      `${number} · revision A · page 1 of 2`,
      `${number} · revision A · page 2 of 2`,
    ]);
    // The next version begins again from what is sent then, never from a lined copy.
    expect(await submitted(change, sent.hash, 1)).toMatchObject({ version: 2 });
    await w.work();
    expect((await versionOf(circulation))?.files[0]?.file).toBe(file?.file);
    // Where the type no longer asks, the file goes out byte for byte.
    await asks(false);
    expect(await submitted(change, sent.hash, 2)).toEqual({ version: 3, rendering: false });
    expect((await versionOf(circulation))?.files[0]?.file).toBe(sent.hash);
  });

  it('is never laid on a file that was signed or certified elsewhere', async () => {
    const { putFile } = await import('@/server/files/store');
    await asks(true);
    for (const notice of ['signatures', 'certified']) {
      const { change, circulation } = await begun(`Signed ${notice}`);
      const plain = await w.pdf(`Signed ${notice}`);
      const { bytes } = await bytesOf(plain.hash);
      const grown = Buffer.concat([bytes, Buffer.from(`%${notice}\n`)]);
      const { sha256 } = await import('@/server/files/store');
      const file = { ...plain, hash: sha256(grown), bytes: grown.length, facts: { ...plain.facts, notices: [notice] } };
      await putFile(
        organization,
        file,
        async function* () {
          yield grown;
        },
        'rufus',
      );
      expect(await submitted(change, file.hash)).toEqual({ version: 1, rendering: false });
      expect((await versionOf(circulation))?.files[0]?.file).toBe(file.hash);
    }
    await asks(false);
  });
});

describe('a bundle', () => {
  it('prints on each document the revision that it becomes itself', async () => {
    const file = await w.pdf('Released before', 1, 'ines');
    const { circulation } = await w.ask('ines', 'desk.sendQuick', {
      file: file.hash,
      name: 'before.pdf',
      title: 'Released before',
      verb: 'read',
      people: [{ kind: 'person', person: 'yuki' }],
    });
    const { seats, record } = await w.ask('ines', 'circulation.view', { circulation });
    const seat = seats[0]?.id ?? '';
    const mine = await w.ask('yuki', 'seat.mine', { circulation, seat });
    await w.ask('yuki', 'seat.decideMine', {
      circulation,
      seat,
      epoch: seats[0]?.epoch ?? 0,
      scope: mine.content?.scope ?? '',
      outcome: 'confirmed',
    });
    await w.work();
    await w.ask('ines', 'circulation.release', { circulation });
    const first = await w.ask('ines', 'record.create', { title: 'New beside it', documentType: 'PRO', owner: 'rufus' });
    const bundle = await w.ask('ines', 'change.start', {
      records: [first.record, record.id],
      reason: 'Both',
      author: 'rufus',
    });
    const { change } = bundle;
    const documents = (await w.ask('rufus', 'draft.view', { change })).documents;
    let edit = 0;
    for (const { id } of documents)
      edit = (await w.ask('rufus', 'draft.saveText', { change, document: id, edit, story: story(`Text of ${id}`) }))
        .edit;
    await w.ask('rufus', 'draft.submit', { change });
    await w.work();
    const { versions } = await w.ask('ines', 'circulation.view', { circulation: bundle.circulation });
    const { readWhole, findFile } = await import('@/server/files/store');
    const { execFileSync } = await import('node:child_process');
    const printed = [];
    for (const one of versions[0]?.files ?? []) {
      const stored = await w.inOrganization(organization, (tx) => findFile(tx, one.file));
      if (!stored) throw new Error('no pages');
      const text = execFileSync('pdftotext', ['-', '-'], { input: await readWhole(organization, stored) }).toString();
      printed.push(/Revision \w+, version \d+/.exec(text)?.[0]);
    }
    expect(printed).toEqual(['Revision A, version 1', 'Revision B, version 1']);
  });
});
