import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { degrees, PDFDocument, StandardFonts } from '@cantoo/pdf-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Field, FieldValue } from '@/core/page/fields';
import { displayedSize } from '@/core/page/geometry';
import { deriveFinal, type FinalTask } from '@/server/children/deriveFinal';
import { inspectPdf } from '@/server/children/inspectPdf';
import { renderText, type TextTask } from '@/server/children/renderText';
import { samplePdf } from './world';

const folder = mkdtempSync(path.join(os.tmpdir(), 'pdf-'));
let files = 0;
const fresh = () => {
  files += 1;
  return path.join(folder, `${files}.pdf`);
};
const written = (bytes: Uint8Array) => {
  const at = fresh();
  writeFileSync(at, bytes);
  return at;
};
const checked = (at: string) => execFileSync('qpdf', ['--check', at], { stdio: ['ignore', 'pipe', 'pipe'] }).toString();
const textIn = (at: string) => execFileSync('pdftotext', ['-layout', at, '-']).toString();

/** Every word on a page as another program sees it, in displayed points from the top left corner of the crop box. */
function wordsIn(at: string, page: number) {
  const html = execFileSync('pdftotext', ['-bbox', '-cropbox', '-f', `${page}`, '-l', `${page}`, at, '-']).toString();
  const words = html.matchAll(/<word xMin="([-\d.]+)" yMin="([-\d.]+)" xMax="([-\d.]+)" yMax="([-\d.]+)">([^<]*)</g);
  return [...words].map(([, xMin, yMin, xMax, yMax, word]) => ({
    xMin: Number(xMin),
    yMin: Number(yMin),
    xMax: Number(xMax),
    yMax: Number(yMax),
    word: word as string,
  }));
}

const hundredths = (points: number) => Math.round(points * 100) / 100;

const sheet: FinalTask['sheet'] = {
  title: 'MR-PRO-019  Brake test',
  facts: [['Identifier', 'AV-0123456789ABCDEF']],
  entries: [
    {
      who: 'Benedikt Rowe',
      what: 'signed',
      when: 'Tue 24 Nov 2026',
      from: '203.0.113.9',
      identified: 'x',
      note: null,
    },
  ],
  closing: 'The end of the sheet.',
};
const field = (id: string, page: number, x: number, y: number, more: Partial<Field> = {}): Field => ({
  id,
  seat: 's',
  kind: 'signature',
  page,
  x,
  y,
  width: 168,
  height: 46,
  needed: true,
  label: '',
  ...more,
});
async function derived(source: string, values: FinalTask['values'], more: Partial<FinalTask['sheet']> = {}) {
  const into = fresh();
  await deriveFinal({ kind: 'final', source, into, values, sheet: { ...sheet, ...more } });
  return into;
}

/** A PDF written by hand, whose pages inherit box, rotation and resources from the node above them. */
function inherited(rotate: number): Uint8Array {
  const stream = 'BT /F1 18 Tf 60 700 Td (Inherited) Tj ET';
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    `<< /Type /Pages /Kids [3 0 R 4 0 R] /Count 2 /MediaBox [0 0 600 800] /Rotate ${rotate} /Resources << /Font << /F1 6 0 R >> >> >>`,
    '<< /Type /Page /Parent 2 0 R /Contents 5 0 R >>',
    '<< /Type /Page /Parent 2 0 R /Contents [5 0 R] >>',
    `<< /Length ${stream.length} >>\nstream\n${stream}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
  ];
  let text = '%PDF-1.4\n';
  const offsets = objects.map((object, i) => {
    const at = text.length;
    text += `${i + 1} 0 obj\n${object}\nendobj\n`;
    return at;
  });
  const start = text.length;
  text += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${offsets.map((at) => `${String(at).padStart(10, '0')} 00000 n \n`).join('')}`;
  text += `trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${start}\n%%EOF\n`;
  return Buffer.from(text, 'latin1');
}

describe('a final file', () => {
  it('shows every value upright in its field, on pages turned and cropped in any way, as another program reads them', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
        fc.record({
          x: fc.integer({ min: -40, max: 60 }),
          y: fc.integer({ min: -40, max: 60 }),
          width: fc.integer({ min: 400, max: 600 }),
          height: fc.integer({ min: 400, max: 800 }),
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        async (rotate, box, right, down) => {
          const pdf = await PDFDocument.create({ updateMetadata: false });
          const font = await pdf.embedFont(StandardFonts.Helvetica);
          const page = pdf.addPage([700, 900]);
          page.setMediaBox(-50, -50, 800, 1000);
          page.setCropBox(box.x, box.y, box.width, box.height);
          page.setRotation(degrees(rotate));
          page.drawText('Before', { x: box.x + 20, y: box.y + 20, size: 12, font });
          const source = written(await pdf.save());
          const size = displayedSize({ ...box, rotate });
          const seen = await inspectPdf(source);
          expect(seen).toEqual({ ok: true, pages: [size] });
          const own = field('p', 0, hundredths(right * (size.width - 168)), hundredths(down * (size.height - 46)));
          const final = await derived(source, [{ field: own, value: { kind: 'typed', text: 'Benedikt' } }]);
          const found = wordsIn(final, 1);
          const word = found.find((candidate) => candidate.word === 'Benedikt');
          if (!word) throw new Error(`not found among ${found.map((one) => one.word).join(' ')}`);
          // Within the place but for what a letter's box reaches above and below its ink.
          expect(word.xMin).toBeGreaterThan(own.x - 1);
          expect(word.xMax).toBeLessThan(own.x + own.width + 1);
          expect((word.yMin + word.yMax) / 2).toBeGreaterThan(own.y);
          expect((word.yMin + word.yMax) / 2).toBeLessThan(own.y + own.height);
          // Upright: as wide as a line is, not as high.
          expect(word.xMax - word.xMin).toBeGreaterThan((word.yMax - word.yMin) * 1.2);
        },
      ),
      { numRuns: 16 },
    );
  });

  it('keeps what stood on pages that inherit everything, and what is put on them', async () => {
    for (const rotate of [0, 90]) {
      const source = written(inherited(rotate));
      checked(source);
      expect(await inspectPdf(source, true)).toMatchObject({ ok: true });
      const final = await derived(source, [
        { field: field('a', 0, 100, 200), value: { kind: 'typed', text: 'Sanna' } },
        { field: field('b', 1, 100, 300, { kind: 'text', height: 22 }), value: { kind: 'text', text: 'Seen' } },
      ]);
      checked(final);
      const pages = textIn(final).split('\f');
      expect(pages[0]).toContain('Inherited');
      expect(pages[0]).toContain('Sanna');
      expect(pages[1]).toContain('Inherited');
      expect(pages[1]).toContain('Seen');
      expect(pages[2]).toContain('Evidence sheet');
    }
  });

  it('begins with the frozen bytes, is the same when it is made again, and is read alike by both our readers', async () => {
    const frozen = await samplePdf('Frozen', 3);
    const source = written(frozen);
    const values: FinalTask['values'] = [
      {
        field: field('a', 2, 80, 300),
        value: { kind: 'drawn', strokes: [[5, 5, 50, 40, 90, 8, 140, 44]], width: 150, height: 50 },
      },
      {
        field: field('b', 2, 80, 400, { kind: 'tick', width: 18, height: 18 }),
        value: { kind: 'ticked', ticked: true },
      },
      {
        field: field('c', 0, 80, 500, { kind: 'date', height: 22 }),
        value: { kind: 'text', text: '24 November 2026' },
      },
    ];
    const [one, two] = [await derived(source, values), await derived(source, values)];
    const bytes = readFileSync(one);
    expect(bytes.equals(readFileSync(two))).toBe(true);
    expect(bytes.subarray(0, frozen.length).equals(Buffer.from(frozen))).toBe(true);
    checked(one);
    const seen = await inspectPdf(one);
    expect(seen.ok && seen.pages.length).toBe(4);
    expect(textIn(one)).toContain('24 November 2026');
  });

  it('has room on its sheet for everybody, however many and whatever they wrote', async () => {
    const source = written(await samplePdf('Long', 1));
    const entries = Array.from({ length: 70 }, (_, i) => ({
      who: `Signer number ${i}`,
      what: 'approved with comments',
      when: 'Tue 24 Nov 2026, 10:00',
      from: '2001:db8:85a3:8d3:1319:8a2e:370:7348',
      identified: 'a link of their own, sent to somebody@an-address-that-goes-on-and-on.example',
      note: i % 7 === 0 ? `${'Mind the units. '.repeat(40)}${'x'.repeat(300)}` : null,
    }));
    const final = await derived(source, [], { entries });
    checked(final);
    const text = textIn(final).replace(/\s+/g, ' ');
    for (const { who } of entries) expect(text).toContain(who);
    expect(text).toContain('The end of the sheet.');
    const seen = await inspectPdf(final);
    expect(seen.ok && seen.pages.length).toBeGreaterThan(5);
  });

  it('is made whatever signs a name or a reason has, those a font lacks among them', async () => {
    const source = written(await samplePdf('Signs', 1));
    await fc.assert(
      fc.asyncProperty(
        fc.string({ unit: 'binary', maxLength: 60 }),
        fc.constantFrom<FieldValue['kind']>('typed', 'text'),
        async (text, kind) => {
          const value = { kind, text: `${text}Ω` } as FieldValue;
          const final = await derived(source, [{ field: field('p', 0, 60, 60), value }], {
            entries: [{ who: text, what: 'signed', when: text, from: text, identified: text, note: text }],
          });
          checked(final);
        },
      ),
      { numRuns: 12, examples: [['縄 🚡 \u202e\u0000\ud83d', 'typed']] },
    );
  });
});

describe('a PDF that comes in', () => {
  it('is never more than refused, wherever it was cut or spoilt, and what is taken satisfies another program', async () => {
    const pdf = await PDFDocument.load(await samplePdf('Spoilt', 2));
    const good = Buffer.from(await pdf.save({ useObjectStreams: false }));
    const counts = { taken: 0, refused: 0 };
    const judge = async (bytes: Buffer, what: string) => {
      const file = written(bytes);
      const seen = await inspectPdf(file);
      counts[seen.ok ? 'taken' : 'refused'] += 1;
      if (!seen.ok) expect(['encrypted', 'broken', 'empty'], what).toContain(seen.fault);
      else {
        expect(seen.pages, what).toHaveLength(2);
        expect(execFileSync('pdfinfo', [file], { stdio: ['ignore', 'pipe', 'ignore'] }).toString(), what).toMatch(
          /Pages: +2/,
        );
      }
    };
    for (let at = 0; at < good.length - 7; at += 11) await judge(good.subarray(0, at), `cut at ${at}`);
    expect(counts.taken).toBe(0);
    // Every third byte of the objects; a spoilt table of objects is the next test's.
    for (let at = 0; at < good.lastIndexOf('xref', good.lastIndexOf('startxref') - 1); at += 3) {
      const bytes = Buffer.from(good);
      bytes[at] = ((bytes[at] as number) + 1) % 256;
      await judge(bytes, `byte ${at}`);
    }
    expect(counts.refused).toBeGreaterThan(100);
    expect(counts.taken).toBeGreaterThan(100);
  });

  it('is taken when it can be grown, whichever way its objects are kept, and however often it was grown before', async () => {
    const pdf = await PDFDocument.load(await samplePdf('Grown', 2));
    for (const useObjectStreams of [true, false]) {
      let source = written(await pdf.save({ useObjectStreams }));
      for (let pages = 2; pages < 5; pages += 1) {
        const seen = await inspectPdf(source, true);
        expect(seen.ok && seen.pages.length, `${useObjectStreams} ${pages}`).toBe(pages);
        source = await derived(source, []);
        checked(source);
      }
    }
    // What cannot even be read is not asked to grow.
    expect(await inspectPdf(written(Buffer.from('%PDF-1.7\n')), true)).toEqual({ ok: false, fault: 'broken' });
  });

  it('is refused when its table of objects is not where its end says, or its pages are not as many as it says', async () => {
    const pdf = await PDFDocument.load(await samplePdf('Table', 2));
    const good = Buffer.from(await pdf.save({ useObjectStreams: false })).toString('latin1');
    const fault = async (text: string) => {
      const seen = await inspectPdf(written(Buffer.from(text, 'latin1')));
      return seen.ok ? 'taken' : seen.fault;
    };
    expect(await fault(good)).toBe('taken');
    expect(await fault(good.replace(/startxref\n\d+/, 'startxref\n7'))).toBe('broken');
    expect(await fault(good.replace(/startxref\n(\d+)/, (_, at: string) => `startxref\n${Number(at) + 2}`))).toBe(
      'broken',
    );
    expect(await fault(good.replace('trailer', 'trailed'))).toBe('broken');
    expect(await fault(good.replace('/Root', '/Toor'))).toBe('broken');
    expect(await fault(good.replace('/Count 2', '/Count 3'))).toBe('broken');
    expect(await fault(good.replace('/Count 2', '/Count x'))).toBe('broken');
  });

  it('is refused with junk before its header, without pages, or empty', async () => {
    const good = Buffer.from(await samplePdf('Junk', 1));
    const fault = async (bytes: Uint8Array) => {
      const seen = await inspectPdf(written(bytes));
      return seen.ok ? 'taken' : seen.fault;
    };
    expect(await fault(good)).toBe('taken');
    expect(await fault(Buffer.concat([Buffer.from('junk\n'), good]))).toBe('broken');
    expect(await fault(Buffer.alloc(0))).toBe('empty');
    expect(await fault(Buffer.from('%PDF-1.7\n%%EOF\n'))).toBe('broken');
  });
});

describe('a rendered text', () => {
  const task = (blocks: TextTask['story']['blocks']): TextTask => ({
    kind: 'text',
    story: { format: 1, blocks },
    title: 'Wind log',
    number: 'MR-LOG-001',
    revision: 'A',
    version: 3,
    at: Date.UTC(2026, 10, 24),
    into: fresh(),
  });

  it('of any length gives pages that are numbered to their end, and the same bytes for the same text', async () => {
    const blocks = Array.from({ length: 400 }, (_, i) => ({
      id: `b${i}`,
      kind: (['heading', 'paragraph', 'bullet', 'number'] as const)[i % 4] as 'paragraph',
      level: i % 4 === 0 ? 1 + (i % 3) : 0,
      runs: [
        { text: `Block ${i} says `, marks: {} },
        { text: 'something bold', marks: { bold: true as const } },
        { text: ' and goes on for a while. '.repeat(6), marks: {} },
      ],
    }));
    const one = task(blocks);
    const two = { ...one, into: fresh() };
    await renderText(one);
    await renderText(two);
    expect(readFileSync(one.into).equals(readFileSync(two.into))).toBe(true);
    checked(one.into);
    const seen = await inspectPdf(one.into);
    const pages = seen.ok ? seen.pages.length : 0;
    expect(pages).toBeGreaterThan(10);
    const text = textIn(one.into);
    expect(text).toContain(`${pages} of ${pages}`);
    for (let i = 0; i < 400; i += 1) expect(text).toContain(`Block ${i} says`);
    expect(text).toContain('Revision A, version 3');
  });

  it('is made of whatever was typed, and opens nothing by itself', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.string({ unit: 'binary', maxLength: 40 }), { maxLength: 4 }), async (texts) => {
        const given = task(
          texts.map((text, i) => ({
            id: `b${i}`,
            kind: 'paragraph' as const,
            level: 0,
            runs: [{ text, marks: { link: 'https://gauge.example/' } }],
          })),
        );
        await renderText(given);
        checked(given.into);
        expect(readFileSync(given.into).toString('latin1')).not.toMatch(
          /\/(JavaScript|Launch|OpenAction|EmbeddedFile)\b/,
        );
      }),
      { numRuns: 10 },
    );
  });
});
