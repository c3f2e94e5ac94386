import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { PDFArray, PDFDocument, PDFName, type PDFRef, PDFString, StandardFonts } from '@cantoo/pdf-lib';
import { describe, expect, it } from 'vitest';
import { inspectPdf } from '@/server/children/inspectPdf';
import { inSeries, organization, stage, world } from './world';

const folder = mkdtempSync(path.join(os.tmpdir(), 'prints-'));
const pages = 5;
const made5 = (texts: Readonly<Record<number, string>> = {}) => made(undefined, texts);

/** A PDF of five pages, the second and third with a font of their own, the fourth with a link to the fifth. */
async function made(
  change: (pdf: PDFDocument) => Promise<void> | void = () => {},
  texts: Readonly<Record<number, string>> = {},
) {
  const pdf = await PDFDocument.create();
  const [common, own] = [await pdf.embedFont(StandardFonts.Helvetica), await pdf.embedFont(StandardFonts.Courier)];
  for (let n = 1; n <= pages; n += 1)
    pdf
      .addPage([595, 842])
      .drawText(texts[n] ?? `Page ${n}`, { x: 60, y: 700, size: 14, font: n === 2 || n === 3 ? own : common });
  const link = pdf.context.register(
    pdf.context.obj({ Type: 'Annot', Subtype: 'Link', Rect: [60, 60, 90, 90], Dest: [pdf.getPage(4).ref, 'Fit'] }),
  );
  pdf.getPage(3).node.set(PDFName.of('Annots'), pdf.context.obj([link]));
  await change(pdf);
  const at = path.join(folder, `${Math.random()}.pdf`);
  writeFileSync(at, await pdf.save({ useObjectStreams: false }));
  return at;
}
async function printsOf(at: string): Promise<readonly string[] | null> {
  const seen = await inspectPdf({ path: at });
  if (!seen.ok) throw new Error(seen.fault);
  return seen.prints;
}
/** Which pages, from 1, are others than in the file as it was. */
async function changed(at: string): Promise<number[]> {
  const [before, after] = [await printsOf(await made()), await printsOf(at)];
  expect(before).toHaveLength(pages);
  return Array.from({ length: pages }, (_, i) => i + 1).filter((n) => before?.[n - 1] !== after?.[n - 1]);
}

describe('what a page is made of', () => {
  it('is another exactly where one byte of it is another', async () => {
    expect(await changed(await made())).toEqual([]);
    for (let n = 1; n <= pages; n += 1)
      expect(await changed(await made(undefined, { [n]: `Page ${n}.` }))).toEqual([n]);
  });

  it('holds all that it draws with, wherever that stands in the file', async () => {
    // A font of two pages, a box that one page has, its turn, a note on one, a layer of the whole.
    const fontOf = (pdf: PDFDocument, page: number) => {
      const fonts = pdf.getPage(page).node.Resources()?.get(PDFName.of('Font'));
      return pdf.context.lookup((fonts as unknown as { values(): PDFRef[] }).values()[0]) as unknown as {
        set(k: PDFName, v: unknown): void;
      };
    };
    const font = await made(async (pdf) => {
      await pdf.flush();
      fontOf(pdf, 1).set(PDFName.of('Widths'), pdf.context.obj([1, 2, 3]));
    });
    expect(await changed(font)).toEqual([2, 3]);
    expect(await changed(await made((pdf) => pdf.getPage(2).setCropBox(0, 0, 500, 800)))).toEqual([3]);
    const note = await made((pdf) => {
      const annotation = { Type: 'Annot', Subtype: 'Square', Rect: [1, 1, 9, 9], Contents: PDFString.of('new') };
      pdf
        .getPage(0)
        .node.set(PDFName.of('Annots'), pdf.context.obj([pdf.context.register(pdf.context.obj(annotation))]));
    });
    expect(await changed(note)).toEqual([1]);
    const layers = await made((pdf) =>
      pdf.catalog.set(PDFName.of('OCProperties'), pdf.context.obj({ OCGs: [], D: {} })),
    );
    expect(await changed(layers)).toEqual([1, 2, 3, 4, 5]);
  });

  it('does not hang on how a program writes the file', async () => {
    const at = await made();
    const anew = path.join(folder, 'anew.pdf');
    execFileSync('qpdf', ['--object-streams=generate', '--stream-data=preserve', '--linearize', at, anew]);
    expect(readFileSync(anew).equals(readFileSync(at))).toBe(false);
    expect(await changed(anew)).toEqual([]);
  });

  it('is told of the whole alone where a page draws with another, or with the tree of pages', async () => {
    for (const of of ['page', 'tree'] as const) {
      const at = await made((pdf) => {
        const resources = pdf.getPage(0).node.Resources();
        const other = of === 'page' ? pdf.getPage(1).ref : pdf.catalog.get(PDFName.of('Pages'));
        resources?.set(PDFName.of('XObject'), other as PDFRef);
      });
      expect(await printsOf(at), of).toBeNull();
    }
    const deep = await made((pdf) => {
      let inner = PDFArray.withContext(pdf.context);
      for (let i = 0; i < 600; i += 1) {
        const outer = PDFArray.withContext(pdf.context);
        outer.push(pdf.context.register(inner));
        inner = outer;
      }
      pdf
        .getPage(0)
        .node.Resources()
        ?.set(PDFName.of('Properties'), pdf.context.obj({ A: pdf.context.register(inner) }));
    });
    expect(await printsOf(deep)).toBeNull();
  });
});

describe('a next round', () => {
  it('asks whoever decides on the page that has changed, and keeps the others', async () => {
    const { receiveFile } = await import('@/server/files/receive');
    const w = await world();
    try {
      const sendFile = async (at: string) => {
        const body = new Response(readFileSync(at)).body as ReadableStream<Uint8Array>;
        return (await receiveFile(organization, 'rufus', 'sheets.pdf', body)).hash;
      };
      const { record } = await w.ask('ines', 'record.create', { title: 'Sheets', documentType: 'PRO', owner: 'rufus' });
      const made = await w.ask('ines', 'change.start', { records: [record], reason: 'New values', author: 'rufus' });
      const { change, circulation } = made;
      const submit = async (edit: number, file: string) => {
        await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit, file, name: 'sheets.pdf' });
        await w.ask('rufus', 'draft.submit', { change });
        await w.work();
      };
      await submit(0, await sendFile(await made5()));
      const [document = ''] = (await w.ask('ines', 'circulation.view', { circulation })).documents;
      const review = stage('review', ['petra', 'yuki', 'oskar']);
      const ranges = [[1, 2], [4, 5], null] as const;
      const seats = review.seats.map((seat, i) => {
        const range = ranges[i];
        return range ? { ...seat, pages: [{ file: document, from: range[0], to: range[1] }] } : seat;
      });
      const route = inSeries({ ...review, seats }, stage('approve', ['benedikt']));
      await w.ask('ines', 'circulation.plan', { circulation, note: null, route, facts: {}, basis: null });
      await w.ask('ines', 'circulation.send', { circulation });
      const respond = async (person: string, outcome: 'done' | 'returned') => {
        const view = await w.ask(person, 'circulation.view', { circulation });
        const { id = '', epoch = 0, scope, decidesOn } = view.seats.find(({ holder }) => holder === person) ?? {};
        if (person === 'yuki') expect(decidesOn?.pages).toEqual([{ file: 'sheets.pdf', from: 4, to: 5 }]);
        const input = { circulation, seat: id, epoch, scope: scope ?? '', outcome, note: 'Mend page four.' };
        await w.ask(person, 'seat.decideMine', input);
      };
      for (const person of ['petra', 'yuki', 'oskar']) await respond(person, 'done');
      await respond('benedikt', 'returned');
      const { edit } = await w.ask('rufus', 'draft.view', { change });
      await submit(edit, await sendFile(await made5({ 4: 'Page four' })));
      const view = await w.ask('ines', 'circulation.view', { circulation });
      const lines = view.offers.find(({ act }) => act === 'confirmRound')?.needs?.lines ?? [];
      const kept = lines.filter(({ keep }) => keep).map(({ seat }) => view.seats.find(({ id }) => id === seat)?.holder);
      expect(kept).toEqual(['petra']);
    } finally {
      await w.close();
    }
  });
});
