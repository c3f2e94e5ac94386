import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { deflateSync } from 'node:zlib';
import { degrees, type PDFDict, PDFDocument, PDFName, PDFRawStream, PDFString, StandardFonts } from '@cantoo/pdf-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Field, FieldValue } from '@/core/page/fields';
import { displayedSize } from '@/core/page/geometry';
import { type EvidenceTask, writeEvidence } from '@/server/children/evidenceSheet';
import { inspectPdf } from '@/server/children/inspectPdf';
import { layEdgeLines } from '@/server/children/pdf/edge';
import { fill } from '@/server/children/pdf/fill';
import { freeze } from '@/server/children/pdf/freeze';
import { renderText, type TextTask } from '@/server/children/renderText';
import { unsetInStory } from '@/server/letters/documentText';
import { unsettable } from '@/server/letters/itemise';
import { runsOf } from '../setting';
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

const field = (id: string, page: number, x: number, y: number, more: Partial<Field> = {}): Field => ({
  id,
  seat: 's',
  file: 'main',
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
interface Value {
  readonly field: Field;
  readonly value: FieldValue;
}
/** A file frozen with fields and filled in by their signers, one after another in the order they come. */
async function signed(source: string, values: readonly Value[]): Promise<string> {
  const fields = values.map((entry) => entry.field);
  let bytes = await freeze(readFileSync(source), fields);
  for (const seat of new Set(fields.map((one) => one.seat)))
    bytes = await fill(bytes, fields, {
      seat,
      values: Object.fromEntries(
        values.filter((entry) => entry.field.seat === seat).map((entry) => [entry.field.id, entry.value]),
      ),
    });
  return written(bytes);
}
const inspected = (at: string) => inspectPdf({ path: at });
async function evidence(entries: readonly Partial<EvidenceTask['entries'][number]>[]): Promise<string> {
  const into = fresh();
  await writeEvidence({
    kind: 'evidence',
    title: 'MR-PRO-019  Brake test',
    facts: [['Identifier', 'AV-0123456789ABCDEF']],
    entries: entries.map((entry) => ({
      who: 'Benedikt Rowe',
      what: 'signed',
      when: 'Tue 24 Nov 2026',
      from: '203.0.113.9',
      identified: 'a password',
      note: null,
      remarks: [],
      ...entry,
    })),
    history: [{ when: 'Tue 24 Nov 2026', text: 'Benedikt Rowe signed', note: null }],
    closing: 'The end of the sheet.',
    language: 'zh-Hans',
    at: Date.UTC(2026, 10, 24),
    into,
  });
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

const plain = async (text: string, pages = 2) => {
  const pdf = await PDFDocument.load(await samplePdf(text, pages));
  return Buffer.from(await pdf.save({ useObjectStreams: false }));
};
/** What becomes of a file: taken as it is, taken in a repaired copy, or why not. */
const taken = async (bytes: Uint8Array) => {
  const seen = await inspectPdf({ path: written(bytes), repairInto: fresh() });
  return !seen.ok ? seen.fault : seen.repaired.length > 0 ? seen.repaired.join(' ') : 'taken';
};
const changed = async (change: (pdf: PDFDocument) => void | Promise<void>) => {
  const pdf = await PDFDocument.load(await samplePdf('Changed', 2));
  await change(pdf);
  return pdf.save({ useObjectStreams: false, updateFieldAppearances: false });
};

describe('a signed file', () => {
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
          const size = displayedSize({ ...box, rotate, unit: 1 });
          expect(await inspected(source)).toMatchObject({ ok: true, pages: [size], notices: [], noFields: null });
          const own = field('p', 0, hundredths(right * (size.width - 168)), hundredths(down * (size.height - 46)));
          const final = await signed(source, [{ field: own, value: { kind: 'typed', text: 'Benedikt' } }]);
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
      { numRuns: runsOf(16) },
    );
  });

  it('keeps what stood on pages that inherit everything, and what is put on them', async () => {
    for (const rotate of [0, 90]) {
      const source = written(inherited(rotate));
      checked(source);
      expect(await inspected(source)).toMatchObject({ ok: true });
      const final = await signed(source, [
        { field: field('a', 0, 100, 200), value: { kind: 'typed', text: 'Sanna' } },
        { field: field('b', 1, 100, 300, { kind: 'text', height: 22 }), value: { kind: 'text', text: 'Seen' } },
      ]);
      checked(final);
      const pages = textIn(final).split('\f');
      expect(pages[0]).toContain('Inherited');
      expect(pages[0]).toContain('Sanna');
      expect(pages[1]).toContain('Inherited');
      expect(pages[1]).toContain('Seen');
    }
  });

  it('begins with the frozen bytes, is the same when it is made again, and is read alike by both our readers', async () => {
    const frozen = await samplePdf('Frozen', 3);
    const source = written(frozen);
    const values: readonly Value[] = [
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
        value: { kind: 'day', day: '2026-11-24' },
      },
    ];
    const [one, two] = [await signed(source, values), await signed(source, values)];
    const bytes = readFileSync(one);
    expect(bytes.equals(readFileSync(two))).toBe(true);
    expect(bytes.subarray(0, frozen.length).equals(Buffer.from(frozen))).toBe(true);
    checked(one);
    const seen = await inspected(one);
    expect(seen.ok && seen.pages.length).toBe(3);
    expect(textIn(one)).toContain('24 Nov 2026');
  });

  it('has room on its sheet for everybody, however many and whatever they wrote', async () => {
    const entries = Array.from({ length: 70 }, (_, i) => ({
      who: `Signer number ${i}`,
      what: 'approved with comments',
      when: 'Tue 24 Nov 2026, 10:00',
      from: '2001:db8:85a3:8d3:1319:8a2e:370:7348',
      identified: 'a link of their own, sent to somebody@an-address-that-goes-on-and-on.example',
      note: i % 7 === 0 ? `${'Mind the units. '.repeat(40)}${'x'.repeat(300)}` : null,
    }));
    const final = await evidence(entries);
    checked(final);
    const text = textIn(final).replace(/\s+/g, ' ');
    for (const { who } of entries) expect(text).toContain(who);
    expect(text).toContain('The end of the sheet.');
    const seen = await inspected(final);
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
          // What no font of ours has is refused where it is typed (see sign.ts), never left out; nothing else is.
          const made = signed(source, [{ field: field('p', 0, 60, 60), value }]);
          if (unsettable(`${text}Ω`)) await expect(made).rejects.toThrow(/has the letter/);
          else checked(await made);
          checked(
            await evidence([{ who: text, what: 'signed', when: text, from: text, identified: text, note: text }]),
          );
        },
      ),
      { numRuns: runsOf(12), examples: [['縄 🚡 \u202e\u0000\ud83d', 'typed']] },
    );
  });
});

describe('a PDF that comes in', () => {
  it('is never more than refused, wherever it was cut or spoilt, and what is taken satisfies another program', async () => {
    const good = await plain('Spoilt');
    const counts = { taken: 0, refused: 0 };
    const judge = async (bytes: Buffer, what: string) => {
      const file = written(bytes);
      const seen = await inspected(file);
      counts[seen.ok ? 'taken' : 'refused'] += 1;
      if (!seen.ok) return;
      expect(seen.pages, what).toHaveLength(2);
      expect(execFileSync('pdfinfo', [file], { stdio: ['ignore', 'pipe', 'ignore'] }).toString(), what).toMatch(
        /Pages: +2/,
      );
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

  it('is put right in a working copy that another program accepts and that shows the same pages', async () => {
    const good = await plain('Repaired');
    const text = good.toString('latin1');
    const cases: [string, Uint8Array, string][] = [
      ['nothing', good, ''],
      ['bytes before the header', Buffer.concat([Buffer.from('HTTP/1.1 200 OK\r\n\r\n'), good]), 'before-header'],
      ['bytes after the end', Buffer.concat([good, Buffer.from('\n-- \nsent by a scanner\n')]), 'after-end'],
      ['a wrong offset', Buffer.from(text.replace(/startxref\n\d+/, 'startxref\n7'), 'latin1'), 'rewritten'],
      ['a missing end', Buffer.from(text.slice(0, text.lastIndexOf('startxref')), 'latin1'), 'rewritten'],
      ['a wrong length', Buffer.from(text.replace(/\/Length \d+/, '/Length 3'), 'latin1'), 'rewritten'],
    ];
    for (const [what, bytes, repair] of cases) {
      const into = fresh();
      const seen = await inspectPdf({ path: written(bytes), repairInto: into });
      if (!seen.ok) throw new Error(`${what}: ${seen.fault}`);
      expect(seen.repaired.join(' '), what).toContain(repair);
      if (!repair) continue;
      checked(into);
      expect(await inspected(into), what).toMatchObject({ ok: true, repaired: [], pages: seen.pages });
      expect(textIn(into), what).toContain('Repaired, page 2');
    }
  });

  it('is refused when something in it acts by itself, hides another format, or is no document of pages', async () => {
    const script = (pdf: PDFDocument) => pdf.context.obj({ S: 'JavaScript', JS: pdf.context.obj([]) });
    const open = (kind: string) =>
      changed((pdf) => {
        pdf.catalog.set(PDFName.of('OpenAction'), pdf.context.obj({ S: kind }));
      });
    for (const kind of ['JavaScript', 'Launch', 'SubmitForm', 'ImportData'])
      expect(await taken(await open(kind)), kind).toBe('active');
    // Going somewhere is no action that does anything.
    expect(await taken(await open('GoTo'))).toBe('taken');
    expect(
      await taken(
        await changed((pdf) => {
          pdf.getPage(1).node.set(PDFName.of('AA'), pdf.context.obj({ O: script(pdf) }));
        }),
      ),
    ).toBe('active');
    expect(
      await taken(
        await changed((pdf) => {
          pdf.catalog.set(PDFName.of('AcroForm'), pdf.context.obj({ Fields: [], XFA: [] }));
        }),
      ),
    ).toBe('xfa');
    expect(
      await taken(
        await changed((pdf) => {
          pdf.catalog.set(PDFName.of('Collection'), pdf.context.obj({ Type: 'Collection' }));
        }),
      ),
    ).toBe('portfolio');
    const good = await plain('Hidden');
    for (const behind of ['<script>alert(1)</script>', 'PK\x03\x04zip', '\x7fELF'])
      expect(await taken(Buffer.concat([good, Buffer.from(`\n${behind}`, 'latin1')])), behind).toBe('hidden-format');
    const spoilt = good.toString('latin1').replace(/stream\r?\n[\s\S]{6}/, (head) => `${head.slice(0, -4)}\0\0\0\0`);
    expect(await taken(Buffer.from(spoilt, 'latin1'))).toBe('content');
    expect(await taken(Buffer.alloc(0))).toBe('empty');
    expect(await taken(Buffer.from('%PDF-1.7\n%%EOF\n'))).toBe('broken');
  });

  it('is taken with a word on what it carries, and whether it can be signed', async () => {
    const notices = async (bytes: Uint8Array) => {
      const seen = await inspected(written(bytes));
      if (!seen.ok) throw new Error(seen.fault);
      return seen.notices;
    };
    expect(await notices(await changed(() => {}))).toEqual([]);
    expect(await notices(await changed((pdf) => pdf.attach(Buffer.from('x'), 'x.txt')))).toEqual(['attachments']);
    expect(
      await notices(
        await changed((pdf) => {
          const note = pdf.context.register(pdf.context.obj({ Type: 'Annot', Subtype: 'Text', Rect: [0, 0, 9, 9] }));
          pdf.getPage(0).node.set(PDFName.of('Annots'), pdf.context.obj([note]));
        }),
      ),
    ).toEqual(['annotations']);
    expect(
      await notices(
        await changed((pdf) => {
          pdf.getForm().createTextField('old').addToPage(pdf.getPage(0));
        }),
      ),
    ).toEqual(['form']);
  });

  it('says what was signed, certified, hidden or made for archiving elsewhere, and takes no fields where that would end', async () => {
    /** A signature field with a value, as another program leaves it, and what it transforms. */
    const signature = (pdf: PDFDocument, method: string | null, more: object = {}) => {
      const reference = method
        ? {
            Reference: [
              { Type: 'SigRef', TransformMethod: method, TransformParams: { Type: 'TransformParams', ...more } },
            ],
          }
        : {};
      const value = pdf.context.register(
        pdf.context.obj({ Type: 'Sig', Filter: 'Adobe.PPKLite', ByteRange: [0, 1, 2, 3], ...reference } as never),
      );
      const field = pdf.context.register(
        pdf.context.obj({
          FT: 'Sig',
          T: PDFString.of('theirs'),
          V: value,
          Type: 'Annot',
          Subtype: 'Widget',
          Rect: [0, 0, 0, 0],
        } as never),
      );
      pdf.catalog.set(PDFName.of('AcroForm'), pdf.context.obj({ Fields: [field], SigFlags: 3 }));
      return value;
    };
    const seen = async (change: (pdf: PDFDocument) => void) => {
      const found = await inspected(written(await changed(change)));
      if (!found.ok) throw new Error(found.fault);
      return [found.notices, found.noFields] as const;
    };
    expect(await seen((pdf) => void signature(pdf, null))).toEqual([['signatures'], null]);
    expect((await seen((pdf) => void signature(pdf, 'FieldMDP', { Action: 'All' })))[1]).toMatch(/locks fields/);
    expect((await seen((pdf) => void signature(pdf, 'FieldMDP', { Action: 'Include', Fields: [] })))[1]).toBeNull();
    const certified = await seen((pdf) => {
      const value = signature(pdf, 'DocMDP', { P: 2 });
      pdf.catalog.set(PDFName.of('Perms'), pdf.context.obj({ DocMDP: value }));
    });
    expect(certified[0]).toEqual(['signatures', 'certified']);
    expect(certified[1]).toMatch(/certified/);
    const layer = (state: object) => (pdf: PDFDocument) => {
      const group = pdf.context.register(pdf.context.obj({ Type: 'OCG', Name: PDFString.of('Prices') } as never));
      const shown = 'OFF' in state ? { OFF: [group] } : state;
      pdf.catalog.set(PDFName.of('OCProperties'), pdf.context.obj({ OCGs: [group], D: shown } as never));
    };
    expect((await seen(layer({ OFF: [] })))[0]).toEqual(['hidden-layers']);
    expect((await seen(layer({ BaseState: 'OFF' })))[0]).toEqual(['hidden-layers']);
    expect((await seen(layer({ ON: [] })))[0]).toEqual([]);
    const archival = await seen((pdf) => {
      const text = '<x:xmpmeta><rdf:Description pdfaid:part="2" pdfaid:conformance="B"/></x:xmpmeta>';
      pdf.catalog.set(
        PDFName.of('Metadata'),
        pdf.context.register(pdf.context.stream(text, { Type: 'Metadata', Subtype: 'XML' })),
      );
    });
    expect(archival).toEqual([['archival'], null]);
  });

  it('is refused when its content unpacks to hundreds of megabytes, before it has done so', async () => {
    const bomb = deflateSync(Buffer.alloc(400 * 1024 * 1024, ' '));
    const grown = process.memoryUsage().rss;
    const bytes = await changed((pdf) => {
      const stream = PDFRawStream.of(pdf.context.obj({ Length: bomb.length, Filter: 'FlateDecode' }) as PDFDict, bomb);
      pdf.getPage(0).node.set(PDFName.of('Contents'), pdf.context.register(stream));
    });
    expect(['content', 'too-large-inside']).toContain(await taken(bytes));
    expect(process.memoryUsage().rss - grown).toBeLessThan(300 * 1024 * 1024);
  });

  it('that uses one page object twice is taken, says so, and each page is signed for itself', async () => {
    const bytes = Buffer.from(await plain('Twice')).toString('latin1');
    const kids = /\/Kids \[ ?(\d+ 0 R) (\d+ 0 R) ?\]/.exec(bytes);
    if (!kids) throw new Error('no kids');
    const twice = bytes.replace(kids[0], kids[0].replace(kids[2] as string, kids[1] as string));
    const source = written(Buffer.from(twice, 'latin1'));
    const seen = await inspected(source);
    expect(seen).toMatchObject({ ok: true, notices: ['page-twice'] });
    const at = await signed(source, [{ field: field('p', 1, 80, 300), value: { kind: 'typed', text: 'Ada' } }]);
    checked(at);
    const pages = textIn(at).split('\f');
    expect([pages[0]?.includes('Ada'), pages[1]?.includes('Ada')]).toEqual([false, true]);
  });

  it('is measured in its own units and turned as it is shown', async () => {
    const seen = await inspected(
      written(
        await changed((pdf) => {
          pdf.getPage(0).node.set(PDFName.of('UserUnit'), pdf.context.obj(2));
          pdf.getPage(1).setRotation(degrees(90));
        }),
      ),
    );
    expect(seen.ok && seen.pages).toEqual([
      { width: 1190, height: 1684 },
      { width: 842, height: 595 },
    ]);
  });

  it('can be signed whichever way its objects are kept, and by one after another', async () => {
    const pdf = await PDFDocument.load(await samplePdf('Grown', 2));
    for (const useObjectStreams of [true, false]) {
      const source = written(await pdf.save({ useObjectStreams }));
      const people = ['Ada', 'Bo', 'Cy'].map((text, i) => ({
        field: field(`f${i}`, i % 2, 80, 200 + i * 60, { seat: `s${i}` }),
        value: { kind: 'typed', text } as const,
      }));
      const at = await signed(source, people);
      checked(at);
      for (const { value } of people) expect(textIn(at)).toContain(value.text);
      // Whoever has signed cannot be signed for again.
      const fields = people.map((one) => one.field);
      await expect(fill(readFileSync(at), fields, { seat: 's1', values: {} })).rejects.toThrow(/filled already/);
    }
  });

  it('is refused, or made anew, when its table or its pages contradict themselves', async () => {
    const good = (await plain('Table')).toString('latin1');
    const fault = async (text: string) => {
      const seen = await inspected(written(Buffer.from(text, 'latin1')));
      return seen.ok ? 'taken' : seen.fault;
    };
    expect(await fault(good)).toBe('taken');
    for (const [from, to] of [
      ['trailer', 'trailed'],
      ['/Root', '/Toor'],
      ['/Count 2', '/Count 3'],
      ['/Count 2', '/Count x'],
    ] as const)
      expect(await fault(good.replace(from, to)), to).toBe('broken');
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
    const seen = await inspected(one.into);
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
        // What cannot be set is refused before a version is made (letters.test.ts), and never rendered by mistake.
        if (unsetInStory(given.story).length > 0) {
          await expect(renderText(given)).rejects.toThrow(/no font has/);
          return;
        }
        await renderText(given);
        checked(given.into);
        expect(readFileSync(given.into).toString('latin1')).not.toMatch(
          /\/(JavaScript|Launch|OpenAction|EmbeddedFile)\b/,
        );
      }),
      { numRuns: runsOf(10) },
    );
  });
});

describe('a line along the edge of pages', () => {
  const line = 'MR-PRO-014 · revision B';
  const laid = (bytes: Uint8Array, edge: 'top' | 'bottom' = 'bottom') =>
    written(layEdgeLines(bytes, [{ edge, text: line, numbered: true }]));
  /** A page as another program draws it: its size in pixels and its grey values. */
  const drawn = (at: string, page: number) => {
    const pgm = execFileSync('pdftoppm', ['-gray', '-r', '72', '-cropbox', '-f', `${page}`, '-l', `${page}`, at], {
      maxBuffer: 1 << 26,
    });
    const head = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(pgm.subarray(0, 40).toString('latin1'));
    if (!head) throw new Error('no picture');
    return { width: Number(head[1]), height: Number(head[2]), grey: pgm.subarray(head[0].length) };
  };

  it('stands upright within the page, turned and cropped in any way, and moves nothing else', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
        fc.record({
          x: fc.integer({ min: -40, max: 60 }),
          y: fc.integer({ min: -40, max: 60 }),
          width: fc.integer({ min: 250, max: 600 }),
          height: fc.integer({ min: 250, max: 800 }),
        }),
        fc.constantFrom('top' as const, 'bottom' as const),
        async (rotate, box, edge) => {
          const pdf = await PDFDocument.create({ updateMetadata: false });
          const font = await pdf.embedFont(StandardFonts.Helvetica);
          const page = pdf.addPage([700, 900]);
          page.setMediaBox(-50, -50, 800, 1000);
          page.setCropBox(box.x, box.y, box.width, box.height);
          page.setRotation(degrees(rotate));
          // What is drawn leaves the state of the page as it likes: scaled, and in another colour.
          page.drawText('Middle', { x: box.x + box.width / 2 - 20, y: box.y + box.height / 2, size: 12, font });
          const source = written(await pdf.save());
          const size = displayedSize({ ...box, rotate, unit: 1 });
          const at = laid(readFileSync(source), edge);
          checked(at);
          expect(await inspected(at)).toMatchObject({ ok: true, pages: [size], notices: [], noFields: null });
          const words = wordsIn(at, 1).filter((one) => one.word !== 'Middle');
          expect(words.map((one) => one.word).join(' ')).toBe(`${line} · page 1 of 1`);
          for (const word of words) {
            expect(word.xMin).toBeGreaterThan(20);
            expect(word.xMax).toBeLessThan(size.width - 20);
            const middle = (word.yMin + word.yMax) / 2;
            expect(edge === 'top' ? middle : size.height - middle).toBeGreaterThan(8);
            expect(edge === 'top' ? middle : size.height - middle).toBeLessThan(28);
          }
          const [before, after] = [drawn(source, 1), drawn(at, 1)];
          expect([after.width, after.height]).toEqual([before.width, before.height]);
          const rows = (picture: typeof before, from: number, to: number) =>
            Buffer.from(picture.grey.subarray(from * picture.width, to * picture.width));
          const [from, to] = edge === 'top' ? [30, before.height] : [0, before.height - 30];
          expect(rows(after, from, to).equals(rows(before, from, to))).toBe(true);
          const strip = edge === 'top' ? ([0, 30] as const) : ([before.height - 30, before.height] as const);
          expect(rows(after, ...strip).equals(rows(before, ...strip))).toBe(false);
        },
      ),
      { numRuns: runsOf(12) },
    );
  });

  it('begins with the file as it was, is the same when laid again, and finds its place among what pages inherit', async () => {
    for (const bytes of [inherited(0), inherited(90), await plain('Plain'), await changed(() => {})]) {
      const source = Buffer.from(bytes);
      const at = laid(source);
      checked(at);
      const now = readFileSync(at);
      expect(now.subarray(0, source.length).equals(source)).toBe(true);
      expect(readFileSync(laid(source)).equals(now)).toBe(true);
      const pages = textIn(at)
        .split('\f')
        .filter((page) => page.trim());
      pages.forEach((page, i) => {
        expect(page).toContain(`${line} · page ${i + 1} of ${pages.length}`);
      });
    }
  });

  it('numbers a page that stands twice as two, grows a page of other units, and shrinks to a narrow one', async () => {
    const bytes = Buffer.from(await plain('Twice')).toString('latin1');
    const kids = /\/Kids \[ ?(\d+ 0 R) (\d+ 0 R) ?\]/.exec(bytes);
    if (!kids) throw new Error('no kids');
    const twice = bytes.replace(kids[0], kids[0].replace(kids[2] as string, kids[1] as string));
    const at = laid(Buffer.from(twice, 'latin1'));
    checked(at);
    expect(
      textIn(at)
        .split('\f')
        .map((page) => /page \d of \d/.exec(page)?.[0]),
    ).toEqual(['page 1 of 2', 'page 2 of 2', undefined]);
    const narrow = laid(
      await changed((pdf) => {
        pdf.getPage(0).node.set(PDFName.of('UserUnit'), pdf.context.obj(2));
        pdf.getPage(1).setCropBox(0, 0, 120, 300);
      }),
    );
    checked(narrow);
    for (const page of [1, 2]) {
      const seen = wordsIn(narrow, page).filter((one) => one.word === 'MR-PRO-014' || one.word === '2');
      expect(seen.length).toBeGreaterThan(0);
      if (page === 2) for (const word of seen) expect(word.xMax).toBeLessThan(120);
    }
  });

  it('can be laid on what takes fields, which can then be signed; and above what was signed', async () => {
    const at = await signed(laid(await plain('Signed')), [
      { field: field('a', 0, 100, 200), value: { kind: 'typed', text: 'Sanna' } },
    ]);
    checked(at);
    expect(textIn(at)).toContain('Sanna');
    expect(textIn(at)).toContain(`${line} · page 1 of 2`);
    const copy = laid(readFileSync(at), 'top');
    checked(copy);
    expect(
      textIn(copy)
        .split('\f')[0]
        ?.match(/page 1 of 2/g)?.length,
    ).toBe(2);
    expect(textIn(copy)).toContain('Sanna');
  });
});
